//! The rest of the work played out: the printers by their schedule, finishing with the hands that leaves.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

use crate::finishing::{Station, Step};
use crate::ids::{PlateId, PrinterId, ProjectId, UnitId};
use crate::schedule::{Bar, Due, Hands, Minute, ScheduleError, ScheduleSearch, Timetable, Work};
use crate::watch::Unwatched;

/// What is put into a bath or under a lamp, or hung up, takes the hands so long, min (common practice, no source); it
/// goes on by itself then.
pub(super) const TOUCH: Minute = 2;

/// The steps that are ahead of a plate's copies, and how long each takes, min.
pub type Steps = Vec<(Step, f64)>;

/// Copies that are off their printer and not judged.
#[derive(Debug, Clone, PartialEq)]
pub struct OnItsWay {
    /// Their plate.
    pub plate: PlateId,
    /// They can go on from then, ms since 1970: the step under way is over.
    pub ready_ms: i64,
    /// What the step under way occupies.
    pub at: Option<Station>,
    /// What is ahead of them.
    pub steps: Steps,
    /// Mending takes so long beside, min, and
    pub mend_minutes: f64,
    /// is not begun before, ms since 1970.
    pub mend_from_ms: i64,
}

/// What is to be played out.
#[derive(Debug, Clone, PartialEq)]
pub struct Day {
    /// What is on printers and what waits, each on its own printer.
    pub work: Work,
    /// The order in which plates are put on.
    pub order: Vec<PlateId>,
    /// What is off.
    pub off: Vec<OnItsWay>,
    /// What is ahead of plates that are not off.
    pub routes: BTreeMap<PlateId, Steps>,
    /// Units that have copies on a plate.
    pub units: BTreeMap<PlateId, BTreeSet<UnitId>>,
    /// How much an earlier end of a plate is worth; 1 where nothing is said.
    pub weights: BTreeMap<PlateId, u32>,
    /// Printers nothing is put on before somebody has looked into them.
    pub to_check: BTreeSet<PrinterId>,
    /// Plates that are not taken off before, ms since 1970, though they are printed.
    pub left_on: BTreeMap<PlateId, i64>,
    /// Plates of plans nobody has accepted yet.
    pub drafts: BTreeMap<ProjectId, Vec<Due>>,
}

/// How it came out.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Played {
    /// When the last copy of each plate is judged, ms since 1970.
    pub done_ms: BTreeMap<PlateId, i64>,
    /// How long each printer waits for hands before its last plate is on, min.
    pub idle: BTreeMap<PrinterId, i64>,
    /// Minutes from now until each plate is judged, times what an earlier end of it is worth, all together.
    pub cost: f64,
    /// The same, each plate counted alike.
    pub minutes: f64,
}

/// Copies on their way, as they are played.
struct Chain<'a> {
    plate: PlateId,
    ready: Minute,
    steps: &'a [(Step, f64)],
    next: usize,
    mend: Option<(Minute, Minute)>,
}

impl Day {
    pub(super) fn minute(&self, ms: i64) -> Minute {
        let minutes = (ms - self.work.now_ms).max(0).div_euclid(60_000);
        Minute::try_from(minutes).unwrap_or(Minute::MAX)
    }

    pub(super) fn weight(&self, plate: PlateId) -> f64 {
        f64::from(self.weights.get(&plate).copied().unwrap_or(1))
    }

    /// Plays it out: plates as the schedule lays them in the order that is kept, then every step of finishing as early
    /// as it can be; what can begin first goes first, and judging can wait, what is wet cannot.
    ///
    /// # Errors
    /// [`ScheduleError`] where somebody is there too seldom.
    pub fn play(&self) -> Result<Played, ScheduleError> {
        let mut work = self.work.clone();
        for on in &mut work.on {
            let from = self.left_on.get(&on.plate).copied();
            on.ends_ms = on.ends_ms.max(from.unwrap_or(on.ends_ms));
        }
        let table = work.timetable(&self.order, ScheduleSearch::NONE, &Unwatched)?;
        let windows = work.shop().attended;
        let mut hands = Hands::new(&windows);
        for bar in &table.bars {
            if self.is_put_on(bar) {
                let minutes = self.minute(bar.prints_ms) - self.minute(bar.load_ms);
                hands.take(self.minute(bar.load_ms), minutes, minutes);
            }
            let minutes = self.minute(bar.end_ms) - self.minute(bar.unload_ms);
            hands.take(self.minute(bar.unload_ms), minutes, minutes);
        }
        let longest = windows.iter().map(|w| w.minutes()).max().unwrap_or(0);
        let never = windows.last().map_or(0, |w| w.to);
        let nothing = Steps::new();
        let off = self.off.iter().map(|of| Chain {
            plate: of.plate,
            ready: self.minute(of.ready_ms),
            steps: &of.steps,
            next: 0,
            mend: (of.mend_minutes > 0.0).then(|| {
                (
                    self.minute(of.mend_from_ms),
                    of.mend_minutes.ceil() as Minute,
                )
            }),
        });
        let to_come = table.bars.iter().map(|bar| Chain {
            plate: bar.plate,
            ready: self.minute(bar.end_ms),
            steps: self.routes.get(&bar.plate).unwrap_or(&nothing),
            next: 0,
            mend: None,
        });
        let mut chains: Vec<Chain> = off.chain(to_come).collect();
        let mut stations: BTreeMap<Station, Minute> = BTreeMap::new();
        for of in &self.off {
            if let Some(station) = of.at.filter(|s| *s != Station::Shelf) {
                let until = stations.entry(station).or_insert(0);
                *until = self.minute(of.ready_ms).max(*until);
            }
        }
        let mut played = Played {
            idle: self.idle(&table),
            ..Played::default()
        };
        // Hands and stations only get fuller: a start that was right when it was asked for is never too late, so the
        // earliest is asked for again and taken where it still holds.
        let mut waits = BinaryHeap::new();
        for (index, chain) in chains.iter().enumerate() {
            waits.push(Reverse((chain.ready, false, chain.ready, index)));
        }
        while let Some(Reverse(seen)) = waits.pop() {
            let index = seen.3;
            let chain = &mut chains[index];
            let Some(op) = chain.op(longest) else {
                self.done(chain.plate, chain.ready, &mut played);
                continue;
            };
            let free = stations.get(&op.station).copied().unwrap_or(0);
            let from = chain.ready.max(op.from).max(free);
            let Some(start) = hands.free(from, op.hands, op.hands) else {
                self.done(chain.plate, never, &mut played);
                continue;
            };
            let now = (start, op.waits, chain.ready, index);
            if now > seen {
                waits.push(Reverse(now));
                continue;
            }
            hands.take(start, op.hands, op.hands);
            chain.ready = start + op.minutes;
            if op.station == Station::Wash || op.station == Station::Lamp {
                stations.insert(op.station, chain.ready);
            }
            chain.next += 1;
            waits.push(Reverse((chain.ready, false, chain.ready, index)));
        }
        Ok(played)
    }

    /// It is not on its printer yet.
    fn is_put_on(&self, bar: &Bar) -> bool {
        self.work.on.iter().all(|on| on.plate != bar.plate)
    }

    /// How long each printer does not print before its last plate is on, min.
    fn idle(&self, table: &Timetable) -> BTreeMap<PrinterId, i64> {
        let mut all: BTreeMap<PrinterId, i64> = BTreeMap::new();
        let on = self.work.on.iter().map(|on| (on.printer, on.ends_ms));
        let mut printed_ms: BTreeMap<PrinterId, i64> = on.collect();
        for bar in table.bars.iter().filter(|b| self.is_put_on(b)) {
            let before = printed_ms.insert(bar.printer, bar.printed_ms);
            let since = before.unwrap_or(table.from_ms).max(table.from_ms);
            *all.entry(bar.printer).or_default() += (bar.prints_ms - since).max(0) / 60_000;
        }
        all
    }

    fn done(&self, plate: PlateId, at: Minute, played: &mut Played) {
        let ms = self.work.now_ms + i64::from(at) * 60_000;
        played.done_ms.insert(plate, ms);
        played.cost += self.weight(plate) * f64::from(at);
        played.minutes += f64::from(at);
    }
}

/// What is done next with some copies.
struct Op {
    station: Station,
    from: Minute,
    hands: Minute,
    minutes: Minute,
    waits: bool,
}

/// For how long a step needs hands, and for how long it lasts, min; no longer than somebody is ever there.
pub(super) fn of_step(step: Step, minutes: f64, longest: Minute) -> (Minute, Minute) {
    let minutes = minutes.max(0.0).ceil() as Minute;
    if step.rests() {
        (TOUCH.min(longest), minutes.max(TOUCH))
    } else {
        let minutes = minutes.min(longest);
        (minutes, minutes)
    }
}

impl Chain<'_> {
    fn op(&self, longest: Minute) -> Option<Op> {
        if let Some((step, minutes)) = self.steps.get(self.next) {
            let (hands, minutes) = of_step(*step, *minutes, longest);
            return Some(Op {
                station: step.station(),
                from: 0,
                hands,
                minutes,
                waits: *step == Step::Judge,
            });
        }
        let (from, minutes) = self.mend.filter(|_| self.next == self.steps.len())?;
        let minutes = minutes.min(longest);
        Some(Op {
            station: Station::Hands,
            from,
            hands: minutes,
            minutes,
            waits: true,
        })
    }
}
