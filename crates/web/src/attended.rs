//! Windows of a week in local time, as moments: both changes of the clock come out right because
//! each day's minutes are looked up in the time zone.

use std::collections::BTreeMap;

use jiff::civil;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use wembrit_core::pack::Slots;
use wembrit_core::schedule::{Moments, Work};
use wembrit_core::workshop::attendance::{Attendance, Date, DayWindow};
use wembrit_store::{Conn, StoreError, queries};

use crate::views::show;

/// Days that are looked ahead: what takes longer is said to take too long.
pub(crate) const DAYS_AHEAD: i32 = 120;

fn moment(date: civil::Date, minute: u16, zone: &TimeZone) -> Option<i64> {
    let days = i32::from(minute / 1440);
    let minute = minute % 1440;
    let at = date
        .checked_add(days.days())
        .ok()?
        .at((minute / 60) as i8, (minute % 60) as i8, 0, 0);
    zone.to_timestamp(at).ok().map(Timestamp::as_millisecond)
}

/// When the day began in the workshop, ms since 1970.
pub(crate) fn day_ms(c: &mut Conn, now_ms: i64) -> Result<i64, StoreError> {
    let zone = show::zone(&queries::workshop::load(c)?.time_zone);
    Ok(show::day_begins(now_ms, &zone))
}

/// When somebody is there from a moment on, ms since 1970. What is under way has begun before.
pub(crate) fn windows(of: &Attendance, zone: &TimeZone, from_ms: i64) -> Vec<(i64, i64)> {
    days(zone, from_ms)
        .flat_map(|(date, weekday)| {
            let on = Date {
                year: date.year(),
                month: date.month(),
                day: date.day(),
            };
            let all = of.on(on, weekday).iter();
            all.filter_map(|w| window(date, *w, zone))
                .collect::<Vec<_>>()
        })
        .filter(|w| w.1 > from_ms)
        .map(|(from, to)| (from.max(from_ms), to))
        .collect()
}

/// Every evening from six to ten, ms since 1970: hours somebody could be there besides.
pub(crate) fn evenings(zone: &TimeZone, from_ms: i64) -> Vec<(i64, i64)> {
    let evening = DayWindow {
        from: 18 * 60,
        to: 22 * 60,
    };
    days(zone, from_ms)
        .filter_map(|(date, _)| window(date, evening, zone))
        .filter(|w| w.1 > from_ms)
        .map(|(from, to)| (from.max(from_ms), to))
        .collect()
}

/// The next moment at which clocks show a time, ms since 1970; nothing where it is none.
pub(crate) fn next_at(text: &str, zone: &TimeZone, from_ms: i64) -> Option<i64> {
    let time: civil::Time = text.parse().ok()?;
    let minute = time.hour() as u16 * 60 + time.minute() as u16;
    let mut at = days(zone, from_ms).filter_map(|(date, _)| moment(date, minute, zone));
    at.find(|ms| *ms > from_ms)
}

/// When nothing may print, ms since 1970.
pub(crate) fn quiet(of: &Attendance, zone: &TimeZone, from_ms: i64) -> Vec<(i64, i64)> {
    let Some(quiet) = of.quiet else {
        return Vec::new();
    };
    let over_night = |q: DayWindow| DayWindow {
        from: q.from,
        to: if q.to <= q.from { q.to + 1440 } else { q.to },
    };
    days(zone, from_ms - 86_400_000)
        .filter_map(|(date, _)| window(date, over_night(quiet), zone))
        .filter(|w| w.1 > from_ms)
        .collect()
}

/// Now, and when somebody is there from then on.
pub(crate) fn moments(of: &Attendance, zone: &TimeZone, now_ms: i64) -> Moments {
    Moments {
        now_ms,
        attended: windows(of, zone, now_ms),
        quiet: quiet(of, zone, now_ms),
    }
}

/// How long a plate keeps a printer, by how long it prints, in the hours somebody is there from now
/// on.
pub(crate) fn slots(conn: &mut Conn, now_ms: i64) -> Result<Slots, StoreError> {
    let of = queries::attendance::load(conn)?;
    let zone = show::zone(&queries::workshop::load(conn)?.time_zone);
    let (nothing, moments) = (BTreeMap::new(), moments(&of, &zone, now_ms));
    let work = Work::of(&[], (&[], &[]), &nothing, &of, moments);
    Ok(Slots::new(work.slots()))
}

fn window(date: civil::Date, of: DayWindow, zone: &TimeZone) -> Option<(i64, i64)> {
    Some((moment(date, of.from, zone)?, moment(date, of.to, zone)?))
}

/// The days from a moment on, and which of the week each is: 0 is Monday.
pub(crate) fn days(zone: &TimeZone, from_ms: i64) -> impl Iterator<Item = (civil::Date, usize)> {
    let from = Timestamp::from_millisecond(from_ms).unwrap_or_default();
    let first = zone.to_datetime(from).date();
    (0..DAYS_AHEAD).filter_map(move |d| {
        let date = first.checked_add(d.days()).ok()?;
        Some((date, date.weekday().to_monday_zero_offset() as usize))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use wembrit_core::ids::{PlateId, PrinterId, ProjectId, ResinId};
    use wembrit_core::schedule::{Due, InUse, ScheduleSearch};
    use wembrit_core::watch::Unwatched;
    use wembrit_core::workshop::attendance::{read_otherwise, read_windows};

    fn daily(windows: &str) -> Attendance {
        Attendance {
            row_version: 1,
            weekly: std::array::from_fn(|_| read_windows(windows).unwrap()),
            otherwise: Vec::new(),
            quiet: None,
            load_minutes: 0.0,
            unload_minutes: 0.0,
            look_minutes: 0.0,
            assumed: String::new(),
        }
    }

    fn ms(local: &str, zone: &TimeZone) -> i64 {
        let at: civil::DateTime = local.parse().unwrap();
        zone.to_timestamp(at).unwrap().as_millisecond()
    }

    /// Twelve hours over a night in which the clock is changed: the day after it is seven o'clock,
    /// once an hour less on the clock and once an hour more (EU summer time, Directive 2000/84/EC).
    #[rstest]
    #[case::an_hour_is_missing("2027-03-27T18:00", "2027-03-28T07:00")]
    #[case::an_hour_is_there_twice("2026-10-24T20:00", "2026-10-25T07:00")]
    #[case::an_ordinary_night("2026-11-27T19:00", "2026-11-28T07:00")]
    fn twelve_hours_over_a_night(#[case] loaded: &str, #[case] off: &str) {
        let berlin = TimeZone::get("Europe/Berlin").unwrap();
        let now_ms = ms(loaded, &berlin);
        let work = Work {
            now_ms,
            printers: vec![InUse {
                printer: PrinterId(1),
                holds: None,
                change_minutes: 0.0,
                change_ml: 0.0,
            }],
            on: Vec::new(),
            due: vec![Due {
                plate: PlateId(1),
                number: 1,
                project: ProjectId(1),
                on: vec![(PrinterId(1), 12.0 * 3600.0)],
                resin: ResinId(1),
                weight: 1,
                untried: false,
                not_before_ms: None,
            }],
            attended: windows(&daily("07:00-22:00"), &berlin, now_ms),
            quiet: Vec::new(),
            spare: Vec::new(),
            minutes: [0.0; 3],
        };
        let table = work.timetable(&[], ScheduleSearch::FOR_A_PAGE, &Unwatched);
        assert_eq!(table.unwrap().end_ms(), Some(ms(off, &berlin)));
    }

    #[test]
    fn days_off_and_quiet_nights() {
        let zone = TimeZone::get("Europe/Berlin").unwrap();
        let mut of = daily("8:00-10:00, 20:00-24:00");
        of.otherwise = read_otherwise("2026-12-24: away\n2026-12-25: 12:00-13:00").unwrap();
        let from = ms("2026-12-23T09:00", &zone);
        let at = |local| ms(local, &zone);
        let all = windows(&of, &zone, from);
        assert_eq!(all[0], (from, at("2026-12-23T10:00")));
        assert_eq!(all[1], (at("2026-12-23T20:00"), at("2026-12-24T00:00")));
        assert_eq!(all[2], (at("2026-12-25T12:00"), at("2026-12-25T13:00")));
        assert_eq!(quiet(&of, &zone, from), []);
        of.quiet = DayWindow::read("22:00-07:00").ok();
        let nights = quiet(&of, &zone, from);
        assert_eq!(nights[0], (at("2026-12-23T22:00"), at("2026-12-24T07:00")));
    }
}
