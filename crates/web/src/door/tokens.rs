//! Tokens that let one device in, once. Their time is that of the machine, whatever time the
//! workshop is told.

use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use tokio::time::Instant;

/// How long one is good for.
const GOOD: Duration = Duration::from_secs(5 * 60);

/// Those that are out.
#[derive(Debug, Default)]
pub(crate) struct Tokens(Mutex<Vec<(String, Instant)>>);

impl Tokens {
    fn out(&self) -> MutexGuard<'_, Vec<(String, Instant)>> {
        let mut out = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        out.retain(|(_, until)| *until > Instant::now());
        out
    }

    /// Another.
    pub(crate) fn make(&self) -> String {
        let token = uuid::Uuid::new_v4().simple().to_string();
        self.out().push((token.clone(), Instant::now() + GOOD));
        token
    }

    /// Takes one in: true once, and only in its time.
    pub(crate) fn takes(&self, token: &str) -> bool {
        let mut out = self.out();
        let there = out.iter().position(|(t, _)| t == token);
        there.map(|at| out.remove(at)).is_some()
    }

    /// None that is out is good any more.
    pub(crate) fn forget(&self) {
        self.out().clear();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test(start_paused = true)]
    async fn a_token_is_good_once_and_not_for_long() {
        let tokens = Tokens::default();
        let [one, other, last] = [tokens.make(), tokens.make(), tokens.make()];
        assert_ne!(one, other);
        assert!(tokens.takes(&one) && !tokens.takes(&one) && !tokens.takes(""));
        tokio::time::advance(GOOD - Duration::from_secs(1)).await;
        assert!(tokens.takes(&last));
        tokio::time::advance(Duration::from_secs(1)).await;
        assert!(!tokens.takes(&other));
        let forgotten = tokens.make();
        tokens.forget();
        assert!(!tokens.takes(&forgotten));
    }
}
