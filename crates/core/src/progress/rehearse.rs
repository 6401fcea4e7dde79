//! Rehearsals of the rest of a project: plates that are lost, copies that fail, times that spread, people who are there
//! only now and then. Each is played to its end with drawn numbers; together they say with which chance all of it is
//! there by a moment.

use std::collections::VecDeque;

use rand_distr::{Beta, Binomial, Distribution, StandardNormal};

use crate::odds::Posterior;
use crate::rng::Rng;

/// A plate that runs or waits, or copies that are off and not judged.
#[derive(Debug, Clone, PartialEq)]
pub struct RestPlate {
    /// Its printer; none for copies that are off already.
    pub machine: Option<usize>,
    /// How long it prints, s; what is left of it where it runs.
    pub seconds: f64,
    /// How far off that may be, as a share of it (one standard deviation).
    pub spread: f64,
    /// It runs already.
    pub runs: bool,
    /// Copies on it, by the number of their part in [`Rest::missing`].
    pub copies: Vec<(usize, u32)>,
}

/// A part of which good copies are missing.
#[derive(Debug, Clone, PartialEq)]
pub struct Missing {
    /// Good copies that are missing.
    pub copies: u32,
    /// What is believed of the share that comes out on a plate that held.
    pub odds: Posterior,
    /// Where it is printed again.
    pub machine: usize,
    /// How long a plate with it takes, s.
    pub seconds: f64,
    /// Copies of it that fill a plate.
    pub per_plate: u32,
    /// Its unit, as a number.
    pub unit: usize,
}

/// The rest of a project.
///
/// # Units
/// s from now.
#[derive(Debug, Clone, PartialEq)]
pub struct Rest {
    /// Plates, those of one printer in their order.
    pub plates: Vec<RestPlate>,
    /// What is missing.
    pub missing: Vec<Missing>,
    /// What is believed of the share of plates that hold.
    pub holds: Posterior,
    /// Printers.
    pub machines: usize,
    /// When somebody is there, in order.
    pub windows: Vec<[f64; 2]>,
    /// Putting a plate on.
    pub load_s: f64,
    /// Taking it off.
    pub unload_s: f64,
    /// From the printer to the last copy judged.
    pub finish_s: f64,
}

/// When the rest was there, rehearsal by rehearsal.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Rehearsals {
    /// In order, s from now; infinite where there was no end within the windows.
    pub ends_s: Vec<f64>,
}

impl Rehearsals {
    /// The share of them in which all was there by a moment.
    #[must_use]
    pub fn chance_by(&self, moment_s: f64) -> f64 {
        let there = self.ends_s.partition_point(|end| *end <= moment_s);
        there as f64 / self.ends_s.len().max(1) as f64
    }

    /// By when all was there in this share of them, s from now; nothing where it never was.
    #[must_use]
    pub fn by(&self, chance: f64) -> Option<f64> {
        let many = self.ends_s.len();
        let index = ((chance * many as f64).ceil() as usize).clamp(1, many.max(1)) - 1;
        self.ends_s.get(index).copied().filter(|s| s.is_finite())
    }
}

/// Plates one rehearsal prints at most: what takes more never ends.
const MOST_PLATES: usize = 1_000;
/// A plate takes this share of its time at least, however the draw falls.
const LEAST_TIME: f64 = 0.2;

/// A share as it may be: nobody knows it better than it is believed, so it is drawn anew for every rehearsal.
fn drawn(of: Posterior, rng: &mut Rng) -> f64 {
    // Where nothing ever failed there is nothing to draw.
    Beta::new(of.a, of.b).map_or_else(|_| of.mean(), |d| d.sample(rng))
}

/// One rehearsal under way.
struct Play<'a> {
    rest: &'a Rest,
    rng: Rng,
    holds: f64,
    odds: Vec<f64>,
    queues: Vec<VecDeque<RestPlate>>,
    /// When each printer is free.
    free_s: Vec<f64>,
    /// What is off and not judged yet: when it is, and its copies by part.
    told: Vec<(f64, Vec<(usize, u32)>)>,
    /// Copies that wait, print, or are not known yet.
    open: Vec<u32>,
    /// Good copies that came, and when.
    came: Vec<Vec<(f64, u32)>>,
}

impl Rest {
    /// From a moment on: when somebody is there for so long.
    fn there(&self, from_s: f64, takes_s: f64) -> Option<f64> {
        let first = self.windows.partition_point(|w| w[1] < from_s + takes_s);
        let fits = |w: &&[f64; 2]| w[0].max(from_s) + takes_s <= w[1];
        let window = self.windows[first..].iter().find(fits)?;
        Some(window[0].max(from_s))
    }

    fn is_needed(&self) -> bool {
        self.missing.iter().any(|m| m.copies > 0)
    }
}

impl<'a> Play<'a> {
    fn new(rest: &'a Rest, seed: u64) -> Self {
        let mut rng = Rng(seed);
        let holds = drawn(rest.holds, &mut rng);
        let odds = rest
            .missing
            .iter()
            .map(|m| drawn(m.odds, &mut rng))
            .collect();
        let mut play = Self {
            rest,
            rng,
            holds,
            odds,
            queues: vec![VecDeque::new(); rest.machines],
            free_s: vec![0.0; rest.machines],
            told: Vec::new(),
            open: vec![0; rest.missing.len()],
            came: vec![Vec::new(); rest.missing.len()],
        };
        for plate in &rest.plates {
            for (part, copies) in &plate.copies {
                play.open[*part] += copies;
            }
            match plate.machine {
                Some(machine) => play.queues[machine].push_back(plate.clone()),
                // They are off already: only finishing is between them and the judge.
                None => play.comes_off(plate, 0.0),
            }
        }
        play
    }

    /// A plate that held: how its copies come out.
    fn comes_off(&mut self, plate: &RestPlate, off_s: f64) {
        let known_s = off_s + self.rest.finish_s;
        for (part, copies) in &plate.copies {
            let odds = self.odds[*part].clamp(0.0, 1.0);
            let good = Binomial::new(u64::from(*copies), odds)
                .map_or(0, |d| d.sample(&mut self.rng) as u32);
            self.came[*part].push((known_s, good));
        }
        self.told.push((known_s, plate.copies.clone()));
    }

    /// What is known by a moment is no longer open.
    fn learn(&mut self, now_s: f64) {
        let open = &mut self.open;
        self.told.retain(|(at, copies)| {
            if *at <= now_s {
                for (part, copies) in copies {
                    open[*part] = open[*part].saturating_sub(*copies);
                }
            }
            *at > now_s
        });
    }

    /// Good copies of a part that are missing, what is open left out.
    fn short(&self, part: usize, now_s: f64) -> u32 {
        let known = self.came[part].iter().filter(|(at, _)| *at <= now_s);
        let good: u32 = known.map(|(_, n)| n).sum();
        let needed = self.rest.missing[part].copies;
        needed.saturating_sub(good).saturating_sub(self.open[part])
    }

    /// A plate with what a printer is to print again; nothing where nothing is missing.
    fn again(&mut self, machine: usize, now_s: f64) -> Option<RestPlate> {
        let of_machine = |(_, m): &(usize, &Missing)| m.machine == machine;
        let parts = self.rest.missing.iter().enumerate().filter(of_machine);
        let short: Vec<(usize, u32)> = parts.map(|(i, _)| (i, self.short(i, now_s))).collect();
        let plate = self.rest.plate_of(&short).map(|plate| RestPlate {
            machine: Some(machine),
            ..plate
        })?;
        for (part, copies) in &plate.copies {
            self.open[*part] += copies;
        }
        Some(plate)
    }

    fn print(&mut self, machine: usize, plate: RestPlate) -> bool {
        let rest = self.rest;
        let from_s = self.free_s[machine];
        let begun_s = if plate.runs {
            Some(0.0)
        } else {
            rest.there(from_s, rest.load_s).map(|s| s + rest.load_s)
        };
        let off_s = begun_s.and_then(|begun_s| {
            let draw: f64 = StandardNormal.sample(&mut self.rng);
            let times = (1.0 + plate.spread * draw).max(LEAST_TIME);
            rest.there(begun_s + plate.seconds * times, rest.unload_s)
        });
        let Some(off_s) = off_s.map(|s| s + rest.unload_s) else {
            return false;
        };
        self.free_s[machine] = off_s;
        if self.rng.share() < self.holds {
            self.comes_off(&plate, off_s);
        } else {
            // It goes once more, when the others have had their turn.
            self.queues[machine].push_back(RestPlate {
                runs: false,
                seconds: rest.whole_s(&plate),
                ..plate
            });
        }
        true
    }

    /// When the last missing copy was there.
    fn end_s(mut self) -> f64 {
        if !self.rest.is_needed() {
            return 0.0;
        }
        let mut idle = vec![false; self.rest.machines];
        for _ in 0..MOST_PLATES {
            let next = (0..self.rest.machines).filter(|m| !idle[*m]);
            // Of those that are free together who has a plate goes first: who has none waits for what that shows.
            let turn = |m: usize| (self.free_s[m], self.queues[m].is_empty());
            let next = next.min_by(|a, b| {
                let (a, b) = (turn(*a), turn(*b));
                a.0.total_cmp(&b.0).then(a.1.cmp(&b.1))
            });
            let Some(machine) = next else {
                break;
            };
            let now_s = self.free_s[machine];
            self.learn(now_s);
            let plate = match self.queues[machine].pop_front() {
                Some(plate) => Some(plate),
                None => self.again(machine, now_s),
            };
            match plate {
                Some(plate) => idle[machine] = !self.print(machine, plate),
                None => {
                    // Nothing to do until something is known of what is open.
                    let next = self.told.iter().map(|t| t.0).fold(f64::INFINITY, f64::min);
                    let others = (0..self.rest.machines)
                        .filter(|m| *m != machine && !idle[*m])
                        .map(|m| self.free_s[m])
                        .filter(|s| *s > now_s)
                        .fold(f64::INFINITY, f64::min);
                    let then = next.min(others);
                    idle[machine] = !then.is_finite();
                    self.free_s[machine] = then;
                }
            }
        }
        self.rest
            .missing
            .iter()
            .zip(&mut self.came)
            .map(|(missing, came)| {
                came.sort_by(|a, b| a.0.total_cmp(&b.0));
                let mut good = 0;
                let reached = came.iter().find(|(_, n)| {
                    good += n;
                    good >= missing.copies
                });
                match reached {
                    _ if missing.copies == 0 => 0.0,
                    Some((at, _)) => *at,
                    None => f64::INFINITY,
                }
            })
            .fold(0.0, f64::max)
    }
}

impl Rest {
    /// A plate with as many of these copies as it holds, each part taking its share of it; nothing for none.
    pub(super) fn plate_of(&self, wanted: &[(usize, u32)]) -> Option<RestPlate> {
        let mut room = 1.0;
        let mut plate = RestPlate {
            machine: None,
            seconds: 0.0,
            spread: 0.0,
            runs: false,
            copies: Vec::new(),
        };
        for (index, copies) in wanted {
            let part = &self.missing[*index];
            let each = 1.0 / f64::from(part.per_plate.max(1));
            let most = (room / each + 1e-9).floor() as u32;
            let copies = (*copies).min(most);
            if copies > 0 {
                room -= each * f64::from(copies);
                plate.seconds = f64::max(plate.seconds, part.seconds);
                plate.copies.push((*index, copies));
            }
        }
        (!plate.copies.is_empty()).then_some(plate)
    }

    /// How long a plate takes from its beginning: one that runs is known by what is left of it.
    fn whole_s(&self, plate: &RestPlate) -> f64 {
        if !plate.runs {
            return plate.seconds;
        }
        let parts = plate
            .copies
            .iter()
            .filter_map(|(part, _)| self.missing.get(*part));
        parts.map(|p| p.seconds).fold(plate.seconds, f64::max)
    }
}

/// Rehearses the rest so many times. The same seed says the same.
#[must_use]
pub fn rehearse(rest: &Rest, many: usize, seed: u64) -> Rehearsals {
    let mut seeds = Rng(seed);
    let mut one = || {
        let seed = seeds.next();
        // Without a printer nothing is printed.
        if rest.machines == 0 {
            return if rest.is_needed() { f64::INFINITY } else { 0.0 };
        }
        Play::new(rest, seed).end_s()
    };
    let mut ends_s: Vec<f64> = (0..many).map(|_| one()).collect();
    ends_s.sort_by(f64::total_cmp);
    Rehearsals { ends_s }
}

#[cfg(test)]
#[path = "rehearse_tests.rs"]
mod tests;
