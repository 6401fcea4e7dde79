//! What is scheduled: machines, jobs, when somebody is there. All times are whole minutes from the
//! start of the schedule.

/// A moment, minutes from the start of the schedule.
pub type Minute = u32;

/// The latest moment that is reckoned with: over a thousand years are somebody's slip.
pub const LATEST: Minute = 600_000_000;

/// From one moment to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Window {
    /// It begins.
    pub from: Minute,
    /// It is over.
    pub to: Minute,
}

impl Window {
    /// How long it is.
    #[must_use]
    pub const fn minutes(self) -> Minute {
        self.to.saturating_sub(self.from)
    }
}

/// What a printer does when the schedule begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Busy {
    /// It prints until then.
    pub until: Minute,
    /// Taking off what it prints takes the hands so long.
    pub unload: Minute,
}

/// A printer, as the schedule sees it.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Machine {
    /// What is on it, where it prints or waits to be taken off.
    pub busy: Option<Busy>,
    /// It can be used from then on.
    pub from: Minute,
    /// The resin in its vat; any where nobody knows.
    pub resin: Option<u32>,
    /// To bring in another resin takes the hands so long; nothing where a second vat stands ready.
    pub change: Minute,
}

/// A plate, as the schedule sees it.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Job {
    /// How long each machine prints it; nothing where it cannot.
    pub print: Vec<Option<Minute>>,
    /// Putting it on takes the hands so long.
    pub load: Minute,
    /// After that somebody stays in reach so long, with free hands.
    pub stay: Minute,
    /// Taking it off takes the hands so long.
    pub unload: Minute,
    /// How much an earlier end is worth.
    pub weight: u32,
    /// Its resin; nothing where resins do not matter.
    pub resin: Option<u32>,
    /// Somebody wants it there and then.
    pub pin: Option<Pin>,
}

/// Where somebody wants a plate.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pin {
    /// On this machine, by its place.
    pub machine: usize,
    /// Not before that.
    pub from: Minute,
}

/// One maker's machines and what they have to do.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Shop {
    /// The machines.
    pub machines: Vec<Machine>,
    /// The plates.
    pub jobs: Vec<Job>,
    /// When somebody is there, in order; none contains another.
    pub attended: Vec<Window>,
    /// When nothing may print, in order, apart from each other.
    pub quiet: Vec<Window>,
}

impl Shop {
    /// Puts windows in order and drops those inside another.
    #[must_use]
    pub fn ordered(mut windows: Vec<Window>) -> Vec<Window> {
        windows.retain(|w| w.from < w.to);
        windows.sort_by_key(|w| (w.from, std::cmp::Reverse(w.to)));
        let mut kept: Vec<Window> = Vec::new();
        for window in windows {
            if kept.last().is_none_or(|last| last.to < window.to) {
                kept.push(window);
            }
        }
        kept
    }

    /// The minutes the hands are needed for a job on a machine that holds this resin.
    #[must_use]
    pub fn load_on(&self, job: usize, machine: usize, holds: Option<u32>) -> Minute {
        let (of, on) = (&self.jobs[job], &self.machines[machine]);
        match (of.resin, holds) {
            (Some(wanted), Some(held)) if wanted != held => of.load + on.change,
            _ => of.load,
        }
    }

    /// Machines that can print a job, where nobody pinned it to one.
    pub(super) fn machines_of(&self, job: usize) -> Vec<usize> {
        let of = &self.jobs[job];
        (0..self.machines.len())
            .filter(|m| of.print.get(*m).is_some_and(Option::is_some))
            .filter(|m| of.pin.is_none_or(|pin| pin.machine == *m))
            .collect()
    }
}

/// A job in its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Slot {
    /// The job, by its place.
    pub job: usize,
    /// Its machine, by its place.
    pub machine: usize,
    /// Somebody begins to put it on.
    pub load: Minute,
    /// It prints from then,
    pub prints: Minute,
    /// until then.
    pub printed: Minute,
    /// Somebody begins to take it off.
    pub unload: Minute,
    /// It is off, and its machine free.
    pub end: Minute,
}

/// Jobs in their places.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Schedule {
    /// In the order in which they were given their places.
    pub slots: Vec<Slot>,
    /// What was on machines is taken off: machine, and when somebody begins to.
    pub first_unloads: Vec<(usize, Minute)>,
}

/// How good a schedule is; less is better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Ends {
    /// The last job is off.
    pub last: Minute,
    /// Sum of each job's end times its weight.
    pub weighted: u64,
}

impl Ends {
    /// Nothing is done.
    pub(super) const NONE: Self = Self {
        last: 0,
        weighted: 0,
    };
    /// No limit at all.
    pub(super) const NEVER: Self = Self {
        last: Minute::MAX,
        weighted: u64::MAX,
    };
}

impl Schedule {
    /// When it ends.
    #[must_use]
    pub fn ends(&self, shop: &Shop) -> Ends {
        let slots = self.slots.iter();
        Ends {
            last: slots.clone().map(|s| s.end).max().unwrap_or(0),
            weighted: slots
                .map(|s| u64::from(s.end) * u64::from(shop.jobs[s.job].weight))
                .sum(),
        }
    }
}
