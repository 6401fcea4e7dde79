//! Hard limits of a plate beside its room: pull on the film, and how much of a unit it may take.

use std::collections::BTreeMap;

use super::PackJob;

/// Most copies of a unit of so many on one plate, where units are kept apart: half of them, rounded
/// up. A single copy has to stand somewhere.
#[must_use]
pub const fn most_of_unit(copies: u64) -> u64 {
    copies.div_ceil(2)
}

/// Most copies on one plate, by unit, where no plate takes more than half of a unit: of all the
/// copies that may share a plate, given with their units.
#[must_use]
pub fn halves<U: Ord>(copies: impl IntoIterator<Item = (U, u64)>) -> BTreeMap<U, u64> {
    let mut units: BTreeMap<U, u64> = BTreeMap::new();
    for (unit, copies) in copies {
        *units.entry(unit).or_default() += copies;
    }
    units.values_mut().for_each(|n| *n = most_of_unit(*n));
    units
}

/// The limits of a job, looked up once.
#[derive(Debug)]
pub(super) struct Limits {
    /// Most copies on one plate, by unit; nothing where units may stay together.
    units: Option<BTreeMap<i64, u64>>,
}

impl Limits {
    pub(super) fn of(job: &PackJob) -> Self {
        let units = halves(job.items.iter().map(|i| (i.unit, i.copies)));
        Self {
            units: job.wishes.apart.then_some(units),
        }
    }
}

/// What a plate holds of what is limited.
#[derive(Debug, Clone, Default)]
pub(super) struct Tally {
    pull: Vec<f64>,
    units: BTreeMap<i64, u64>,
}

impl Tally {
    /// One more copy would still be within the limits.
    pub(super) fn admits(
        &self,
        job: &PackJob,
        limits: &Limits,
        build_area: usize,
        item: usize,
    ) -> bool {
        let (of, build_area) = (&job.items[item], &job.build_areas[build_area]);
        let within = |cap: f64| {
            let before = |slab: usize| self.pull.get(slab).copied().unwrap_or(0.0);
            of.pull
                .iter()
                .enumerate()
                .all(|(slab, pull)| *pull <= 0.0 || before(slab) + pull <= cap + 1e-9)
        };
        let room = |units: &BTreeMap<i64, u64>| {
            let on_it = self.units.get(&of.unit).copied().unwrap_or(0);
            units.get(&of.unit).is_none_or(|most| on_it < *most)
        };
        build_area.plate_pull.is_none_or(within) && limits.units.as_ref().is_none_or(room)
    }

    pub(super) fn add(&mut self, job: &PackJob, item: usize) {
        let of = &job.items[item];
        if self.pull.len() < of.pull.len() {
            self.pull.resize(of.pull.len(), 0.0);
        }
        for (sum, pull) in self.pull.iter_mut().zip(&of.pull) {
            *sum += pull;
        }
        *self.units.entry(of.unit).or_default() += 1;
    }

    /// How many units have copies here.
    pub(super) fn units(&self) -> usize {
        self.units.len()
    }
}
