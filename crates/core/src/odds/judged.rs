//! Copies that were judged.

/// Copies that were judged, those of plates lost whole left out: they say nothing of a copy.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Judged {
    /// Good ones, those set aside among them.
    pub good: u64,
    /// Failed ones.
    pub failed: u64,
}

impl Judged {
    /// One more.
    pub fn add(&mut self, failed: bool) {
        if failed {
            self.failed += 1;
        } else {
            self.good += 1;
        }
    }

    /// All of them.
    #[must_use]
    pub const fn all(self) -> u64 {
        self.good + self.failed
    }

    /// Several together.
    #[must_use]
    pub fn sum(all: impl IntoIterator<Item = Self>) -> Self {
        all.into_iter().fold(Self::default(), |sum, j| Self {
            good: sum.good + j.good,
            failed: sum.failed + j.failed,
        })
    }

    /// Those that are not among some of them.
    #[must_use]
    pub fn without(self, some: Self) -> Self {
        Self {
            good: self.good.saturating_sub(some.good),
            failed: self.failed.saturating_sub(some.failed),
        }
    }
}
