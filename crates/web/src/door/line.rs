//! Those who try words wait in lines: one for each address, and one for each device that was in before. Nobody's wrong
//! words hold up another, and right ones are never turned away because of them: they wait for their turn.

use std::collections::HashMap;
use std::net::IpAddr;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use tokio::sync::OwnedMutexGuard;
use tokio::time::{Instant, sleep_until};

/// So many wait in a line; whoever comes then is turned away.
const LONGEST_LINE: usize = 5;
/// Longest wait after wrong words.
const LONGEST_WAIT: Duration = Duration::from_secs(10);
/// Lines that are kept.
const MOST_LINES: usize = 4096;
/// Devices that were in before.
const MOST_KNOWN: usize = 256;

/// Whose line it is.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(crate) enum Who {
    /// Whoever comes from there.
    Address(IpAddr),
    /// A device that was in before, by what it was given then.
    Known(String),
}

#[derive(Debug)]
struct Wrong {
    times: u32,
    until: Instant,
}

#[derive(Debug)]
struct Line {
    wrong: Arc<tokio::sync::Mutex<Wrong>>,
    waiting: AtomicUsize,
    last: Mutex<Instant>,
}

impl Line {
    fn new() -> Arc<Self> {
        let now = Instant::now();
        Arc::new(Self {
            wrong: Arc::new(tokio::sync::Mutex::new(Wrong {
                times: 0,
                until: now,
            })),
            waiting: AtomicUsize::new(0),
            last: Mutex::new(now),
        })
    }

    fn last(&self) -> MutexGuard<'_, Instant> {
        self.last.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// All lines.
#[derive(Debug, Default)]
pub(crate) struct Lines {
    by_whom: Mutex<HashMap<Who, Arc<Line>>>,
    known: Mutex<Vec<String>>,
    /// Words are compared one at a time, whoever's they are: it takes memory on purpose.
    comparing: Arc<tokio::sync::Mutex<()>>,
}

/// Whose turn it is to say words.
#[derive(Debug)]
pub(crate) struct Turn {
    wrong: OwnedMutexGuard<Wrong>,
    _place: Place,
    _comparing: OwnedMutexGuard<()>,
}

/// A place in a line.
#[derive(Debug)]
struct Place(Arc<Line>);

impl Drop for Place {
    fn drop(&mut self) {
        self.0.waiting.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Lines {
    /// Waits for the turn; nothing where too many wait in this line.
    pub(crate) async fn turn(&self, who: Who) -> Option<Turn> {
        let place = self.place(who)?;
        let wrong = Arc::clone(&place.0.wrong).lock_owned().await;
        sleep_until(wrong.until).await;
        let comparing = Arc::clone(&self.comparing).lock_owned().await;
        Some(Turn {
            wrong,
            _place: place,
            _comparing: comparing,
        })
    }

    fn place(&self, who: Who) -> Option<Place> {
        let mut lines = self.by_whom.lock().unwrap_or_else(PoisonError::into_inner);
        if lines.len() >= MOST_LINES && !lines.contains_key(&who) {
            // Whoever has not come for longest is forgotten, unless somebody waits there.
            let free = |line: &Line| line.waiting.load(Ordering::Relaxed) == 0;
            let oldest = lines.iter().filter(|(_, l)| free(l));
            let oldest = oldest
                .min_by_key(|(_, l)| *l.last())
                .map(|(w, _)| w.clone());
            lines.remove(&oldest?);
        }
        let line = lines.entry(who).or_insert_with(Line::new);
        if line.waiting.load(Ordering::Relaxed) >= LONGEST_LINE {
            return None;
        }
        line.waiting.fetch_add(1, Ordering::Relaxed);
        *line.last() = Instant::now();
        Some(Place(Arc::clone(line)))
    }

    /// A device that is in is known from now on, by this.
    pub(crate) fn know(&self) -> String {
        let token = uuid::Uuid::new_v4().simple().to_string();
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        if known.len() >= MOST_KNOWN {
            known.remove(0);
        }
        known.push(token.clone());
        token
    }

    /// Whose line it is, by what a device was given and where it is.
    pub(crate) fn who(&self, token: Option<&str>, from: IpAddr) -> Who {
        let known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        let known = token.filter(|t| known.iter().any(|k| k == t));
        known.map_or(Who::Address(from), |t| Who::Known(t.to_owned()))
    }
}

impl Turn {
    /// The words were wrong: the next in line waits twice as long as before.
    pub(crate) fn was_wrong(mut self) {
        let wait = Duration::from_secs(1 << self.wrong.times.min(20)).min(LONGEST_WAIT);
        self.wrong.times = self.wrong.times.saturating_add(1);
        self.wrong.until = Instant::now() + wait;
    }

    /// The words were right.
    pub(crate) fn was_right(mut self) {
        self.wrong.times = 0;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn from(n: u8) -> Who {
        Who::Address(IpAddr::from([192, 168, 7, n]))
    }

    /// Wrong words wait 1, 2, 4 … s, ten at most; right ones forget it. Others do not wait at all.
    #[tokio::test(start_paused = true)]
    async fn wrong_words_are_slowed_in_their_own_line() {
        let lines = Lines::default();
        let waited = async |who: Who| {
            let began = Instant::now();
            let turn = lines.turn(who).await.expect("a place");
            (turn, began.elapsed().as_secs())
        };
        for expected in [0, 1, 2, 4, 8, 10, 10] {
            let (turn, s) = waited(from(1)).await;
            assert_eq!(s, expected);
            turn.was_wrong();
            let (other, s) = waited(from(2)).await;
            assert_eq!(s, 0, "another line");
            other.was_right();
        }
        let (turn, _) = waited(from(1)).await;
        turn.was_right();
        assert_eq!(waited(from(1)).await.1, 0);
    }

    /// Five wait, the sixth is turned away; a device that was in before has a line of its own.
    #[tokio::test(start_paused = true)]
    async fn a_line_is_bounded_and_known_devices_have_their_own() {
        let lines = Arc::new(Lines::default());
        lines.turn(from(1)).await.expect("a place").was_wrong();
        let waiting: Vec<_> = (0..5)
            .map(|_| {
                let lines = Arc::clone(&lines);
                tokio::spawn(async move { lines.turn(from(1)).await.expect("a place").was_wrong() })
            })
            .collect();
        tokio::task::yield_now().await;
        assert!(lines.turn(from(1)).await.is_none());
        let known = lines.know();
        let address = IpAddr::from([192, 168, 7, 1]);
        assert_eq!(lines.who(Some("nonsense"), address), from(1));
        assert_eq!(lines.who(None, address), from(1));
        let who = lines.who(Some(&known), address);
        assert!(lines.turn(who).await.is_some());
        for one in waiting {
            one.await.expect("their turn came");
        }
        assert!(lines.turn(from(1)).await.is_some());
    }

    #[tokio::test(start_paused = true)]
    async fn no_number_of_addresses_takes_memory_for_ever() {
        let lines = Lines::default();
        for n in 0..MOST_LINES as u128 + 50 {
            let who = Who::Address(std::net::Ipv6Addr::from_bits(n << 64).into());
            lines.turn(who).await.expect("a place").was_wrong();
        }
        let kept = lines.by_whom.lock().expect("nobody panicked").len();
        assert_eq!(kept, MOST_LINES);
    }
}
