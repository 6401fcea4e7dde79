//! From an order of jobs to their places: each as early as it can be.

use super::hands::Hands;
use super::shop::{Ends, Minute, Schedule, Shop, Slot};

/// Why no schedule can be made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum ScheduleError {
    /// The windows end before everything is off.
    #[error("somebody is there too seldom for it: add windows, or longer ones")]
    NoWindow {
        /// The job that found no place.
        job: usize,
    },
    /// No machine can print it.
    #[error("no printer can take it")]
    NoMachine {
        /// The job.
        job: usize,
    },
    /// What is on a machine can never be taken off.
    #[error("nobody is there to take off what a printer has on it")]
    NeverOff {
        /// The machine.
        machine: usize,
    },
}

/// A job in an order: where it goes, and how many of the jobs after it choose their places before
/// it is taken off. Mostly none; hands that are wanted at the same moment are why.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Turn {
    pub(super) job: usize,
    pub(super) machine: usize,
    pub(super) wait: u8,
}

/// Jobs in the order in which they choose their places.
pub(super) type Order = Vec<Turn>;

/// Gives places to jobs one after another, again and again without asking for memory.
#[derive(Debug, Clone)]
pub(super) struct Layer<'a> {
    shop: &'a Shop,
    hands: Hands<'a>,
    free: Vec<Minute>,
    holds: Vec<Option<u32>>,
    on_it: Vec<bool>,
    printed: Vec<Minute>,
    /// Slots that are not taken off yet, and how many jobs are before them.
    waiting: Vec<(u8, usize)>,
    ends: Ends,
    /// What was placed so far.
    pub(super) laid: Schedule,
}

impl<'a> Layer<'a> {
    pub(super) fn new(shop: &'a Shop) -> Self {
        let mut layer = Self {
            shop,
            hands: Hands::new(&shop.attended),
            free: Vec::new(),
            holds: Vec::new(),
            on_it: Vec::new(),
            printed: Vec::new(),
            waiting: Vec::new(),
            ends: Ends::NONE,
            laid: Schedule::default(),
        };
        layer.begin();
        layer
    }

    /// Nothing is placed any more.
    pub(super) fn begin(&mut self) {
        let machines = &self.shop.machines;
        self.hands.clear();
        self.free.clear();
        self.free.extend(machines.iter().map(|m| m.from));
        self.holds.clear();
        self.holds.extend(machines.iter().map(|m| m.resin));
        self.on_it.clear();
        self.on_it.extend(machines.iter().map(|m| m.busy.is_some()));
        self.printed.clear();
        self.printed.resize(machines.len(), 0);
        self.waiting.clear();
        self.ends = Ends::NONE;
        self.laid.slots.clear();
        self.laid.first_unloads.clear();
    }

    /// What a machine has on it comes off before anything else is put there.
    fn clear_machine(&mut self, machine: usize) -> Result<(), ScheduleError> {
        let on = |(_, slot): &(u8, usize)| self.laid.slots[*slot].machine == machine;
        if let Some(at) = self.waiting.iter().position(on) {
            let (_, slot) = self.waiting.remove(at);
            self.take_off(slot)?;
        }
        let Some(busy) = self.shop.machines[machine].busy else {
            return Ok(());
        };
        if !std::mem::replace(&mut self.on_it[machine], false) {
            return Ok(());
        }
        let off = self.hands.take(busy.until, busy.unload, busy.unload);
        let off = off.ok_or(ScheduleError::NeverOff { machine })?;
        self.laid.first_unloads.push((machine, off));
        self.free[machine] = self.free[machine].max(off + busy.unload);
        Ok(())
    }

    fn take_off(&mut self, slot: usize) -> Result<(), ScheduleError> {
        let placed = &mut self.laid.slots[slot];
        let of = &self.shop.jobs[placed.job];
        let unload = self.hands.take(placed.printed, of.unload, of.unload);
        let job = placed.job;
        placed.unload = unload.ok_or(ScheduleError::NoWindow { job })?;
        placed.end = placed.unload + of.unload;
        self.free[placed.machine] = placed.end;
        self.ends.last = self.ends.last.max(placed.end);
        self.ends.weighted += u64::from(placed.end) * u64::from(of.weight);
        Ok(())
    }

    /// Places a job on a machine, after what is there, as early as it can be.
    pub(super) fn place(&mut self, turn: Turn) -> Result<(), ScheduleError> {
        let Turn { job, machine, wait } = turn;
        let no_window = ScheduleError::NoWindow { job };
        let of = &self.shop.jobs[job];
        let print = of.print.get(machine).copied().flatten();
        let print = print.ok_or(ScheduleError::NoMachine { job })?;
        self.clear_machine(machine)?;
        let hands = self.shop.load_on(job, machine, self.holds[machine]);
        let mut from = self.free[machine];
        if let Some(pin) = of.pin {
            from = from.max(pin.from);
        }
        let load = loop {
            let at = self.hands.free(from, hands, hands + of.stay);
            let at = at.ok_or(no_window)?;
            match quiet_until(self.shop, at + hands, print) {
                None => break at,
                Some(over) => from = over.saturating_sub(hands).max(at + 1),
            }
        };
        // It was just seen to be free.
        self.hands.take(load, hands, hands + of.stay);
        let prints = load + hands;
        let printed = prints + print;
        self.printed[machine] = printed + of.unload;
        if of.resin.is_some() {
            self.holds[machine] = of.resin;
        }
        self.laid.slots.push(Slot {
            job,
            machine,
            load,
            prints,
            printed,
            unload: printed,
            end: printed + of.unload,
        });
        if !self.waiting.is_empty() {
            self.next_off()?;
        }
        let slot = self.laid.slots.len() - 1;
        if wait > 0 {
            self.waiting.push((wait, slot));
            return Ok(());
        }
        self.take_off(slot)
    }

    /// One job less is before those that wait to be taken off.
    fn next_off(&mut self) -> Result<(), ScheduleError> {
        let mut at = 0;
        while at < self.waiting.len() {
            self.waiting[at].0 -= 1;
            if self.waiting[at].0 > 0 {
                at += 1;
                continue;
            }
            let (_, slot) = self.waiting.remove(at);
            self.take_off(slot)?;
        }
        Ok(())
    }

    /// When a job on a machine would be off, were it placed next; other jobs are not looked at.
    pub(super) fn would_end(&mut self, job: usize, machine: usize) -> Option<Minute> {
        self.clear_machine(machine).ok()?;
        let of = &self.shop.jobs[job];
        let hands = self.shop.load_on(job, machine, self.holds[machine]);
        let print = of.print.get(machine).copied().flatten()?;
        let from = self.free[machine].max(of.pin.map_or(0, |p| p.from));
        let load = self.hands.free(from, hands, hands + of.stay)?;
        let printed = load + hands + print;
        Some(self.hands.free(printed, of.unload, of.unload)? + of.unload)
    }

    /// Minutes that machines print after a moment, all together: what is printed by then, and only
    /// taken off later, does not count, so that there is a slope between two windows.
    pub(super) fn prints_after(&self, moment: Minute) -> u64 {
        let over = |at: &Minute| u64::from(at.saturating_sub(moment));
        self.printed.iter().map(over).sum()
    }

    /// Everything that waits comes off, and whatever is on machines that got nothing.
    pub(super) fn finish(&mut self) -> Result<Ends, ScheduleError> {
        while !self.waiting.is_empty() {
            let (_, slot) = self.waiting.remove(0);
            self.take_off(slot)?;
        }
        (0..self.shop.machines.len()).try_for_each(|m| self.clear_machine(m))?;
        Ok(self.ends)
    }

    /// Places all of an order; gives up where it ends after the limit, or weighs more.
    pub(super) fn lay(&mut self, order: &[Turn], limit: Ends) -> Option<Ends> {
        self.begin();
        for turn in order {
            self.place(*turn).ok()?;
            if self.ends.last > limit.last || self.ends.weighted > limit.weighted {
                return None;
            }
        }
        self.finish().ok()
    }
}

/// Where printing would fall into quiet hours: when those are over.
fn quiet_until(shop: &Shop, from: Minute, minutes: Minute) -> Option<Minute> {
    let at = shop.quiet.partition_point(|q| q.to <= from);
    let quiet = shop.quiet.get(at)?;
    (quiet.from < from + minutes).then_some(quiet.to)
}
