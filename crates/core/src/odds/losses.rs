//! Losses by where they happen and by what was printed with what: one table for each way to look at it.

use std::collections::BTreeMap;

use super::{Judged, OddsError, Posterior};

/// Copies that one group's belief is worth of the workshop's (design: ten pseudo-copies).
const STRENGTH: f64 = 10.0;

/// Of the share that is believed, so much lies in the range that is told.
pub const RANGE: f64 = 0.9;

/// What is believed before anything was judged: nine of ten come out (common practice, no source), worth as much as
/// [`STRENGTH`].
const BEFORE: Judged = Judged { good: 9, failed: 1 };

/// Copies that are alike in something, judged.
#[derive(Debug, Clone, PartialEq)]
pub struct Group {
    /// What they have in common.
    pub name: String,
    /// How they came out.
    pub judged: Judged,
    /// What is believed of the share that comes out good, shrunk to the workshop.
    pub odds: Posterior,
    /// How all the others came out; nothing where there are none.
    pub others: Option<Judged>,
}

/// The prior of any group: so many copies of the workshop's share; while the workshop has judged little its own
/// share is mixed with the usual one.
fn prior(workshop: Judged) -> [f64; 2] {
    let mixed = Judged {
        good: workshop.good + BEFORE.good,
        failed: workshop.failed + BEFORE.failed,
    };
    let share = mixed.good as f64 / (mixed.good + mixed.failed) as f64;
    [STRENGTH * share, STRENGTH * (1.0 - share)]
}

/// What is believed of copies that were judged so in a workshop that judged all of its copies so.
#[must_use]
pub fn believed(judged: Judged, workshop: Judged) -> Posterior {
    let [a, b] = prior(workshop);
    Posterior {
        a: a + judged.good as f64,
        b: b + judged.failed as f64,
    }
}

/// What can be said of a group against the others.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Verdict {
    /// It is better, with a chance of 95 % or more.
    Better,
    /// It is worse, with a chance of 95 % or more.
    Worse,
    /// Neither is proven.
    NotProven,
    /// There are no others.
    Alone,
}

/// From this chance on something is called proven.
const PROOF: f64 = 0.95;

impl Group {
    /// The chance that it is better than all the others together, each from what was judged alone; nothing where
    /// there are no others. Of large groups it takes a moment: only what is told is asked.
    #[must_use]
    pub fn better(&self) -> Option<f64> {
        self.others
            .map(|others| Posterior::better(others, self.judged))
    }

    /// What the chance that it is better says.
    #[must_use]
    pub fn verdict(better: Option<f64>) -> Verdict {
        match better {
            None => Verdict::Alone,
            Some(p) if p >= PROOF => Verdict::Better,
            Some(p) if p <= 1.0 - PROOF => Verdict::Worse,
            Some(_) => Verdict::NotProven,
        }
    }

    /// Groups by what copies have in common, the one with the most copies first.
    #[must_use]
    pub fn by(copies: impl IntoIterator<Item = (String, bool)>) -> Vec<Self> {
        let mut all: BTreeMap<String, Judged> = BTreeMap::new();
        for (name, failed) in copies {
            all.entry(name).or_default().add(failed);
        }
        let workshop = Judged::sum(all.values().copied());
        let several = all.len() > 1;
        let group = |(name, judged): (String, Judged)| Self {
            odds: believed(judged, workshop),
            others: several.then(|| workshop.without(judged)),
            name,
            judged,
        };
        let mut groups: Vec<Self> = all.into_iter().map(group).collect();
        groups.sort_by_key(|g| std::cmp::Reverse(g.judged.all()));
        groups
    }
}

/// A step of the way, with the copies that reached it and those it cost.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StepLoss {
    /// Copies that reached it.
    pub reached: u64,
    /// Those that failed in it.
    pub failed: u64,
    /// What is believed of the share that it lets through.
    pub odds: Posterior,
}

/// What each step costs of those that reached it, by how many failed in each, in the order of the steps. The chance
/// of the whole way is their product.
#[must_use]
pub fn by_steps(copies: u64, failed: &[u64]) -> Vec<StepLoss> {
    let mut reached = copies;
    failed
        .iter()
        .map(|failed| {
            let judged = Judged {
                good: reached.saturating_sub(*failed),
                failed: *failed,
            };
            // Most losses are in one step: the others are believed to lose next to nothing until they do.
            let step = StepLoss {
                reached,
                failed: *failed,
                odds: Posterior {
                    a: judged.good as f64 + 1.0,
                    b: judged.failed as f64 + 0.1,
                },
            };
            reached = judged.good;
            step
        })
        .collect()
}

/// Before and after a change.
///
/// # Errors
/// [`OddsError::NoNumber`] while one side has judged nothing.
pub fn since(before: Judged, after: Judged) -> Result<f64, OddsError> {
    if before.all() == 0 || after.all() == 0 {
        return Err(OddsError::NoNumber("a side that has judged nothing"));
    }
    Ok(Posterior::better(before, after))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn judged(good: u64, failed: u64) -> Judged {
        Judged { good, failed }
    }

    #[test]
    fn groups_lean_on_the_workshop() {
        let copies = |name: &str, good: u64, failed: u64| {
            let all = (0..good).map(|_| false).chain((0..failed).map(|_| true));
            let name = name.to_owned();
            all.map(move |f| (name.clone(), f)).collect::<Vec<_>>()
        };
        let all = [copies("Dunlin", 80, 4), copies("Crane", 2, 4)].concat();
        let groups = Group::by(all);
        let crane = &groups[1];
        assert_eq!(
            (groups[0].name.as_str(), crane.judged),
            ("Dunlin", judged(2, 4))
        );
        // By hand: 82 and 9 of 10 are 91 of 100, ten of them 9.1 and 0.9; (2 + 9.1) / 16.
        assert!((crane.odds.mean() - 11.1 / 16.0).abs() < 1e-12);
        assert!(crane.better().is_some_and(|p| p < 0.01));
        assert!(groups[0].better().is_some_and(|p| p > 0.99));
        let alone = Group::by(vec![("one".to_owned(), false)]);
        assert_eq!(alone[0].better(), None);
    }

    #[test]
    fn a_step_loses_of_what_reached_it() {
        let steps = by_steps(100, &[10, 0, 9]);
        let told: Vec<(u64, u64)> = steps.iter().map(|s| (s.reached, s.failed)).collect();
        assert_eq!(told, [(100, 10), (90, 0), (90, 9)]);
        let all: f64 = steps.iter().map(|s| s.odds.mean()).product();
        assert!((all - 0.81).abs() < 0.01, "{all}");
    }

    /// The design's example: 11 of 12 since the change, 6 of 10 before: better with 95 % (exact sum; scipy agrees).
    #[test]
    fn a_change_is_better_with_a_chance() {
        assert!((since(judged(6, 4), judged(11, 1)).expect("both judged") - 0.952).abs() < 0.001);
        assert!(since(judged(0, 0), judged(11, 1)).is_err());
    }
}
