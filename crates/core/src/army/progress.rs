//! How far models, units and projects are: in good copies and in complete models.

/// Progress of a model, a unit or a project; sums of these are progress again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Progress {
    /// Copies that the models take.
    pub copies: u64,
    /// Good copies, never more than they take.
    pub good: u64,
    /// Models wanted.
    pub models: u64,
    /// Models of which every piece is there.
    pub complete: u64,
}

impl Progress {
    /// Good copies as a share from 0 to 1; 0 when nothing is wanted.
    #[must_use]
    pub fn share(&self) -> f64 {
        if self.copies == 0 {
            0.0
        } else {
            self.good as f64 / self.copies as f64
        }
    }
}

impl std::ops::Add for Progress {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self {
            copies: self.copies + other.copies,
            good: self.good + other.good,
            models: self.models + other.models,
            complete: self.complete + other.complete,
        }
    }
}

impl std::iter::Sum for Progress {
    fn sum<I: Iterator<Item = Self>>(all: I) -> Self {
        all.fold(Self::default(), std::ops::Add::add)
    }
}

/// One part or piece of a model, counted in every stage that matters to how it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PartState {
    /// Copies of it in each model that takes it.
    pub count: u32,
    /// Good copies; pieces from elsewhere that are at hand.
    pub good: u32,
    /// Copies planned, printing, in finishing or good; pieces at hand.
    pub alive: u32,
    /// Copies that failed so far, printed again or not.
    pub failed: u32,
    /// False for pieces from elsewhere: they complete a model, but are no copies.
    pub printed: bool,
}

/// Some models of a kind that take one option of a choice.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct OptionState {
    /// How many models take it.
    pub models: u32,
    /// What they need for it.
    pub parts: Vec<PartState>,
}

/// A choice between options.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ChoiceState {
    /// Models that take no option are complete all the same.
    pub may_go_without: bool,
    /// The options.
    pub options: Vec<OptionState>,
}

/// Everything a kind of model needs, counted.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct KitState {
    /// Models wanted.
    pub quantity: u32,
    /// What every model needs.
    pub parts: Vec<PartState>,
    /// What depends on a choice; options of different choices go together freely.
    pub choices: Vec<ChoiceState>,
}

/// Every wanted model in exactly one of four states.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct ModelState {
    /// Every piece is good.
    pub complete: u64,
    /// Every piece is at least on a plate.
    pub under_way: u64,
    /// A piece is missing because copies failed.
    pub failed: u64,
    /// A piece has never been planned.
    pub open: u64,
}

impl KitState {
    /// Every part with the number of models that take it.
    fn needs(&self) -> impl Iterator<Item = (u64, &PartState)> {
        let every = self.parts.iter().map(|p| (self.quantity, p));
        let options = self.choices.iter().flat_map(|c| &c.options);
        let chosen = options.flat_map(|o| o.parts.iter().map(move |p| (o.models, p)));
        let used = every.chain(chosen).filter(|(_, p)| p.count > 0);
        used.map(|(models, part)| (u64::from(models), part))
    }

    /// Models for which there is enough of everything, counted by `copies`. A kit without any
    /// part covers none: nothing says what the model is.
    fn covered(&self, copies: fn(&PartState) -> u32) -> u64 {
        if self.needs().next().is_none() {
            return 0;
        }
        let quantity = u64::from(self.quantity);
        let of = |parts: &[PartState], most: u64| {
            let used = parts.iter().filter(|p| p.count > 0);
            used.map(|p| u64::from(copies(p) / p.count))
                .min()
                .unwrap_or(most)
                .min(most)
        };
        let choice = |c: &ChoiceState| {
            let chosen: u64 = c.options.iter().map(|o| u64::from(o.models)).sum();
            let without = if c.may_go_without {
                quantity.saturating_sub(chosen)
            } else {
                0
            };
            let covered: u64 = c
                .options
                .iter()
                .map(|o| of(&o.parts, u64::from(o.models)))
                .sum();
            without + covered
        };
        let choices = self.choices.iter().map(choice).min().unwrap_or(quantity);
        of(&self.parts, quantity).min(choices)
    }

    /// Progress in good copies and complete models.
    #[must_use]
    pub fn progress(&self) -> Progress {
        let printed = || self.needs().filter(|(_, p)| p.printed);
        let needed = |models: u64, p: &PartState| models * u64::from(p.count);
        Progress {
            copies: printed().map(|(models, p)| needed(models, p)).sum(),
            good: printed()
                .map(|(models, p)| u64::from(p.good).min(needed(models, p)))
                .sum(),
            models: u64::from(self.quantity),
            complete: self.covered(|p| p.good),
        }
    }

    /// How the models stand, counting as far as the scarcest piece allows.
    #[must_use]
    pub fn state(&self) -> ModelState {
        let complete = self.covered(|p| p.good);
        let covered = self.covered(|p| p.alive);
        let missing = u64::from(self.quantity) - covered;
        let failed = self.needs().map(|(models, p)| {
            let count = u64::from(p.count);
            let short = (models * count).saturating_sub(u64::from(p.alive));
            short.min(u64::from(p.failed)).div_ceil(count)
        });
        let failed = failed.max().unwrap_or(0).min(missing);
        ModelState {
            complete,
            under_way: covered - complete,
            failed,
            open: missing - failed,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// Count, good, alive, failed.
    type Counts = (u32, u32, u32, u32);

    fn parts(all: &[Counts]) -> Vec<PartState> {
        let part = |(count, good, alive, failed): &Counts| PartState {
            count: *count,
            good: *good,
            alive: *alive,
            failed: *failed,
            printed: true,
        };
        all.iter().map(part).collect()
    }

    #[rstest]
    #[case::nothing(12, &[(1, 0, 0, 0), (2, 0, 0, 0)], (36, 0, 12, 0))]
    #[case::the_scarcest_part_decides(12, &[(1, 12, 12, 0), (2, 9, 9, 0)], (36, 21, 12, 4))]
    #[case::more_good_copies_than_needed(2, &[(1, 5, 5, 0), (1, 1, 1, 0)], (4, 3, 2, 1))]
    #[case::all(3, &[(1, 3, 3, 0), (2, 6, 6, 0)], (9, 9, 3, 3))]
    #[case::no_parts(3, &[], (0, 0, 3, 0))]
    fn models_are_counted_complete(
        #[case] quantity: u32,
        #[case] all: &[Counts],
        #[case] expected: (u64, u64, u64, u64),
    ) {
        let kit = KitState {
            quantity,
            parts: parts(all),
            choices: Vec::new(),
        };
        let p = kit.progress();
        assert_eq!((p.copies, p.good, p.models, p.complete), expected);
    }

    #[rstest]
    #[case::nothing(12, &[(1, 0, 0, 0), (2, 0, 0, 0)], (0, 0, 0, 12))]
    #[case::all_planned(12, &[(1, 4, 12, 0), (2, 6, 24, 0)], (3, 9, 0, 0))]
    #[case::two_arms_lost_of_one_model(12, &[(1, 12, 12, 0), (2, 22, 22, 2)], (11, 0, 1, 0))]
    #[case::lost_and_printed_again(4, &[(1, 3, 4, 5)], (3, 1, 0, 0))]
    #[case::lost_and_never_planned(4, &[(1, 1, 1, 1)], (1, 0, 1, 2))]
    #[case::more_than_wanted(2, &[(1, 9, 9, 0)], (2, 0, 0, 0))]
    #[case::no_parts(3, &[], (0, 0, 0, 3))]
    fn every_model_stands_somewhere(
        #[case] quantity: u32,
        #[case] all: &[Counts],
        #[case] expected: (u64, u64, u64, u64),
    ) {
        let kit = KitState {
            quantity,
            parts: parts(all),
            choices: Vec::new(),
        };
        let s = kit.state();
        assert_eq!((s.complete, s.under_way, s.failed, s.open), expected);
    }

    /// Five models, each with a body, and a spear or an axe: models that take each, good copies of
    /// each, whether one may go without; how many are complete.
    #[rstest]
    #[case::all_there((3, 3), (2, 2), false, 5)]
    #[case::an_axe_is_missing((3, 3), (2, 1), false, 4)]
    #[case::spears_do_not_stand_in_for_axes((3, 5), (2, 0), false, 3)]
    #[case::one_has_no_option_yet((3, 3), (1, 1), false, 4)]
    #[case::one_goes_without((3, 3), (1, 1), true, 5)]
    fn options_complete_the_models_that_take_them(
        #[case] spear: (u32, u32),
        #[case] axe: (u32, u32),
        #[case] may_go_without: bool,
        #[case] complete: u64,
    ) {
        let option = |(models, good): (u32, u32)| OptionState {
            models,
            parts: parts(&[(1, good, good, 0)]),
        };
        let kit = KitState {
            quantity: 5,
            parts: parts(&[(1, 5, 5, 0)]),
            choices: vec![ChoiceState {
                may_go_without,
                options: vec![option(spear), option(axe)],
            }],
        };
        assert_eq!(kit.progress().complete, complete);
        assert_eq!(kit.progress().copies, 5 + u64::from(spear.0 + axe.0));
    }

    #[test]
    fn pieces_from_elsewhere_complete_models_but_are_no_copies() {
        let elsewhere = PartState {
            count: 2,
            good: 5,
            alive: 5,
            failed: 0,
            printed: false,
        };
        let kit = KitState {
            quantity: 4,
            parts: [parts(&[(1, 4, 4, 0)]), vec![elsewhere]].concat(),
            choices: Vec::new(),
        };
        let p = kit.progress();
        assert_eq!((p.copies, p.good, p.complete), (4, 4, 2));
    }

    proptest! {
        #[test]
        fn standings_add_up_to_the_quantity(
            quantity in 0u32..40,
            all in proptest::collection::vec((0u32..4, 0u32..60, 0u32..60, 0u32..9), 0..4),
            models in proptest::collection::vec(0u32..40, 0..3),
            may_go_without: bool,
        ) {
            // Good copies are alive.
            let all: Vec<Counts> = all.into_iter().map(|(c, good, more, failed)| (c, good, good + more, failed)).collect();
            let options = models.iter().map(|m| OptionState { models: *m, parts: parts(&all) }).collect();
            let kit = KitState { quantity, parts: parts(&all), choices: vec![ChoiceState { may_go_without, options }] };
            let s = kit.state();
            prop_assert_eq!(s.complete + s.under_way + s.failed + s.open, u64::from(quantity));
            let p = kit.progress();
            prop_assert!(p.good <= p.copies && p.complete == s.complete);
        }
    }
}
