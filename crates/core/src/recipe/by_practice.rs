//! How a part is set up before anybody has looked at it: as the maker's practice says.

use super::setup::Setup;
use super::supports::{SupportStyle, Supports};
use crate::pose::{BACK_DEG, Pose};
use crate::sculpt::{LayerFacts, Sculpt, SculptFacts, brings_supports};
use crate::workshop::practice::Practice;

/// What the practice says of a part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Proposed {
    /// How it is held.
    pub setup: Setup,
    /// Why, in words.
    pub why: &'static str,
}

/// What decides it: how a sculpt stands as its file has it.
///
/// # Units
/// mm².
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AsItStands {
    /// The file brings its supports.
    pub supported: bool,
    /// What it stands on.
    pub ground_mm2: f64,
    /// Its largest section.
    pub largest_mm2: f64,
    /// Regions that start in mid-air.
    pub islands: usize,
    /// What hangs over.
    pub overhang_mm2: f64,
    /// All of its surface.
    pub surface_mm2: f64,
}

impl AsItStands {
    /// Of what was measured; the layers are those of the file as it stands.
    #[must_use]
    pub fn of(sculpt: &Sculpt, facts: &SculptFacts, layers: &LayerFacts) -> Self {
        Self {
            supported: brings_supports(sculpt, Some(layers)).is_some(),
            ground_mm2: layers.area_curve.first().copied().unwrap_or(0.0),
            largest_mm2: layers.largest_section_mm2,
            islands: layers.islands.len(),
            overhang_mm2: layers.overhang_mm2,
            surface_mm2: facts.surface_mm2,
        }
    }
}

/// How far figures of the upright school lean back: enough that soles do not lie flat. Common
/// practice, no source: 5 to 10°.
const UPRIGHT_DEG: f64 = 7.5;
/// How far those of the tilted school do: the gentler end of 30 to 45°.
const TILTED_DEG: f64 = 30.0;
/// Share of its largest section on which a part stands flat.
const FLAT: f64 = 0.4;
/// Share of its surface that may hang over where it stands flat.
const HANGING: f64 = 0.02;
/// What hangs over by less is nothing, mm².
const SOME_MM2: f64 = 5.0;

/// What the practice says of a sculpt; nothing for makers who look at every file.
#[must_use]
pub fn by_practice(practice: &Practice, of: &AsItStands) -> Option<Proposed> {
    let planned = |degrees: f64| Setup {
        pose: Pose::new(degrees, BACK_DEG),
        supports: Supports::Planned(SupportStyle::USUAL),
    };
    let flat = of.ground_mm2 >= FLAT * of.largest_mm2
        && of.islands == 0
        && of.overhang_mm2 <= HANGING * of.surface_mm2;
    let (setup, why) = if of.supported {
        (Setup::IN_FILE, "its file brings supports")
    } else if flat && of.overhang_mm2 >= SOME_MM2 {
        (Setup::PLAIN, "it stands flat, and little hangs over")
    } else if flat {
        (Setup::PLAIN, "it stands flat, and nothing hangs over")
    } else if practice.hangs_upright() {
        (planned(UPRIGHT_DEG), "upright, your practice")
    } else if practice.hangs_tilted() {
        (planned(TILTED_DEG), "tilted, your practice")
    } else {
        return None;
    };
    Some(Proposed { setup, why })
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use super::*;
    use crate::workshop::practice::Question;
    use rstest::rstest;

    const FIGURE: AsItStands = AsItStands {
        supported: false,
        ground_mm2: 40.0,
        largest_mm2: 180.0,
        islands: 2,
        overhang_mm2: 60.0,
        surface_mm2: 1_500.0,
    };
    const BASE: AsItStands = AsItStands {
        ground_mm2: 490.0,
        largest_mm2: 490.0,
        islands: 0,
        overhang_mm2: 1.0,
        ..FIGURE
    };

    /// A dome of 9,800 mm² of surface, of which 190 mm² hang over: little, and not nothing.
    #[rstest]
    #[case(1.0, "it stands flat, and nothing hangs over")]
    #[case(190.0, "it stands flat, and little hangs over")]
    fn what_hangs_over_is_not_denied(#[case] overhang_mm2: f64, #[case] why: &str) {
        let dome = AsItStands {
            overhang_mm2,
            surface_mm2: 9_800.0,
            ..BASE
        };
        let practice = Practice::of(&BTreeMap::new(), &BTreeMap::new());
        assert_eq!(by_practice(&practice, &dome).map(|p| p.why), Some(why));
    }

    #[rstest]
    #[case::upright("upright", FIGURE, Some("tilt 7.5 toward 90, planned 0.5 3 5"))]
    #[case::tilted("tilted 30 to 45°", FIGURE, Some("tilt 30 toward 90, planned 0.5 3 5"))]
    #[case::every_file("as each file asks", FIGURE, None)]
    #[case::a_base("tilted 30 to 45°", BASE, Some("as imported, none"))]
    #[case::a_base_for_anybody("as each file asks", BASE, Some("as imported, none"))]
    #[case::over_a_foot("upright", AsItStands { overhang_mm2: 90.0, ..BASE }, Some("tilt 7.5 toward 90, planned 0.5 3 5"))]
    #[case::its_own("upright", AsItStands { supported: true, ..FIGURE }, Some("as imported, in the file"))]
    fn the_practice_and_how_it_stands_decide(
        #[case] school: &str,
        #[case] of: AsItStands,
        #[case] says: Option<&str>,
    ) {
        let answers = BTreeMap::from([(Question::Tilt, school.to_owned())]);
        let practice = Practice::of(&answers, &BTreeMap::new());
        let proposed = by_practice(&practice, &of);
        let words = proposed.map(|p| format!("{}, {}", p.setup.pose, p.setup.supports));
        assert_eq!(words.as_deref(), says);
    }
}
