//! Before which moment no schedule can end.
//!
//! Each bound leaves something out that only makes it harder, so each of them holds; the largest
//! counts.

use rayon::prelude::*;

use super::hands::attended;
use super::shop::{Minute, Shop};
use crate::watch::Watch;

/// Why no schedule ends earlier.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Because {
    /// There is nothing to do.
    Nothing,
    /// One job takes so long, wherever it is put.
    Longest {
        /// The job.
        job: usize,
    },
    /// What there is to load and take off takes the hands so long.
    Hands,
    /// One machine has so much that only it can print.
    Machine {
        /// The machine.
        machine: usize,
    },
    /// All machines together cannot print it sooner, with the windows counted.
    Machines,
}

/// A moment before which no schedule ends, and why.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ScheduleBound {
    /// The moment.
    pub at: Minute,
    /// Why.
    pub because: Because,
}

/// Jobs up to which every sharing out may be looked at,
const FEW: usize = 18;
/// where there are no more of them than this.
const SHARINGS: f64 = 3e7;
/// Rounds of pricing.
const ROUNDS: usize = 240;
/// Places a machine's line of time has at most: beyond, minutes are rounded in favour of the bound.
const PLACES: usize = 40_000;
/// A price is a whole number of these a minute.
const FINE: i64 = 1 << 20;

impl ScheduleBound {
    /// The largest of the bounds that are known. `within` is the end of a schedule that is known:
    /// nothing after it is looked at.
    #[must_use]
    pub fn of(shop: &Shop, within: Minute, watch: &dyn Watch) -> Self {
        let mut best = Self {
            at: 0,
            because: Because::Nothing,
        };
        let mut raise = |at: Minute, because: Because| {
            if at > best.at {
                best = Self { at, because };
            }
        };
        let alone = Alone::new(shop);
        for job in 0..shop.jobs.len() {
            let ends = (0..shop.machines.len()).filter_map(|m| alone.end(m, job, alone.free[m]));
            raise(ends.min().unwrap_or(0), Because::Longest { job });
        }
        raise(hands(shop), Because::Hands);
        for machine in 0..shop.machines.len() {
            let mut only = shop.clone();
            only.jobs = (0..shop.jobs.len())
                .filter(|j| shop.machines_of(*j) == [machine])
                .map(|j| shop.jobs[j].clone())
                .collect();
            if only.jobs.len() > 1 {
                raise(together(&only, within, watch), Because::Machine { machine });
            }
        }
        raise(together(shop, within, watch), Because::Machines);
        best.at = best.at.min(within);
        best
    }
}

/// Machines as if each had hands of its own.
struct Alone<'a> {
    shop: &'a Shop,
    /// When each machine is free first.
    free: Vec<Minute>,
}

impl<'a> Alone<'a> {
    fn new(shop: &'a Shop) -> Self {
        let free = |m: &super::shop::Machine| {
            let off = m.busy.map_or(Some(0), |b| {
                Some(attended(&shop.attended, b.until, b.unload)? + b.unload)
            });
            off.unwrap_or(Minute::MAX / 2).max(m.from)
        };
        Self {
            shop,
            free: shop.machines.iter().map(free).collect(),
        }
    }

    /// When a job is off a machine that is free from a moment, whatever resin it holds.
    fn end(&self, machine: usize, job: usize, from: Minute) -> Option<Minute> {
        self.end_after(machine, job, from, self.shop.jobs[job].load)
    }

    /// When a job is off a machine that is free from a moment, where putting it on takes so long; an
    /// earlier moment never ends later.
    fn end_after(&self, machine: usize, job: usize, from: Minute, hands: Minute) -> Option<Minute> {
        let of = &self.shop.jobs[job];
        if of.pin.is_some_and(|p| p.machine != machine) {
            return None;
        }
        let print = of.print.get(machine).copied().flatten()?;
        let mut from = from.max(of.pin.map_or(0, |p| p.from));
        loop {
            let load = attended(&self.shop.attended, from, hands + of.stay)?;
            let prints = load + hands;
            let at = self.shop.quiet.partition_point(|q| q.to <= prints);
            match self.shop.quiet.get(at) {
                Some(q) if q.from < prints + print => {
                    from = q.to.saturating_sub(hands).max(load + 1);
                }
                _ => {
                    let off = attended(&self.shop.attended, prints + print, of.unload)?;
                    return Some(off + of.unload);
                }
            }
        }
    }
}

/// All that the hands have to do, one after another in the windows.
fn hands(shop: &Shop) -> Minute {
    let jobs = shop.jobs.iter().map(|j| u64::from(j.load + j.unload));
    let first = shop.machines.iter().filter_map(|m| m.busy);
    // What is on a machine that gets nothing more may be taken off after the end.
    let first = first.map(|b| u64::from(b.unload)).sum::<u64>();
    let spared = if shop.jobs.is_empty() { first } else { 0 };
    let later: u64 = shop
        .machines
        .iter()
        .enumerate()
        .filter(|(m, machine)| {
            machine.busy.is_some() && !(0..shop.jobs.len()).any(|j| shop.machines_of(j) == [*m])
        })
        .map(|(_, machine)| u64::from(machine.busy.map_or(0, |b| b.unload)))
        .sum();
    let mut left = (jobs.sum::<u64>() + first).saturating_sub(later.max(spared));
    for window in Shop::ordered(merged(&shop.attended)) {
        let minutes = u64::from(window.minutes());
        if left <= minutes {
            return if left == 0 {
                0
            } else {
                window.from + left as Minute
            };
        }
        left -= minutes;
    }
    0
}

/// Windows that overlap, as one.
fn merged(windows: &[super::shop::Window]) -> Vec<super::shop::Window> {
    let mut all: Vec<super::shop::Window> = Vec::new();
    for window in windows {
        match all.last_mut() {
            Some(last) if window.from <= last.to => last.to = last.to.max(window.to),
            _ => all.push(*window),
        }
    }
    all
}

/// The machines together: exactly where jobs are few, by prices otherwise.
fn together(shop: &Shop, within: Minute, watch: &dyn Watch) -> Minute {
    if shop.jobs.is_empty() {
        0
    } else if shop.jobs.len() <= FEW && sharings(shop) <= SHARINGS {
        shared_out(shop)
    } else {
        priced(shop, within, watch)
    }
}

/// How many subsets of subsets [`shared_out`] looks at: a job that a machine cannot print is not
/// among those it may get.
fn sharings(shop: &Shop) -> f64 {
    let jobs = shop.jobs.len();
    (0..shop.machines.len())
        .map(|m| {
            let may = (0..jobs)
                .filter(|j| shop.machines_of(*j).contains(&m))
                .count();
            2f64.powi((jobs - may) as i32) * 3f64.powi(may as i32)
        })
        .sum()
}

/// The best sharing out of few jobs over machines with hands of their own: all subsets in any order
/// (dynamic programming over subsets; M. Held, R. M. Karp, SIAM 10, 1962). What falls into the last
/// window then needs one pair of hands after all, one thing after another.
fn shared_out(shop: &Shop) -> Minute {
    let alone = Alone::new(shop);
    let many = shop.jobs.len();
    let all = (1usize << many) - 1;
    let ends: Vec<Vec<Minute>> = (0..shop.machines.len())
        .map(|machine| subset_ends(&alone, machine))
        .collect();
    let mut best = vec![Minute::MAX; all + 1];
    best[0] = 0;
    let mays: Vec<usize> = (0..shop.machines.len())
        .map(|m| {
            let may = |job: &usize| shop.machines_of(*job).contains(&m);
            (0..many).filter(may).fold(0, |set, job| set | 1 << job)
        })
        .collect();
    for (end, may) in ends.iter().zip(&mays) {
        best = joined(&best, *may, |set| end[set], Minute::max);
    }
    let least = best[all];
    if least == Minute::MAX {
        return 0;
    }
    let windows = merged(&shop.attended);
    let Some(last) = windows.iter().find(|w| w.from < least && least <= w.to) else {
        return least;
    };
    let before = windows
        .iter()
        .rev()
        .find(|w| w.to <= last.from)
        .map_or(0, |w| w.to);
    // Hands that are needed inside the last window where everything is off by a moment of it.
    let needed = |by: Minute| {
        let mut sum = vec![Minute::MAX; all + 1];
        sum[0] = 0;
        for (machine, (end, may)) in ends.iter().zip(&mays).enumerate() {
            let work = last_hands(&alone, machine, end, before, by);
            sum = joined(&sum, *may, |set| work[set], Minute::saturating_add);
        }
        sum[all]
    };
    let (mut low, mut high) = (least, last.to + 1);
    while low < high {
        let by = low + (high - low) / 2;
        if last.from.saturating_add(needed(by)) <= by {
            high = by;
        } else {
            low = by + 1;
        }
    }
    low
}

/// When a machine is done with each subset of jobs, whatever the order: by the resin it holds then,
/// since bringing in another one takes the hands.
fn subset_ends(alone: &Alone<'_>, machine: usize) -> Vec<Minute> {
    let (shop, of) = (alone.shop, &alone.shop.machines[machine]);
    let all = (1usize << shop.jobs.len()) - 1;
    let mut resins: Vec<Option<u32>> = vec![of.resin];
    resins.extend(shop.jobs.iter().map(|j| j.resin.or(of.resin)));
    if of.change == 0 || resins.contains(&None) {
        resins = vec![None];
    }
    resins.sort_unstable();
    resins.dedup();
    let many = resins.len();
    let place = |resin: Option<u32>| resins.iter().position(|r| *r == resin).unwrap_or(0);
    let mut end = vec![Minute::MAX; (all + 1) * many];
    end[place(of.resin)] = alone.free[machine];
    for set in 1..=all {
        for job in members(set) {
            let rest = (set & !(1 << job)) * many;
            let leaves = shop.jobs[job].resin;
            for (held, resin) in resins.iter().enumerate() {
                let before = end[rest + held];
                if before == Minute::MAX {
                    continue;
                }
                let hands = shop.load_on(job, machine, *resin);
                let Some(off) = alone.end_after(machine, job, before, hands) else {
                    continue;
                };
                let then = set * many + place(leaves.or(*resin));
                end[then] = end[then].min(off);
            }
        }
    }
    let least = |set: usize| {
        let of_set = &end[set * many..(set + 1) * many];
        of_set.iter().copied().min().unwrap_or(Minute::MAX)
    };
    let mut ends: Vec<Minute> = (0..=all).map(least).collect();
    // A machine with nothing to do ends at once.
    ends[0] = 0;
    ends
}

/// For each subset of jobs on a machine that is off by a moment: the least that the hands have to do
/// for it after `before`, which is the end of a window. Never, where it cannot be off by then.
fn last_hands(
    alone: &Alone<'_>,
    machine: usize,
    end: &[Minute],
    before: Minute,
    by: Minute,
) -> Vec<Minute> {
    let jobs = &alone.shop.jobs;
    let mut work = vec![Minute::MAX; end.len()];
    for set in 0..end.len() {
        if end[set] <= before {
            work[set] = 0;
            continue;
        }
        for job in members(set) {
            let rest = set & !(1 << job);
            let free = if rest == 0 {
                alone.free[machine]
            } else {
                end[rest]
            };
            if free == Minute::MAX || alone.end(machine, job, free).is_none_or(|e| e > by) {
                continue;
            }
            // What comes before it is over earlier, or needs the hands in the window as well.
            let earlier = if rest == 0 || end[rest] <= before {
                0
            } else {
                work[rest].saturating_add(jobs[job].load)
            };
            work[set] = work[set].min(earlier.saturating_add(jobs[job].unload));
        }
    }
    work
}

fn members(set: usize) -> impl Iterator<Item = usize> {
    (0..usize::BITS as usize).filter(move |j| set >> j & 1 == 1)
}

/// The least over all ways to share a set between what was and one more machine, which may get
/// these jobs.
fn joined(
    was: &[Minute],
    may: usize,
    more: impl Fn(usize) -> Minute + Sync,
    join: impl Fn(Minute, Minute) -> Minute + Sync,
) -> Vec<Minute> {
    (0..was.len())
        .into_par_iter()
        .map(|set| {
            let of = set & may;
            let (mut least, mut part) = (Minute::MAX, of);
            loop {
                least = least.min(join(more(part), was[set & !part]));
                if part == 0 {
                    break least;
                }
                part = (part - 1) & of;
            }
        })
        .collect()
}

/// A way for one machine to begin a job.
struct Arc {
    begin: u32,
    end: u32,
    job: u32,
}

/// Machines whose jobs have prices: what a machine can earn until a moment at most is a longest way
/// through its time. While all of them together earn less than all jobs are worth, somebody's job
/// is not done by then, whatever the prices (Lagrangian relaxation of "each job once"; M. L. Fisher,
/// Management Science 27, 1981). Prices are moved toward what is printed too seldom.
fn priced(shop: &Shop, within: Minute, watch: &dyn Watch) -> Minute {
    let alone = Alone::new(shop);
    let grain = (within as usize / PLACES + 1) as Minute;
    let places = (within / grain) as usize + 2;
    let lines: Option<Vec<Vec<Arc>>> = (0..shop.machines.len())
        .into_par_iter()
        .map(|m| arcs(&alone, m, within, grain, watch))
        .collect();
    let Some(lines) = lines else { return 0 };
    let worth = |job: usize| {
        let ends =
            (0..shop.machines.len()).filter_map(|m| shop.jobs[job].print.get(m).copied().flatten());
        let (sum, n) = ends.fold((0u64, 0u64), |(s, n), p| (s + u64::from(p), n + 1));
        let hands = u64::from(shop.jobs[job].load + shop.jobs[job].unload);
        (sum / n.max(1) + hands) as i64 * FINE
    };
    let mut prices: Vec<i64> = (0..shop.jobs.len()).map(worth).collect();
    let total: i64 = prices.iter().sum();
    let mut best = 0;
    let mut step = 0.5;
    let mut since = 0;
    for _ in 0..ROUNDS {
        if watch.stopped() {
            break;
        }
        let ways: Vec<Way> = lines
            .par_iter()
            .enumerate()
            .map(|(m, line)| Way::of(line, &prices, alone.free[m] / grain, places))
            .collect();
        let sum: i64 = prices.iter().sum();
        // By which place all could be done at the earliest, at these prices.
        let earned = |at: usize| ways.iter().map(|w| w.earns[at]).sum::<i64>();
        let first = {
            let (mut low, mut high) = (0, places);
            while low < high {
                let mid = (low + high) / 2;
                if earned(mid) < sum {
                    low = mid + 1;
                } else {
                    high = mid;
                }
            }
            low
        };
        let proven = first as Minute * grain;
        if proven > best {
            (best, since) = (proven, 0);
        } else {
            since += 1;
            if since >= 6 {
                (step, since) = (step * 0.7, 0);
            }
        }
        if first >= places || best >= within {
            break;
        }
        let mut done = vec![0i64; prices.len()];
        for (way, line) in ways.iter().zip(&lines) {
            way.count(line, first, &mut done);
        }
        let slope: i64 = done.iter().map(|d| (d - 1) * (d - 1)).sum();
        if slope == 0 {
            break;
        }
        let mean = total as f64 / prices.len() as f64;
        let long = step * mean / (slope as f64 / prices.len() as f64).sqrt();
        for (price, done) in prices.iter_mut().zip(&done) {
            *price = (*price + ((1 - done) as f64 * long) as i64).max(0);
        }
    }
    best.min(within)
}

/// Every way to begin a job on a machine that is not beaten: later begun, and off as early. Nothing
/// where the watch ended it, or a job is shorter than the grain: no bound would hold.
fn arcs(
    alone: &Alone<'_>,
    machine: usize,
    within: Minute,
    grain: Minute,
    watch: &dyn Watch,
) -> Option<Vec<Arc>> {
    let mut all = Vec::new();
    for job in 0..alone.shop.jobs.len() {
        if watch.stopped() {
            return None;
        }
        let mut mine: Vec<Arc> = Vec::new();
        for window in &alone.shop.attended {
            let mut at = window.from;
            while at <= window.to && at < within {
                let end = alone.end(machine, job, at);
                let Some(end) = end.filter(|e| *e <= within) else {
                    break;
                };
                // It stands for every start within the grain: begun with the last of them, off with
                // the first, so that nothing that can be is left out.
                let arc = Arc {
                    begin: at.div_ceil(grain),
                    end: end / grain,
                    job: job as u32,
                };
                if arc.end <= arc.begin {
                    return None;
                }
                match mine.last_mut() {
                    Some(last) if last.end >= arc.end => *last = arc,
                    _ => mine.push(arc),
                }
                at += grain;
            }
        }
        all.append(&mut mine);
    }
    all.sort_by_key(|a| (a.begin, a.end, a.job));
    Some(all)
}

/// What one machine earns at most by each place, and how.
struct Way {
    earns: Vec<i64>,
    /// The arc that leads to a place; nothing where it waits.
    by: Vec<u32>,
}

const WAITS: u32 = u32::MAX;

impl Way {
    fn of(line: &[Arc], prices: &[i64], free: Minute, places: usize) -> Self {
        let never = i64::MIN / 4;
        let free = (free as usize).min(places);
        let mut earns = vec![never; places + 1];
        let mut by = vec![WAITS; places + 1];
        let mut arcs = line.iter().enumerate().peekable();
        for at in 0..=places {
            if at > 0 && earns[at - 1] >= earns[at] {
                earns[at] = earns[at - 1];
                by[at] = WAITS;
            }
            if at == free && earns[at] < 0 {
                earns[at] = 0;
            }
            let now = earns[at];
            while let Some((i, arc)) = arcs.next_if(|(_, a)| a.begin as usize <= at) {
                let end = arc.end as usize;
                if now < 0 || arc.begin as usize != at || end > places {
                    continue;
                }
                let value = now + prices[arc.job as usize];
                if value > earns[end] {
                    earns[end] = value;
                    by[end] = i as u32;
                }
            }
        }
        // Before it is free it earns nothing.
        for e in &mut earns {
            *e = (*e).max(0);
        }
        Self { earns, by }
    }

    fn count(&self, line: &[Arc], upto: usize, done: &mut [i64]) {
        let mut at = upto.min(self.by.len() - 1);
        while at > 0 {
            match self.by[at] {
                WAITS => at -= 1,
                by => {
                    let arc = &line[by as usize];
                    done[arc.job as usize] += 1;
                    at = arc.begin as usize;
                }
            }
        }
    }
}
