//! A run as the machine tells it: how much is left, and what does not look right.

use super::job::Job;
use super::says::Says;
use crate::workshop::resin::ROOM_C;

/// So much resin has to be expected before its level says anything, ml, and so much of it has to be gone at least.
const TELLING_ML: f64 = 2.0;
const GONE_SHARE: f64 = 0.4;

/// Something that does not look right.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Doubt {
    /// It is cold.
    Cold {
        /// By the machine's word, °C.
        room_c: f64,
    },
    /// Hardly any resin is used: nothing hangs on the plate, or it sticks to the film.
    TakesNone {
        /// What its layers should have taken by now, ml.
        should_ml: f64,
        /// What is gone, ml.
        gone_ml: f64,
    },
    /// The vat will be empty before the end.
    RunsDry {
        /// After so many layers.
        layer: u32,
    },
}

/// A run as it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Live {
    /// Layers done.
    pub layer: u32,
    /// Of so many.
    pub layers: u32,
    /// How much is left while nothing holds it, s.
    pub left_s: f64,
    /// What does not look right.
    pub doubts: Vec<Doubt>,
}

impl Live {
    /// What a machine's word comes to, its speed being that against the clock it is told by. `seconds` is what the whole of it takes by the runs that were timed, and
    /// `began_ml` what the vat held at the start, where nothing was filled up since.
    #[must_use]
    pub fn of(job: &Job, says: &Says, seconds: f64, began_ml: Option<f64>) -> Self {
        let layers = job.layers();
        let layer = says.layer.min(layers);
        let pace = if job.seconds() > 0.0 {
            seconds / job.seconds()
        } else {
            1.0
        };
        let mut doubts = Vec::new();
        if says.room_c < ROOM_C {
            doubts.push(Doubt::Cold {
                room_c: says.room_c,
            });
        }
        let should_ml = job.resin_to(layer);
        let gone_ml = began_ml.map_or(should_ml, |ml| ml - says.resin_ml);
        if should_ml >= TELLING_ML && gone_ml < GONE_SHARE * should_ml {
            doubts.push(Doubt::TakesNone { should_ml, gone_ml });
        } else if let Some(layer) = runs_dry(job, layer, says.resin_ml) {
            doubts.push(Doubt::RunsDry { layer });
        }
        Self {
            layer,
            layers,
            left_s: job.left_s(layer) * pace / says.speed.max(1e-3),
            doubts,
        }
    }
}

/// The last layer there is resin for, where that is not the last of all.
fn runs_dry(job: &Job, from: u32, holds_ml: f64) -> Option<u32> {
    let may = job.resin_to(from) + holds_ml;
    if job.resin_ml <= may + 1e-6 {
        return None;
    }
    // What layers take only grows: the first that takes too much is found by halving.
    let (mut low, mut high) = (from, job.layers());
    while high - low > 1 {
        let mid = low.midpoint(high);
        if job.resin_to(mid) <= may {
            low = mid;
        } else {
            high = mid;
        }
    }
    Some(low)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::link::job::tests::thousand;
    use crate::link::says::MachineState;
    use rstest::rstest;

    fn at(layer: u32, resin_ml: f64, room_c: f64) -> Says {
        Says {
            machine: "heron-1".into(),
            boot: "1".into(),
            jobs: 0,
            state: MachineState::Printing,
            trouble: None,
            job: None,
            layer,
            printed_s: 0.0,
            since_s: 0.0,
            room_c,
            resin_ml,
            travel_mm: 200.0,
            files: Vec::new(),
            speed: 1.0,
        }
    }

    /// 8,400 s are left of a machine that keeps its time; one that takes 5 % more needs as much more for the rest.
    #[rstest]
    #[case(1.0, 8400.0)]
    #[case(1.05, 8820.0)]
    fn the_rest_goes_at_the_pace_of_its_runs(#[case] pace: f64, #[case] left_s: f64) {
        let job = thousand();
        let live = Live::of(&job, &at(100, 100.0, 21.0), job.seconds() * pace, None);
        assert!((live.left_s - left_s).abs() < 1e-6);
        assert_eq!((live.layer, live.layers), (100, 1000));
        // Sixty times as fast as the clock it is told by it takes a sixtieth of that.
        let fast = Says {
            speed: 60.0,
            ..at(100, 100.0, 21.0)
        };
        let live = Live::of(&job, &fast, job.seconds() * pace, None);
        assert!((live.left_s - left_s / 60.0).abs() < 1e-6);
    }

    /// 30 of 40 ml are in the lower half: at layer 250 it has taken 15, and with 20 left lasts until 10 more than the
    /// other 15 of the lower half would be gone.
    #[rstest]
    #[case::as_it_should_be(250, 85.0, 21.0, Some(100.0), &[])]
    #[case::nothing_is_gone(250, 100.0, 21.0, Some(100.0), &[Doubt::TakesNone { should_ml: 15.0, gone_ml: 0.0 }])]
    #[case::too_soon_to_tell(20, 100.0, 21.0, Some(100.0), &[])]
    #[case::it_was_filled_up(250, 100.0, 21.0, None, &[])]
    #[case::cold(250, 85.0, 14.0, Some(100.0), &[Doubt::Cold { room_c: 14.0 }])]
    #[case::runs_dry(250, 20.0, 21.0, Some(35.0), &[Doubt::RunsDry { layer: 750 }])]
    fn what_does_not_look_right_is_said(
        #[case] layer: u32,
        #[case] resin_ml: f64,
        #[case] room_c: f64,
        #[case] began_ml: Option<f64>,
        #[case] doubts: &[Doubt],
    ) {
        let job = thousand();
        let live = Live::of(&job, &at(layer, resin_ml, room_c), job.seconds(), began_ml);
        assert_eq!(live.doubts, doubts);
    }
}
