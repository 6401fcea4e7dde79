//! Prints on a scale: what they should weigh, and what it means where they do not.

use crate::ids::PartId;
use crate::learn::liquid_inside_ml;
use crate::words::words;
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::{Body, drained_ml};

words! {
    /// How far a print was finished when it was put on the scale.
    OnScale, "state on the scale" {
        /// It has dripped off, the film of resin is on it still.
        Dripped = "dripped off",
        /// It is washed and dry, its supports are on it.
        Washed = "washed, with supports",
        /// Its supports are off.
        Bare = "supports off",
    }
}

/// What prints should weigh by their measured volumes, g, before anything was learned from a scale, and
/// without liquid in their hollows.
#[must_use]
pub fn reckoned_g(body: &Body, state: OnScale, resin: &ResinFacts) -> f64 {
    let cured = |mm3: f64| mm3 / 1000.0 * resin.cured_g_per_ml;
    match state {
        OnScale::Dripped => {
            cured(body.volume_mm3()) + drained_ml(body, resin) * resin.density_g_per_ml
        }
        OnScale::Washed => cured(body.volume_mm3()),
        OnScale::Bare => cured(body.part_mm3),
    }
}

/// A part on a plate, as it is weighed.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighedPart {
    /// Which one.
    pub part: PartId,
    /// Its name, with that of its model.
    pub name: String,
    /// Copies on the plate.
    pub copies: u64,
    /// What is printed of one.
    pub body: Body,
    /// What the hollows in one hold, ml.
    pub hollow_ml: f64,
}

/// What stands on a plate, by part; of all that is asked for copies of one part, or for everything.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WeighedPlate(pub Vec<WeighedPart>);

impl WeighedPlate {
    /// Parts with how many copies of each: so many of one, or all of all.
    fn of(&self, part: Option<PartId>, copies: u64) -> impl Iterator<Item = (&WeighedPart, u64)> {
        let parts = self.0.iter();
        let those = parts.filter(move |p| part.is_none_or(|id| p.part == id));
        those.map(move |p| (p, if part.is_some() { copies } else { p.copies }))
    }

    /// Copies of a part, or of all.
    #[must_use]
    pub fn copies(&self, part: Option<PartId>) -> u64 {
        self.of(part, 0).map(|(p, _)| p.copies).sum()
    }

    /// What is printed of so many copies of a part, or of everything; nothing of a part that is not there.
    #[must_use]
    pub fn body(&self, part: Option<PartId>, copies: u64) -> Option<Body> {
        let of = self.of(part, copies).map(|(p, many)| p.body.times(many));
        let bodies: Vec<Body> = of.collect();
        (!bodies.is_empty()).then(|| Body::sum(&bodies))
    }

    /// What the hollows in so many copies of a part hold, or in everything, ml.
    #[must_use]
    pub fn hollow_ml(&self, part: Option<PartId>, copies: u64) -> f64 {
        let of = self.of(part, copies);
        of.map(|(p, many)| p.hollow_ml * many as f64).sum()
    }
}

/// What a weight says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum WeightSays {
    /// It differs no more than prints do.
    AsExpected,
    /// It is heavier by more than that, and hollow: so much liquid seems to be inside, ml, as far as it goes in.
    Liquid(f64),
    /// It is lighter or heavier by more than three times what prints differ by: look at grams, copies, supports
    /// and unit again, before anything is learned from it. So many times what was expected.
    Far(f64),
}

/// Hollows are measured on cubes: they may hold so much more.
const ROOM: f64 = 1.15;
/// So many times the spread is no print of this kind.
const FAR: f64 = 3.0;

/// What a weight says of prints that were reckoned at so much, with hollows of so many ml in them.
#[must_use]
pub fn judge_weight(
    reckoned_g: f64,
    weighed_g: f64,
    hollow_ml: f64,
    resin: &ResinFacts,
) -> WeightSays {
    let factor = resin.weighed;
    let expected = reckoned_g * factor.times;
    let density = resin.density_g_per_ml;
    let liquid = liquid_inside_ml(expected, factor.spread, weighed_g, density);
    let times = weighed_g / expected.max(f64::EPSILON);
    match liquid.filter(|ml| *ml <= hollow_ml * ROOM) {
        Some(ml) => WeightSays::Liquid(ml),
        // The first of a resin teaches; only what cannot be it is told.
        None if (times - 1.0).abs() > FAR * factor.spread.max(0.05) => WeightSays::Far(times),
        None => WeightSays::AsExpected,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::WeightFactor;
    use rstest::rstest;

    fn resin() -> ResinFacts {
        ResinFacts {
            density_g_per_ml: 1.1,
            cured_g_per_ml: 1.2,
            film_mm: 0.05,
            ..ResinFacts::ASSUMED
        }
    }

    /// By hand: 12 ml of 1.2 are 14.4 g, the part alone 12; 40 cm² under 0.05 mm are 0.2 ml or 0.22 g.
    #[rstest]
    #[case(OnScale::Dripped, 14.62)]
    #[case(OnScale::Washed, 14.4)]
    #[case(OnScale::Bare, 12.0)]
    fn what_is_on_the_scale_weighs_that(#[case] state: OnScale, #[case] grams: f64) {
        let body = Body {
            part_mm3: 10_000.0,
            support_mm3: 2_000.0,
            surface_mm2: 4_000.0,
            // Liquid in hollows is what the scale is to find.
            inside_mm3: 900.0,
        };
        assert!((reckoned_g(&body, state, &resin()) - grams).abs() < 1e-9);
    }

    /// 21.7 g with a spread of 3 % are at most 22.77 at 95 of a hundred; (24.9 − 21.7) / 1.1 = 2.9 ml.
    #[rstest]
    #[case::silent(22.6, 5.0, 1.0, WeightSays::AsExpected)]
    #[case::not_hollow(24.9, 0.0, 1.0, WeightSays::AsExpected)]
    #[case::known_heavy(24.9, 5.0, 1.15, WeightSays::AsExpected)]
    #[case::twice(43.4, 0.0, 1.0, WeightSays::Far(2.0))]
    #[case::more_than_goes_in(43.4, 5.0, 1.0, WeightSays::Far(2.0))]
    fn a_weight_says(
        #[case] weighed: f64,
        #[case] hollow_ml: f64,
        #[case] times: f64,
        #[case] says: WeightSays,
    ) {
        let resin = ResinFacts {
            weighed: WeightFactor {
                times,
                ..WeightFactor::AS_RECKONED
            },
            ..resin()
        };
        assert_eq!(judge_weight(21.7, weighed, hollow_ml, &resin), says);
    }

    /// Two of one part, or all three of both.
    #[test]
    fn copies_of_a_part_or_everything() {
        let part = |part, copies, part_mm3, hollow_ml| WeighedPart {
            part: PartId(part),
            name: String::new(),
            copies,
            body: Body {
                part_mm3,
                ..Body::default()
            },
            hollow_ml,
        };
        let plate = WeighedPlate(vec![part(1, 2, 100.0, 0.5), part(2, 1, 1000.0, 0.0)]);
        let told = |part: Option<i64>, copies| {
            let part = part.map(PartId);
            let body = plate.body(part, copies).map(|b| b.part_mm3);
            (plate.copies(part), body, plate.hollow_ml(part, copies))
        };
        assert_eq!(told(Some(1), 2), (2, Some(200.0), 1.0));
        assert_eq!(told(None, 1), (3, Some(1200.0), 1.0));
        assert_eq!(told(Some(9), 1), (0, None, 0.0));
    }

    #[test]
    fn a_hollow_that_is_too_heavy_holds_liquid() {
        let WeightSays::Liquid(ml) = judge_weight(21.7, 24.9, 5.0, &resin()) else {
            panic!("it holds liquid");
        };
        assert!((ml - 2.909).abs() < 1e-3, "{ml}");
    }
}
