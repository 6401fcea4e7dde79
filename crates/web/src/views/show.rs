//! Figures as a person reads them: one way for each kind everywhere.

use jiff::tz::TimeZone;
use jiff::{Timestamp, civil};
use wembrit_core::learn::Expected;

use crate::currency;

/// `3:24`, hours and minutes; the unit stands in the column head.
pub(crate) fn hours(seconds: f64) -> String {
    let minutes = (seconds / 60.0).round() as i64;
    format!("{}:{:02}", minutes / 60, minutes % 60)
}

/// ` ± 0:08`, how far off hours may be; nothing where they are known to the minute.
pub(crate) fn give_or_take(seconds: f64) -> String {
    if seconds < 30.0 {
        return String::new();
    }
    format!(" ± {}", hours(seconds))
}

/// By what a plate's time is known.
pub(crate) fn known_by(time: &Expected, printer: &str) -> String {
    match time.runs {
        _ if time.is_known() => "it took this".to_owned(),
        0 => format!("no run of {printer} was timed yet"),
        runs => format!("by {} of {printer}", count(runs as u64, "run", "runs")),
    }
}

/// One decimal.
pub(crate) fn tenth(number: f64) -> String {
    format!("{number:.1}")
}

/// `12,345`: groups of three.
pub(crate) fn grouped(number: i64) -> String {
    let digits = number.unsigned_abs().to_string();
    let mut text = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    if number < 0 { format!("-{text}") } else { text }
}

/// `1 copy`, `3 copies`.
pub(crate) fn count(number: u64, one: &str, many: &str) -> String {
    format!(
        "{} {}",
        grouped(number as i64),
        if number == 1 { one } else { many }
    )
}

/// `a few seconds`, `about 40 s`, `about 3 min`: no finer than one can know.
pub(crate) fn about(seconds: f64) -> String {
    if seconds < 8.0 {
        "a few seconds".to_owned()
    } else if seconds < 90.0 {
        format!("about {:.0} s", (seconds / 10.0).ceil() * 10.0)
    } else {
        format!("about {:.0} min", (seconds / 60.0).ceil())
    }
}

/// A figure with as many decimals as it takes to tell it: `1,240`, `18.5`, `0.045`; a whole one with none.
pub(crate) fn some(number: f64) -> String {
    match number.abs() {
        n if n >= 100.0 || n.fract() < 1e-9 => grouped(number.round() as i64),
        n if n >= 10.0 => format!("{number:.1}"),
        n if n >= 1.0 => format!("{number:.2}"),
        _ => format!("{number:.3}"),
    }
}

/// A price of one of something, which may be far less than the smallest coin, with three digits that say something:
/// `0.0441`, `0.000317`.
pub(crate) fn price(minor: f64) -> String {
    let currency = currency::here();
    let whole = minor / currency.in_one() as f64;
    let least = usize::from(currency.decimals);
    if whole <= 0.0 || (minor - minor.round()).abs() < 1e-9 {
        return format!("{whole:.least$}");
    }
    let digits = (2.0 - whole.log10().floor()).clamp(0.0, 9.0) as usize;
    format!("{whole:.0$}", digits.max(least))
}

/// `4.1 MB`.
pub(crate) fn size(bytes: i64) -> String {
    let bytes = bytes as f64;
    if bytes < 1e6 {
        format!("{:.0} kB", bytes / 1e3)
    } else {
        format!("{:.1} MB", bytes / 1e6)
    }
}

/// The workshop's time zone; UTC when the kept one is unknown.
pub(crate) fn zone(name: &str) -> TimeZone {
    TimeZone::get(name).unwrap_or(TimeZone::UTC)
}

/// `Tue 24 Nov 16:20`.
pub(crate) fn when(ms: i64, zone: &TimeZone) -> String {
    local(ms, zone).map_or_else(String::new, |t| t.strftime("%a %-d %b %H:%M").to_string())
}

/// `Tue 24 Nov`.
pub(crate) fn day(ms: i64, zone: &TimeZone) -> String {
    local(ms, zone).map_or_else(String::new, |t| t.strftime("%a %-d %b").to_string())
}

/// `16:20` for the same day, `Wed 03:10` for another.
pub(crate) fn near(ms: i64, now_ms: i64, zone: &TimeZone) -> String {
    let (Some(at), Some(now)) = (local(ms, zone), local(now_ms, zone)) else {
        return String::new();
    };
    let form = if at.date() == now.date() {
        "%H:%M"
    } else {
        "%a %H:%M"
    };
    at.strftime(form).to_string()
}

/// `16:20`.
pub(crate) fn clock(ms: i64, zone: &TimeZone) -> String {
    local(ms, zone).map_or_else(String::new, |t| t.strftime("%H:%M").to_string())
}

/// When the day of a time began, ms since 1970.
pub(crate) fn day_begins(ms: i64, zone: &TimeZone) -> i64 {
    let began = local(ms, zone).map(|t| t.date().at(0, 0, 0, 0));
    let began = began.and_then(|at| zone.to_timestamp(at).ok());
    began.map_or(ms, Timestamp::as_millisecond)
}

/// Words as a sentence: a capital letter and a full stop.
pub(crate) fn sentence(words: &str) -> String {
    let mut letters = words.chars();
    let first = letters.next().map(|c| c.to_uppercase().to_string());
    format!("{}{}.", first.unwrap_or_default(), letters.as_str())
}

/// As a date-time field of a form wants it: `2026-11-24T16:20`.
pub(crate) fn field(ms: i64, zone: &TimeZone) -> String {
    local(ms, zone).map_or_else(String::new, |t| t.strftime("%Y-%m-%dT%H:%M").to_string())
}

/// Reads a date-time field in the workshop's time zone, in ms since 1970.
pub(crate) fn read_field(text: &str, zone: &TimeZone) -> Option<i64> {
    let at: civil::DateTime = text.parse().ok()?;
    zone.to_timestamp(at).ok().map(Timestamp::as_millisecond)
}

fn local(ms: i64, zone: &TimeZone) -> Option<civil::DateTime> {
    Timestamp::from_millisecond(ms)
        .ok()
        .map(|t| zone.to_datetime(t))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(1240.4, "1,240")]
    #[case(18.54, "18.5")]
    #[case(0.0449, "0.045")]
    #[case(1.0, "1")]
    fn figures_are_no_longer_than_they_have_to_be(#[case] figure: f64, #[case] text: &str) {
        assert_eq!(some(figure), text);
    }

    #[rstest]
    #[case(4.41, "0.0441")]
    #[case(0.031_666, "0.000317")]
    #[case(31.0, "0.31")]
    #[case(123.4, "1.23")]
    #[case(0.0, "0.00")]
    fn prices_tell_three_digits(#[case] minor: f64, #[case] text: &str) {
        assert_eq!(price(minor), text);
    }

    #[rstest]
    #[case(12_240.0, "3:24")]
    #[case(29.0, "0:00")]
    #[case(359_970.0, "100:00")]
    fn hours_are_hours_and_minutes(#[case] seconds: f64, #[case] text: &str) {
        assert_eq!(hours(seconds), text);
    }

    #[rstest]
    #[case(3.0, "a few seconds")]
    #[case(31.0, "about 40 s")]
    #[case(130.0, "about 3 min")]
    fn a_wait_is_told_no_finer_than_one_can_know(#[case] seconds: f64, #[case] text: &str) {
        assert_eq!(about(seconds), text);
    }

    #[rstest]
    #[case(7, "7")]
    #[case(1234, "1,234")]
    #[case(-1_234_567, "-1,234,567")]
    fn large_numbers_are_grouped(#[case] number: i64, #[case] text: &str) {
        assert_eq!(grouped(number), text);
    }

    /// Summer time ends in Amsterdam on 25 October 2026 (EU directive 2000/84/EC: last Sunday).
    #[test]
    fn times_are_shown_and_read_in_the_workshops_zone() {
        let zone = zone("Europe/Amsterdam");
        let summer = read_field("2026-10-24T12:00", &zone).expect("a time");
        let winter = read_field("2026-10-26T12:00", &zone).expect("a time");
        assert_eq!(winter - summer, 49 * 3_600_000);
        assert_eq!(field(winter, &zone), "2026-10-26T12:00");
        assert_eq!(when(winter, &zone), "Mon 26 Oct 12:00");
        assert_eq!(near(winter, summer, &zone), "Mon 12:00");
        assert_eq!(read_field("yesterday", &zone), None);
    }
}
