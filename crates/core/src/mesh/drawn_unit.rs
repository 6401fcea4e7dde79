//! In which unit a file was drawn that does not say so: guessed from its size, and asked.

use serde::de::Error as _;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// A unit that files are drawn in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DrawnUnit {
    /// Its name, in the plural.
    pub name: &'static str,
    /// Millimetres in one of it.
    pub mm: f64,
    /// How much less often it is met than metres, centimetres and inches are: a distance in the
    /// logarithm of the size (judgement, no source).
    rare: f64,
}

impl DrawnUnit {
    /// What files are taken for that say nothing.
    pub const MILLIMETRES: Self = Self::of("millimetres", 1.0, 0.0);

    /// Every unit, the usual first.
    pub const ALL: [Self; 6] = [
        Self::MILLIMETRES,
        Self::of("centimetres", 10.0, 0.0),
        Self::of("inches", 25.4, 0.0),
        Self::of("metres", 1000.0, 0.0),
        Self::of("feet", 304.8, 1.0),
        Self::of("microns", 0.001, 0.0),
    ];

    const fn of(name: &'static str, mm: f64, rare: f64) -> Self {
        Self { name, mm, rare }
    }

    /// The unit with so many millimetres.
    #[must_use]
    pub fn of_mm(mm: f64) -> Option<Self> {
        Self::ALL.into_iter().find(|u| u.mm == mm)
    }
}

// A unit is told by its millimetres.
impl Serialize for DrawnUnit {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.serialize_f64(self.mm)
    }
}

impl<'de> Deserialize<'de> for DrawnUnit {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let mm = f64::deserialize(from)?;
        Self::of_mm(mm).ok_or_else(|| D::Error::custom(format!("no unit has {mm} mm")))
    }
}

/// Longest sides of miniatures and their parts that need no question, and of what a build plate
/// can hold, mm: common practice, no source.
const USUAL_MM: std::ops::RangeInclusive<f64> = 6.0..=250.0;
/// Of parts, in any unit that is guessed, mm.
const LIKELY_MM: std::ops::RangeInclusive<f64> = 8.0..=300.0;
/// The middling figure, mm.
const MIDDLING_MM: f64 = 40.0;

/// What is asked of a file whose size makes little sense in millimetres.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct UnitDoubt {
    /// Units in which its size makes sense, the likeliest first; none where no unit does.
    pub likely: Vec<DrawnUnit>,
}

impl UnitDoubt {
    /// The unit that is asked for first: millimetres once more where no other makes sense.
    #[must_use]
    pub fn first(&self) -> DrawnUnit {
        self.likely
            .first()
            .copied()
            .unwrap_or(DrawnUnit::MILLIMETRES)
    }
}

/// Guesses the unit of a file without one from its longest side; nothing for sizes that make
/// sense in mm. Only a guess: the maker is asked.
#[must_use]
pub fn guess_unit(longest: f64) -> Option<UnitDoubt> {
    if longest <= 0.0 || USUAL_MM.contains(&longest) {
        return None;
    }
    let far = |u: &DrawnUnit| (longest * u.mm / MIDDLING_MM).ln().abs() + u.rare;
    let mut likely: Vec<DrawnUnit> = DrawnUnit::ALL
        .into_iter()
        .filter(|u| u.mm != 1.0 && LIKELY_MM.contains(&(longest * u.mm)))
        .collect();
    likely.sort_by(|a, b| far(a).total_cmp(&far(b)));
    Some(UnitDoubt { likely })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// The same figure, 32 mm tall, as it is drawn in every unit; and sizes nothing explains.
    #[rstest]
    #[case::in_mm(32.0, None)]
    #[case::in_metres(0.032, Some("metres"))]
    #[case::in_centimetres(3.2, Some("centimetres"))]
    #[case::in_inches(1.26, Some("inches"))]
    #[case::in_microns(32_000.0, Some("microns"))]
    #[case::a_small_bit_in_mm(7.0, None)]
    #[case::the_longest_of_a_plate(240.0, None)]
    #[case::as_large_as_a_person(1800.0, Some("millimetres"))]
    #[case::nothing(0.0, None)]
    #[case::a_grain(1e-7, Some("millimetres"))]
    fn units_are_guessed_from_the_size(#[case] longest: f64, #[case] first: Option<&str>) {
        assert_eq!(guess_unit(longest).map(|d| d.first().name), first);
    }

    /// 0.1 may be a tall figure in metres or a small one in feet: both are offered.
    #[test]
    fn what_may_be_several_units_offers_them_all() {
        let offered = |longest| -> Vec<&str> {
            let doubt = guess_unit(longest).expect("too small for mm");
            doubt.likely.iter().map(|u| u.name).collect()
        };
        assert_eq!(offered(0.1), ["metres", "feet"]);
        assert_eq!(offered(2.0), ["inches", "centimetres"]);
    }
}
