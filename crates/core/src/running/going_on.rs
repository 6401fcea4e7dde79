//! When something goes wrong during a run: is it worth to go on?
//!
//! Stopping costs the remake of every copy. Going on costs what the rest of the run takes, and then
//! the remake of what is lost already where it ends well, or the remake of everything and a film
//! and a vat where it does not. Decision by expected cost, as in any textbook of decision analysis.

use crate::cost_parts::CostKind;
use crate::flow::Plate;
use crate::units::Money;

/// What is weighed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Weighing {
    /// What it costs to make all copies of the plate again.
    pub remake_all: Money,
    /// What the rest of the run takes: resin and hands.
    pub rest: Money,
    /// What it costs to make again what is lost already.
    pub remake_lost: Money,
    /// Film and vat where it ends badly.
    pub damage: Money,
}

/// A run in trouble: what of it is left, and what is weighed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Trouble {
    /// Still to print, s.
    pub left_s: f64,
    /// Resin that takes, ml.
    pub left_ml: f64,
    /// What the copies that are good so far cost to make.
    pub still_good: Money,
    /// Going on against stopping.
    pub weighing: Weighing,
}

/// Weighs a run that has so long to go, s, and of which some of the copies are lost already; `damage` is a film and a
/// vat. What of
/// the resin is still to be cured goes by the time that is left, hands were spent at the start.
#[must_use]
pub fn trouble(plate: &Plate, left_s: f64, (lost, copies): (u64, u64), damage: Money) -> Trouble {
    let share_left = (left_s / plate.seconds.max(1.0)).clamp(0.0, 1.0);
    let lost_share = lost.min(copies) as f64 / copies.max(1) as f64;
    let part = |whole: Money, share: f64| Money::from_minor_f64(whole.0 as f64 * share);
    Trouble {
        left_s,
        left_ml: plate.resin_ml * share_left,
        still_good: part(plate.cost(), 1.0 - lost_share),
        weighing: Weighing {
            remake_all: plate.cost(),
            rest: part(plate.costs.get(CostKind::Resin), share_left),
            remake_lost: part(plate.cost(), lost_share),
            damage,
        },
    }
}

impl Weighing {
    /// What going on costs where so many in a hundred such runs end badly, minor units.
    #[must_use]
    pub fn going_on_minor(&self, bad: f64) -> f64 {
        let well = (self.rest + self.remake_lost).0 as f64;
        let badly = (self.rest + self.remake_all + self.damage).0 as f64;
        well + bad * (badly - well)
    }

    /// Going on pays while the chance of a bad end is under this, from 0 to 1.
    #[must_use]
    pub fn pays_under(&self) -> f64 {
        let (well, badly) = (self.going_on_minor(0.0), self.going_on_minor(1.0));
        let stop = self.remake_all.0 as f64;
        if badly <= well {
            return if well <= stop { 1.0 } else { 0.0 };
        }
        ((stop - well) / (badly - well)).clamp(0.0, 1.0)
    }
}

/// The chance that a run which somebody went on with ends badly, from those logged: one is counted
/// on each side beforehand, so that few of them do not say never or always (Laplace's rule of
/// succession).
#[must_use]
pub fn chance_bad(ended_badly: u64, went_on: u64) -> f64 {
    (ended_badly as f64 + 1.0) / (went_on as f64 + 2.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cost_parts::CostParts;
    use crate::flow::Run;
    use crate::flow::samples::plate;
    use crate::ids::RunId;

    /// Worked by hand: stopping 18.00; going on 3.30 where it ends well, 33.77 where not;
    /// (18.00 − 3.30) ÷ (33.77 − 3.30) = 48.2 %.
    #[test]
    fn going_on_pays_under_a_chance() {
        let w = Weighing {
            remake_all: Money(1800),
            rest: Money(210),
            remake_lost: Money(120),
            damage: Money(1367),
        };
        assert_eq!(w.going_on_minor(0.0), 330.0);
        assert_eq!(w.going_on_minor(1.0), 3377.0);
        assert!((w.pays_under() - 0.482).abs() < 5e-4, "{}", w.pays_under());
        // At that chance both cost the same.
        assert!((w.going_on_minor(w.pays_under()) - 1800.0).abs() < 1e-6);
    }

    /// With everything lost already there is nothing to win; with nothing to fear one goes on.
    #[test]
    fn the_ends_of_the_scale() {
        let w = |remake_lost, damage| Weighing {
            remake_all: Money(1000),
            rest: Money(50),
            remake_lost: Money(remake_lost),
            damage: Money(damage),
        };
        assert_eq!(w(1000, 500).pays_under(), 0.0);
        assert!(w(0, 0).pays_under() > 0.94);
        assert!(w(0, 3000).pays_under() < w(0, 300).pays_under());
    }

    /// Ten copies for 20.00, 12.00 of it resin, eight hours; after six of them, and one of which the
    /// printer was held, two are lost: worked by hand, a quarter of the time is left.
    #[test]
    fn a_run_in_trouble_is_weighed_by_what_is_left_of_it() {
        let hour = 3_600_000;
        let plate = Plate {
            resin_ml: 40.0,
            costs: CostParts::of(CostKind::Resin, Money(1200)).with(CostKind::Hands, Money(800)),
            ..plate(1, 8.0)
        };
        let run = Run {
            paused_ms: hour,
            ..Run::begun(RunId(1), plate.id, 0)
        };
        let found = trouble(
            &plate,
            run.left_s(plate.seconds, 7 * hour),
            (2, 10),
            Money(500),
        );
        assert_eq!((found.left_s, found.left_ml), (7200.0, 10.0));
        assert_eq!(found.still_good, Money(1600));
        let weighed = Weighing {
            remake_all: Money(2000),
            rest: Money(300),
            remake_lost: Money(400),
            damage: Money(500),
        };
        assert_eq!(found.weighing, weighed);
    }

    #[test]
    fn few_runs_do_not_say_never() {
        assert_eq!(chance_bad(0, 0), 0.5);
        assert_eq!(chance_bad(1, 4), 2.0 / 6.0);
        assert!(chance_bad(0, 3) > 0.0);
    }
}
