//! Long texts that were read before: the same text says the same, and reading the numbers of hundreds of sculpts
//! takes longer than all the rest of a page.

use std::collections::HashMap;
use std::sync::{Mutex, PoisonError};

use rustc_hash::FxBuildHasher;

use crate::error::StoreError;

/// Bytes of text that are kept of a kind; beyond that it begins anew.
const MOST: usize = 24 << 20;

/// What was read of late, by its text.
pub(super) struct Read<T>(Mutex<(usize, HashMap<String, T, FxBuildHasher>)>);

impl<T: Clone> Read<T> {
    pub(super) const fn new() -> Self {
        Self(Mutex::new((0, HashMap::with_hasher(FxBuildHasher))))
    }

    /// What a text says.
    pub(super) fn of(
        &self,
        text: String,
        read: impl FnOnce(&str) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let kept = || self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = kept().1.get(&text) {
            return Ok(known.clone());
        }
        let said = read(&text)?;
        let mut kept = kept();
        kept.0 += text.len();
        if kept.0 > MOST {
            *kept = (text.len(), HashMap::default());
        }
        kept.1.insert(text, said.clone());
        Ok(said)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A text is read once, a fault is never kept, and what is kept does not grow without end.
    #[test]
    fn a_text_is_read_once() {
        let (kept, mut reads) = (Read::<Vec<f64>>::new(), 0);
        let mut of = |text: &str| {
            kept.of(text.to_owned(), |t| {
                reads += 1;
                super::super::read(t)
            })
        };
        assert!(of("[1, 2").is_err() && of("[1, 2").is_err());
        for _ in 0..3 {
            assert_eq!(of("[1, 2.5]").unwrap(), [1.0, 2.5]);
        }
        assert_eq!(of("[3]").unwrap(), [3.0]);
        assert_eq!(reads, 4);
        let long = "x".repeat(MOST / 2 + 1);
        let kept = Read::<usize>::new();
        for end in ["a", "b", "c"] {
            let said = kept.of(format!("{long}{end}"), |t| Ok(t.len()));
            assert_eq!(said.unwrap(), MOST / 2 + 2);
            assert_eq!(kept.0.lock().unwrap().1.len(), 1);
        }
    }
}
