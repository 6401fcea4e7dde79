//! Devices that are in, until they leave, are sent out, or the server ends.

use std::collections::BTreeMap;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// Devices that are in at once; whoever was not seen for longest goes out.
const MOST: usize = 256;

/// One that is in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Device {
    /// Its number, which its session holds.
    pub(crate) id: u64,
    /// It says that it is one for the pocket.
    pub(crate) mobile: bool,
    /// Where it came from.
    pub(crate) address: String,
    /// Since when it is in, ms since 1970.
    pub(crate) since_ms: i64,
    /// When it last asked for something, ms since 1970.
    pub(crate) seen_ms: i64,
}

#[derive(Debug, Default)]
struct In {
    last: u64,
    by_id: BTreeMap<u64, Device>,
}

/// All that are in.
#[derive(Debug, Default)]
pub(crate) struct Devices(Mutex<In>);

impl Devices {
    fn all_in(&self) -> MutexGuard<'_, In> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// One comes in, and gets a number.
    pub(crate) fn comes(&self, mobile: bool, address: String, now_ms: i64) -> u64 {
        let mut all = self.all_in();
        if all.by_id.len() >= MOST {
            let oldest = all.by_id.values().min_by_key(|d| d.seen_ms).map(|d| d.id);
            oldest.and_then(|id| all.by_id.remove(&id));
        }
        all.last += 1;
        let id = all.last;
        all.by_id.insert(
            id,
            Device {
                id,
                mobile,
                address,
                since_ms: now_ms,
                seen_ms: now_ms,
            },
        );
        id
    }

    /// Whether one is in; it is seen.
    pub(crate) fn is_in(&self, id: u64, now_ms: i64) -> bool {
        let mut all = self.all_in();
        let device = all.by_id.get_mut(&id);
        device.map(|d| d.seen_ms = now_ms).is_some()
    }

    /// One goes out; false where it was not in.
    pub(crate) fn goes(&self, id: u64) -> bool {
        self.all_in().by_id.remove(&id).is_some()
    }

    /// All go out but this one.
    pub(crate) fn only(&self, id: Option<u64>) {
        self.all_in().by_id.retain(|known, _| Some(*known) == id);
    }

    /// Those that are in, who came last first.
    pub(crate) fn list(&self) -> Vec<Device> {
        self.all_in().by_id.values().rev().cloned().collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn devices_are_in_until_they_go() {
        let devices = Devices::default();
        let come = |now| devices.comes(false, "10.0.0.9".into(), now);
        let [one, two, three] = [come(1), come(2), come(3)];
        assert!(devices.is_in(one, 9) && devices.goes(two) && !devices.goes(two));
        assert!(!devices.is_in(two, 9));
        let seen: Vec<_> = devices.list().iter().map(|d| (d.id, d.seen_ms)).collect();
        assert_eq!(seen, [(three, 3), (one, 9)]);
        devices.only(Some(one));
        assert_eq!(devices.list().len(), 1);
        for now in 10..300 {
            come(now);
        }
        assert_eq!(devices.list().len(), MOST);
        assert!(!devices.is_in(one, 999), "it was not seen for longest");
        devices.only(None);
        assert!(devices.list().is_empty());
    }
}
