//! Better and better orders of jobs: the smallest end, then the smallest weighted ends.

use rayon::prelude::*;

use super::lay::{Layer, Order, ScheduleError, Turn};
use super::shop::{Ends, Minute, Schedule, Shop};
use crate::rng::Rng;
use crate::watch::Watch;

/// Looks for schedules by simulated annealing over orders of jobs (S. Kirkpatrick, C. D. Gelatt,
/// M. P. Vecchi, Science 220, 1983), each order laid out as early as it can be (serial schedule
/// generation; R. Kolisch, European Journal of Operational Research 90, 1996, both from memory).
///
/// A fixed number of lanes with seeds of their own, which exchange what they have found after each
/// round: the same steps give the same schedule, whatever the threads.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ScheduleSearch {
    /// Seeds what is tried.
    pub seed: u64,
    /// Rounds after the first schedule.
    pub steps: u64,
    /// Orders a lane tries in a round at most.
    pub tries: usize,
}

impl ScheduleSearch {
    /// While somebody waits for a page: some tenths of a second for a few dozen plates.
    pub const FOR_A_PAGE: Self = Self {
        seed: 1,
        steps: 4,
        tries: 6_000,
    };

    /// The kept order, and what is simple: where many schedules are compared.
    pub const NONE: Self = Self {
        seed: 1,
        steps: 0,
        tries: 0,
    };
}

/// Another order is worth to get used to where everything ends sooner by this, minutes,
const WORTH: Minute = 30;
/// or weighted ends by this share.
const WORTH_SHARE: f64 = 0.03;

/// Lanes that search at the same time.
const LANES: u64 = 4;
/// Orders a lane tries in a round, times jobs: a second or so.
const TRIES: usize = 6_000_000;
/// Orders a lane tries in a round at most, times jobs times jobs.
const TRIES_A_PAIR: usize = 4_000;
/// What a minute of the mean weighted end counts beside one of the last end, while the last end is
/// what is looked for.
const MEAN: f64 = 1.0;
/// What a minute after the best last end costs, while weighted ends are what is looked for.
const OVER: f64 = 4.0;

/// The same, while machines are to be done before a window.
const BEFORE: f64 = 0.3;

/// What a lane looks for.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Aim {
    /// The smallest last end; weighted ends only show the way.
    Last,
    /// No machine busy after this; weighted ends only show the way.
    Before(Minute),
    /// The smallest weighted ends with a last end of this at most.
    Weighted(Minute),
}

impl Aim {
    fn energy(self, ends: Ends, layer: &Layer<'_>, weights: f64) -> f64 {
        let mean = ends.weighted as f64 / weights;
        match self {
            Aim::Before(moment) => BEFORE * mean + layer.prints_after(moment) as f64,
            Aim::Last => f64::from(ends.last) + MEAN * mean,
            Aim::Weighted(last) => mean + OVER * f64::from(ends.last.saturating_sub(last)),
        }
    }

    /// No schedule within this energy ends later, or weighs more.
    fn limit(self, energy: f64, weights: f64) -> Ends {
        let (last, mean) = match self {
            Aim::Last => (energy, energy / MEAN),
            Aim::Before(_) => (f64::INFINITY, energy / BEFORE),
            Aim::Weighted(last) => (f64::from(last) + energy / OVER, energy),
        };
        Ends {
            last: last.min(f64::from(Minute::MAX)) as Minute,
            weighted: (mean * weights) as u64,
        }
    }
}

impl ScheduleSearch {
    /// The best schedule after its steps, or when the watch stops it: there is always one, if any
    /// order can be laid out at all.
    ///
    /// # Errors
    /// [`ScheduleError`], before anything is searched.
    pub fn run(
        &self,
        shop: &Shop,
        watch: &dyn Watch,
        better: &mut dyn FnMut(&Schedule),
    ) -> Result<Schedule, ScheduleError> {
        let begun = first(shop)?;
        let (best, _) = self.improve(shop, begun, watch, better)?;
        lay_out(shop, &best)
    }

    /// The best schedule that begins from an order of jobs that was kept; jobs it does not name come
    /// in where they delay least. The kept order stays where another one is not worth it.
    ///
    /// # Errors
    /// [`ScheduleError`], before anything is searched.
    pub fn replan(
        &self,
        shop: &Shop,
        kept: &[usize],
        watch: &dyn Watch,
    ) -> Result<Schedule, ScheduleError> {
        let Some(held) = taken_up(shop, kept) else {
            return self.run(shop, watch, &mut |_| {});
        };
        let simple = first(shop)?;
        let begun = if simple.1 < held.1 {
            simple
        } else {
            held.clone()
        };
        let (best, ends) = self.improve(shop, begun, watch, &mut |_| {})?;
        let (order, was) = held;
        let worth = was.last >= ends.last + WORTH
            || was.weighted as f64 >= ends.weighted as f64 * (1.0 + WORTH_SHARE);
        lay_out(shop, if worth { &best } else { &order })
    }

    fn improve(
        &self,
        shop: &Shop,
        (mut best, mut ends): Found,
        watch: &dyn Watch,
        better: &mut dyn FnMut(&Schedule),
    ) -> Result<Found, ScheduleError> {
        better(&lay_out(shop, &best)?);
        let fixed = shop.jobs.len() < 2;
        // Nothing is searched for one job: it is tried on each machine. Asking where it would end first has hands take
        // off what is on the others, also where that has time.
        if let [turn] = *best.as_slice() {
            let mut layer = Layer::new(shop);
            for machine in shop.machines_of(turn.job) {
                let order = vec![Turn { machine, ..turn }];
                if let Some(found) = layer.lay(&order, Ends::NEVER)
                    && found < ends
                {
                    (best, ends) = (order, found);
                }
            }
        }
        let (mut for_last, mut weighted) = (true, 0);
        for step in 0..self.steps {
            if fixed || watch.stopped() {
                break;
            }
            watch.report(step as f64 / self.steps as f64);
            let aim = |lane: u64| match (for_last, lane) {
                (true, 0 | 1) => Aim::Last,
                (true, _) => Aim::Before(window_before(shop, ends.last)),
                (false, _) => Aim::Weighted(ends.last),
            };
            let lanes: Vec<(Order, Ends)> = (0..LANES)
                .into_par_iter()
                .map(|lane| {
                    let mut rng = Rng(self.seed ^ (step * LANES + lane + 1).wrapping_mul(0x9e37));
                    rng.next();
                    let last = if shop.jobs.len() <= 20 { 600.0 } else { 10.0 };
                    let heat = [60.0, 25.0, 120.0, last][lane as usize];
                    let tries = self.tries;
                    anneal(shop, &best, (aim(lane), heat, tries), &mut rng, watch)
                })
                .collect();
            let before = ends.last;
            for (order, found) in lanes {
                if found < ends {
                    (best, ends) = (order, found);
                    better(&lay_out(shop, &best)?);
                }
            }
            // Once the last end does not move any more, two rounds go to the weighted ends.
            weighted = if ends.last < before || weighted == 2 {
                0
            } else {
                weighted + 1
            };
            for_last = weighted == 0;
        }
        watch.report(1.0);
        Ok((best, ends))
    }
}

/// An order, and when it ends.
type Found = (Order, Ends);

/// A kept order with the jobs it does not name, each on its first machine and where it delays least.
fn taken_up(shop: &Shop, kept: &[usize]) -> Option<Found> {
    if kept.is_empty() {
        return None;
    }
    let turn = |job: usize| {
        let machine = *shop.machines_of(job).first()?;
        Some(Turn {
            job,
            machine,
            wait: 0,
        })
    };
    let mut layer = Layer::new(shop);
    let mut order: Order = kept.iter().map(|j| turn(*j)).collect::<Option<_>>()?;
    let mut ends = layer.lay(&order, Ends::NEVER)?;
    for job in (0..shop.jobs.len()).filter(|j| !kept.contains(j)) {
        let new = turn(job)?;
        let mut least: Option<(Ends, usize)> = None;
        for at in 0..=order.len() {
            let mut with = order.clone();
            with.insert(at, new);
            if let Some(found) = layer.lay(&with, Ends::NEVER)
                && least.is_none_or(|(l, _)| found <= l)
            {
                least = Some((found, at));
            }
        }
        let (found, at) = least?;
        order.insert(at, new);
        ends = found;
    }
    Some((order, ends))
}

/// The end of the window before the one something ends in.
fn window_before(shop: &Shop, end: Minute) -> Minute {
    let inside = shop.attended.iter().rev().find(|w| w.from < end);
    let from = inside.map_or(0, |w| w.from);
    let before = shop.attended.iter().rev().find(|w| w.to <= from);
    before.map_or(0, |w| w.to)
}

/// An order as a schedule.
fn lay_out(shop: &Shop, order: &Order) -> Result<Schedule, ScheduleError> {
    let mut layer = Layer::new(shop);
    for turn in order {
        layer.place(*turn)?;
    }
    layer.finish()?;
    Ok(layer.laid)
}

/// The best of a few simple rules: in each, the next job goes where it is off soonest.
fn first(shop: &Shop) -> Result<(Order, Ends), ScheduleError> {
    let least = |job: usize| shop.jobs[job].print.iter().flatten().min().copied();
    let mut orders: Vec<Vec<usize>> = Vec::new();
    let given: Vec<usize> = (0..shop.jobs.len()).collect();
    let mut longest = given.clone();
    longest.sort_by_key(|j| std::cmp::Reverse(least(*j)));
    let mut worth = given.clone();
    worth.sort_by(|a, b| {
        let per = |j: usize| {
            f64::from(shop.jobs[j].weight) / f64::from(least(j).unwrap_or(0).saturating_add(30))
        };
        per(*b).total_cmp(&per(*a)).then(a.cmp(b))
    });
    orders.extend([longest, worth, given]);
    let mut best: Option<(Order, Ends)> = None;
    let mut why = None;
    for jobs in orders {
        let mut layer = Layer::new(shop);
        let mut order = Order::new();
        let mut failed = None;
        for job in jobs {
            let mut on: Option<(Minute, usize)> = None;
            let machines = shop.machines_of(job);
            if machines.is_empty() {
                failed = Some(ScheduleError::NoMachine { job });
                break;
            }
            for machine in machines {
                if let Some(end) = layer.would_end(job, machine)
                    && on.is_none_or(|(least, _)| end < least)
                {
                    on = Some((end, machine));
                }
            }
            let placed = on
                .ok_or(ScheduleError::NoWindow { job })
                .and_then(|(_, machine)| {
                    let turn = Turn {
                        job,
                        machine,
                        wait: 0,
                    };
                    layer.place(turn).map(|()| turn)
                });
            match placed {
                Ok(turn) => order.push(turn),
                Err(e) => {
                    failed = Some(e);
                    break;
                }
            }
        }
        let failed = failed.or_else(|| layer.finish().err());
        let laid = layer.laid.ends(shop);
        match failed {
            Some(e) => why = why.or(Some(e)),
            None if best.as_ref().is_none_or(|(_, least)| laid < *least) => {
                best = Some((order, laid));
            }
            None => {}
        }
    }
    best.ok_or_else(|| why.unwrap_or(ScheduleError::NoWindow { job: 0 }))
}

/// One lane's round: tries orders near its own, takes worse ones while it is hot.
fn anneal(
    shop: &Shop,
    from: &Order,
    (aim, heat, most): (Aim, f64, usize),
    rng: &mut Rng,
    watch: &dyn Watch,
) -> (Order, Ends) {
    let weights = shop
        .jobs
        .iter()
        .map(|j| f64::from(j.weight))
        .sum::<f64>()
        .max(1.0);
    let mut layer = Layer::new(shop);
    let mut now = from.clone();
    let ends = layer
        .lay(&now, Ends::NEVER)
        .expect("it was laid out before");
    let (mut best, mut least) = (now.clone(), ends);
    let mut late = last_machine(&now, &layer);
    let mut energy = aim.energy(ends, &layer, weights);
    let many = now.len().max(1);
    let tries = (TRIES / many).min(TRIES_A_PAIR * many * many).min(most);
    let machines: Vec<Vec<usize>> = (0..shop.jobs.len()).map(|j| shop.machines_of(j)).collect();
    let mut next = now.clone();
    for step in 0..tries {
        if step % 256 == 0 && watch.stopped() {
            break;
        }
        let cooled = 1.0 - step as f64 / tries as f64;
        let warm = heat * cooled * cooled + 0.02;
        next.clone_from(&now);
        // What ends last stands in the way most.
        let at = if rng.below(4) == 0 {
            late[rng.below(late.len())]
        } else {
            rng.below(next.len())
        };
        change(&mut next, at, &machines, rng);
        let allowed = energy - warm * rng.share().max(1e-12).ln();
        let Some(found) = layer.lay(&next, aim.limit(allowed, weights)) else {
            continue;
        };
        let reached = aim.energy(found, &layer, weights);
        if reached > allowed {
            continue;
        }
        std::mem::swap(&mut now, &mut next);
        energy = reached;
        late = last_machine(&now, &layer);
        if found < least {
            (best, least) = (now.clone(), found);
        }
    }
    (best, least)
}

/// Where in an order the jobs of the machine stand that ends last.
fn last_machine(order: &Order, layer: &Layer<'_>) -> Vec<usize> {
    let last = layer.laid.slots.iter().max_by_key(|s| s.end);
    let machine = last.map(|s| s.machine);
    (0..order.len())
        .filter(|i| Some(order[*i].machine) == machine)
        .collect()
}

/// Changes an order a little, at a place.
fn change(order: &mut Order, i: usize, machines: &[Vec<usize>], rng: &mut Rng) {
    let many = order.len();
    let other = |job: usize, rng: &mut Rng| machines[job][rng.below(machines[job].len())];
    match rng.below(20) {
        // To another place, often onto another machine.
        0..=7 => {
            let mut turn = order.remove(i);
            if rng.below(2) == 0 {
                turn.machine = other(turn.job, rng);
            }
            order.insert(rng.below(many), turn);
        }
        // A little earlier or later.
        8..=11 => {
            let moved = order.remove(i);
            let near = (i + 4 * many + rng.below(9) - 4) % many;
            order.insert(near, moved);
        }
        // Two change places and machines.
        12..=16 => {
            let j = rng.below(many);
            let (a, b) = (order[i], order[j]);
            if machines[a.job].contains(&b.machine) && machines[b.job].contains(&a.machine) {
                (order[i].job, order[j].job) = (b.job, a.job);
            } else {
                order.swap(i, j);
            }
        }
        // Others before it is taken off.
        17 => {
            order[i].wait = if order[i].wait == 0 {
                1 + rng.below(many.min(6)) as u8
            } else {
                0
            };
        }
        _ => order[i].machine = other(order[i].job, rng),
    }
}
