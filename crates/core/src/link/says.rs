//! What a connected printer says of itself.

use serde::{Deserialize, Serialize};

use super::job_key::JobKey;
use crate::words::words;

words! {
    /// Where a machine stands, by its own word.
    #[derive(Serialize, Deserialize)]
    #[serde(rename_all = "kebab-case")]
    MachineState, "state of a machine" {
        /// Nothing hangs in it.
        Idle = "idle",
        /// It prints.
        Printing = "printing",
        /// It is held.
        Paused = "paused",
        /// All layers are done; the plate hangs in it.
        Ended = "ended",
        /// It was stopped; the plate hangs in it.
        Stopped = "stopped",
        /// It broke off by itself; the plate hangs in it.
        Halted = "halted",
    }
}

words! {
    /// What went wrong, by the machine's own word.
    #[derive(Serialize, Deserialize)]
    #[serde(rename_all = "kebab-case")]
    Trouble, "trouble of a machine" {
        /// It lost its power.
        PowerCut = "power cut",
        /// Its vat is empty.
        ResinEmpty = "resin empty",
    }
}

impl MachineState {
    /// A plate hangs in it.
    #[must_use]
    pub const fn holds_a_plate(self) -> bool {
        !matches!(self, MachineState::Idle)
    }

    /// It neither prints nor will go on by itself.
    #[must_use]
    pub const fn is_over(self) -> bool {
        matches!(
            self,
            MachineState::Ended | MachineState::Stopped | MachineState::Halted
        )
    }
}

/// What a machine prints, or printed last.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct JobSaid {
    /// Its own count of jobs.
    pub number: u64,
    /// The time since it was switched on in which this was begun.
    pub boot: String,
    /// Under what its file is kept.
    pub file: String,
    /// Checksum of that file.
    pub checksum: String,
}

/// A file in a machine's memory.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FileSaid {
    /// Under what it is kept.
    pub name: String,
    /// BLAKE3 of its bytes, in hexadecimal digits.
    pub checksum: String,
}

/// A machine's word on itself, as `docs/printer-protocol.md` writes it.
///
/// # Units
/// ml, mm, °C, seconds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Says {
    /// Its own identity, which it keeps wherever it answers.
    pub machine: String,
    /// The time since it was switched on: another one after every power cut.
    pub boot: String,
    /// Jobs it ever began.
    pub jobs: u64,
    /// Where it stands.
    pub state: MachineState,
    /// What went wrong, where something did.
    pub trouble: Option<Trouble>,
    /// What hangs in it; nothing where it is idle.
    pub job: Option<JobSaid>,
    /// Layers of it that are done.
    pub layer: u32,
    /// How long it has printed, without what it was held, s.
    pub printed_s: f64,
    /// How long ago it was started, s.
    pub since_s: f64,
    /// Warmth about it, °C.
    pub room_c: f64,
    /// What its vat holds, ml.
    pub resin_ml: f64,
    /// How far its plate can go up, mm.
    pub travel_mm: f64,
    /// The files in its memory.
    pub files: Vec<FileSaid>,
    /// How many times as fast as the clock it goes; only a simulated one is at anything but 1.
    pub speed: f64,
}

/// Letters of a name, an identity or a reason that are kept of what a machine says.
pub const MOST_LETTERS: usize = 200;
/// Files in a memory at most.
const MOST_FILES: usize = 1000;
/// Jobs of a life at most: a billion a day would take three years.
const MOST_JOBS: u64 = 1_000_000_000_000;

/// Words of a machine as they are kept and shown: so many letters of them, and nothing that steers a screen.
#[must_use]
pub fn few_letters(words: &str) -> String {
    let plain = words.chars().filter(|c| !c.is_control());
    plain.take(MOST_LETTERS).collect()
}

impl Says {
    /// Whether a printer can say this: identities and names of a sensible length, figures that some machine has. How
    /// long it printed is doubted by itself, see [`crate::running::printed_s`].
    #[must_use]
    pub fn is_a_printers(&self) -> bool {
        let files = self.files.iter().flat_map(|f| [&f.name, &f.checksum]);
        let job = self
            .job
            .iter()
            .flat_map(|j| [&j.boot, &j.file, &j.checksum]);
        let mut words = files.chain(job).chain([&self.machine, &self.boot]);
        let figures = [
            (self.resin_ml, 0.0, 100_000.0),
            (self.room_c, -60.0, 200.0),
            (self.travel_mm, 0.0, 10_000.0),
            (self.speed, 0.0, 100_000.0),
        ];
        words.all(|w| few_letters(w) == **w)
            && self.files.len() <= MOST_FILES
            && self.jobs <= MOST_JOBS
            && self.job.iter().all(|j| j.number <= MOST_JOBS)
            && figures
                .iter()
                .all(|(figure, least, most)| (*least..=*most).contains(figure))
    }

    /// What hangs in it.
    #[must_use]
    pub fn job_key(&self) -> Option<JobKey> {
        self.job.as_ref().map(|job| JobKey {
            machine: self.machine.clone(),
            boot: job.boot.clone(),
            number: job.number,
            file: job.file.clone(),
            checksum: job.checksum.clone(),
        })
    }

    /// The next job it would begin, with a file of its memory.
    #[must_use]
    pub fn next_job(&self, file: &str, checksum: &str) -> JobKey {
        JobKey {
            machine: self.machine.clone(),
            boot: self.boot.clone(),
            number: self.jobs.saturating_add(1),
            ..JobKey::of_file(file, checksum)
        }
    }

    /// A file in its memory.
    #[must_use]
    pub fn file(&self, name: &str) -> Option<&FileSaid> {
        self.files.iter().find(|f| f.name == name)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn says() -> Says {
        Says {
            machine: "m".into(),
            boot: "1".into(),
            jobs: 1,
            state: MachineState::Printing,
            trouble: None,
            job: None,
            layer: 1,
            printed_s: 1e308,
            since_s: -4.0,
            room_c: 21.0,
            resin_ml: 90.0,
            travel_mm: 160.0,
            files: Vec::new(),
            speed: 1.0,
        }
    }

    fn many(n: usize) -> Vec<FileSaid> {
        let file = FileSaid {
            name: "plate".into(),
            checksum: "0a".into(),
        };
        vec![file; n]
    }

    #[rstest]
    #[case::a_printer(says(), true)]
    #[case::a_long_name(Says { machine: "x".repeat(201), ..says() }, false)]
    #[case::a_line_more(Says { boot: "1\n2".into(), ..says() }, false)]
    #[case::endless_resin(Says { resin_ml: 1e308, ..says() }, false)]
    #[case::jobs_without_end(Says { jobs: u64::MAX, ..says() }, false)]
    #[case::no_number(Says { room_c: f64::NAN, ..says() }, false)]
    #[case::a_full_memory(Says { files: many(1000), ..says() }, true)]
    #[case::no_memory_is_so_large(Says { files: many(1001), ..says() }, false)]
    fn only_what_a_printer_can_say_is_heard(#[case] said: Says, #[case] heard: bool) {
        assert_eq!(said.is_a_printers(), heard);
    }

    /// The answers kept beside the tests.
    const STORED: [&[u8]; 8] = [
        include_bytes!("../../tests/data/answers/a_page.json"),
        include_bytes!("../../tests/data/answers/endless_figures.json"),
        include_bytes!("../../tests/data/answers/halted.json"),
        include_bytes!("../../tests/data/answers/idle.json"),
        include_bytes!("../../tests/data/answers/long_words.json"),
        include_bytes!("../../tests/data/answers/many_files.json"),
        include_bytes!("../../tests/data/answers/nested.json"),
        include_bytes!("../../tests/data/answers/printing.json"),
    ];

    proptest! {
        /// Whatever answers in a printer's place: it is read or not, and never more than a printer can say is heard.
        #[test]
        fn hostile_answers_are_read_or_not(
            words in prop::collection::vec(".{0,300}", 5),
            figures in prop::collection::vec(any::<f64>(), 6),
            jobs in any::<u64>(),
            state in prop::sample::select(vec!["idle", "printing", "ended", "halted", "x"]),
            cut in prop::option::of(0_usize..400),
        ) {
            let figure = |n: usize| serde_json::json!(figures[n]);
            let said = serde_json::json!({
                "machine": words[0], "boot": words[1], "jobs": jobs, "state": state, "trouble": null,
                "job": { "number": jobs, "boot": words[1], "file": words[2], "checksum": words[3] },
                "layer": 1, "printed_s": figure(0), "since_s": figure(1), "room_c": figure(2),
                "resin_ml": figure(3), "travel_mm": figure(4), "speed": figure(5),
                "files": [{ "name": words[2], "checksum": words[4] }], "more": words,
            });
            let text = said.to_string();
            let end = cut.unwrap_or(text.len()).min(text.len());
            let Ok(says) = serde_json::from_slice::<Says>(&text.as_bytes()[..end]) else {
                return Ok(());
            };
            if says.is_a_printers() {
                prop_assert!(says.machine.chars().count() <= MOST_LETTERS);
                prop_assert!((0.0..=100_000.0).contains(&says.resin_ml));
            }
        }

        /// Stored answers with bytes changed or cut off.
        #[test]
        fn hostile_bytes_in_an_answer_are_read_or_not(
            which: prop::sample::Index,
            changed in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 0..8),
            cut in prop::option::of(any::<prop::sample::Index>()),
        ) {
            let mut bytes = which.get(&STORED).to_vec();
            for (at, byte) in changed {
                let at = at.index(bytes.len());
                bytes[at] = byte;
            }
            let end = cut.map_or(bytes.len(), |cut| cut.index(bytes.len()));
            let said = serde_json::from_slice::<Says>(&bytes[..end]);
            for says in said.into_iter().filter(Says::is_a_printers) {
                prop_assert!(says.machine.chars().count() <= MOST_LETTERS);
                prop_assert!((0.0..=100_000.0).contains(&says.resin_ml));
            }
        }
    }
}
