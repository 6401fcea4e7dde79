//! How far versions of recipes are proven: by version and process setting.

use std::collections::{BTreeMap, BTreeSet};

use super::nouns::RecipeVersion;
use super::version::Proof;
use crate::ids::{ProcessSettingId, RecipeVersionId};
use crate::workshop::ProcessSetting;

/// What is known of some versions: good copies by process setting, trials, copies under way.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Proofs {
    good: BTreeMap<(RecipeVersionId, ProcessSettingId), u64>,
    on_trial: BTreeSet<RecipeVersionId>,
    under_way: BTreeSet<RecipeVersionId>,
}

impl Proofs {
    /// Copies of a version came out good on a process setting.
    pub fn add_good(&mut self, version: RecipeVersionId, setting: ProcessSettingId, copies: u64) {
        *self.good.entry((version, setting)).or_default() += copies;
    }

    /// A trial of a version is under way, or it won one.
    pub fn add_trial(&mut self, version: RecipeVersionId) {
        self.on_trial.insert(version);
    }

    /// A copy of a version is planned, printing or in finishing.
    pub fn add_under_way(&mut self, version: RecipeVersionId) {
        self.under_way.insert(version);
    }

    /// Copies of a version that came out good on a process setting.
    #[must_use]
    pub fn good_on(&self, version: RecipeVersionId, setting: ProcessSettingId) -> u64 {
        self.good.get(&(version, setting)).copied().unwrap_or(0)
    }

    /// How far a version is proven on a process setting.
    #[must_use]
    pub fn on(&self, version: RecipeVersionId, setting: ProcessSettingId) -> Proof {
        Proof::of(
            self.good_on(version, setting),
            self.on_trial.contains(&version),
        )
    }

    /// How far a version is proven on the best of the settings it may be printed with. Good copies
    /// on a printer that is not among them tell nothing about these.
    #[must_use]
    pub fn best(&self, version: &RecipeVersion, settings: &[ProcessSetting]) -> Proof {
        let fit = |s: &&ProcessSetting| s.resin == version.resin && s.layer == version.layer;
        let proofs = settings
            .iter()
            .filter(fit)
            .map(|s| self.on(version.id, s.id));
        let none = Proof::of(0, self.on_trial.contains(&version.id));
        proofs.max().unwrap_or(none).max(none)
    }

    /// A first copy of a version is under way.
    #[must_use]
    pub fn is_under_way(&self, version: RecipeVersionId) -> bool {
        self.under_way.contains(&version)
    }
}

impl Proof {
    /// Nobody knows yet whether it comes out: few copies first. Plans, warnings and changes by hand
    /// all ask here.
    #[must_use]
    pub fn is_unproven(self) -> bool {
        self != Proof::Proven
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ids::{PrinterId, RecipeId, ResinId, SettingVersionId};
    use crate::recipe::Setup;
    use crate::units::LayerHeight;
    use crate::workshop::print_time::LayerTiming;
    use rstest::rstest;

    fn setting(id: i64, printer: i64, resin: i64) -> ProcessSetting {
        ProcessSetting {
            id: ProcessSettingId(id),
            printer: PrinterId(printer),
            resin: ResinId(resin),
            layer: LayerHeight::USUAL,
            version: SettingVersionId(id),
            number: 1,
            timing: LayerTiming::assumed(LayerHeight::USUAL),
            assumed: String::new(),
        }
    }

    fn version() -> RecipeVersion {
        RecipeVersion {
            id: RecipeVersionId(7),
            recipe: RecipeId(1),
            version: 1,
            scale: 1.0,
            setup: Setup::PLAIN,
            resin: ResinId(1),
            layer: LayerHeight::USUAL,
            changed: String::new(),
        }
    }

    /// Printers 1 and 2 with resin 1 are settings 1 and 2; printer 1 with resin 2 is setting 3.
    #[rstest]
    #[case::nobody(&[], false, &[1, 2], Proof::Untried)]
    #[case::a_trial(&[], true, &[1, 2], Proof::OnTrial)]
    #[case::here(&[1], false, &[1, 2], Proof::Proven)]
    #[case::on_a_printer_that_is_not_used(&[2], false, &[1], Proof::Untried)]
    #[case::the_same_and_on_trial(&[2], true, &[1], Proof::OnTrial)]
    #[case::no_setting_at_all(&[1], false, &[], Proof::Untried)]
    fn proof_belongs_to_version_and_setting(
        #[case] good_on: &[i64],
        #[case] trial: bool,
        #[case] used: &[i64],
        #[case] expected: Proof,
    ) {
        let mut proofs = Proofs::default();
        for id in good_on {
            proofs.add_good(RecipeVersionId(7), ProcessSettingId(*id), 1);
        }
        if trial {
            proofs.add_trial(RecipeVersionId(7));
        }
        let all = [setting(1, 1, 1), setting(2, 2, 1), setting(3, 1, 2)];
        let used: Vec<_> = all.into_iter().filter(|s| used.contains(&s.id.0)).collect();
        assert_eq!(proofs.best(&version(), &used), expected);
    }
}
