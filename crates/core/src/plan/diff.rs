//! Two plans side by side: which plates are the same, what came and what left.

use std::collections::BTreeMap;

use crate::geometry::Point;
use crate::ids::{PartId, PrinterId};

/// A plate as it is compared.
#[derive(Debug, Clone, PartialEq)]
pub struct ComparedPlate {
    /// Its printer.
    pub printer: PrinterId,
    /// Part, place and turn of every copy.
    pub copies: Vec<(PartId, Point, f64)>,
}

/// What became of a plate. Indices name plates of the first and the second plan.
#[derive(Debug, Clone, PartialEq)]
pub enum PlateChange {
    /// Every copy stands where it stood.
    Same {
        /// In the first plan.
        was: usize,
        /// In the second plan.
        now: usize,
    },
    /// Something came, left or moved.
    Changed {
        /// In the first plan.
        was: usize,
        /// In the second plan.
        now: usize,
        /// Parts with copies that came.
        came: Vec<(PartId, u64)>,
        /// Parts with copies that left.
        left: Vec<(PartId, u64)>,
        /// Copies that stayed on the plate but stand elsewhere on it.
        moved: u64,
    },
    /// Only the second plan has it.
    New {
        /// In the second plan.
        now: usize,
    },
    /// Only the first plan had it.
    Gone {
        /// In the first plan.
        was: usize,
    },
}

/// Compares two plans: plates are paired by printer and by how many copies they share; a plate
/// that shares less than a third of its copies with another is another plate. In the order of the
/// second plan, what is gone at the end.
#[must_use]
pub fn compare_plans(before: &[ComparedPlate], after: &[ComparedPlate]) -> Vec<PlateChange> {
    let mut pairs: Vec<(u64, usize, usize)> = Vec::new();
    for (was, a) in before.iter().enumerate() {
        for (now, b) in after.iter().enumerate() {
            let shared: u64 = shared(a, b);
            let many = a.copies.len().max(b.copies.len()) as u64;
            if a.printer == b.printer && 3 * shared >= many && shared > 0 {
                pairs.push((shared + still(a, b), was, now));
            }
        }
    }
    // The closest first; among equals the earlier.
    pairs.sort_by(|a, b| b.0.cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let mut of_now: BTreeMap<usize, usize> = BTreeMap::new();
    let mut taken: Vec<bool> = vec![false; before.len()];
    for (_, was, now) in pairs {
        if !taken[was] && !of_now.contains_key(&now) {
            taken[was] = true;
            of_now.insert(now, was);
        }
    }
    let mut changes: Vec<PlateChange> = (0..after.len())
        .map(|now| match of_now.get(&now) {
            Some(was) => change(*was, &before[*was], now, &after[now]),
            None => PlateChange::New { now },
        })
        .collect();
    let gone = (0..before.len()).filter(|was| !taken[*was]);
    changes.extend(gone.map(|was| PlateChange::Gone { was }));
    changes
}

fn counted(plate: &ComparedPlate) -> BTreeMap<PartId, u64> {
    let mut counts = BTreeMap::new();
    for (part, _, _) in &plate.copies {
        *counts.entry(*part).or_default() += 1;
    }
    counts
}

/// Copies of the same parts on both.
fn shared(a: &ComparedPlate, b: &ComparedPlate) -> u64 {
    let (a, b) = (counted(a), counted(b));
    a.iter()
        .map(|(part, n)| *n.min(b.get(part).unwrap_or(&0)))
        .sum()
}

/// Copies that stand in the same place on both.
fn still(a: &ComparedPlate, b: &ComparedPlate) -> u64 {
    let places = |p: &ComparedPlate| {
        let mut places: Vec<(PartId, [i64; 3])> = p
            .copies
            .iter()
            .map(|(part, at, turn)| {
                let um = |mm: f64| (mm * 1000.0).round() as i64;
                (*part, [um(at[0]), um(at[1]), um(*turn)])
            })
            .collect();
        places.sort_unstable();
        places
    };
    let (a, b) = (places(a), places(b));
    let (mut i, mut j, mut same) = (0, 0, 0);
    while i < a.len() && j < b.len() {
        match a[i].cmp(&b[j]) {
            std::cmp::Ordering::Less => i += 1,
            std::cmp::Ordering::Greater => j += 1,
            std::cmp::Ordering::Equal => {
                (i, j, same) = (i + 1, j + 1, same + 1);
            }
        }
    }
    same
}

fn change(was: usize, a: &ComparedPlate, now: usize, b: &ComparedPlate) -> PlateChange {
    let over = |a: &ComparedPlate, b: &ComparedPlate| -> Vec<(PartId, u64)> {
        let other = counted(b);
        let more = |(part, n): (PartId, u64)| {
            let over = n.saturating_sub(other.get(&part).copied().unwrap_or(0));
            (over > 0).then_some((part, over))
        };
        counted(a).into_iter().filter_map(more).collect()
    };
    let (came, left) = (over(b, a), over(a, b));
    let moved = shared(a, b) - still(a, b).min(shared(a, b));
    if came.is_empty() && left.is_empty() && moved == 0 {
        return PlateChange::Same { was, now };
    }
    PlateChange::Changed {
        was,
        now,
        came,
        left,
        moved,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn plate(printer: i64, parts: &[i64]) -> ComparedPlate {
        let copy = |(i, part): (usize, &i64)| (PartId(*part), [10.0 * i as f64, 5.0], 0.0);
        ComparedPlate {
            printer: PrinterId(printer),
            copies: parts.iter().enumerate().map(copy).collect(),
        }
    }

    #[rstest]
    #[case::nothing(&[1, 1, 2], &[1, 1, 2], PlateChange::Same { was: 0, now: 0 })]
    #[case::one_came(&[1, 1], &[1, 1, 2], PlateChange::Changed { was: 0, now: 0, came: vec![(PartId(2), 1)], left: vec![], moved: 0 })]
    #[case::one_left(&[1, 1, 2], &[1, 1], PlateChange::Changed { was: 0, now: 0, came: vec![], left: vec![(PartId(2), 1)], moved: 0 })]
    #[case::two_changed_places(&[1, 2, 3], &[2, 1, 3], PlateChange::Changed { was: 0, now: 0, came: vec![], left: vec![], moved: 2 })]
    fn a_plate_is_followed(#[case] was: &[i64], #[case] now: &[i64], #[case] change: PlateChange) {
        assert_eq!(
            compare_plans(&[plate(1, was)], &[plate(1, now)]),
            vec![change]
        );
    }

    #[test]
    fn plates_are_paired_by_what_is_on_them_not_by_their_number() {
        let before = [plate(1, &[1, 1, 1]), plate(1, &[2, 2, 2]), plate(2, &[3])];
        let after = [plate(1, &[2, 2, 2]), plate(1, &[1, 1, 1]), plate(1, &[3])];
        assert_eq!(
            compare_plans(&before, &after),
            vec![
                PlateChange::Same { was: 1, now: 0 },
                PlateChange::Same { was: 0, now: 1 },
                PlateChange::New { now: 2 },
                PlateChange::Gone { was: 2 },
            ]
        );
    }
}
