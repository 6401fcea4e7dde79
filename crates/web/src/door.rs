//! Who comes in where the server listens beyond this machine: whoever knows the passphrase, or
//! carries a token that was shown once on a screen that is in already.

use std::sync::{Mutex, PoisonError};
use std::time::Instant;

use argon2::password_hash::{PasswordHasher, PasswordVerifier};
use argon2::{Argon2, PasswordHash};

/// Letters a passphrase has at least: several words are easier to keep than signs.
const LEAST_LETTERS: usize = 10;
/// How long a token is good for, ms.
const TOKEN_MS: i64 = 5 * 60_000;
/// Longest wait after wrong ones, s.
const LONGEST_S: i64 = 300;

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

/// The door: how often it was knocked at with wrong words, and the tokens that are out.
/// Its time is that of the machine, whatever time the workshop is told.
#[derive(Debug)]
pub(crate) struct Door {
    began: Instant,
    wrong: Mutex<Wrong>,
    tokens: Mutex<Vec<(String, i64)>>,
    /// One attempt at a time: many at once would all come before the first was found wrong.
    pub(crate) one_by_one: tokio::sync::Mutex<()>,
}

#[derive(Debug, Default)]
struct Wrong {
    times: u32,
    until_ms: i64,
}

impl Default for Door {
    fn default() -> Self {
        Self {
            began: Instant::now(),
            wrong: Mutex::default(),
            tokens: Mutex::default(),
            one_by_one: tokio::sync::Mutex::default(),
        }
    }
}

impl Door {
    /// The door's own time, ms.
    pub(crate) fn now_ms(&self) -> i64 {
        i64::try_from(self.began.elapsed().as_millis()).unwrap_or(i64::MAX)
    }

    /// How long the next attempt has to wait, s; 0 where it may come now.
    pub(crate) fn wait_s(&self, now_ms: i64) -> i64 {
        let wrong = self.wrong.lock().unwrap_or_else(PoisonError::into_inner);
        (wrong.until_ms - now_ms + 999).max(0) / 1000
    }

    /// The words were wrong: every time twice as long as before.
    pub(crate) fn was_wrong(&self, now_ms: i64) {
        let mut wrong = self.wrong.lock().unwrap_or_else(PoisonError::into_inner);
        let wait = (1_i64 << wrong.times.min(20)).min(LONGEST_S);
        wrong.times = wrong.times.saturating_add(1);
        wrong.until_ms = now_ms + wait * 1000;
    }

    /// The words were right.
    pub(crate) fn was_right(&self) {
        *self.wrong.lock().unwrap_or_else(PoisonError::into_inner) = Wrong::default();
    }

    /// A token that lets one device in, once.
    pub(crate) fn token(&self, now_ms: i64) -> String {
        let token = uuid::Uuid::new_v4().simple().to_string();
        let mut out = self.tokens.lock().unwrap_or_else(PoisonError::into_inner);
        out.retain(|(_, until)| *until > now_ms);
        out.push((token.clone(), now_ms + TOKEN_MS));
        token
    }

    /// Takes a token in: true once, and only in its time.
    pub(crate) fn takes(&self, token: &str, now_ms: i64) -> bool {
        let mut out = self.tokens.lock().unwrap_or_else(PoisonError::into_inner);
        out.retain(|(_, until)| *until > now_ms);
        let there = out.iter().position(|(t, _)| t == token);
        there.map(|at| out.remove(at)).is_some()
    }
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

    /// Wrong words wait 1, 2, 4 … s, five minutes at most; right ones forget it.
    #[test]
    fn wrong_words_are_slowed() {
        let door = Door::default();
        assert_eq!(door.wait_s(0), 0);
        for expected in [1, 2, 4, 8] {
            door.was_wrong(0);
            assert_eq!(door.wait_s(0), expected);
        }
        assert_eq!(door.wait_s(7_500), 1);
        assert_eq!(door.wait_s(8_000), 0);
        for _ in 0..40 {
            door.was_wrong(0);
        }
        assert_eq!(door.wait_s(0), LONGEST_S);
        door.was_right();
        assert_eq!(door.wait_s(0), 0);
    }

    #[test]
    fn a_token_is_good_once_and_not_for_long() {
        let door = Door::default();
        let [one, other] = [door.token(0), door.token(0)];
        assert_ne!(one, other);
        assert!(door.takes(&one, 1000) && !door.takes(&one, 1000));
        assert!(!door.takes(&other, TOKEN_MS));
        assert!(!door.takes("", 0));
    }
}
