//! When somebody should look at a running plate, and what to look for.

use crate::flow::{Plate, Run};

/// Layers after which the first look is worth it, and the seconds of one of them: they hold the
/// print to the plate (common practice, no source: 5 to 10 layers of 30 to 60 s).
const FIRST_LAYERS: f64 = 8.0;
const FIRST_LAYER_S: f64 = 60.0;

/// What to look for next.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Look {
    /// The first layers are done then, ms since 1970.
    FirstLayers(i64),
    /// Resin has to be added by then.
    Refill(i64),
    /// It should end then.
    End(i64),
}

impl Look {
    /// When, ms since 1970.
    #[must_use]
    pub const fn at_ms(self) -> i64 {
        match self {
            Look::FirstLayers(at) | Look::Refill(at) | Look::End(at) => at,
        }
    }
}

/// How long after the start the first layers are done, s: never later than a tenth of a long run
/// or half of a short one.
#[must_use]
pub fn first_layers_s(seconds: f64) -> f64 {
    (FIRST_LAYERS * FIRST_LAYER_S).min(0.5 * seconds)
}

/// Whether a vat that holds so much has to be filled up during a run, and how long after its start
/// at the latest, s. `areas_mm2` are the sections of all that hangs on the plate from its first
/// layer to its last, at equal steps; of the resin a run takes, each layer takes its share by area.
/// A vat is not let fall under `least_ml`.
#[must_use]
pub fn refill_after_s(
    areas_mm2: &[f64],
    seconds: f64,
    takes_ml: f64,
    vat_ml: f64,
    least_ml: f64,
) -> Option<f64> {
    let may = vat_ml - least_ml;
    if may >= takes_ml {
        return None;
    }
    let whole: f64 = areas_mm2.iter().sum();
    if whole <= 0.0 || may <= 0.0 {
        return Some(0.0);
    }
    let mut used = 0.0;
    for (index, area) in areas_mm2.iter().enumerate() {
        let next = used + takes_ml * area / whole;
        if next > may {
            let within = (may - used) / (next - used);
            return Some(seconds * (index as f64 + within) / areas_mm2.len() as f64);
        }
        used = next;
    }
    None
}

/// What to look for at a running plate, in the order of time.
#[must_use]
pub fn looks(plate: &Plate, run: &Run, now_ms: i64) -> Vec<Look> {
    let at = |seconds: f64| run.at_ms(seconds, now_ms);
    let mut all = Vec::new();
    if run.looked_at_ms.is_none() {
        all.push(Look::FirstLayers(at(first_layers_s(plate.seconds))));
    }
    if let Some(seconds) = run.refill_after_s.filter(|_| run.refilled_at_ms.is_none()) {
        all.push(Look::Refill(at(seconds)));
    }
    all.push(Look::End(run.ends_at_ms(plate.seconds, now_ms)));
    all.sort_by_key(|l| l.at_ms());
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// 40 ml over four equal layers of an hour each, worked by hand; with a heavy foot it is sooner.
    #[rstest]
    #[case::enough(&[1.0; 4], 50.0, 5.0, None)]
    #[case::even(&[1.0; 4], 30.0, 0.0, Some(3.0 * 3600.0))]
    #[case::a_rest_stays(&[1.0; 4], 30.0, 10.0, Some(2.0 * 3600.0))]
    #[case::a_heavy_foot(&[5.0, 1.0, 1.0, 1.0], 25.0, 0.0, Some(3600.0))]
    #[case::within_a_layer(&[5.0, 1.0, 1.0, 1.0], 12.5, 0.0, Some(1800.0))]
    #[case::nothing_in_it(&[1.0; 4], 4.0, 5.0, Some(0.0))]
    fn resin_is_added_before_the_vat_runs_dry(
        #[case] areas: &[f64],
        #[case] vat_ml: f64,
        #[case] least_ml: f64,
        #[case] after: Option<f64>,
    ) {
        let found = refill_after_s(areas, 4.0 * 3600.0, 40.0, vat_ml, least_ml);
        match (found, after) {
            (Some(a), Some(b)) => assert!((a - b).abs() < 1e-6, "{a} {b}"),
            (a, b) => assert_eq!(a, b),
        }
    }

    #[test]
    fn the_first_look_is_after_the_first_layers() {
        assert_eq!(first_layers_s(8.0 * 3600.0), 480.0);
        assert_eq!(first_layers_s(600.0), 300.0);
    }
}
