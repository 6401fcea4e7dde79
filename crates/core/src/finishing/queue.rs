//! Who is next: several batches, one station of each kind, one pair of hands.

use std::collections::BTreeMap;

use super::batch::{Batch, StepState};
use super::step::{Station, Step};
use crate::ids::BatchId;

/// A step of a batch with the time it gets, ms since 1970.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Slot {
    /// The batch.
    pub batch: BatchId,
    /// The step, by its place in the batch.
    pub at: usize,
    /// What is done.
    pub step: Step,
    /// When it begins.
    pub from_ms: i64,
    /// When it is over.
    pub to_ms: i64,
}

/// The steps ahead of all batches, by the time they begin. Whoever can begin first goes first, the
/// one that came off earlier before the other; what is under way ends by its deadline, or now
/// where that is over.
#[must_use]
pub fn queue(batches: &[Batch], now_ms: i64) -> Vec<Slot> {
    let mut free: BTreeMap<Station, i64> = BTreeMap::new();
    // Each batch: when it is ready for its next step.
    let mut ready: Vec<(i64, usize)> = Vec::new();
    for batch in batches {
        let from = batch.off_at_ms.max(now_ms);
        let (ready_ms, next) = match batch.now() {
            Some(at) => {
                let over = batch.due_at_ms().unwrap_or(now_ms).max(now_ms);
                let station = batch.steps[at].step.station();
                if station != Station::Shelf {
                    let until = free.entry(station).or_insert(over);
                    *until = over.max(*until);
                }
                (over, at + 1)
            }
            None => (from, batch.next().unwrap_or(batch.steps.len())),
        };
        ready.push((ready_ms, next));
    }
    let mut slots = Vec::new();
    loop {
        let candidates = batches.iter().enumerate().filter_map(|(index, batch)| {
            let (ready_ms, at) = ready[index];
            let step = batch.steps.get(at)?;
            let station = step.step.station();
            let from = match station {
                Station::Shelf => ready_ms,
                _ => ready_ms.max(free.get(&station).copied().unwrap_or(ready_ms)),
            };
            // Judging can wait, what is wet cannot.
            let waits = step.step == Step::Judge;
            Some((from, waits, ready_ms, batch.off_at_ms, batch.id, index))
        });
        let Some((from_ms, _, _, _, id, index)) = candidates.min() else {
            return slots;
        };
        let at = ready[index].1;
        let step = &batches[index].steps[at];
        let station = step.step.station();
        let to_ms = from_ms + (step.minutes * 60_000.0) as i64;
        if step.state == StepState::Ahead {
            slots.push(Slot {
                batch: id,
                at,
                step: step.step,
                from_ms,
                to_ms,
            });
            if station != Station::Shelf {
                free.insert(station, to_ms);
            }
            ready[index] = (to_ms, at + 1);
        } else {
            ready[index].1 += 1;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finishing::batch::{BatchAct, BatchStep};
    use crate::ids::{PlateId, RunId};

    const MIN: i64 = 60_000;
    const TEN: i64 = 600 * MIN;

    fn batch(id: i64, off_at_ms: i64) -> Batch {
        let steps = [
            (Step::Remove, 6.0),
            (Step::Wash, 4.0),
            (Step::Dry, 10.0),
            (Step::SupportsOff, 12.0),
            (Step::Cure, 4.0),
        ];
        Batch {
            id: BatchId(id),
            row_version: 1,
            run: RunId(id),
            plate: PlateId(id),
            off_at_ms,
            steps: steps
                .map(|(step, minutes)| BatchStep {
                    step,
                    minutes,
                    notes: Vec::new(),
                    state: StepState::Ahead,
                    began_at_ms: None,
                    ends_at_ms: None,
                    reason: String::new(),
                })
                .to_vec(),
            counted: None,
            washed_in: None,
        }
    }

    fn clock(ms: i64) -> String {
        format!("{:02}:{:02}", ms / MIN / 60, ms / MIN % 60)
    }

    /// Off the printers at 10:00 and 10:05; worked by hand: the second waits for the hands until
    /// 10:06 and from 10:26 to 10:32.
    #[test]
    fn two_batches_share_hands_station_and_lamp() {
        let both = [batch(1, TEN), batch(2, TEN + 5 * MIN)];
        let slots = queue(&both, TEN);
        let times = |id: i64| -> Vec<(Step, String, String)> {
            let of = slots.iter().filter(|s| s.batch == BatchId(id));
            of.map(|s| (s.step, clock(s.from_ms), clock(s.to_ms)))
                .collect()
        };
        let row = |step, from: &str, to: &str| (step, from.to_owned(), to.to_owned());
        assert_eq!(
            times(1),
            [
                row(Step::Remove, "10:00", "10:06"),
                row(Step::Wash, "10:06", "10:10"),
                row(Step::Dry, "10:10", "10:20"),
                row(Step::SupportsOff, "10:20", "10:32"),
                row(Step::Cure, "10:32", "10:36"),
            ]
        );
        assert_eq!(
            times(2),
            [
                row(Step::Remove, "10:06", "10:12"),
                row(Step::Wash, "10:12", "10:16"),
                row(Step::Dry, "10:16", "10:26"),
                row(Step::SupportsOff, "10:32", "10:44"),
                row(Step::Cure, "10:44", "10:48"),
            ]
        );
    }

    /// What is under way holds its station until its deadline, and no longer than now where that
    /// is over.
    #[test]
    fn what_is_under_way_ends_first() {
        let washing = [BatchAct::End, BatchAct::Begin]
            .iter()
            .try_fold(batch(1, TEN), |b, act| b.after(act, TEN + 6 * MIN))
            .unwrap();
        let other = batch(2, TEN).after(&BatchAct::End, TEN + 7 * MIN).unwrap();
        let second_wash = |now: i64| {
            let slots = queue(&[washing.clone(), other.clone()], now);
            let of = slots.iter().find(|s| s.batch == BatchId(2));
            of.map(|s| (s.step, clock(s.from_ms))).unwrap()
        };
        assert_eq!(second_wash(TEN + 7 * MIN), (Step::Wash, "10:10".to_owned()));
        assert_eq!(
            second_wash(TEN + 30 * MIN),
            (Step::Wash, "10:30".to_owned())
        );
    }

    /// Nothing overlaps at a station, no step begins before the one before it is over, and nothing
    /// is left out, whatever comes off when.
    #[test]
    fn nothing_stands_twice_at_a_station() {
        for seed in 0..40_i64 {
            let many: Vec<Batch> = (1..=6)
                .map(|id| batch(id, TEN + (id * seed * 7) % 40 * MIN))
                .collect();
            let slots = queue(&many, TEN);
            assert_eq!(slots.len(), 30);
            for (i, a) in slots.iter().enumerate() {
                for b in &slots[i + 1..] {
                    let same = a.step.station() == b.step.station();
                    if (same && a.step.station() != Station::Shelf) || a.batch == b.batch {
                        assert!(a.to_ms <= b.from_ms || b.to_ms <= a.from_ms, "{a:?} {b:?}");
                    }
                }
            }
        }
    }
}
