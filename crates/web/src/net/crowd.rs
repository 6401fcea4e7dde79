//! Everybody who is connected.

use std::collections::BTreeMap;
use std::net::IpAddr;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use tokio::sync::Notify;

use super::peer::one_of;

/// How many may be connected.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Room {
    /// In all.
    pub in_all: usize,
    /// From one address that is not this machine's own.
    pub from_one: usize,
}

impl Default for Room {
    fn default() -> Self {
        Self {
            in_all: 256,
            from_one: 64,
        }
    }
}

/// What somebody is doing, those first who leave first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Doing {
    /// Has said nothing yet.
    Silent,
    /// Was answered, and says nothing.
    Idle,
    /// Waits for an answer.
    Asking,
}

#[derive(Debug)]
struct Guest {
    from: IpAddr,
    doing: Doing,
    /// Who asks is let in.
    let_in: bool,
    /// All is said that is asked.
    heard: bool,
    /// Counts up: who did something last has the highest.
    turn: u64,
    leave: Arc<Notify>,
}

impl Guest {
    /// Nobody leaves who is let in, has said what they ask, and waits for the answer.
    fn stays(&self) -> bool {
        self.doing == Doing::Asking && self.let_in && self.heard
    }
}

#[derive(Debug, Default)]
struct Guests {
    by_number: BTreeMap<u64, Guest>,
    turns: u64,
}

impl Guests {
    /// Sends the first of those who can leave away; false where nobody can.
    fn make_room(&mut self, among: impl Fn(&Guest) -> bool) -> bool {
        let can = self.by_number.iter().filter(|(_, g)| among(g));
        let first = can
            .filter(|(_, g)| !g.stays())
            .min_by_key(|(_, g)| (g.doing, g.let_in, g.turn))
            .map(|(number, _)| *number);
        let guest = first.and_then(|number| self.by_number.remove(&number));
        if let Some(guest) = &guest {
            guest.leave.notify_one();
        }
        guest.is_some()
    }

    fn turn(&mut self) -> u64 {
        self.turns += 1;
        self.turns
    }
}

/// Everybody who is connected; cheap to clone.
#[derive(Debug, Clone)]
pub(super) struct Crowd {
    guests: Arc<Mutex<Guests>>,
    room: Room,
}

impl Crowd {
    pub(super) fn new(room: Room) -> Self {
        Self {
            guests: Arc::default(),
            room,
        }
    }

    fn guests(&self) -> MutexGuard<'_, Guests> {
        self.guests.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Somebody comes; others leave where there is no room. Nothing where nobody can.
    pub(super) fn join(&self, from: IpAddr) -> Option<Arc<Seat>> {
        let from = one_of(from);
        let mut guests = self.guests();
        let theirs = guests.by_number.values().filter(|g| g.from == from).count();
        // A proxy in front, and all who come by it, are this machine.
        if theirs >= self.room.from_one
            && !from.is_loopback()
            && !guests.make_room(|g| g.from == from)
        {
            return None;
        }
        if guests.by_number.len() >= self.room.in_all && !guests.make_room(|_| true) {
            return None;
        }
        let number = guests.turn();
        let leave = Arc::new(Notify::new());
        guests.by_number.insert(
            number,
            Guest {
                from,
                doing: Doing::Silent,
                let_in: false,
                heard: false,
                turn: number,
                leave: Arc::clone(&leave),
            },
        );
        let crowd = self.clone();
        Some(Arc::new(Seat {
            number,
            leave,
            crowd,
        }))
    }

    /// One leaves, whoever can.
    pub(super) fn make_room(&self) {
        self.guests().make_room(|_| true);
    }

    fn with(&self, number: u64, change: impl FnOnce(&mut Guest)) {
        let mut guests = self.guests();
        let turn = guests.turn();
        if let Some(guest) = guests.by_number.get_mut(&number) {
            guest.turn = turn;
            change(guest);
        }
    }
}

/// The place of one who is connected; it is free again when this is dropped.
#[derive(Debug)]
pub(crate) struct Seat {
    number: u64,
    leave: Arc<Notify>,
    crowd: Crowd,
}

/// Somebody waits for an answer as long as this lives.
#[derive(Debug)]
pub(super) struct Asking(Arc<Seat>);

impl Seat {
    /// A request has come.
    pub(super) fn asks(self: &Arc<Self>) -> Asking {
        self.crowd.with(self.number, |guest| {
            (guest.doing, guest.let_in, guest.heard) = (Doing::Asking, false, false);
        });
        Asking(Arc::clone(self))
    }

    /// Who asks is let in.
    pub(crate) fn is_let_in(&self) {
        self.crowd.with(self.number, |guest| guest.let_in = true);
    }

    /// The last of the request has come.
    pub(super) fn is_heard(&self) {
        self.crowd.with(self.number, |guest| guest.heard = true);
    }

    /// Resolves when others need the place.
    pub(super) async fn has_to_leave(&self) {
        self.leave.notified().await;
    }
}

impl Drop for Asking {
    fn drop(&mut self) {
        (self.0.crowd).with(self.0.number, |guest| guest.doing = Doing::Idle);
    }
}

impl Drop for Seat {
    fn drop(&mut self) {
        self.crowd.guests().by_number.remove(&self.number);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const HERE: IpAddr = IpAddr::V4(std::net::Ipv4Addr::LOCALHOST);

    fn there(n: u8) -> IpAddr {
        IpAddr::from([192, 168, 7, n])
    }

    fn crowd(in_all: usize, from_one: usize) -> Crowd {
        Crowd::new(Room { in_all, from_one })
    }

    /// Numbers of those who are still there.
    fn left(crowd: &Crowd) -> Vec<u64> {
        crowd.guests().by_number.keys().copied().collect()
    }

    /// Silent ones leave before idle ones, idle ones before strangers who ask, these before those who are let in and
    /// have not said all they ask, the longest first; nobody else.
    #[test]
    fn who_says_nothing_makes_room() {
        let crowd = crowd(4, 4);
        let seats: Vec<_> = (1..=4).filter_map(|n| crowd.join(there(n))).collect();
        let served = seats[0].asks();
        seats[0].is_let_in();
        seats[0].is_heard();
        let stranger = seats[1].asks();
        drop(seats[2].asks());
        let numbers: Vec<u64> = seats.iter().map(|s| s.number).collect();
        let more: Vec<_> = (5..=7)
            .map(|n| {
                let seat = crowd.join(there(n)).expect("room");
                let busy = seat.asks();
                seat.is_let_in();
                if n < 7 {
                    seat.is_heard();
                }
                (seat, busy)
            })
            .collect();
        let mut expected = vec![numbers[0]];
        expected.extend(more.iter().map(|(s, _)| s.number));
        assert_eq!(left(&crowd), expected);
        // One is let in and has not said all: it leaves. The others wait for their answers: there is no room any more.
        let last = crowd.join(there(8)).expect("room");
        let slow = more[2].0.number;
        assert!(!left(&crowd).contains(&slow));
        let _busy = last.asks();
        last.is_let_in();
        last.is_heard();
        assert!(crowd.join(there(9)).is_none());
        drop((served, stranger));
        assert!(crowd.join(there(9)).is_some());
    }

    /// One address takes no more than its share, and makes room among its own; a proxy here has no share.
    #[test]
    fn one_address_takes_its_share_only() {
        let crowd = crowd(10, 2);
        let other = crowd.join(there(1)).expect("room");
        let theirs: Vec<_> = (0..5).filter_map(|_| crowd.join(there(2))).collect();
        let own: Vec<_> = (0..5).filter_map(|_| crowd.join(HERE)).collect();
        assert_eq!(theirs.len() + own.len(), 10);
        let left = left(&crowd);
        assert_eq!(left.len(), 1 + 2 + 5);
        assert!(left.contains(&other.number) && left.contains(&theirs[4].number));
        drop((theirs, own, other));
        assert!(crowd.guests().by_number.is_empty());
    }
}
