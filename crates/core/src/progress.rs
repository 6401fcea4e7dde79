//! How far models, units and projects are: in good copies and in complete models.

/// One printed part of a model, counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PartCount {
    /// Copies of the part in each model.
    pub count: u32,
    /// Good copies that are there.
    pub good: u32,
}

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

/// Progress of one model. A model without parts is never complete: nothing says what it is.
#[must_use]
pub fn model_progress(quantity: u32, parts: &[PartCount]) -> Progress {
    let needed = |part: &PartCount| u64::from(quantity) * u64::from(part.count);
    let used: Vec<&PartCount> = parts.iter().filter(|p| p.count > 0).collect();
    let complete = used.iter().map(|p| p.good / p.count).min().unwrap_or(0);
    Progress {
        copies: used.iter().map(|p| needed(p)).sum(),
        good: used.iter().map(|p| u64::from(p.good).min(needed(p))).sum(),
        models: u64::from(quantity),
        complete: u64::from(complete.min(quantity)),
    }
}

/// One printed part of a model, counted in every stage that matters to how it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PartStanding {
    /// Copies of the part in each model.
    pub count: u32,
    /// Good copies.
    pub good: u32,
    /// Copies planned, printing, in finishing or good.
    pub alive: u32,
    /// Copies lost so far, printed again or not.
    pub failed: u32,
}

/// Every wanted model in exactly one of four states.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Standing {
    /// Every piece is good.
    pub complete: u64,
    /// Every piece is at least on a plate.
    pub under_way: u64,
    /// A piece is missing because copies were lost.
    pub lost: u64,
    /// A piece has never been planned.
    pub open: u64,
}

/// How the models of one kind stand, counting as far as the scarcest part allows.
#[must_use]
pub fn model_standing(quantity: u32, parts: &[PartStanding]) -> Standing {
    let used: Vec<&PartStanding> = parts.iter().filter(|p| p.count > 0).collect();
    let quantity = u64::from(quantity);
    let least = |copies: fn(&PartStanding) -> u32| {
        let models = used.iter().map(|p| u64::from(copies(p) / p.count)).min();
        models.unwrap_or(0).min(quantity)
    };
    let complete = least(|p| p.good);
    let covered = least(|p| p.alive);
    let missing = quantity - covered;
    let lost = used.iter().map(|p| {
        let short = (quantity * u64::from(p.count)).saturating_sub(u64::from(p.alive));
        short.min(u64::from(p.failed)).div_ceil(u64::from(p.count))
    });
    let lost = lost.max().unwrap_or(0).min(missing);
    Standing {
        complete,
        under_way: covered - complete,
        lost,
        open: missing - lost,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::nothing(12, &[(1, 0), (2, 0)], (36, 0, 12, 0))]
    #[case::the_scarcest_part_decides(12, &[(1, 12), (2, 9)], (36, 21, 12, 4))]
    #[case::more_good_copies_than_needed(2, &[(1, 5), (1, 1)], (4, 3, 2, 1))]
    #[case::all(3, &[(1, 3), (2, 6)], (9, 9, 3, 3))]
    #[case::no_parts(3, &[], (0, 0, 3, 0))]
    fn models_are_counted_complete(
        #[case] quantity: u32,
        #[case] parts: &[(u32, u32)],
        #[case] expected: (u64, u64, u64, u64),
    ) {
        let parts: Vec<PartCount> = parts
            .iter()
            .map(|(count, good)| PartCount {
                count: *count,
                good: *good,
            })
            .collect();
        let p = model_progress(quantity, &parts);
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
        #[case] parts: &[(u32, u32, u32, u32)],
        #[case] expected: (u64, u64, u64, u64),
    ) {
        let part = |(count, good, alive, failed): &(u32, u32, u32, u32)| PartStanding {
            count: *count,
            good: *good,
            alive: *alive,
            failed: *failed,
        };
        let parts: Vec<PartStanding> = parts.iter().map(part).collect();
        let s = model_standing(quantity, &parts);
        assert_eq!((s.complete, s.under_way, s.lost, s.open), expected);
    }
}
