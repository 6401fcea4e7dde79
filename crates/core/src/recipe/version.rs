//! What a recipe says, how far it is proven, and which kind of resin suits.

use crate::pose::Pose;
use crate::recipe::supports::Supports;
use crate::units::LayerHeight;
use crate::words::words;
use crate::workshop::resin::Nature;

words! {
    /// How far a version of a recipe is proven on a process setting.
    Proof, "proof of a recipe" {
        /// Nobody has printed it.
        Untried = "untried",
        /// A trial of it is under way, or it won one and waits for its confirmation.
        OnTrial = "on trial",
        /// A copy of it came out good.
        Proven = "proven",
    }
}

impl Proof {
    /// A version is proven on a process setting once a copy of it came out good there.
    #[must_use]
    pub const fn of(good_copies: u64, in_trial: bool) -> Self {
        match (good_copies, in_trial) {
            (0, false) => Proof::Untried,
            (0, true) => Proof::OnTrial,
            _ => Proof::Proven,
        }
    }
}

/// What a version of a recipe says, but for the names of things.
#[derive(Debug, Clone, PartialEq)]
pub struct Recipe {
    /// Factor on the size of the file.
    pub scale: f64,
    /// How it hangs.
    pub pose: Pose,
    /// Where its supports come from.
    pub supports: Supports,
    /// Name of its resin.
    pub resin: String,
    /// Layer height.
    pub layer: LayerHeight,
}

/// What one version says differently from another, in words; empty when nothing.
#[must_use]
pub fn what_changed(from: &Recipe, to: &Recipe) -> String {
    let mut said = Vec::new();
    if from.scale != to.scale {
        let percent = |s: f64| format!("{:.1}", s * 100.0);
        said.push(format!(
            "scale {} → {} %",
            percent(from.scale),
            percent(to.scale)
        ));
    }
    if from.pose != to.pose {
        said.push(format!("hangs {} → {}", from.pose.words(), to.pose.words()));
    }
    if from.supports != to.supports {
        said.push(format!(
            "{} → {}",
            from.supports.words(),
            to.supports.words()
        ));
    }
    if from.resin != to.resin {
        said.push(format!("resin {} → {}", from.resin, to.resin));
    }
    if from.layer != to.layer {
        said.push(format!("layer {} → {} mm", from.layer, to.layer));
    }
    said.join(", ")
}

/// What a part is like, for the choice of its resin.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Character {
    /// Its thinnest lasting width at print scale, mm.
    pub thinnest_mm: Option<f64>,
    /// It has joints that must move.
    pub joints: bool,
    /// It will be sanded, filed or drilled.
    pub sanded: bool,
}

/// Thinner than this a blade or pole snaps in a rigid resin now and then: common practice, no
/// source.
pub const BLADE_MM: f64 = 1.2;

/// Which kind of resin suits, with the reason: common practice, no source.
#[must_use]
pub fn suits(part: &Character, nature: Nature) -> Vec<String> {
    let mut said = Vec::new();
    if let Some(thin) = part.thinnest_mm.filter(|t| *t < BLADE_MM)
        && nature == Nature::Rigid
    {
        said.push(format!(
            "It is {thin:.2} mm at its thinnest: a tough resin, or some of it blended in, bends where this one snaps."
        ));
    }
    if part.sanded && nature != Nature::Tough {
        said.push(
            "It will be sanded or filed: take a resin that is not brittle; chips and dust are harmful, so mask and wet paper."
                .into(),
        );
    }
    if part.sanded && nature == Nature::Soft {
        said.push("Soft resin does not sand: it tears.".into());
    }
    if part.joints {
        said.push(
            "It has joints: the least over-exposure counts most, so choose the setting by a trial of exposures."
                .into(),
        );
    }
    said
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn recipe() -> Recipe {
        Recipe {
            scale: 1.0,
            pose: Pose::AS_IMPORTED,
            supports: Supports::None,
            resin: "Teal tough".into(),
            layer: LayerHeight::USUAL,
        }
    }

    #[test]
    fn a_change_says_what_changed() {
        assert_eq!(what_changed(&recipe(), &recipe()), "");
        let other = Recipe {
            scale: 0.88,
            pose: Pose::new(35.0, 90.0),
            supports: Supports::InFile,
            ..recipe()
        };
        assert_eq!(
            what_changed(&recipe(), &other),
            "scale 100.0 → 88.0 %, hangs as the file stands → 35° back, no supports → supports of the file"
        );
    }

    #[rstest]
    #[case(0, false, Proof::Untried)]
    #[case(0, true, Proof::OnTrial)]
    #[case(1, true, Proof::Proven)]
    fn a_good_copy_proves_a_recipe(#[case] good: u64, #[case] trial: bool, #[case] is: Proof) {
        assert_eq!(Proof::of(good, trial), is);
    }

    #[rstest]
    #[case::a_blade(Some(0.7), false, false, Nature::Rigid, 1)]
    #[case::a_blade_in_tough(Some(0.7), false, false, Nature::Tough, 0)]
    #[case::a_block_to_sand(Some(5.0), false, true, Nature::Rigid, 1)]
    #[case::sanding_rubber(Some(5.0), false, true, Nature::Soft, 2)]
    #[case::joints(None, true, false, Nature::Tough, 1)]
    fn the_kind_of_resin_follows_the_part(
        #[case] thinnest_mm: Option<f64>,
        #[case] joints: bool,
        #[case] sanded: bool,
        #[case] nature: Nature,
        #[case] many: usize,
    ) {
        let part = Character {
            thinnest_mm,
            joints,
            sanded,
        };
        assert_eq!(suits(&part, nature).len(), many);
    }
}
