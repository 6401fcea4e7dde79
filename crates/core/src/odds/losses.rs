//! Losses by where they happen and by what was printed with what: one table for each way to look at it.

use std::collections::BTreeMap;

use super::{Differ, Judged, OnPlate, Posterior, Share, Verdict};
use crate::ids::PlateId;

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
    /// What is believed of the share that comes out good, by how much groups differ here.
    pub share: Share,
    /// There are no others.
    pub alone: bool,
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

impl Group {
    /// What can be said of it.
    #[must_use]
    pub fn verdict(&self) -> Verdict {
        if self.alone {
            Verdict::Alone
        } else {
            self.share.verdict()
        }
    }

    /// Groups by what copies have in common, the one with the most copies first: of each copy what that is, its
    /// plate, and whether it failed.
    #[must_use]
    pub fn by(copies: impl IntoIterator<Item = (String, PlateId, bool)>) -> Vec<Self> {
        let mut all: BTreeMap<String, BTreeMap<PlateId, Judged>> = BTreeMap::new();
        for (name, plate, failed) in copies {
            all.entry(name)
                .or_default()
                .entry(plate)
                .or_default()
                .add(failed);
        }
        let on = |(group, plates): (usize, &BTreeMap<PlateId, Judged>)| {
            let on = |judged: &Judged| OnPlate {
                group,
                judged: *judged,
            };
            plates.values().map(on).collect::<Vec<_>>()
        };
        let judged: Vec<OnPlate> = all.values().enumerate().flat_map(on).collect();
        let found = Differ::fitted(all.len(), &judged, RANGE);
        let alone = all.len() == 1;
        let group = |((name, plates), share): ((String, BTreeMap<_, Judged>), Share)| Self {
            judged: Judged::sum(plates.into_values()),
            name,
            share,
            alone,
        };
        let mut groups: Vec<Self> = all.into_iter().zip(found.groups).map(group).collect();
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

/// The shares before and after a change, by the copies judged on each plate; nothing while one side has judged
/// nothing. What copies of one plate share is no proof of a change.
#[must_use]
pub fn since(before: &[Judged], after: &[Judged]) -> Option<[Share; 2]> {
    let all = |side: &[Judged]| Judged::sum(side.iter().copied()).all();
    if all(before) == 0 || all(after) == 0 {
        return None;
    }
    let on = |group: usize| {
        move |judged: &Judged| OnPlate {
            group,
            judged: *judged,
        }
    };
    let sides: Vec<OnPlate> = before
        .iter()
        .map(on(0))
        .chain(after.iter().map(on(1)))
        .collect();
    <[Share; 2]>::try_from(Differ::fitted(2, &sides, RANGE).groups).ok()
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
            // Three of each to a plate.
            let on = move |(i, f)| (name.clone(), PlateId(i as i64 / 3), f);
            all.enumerate().map(on).collect::<Vec<_>>()
        };
        let all = [copies("Dunlin", 80, 4), copies("Crane", 2, 8)].concat();
        let groups = Group::by(all);
        let [dunlin, crane] = &groups[..] else {
            panic!("two printers: {groups:?}");
        };
        assert_eq!(
            (dunlin.name.as_str(), crane.judged),
            ("Dunlin", judged(2, 8))
        );
        assert!(
            crane.share.mean > 0.2 && crane.share.mean < 0.6,
            "{}",
            crane.share.mean
        );
        assert_eq!(
            (dunlin.verdict(), crane.verdict()),
            (Verdict::Better, Verdict::Worse)
        );
        let alone = Group::by(vec![("one".to_owned(), PlateId(1), false)]);
        assert_eq!(alone[0].verdict(), Verdict::Alone);
    }

    #[test]
    fn a_step_loses_of_what_reached_it() {
        let steps = by_steps(100, &[10, 0, 9]);
        let told: Vec<(u64, u64)> = steps.iter().map(|s| (s.reached, s.failed)).collect();
        assert_eq!(told, [(100, 10), (90, 0), (90, 9)]);
        let all: f64 = steps.iter().map(|s| s.odds.mean()).product();
        assert!((all - 0.81).abs() < 0.01, "{all}");
    }

    /// 11 of 12 since the change, 6 of 10 before, each on a plate of its own: by two exact shares it would be better
    /// with 95 %; that both may be alike, and that plates differ, leaves it open. Ten times as many are proof.
    #[test]
    fn a_change_is_proven_by_more_than_two_plates() {
        let [before, after] = since(&[judged(6, 4)], &[judged(11, 1)]).expect("both judged");
        assert_eq!(after.verdict(), Verdict::NotProven);
        assert!(after.better > 0.5 && before.worse == after.better);
        let [_, after] = since(&[judged(6, 4); 10], &[judged(11, 1); 10]).expect("both judged");
        assert_eq!(after.verdict(), Verdict::Better);
        assert!(since(&[], &[judged(11, 1)]).is_none());
    }
}
