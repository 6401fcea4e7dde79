//! Files are measured in a process of their own, of the same program: what a file makes it do can
//! neither stop the server nor hold it up.
//!
//! The process gets one line of JSON and the bytes of the file on its standard input, limits itself,
//! and answers with lines of JSON: how far it is, and at last what was measured or why not.

use std::io::{self, BufRead, BufReader, BufWriter, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::mpsc::{self, RecvTimeoutError};
use std::time::{Duration, Instant};

use serde::{Deserialize, Serialize};
use wembrit_core::sculpt::measure::{MeasureError, MeasureOptions, Measured, measure_bytes};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Watch;

/// The word with which the program is called for this.
pub const MEASURE_APART: &str = "measure-apart";

/// What a file may take.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Allowance {
    /// Seconds of processor time.
    pub cpu_s: u64,
    /// Bytes of memory.
    pub memory: u64,
}

impl Allowance {
    /// Four seconds and most of a gigabyte, and more for files that are large themselves: what a
    /// mesh of so many bytes takes several times over.
    #[must_use]
    pub fn for_file(bytes: u64, packed: bool) -> Self {
        let as_stl = if packed { 8 * bytes } else { bytes };
        Self {
            cpu_s: 4 + as_stl / 3_000_000,
            memory: 900_000_000 + 8 * as_stl,
        }
    }
}

/// What the process is asked.
#[derive(Debug, Serialize, Deserialize)]
struct Question {
    file_name: String,
    layer_um: i64,
    scale: f64,
    bytes: u64,
    allowance: Allowance,
}

/// A line it answers.
#[derive(Debug, Serialize, Deserialize)]
enum Answer {
    Share(f64),
    Refused(String),
    Measured(Box<Measured>),
}

/// Why a file was not measured.
#[derive(Debug, thiserror::Error)]
pub enum ApartError {
    /// It cannot be, in one line.
    #[error("{0}")]
    Refused(String),
    /// It took more than it may.
    #[error(
        "it takes more time or memory to measure than a mesh of its size can: it is broken or made to be so; export it again"
    )]
    Exhausted,
    /// Asked to stop.
    #[error("measuring was stopped")]
    Stopped,
    /// The process could not be started or spoke nonsense.
    #[error("the program could not measure it in a process of its own: {0}")]
    Process(#[from] io::Error),
}

/// Measures a file in a process of its own.
///
/// # Errors
/// [`ApartError`]; [`ApartError::Refused`] holds the sentence for the maker.
pub fn measure_apart(
    program: &Path,
    bytes: &[u8],
    file_name: &str,
    options: MeasureOptions,
    watch: &dyn Watch,
) -> Result<Measured, ApartError> {
    let allowance = Allowance::for_file(bytes.len() as u64, bytes.starts_with(b"PK"));
    let question = Question {
        file_name: file_name.to_owned(),
        layer_um: i64::from(options.layer.um()),
        scale: options.scale,
        bytes: bytes.len() as u64,
        allowance,
    };
    let child = Command::new(program)
        .arg(MEASURE_APART)
        .env("RAYON_NUM_THREADS", rayon_threads().to_string())
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()?;
    let mut process = Process(child);
    let (Some(mut input), Some(output)) = (process.0.stdin.take(), process.0.stdout.take()) else {
        return Err(io::Error::other("it has no pipes").into());
    };
    std::thread::scope(|scope| {
        let (said, hear) = mpsc::channel();
        scope.spawn(move || {
            for line in BufReader::new(output).lines() {
                let Ok(line) = line else { break };
                if said.send(line).is_err() {
                    break;
                }
            }
        });
        scope.spawn(move || {
            // A process that ends early breaks the pipe: its answer says why.
            let head = serde_json::to_string(&question).unwrap_or_default();
            let _ = writeln!(input, "{head}").and_then(|()| input.write_all(bytes));
        });
        let end = listen(&hear, allowance, watch);
        // Whatever it was doing: the threads above end with it.
        let status = process.end();
        match end {
            Some(end) => end,
            None => Err(ended_badly(&status?)),
        }
    })
}

/// As many threads as there are on the pool that asks.
fn rayon_threads() -> usize {
    wembrit_core::watch::threads()
}

/// Hears it out; nothing when it ended without an answer.
fn listen(
    hear: &mpsc::Receiver<String>,
    allowance: Allowance,
    watch: &dyn Watch,
) -> Option<Result<Measured, ApartError>> {
    // Processor time is what it limits itself; a process that sleeps is ended from here.
    let latest = Instant::now() + Duration::from_secs(20 + 5 * allowance.cpu_s);
    loop {
        match hear.recv_timeout(Duration::from_millis(100)) {
            Ok(line) => match serde_json::from_str(&line) {
                Ok(Answer::Share(share)) => watch.report(share),
                Ok(Answer::Refused(why)) => return Some(Err(ApartError::Refused(why))),
                Ok(Answer::Measured(measured)) => return Some(Ok(*measured)),
                Err(error) => return Some(Err(io::Error::other(error).into())),
            },
            Err(RecvTimeoutError::Timeout) => {}
            Err(RecvTimeoutError::Disconnected) => return None,
        }
        if watch.stopped() {
            return Some(Err(ApartError::Stopped));
        }
        if Instant::now() > latest {
            return Some(Err(ApartError::Exhausted));
        }
    }
}

/// A process that does not outlive its question.
struct Process(Child);

impl Process {
    fn end(&mut self) -> io::Result<ExitStatus> {
        // One that has answered is on its way out; the others are sent.
        if self.0.try_wait()?.is_none() {
            let _ = self.0.kill();
        }
        self.0.wait()
    }
}

impl Drop for Process {
    fn drop(&mut self) {
        let _ = self.end();
    }
}

/// A process that was ended by a limit died of a signal: of the clock, or of an allocation.
fn ended_badly(status: &ExitStatus) -> ApartError {
    if status.code().is_none() {
        ApartError::Exhausted
    } else {
        ApartError::Refused(
            "the program stumbled over it; please report this, and export it again".into(),
        )
    }
}

/// The other side: reads a question, limits itself, answers.
///
/// # Errors
/// [`io::Error`] when there is nobody to read from or to write to.
pub fn answer(
    input: impl Read,
    output: impl Write + Send,
    limit: impl FnOnce(Allowance) -> io::Result<()>,
) -> io::Result<()> {
    let mut input = BufReader::new(input);
    let mut head = String::new();
    input.read_line(&mut head)?;
    let question: Question = serde_json::from_str(&head)?;
    limit(question.allowance)?;
    let mut bytes = Vec::new();
    bytes.try_reserve_exact(question.bytes as usize)?;
    input.take(question.bytes).read_to_end(&mut bytes)?;
    let layer = LayerHeight::try_from(question.layer_um).map_err(io::Error::other)?;
    let options = MeasureOptions {
        layer,
        scale: question.scale,
    };
    let telling = Telling(std::sync::Mutex::new(BufWriter::new(output)));
    let answer = match measure_bytes(bytes, &question.file_name, options, &telling) {
        Ok(measured) => Answer::Measured(Box::new(measured)),
        Err(MeasureError::Stopped) => return Ok(()),
        Err(why) => Answer::Refused(why.to_string()),
    };
    telling.say(&answer)
}

/// Writes down how far it is.
struct Telling<W: Write>(std::sync::Mutex<BufWriter<W>>);

impl<W: Write> Telling<W> {
    fn say(&self, answer: &Answer) -> io::Result<()> {
        let mut out = (self.0.lock()).unwrap_or_else(std::sync::PoisonError::into_inner);
        serde_json::to_writer(&mut *out, answer)?;
        writeln!(out)?;
        out.flush()
    }
}

impl<W: Write + Send> Watch for Telling<W> {
    fn stopped(&self) -> bool {
        false
    }
    fn report(&self, share: f64) {
        // Nobody listening is no fault: it is ended from outside.
        let _ = self.say(&Answer::Share(share));
    }
}

/// Where files are measured.
#[derive(Debug, Clone, Default)]
pub enum MeasureWhere {
    /// In the server itself: for tests, which are no program to call.
    #[default]
    Here,
    /// In a process of this program.
    Apart(PathBuf),
}
