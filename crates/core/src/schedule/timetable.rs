//! From the plates of the workshop to their times: what a person does when, on which printer.

use std::collections::BTreeMap;

use crate::flow::{Plate, Run};
use crate::ids::{PlateId, PrinterId, ProjectId, ResinId};
use crate::watch::Watch;
use crate::workshop::attendance::Attendance;
use crate::workshop::{Printer, ProcessSetting};

use super::bound::{Because, ScheduleBound};
use super::check::check_schedule;
use super::lay::ScheduleError;
use super::moves::time_on;
use super::search::ScheduleSearch;
use super::shop::{Busy, Job, LATEST, Machine, Minute, Pin, Schedule, Shop, Window};

/// A plate that waits for its printer.
#[derive(Debug, Clone, PartialEq)]
pub struct Due {
    /// The plate.
    pub plate: PlateId,
    /// Its number.
    pub number: i64,
    /// Its project.
    pub project: ProjectId,
    /// Printers that can print it, and how long each takes, s. The first is its own.
    pub on: Vec<(PrinterId, f64)>,
    /// Its resin.
    pub resin: ResinId,
    /// How much an earlier end is worth, from 1.
    pub weight: u32,
    /// It holds a recipe nobody has tried: somebody stays in reach while it prints.
    pub untried: bool,
    /// Somebody wants it not before this, ms since 1970.
    pub not_before_ms: Option<i64>,
}

/// A plate that is on a printer.
#[derive(Debug, Clone, PartialEq)]
pub struct OnPrinter {
    /// The printer.
    pub printer: PrinterId,
    /// The plate.
    pub plate: PlateId,
    /// Its number.
    pub number: i64,
    /// Its project.
    pub project: ProjectId,
    /// It began, ms since 1970.
    pub from_ms: i64,
    /// It is printed, ms since 1970.
    pub ends_ms: i64,
}

/// A printer in use.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct InUse {
    /// Which one.
    pub printer: PrinterId,
    /// The resin in its vat; any where nobody knows.
    pub holds: Option<ResinId>,
    /// Bringing in another one, min.
    pub change_minutes: f64,
    /// Resin that is lost by it, ml.
    pub change_ml: f64,
}

/// Another resin is brought into a vat before a plate is put on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ResinChange {
    /// Which of the bars.
    pub bar: usize,
    /// What comes in.
    pub resin: ResinId,
    /// The hands it takes, min.
    pub minutes: f64,
    /// Resin that is lost by it, ml.
    pub ml: f64,
}

/// All that a timetable is made from.
///
/// # Units
/// ms since 1970, min.
#[derive(Debug, Clone, PartialEq)]
pub struct Work {
    /// It begins.
    pub now_ms: i64,
    /// Printers in use.
    pub printers: Vec<InUse>,
    /// What is on them.
    pub on: Vec<OnPrinter>,
    /// What waits.
    pub due: Vec<Due>,
    /// When somebody is there.
    pub attended: Vec<(i64, i64)>,
    /// When nothing may print.
    pub quiet: Vec<(i64, i64)>,
    /// Plates that hold nothing but spares.
    pub spare: Vec<PlateId>,
    /// Putting on, taking off, the first layers.
    pub minutes: [f64; 3],
}

/// A plate as it waits, or runs.
#[derive(Debug, Clone, PartialEq)]
pub struct Waiting {
    /// The plate.
    pub plate: Plate,
    /// Its run, where it runs.
    pub run: Option<Run>,
    /// The first priority among its units.
    pub priority: i64,
    /// A recipe on it has given no good copy on its printer yet.
    pub untried: bool,
    /// Somebody wants it not before this, ms since 1970.
    pub not_before_ms: Option<i64>,
}

/// Priorities that are told apart: from there on a unit can wait alike.
const PRIORITIES: i64 = 5;

/// How much an earlier end is worth, by the first priority on a plate: from 1 to 5.
#[must_use]
pub fn weight_of(priority: i64) -> u32 {
    (PRIORITIES + 1 - priority).clamp(1, PRIORITIES) as u32
}

impl Waiting {
    /// As it waits, with every printer that can print it; nothing where its own is out of use.
    fn due(&self, printers: &[Printer], settings: &[ProcessSetting]) -> Option<Due> {
        let plate = &self.plate;
        let own = printers.iter().find(|p| p.id == plate.printer)?;
        let mut on = vec![(own.id, plate.seconds)];
        for other in printers.iter().filter(|p| p.id != own.id) {
            if let Ok((seconds, _)) = time_on(plate, own, other, settings) {
                on.push((other.id, other.pace.seconds(seconds)));
            }
        }
        Some(Due {
            plate: plate.id,
            number: plate.number,
            project: plate.project,
            on,
            resin: plate.resin,
            weight: weight_of(self.priority),
            untried: self.untried,
            not_before_ms: self.not_before_ms,
        })
    }
}

/// When it is, and when somebody is there, ms since 1970.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Moments {
    /// Now.
    pub now_ms: i64,
    /// When somebody is there from now on.
    pub attended: Vec<(i64, i64)>,
    /// When nothing may print.
    pub quiet: Vec<(i64, i64)>,
}

/// A plate in its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Bar {
    /// The plate.
    pub plate: PlateId,
    /// Its number.
    pub number: i64,
    /// Its project.
    pub project: ProjectId,
    /// Its printer.
    pub printer: PrinterId,
    /// Somebody begins to put it on; it is on already where this is before now.
    pub load_ms: i64,
    /// It prints from then,
    pub prints_ms: i64,
    /// until then.
    pub printed_ms: i64,
    /// Somebody begins to take it off.
    pub unload_ms: i64,
    /// It is off.
    pub end_ms: i64,
}

/// When each plate is printed.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Timetable {
    /// It was made then.
    pub from_ms: i64,
    /// In the order in which they are put on.
    pub bars: Vec<Bar>,
}

/// Something a person does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Act {
    /// When they begin.
    pub at_ms: i64,
    /// It is put on; otherwise it is taken off.
    pub puts_on: bool,
    /// Which of the bars.
    pub bar: usize,
}

impl Work {
    /// Work of all plates that run or wait, over printers in use, each with the resin it holds. A
    /// plate whose printer is out of use is left out: [`Work::left_out`].
    #[must_use]
    pub fn of(
        plates: &[Waiting],
        (printers, settings): (&[Printer], &[ProcessSetting]),
        holds: &BTreeMap<PrinterId, ResinId>,
        attendance: &Attendance,
        moments: Moments,
    ) -> Self {
        let now_ms = moments.now_ms;
        let runs = plates.iter().filter_map(|waiting| {
            let (plate, run) = (&waiting.plate, waiting.run.as_ref()?);
            Some(OnPrinter {
                printer: plate.printer,
                plate: plate.id,
                number: plate.number,
                project: plate.project,
                from_ms: run.started_at_ms,
                ends_ms: run.ends_at_ms(plate.seconds, now_ms),
            })
        });
        let waits = plates.iter().filter(|w| w.run.is_none());
        Self {
            now_ms,
            printers: printers
                .iter()
                .map(|p| InUse {
                    printer: p.id,
                    holds: holds.get(&p.id).copied(),
                    change_minutes: p.change_minutes,
                    change_ml: p.change_ml,
                })
                .collect(),
            on: runs.collect(),
            due: waits.filter_map(|w| w.due(printers, settings)).collect(),
            attended: moments.attended,
            quiet: moments.quiet,
            spare: Vec::new(),
            minutes: [
                attendance.load_minutes,
                attendance.unload_minutes,
                attendance.look_minutes,
            ],
        }
    }

    /// Numbers of the plates that wait for a printer which is out of use.
    #[must_use]
    pub fn left_out(&self, plates: &[Waiting]) -> Vec<i64> {
        let waits = plates.iter().filter(|w| w.run.is_none());
        waits
            .filter(|w| self.due.iter().all(|d| d.plate != w.plate.id))
            .map(|w| w.plate.number)
            .collect()
    }

    fn minute(&self, ms: i64) -> Minute {
        let minutes = ms.saturating_sub(self.now_ms).max(0) / 60_000;
        minutes.min(i64::from(LATEST)) as Minute
    }

    fn minute_up(&self, ms: i64) -> Minute {
        let left = ms.saturating_sub(self.now_ms).max(0) as u64;
        left.div_ceil(60_000).min(u64::from(LATEST)) as Minute
    }

    /// The same as minutes from now, without names. Moments round so that nobody is asked for
    /// before they come, or after they go.
    #[must_use]
    pub fn shop(&self) -> Shop {
        let [load, unload, look] = self.minutes.map(whole);
        let most_change = self.printers.iter().map(|p| whole(p.change_minutes)).max();
        let most_change = most_change.unwrap_or(0);
        let machine = |of: &InUse| {
            let on = self.on.iter().find(|o| o.printer == of.printer);
            Machine {
                busy: on.map(|o| Busy {
                    until: self.minute_up(o.ends_ms),
                    unload,
                }),
                resin: of.holds.map(|r| r.0 as u32),
                change: whole(of.change_minutes),
                ..Machine::default()
            }
        };
        let windows = |all: &[(i64, i64)]| {
            let window = |(from, to): &(i64, i64)| Window {
                from: self.minute_up(*from),
                to: self.minute(*to),
            };
            Shop::ordered(all.iter().map(window).collect())
        };
        let attended = windows(&self.attended);
        let longest = attended.iter().map(|w| w.minutes()).max().unwrap_or(0);
        let job = |due: &Due| {
            let print: Vec<_> = self
                .printers
                .iter()
                .map(|of| {
                    let on = due.on.iter().find(|(printer, _)| *printer == of.printer);
                    on.map(|(_, s)| ((s.max(0.0) / 60.0).ceil() as Minute).min(LATEST))
                })
                .collect();
            // Where no window is as long, the longest has to do.
            let all = print.iter().flatten().max().copied().unwrap_or(0);
            let stay = if due.untried {
                all.min(longest.saturating_sub(load + most_change))
                    .max(look)
            } else {
                look
            };
            let pin = due.not_before_ms.map(|ms| Pin {
                machine: self.place_of(due.on.first().map(|(id, _)| *id)),
                from: self.minute_up(ms),
            });
            Job {
                print,
                load,
                stay,
                unload,
                weight: due.weight.max(1),
                resin: Some(due.resin.0 as u32),
                pin,
            }
        };
        Shop {
            machines: self.printers.iter().map(machine).collect(),
            jobs: self.due.iter().map(job).collect(),
            attended,
            quiet: windows(&self.quiet),
        }
    }

    fn place_of(&self, printer: Option<PrinterId>) -> usize {
        let at = self
            .printers
            .iter()
            .position(|of| Some(of.printer) == printer);
        at.unwrap_or(0)
    }

    fn named(&self, shop: &Shop, schedule: &Schedule) -> Timetable {
        let ms = |minute: Minute| self.now_ms + i64::from(minute) * 60_000;
        let mut bars: Vec<Bar> = Vec::new();
        for (machine, at) in &schedule.first_unloads {
            let id = self.printers[*machine].printer;
            let unload = shop.machines[*machine].busy.map_or(0, |b| b.unload);
            if let Some(on) = self.on.iter().find(|o| o.printer == id) {
                bars.push(Bar {
                    plate: on.plate,
                    number: on.number,
                    project: on.project,
                    printer: id,
                    load_ms: on.from_ms,
                    prints_ms: on.from_ms,
                    printed_ms: on.ends_ms,
                    unload_ms: ms(*at),
                    end_ms: ms(at + unload),
                });
            }
        }
        bars.extend(schedule.slots.iter().map(|slot| {
            let due = &self.due[slot.job];
            Bar {
                plate: due.plate,
                number: due.number,
                project: due.project,
                printer: self.printers[slot.machine].printer,
                load_ms: ms(slot.load),
                prints_ms: ms(slot.prints),
                printed_ms: ms(slot.printed),
                unload_ms: ms(slot.unload),
                end_ms: ms(slot.end),
            }
        }));
        bars.sort_by_key(|b| (b.load_ms, b.number));
        Timetable {
            from_ms: self.now_ms,
            bars,
        }
    }

    /// Times for everything that waits. What was kept of an earlier timetable, plates in the order
    /// in which they were to be put on, stays so unless another order ends sooner by more than it is
    /// worth to get used to.
    ///
    /// # Errors
    /// [`ScheduleError`]; with `job` the place of a plate in [`Work::due`].
    pub fn timetable(
        &self,
        kept: &[PlateId],
        search: ScheduleSearch,
        watch: &dyn Watch,
    ) -> Result<Timetable, ScheduleError> {
        let shop = self.shop();
        let order: Vec<usize> = kept
            .iter()
            .filter_map(|id| self.due.iter().position(|d| d.plate == *id))
            .collect();
        let found = search.replan(&shop, &order, watch)?;
        debug_assert_eq!(check_schedule(&shop, &found), []);
        Ok(self.named(&shop, &found))
    }

    /// Before which moment the plates of a project cannot be done, whatever the order, ms since
    /// 1970; and why.
    #[must_use]
    pub fn bound(
        &self,
        project: ProjectId,
        timetable: &Timetable,
        watch: &dyn Watch,
    ) -> (i64, ScheduleBound) {
        let mut only = self.clone();
        only.due.retain(|d| d.project == project);
        let end = timetable.end_of(project).unwrap_or(self.now_ms);
        let mut bound = ScheduleBound::of(&only.shop(), self.minute_up(end), watch);
        // What runs for it is printed first, and taken off.
        for on in self.on.iter().filter(|o| o.project == project) {
            let at = self.minute_up(on.ends_ms) + whole(self.minutes[1]);
            if at > bound.at {
                let machine = self.place_of(Some(on.printer));
                let because = Because::Machine { machine };
                bound = ScheduleBound { at, because };
            }
        }
        (self.now_ms + i64::from(bound.at) * 60_000, bound)
    }
}

/// Minutes, none of them broken.
fn whole(minutes: f64) -> Minute {
    minutes.max(0.0).ceil() as Minute
}

impl Work {
    /// Where another resin is brought into a vat.
    #[must_use]
    pub fn changes(&self, timetable: &Timetable) -> Vec<ResinChange> {
        let mut holds: BTreeMap<PrinterId, Option<ResinId>> =
            self.printers.iter().map(|p| (p.printer, p.holds)).collect();
        let mut all = Vec::new();
        for (bar, of) in timetable.bars.iter().enumerate() {
            let Some(due) = self.due.iter().find(|d| d.plate == of.plate) else {
                continue;
            };
            let held = holds.insert(of.printer, Some(due.resin)).flatten();
            let printer = self.printers.iter().find(|p| p.printer == of.printer);
            let Some(printer) = printer.filter(|_| held.is_some_and(|r| r != due.resin)) else {
                continue;
            };
            if printer.change_minutes > 0.0 || printer.change_ml > 0.0 {
                all.push(ResinChange {
                    bar,
                    resin: due.resin,
                    minutes: printer.change_minutes,
                    ml: printer.change_ml,
                });
            }
        }
        all
    }
}

impl Timetable {
    /// When the last plate of a project is off; nothing where none waits or prints.
    #[must_use]
    pub fn end_of(&self, project: ProjectId) -> Option<i64> {
        let of = self.bars.iter().filter(|b| b.project == project);
        of.map(|b| b.end_ms).max()
    }

    /// When everything is off.
    #[must_use]
    pub fn end_ms(&self) -> Option<i64> {
        self.bars.iter().map(|b| b.end_ms).max()
    }

    /// What a person does, in order.
    #[must_use]
    pub fn acts(&self) -> Vec<Act> {
        let mut all: Vec<Act> = Vec::new();
        for (bar, b) in self.bars.iter().enumerate() {
            if b.load_ms >= self.from_ms {
                all.push(Act {
                    at_ms: b.load_ms,
                    puts_on: true,
                    bar,
                });
            }
            all.push(Act {
                at_ms: b.unload_ms,
                puts_on: false,
                bar,
            });
        }
        all.sort_unstable();
        all
    }

    /// The order to keep when it is made anew.
    #[must_use]
    pub fn order(&self) -> Vec<PlateId> {
        self.bars.iter().map(|b| b.plate).collect()
    }
}
