//! What stands against a start, by the machine's own word. None of it is a matter of opinion: no tick helps.

use super::job::Job;
use super::says::{MachineState, Says};

/// Why a connected printer is not started.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NotReady {
    /// It does not answer.
    #[error("it does not answer: look to its cable and its power")]
    Silent,
    /// Nobody has said how it prints this resin.
    #[error("it has no process setting for this resin and layer height: set one in the workshop")]
    NoSetting,
    /// Something hangs in it, or it prints.
    #[error("it says that it is {0}: take off what hangs in it first")]
    Busy(MachineState),
    /// The plate's file is not in its memory.
    #[error("its memory does not hold {0}: send the file first")]
    NoFile(String),
    /// Another file is kept under that name.
    #[error("what its memory holds as {0} is another file: send it again")]
    OtherFile(String),
    /// It would have to go up too far.
    #[error("its last layer needs {needs_mm:.1} mm of travel, the printer has {has_mm:.1}")]
    TooFar {
        /// For the plate and its lift.
        needs_mm: f64,
        /// What the machine allows.
        has_mm: f64,
    },
    /// Its vat holds too little.
    #[error("its vat holds {holds_ml:.1} ml, {short_ml:.1} too few: fill it up first")]
    ResinShort {
        /// By the machine's word.
        holds_ml: f64,
        /// What is missing.
        short_ml: f64,
    },
}

impl NotReady {
    /// Which kind of reason it is, without its figures.
    #[must_use]
    pub const fn kind(&self) -> &'static str {
        match self {
            NotReady::Silent => "silent",
            NotReady::NoSetting => "setting",
            NotReady::Busy(_) => "busy",
            NotReady::NoFile(_) => "no-file",
            NotReady::OtherFile(_) => "other-file",
            NotReady::TooFar { .. } => "travel",
            NotReady::ResinShort { .. } => "resin",
        }
    }
}

/// Millimetres and millilitres that are rounding and no shortage.
const HAIR: f64 = 1e-6;

/// What stands against starting a job whose file is called so and has this checksum; `least_ml` stay in the vat.
#[must_use]
pub fn not_ready(
    job: &Job,
    (name, checksum): (&str, &str),
    least_ml: f64,
    says: Option<&Says>,
) -> Vec<NotReady> {
    let Some(says) = says else {
        return vec![NotReady::Silent];
    };
    let mut all = Vec::new();
    if says.state != MachineState::Idle {
        all.push(NotReady::Busy(says.state));
    }
    match says.file(name) {
        None => all.push(NotReady::NoFile(name.to_owned())),
        Some(file) if file.checksum != checksum => all.push(NotReady::OtherFile(name.to_owned())),
        Some(_) => {}
    }
    let (needs_mm, has_mm) = (job.travel_mm(), says.travel_mm);
    if needs_mm > has_mm + HAIR {
        all.push(NotReady::TooFar { needs_mm, has_mm });
    }
    let (holds_ml, needs_ml) = (says.resin_ml, job.resin_ml + least_ml);
    if holds_ml < needs_ml - HAIR {
        let short_ml = needs_ml - holds_ml;
        all.push(NotReady::ResinShort { holds_ml, short_ml });
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::link::job::tests::thousand;
    use crate::link::says::FileSaid;
    use rstest::rstest;

    const NAME: &str = "plate-3-0a1b2c";

    fn ready() -> Says {
        Says {
            machine: "heron-1".into(),
            boot: "1".into(),
            jobs: 0,
            state: MachineState::Idle,
            trouble: None,
            job: None,
            layer: 0,
            printed_s: 0.0,
            since_s: 0.0,
            room_c: 21.0,
            resin_ml: 60.0,
            travel_mm: 57.0,
            files: vec![FileSaid {
                name: NAME.into(),
                checksum: "ab".into(),
            }],
            speed: 1.0,
        }
    }

    fn with_file(name: &str, checksum: &str) -> Says {
        let file = FileSaid {
            name: name.into(),
            checksum: checksum.into(),
        };
        Says {
            files: vec![file],
            ..ready()
        }
    }

    /// The plate takes 40 ml, 20 stay; it goes up to 57 mm.
    #[rstest]
    #[case::as_it_should_be(Some(ready()), "")]
    #[case::silent(None, "it does not answer")]
    #[case::a_plate_hangs_in_it(Some(Says { state: MachineState::Ended, ..ready() }), "it says that it is ended")]
    #[case::one_byte(Some(with_file(NAME, "ac")), "is another file")]
    #[case::another_name(
        Some(with_file("plate-4-0a1b2c", "ab")),
        "does not hold plate-3-0a1b2c"
    )]
    #[case::a_hair_of_travel(Some(Says { travel_mm: 56.9, ..ready() }), "needs 57.0 mm of travel, the printer has 56.9")]
    #[case::one_millilitre(Some(Says { resin_ml: 59.0, ..ready() }), "holds 59.0 ml, 1.0 too few")]
    fn one_byte_or_one_millilitre_is_enough(#[case] says: Option<Says>, #[case] words: &str) {
        let all = not_ready(&thousand(), (NAME, "ab"), 20.0, says.as_ref());
        let said: Vec<String> = all.iter().map(ToString::to_string).collect();
        assert_eq!(said.len(), usize::from(!words.is_empty()), "{said:?}");
        assert!(said.join(" ").contains(words), "{said:?}");
    }
}
