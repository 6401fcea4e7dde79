//! Looks at a schedule anew, sharing nothing with what made it.

use super::shop::{Minute, Schedule, Shop};

/// What is wrong with a schedule.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ScheduleFault {
    /// A job is missing, or there twice.
    #[error("job {0} is not there once")]
    NotOnce(usize),
    /// Its machine cannot print it, or somebody wanted it elsewhere or later.
    #[error("job {0} is on a machine, or at a time, where it must not be")]
    Misplaced(usize),
    /// Its times do not follow from each other.
    #[error("job {0} is taken off before it is printed")]
    TooEarly(usize),
    /// Nobody is there.
    #[error("nobody is there from {0} to {1}")]
    Unattended(Minute, Minute),
    /// Hands or a machine would do two things at a time.
    #[error("{0} at {1} and at {2} overlap")]
    Overlap(&'static str, Minute, Minute),
    /// It prints in quiet hours.
    #[error("job {0} prints in quiet hours")]
    Quiet(usize),
    /// What a machine has on it is not taken off, or not when it is printed.
    #[error("machine {0} is not cleared")]
    NotCleared(usize),
}

/// The faults of a schedule; none where it can be carried out.
#[must_use]
pub fn check_schedule(shop: &Shop, schedule: &Schedule) -> Vec<ScheduleFault> {
    let mut faults = Vec::new();
    let attended = |a: Minute, b: Minute| shop.attended.iter().any(|w| w.from <= a && b <= w.to);
    let mut hands: Vec<(Minute, Minute)> = Vec::new();
    let mut use_of: Vec<Vec<(Minute, Minute)>> = vec![Vec::new(); shop.machines.len()];
    for (m, machine) in shop.machines.iter().enumerate() {
        let off: Vec<Minute> = schedule
            .first_unloads
            .iter()
            .filter(|(of, _)| *of == m)
            .map(|(_, at)| *at)
            .collect();
        match (machine.busy, off.as_slice()) {
            (None, []) => {}
            (Some(busy), [at]) if *at >= busy.until => {
                let end = at + busy.unload;
                if !attended(*at, end) {
                    faults.push(ScheduleFault::Unattended(*at, end));
                }
                hands.push((*at, end));
                use_of[m].push((0, end));
            }
            _ => faults.push(ScheduleFault::NotCleared(m)),
        }
    }
    let mut seen = vec![0; shop.jobs.len()];
    for slot in &schedule.slots {
        let job = &shop.jobs[slot.job];
        seen[slot.job] += 1;
        let print = job.print.get(slot.machine).copied().flatten();
        let pinned = |p: super::shop::Pin| p.machine == slot.machine && p.from <= slot.load;
        let in_use = shop.machines[slot.machine].from <= slot.load;
        let Some(print) = print.filter(|_| in_use && job.pin.is_none_or(pinned)) else {
            faults.push(ScheduleFault::Misplaced(slot.job));
            continue;
        };
        if slot.prints < slot.load + job.load
            || slot.printed != slot.prints + print
            || slot.unload < slot.printed
            || slot.end != slot.unload + job.unload
        {
            faults.push(ScheduleFault::TooEarly(slot.job));
        }
        for (a, b) in [(slot.load, slot.prints + job.stay), (slot.unload, slot.end)] {
            if !attended(a, b) {
                faults.push(ScheduleFault::Unattended(a, b));
            }
        }
        let over = |q: &super::shop::Window| q.from < slot.printed && slot.prints < q.to;
        if shop.quiet.iter().any(over) {
            faults.push(ScheduleFault::Quiet(slot.job));
        }
        hands.extend([(slot.load, slot.prints), (slot.unload, slot.end)]);
        use_of[slot.machine].push((slot.load, slot.end));
    }
    let wrong = seen.iter().enumerate().filter(|(_, n)| **n != 1);
    faults.extend(wrong.map(|(job, _)| ScheduleFault::NotOnce(job)));
    use_of.push(hands);
    for (which, mut spans) in use_of.into_iter().enumerate() {
        let whose = if which == shop.machines.len() {
            "hands"
        } else {
            "machine"
        };
        spans.sort_unstable();
        let overlaps = spans.windows(2).filter(|s| s[1].0 < s[0].1);
        faults.extend(overlaps.map(|s| ScheduleFault::Overlap(whose, s[0].0, s[1].0)));
    }
    faults.extend(changes(shop, schedule));
    faults
}

/// A job in another resin than the one before it needs the hands for the change too.
fn changes(shop: &Shop, schedule: &Schedule) -> Vec<ScheduleFault> {
    let mut faults = Vec::new();
    for (m, machine) in shop.machines.iter().enumerate() {
        let mut on: Vec<_> = schedule.slots.iter().filter(|s| s.machine == m).collect();
        on.sort_by_key(|s| s.load);
        let mut holds = machine.resin;
        for slot in on {
            let job = &shop.jobs[slot.job];
            let other = matches!((holds, job.resin), (Some(a), Some(b)) if a != b);
            let change = if other { machine.change } else { 0 };
            if slot.prints - slot.load < job.load + change {
                faults.push(ScheduleFault::TooEarly(slot.job));
            }
            holds = job.resin.or(holds);
        }
    }
    faults
}
