//! What something costs, by component: any figure opens into its parts.

use std::iter::Sum;
use std::ops::{Add, Sub};

use crate::units::Money;
use crate::words::words;

words! {
    /// A component of a cost.
    CostKind, "component of a cost" {
        /// Resin, what drains and is lost with it.
        Resin = "resin",
        /// Baths, gloves, towels.
        Consumables = "wash and consumables",
        /// Electricity.
        Power = "electricity",
        /// Film, screen, filter and the machine itself.
        Wear = "wear",
        /// The maker's hands.
        Hands = "hands",
        /// Hands on what was mended.
        Mends = "mends",
        /// Its share of what its files cost.
        Files = "files",
        /// Its share of copies that failed.
        Failures = "failed copies",
        /// Pieces that are bought.
        Bought = "bought pieces",
    }
}

/// What something costs, by component.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct CostParts([Money; CostKind::ALL.len()]);

impl CostParts {
    /// The components that a plate is planned with, in the order in which they are kept.
    pub const PLANNED: [CostKind; 5] = [
        CostKind::Resin,
        CostKind::Consumables,
        CostKind::Power,
        CostKind::Wear,
        CostKind::Hands,
    ];

    /// From what is kept of them, minor units.
    #[must_use]
    pub fn of_planned(minor: [i64; 5]) -> Self {
        let all = Self::PLANNED.iter().zip(minor);
        all.fold(Self::default(), |sum, (kind, m)| sum.with(*kind, Money(m)))
    }

    /// As it is kept, minor units.
    #[must_use]
    pub fn planned(&self) -> [i64; 5] {
        Self::PLANNED.map(|kind| self.get(kind).0)
    }

    /// One component alone.
    #[must_use]
    pub fn of(kind: CostKind, amount: Money) -> Self {
        Self::default().with(kind, amount)
    }

    /// With this for a component.
    #[must_use]
    pub fn with(mut self, kind: CostKind, amount: Money) -> Self {
        self.0[kind as usize] = amount;
        self
    }

    /// One component.
    #[must_use]
    pub const fn get(&self, kind: CostKind) -> Money {
        self.0[kind as usize]
    }

    /// All of it.
    #[must_use]
    pub fn total(&self) -> Money {
        self.0.iter().copied().sum()
    }

    /// One of so many equal shares, each component rounded.
    #[must_use]
    pub fn share(self, of: u64) -> Self {
        Self(
            self.0
                .map(|m| Money::from_minor_f64(m.0 as f64 / of.max(1) as f64)),
        )
    }

    /// The components there are something of, in their order.
    pub fn each(&self) -> impl Iterator<Item = (CostKind, Money)> {
        let all = CostKind::ALL.iter().map(|k| (*k, self.get(*k)));
        all.filter(|(_, amount)| *amount != Money(0))
    }
}

impl Add for CostParts {
    type Output = Self;
    fn add(mut self, other: Self) -> Self {
        for (mine, more) in self.0.iter_mut().zip(other.0) {
            *mine += more;
        }
        self
    }
}

impl Sub for CostParts {
    type Output = Self;
    fn sub(mut self, other: Self) -> Self {
        for (mine, less) in self.0.iter_mut().zip(other.0) {
            *mine = *mine - less;
        }
        self
    }
}

impl Sum for CostParts {
    fn sum<I: Iterator<Item = Self>>(all: I) -> Self {
        all.fold(Self::default(), Add::add)
    }
}
