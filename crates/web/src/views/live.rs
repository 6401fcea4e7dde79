//! A plate that prints on a connected printer, as the printer tells it.

use askama::Template;
use jiff::tz::TimeZone;
use wembrit_core::flow::Plate;
use wembrit_core::ids::PlateId;
use wembrit_core::link::{
    Command, CommandState, Doubt, Live, MachineRun, MachineState, Says, Stands, Trouble, cut_at,
    stands,
};
use wembrit_core::running::looks::{Look, looks};
use wembrit_paper::draw_run_elevation;
use wembrit_store::queries::pages::runs::{LinkSheet, LiveSheet};

use super::shapes::Shapes;
use super::show::{self, count, hours, tenth};
use crate::printers::Heard;

/// What a printer would not do is told for so long, ms.
const NEWS_MS: i64 = 30 * 60_000;

/// Where a run broke off by itself, and what would be seen if it were gone on with.
pub(crate) struct Line {
    pub(crate) layer: u32,
    pub(crate) z: String,
    pub(crate) whole: String,
    pub(crate) cut: String,
}

/// The piece of the page.
#[derive(Template)]
#[template(path = "runs/live.html")]
pub(crate) struct RunLive {
    pub(crate) id: PlateId,
    /// Where it stands: `printing`, `paused` and so on, or `silent`.
    pub(crate) kind: &'static str,
    pub(crate) stands: String,
    pub(crate) drawing: String,
    pub(crate) layer: u32,
    pub(crate) layers: u32,
    pub(crate) left: String,
    pub(crate) ends: String,
    pub(crate) room: String,
    pub(crate) resin: String,
    pub(crate) speed: String,
    pub(crate) look: String,
    pub(crate) doubts: Vec<String>,
    pub(crate) line: Option<Line>,
    /// What it was told and has not answered.
    pub(crate) waits: String,
    /// That was written down and has not left.
    pub(crate) may_withdraw: bool,
    /// What it would not do, and why.
    pub(crate) refused: String,
    pub(crate) may_pause: bool,
    pub(crate) may_resume: bool,
    pub(crate) may_stop: bool,
    /// It does not print, or does not answer: somebody says what became of the plate.
    pub(crate) may_take_off: bool,
}

/// What a printer was told and has not answered yet.
pub(crate) fn waits(told: Option<&Command>, zone: &TimeZone) -> String {
    let Some(told) = told.filter(|t| t.state.is_open()) else {
        return String::new();
    };
    let at = show::clock(told.written_at_ms, zone);
    match told.state {
        CommandState::Written => format!("To be told to {} since {at}", told.kind),
        _ => format!("Told to {} at {at}, not answered yet", told.kind),
    }
}

/// What a printer would not do last, and why.
pub(crate) fn refusal(told: Option<&Command>, now_ms: i64) -> String {
    let is_news = |t: &&Command| now_ms - t.written_at_ms < NEWS_MS;
    let told = told.filter(|t| !t.state.is_open() && !t.why.is_empty() && is_news(t));
    told.map_or_else(String::new, |t| match t.state {
        CommandState::Done => format!(
            "It did {}, and the books could not follow: {}.",
            t.kind, t.why
        ),
        _ => format!("It would not {}: {}.", t.kind, t.why),
    })
}

fn doubt_words(doubt: &Doubt) -> String {
    match doubt {
        Doubt::Cold { room_c } => format!(
            "It is {room_c:.0} °C about the printer: cold resin tears what hangs. Warm it, or hold the run."
        ),
        Doubt::TakesNone { should_ml, gone_ml } => format!(
            "Its layers should have taken {} ml by now, {} are gone: nothing hangs on the plate, or it sticks to the film. Hold the run and look.",
            tenth(*should_ml),
            tenth(gone_ml.max(0.0))
        ),
        Doubt::RunsDry { layer } => {
            format!("Its vat will be empty after layer {layer}: fill it up before.")
        }
    }
}

/// How it stands, for people.
fn state_words(says: &Says, layers: u32) -> String {
    let at = format!("layer {} of {layers}", says.layer);
    match (says.state, says.trouble) {
        (MachineState::Printing, _) => "It prints".into(),
        (MachineState::Paused, Some(Trouble::ResinEmpty)) => {
            format!("Held by itself at {at}: its vat is empty. Fill it up, then let it go on")
        }
        (MachineState::Paused, _) => format!("Held at {at}"),
        (MachineState::Ended, _) => "All layers are done: take the plate off".into(),
        (MachineState::Stopped, _) => format!("Stopped at {at}: the plate hangs in it"),
        (MachineState::Halted, _) => format!("It broke off at {at}"),
        (MachineState::Idle, _) => "Nothing hangs in it".into(),
    }
}

/// Where it broke off by itself.
fn line(says: &Says, plate: &Plate, tops: Vec<f64>) -> Option<Line> {
    if says.state != MachineState::Halted {
        return None;
    }
    let z = f64::from(says.layer) * plate.layer.mm();
    let (whole, cut) = cut_at(z, tops);
    Some(Line {
        layer: says.layer,
        z: format!("{z:.1}"),
        whole: count(whole, "copy", "copies"),
        cut: count(cut, "copy", "copies"),
    })
}

impl RunLive {
    /// The piece of a run that was begun over the link; nothing for another.
    pub(crate) fn new(
        data: &LiveSheet,
        heard: Option<&Heard>,
        zone: &TimeZone,
        now_ms: i64,
    ) -> Option<Self> {
        let sheet = &data.sheet;
        let (link, machine) = (sheet.link.as_ref()?, sheet.on_machine()?);
        let run = sheet.run.as_ref()?;
        let plate = &sheet.known.plate;
        let shapes = Shapes::new(&data.shown);
        let drawn = shapes.drawing(plate);
        let layers = u32::try_from(plate.layers).unwrap_or(0);
        let says = heard.and_then(|h| h.says.as_ref());
        let ours = says.filter(|s| stands(s, &machine.job) == Stands::Ours);
        // Silent, it is where it was heard last.
        let last = heard.and_then(|h| h.last.as_ref());
        let last = last.filter(|s| stands(s, &machine.job) == Stands::Ours);
        let layer = last.map_or(machine.layer, |s| s.layer).min(layers);
        let live = link.job.as_ref().zip(ours);
        let began_ml = machine.began_ml.filter(|_| run.refilled_at_ms.is_none());
        let live = live.map(|(job, s)| Live::of(job, s, plate.seconds, began_ml));
        let prints = ours.is_some_and(|s| s.state == MachineState::Printing);
        let held = ours.is_some_and(|s| s.state == MachineState::Paused);
        let left = live.as_ref().filter(|_| prints || held).map(|l| l.left_s);
        let next = looks(plate, run, now_ms).into_iter().next();
        let (kind, words) = stand(heard, machine, (layer, layers));
        let may = |state: bool| state && !link.told.as_ref().is_some_and(|t| t.state.is_open());
        Some(Self {
            id: plate.id,
            kind,
            stands: show::sentence(&words),
            drawing: draw_run_elevation(&drawn, f64::from(layer) * plate.layer.mm(), !prints),
            layer,
            layers,
            left: left.map_or_else(String::new, hours),
            ends: if prints {
                show::near(run.ends_at_ms(plate.seconds, now_ms), now_ms, zone)
            } else {
                let over = machine.over_at_ms;
                over.map_or_else(String::new, |at| show::near(at, now_ms, zone))
            },
            room: says.map_or_else(|| "–".into(), |s| format!("{:.0} °C", s.room_c)),
            resin: says.map_or_else(|| "–".into(), |s| format!("{} ml", tenth(s.resin_ml))),
            speed: says
                .filter(|s| s.speed > 1.0)
                .map_or_else(String::new, |s| format!("{:.0} times the clock", s.speed)),
            look: match next {
                Some(look @ Look::FirstLayers(_)) => {
                    format!("first layers, {}", show::near(look.at_ms(), now_ms, zone))
                }
                Some(look @ Look::Refill(_)) => {
                    format!("fill up by {}", show::near(look.at_ms(), now_ms, zone))
                }
                _ => "the end".into(),
            },
            doubts: live
                .filter(|_| prints || held)
                .map_or_else(Vec::new, |l| l.doubts.iter().map(doubt_words).collect()),
            line: ours.and_then(|s| {
                let tops = drawn.copies.iter().map(|c| c.height_mm).collect();
                line(s, plate, tops)
            }),
            waits: waits(link.told.as_ref(), zone),
            may_withdraw: told_but_here(link),
            refused: refusal(link.told.as_ref(), now_ms),
            may_pause: may(prints),
            may_resume: may(held),
            may_stop: may(prints || held),
            may_take_off: !(prints || held),
        })
    }
}

/// What is to be told has not left.
pub(crate) fn told_but_here(link: &LinkSheet) -> bool {
    link.told
        .as_ref()
        .is_some_and(|t| t.state == CommandState::Written)
}

fn stand(
    heard: Option<&Heard>,
    machine: &MachineRun,
    (layer, layers): (u32, u32),
) -> (&'static str, String) {
    let Some(says) = heard.and_then(|h| h.says.as_ref()) else {
        let why = heard.map_or("", |h| h.silent.as_str());
        let last = format!("at layer {layer} of {layers} it was {}", machine.state);
        return match why {
            "" => ("silent", format!("Nothing was heard of it yet; {last}")),
            why => ("silent", format!("{why}; {last}")),
        };
    };
    match stands(says, &machine.job) {
        Stands::Ours => (says.state.as_str(), state_words(says, layers)),
        Stands::Gone => (
            "gone",
            "It says that nothing hangs in it: somebody took the plate off at the printer, or it forgot. Say what became of it".into(),
        ),
        Stands::Replaced => (
            "other",
            "A different machine answers at this address now, and it is empty. Record here what happened to the plate".into(),
        ),
        Stands::Other(number) => (
            "other",
            format!("It says that another job hangs in it, its number {number}: nobody started that here"),
        ),
    }
}
