//! Work that goes on only as long as the request that asked for it is open.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use wembrit_core::watch::Watch;

/// Held by a request: when it is dropped, with its answer or because the browser left, the work
/// for it ends.
pub(crate) struct Asking(Arc<AtomicBool>);

/// Given to the work.
pub(crate) struct Asked(Arc<AtomicBool>);

/// A request and the work for it.
pub(crate) fn asking() -> (Asking, Asked) {
    let left = Arc::new(AtomicBool::new(false));
    (Asking(left.clone()), Asked(left))
}

impl Drop for Asking {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

impl Watch for Asked {
    fn stopped(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
    fn report(&self, _share: f64) {}
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn work_ends_with_its_request() {
        let (asking, asked) = asking();
        assert!(!asked.stopped());
        drop(asking);
        assert!(asked.stopped());
    }
}
