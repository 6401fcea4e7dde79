//! The passphrase, and what is kept of it.

use argon2::password_hash::{PasswordHasher, PasswordVerifier};
use argon2::{Argon2, PasswordHash};

/// Letters a passphrase has at least: several words are easier to keep than signs.
const LEAST_LETTERS: usize = 10;

/// Why a passphrase cannot be taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PassphraseError {
    /// Too few letters.
    #[error("a passphrase has at least {LEAST_LETTERS} letters: three or four words do")]
    TooShort,
    /// The hash cannot be made.
    #[error("the passphrase cannot be kept: {0}")]
    Hash(String),
}

/// What is kept of a passphrase: never the words themselves.
///
/// # Errors
/// [`PassphraseError`].
pub fn keep_passphrase(words: &str) -> Result<String, PassphraseError> {
    let words = words.trim();
    if words.chars().count() < LEAST_LETTERS {
        return Err(PassphraseError::TooShort);
    }
    let hash = Argon2::default().hash_password(words.as_bytes());
    hash.map(|h| h.to_string())
        .map_err(|why| PassphraseError::Hash(why.to_string()))
}

/// Whether these are the words of which this is kept.
pub(crate) fn is_passphrase(words: &str, kept: &str) -> bool {
    PasswordHash::new(kept).is_ok_and(|hash| {
        let words = words.trim().as_bytes();
        Argon2::default().verify_password(words, &hash).is_ok()
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_the_words_open_it_and_they_are_not_kept() {
        let kept = keep_passphrase("heron over the fen").expect("long enough");
        assert!(!kept.contains("heron"));
        assert!(is_passphrase(" heron over the fen ", &kept));
        assert!(!is_passphrase("heron over the pond", &kept));
        assert!(!is_passphrase("", "") && !is_passphrase("x", "nonsense"));
        assert_eq!(keep_passphrase("heron"), Err(PassphraseError::TooShort));
    }
}
