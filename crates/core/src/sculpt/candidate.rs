//! Figures by which candidate sculpts for one part are compared.

use crate::units::Money;

/// Mean edge of the triangles of a mesh, were they all equilateral and alike, at print scale.
///
/// # Units
/// mm² and mm.
#[must_use]
pub fn facet_mm(surface_mm2: f64, triangles: u64, scale: f64) -> f64 {
    if triangles == 0 {
        return 0.0;
    }
    (surface_mm2 / triangles as f64 * 4.0 / 3f64.sqrt()).sqrt() * scale
}

/// How facets show on a printer of this pixel: flat faces twenty times a pixel long are seen,
/// five times hardly (common practice, no source).
#[must_use]
pub fn facet_words(facet_mm: f64, pixel_mm: f64) -> &'static str {
    match facet_mm / pixel_mm.max(1e-9) {
        r if r > 20.0 => "facets will show",
        r if r > 5.0 => "facets may show",
        _ => "smooth",
    }
}

/// What a file costs for each copy made from it.
#[must_use]
pub fn price_per_copy(price: Money, copies: u64) -> Option<Money> {
    (copies > 0).then(|| Money::from_minor_f64(price.0 as f64 / copies as f64))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// By hand: an equilateral triangle of edge 2 mm has √3 mm².
    #[rstest]
    #[case(3f64.sqrt() * 8.0, 8, 1.0, 2.0)]
    #[case(3f64.sqrt() * 8.0, 8, 0.5, 1.0)]
    #[case(10.0, 0, 1.0, 0.0)]
    fn facets_have_the_edge_of_an_equilateral_triangle(
        #[case] surface: f64,
        #[case] triangles: u64,
        #[case] scale: f64,
        #[case] edge: f64,
    ) {
        assert!((facet_mm(surface, triangles, scale) - edge).abs() < 1e-9);
    }

    #[rstest]
    #[case(1.0, "facets will show")]
    #[case(0.4, "facets may show")]
    #[case(0.1, "smooth")]
    fn facets_are_judged_against_the_pixel(#[case] facet: f64, #[case] says: &str) {
        assert_eq!(facet_words(facet, 0.035), says);
    }

    #[test]
    fn a_price_is_spread_over_the_copies() {
        assert_eq!(price_per_copy(Money(600), 12), Some(Money(50)));
        assert_eq!(price_per_copy(Money(600), 0), None);
    }
}
