//! Units on one leaf of a page: a large army is not sent whole.

/// Which units are shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct UnitLeaf {
    /// The first of them.
    pub(crate) from: usize,
    /// Behind the last of them.
    pub(crate) to: usize,
    /// Of so many.
    pub(crate) of: usize,
    /// The leaf each unit is on, by its first unit.
    starts: Vec<usize>,
}

impl UnitLeaf {
    /// Units by how much each of them has to show; a leaf holds so much at most, and one unit at least. `from` is any
    /// unit of the leaf that is asked for.
    pub(crate) fn new(sizes: &[usize], most: usize, from: usize) -> Self {
        let (mut starts, mut first, mut sum) = (Vec::new(), 0, 0);
        for (index, size) in sizes.iter().enumerate() {
            if sum + size > most && index > first {
                (first, sum) = (index, 0);
            }
            sum += size;
            starts.push(first);
        }
        let from = starts.get(from).copied().unwrap_or(0);
        let to = starts.iter().rposition(|s| *s == from);
        Self {
            from,
            to: to.map_or(0, |last| last + 1),
            of: sizes.len(),
            starts,
        }
    }

    /// Which leaf a unit is on.
    pub(crate) fn start_of(&self, unit: usize) -> usize {
        self.starts.get(unit).copied().unwrap_or(0)
    }

    /// It holds this unit.
    pub(crate) fn has(&self, unit: usize) -> bool {
        (self.from..self.to).contains(&unit)
    }

    /// Not all units are on it.
    pub(crate) fn is_part(&self) -> bool {
        self.to - self.from < self.of
    }

    /// The one before, where there is one.
    pub(crate) fn before(&self) -> Option<usize> {
        self.from.checked_sub(1).map(|last| self.start_of(last))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::all_on_one(&[3, 4], 10, 0, (0, 2))]
    #[case::the_first(&[6, 4, 1, 9, 2], 10, 0, (0, 2))]
    #[case::any_unit_of_it(&[6, 4, 1, 9, 2], 10, 3, (2, 4))]
    #[case::the_last(&[6, 4, 1, 9, 2], 10, 4, (4, 5))]
    #[case::one_too_large(&[30, 1], 10, 0, (0, 1))]
    #[case::beyond(&[3], 10, 99, (0, 1))]
    #[case::none(&[], 10, 0, (0, 0))]
    fn units_are_dealt_out(
        #[case] sizes: &[usize],
        #[case] most: usize,
        #[case] from: usize,
        #[case] leaf: (usize, usize),
    ) {
        let found = UnitLeaf::new(sizes, most, from);
        assert_eq!((found.from, found.to), leaf);
        assert_eq!(found.is_part(), leaf.1 - leaf.0 < sizes.len());
        assert!((0..sizes.len()).all(|u| found.has(u) == (found.start_of(u) == found.from)));
    }
}
