//! Copies one part has over that another part could use.

use std::collections::{BTreeMap, BTreeSet};

use crate::ids::{CopyId, PartId, SculptId};

/// Shares of scale that differ by less are the same.
const SAME_SCALE: f64 = 1e-3;

/// What a part is printed from, and at which scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PrintedAs {
    /// The part.
    pub part: PartId,
    /// Its sculpt.
    pub sculpt: SculptId,
    /// Factor on the size of the file.
    pub scale: f64,
}

/// A copy that is over elsewhere and fits a part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Over {
    /// The part that could use it.
    pub part: PartId,
    /// The copy.
    pub copy: CopyId,
    /// Its mark.
    pub mark: i64,
    /// Name of the project it was printed for.
    pub project: String,
    /// Name of the model it was printed for.
    pub model: String,
}

/// A copy that was printed for one part can stand in another: the same sculpt at the same scale.
#[must_use]
pub fn fits_in(copy: &PrintedAs, part: &PrintedAs) -> bool {
    copy.part != part.part
        && copy.sculpt == part.sculpt
        && (copy.scale / part.scale - 1.0).abs() < SAME_SCALE
}

/// How many of the wanted copies of each part need not be printed: each copy that is over is counted once, though it
/// fits several parts.
#[must_use]
pub fn not_to_print(over: &[Over], wanted: &BTreeMap<PartId, u64>) -> BTreeMap<PartId, u64> {
    let mut taken: BTreeSet<CopyId> = BTreeSet::new();
    let mut all: BTreeMap<PartId, u64> = BTreeMap::new();
    for of in over {
        let left = wanted.get(&of.part).copied().unwrap_or(0);
        let has = all.get(&of.part).copied().unwrap_or(0);
        if has < left && taken.insert(of.copy) {
            *all.entry(of.part).or_default() += 1;
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::the_same((2, 1, 1.0), true)]
    #[case::nearly((2, 1, 1.0005), true)]
    #[case::its_own_part((1, 1, 1.0), false)]
    #[case::another_sculpt((2, 2, 1.0), false)]
    #[case::larger((2, 1, 1.02), false)]
    fn what_fits(#[case] (part, sculpt, scale): (i64, i64, f64), #[case] fits: bool) {
        let of = |part, sculpt, scale| PrintedAs {
            part: PartId(part),
            sculpt: SculptId(sculpt),
            scale,
        };
        assert_eq!(fits_in(&of(1, 1, 1.0), &of(part, sculpt, scale)), fits);
    }

    /// Three copies fit two parts that want two and five: three in all, none twice.
    #[test]
    fn a_copy_is_counted_once() {
        let over = |part: i64, copy: i64| Over {
            part: PartId(part),
            copy: CopyId(copy),
            mark: copy,
            project: String::new(),
            model: String::new(),
        };
        let all: Vec<Over> = [1, 2]
            .into_iter()
            .flat_map(|part| (1..=3).map(move |copy| over(part, copy)))
            .collect();
        let wanted = BTreeMap::from([(PartId(1), 2), (PartId(2), 5), (PartId(3), 1)]);
        let found = not_to_print(&all, &wanted);
        assert_eq!(found, BTreeMap::from([(PartId(1), 2), (PartId(2), 1)]));
    }
}
