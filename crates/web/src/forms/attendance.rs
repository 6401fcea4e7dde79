//! The form of when somebody is there.

use wembrit_core::workshop::attendance::{
    Attendance, DAYS, DayWindow, read_otherwise, read_windows, write_otherwise, write_windows,
};

use super::{Faults, Field, Input, Reader, mark_assumed, plain};

const KEYS: [&str; 7] = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

pub(crate) fn fields(of: &Attendance) -> Vec<Field> {
    let day = |d: usize| Field::text(KEYS[d], DAYS[d], write_windows(&of.weekly[d]));
    let mut all: Vec<Field> = (0..7).map(day).collect();
    all[0] = all[0]
        .clone()
        .hint("Such as 07:00-08:00, 18:00-22:00; empty where nobody is there.");
    all.extend([
        Field::lines(
            "otherwise",
            "Days that are otherwise",
            write_otherwise(&of.otherwise),
        )
        .hint("One to a line: 2026-12-24: away, or 2026-12-27: 10:00-14:00."),
        Field::text(
            "quiet",
            "Quiet hours",
            of.quiet.map_or_else(String::new, |q| q.to_string()),
        )
        .hint("Nothing prints then: 22:00-07:00. Empty where printers may hum all night."),
        Field::number(
            "load_minutes",
            "Putting a plate on",
            "min",
            plain(of.load_minutes),
        ),
        Field::number(
            "unload_minutes",
            "Taking it off",
            "min",
            plain(of.unload_minutes),
        ),
        Field::number(
            "look_minutes",
            "In reach for the first layers",
            "min",
            plain(of.look_minutes),
        ),
    ]);
    let assumed = of.assumed.replace("weekly", &KEYS.join(","));
    mark_assumed(all, &assumed)
}

pub(crate) fn read(input: &Input, row_version: i64, assumed: String) -> Result<Attendance, Faults> {
    let mut r = Reader::new(input);
    let mut weekly: [Vec<DayWindow>; 7] = Default::default();
    for (day, key) in KEYS.iter().enumerate() {
        match read_windows(input.get(key)) {
            Ok(windows) => weekly[day] = windows,
            Err(why) => r.refuse(key, &why.to_string()),
        }
    }
    let otherwise = read_otherwise(input.get("otherwise")).unwrap_or_else(|why| {
        r.refuse("otherwise", &why.to_string());
        Vec::new()
    });
    let typed = input.get("quiet").trim();
    let quiet = if typed.is_empty() {
        None
    } else {
        DayWindow::read(typed)
            .map_err(|why| r.refuse("quiet", &why.to_string()))
            .ok()
    };
    // The week is assumed as a whole, until it was looked at.
    let mut kept: Vec<&str> = assumed.split(',').filter(|a| !KEYS.contains(a)).collect();
    if KEYS.iter().all(|key| assumed.split(',').any(|a| a == *key)) {
        kept.push("weekly");
    }
    let assumed = kept
        .into_iter()
        .filter(|a| !a.is_empty())
        .collect::<Vec<_>>()
        .join(",");
    let change = Attendance {
        row_version,
        weekly,
        otherwise,
        quiet,
        load_minutes: r.number("load_minutes", 0.0, 240.0),
        unload_minutes: r.number("unload_minutes", 0.0, 240.0),
        look_minutes: r.number("look_minutes", 0.0, 240.0),
        assumed,
    };
    r.done(change)
}
