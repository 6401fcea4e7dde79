//! Before the start: what can be computed, with its figure, and what only a person can know.

use super::looks::refill_after_s;
use crate::exposure::ExposureState;
use crate::flow::Plate;
use crate::ids::ProcessSettingId;
use crate::link::before::{NotReady, not_ready};
use crate::link::job::Job;
use crate::link::says::Says;
use crate::numbers::sum_over_slabs;
use crate::stores::{Bottle, Worn};
use crate::words::words;
use crate::workshop::print_time::Drawn;
use crate::workshop::resin::ROOM_C;
use crate::workshop::{Printer, ProcessSetting};

words! {
    /// One thing that is looked to before a start.
    CheckItem, "check before a start" {
        /// The plate that is in the printer's memory is this one.
        RightPlate = "right plate",
        /// There is resin for all of it.
        Resin = "resin",
        /// The exposure is known and fresh.
        Exposure = "exposure",
        /// The room is warm.
        Room = "room",
        /// The vat was looked into since the last run.
        VatLooked = "vat looked into",
        /// The plate is levelled and tight.
        Levelled = "levelled",
        /// The film is whole.
        Film = "film",
        /// The resin is shaken.
        Shaken = "shaken",
        /// Gloves, eyes, air.
        Gloves = "gloves and air",
        /// The lid is on.
        Lid = "lid",
        /// Somebody stays for the first layers.
        Somebody = "somebody there",
    }
}

/// What is computed of a check.
#[derive(Debug, Clone, PartialEq)]
pub enum Verdict {
    /// It is so, with its figure.
    Good(String),
    /// It is not sure; a word is enough to go on.
    Doubt(String),
    /// It cannot be started so.
    Stop(String),
    /// Only a person can know.
    Ask,
}

/// A check with what is known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Check {
    /// What.
    pub item: CheckItem,
    /// How it stands.
    pub verdict: Verdict,
    /// Why it matters.
    pub why: &'static str,
}

/// What the data file knows before a start.
#[derive(Debug, Clone, PartialEq)]
pub struct KnownBefore {
    /// The plate.
    pub plate: Plate,
    /// What its file is called by.
    pub code: String,
    /// Sections of each part on it, from the plate upward at equal steps, mm², and how many copies
    /// of it there are.
    pub areas_mm2: Vec<(Vec<f64>, u64)>,
    /// What a beam would draw of all of it.
    pub drawn: Drawn,
    /// Exposure, s, and how sure it is.
    pub exposure: (f64, ExposureState),
    /// The process setting that is of; nothing where there is none.
    pub setting: Option<ProcessSettingId>,
    /// The room today, °C, where somebody has said so.
    pub room_c: Option<f64>,
    /// Resins are mixed in its vat, and nobody has tested the mix: what is known of one of them says little.
    pub untested_mix: bool,
    /// What the vat held before the last run of this resin on this printer, and what that took, ml.
    pub last_vat: Option<(f64, f64)>,
    /// When the last run on this printer ended, ms since 1970.
    pub last_end_ms: Option<i64>,
    /// When somebody looked into its vat last, ms since 1970.
    pub vat_looked_ms: Option<i64>,
    /// Why the printer is to be checked; empty where it is not.
    pub to_check: String,
    /// Under this its vat is not let fall, ml.
    pub least_ml: f64,
    /// How worn its film is, with this plate.
    pub film: Option<Worn>,
    /// Bottles of its resin, those that are open first, and what each holds, ml.
    pub bottles: Vec<(Bottle, f64)>,
    /// What its printer says, where that is connected.
    pub linked: Option<Linked>,
}

/// What a connected printer says before a start.
#[derive(Debug, Clone, PartialEq)]
pub struct Linked {
    /// What stands against the start, by its own word.
    pub not_ready: Vec<NotReady>,
    /// What its vat holds, ml; nothing while it does not answer.
    pub vat_ml: Option<f64>,
    /// Warmth about it, °C.
    pub room_c: Option<f64>,
}

impl Linked {
    /// What a printer's word says against starting a plate whose file is called so and has this checksum; `least_ml`
    /// stay in its vat.
    #[must_use]
    pub fn of(
        job: &Job,
        (name, checksum): (&str, &str),
        least_ml: f64,
        says: Option<&Says>,
    ) -> Self {
        Self {
            not_ready: not_ready(job, (name, checksum), least_ml, says),
            vat_ml: says.map(|s| s.resin_ml),
            room_c: says.map(|s| s.room_c),
        }
    }

    /// Why what it says of its vat stops the start; or what it says of all else.
    fn against(&self, of_resin: bool) -> Option<String> {
        let of = |n: &&NotReady| matches!(n, NotReady::ResinShort { .. }) == of_resin;
        let all: Vec<String> = self
            .not_ready
            .iter()
            .filter(of)
            .map(ToString::to_string)
            .collect();
        (!all.is_empty()).then(|| all.join("; "))
    }
}

/// What is poured into a vat before a start.
#[derive(Debug, Clone, PartialEq)]
pub struct Pour {
    /// So much, ml.
    pub ml: f64,
    /// From these bottles, so much from each, ml.
    pub from: Vec<(Bottle, f64)>,
    /// What no bottle has, ml.
    pub short_ml: f64,
}

impl KnownBefore {
    /// What is to be poured where the vat holds so much; nothing where that is enough.
    #[must_use]
    pub fn pour(&self, vat_ml: f64) -> Option<Pour> {
        let ml = self.least_ml + self.plate.resin_ml - vat_ml;
        let mut rest = ml;
        let mut from = Vec::new();
        for (bottle, holds) in &self.bottles {
            let some = holds.min(rest);
            if some > 0.0 {
                from.push((*bottle, some));
                rest -= some;
            }
        }
        (ml > 0.0).then_some(Pour {
            ml,
            from,
            short_ml: rest.max(0.0),
        })
    }

    /// What the last run of this resin should have left in the vat, ml: a proposal.
    #[must_use]
    pub fn vat_left_ml(&self) -> Option<f64> {
        self.last_vat.map(|(held, took)| (held - took).max(0.0))
    }

    /// Sections of all that stands on it, from the plate upward at equal steps, mm².
    fn sections_mm2(&self) -> Vec<f64> {
        let parts = self.areas_mm2.iter();
        let parts: Vec<(&[f64], u64)> = parts.map(|(areas, n)| (areas.as_slice(), *n)).collect();
        sum_over_slabs(&parts)
    }

    /// Under what its file is kept.
    #[must_use]
    pub fn file(&self) -> String {
        plate_file(self.plate.number, &self.code)
    }

    /// What its printer gets of it.
    #[must_use]
    pub fn job(&self, printer: &Printer, setting: &ProcessSetting) -> Job {
        let layers = u32::try_from(self.plate.layers).unwrap_or(0);
        Job::of(
            self.file(),
            (printer, setting),
            (layers, self.plate.resin_ml),
            self.drawn,
            self.sections_mm2(),
        )
    }

    /// When resin has to be added if the vat holds so much, s after the start; nothing where it is
    /// enough.
    #[must_use]
    pub fn refill_after_s(&self, vat_ml: f64) -> Option<f64> {
        let (seconds, takes) = (self.plate.seconds, self.plate.resin_ml);
        refill_after_s(&self.sections_mm2(), seconds, takes, vat_ml, self.least_ml)
    }

    /// What is checked, with what somebody typed: what the vat holds, ml, and how warm it is, °C.
    #[must_use]
    pub fn with(&self, vat_ml: Option<f64>, room_c: Option<f64>) -> PreflightFacts {
        let said = |read: fn(&Linked) -> Option<f64>| self.linked.as_ref().and_then(read);
        // What the printer says of its own vat counts before what somebody thinks.
        let vat_ml = said(|l| l.vat_ml).or(vat_ml);
        PreflightFacts {
            plate: (self.plate.number, self.plate.layers),
            code: self.code.clone(),
            takes_ml: self.plate.resin_ml,
            inside_ml: self.plate.goes.inside_ml,
            vat_ml,
            least_ml: self.least_ml,
            film: self.film.clone(),
            refill_after_s: vat_ml.and_then(|ml| self.refill_after_s(ml)),
            exposure: self.exposure,
            room_c: room_c.or(said(|l| l.room_c)).or(self.room_c),
            linked: self.linked.clone(),
            last_end_ms: self.last_end_ms,
            vat_looked_ms: self.vat_looked_ms,
            untested_mix: self.untested_mix,
            to_check: self.to_check.clone(),
        }
    }
}

/// What is known before a start, with what somebody typed.
#[derive(Debug, Clone, PartialEq)]
pub struct PreflightFacts {
    /// The plate's number and layers, as the printer shows them.
    pub plate: (i64, i64),
    /// What its file is called by: it stands in the name the printer shows.
    pub code: String,
    /// What the plate takes, ml.
    pub takes_ml: f64,
    /// Of that what stays liquid in hollows, ml.
    pub inside_ml: f64,
    /// What somebody typed that the vat holds, ml.
    pub vat_ml: Option<f64>,
    /// Under this the vat is not let fall, ml.
    pub least_ml: f64,
    /// When resin has to be added at the latest, s after the start; nothing where it is enough.
    pub refill_after_s: Option<f64>,
    /// Exposure, s, and how sure it is.
    pub exposure: (f64, ExposureState),
    /// The room today, °C.
    pub room_c: Option<f64>,
    /// When the last run on this printer ended, ms since 1970.
    pub last_end_ms: Option<i64>,
    /// When somebody looked into the vat last, ms since 1970.
    pub vat_looked_ms: Option<i64>,
    /// Resins are mixed in the vat, and nobody has tested the mix.
    pub untested_mix: bool,
    /// Why the printer is to be checked; empty where it is not.
    pub to_check: String,
    /// How worn its film is, with this plate.
    pub film: Option<Worn>,
    /// What its printer says, where that is connected.
    pub linked: Option<Linked>,
}

/// The checks before a start.
#[derive(Debug, Clone, PartialEq)]
pub struct Preflight {
    /// In the order in which they are gone through.
    pub checks: Vec<Check>,
}

impl CheckItem {
    /// Why it matters.
    #[must_use]
    pub const fn why(self) -> &'static str {
        match self {
            CheckItem::RightPlate => {
                "the factory's sample, or yesterday's plate, is printed by mistake more often than one thinks"
            }
            CheckItem::Resin => "a plate that runs dry is lost in its last layers",
            CheckItem::Exposure => "too short and it falls off, too long and joints fuse",
            CheckItem::Room => "cold resin is thick: it tears what hangs",
            CheckItem::VatLooked => {
                "a chip left in the vat is pressed through the film, and the vat drains into the machine"
            }
            CheckItem::Levelled => "a plate that hangs askew holds on one side only",
            CheckItem::Film => "a film with a hole or a dent leaks or lets go badly",
            CheckItem::Shaken => "pigment and filler settle within days",
            CheckItem::Gloves => {
                "liquid resin irritates skin and can sensitise it; its data sheet comes first"
            }
            CheckItem::Lid => "stray light cures what is in the vat",
            CheckItem::Somebody => "what is wrong shows in the first layers, and costs little then",
        }
    }

    /// A program can tell.
    #[must_use]
    pub const fn is_computed(self) -> bool {
        matches!(
            self,
            CheckItem::RightPlate
                | CheckItem::Resin
                | CheckItem::Exposure
                | CheckItem::Room
                | CheckItem::VatLooked
        )
    }
}

/// What is checked before this start.
#[must_use]
pub fn preflight(facts: &PreflightFacts) -> Preflight {
    let check = |item: &CheckItem| Check {
        item: *item,
        verdict: verdict(*item, facts),
        why: item.why(),
    };
    Preflight {
        checks: CheckItem::ALL.iter().map(check).collect(),
    }
}

fn verdict(item: CheckItem, facts: &PreflightFacts) -> Verdict {
    match item {
        CheckItem::RightPlate => {
            let (number, layers) = facts.plate;
            let name = plate_file(number, &facts.code);
            match &facts.linked {
                None => Verdict::Doubt(format!(
                    "the printer has to show {name} and {layers} layers"
                )),
                Some(linked) => match linked.against(false) {
                    Some(why) => Verdict::Stop(why),
                    None => Verdict::Good(format!(
                        "the printer's memory holds {name}, {layers} layers, byte for byte"
                    )),
                },
            }
        }
        CheckItem::Resin => resin(facts),
        CheckItem::Exposure => match facts.exposure {
            (s, _) if facts.untested_mix => Verdict::Doubt(format!(
                "resins are mixed in this vat, and {s:.1} s was not tested for the mix since it was poured: print a test piece first, and write down how it came out"
            )),
            (s, ExposureState::Fresh) => Verdict::Good(format!("{s:.1} s, tested and in use")),
            (s, ExposureState::Missing) => {
                Verdict::Doubt(format!("{s:.1} s is assumed: nobody has tested it"))
            }
            (s, ExposureState::Due(why)) => {
                Verdict::Doubt(format!("{s:.1} s is due: {}", why.words()))
            }
        },
        CheckItem::Room => match facts.room_c {
            None => Verdict::Doubt("nobody has said today how warm the room is".into()),
            Some(c) if c < ROOM_C => Verdict::Doubt(format!(
                "{c:.0} °C: warm it to {ROOM_C:.0} °C at least first"
            )),
            Some(c) => Verdict::Good(format!("{c:.0} °C")),
        },
        CheckItem::VatLooked => vat(facts),
        CheckItem::Film => film(facts.film.as_ref()),
        _ => Verdict::Ask,
    }
}

/// Under what a plate's file is kept, and what the printer shows.
#[must_use]
pub fn plate_file(number: i64, code: &str) -> String {
    format!("plate-{number}-{code}")
}

fn resin(facts: &PreflightFacts) -> Verdict {
    if let Some(why) = facts.linked.as_ref().and_then(|l| l.against(true)) {
        return Verdict::Stop(why);
    }
    let takes = format!("{:.0}", facts.takes_ml);
    let inside = if facts.inside_ml >= 0.5 {
        format!(
            " (and {:.1} ml of that stays liquid inside hollows)",
            facts.inside_ml
        )
    } else {
        String::new()
    };
    match (facts.vat_ml, facts.refill_after_s) {
        (None, _) => Verdict::Doubt(format!(
            "it takes {takes} ml{inside}: say what the vat holds"
        )),
        (Some(vat), None) => {
            Verdict::Good(format!("{vat:.0} ml in the vat, it takes {takes}{inside}"))
        }
        (Some(vat), Some(after)) if after < 600.0 => Verdict::Stop(format!(
            "{vat:.0} ml in the vat, it takes {takes}{inside}, and {:.0} have to stay: fill it up first",
            facts.least_ml
        )),
        (Some(vat), Some(after)) => Verdict::Doubt(format!(
            "{vat:.0} ml in the vat, it takes {takes}{inside}: fill it up by {}:{:02} h after the start",
            after as i64 / 3600,
            after as i64 / 60 % 60
        )),
    }
}

fn film(worn: Option<&Worn>) -> Verdict {
    let Some(worn) = worn.filter(|w| w.is_told()) else {
        return Verdict::Ask;
    };
    let due = if worn.is_due() { "due" } else { "nearly due" };
    Verdict::Doubt(format!(
        "it is {due}, {}: look at it against the light, and have a new one at hand",
        worn.words()
    ))
}

fn vat(facts: &PreflightFacts) -> Verdict {
    if !facts.to_check.is_empty() {
        return Verdict::Stop(format!(
            "{}: look into the vat and say what was found",
            facts.to_check
        ));
    }
    match (facts.last_end_ms, facts.vat_looked_ms) {
        (Some(ended), looked) if looked.is_none_or(|l| l < ended) => Verdict::Stop(
            "nobody has looked into it since the last run: strain it, feel over the film".into(),
        ),
        _ => Verdict::Good("looked into since the last run".into()),
    }
}

/// What was answered to the checks.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Answers {
    /// What was ticked.
    pub ticked: Vec<CheckItem>,
    /// What was passed over, and why.
    pub passed: Vec<(CheckItem, String)>,
}

/// Why a plate is not started.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotStarted {
    /// Evidence speaks against it.
    #[error("not started: {0}")]
    Stop(String),
    /// Checks are open.
    #[error("not started: tick {0}, or say why not")]
    Open(String),
}

impl Preflight {
    /// Whether a plate may be started with these answers. Only evidence blocks; whatever else is
    /// passed over asks for a reason, which is kept.
    ///
    /// # Errors
    /// [`NotStarted`].
    pub fn allows(&self, answers: &Answers) -> Result<(), NotStarted> {
        let mut open = Vec::new();
        for check in &self.checks {
            match &check.verdict {
                Verdict::Stop(why) => return Err(NotStarted::Stop(why.clone())),
                Verdict::Good(_) => continue,
                Verdict::Doubt(_) | Verdict::Ask => {}
            }
            let reason =
                |(item, why): &(CheckItem, String)| *item == check.item && !why.trim().is_empty();
            let answered =
                answers.ticked.contains(&check.item) || answers.passed.iter().any(reason);
            if !answered {
                open.push(format!("'{}'", check.item));
            }
        }
        if open.is_empty() {
            Ok(())
        } else {
            Err(NotStarted::Open(open.join(", ")))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    use crate::exposure::Due;
    use crate::ids::PlateId;
    use crate::stores::{Used, Wear, WearKind};

    fn ready() -> PreflightFacts {
        PreflightFacts {
            plate: (7, 812),
            code: "3fa9c1".into(),
            takes_ml: 46.4,
            inside_ml: 0.0,
            vat_ml: Some(84.0),
            least_ml: 20.0,
            refill_after_s: None,
            exposure: (1.7, ExposureState::Fresh),
            room_c: Some(21.0),
            last_end_ms: Some(100),
            vat_looked_ms: Some(200),
            untested_mix: false,
            to_check: String::new(),
            film: None,
            linked: None,
        }
    }

    fn all_ticked() -> Answers {
        Answers {
            ticked: CheckItem::ALL.to_vec(),
            passed: Vec::new(),
        }
    }

    /// Of a mix no exposure was tested, however well those of its resins are known.
    #[test]
    fn a_mix_is_not_the_tested_resin() {
        let of = |untested_mix| {
            let known = PreflightFacts {
                untested_mix,
                exposure: (2.1, ExposureState::Fresh),
                ..ready()
            };
            let checks = preflight(&known).checks;
            let found = checks.into_iter().find(|c| c.item == CheckItem::Exposure);
            found.unwrap().verdict
        };
        assert!(matches!(of(false), Verdict::Good(_)));
        assert!(matches!(of(true), Verdict::Doubt(why) if why.contains("mixed")));
    }

    /// Only evidence blocks: too few millilitres, a vat nobody looked into.
    #[rstest]
    #[case::ready(ready(), true)]
    #[case::nobody_looked(PreflightFacts { vat_looked_ms: Some(50), ..ready() }, false)]
    #[case::never_looked(PreflightFacts { vat_looked_ms: None, ..ready() }, false)]
    #[case::the_first_run(PreflightFacts { vat_looked_ms: None, last_end_ms: None, ..ready() }, true)]
    #[case::a_sword_in_it(PreflightFacts { to_check: "a piece of plate 4 is missing".into(), ..ready() }, false)]
    #[case::nearly_dry(PreflightFacts { vat_ml: Some(15.0), refill_after_s: Some(0.0), ..ready() }, false)]
    #[case::a_refill(PreflightFacts { vat_ml: Some(50.0), refill_after_s: Some(9000.0), ..ready() }, true)]
    #[case::cold(PreflightFacts { room_c: Some(12.0), ..ready() }, true)]
    #[case::nothing_typed(PreflightFacts { vat_ml: None, ..ready() }, true)]
    #[case::assumed(PreflightFacts { exposure: (1.7, ExposureState::Missing), ..ready() }, true)]
    #[case::old_film(PreflightFacts { film: Some(film_worn(1.1, None)), ..ready() }, true)]
    #[case::due(PreflightFacts { exposure: (1.7, ExposureState::Due(Due::Unused(70))), ..ready() }, true)]
    fn only_evidence_blocks(#[case] facts: PreflightFacts, #[case] starts: bool) {
        assert_eq!(preflight(&facts).allows(&all_ticked()).is_ok(), starts);
    }

    /// What is passed over is named, and a reason is asked for.
    #[test]
    fn what_is_passed_over_asks_for_a_reason() {
        let checks = preflight(&ready());
        let but = |left_out: CheckItem, why: &str| Answers {
            ticked: CheckItem::ALL
                .iter()
                .copied()
                .filter(|i| *i != left_out)
                .collect(),
            passed: vec![(left_out, why.to_owned())],
        };
        for item in CheckItem::ALL {
            let good = checks
                .checks
                .iter()
                .any(|c| c.item == *item && matches!(c.verdict, Verdict::Good(_)));
            let open = checks.allows(&but(*item, " "));
            assert_eq!(open.is_ok(), good, "{item}");
            assert_eq!(checks.allows(&but(*item, "did it yesterday")), Ok(()));
        }
        let why = checks.allows(&Answers::default()).unwrap_err().to_string();
        assert!(
            why.starts_with("not started: tick 'right plate', 'levelled'"),
            "{why}"
        );
    }

    /// Fresh goes by itself; missing and due are asked about.
    #[rstest]
    #[case(ExposureState::Missing, "is assumed")]
    #[case(ExposureState::Fresh, "tested and in use")]
    #[case(ExposureState::Due(Due::Unused(60)), "last used 60 days ago")]
    #[case(ExposureState::Due(Due::Suspect), "the last plate with it")]
    #[case(ExposureState::Due(Due::NewFilm), "film was changed")]
    fn an_exposure_is_fresh_due_or_missing(#[case] state: ExposureState, #[case] says: &str) {
        let exposure = (1.7, state);
        let facts = PreflightFacts {
            exposure,
            ..ready()
        };
        let checks = preflight(&facts).checks;
        let found = checks
            .into_iter()
            .find(|c| c.item == CheckItem::Exposure)
            .unwrap();
        match found.verdict {
            Verdict::Good(words) => assert!(
                words.contains(says) && exposure.1 == ExposureState::Fresh,
                "{words}"
            ),
            Verdict::Doubt(words) => assert!(words.contains(says), "{words}"),
            other => panic!("{other:?}"),
        }
    }

    #[test]
    fn figures_stand_in_the_words() {
        let refill = PreflightFacts {
            vat_ml: Some(50.0),
            refill_after_s: Some(9_300.0),
            ..ready()
        };
        let of = |facts: &PreflightFacts, item| {
            let checks = preflight(facts).checks;
            checks.into_iter().find(|c| c.item == item).unwrap().verdict
        };
        assert_eq!(
            of(&refill, CheckItem::Resin),
            Verdict::Doubt(
                "50 ml in the vat, it takes 46: fill it up by 2:35 h after the start".into()
            )
        );
        assert_eq!(of(&ready(), CheckItem::Room), Verdict::Good("21 °C".into()));
        assert_eq!(
            of(&ready(), CheckItem::RightPlate),
            Verdict::Doubt("the printer has to show plate-7-3fa9c1 and 812 layers".into())
        );
    }

    /// What a connected printer says is evidence: all ticked and a reason for each starts nothing against it, and no
    /// tick is asked for what it knows itself.
    #[rstest]
    #[case::ready(Vec::new(), None)]
    #[case::one_byte(vec![NotReady::OtherFile("plate-7-3fa9c1".into())], Some("is another file"))]
    #[case::one_millilitre(vec![NotReady::ResinShort { holds_ml: 65.4, short_ml: 1.0 }], Some("1.0 too few"))]
    #[case::silent(vec![NotReady::Silent], Some("does not answer"))]
    fn no_tick_helps_against_a_printers_word(
        #[case] not_ready: Vec<NotReady>,
        #[case] words: Option<&str>,
    ) {
        let linked = Linked {
            not_ready,
            vat_ml: Some(84.0),
            room_c: Some(21.0),
        };
        let facts = PreflightFacts {
            linked: Some(linked),
            ..ready()
        };
        let all = CheckItem::ALL;
        let anything = Answers {
            ticked: all.to_vec(),
            passed: all.iter().map(|i| (*i, "never mind".to_owned())).collect(),
        };
        let checks = preflight(&facts);
        match (checks.allows(&anything), words) {
            (Ok(()), None) => {}
            (Err(NotStarted::Stop(why)), Some(words)) => assert!(why.contains(words), "{why}"),
            other => panic!("{other:?}"),
        }
        let asked = |c: &&Check| matches!(c.verdict, Verdict::Doubt(_) | Verdict::Ask);
        let asked: Vec<CheckItem> = checks.checks.iter().filter(asked).map(|c| c.item).collect();
        assert!(!asked.contains(&CheckItem::RightPlate) && !asked.contains(&CheckItem::Resin));
    }

    fn film_worn(worn: f64, ends_in: Option<i64>) -> Worn {
        Worn {
            wear: Wear::usual(WearKind::Film, None),
            used: Used::default(),
            worn,
            ends_in: ends_in.map(PlateId),
        }
    }

    /// A film that is due, or will be before the plate ends, is said where that is started.
    #[rstest]
    #[case::new(0.5, None, None)]
    #[case::due(1.1, None, Some("it is due, 0 of 60000 layers"))]
    #[case::not_for_this(0.5, Some(7), Some("it is nearly due"))]
    fn a_film_that_is_due_is_said(
        #[case] worn: f64,
        #[case] ends_in: Option<i64>,
        #[case] words: Option<&str>,
    ) {
        let verdict = film(Some(&film_worn(worn, ends_in)));
        match (verdict, words) {
            (Verdict::Ask, None) => {}
            (Verdict::Doubt(said), Some(words)) => assert!(said.starts_with(words), "{said}"),
            (other, _) => panic!("{other:?}"),
        }
    }
}
