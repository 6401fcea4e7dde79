//! How large parts may be to share one plate.

use crate::geometry::Outline;
use crate::pack::{BuildArea, Item, PackJob, PackSearch, Slots, Wishes};
use crate::recipe::scale::{AtOne, largest_factor};
use crate::watch::Watch;
use crate::workshop::{BuildVolume, Printer};

/// The largest common factor at which one of each part fits one plate together, to a thousandth;
/// nothing when they do not even at a twentieth.
#[must_use]
pub fn common_factor(
    parts: &[(Outline, f64)],
    build_area: &BuildArea,
    clearance_mm: f64,
    search: PackSearch,
    watch: &dyn Watch,
) -> Option<f64> {
    let room = BuildVolume {
        width_mm: build_area.width_mm - 2.0 * build_area.margin_mm,
        depth_mm: build_area.depth_mm - 2.0 * build_area.margin_mm,
        height_mm: build_area.height_mm,
    };
    let alone = parts.iter().map(|(o, h)| largest_factor(o, *h, &room));
    let most = alone.fold(f64::INFINITY, f64::min);
    let fits = |factor: f64| {
        let items = parts
            .iter()
            .map(|(outline, height)| Item::new(outline.scaled(factor), height * factor, 1));
        let job = PackJob {
            wishes: Wishes::default(),
            build_areas: vec![build_area.clone()],
            clearance_mm,
            items: items.collect(),
        };
        let packed = search.pack(&job, watch);
        packed.is_ok_and(|p| p.plates.len() == 1 && p.left_over.is_empty())
    };
    let (mut low, mut high) = (0.05, most);
    if !most.is_finite() || !fits(low) {
        return None;
    }
    if fits(high) {
        return Some(high);
    }
    while high - low > 0.001 {
        let middle = (low + high) / 2.0;
        if fits(middle) {
            low = middle
        } else {
            high = middle
        }
    }
    Some(low)
}

/// The largest common factor at which one of each part fits one plate of a printer together.
#[must_use]
pub fn common_factor_on(
    parts: &[AtOne],
    printer: &Printer,
    clearance_mm: f64,
    watch: &dyn Watch,
) -> Option<f64> {
    let lift_mm = parts.iter().map(|p| p.lift_mm).fold(0.0, f64::max);
    let area = BuildArea {
        width_mm: printer.width_mm,
        depth_mm: printer.depth_mm,
        height_mm: printer.build_volume().above(lift_mm).height_mm,
        margin_mm: printer.margin_mm,
        part_pull: None,
        plate_pull: None,
        busy_s: 0.0,
        constant_s: 0.0,
        per_mm_s: 1.0,
        low: Vec::new(),
        slots: Slots::default(),
    };
    let shapes: Vec<(Outline, f64)> = parts
        .iter()
        .map(|p| (p.outline.clone(), p.height_mm))
        .collect();
    common_factor(&shapes, &area, clearance_mm, PackSearch::AT_ONCE, watch)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pack::PackSearch;
    use crate::watch::Unwatched;

    #[test]
    fn a_set_fits_one_plate_at_its_common_factor_and_not_much_above() {
        let build_area = BuildArea {
            width_mm: 110.0,
            depth_mm: 60.0,
            height_mm: 100.0,
            margin_mm: 5.0,
            part_pull: None,
            plate_pull: None,
            busy_s: 0.0,
            constant_s: 0.0,
            per_mm_s: 1.0,
            low: Vec::new(),
            slots: Slots::default(),
        };
        // Two squares side by side on 100 × 50: each 49.5 wide with 1 mm between.
        let parts = vec![(Outline::rectangle(10.0, 10.0), 5.0); 2];
        let factor = common_factor(&parts, &build_area, 1.0, PackSearch::AT_ONCE, &Unwatched)
            .expect("it fits");
        assert!(factor <= 4.951 && factor > 4.5, "{factor}");
    }
}
