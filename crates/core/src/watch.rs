//! How long work is watched and stopped from outside.

/// How many threads a computation that is started here would use.
#[must_use]
pub fn threads() -> usize {
    rayon::current_num_threads()
}

/// Given to long computations: they ask whether to stop and tell how far they are.
pub trait Watch: Sync {
    /// True when the work is no longer wanted.
    fn stopped(&self) -> bool;
    /// Told now and then, with `share` from 0 to 1.
    fn report(&self, share: f64);
}

/// Nobody is watching: never stops, tells nobody.
#[derive(Debug, Clone, Copy, Default)]
pub struct Unwatched;

impl Watch for Unwatched {
    fn stopped(&self) -> bool {
        false
    }
    fn report(&self, _share: f64) {}
}

/// Stops with another watch, and tells nobody how far it is: a part of longer work.
pub struct Silent<'a>(pub &'a dyn Watch);

impl Watch for Silent<'_> {
    fn stopped(&self) -> bool {
        self.0.stopped()
    }
    fn report(&self, _share: f64) {}
}

/// Asks a watch now and then: to ask at every step would cost more than the step.
pub struct Ticks<'a>(&'a dyn Watch, u32);

impl<'a> Ticks<'a> {
    /// Steps that are taken between two questions.
    pub const BETWEEN: u32 = 4096;

    /// Steps that end with this watch.
    #[must_use]
    pub fn new(watch: &'a dyn Watch) -> Self {
        Self(watch, 0)
    }

    /// One more step; true when the work is no longer wanted.
    pub fn stopped(&mut self) -> bool {
        self.1 = (self.1 + 1) % Self::BETWEEN;
        self.1 == 0 && self.0.stopped()
    }
}

/// A piece of longer work: where it begins, and the share of the whole it is.
pub struct Share<'a>(pub &'a dyn Watch, pub f64, pub f64);

impl Watch for Share<'_> {
    fn stopped(&self) -> bool {
        self.0.stopped()
    }
    fn report(&self, share: f64) {
        self.0.report(self.1 + self.2 * share);
    }
}
