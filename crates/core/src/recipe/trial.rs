//! Trials: variants of one recipe on small plates, judged side by side.

use crate::ids::{PrinterId, ResinId};
use crate::units::LayerHeight;
use crate::words::words;

words! {
    /// Where a trial stands.
    TrialState, "state of a trial" {
        /// Variants are being put together.
        Open = "open",
        /// Its plates are planned: print and judge them.
        Planned = "planned",
        /// A winner is declared.
        Decided = "decided",
        /// Given up.
        Dropped = "dropped",
    }
}

/// What makers look at, until they say otherwise: common practice, no source.
pub const CRITERIA: [&str; 6] = [
    "marks on the face",
    "layer lines",
    "detail",
    "joint moves",
    "does not snap",
    "files cleanly",
];

/// Grades run from 1, spoilt, to 5, as good as can be.
pub const BEST_GRADE: i64 = 5;

/// What decides the plate a variant is printed on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OnPlate {
    /// The printer.
    pub printer: PrinterId,
    /// The resin.
    pub resin: ResinId,
    /// Layer height.
    pub layer: LayerHeight,
    /// Exposure where the variant sets its own, s.
    pub exposure_s: Option<f64>,
}

/// Variants that can share a plate, by index: printer, resin, layer height and exposure are one
/// to a plate, so a trial of one of these takes a plate for each value.
#[must_use]
pub fn plates(variants: &[OnPlate]) -> Vec<Vec<usize>> {
    let mut plates: Vec<Vec<usize>> = Vec::new();
    for (index, variant) in variants.iter().enumerate() {
        match plates.iter_mut().find(|p| variants[p[0]] == *variant) {
            Some(plate) => plate.push(index),
            None => plates.push(vec![index]),
        }
    }
    plates
}

/// Order of the variants, the best first, with their mean grade. Variants without a grade come
/// last; among equals the first keeps its place.
#[must_use]
pub fn ranked(grades: &[Vec<i64>]) -> Vec<(usize, Option<f64>)> {
    let mean =
        |m: &Vec<i64>| (!m.is_empty()).then(|| m.iter().sum::<i64>() as f64 / m.len() as f64);
    let mut order: Vec<(usize, Option<f64>)> = grades
        .iter()
        .enumerate()
        .map(|(i, m)| (i, mean(m)))
        .collect();
    order.sort_by(|a, b| b.1.unwrap_or(0.0).total_cmp(&a.1.unwrap_or(0.0)));
    order
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn on(printer: i64, resin: i64, layer_mm: f64, exposure_s: Option<f64>) -> OnPlate {
        OnPlate {
            printer: PrinterId(printer),
            resin: ResinId(resin),
            layer: LayerHeight::from_mm(layer_mm).expect("a layer height"),
            exposure_s,
        }
    }

    #[rstest]
    #[case::orientations_share_one(vec![on(1, 1, 0.05, None); 4], vec![vec![0, 1, 2, 3]])]
    #[case::exposures_take_one_each(vec![on(1, 1, 0.05, Some(1.5)), on(1, 1, 0.05, Some(1.7)), on(1, 1, 0.05, Some(1.5))], vec![vec![0, 2], vec![1]])]
    #[case::layers_resins_printers(vec![on(1, 1, 0.05, None), on(1, 1, 0.03, None), on(1, 2, 0.05, None), on(2, 1, 0.05, None)], vec![vec![0], vec![1], vec![2], vec![3]])]
    fn one_value_to_a_plate(#[case] variants: Vec<OnPlate>, #[case] expected: Vec<Vec<usize>>) {
        assert_eq!(plates(&variants), expected);
    }

    #[test]
    fn the_best_graded_comes_first_and_the_ungraded_last() {
        let order = ranked(&[vec![3, 4], vec![], vec![5, 5], vec![4, 3]]);
        let names: Vec<usize> = order.iter().map(|o| o.0).collect();
        assert_eq!(names, [2, 0, 3, 1]);
        assert_eq!(order[0].1, Some(5.0));
    }
}
