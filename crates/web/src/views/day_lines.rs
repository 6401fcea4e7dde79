//! The lines of the day sheet in words: when, what, where, and where it is done.

use wembrit_core::cost::PlateSums;
use wembrit_core::ids::ProjectId;
use wembrit_core::running::looks::Look;
use wembrit_core::today::{Act, Line};

use super::Page;
use super::runs::late;
use super::show::{self, count, give_or_take, hours, tenth};

/// When, what, where, the address and the button of a line.
pub(super) type Words = (String, String, String, String, &'static str);

/// A line at the printer or the sink; else one at the desk.
pub(super) fn words(line: &Line<'_>, page: &Page, now_ms: i64) -> Words {
    let number = line.plate.map_or(0, |p| p.number);
    let (printer, resin) = (line.printer, line.resin);
    let at_printer = || format!("{}/run", plate_address(line));
    let timed = |ms: i64| {
        let late = late(ms, now_ms);
        if late.is_empty() {
            show::near(ms, now_ms, &page.zone)
        } else {
            late
        }
    };
    match &line.act {
        Act::Look(look) => (
            timed(look.at_ms()),
            match look {
                Look::Refill(_) => format!("Fill up the vat of {printer}"),
                _ => format!("Look at plate {number} on {printer}"),
            },
            match look {
                Look::Refill(_) => format!("plate {number} takes more {resin} than it holds"),
                _ => "its first layers are done".to_owned(),
            },
            at_printer(),
            "Look",
        ),
        Act::CheckVat(why) => (
            "now".to_owned(),
            format!("Search the vat of {printer}"),
            format!("{why}; nothing is started before"),
            line.on
                .map_or_else(String::new, |p| format!("/stores#vat-{p}")),
            "Stores",
        ),
        Act::IdleVat(days) => (
            "open".to_owned(),
            format!("Strain the vat of {printer} back"),
            format!(
                "{} without a run, and none is planned: resin separates",
                count(*days as u64, "day", "days")
            ),
            line.on
                .map_or_else(String::new, |p| format!("/printers/{p}/vat")),
            "Look",
        ),
        Act::Replace(kind, known) => (
            "open".to_owned(),
            if printer.is_empty() {
                show::sentence(kind.todo()).trim_end_matches('.').to_owned()
            } else {
                format!("{printer}: {}", kind.todo())
            },
            known.clone(),
            "/stores/wear".to_owned(),
            "Wear",
        ),
        Act::Mend(copies, minutes) => (
            "open".to_owned(),
            format!(
                "Mend {} of plate {number}",
                count(*copies, "copy", "copies")
            ),
            if *minutes > 0.0 {
                format!("{minutes:.0} min")
            } else {
                resin.to_owned()
            },
            plate_address(line),
            "Show",
        ),
        Act::EndStep {
            batch,
            step,
            ends_at_ms,
        } => (
            timed(*ends_at_ms),
            format!("Plate {number}: {step} is over"),
            format!("{resin}, off {printer}"),
            format!("/finishing#batch-{batch}"),
            "Show",
        ),
        Act::BeginStep {
            batch,
            step,
            from_ms,
            minutes,
        } => (
            if *from_ms > now_ms {
                show::near(*from_ms, now_ms, &page.zone)
            } else {
                "now".to_owned()
            },
            format!("Plate {number}: {step}"),
            format!("{minutes:.0} min, {resin}, off {printer}"),
            format!("/finishing#batch-{batch}"),
            "Begin",
        ),
        Act::Judge => (
            "now".to_owned(),
            format!("Judge plate {number}"),
            format!("{resin}, off {printer}"),
            plate_address(line),
            "Judge",
        ),
        Act::TakeOff { ends_at_ms } => {
            let left = (ends_at_ms - now_ms).max(0) as f64 / 1000.0;
            let (place, action) = if left > 0.0 {
                let around = line.plate.map_or(0.0, |p| p.time.around_s());
                let around = give_or_take(around);
                (format!("{resin}, {}{around} h to go", hours(left)), "Show")
            } else {
                (format!("{resin}, it should have ended"), "Take it off")
            };
            (
                timed(*ends_at_ms),
                format!("Take plate {number} off {printer}"),
                place,
                at_printer(),
                action,
            )
        }
        Act::Start => (
            "free".to_owned(),
            format!("Start plate {number} on {printer}"),
            line.plate.map_or_else(String::new, |p| {
                let (h, ml) = (hours(p.seconds), tenth(p.resin_ml));
                let around = give_or_take(p.time.around_s());
                format!("{h}{around} h, {ml} ml of {resin}")
            }),
            at_printer(),
            "Pre-flight",
        ),
        Act::Wanted { by_ms, open } => (
            timed(*by_ms),
            format!(
                "{} is wanted",
                line.project.map_or("A project", |(_, name)| name)
            ),
            format!("{} open", count(*open, "model is", "models are")),
            "/schedule".to_owned(),
            "Schedule",
        ),
        Act::Accept { .. } | Act::Plan { .. } | Act::FindSculpts { .. } | Act::AddUnit => {
            desk_words(line)
        }
    }
}

/// A line of plans and lists.
fn desk_words(line: &Line<'_>) -> Words {
    let (project, name) = line.project.unwrap_or((ProjectId(0), ""));
    let to = |place: &str| format!("/projects/{project}/{place}");
    match &line.act {
        Act::Accept { revision, sums } => (
            "ready".to_owned(),
            format!("Look at plan {revision}"),
            sums_words(sums),
            to("plates"),
            "Accept or not",
        ),
        Act::Plan { copies } => (
            "open".to_owned(),
            format!("Plan {}", count(*copies, "wanted copy", "wanted copies")),
            "on no plate yet".to_owned(),
            to("plates"),
            "Plan plates",
        ),
        Act::FindSculpts { parts } => (
            "open".to_owned(),
            format!("Find sculpts for {}", count(*parts, "part", "parts")),
            "wanted, but nothing to print them from".to_owned(),
            to("muster"),
            "Show",
        ),
        Act::AddUnit => (
            "first".to_owned(),
            "Add the first unit".to_owned(),
            name.to_owned(),
            to("units/new"),
            "Add it",
        ),
        _ => (
            String::new(),
            String::new(),
            String::new(),
            to("muster"),
            "Show",
        ),
    }
}

/// Why something is done, for who does it for the first time.
pub(super) const fn why(act: &Act) -> &'static str {
    match act {
        Act::Look(_) => "What goes wrong shows in the first layers, where it costs least.",
        Act::CheckVat(_) => {
            "A piece left in the vat is pressed through the film by the next plate."
        }
        Act::Judge => {
            "Only what somebody has looked at counts as good; what failed is planned again by itself."
        }
        Act::IdleVat(_) => "After weeks somebody moves the printer, and spills it.",
        Act::Replace(..) => "What is worn out takes a plate with it, or leaves it half clean.",
        Act::Mend(..) => "A mend takes minutes, a new copy hours.",
        Act::TakeOff { .. } => "A printer is busy until somebody takes its plate off.",
        Act::EndStep { .. } => {
            "Too long in the wash softens it, too short a drying leaves white marks."
        }
        Act::BeginStep { .. } => {
            "Parts with wet resin on them do not wait well; the batch's page says what each step asks."
        }
        Act::Start => "The checks before it take a minute; a lost plate takes a night.",
        Act::Accept { .. } => {
            "Nothing is printed before a plan is accepted; its plates can still be changed by hand."
        }
        Act::Plan { .. } => {
            "Copies that are wanted are laid out on plates, tall with tall, for the fewest hours."
        }
        Act::Wanted { .. } => "The schedule says whether it can be, and what would help.",
        Act::FindSculpts { .. } => "A part without a file is left out of every plan.",
        Act::AddUnit => {
            "What is wanted is counted from units and models; an army list can be pasted."
        }
    }
}

fn plate_address(line: &Line<'_>) -> String {
    line.plate
        .map_or_else(String::new, |p| format!("/plates/{}", p.id))
}

fn sums_words(sums: &PlateSums) -> String {
    format!(
        "{}, {}{} printer hours",
        count(sums.plates, "plate", "plates"),
        hours(sums.seconds),
        give_or_take(sums.around_s)
    )
}
