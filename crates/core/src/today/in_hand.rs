//! Somebody has so many minutes and is away then: what is best done in them.

use std::collections::BTreeMap;

use crate::finishing::{Station, Step};
use crate::ids::{PlateId, PrinterId};
use crate::schedule::{Minute, OnPrinter, ScheduleError, Shop};

use super::day::{Day, OnItsWay, of_step};

/// What can be done in them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Do {
    /// A plate is taken off its printer.
    TakeOff(PlateId, PrinterId),
    /// A plate is put on.
    PutOn(PlateId, PrinterId),
    /// Copies of a plate go through a step.
    Step(PlateId, Step),
}

/// Something that is done in them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Did {
    /// What.
    pub what: Do,
    /// Somebody begins then, min from now,
    pub from: Minute,
    /// and is at it so long, min.
    pub hands: Minute,
}

/// The best that can be done.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct InHand {
    /// In this order; nothing where nothing that can be done moves anything.
    pub did: Vec<Did>,
    /// Plates that could be put on but for the time somebody has to stay in reach after it: putting on, staying, min.
    pub stays: Vec<(PlateId, Minute, Minute)>,
    /// Plates are judged sooner by so many minutes than if nothing were done, each times what that is worth.
    pub spares: f64,
    /// The same, each plate counted alike.
    pub minutes_sooner: f64,
}

impl InHand {
    /// Minutes of hands.
    #[must_use]
    pub fn minutes(&self) -> Minute {
        self.did.iter().map(|d| d.hands).sum()
    }
}

/// Orders of acts that are kept after each act: all of them where there are six acts at most.
const WIDE: usize = 720;
/// Where that many were looked at, so many are kept.
const LOOKED_AT: usize = 4_000;
const NARROW: usize = 24;
/// Who comes back is there so long, where no window says it, ms.
const BACK_MS: i64 = 3_600_000;

/// A printer in between.
#[derive(Debug, Clone, PartialEq)]
struct Machine {
    /// What is on it, and until when it prints.
    on: Option<(OnPrinter, Minute)>,
    /// It is free since.
    free: Minute,
    holds: Option<u32>,
    /// Plates that were put on.
    put_on: usize,
}

/// Copies in between.
#[derive(Debug, Clone, PartialEq)]
struct Copies {
    plate: PlateId,
    ready: Minute,
    at: Option<Station>,
    next: usize,
}

/// How it stands after some acts.
#[derive(Debug, Clone, PartialEq)]
struct Between {
    at: Minute,
    machines: Vec<Machine>,
    copies: Vec<Copies>,
    free: BTreeMap<Station, Minute>,
    did: Vec<Did>,
}

/// What does not change meanwhile.
struct Asked<'a> {
    day: &'a Day,
    shop: Shop,
    /// Plates that wait for each printer, in order, by their places.
    queues: Vec<Vec<usize>>,
    minutes: Minute,
    back_ms: i64,
    longest: Minute,
}

impl Day {
    /// What is best done by somebody who is here for so many minutes from now, then away till a moment, ms since 1970:
    /// the acts, in their order, after which plates are judged the soonest, each counted by what that is worth; of two
    /// such orders the one that takes fewer minutes of hands.
    ///
    /// Every order of acts is looked at as long as six can be done; of more, the best orders of each length.
    ///
    /// # Errors
    /// [`ScheduleError`] where somebody is there too seldom afterwards.
    pub fn in_hand(&self, minutes: Minute, back_ms: i64) -> Result<InHand, ScheduleError> {
        let asked = Asked::new(self, minutes, back_ms);
        let begun = asked.begun();
        let (nothing, then) = asked.cost(&begun)?;
        let stays = asked.too_long(&begun);
        let mut best = (nothing, 0, begun.clone(), then);
        let (mut level, mut looked_at) = (vec![begun], 0);
        while !level.is_empty() {
            let mut next: Vec<((f64, f64), Between)> = Vec::new();
            for of in &level {
                for did in asked.can(of) {
                    let after = asked.after(of, did);
                    // Another order that comes to the same.
                    let same = |known: &Between| {
                        known.at == after.at
                            && known.machines == after.machines
                            && known.copies == after.copies
                    };
                    if next.iter().any(|(_, known)| same(known)) {
                        continue;
                    }
                    next.push((asked.cost(&after)?, after));
                }
            }
            looked_at += next.len();
            for ((cost, then), of) in &next {
                let hands = of.did.iter().map(|d| d.hands).sum();
                if (*cost, hands) < (best.0, best.1) {
                    best = (*cost, hands, of.clone(), *then);
                }
            }
            next.sort_by(|a, b| a.0.0.total_cmp(&b.0.0));
            next.truncate(if looked_at > LOOKED_AT { NARROW } else { WIDE });
            level = next.into_iter().map(|n| n.1).collect();
        }
        Ok(InHand {
            stays,
            spares: nothing - best.0,
            minutes_sooner: then - best.3,
            did: best.2.did,
        })
    }
}

impl<'a> Asked<'a> {
    fn new(day: &'a Day, minutes: Minute, back_ms: i64) -> Self {
        let shop = day.work.shop();
        let rank = |due: usize| {
            let plate = day.work.due[due].plate;
            let kept = day.order.iter().position(|p| *p == plate);
            kept.unwrap_or(day.order.len() + due)
        };
        let queue = |printer: PrinterId| {
            let own = |due: &usize| {
                let on = day.work.due[*due].on.first();
                on.is_some_and(|on| on.0 == printer)
            };
            let mut all: Vec<usize> = (0..day.work.due.len()).filter(own).collect();
            all.sort_by_key(|due| rank(*due));
            all
        };
        Self {
            queues: day.work.printers.iter().map(|p| queue(p.printer)).collect(),
            longest: shop.attended.iter().map(|w| w.minutes()).max().unwrap_or(0),
            shop,
            day,
            minutes,
            back_ms,
        }
    }

    fn begun(&self) -> Between {
        let work = &self.day.work;
        let machine = |(index, printer): (usize, &crate::schedule::InUse)| {
            let on = work.on.iter().find(|o| o.printer == printer.printer);
            let busy = self.shop.machines[index].busy;
            Machine {
                on: on.cloned().zip(busy.map(|b| b.until)),
                free: 0,
                holds: self.shop.machines[index].resin,
                put_on: 0,
            }
        };
        let copies = |of: &OnItsWay| Copies {
            plate: of.plate,
            ready: self.day.minute(of.ready_ms),
            at: of.at,
            next: 0,
        };
        let mut free = BTreeMap::new();
        for of in &self.day.off {
            if let Some(station @ (Station::Wash | Station::Lamp)) = of.at {
                let until: &mut Minute = free.entry(station).or_default();
                *until = self.day.minute(of.ready_ms).max(*until);
            }
        }
        Between {
            at: 0,
            machines: work.printers.iter().enumerate().map(machine).collect(),
            copies: self.day.off.iter().map(copies).collect(),
            free,
            did: Vec::new(),
        }
    }

    fn steps(&self, plate: PlateId) -> &[(Step, f64)] {
        let off = self.day.off.iter().find(|o| o.plate == plate);
        let off = off.map(|o| &o.steps);
        let steps = off.or_else(|| self.day.routes.get(&plate));
        steps.map_or(&[], Vec::as_slice)
    }

    /// What can be done next, and when.
    fn can(&self, of: &Between) -> Vec<Did> {
        let fits = |(did, stay): (Did, Minute)| {
            (did.from + did.hands + stay <= self.minutes).then_some(did)
        };
        self.ahead(of).into_iter().filter_map(fits).collect()
    }

    /// Plates that could be put on if nobody had to stay.
    fn too_long(&self, of: &Between) -> Vec<(PlateId, Minute, Minute)> {
        let too_long = |(did, stay): (Did, Minute)| match did.what {
            Do::PutOn(plate, _) => {
                let over = did.from + did.hands;
                (over <= self.minutes && over + stay > self.minutes)
                    .then_some((plate, did.hands, stay))
            }
            _ => None,
        };
        self.ahead(of).into_iter().filter_map(too_long).collect()
    }

    /// What is next everywhere, when it can begin, and how long somebody has to stay after it.
    fn ahead(&self, of: &Between) -> Vec<(Did, Minute)> {
        let work = &self.day.work;
        let mut all = Vec::new();
        for (index, machine) in of.machines.iter().enumerate() {
            let printer = work.printers[index].printer;
            if let Some((on, until)) = &machine.on {
                let what = Do::TakeOff(on.plate, printer);
                let hands = work.minutes[1].max(0.0).ceil() as Minute;
                let from = of.at.max(*until);
                all.push((Did { what, from, hands }, 0));
                continue;
            }
            let Some(job) = self.queues[index].get(machine.put_on) else {
                continue;
            };
            if self.day.to_check.contains(&printer) {
                continue;
            }
            let due = &self.shop.jobs[*job];
            let hands = self.shop.load_on(*job, index, machine.holds);
            let from = of.at.max(machine.free);
            let from = due.pin.map_or(from, |pin| from.max(pin.from));
            let print = due.print.get(index).copied().flatten().unwrap_or(0);
            let (prints, printed) = (from + hands, from + hands + print);
            let quiet = &self.shop.quiet;
            if !quiet.iter().any(|q| q.from < printed && q.to > prints) {
                let what = Do::PutOn(work.due[*job].plate, printer);
                all.push((Did { what, from, hands }, due.stay));
            }
        }
        for copies in &of.copies {
            if let Some((step, minutes)) = self.steps(copies.plate).get(copies.next) {
                let (hands, _) = of_step(*step, *minutes, self.longest.max(self.minutes));
                let free = of.free.get(&step.station()).copied().unwrap_or(0);
                let from = of.at.max(copies.ready).max(free);
                let what = Do::Step(copies.plate, *step);
                all.push((Did { what, from, hands }, 0));
            }
        }
        all
    }

    fn after(&self, of: &Between, did: Did) -> Between {
        let mut then = of.clone();
        let over = did.from + did.hands;
        let work = &self.day.work;
        let place = |printer: PrinterId| work.printers.iter().position(|p| p.printer == printer);
        then.at = over;
        then.did.push(did);
        match did.what {
            Do::TakeOff(plate, printer) => {
                if let Some(index) = place(printer) {
                    then.machines[index].on = None;
                    then.machines[index].free = over;
                }
                then.copies.push(Copies {
                    plate,
                    ready: over,
                    at: None,
                    next: 0,
                });
            }
            Do::PutOn(plate, printer) => {
                let due = work.due.iter().position(|d| d.plate == plate);
                if let Some((index, job)) = place(printer).zip(due) {
                    let print = self.shop.jobs[job].print[index].unwrap_or(0);
                    let ms = |minute: Minute| work.now_ms + i64::from(minute) * 60_000;
                    let due = &work.due[job];
                    let on = OnPrinter {
                        printer,
                        plate,
                        number: due.number,
                        project: due.project,
                        from_ms: ms(over),
                        ends_ms: ms(over + print),
                    };
                    let machine = &mut then.machines[index];
                    machine.on = Some((on, over + print));
                    machine.holds = self.shop.jobs[job].resin;
                    machine.put_on += 1;
                }
            }
            Do::Step(plate, step) => {
                let minutes = self.steps(plate);
                if let Some(copies) = then.copies.iter_mut().find(|c| c.plate == plate) {
                    let minutes = minutes.get(copies.next).map_or(0.0, |s| s.1);
                    let longest = self.longest.max(self.minutes);
                    copies.ready = did.from + of_step(step, minutes, longest).1;
                    copies.at = Some(step.station());
                    copies.next += 1;
                    if matches!(step.station(), Station::Wash | Station::Lamp) {
                        then.free.insert(step.station(), copies.ready);
                    }
                }
            }
        }
        then
    }

    /// What it comes to from there, and the same with each plate counted alike: whoever was here is away, and what is left is done from the moment they are back.
    fn cost(&self, of: &Between) -> Result<(f64, f64), ScheduleError> {
        let day = self.day;
        let ms = |minute: Minute| day.work.now_ms + i64::from(minute) * 60_000;
        let mut then = day.clone();
        then.work.on.clear();
        for (index, machine) in of.machines.iter().enumerate() {
            then.work
                .on
                .extend(machine.on.iter().map(|on| on.0.clone()));
            let put_on = &self.queues[index][..machine.put_on];
            let gone: Vec<PlateId> = put_on.iter().map(|d| day.work.due[*d].plate).collect();
            then.work.due.retain(|d| !gone.contains(&d.plate));
            if let Some(last) = put_on.last() {
                then.work.printers[index].holds = Some(day.work.due[*last].resin);
            }
        }
        then.off.clear();
        let (mut cost, mut minutes) = (0.0, 0.0);
        for copies in &of.copies {
            let steps = self.steps(copies.plate);
            let known = day.off.iter().find(|o| o.plate == copies.plate);
            let mend = known.map_or(0.0, |o| o.mend_minutes);
            if copies.next >= steps.len() && mend <= 0.0 {
                cost += day.weight(copies.plate) * f64::from(copies.ready);
                minutes += f64::from(copies.ready);
                continue;
            }
            then.off.push(OnItsWay {
                plate: copies.plate,
                ready_ms: ms(copies.ready),
                at: copies.at,
                steps: steps[copies.next..].to_vec(),
                mend_minutes: mend,
                mend_from_ms: known.map_or(0, |o| o.mend_from_ms),
            });
        }
        then.work.attended = back_from(&day.work.attended, self.back_ms);
        let played = then.play()?;
        Ok((played.cost + cost, played.minutes + minutes))
    }
}

/// When somebody is there who comes back at a moment, ms since 1970.
fn back_from(attended: &[(i64, i64)], back_ms: i64) -> Vec<(i64, i64)> {
    let after = attended.iter().filter(|w| w.1 > back_ms);
    let mut all: Vec<(i64, i64)> = after.map(|w| (w.0.max(back_ms), w.1)).collect();
    if all.first().is_none_or(|w| w.0 > back_ms) {
        let until = all.first().map_or(i64::MAX, |w| w.0);
        all.insert(0, (back_ms, until.min(back_ms + BACK_MS)));
    }
    all
}

#[cfg(test)]
#[path = "in_hand_tests.rs"]
mod tests;
