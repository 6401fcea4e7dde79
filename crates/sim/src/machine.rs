//! The machine itself: what it is told, what it does as time goes by. It has no clock.

use std::collections::{BTreeMap, VecDeque};

use serde::{Deserialize, Serialize};
use wembrit_core::link::JobKey;
use wembrit_core::link::job::Job;
use wembrit_core::link::says::{FileSaid, JobSaid, MachineState, Says, Trouble};
use wembrit_core::link::told::{Answer, Told};
use wembrit_core::workshop::resin::ROOM_C;

use crate::fault::{AtLayer, Fault};

/// Answers that are remembered: a client that asks again after so many others is not answered twice alike.
const REMEMBERED: usize = 1000;

/// In the cold every layer takes so much longer (common practice, no source).
const COLD_PACE: f64 = 1.05;

/// What does not change about a machine.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Spec {
    /// What it is called.
    pub name: String,
    /// How far its plate goes up, mm.
    pub travel_mm: f64,
    /// What its vat takes, ml.
    pub vat_ml: f64,
    /// Strikes jobs by this seed; nothing goes wrong by itself without one.
    pub seed: Option<u64>,
}

/// A file in its memory.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Kept {
    text: String,
    checksum: String,
}

/// What hangs in it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Hanging {
    key: JobKey,
    job: Job,
    layer: u32,
    /// So far along its own time, s.
    at_s: f64,
    printed_s: f64,
    since_s: f64,
    /// Nothing reaches the plate any more.
    in_vain: bool,
    /// Faults that wait for their layer.
    faults: Vec<AtLayer>,
}

/// A printer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Machine {
    spec: Spec,
    state: MachineState,
    trouble: Option<Trouble>,
    hanging: Option<Hanging>,
    files: BTreeMap<String, Kept>,
    room_c: f64,
    resin_ml: f64,
    speed: f64,
    /// Its identity.
    serial: String,
    /// How often it was switched on.
    boots: u64,
    /// Jobs it ever began.
    numbers: u64,
    answers: BTreeMap<String, Answer>,
    order: VecDeque<String>,
    /// For so long it does not hear, does not get answers out, has no power, s of the clock.
    deaf_s: f64,
    mute_s: f64,
    off_s: f64,
    /// Faults that wait for its next job.
    waiting: Vec<AtLayer>,
}

/// How much of what it hears and says gets through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Through {
    All,
    /// It hears and cannot be heard.
    InOnly,
    Nothing,
}

impl Machine {
    /// A machine that was just unpacked, in a warm room, with a full vat, and an identity that no other has.
    #[must_use]
    pub fn new(spec: Spec, serial: String) -> Self {
        Self {
            serial,
            boots: 1,
            resin_ml: spec.vat_ml,
            spec,
            state: MachineState::Idle,
            trouble: None,
            hanging: None,
            files: BTreeMap::new(),
            room_c: 21.0,
            speed: 1.0,
            numbers: 0,
            answers: BTreeMap::new(),
            order: VecDeque::new(),
            deaf_s: 0.0,
            mute_s: 0.0,
            off_s: 0.0,
            waiting: Vec::new(),
        }
    }

    /// The same machine with what it is like said anew: its vat holds no more than it takes.
    #[must_use]
    pub(crate) fn like(mut self, spec: Spec) -> Self {
        self.resin_ml = self.resin_ml.min(spec.vat_ml);
        self.spec = spec;
        self
    }

    /// Switched on again: what it printed was broken off, and does not go on by itself.
    #[must_use]
    pub fn woken(mut self) -> Self {
        self.wake();
        self
    }

    fn wake(&mut self) {
        if matches!(self.state, MachineState::Printing | MachineState::Paused) {
            self.state = MachineState::Halted;
            self.trouble = Some(Trouble::PowerCut);
        }
        (self.deaf_s, self.mute_s, self.off_s) = (0.0, 0.0, 0.0);
        self.boots += 1;
    }

    /// What it says of itself.
    #[must_use]
    pub fn says(&self) -> Says {
        let hanging = self.hanging.as_ref();
        let job = hanging.map(|h| JobSaid {
            number: h.key.number,
            boot: h.key.boot.clone(),
            file: h.key.file.clone(),
            checksum: h.key.checksum.clone(),
        });
        let file = |(name, kept): (&String, &Kept)| FileSaid {
            name: name.clone(),
            checksum: kept.checksum.clone(),
        };
        Says {
            machine: self.serial.clone(),
            boot: self.boots.to_string(),
            jobs: self.numbers,
            state: self.state,
            trouble: self.trouble,
            job,
            layer: self.layer(),
            printed_s: hanging.map_or(0.0, |h| h.printed_s),
            since_s: hanging.map_or(0.0, |h| h.since_s),
            room_c: self.room_c,
            resin_ml: self.resin_ml,
            travel_mm: self.spec.travel_mm,
            files: self.files.iter().map(file).collect(),
            speed: self.speed,
        }
    }

    /// Where it stands.
    #[must_use]
    pub fn stands(&self) -> MachineState {
        self.state
    }

    /// Layers that are done of what hangs in it.
    #[must_use]
    pub fn layer(&self) -> u32 {
        self.hanging.as_ref().map_or(0, |h| h.layer)
    }

    /// Jobs it ever began.
    #[must_use]
    pub fn jobs(&self) -> u64 {
        self.numbers
    }

    /// What its vat holds, ml.
    #[must_use]
    pub fn holds_ml(&self) -> f64 {
        self.resin_ml
    }

    pub(crate) fn through(&self) -> Through {
        if self.off_s > 0.0 || self.deaf_s > 0.0 {
            Through::Nothing
        } else if self.mute_s > 0.0 {
            Through::InOnly
        } else {
            Through::All
        }
    }

    /// Keeps a file; what had its name before is gone.
    ///
    /// # Errors
    /// Why not, in words.
    pub fn keep(&mut self, name: &str, bytes: &[u8]) -> Result<String, String> {
        Job::read(bytes).map_err(|e| e.to_string())?;
        let text = String::from_utf8(bytes.to_vec()).map_err(|e| e.to_string())?;
        let checksum = blake3::hash(bytes).to_hex().to_string();
        let kept = Kept {
            text,
            checksum: checksum.clone(),
        };
        self.files.insert(name.to_owned(), kept);
        Ok(checksum)
    }

    /// What it once answered to a command with this identity.
    #[must_use]
    pub fn answered(&self, id: &str) -> Option<&Answer> {
        self.answers.get(id)
    }

    /// Tells it something. The same identity is answered the same, and done once.
    pub fn tell(&mut self, id: &str, command: &Told) -> Answer {
        if let Some(known) = self.answers.get(id) {
            return known.clone();
        }
        let answer = self.obey(command);
        self.answers.insert(id.to_owned(), answer.clone());
        self.order.push_back(id.to_owned());
        if self.order.len() > REMEMBERED
            && let Some(oldest) = self.order.pop_front()
        {
            self.answers.remove(&oldest);
        }
        answer
    }

    fn obey(&mut self, command: &Told) -> Answer {
        use MachineState::{Ended, Halted, Idle, Paused, Printing, Stopped};
        let done = match command {
            Told::Start(key) => self.start(key),
            Told::Pause(key) => self.steps(key, &[Printing], Paused),
            Told::Resume(_) if self.resin_ml <= 0.0 => Err("its vat is empty".to_owned()),
            Told::Resume(key) => self.steps(key, &[Paused], Printing),
            Told::Stop(key) => self.steps(key, &[Printing, Paused], Stopped),
            Told::Clear(key) => self.steps(key, &[Ended, Stopped, Halted], Idle),
        };
        let (number, layer) = self
            .hanging
            .as_ref()
            .map_or((0, 0), |h| (h.key.number, h.layer));
        if done.is_ok() && matches!(command, Told::Clear(_)) {
            self.hanging = None;
        }
        if done.is_ok() {
            self.trouble = None;
        }
        Answer {
            done: done.is_ok(),
            why: done.err().unwrap_or_default(),
            number,
            layer,
        }
    }

    /// Compares before it acts: what was meant for another job does nothing to this one.
    fn steps(
        &mut self,
        key: &JobKey,
        from: &[MachineState],
        to: MachineState,
    ) -> Result<(), String> {
        if key.machine != self.serial {
            return Err("it is another machine".into());
        }
        if let Some(hanging) = &self.hanging
            && hanging.key != *key
        {
            return Err(format!(
                "job {} hangs in it, and this was meant for job {}",
                hanging.key.number, key.number
            ));
        }
        if from.contains(&self.state) {
            self.state = to;
            Ok(())
        } else {
            Err(format!("it is {}", self.stands()))
        }
    }

    fn start(&mut self, key: &JobKey) -> Result<(), String> {
        if key.machine != self.serial {
            return Err("it is another machine".into());
        }
        if self.state != MachineState::Idle {
            return Err(format!("it is {}", self.stands()));
        }
        // Somebody was at it since this was said: its plate may not be empty any more.
        if (key.number, &key.boot) != (self.numbers + 1, &self.boots.to_string()) {
            return Err("it was used or switched off since this was said".into());
        }
        let (file, checksum) = (key.file.as_str(), key.checksum.as_str());
        let kept = self.files.get(file);
        let kept = kept.ok_or_else(|| format!("its memory does not hold {file}"))?;
        if kept.checksum != checksum {
            return Err(format!("what its memory holds as {file} is another file"));
        }
        let job = Job::read(kept.text.as_bytes()).map_err(|e| e.to_string())?;
        if job.travel_mm() > self.spec.travel_mm + 1e-6 {
            return Err(format!(
                "it needs {:.1} mm of travel and has {:.1}",
                job.travel_mm(),
                self.spec.travel_mm
            ));
        }
        if self.resin_ml <= 0.0 {
            return Err("its vat is empty".into());
        }
        self.numbers += 1;
        let mut faults = std::mem::take(&mut self.waiting);
        if let Some(seed) = self.spec.seed {
            faults.extend(AtLayer::by_seed(seed, self.numbers, job.layers()));
        }
        self.hanging = Some(Hanging {
            key: key.clone(),
            job,
            layer: 0,
            at_s: 0.0,
            printed_s: 0.0,
            since_s: 0.0,
            in_vain: false,
            faults,
        });
        self.state = MachineState::Printing;
        Ok(())
    }

    /// Fills its vat up by so much.
    pub fn fill(&mut self, ml: f64) {
        self.resin_ml = (self.resin_ml + ml.max(0.0)).min(self.spec.vat_ml);
    }

    /// Goes so many times as fast as the clock.
    pub fn goes(&mut self, speed: f64) {
        self.speed = speed.clamp(0.0, 100_000.0);
    }

    /// A fault strikes: at its layer of what hangs in it, at once where that is done or it needs no job, else in the
    /// next job.
    pub fn strike(&mut self, fault: AtLayer) {
        let needs_job = matches!(fault.fault, Fault::NothingOnPlate | Fault::StuckToFilm);
        let under_way = matches!(self.state, MachineState::Printing | MachineState::Paused);
        match &mut self.hanging {
            Some(hanging) if under_way && fault.layer > hanging.layer => hanging.faults.push(fault),
            _ if under_way || (fault.layer == 0 && !needs_job) => self.struck(fault),
            _ => self.waiting.push(fault),
        }
    }

    fn struck(&mut self, fault: AtLayer) {
        match fault.fault {
            Fault::LostLink => self.deaf_s = fault.seconds,
            Fault::LostAnswers => self.mute_s = fault.seconds,
            Fault::PowerCut => self.off_s = fault.seconds,
            Fault::ResinEmpty => self.run_dry(),
            Fault::NothingOnPlate | Fault::StuckToFilm => {
                if let Some(hanging) = &mut self.hanging {
                    hanging.in_vain = true;
                }
            }
            Fault::ColdRoom => self.room_c = 14.0,
            Fault::WrongFile => {
                for kept in self.files.values_mut() {
                    kept.text = kept.text.replacen("plate", "plats", 1);
                    kept.checksum = blake3::hash(kept.text.as_bytes()).to_hex().to_string();
                }
            }
        }
    }

    fn run_dry(&mut self) {
        self.resin_ml = 0.0;
        if self.state == MachineState::Printing {
            self.state = MachineState::Paused;
            self.trouble = Some(Trouble::ResinEmpty);
        }
    }

    /// So much time goes by on the clock.
    pub fn advance(&mut self, clock_s: f64) {
        self.deaf_s = (self.deaf_s - clock_s).max(0.0);
        self.mute_s = (self.mute_s - clock_s).max(0.0);
        if self.off_s > 0.0 {
            self.off_s -= clock_s;
            if self.off_s <= 0.0 {
                self.wake();
            }
            return;
        }
        let goes_by = clock_s * self.speed;
        if let Some(hanging) = &mut self.hanging {
            hanging.since_s += goes_by;
        }
        if self.state == MachineState::Printing {
            self.print(goes_by);
        }
    }

    /// Layer by layer, so that a fault strikes where it should however long the step of time is.
    fn print(&mut self, seconds: f64) {
        let mut left = seconds;
        while self.state == MachineState::Printing && self.off_s <= 0.0 {
            let pace = if self.room_c < ROOM_C { COLD_PACE } else { 1.0 };
            let Some(hanging) = &mut self.hanging else {
                return;
            };
            let (before, layer) = (hanging.layer, hanging.layer + 1);
            let needs = (hanging.job.seconds_to(layer) - hanging.at_s) * pace;
            if left < needs {
                hanging.at_s += left / pace;
                hanging.printed_s += left;
                return;
            }
            left -= needs;
            hanging.at_s = hanging.job.seconds_to(layer);
            hanging.printed_s += needs;
            let takes = if hanging.in_vain {
                0.0
            } else {
                hanging.job.resin_to(layer) - hanging.job.resin_to(before)
            };
            if takes > self.resin_ml {
                self.run_dry();
                return;
            }
            hanging.layer = layer;
            let is_last = layer >= hanging.job.layers();
            let due = |f: &AtLayer| f.layer <= layer;
            let struck: Vec<AtLayer> = hanging.faults.iter().copied().filter(due).collect();
            hanging.faults.retain(|f| !due(f));
            self.resin_ml -= takes;
            for fault in struck {
                self.struck(fault);
            }
            if is_last && self.state == MachineState::Printing {
                self.state = MachineState::Ended;
            }
        }
    }
}
