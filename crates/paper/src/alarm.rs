//! A deadline as a calendar file with an alarm: a closed page cannot ring, a calendar can.
//!
//! Source: RFC 5545 (iCalendar), written by the `icalendar` package.

use icalendar::{Alarm, Calendar, Component, Event, EventLike};

/// One event of five minutes at a time, with an alarm at its beginning. The same `uid` again is the
/// same event.
#[must_use]
pub fn write_alarm(uid: &str, words: &str, at_ms: i64, now_ms: i64) -> String {
    let entry = CalendarEntry {
        uid: uid.to_owned(),
        words: words.to_owned(),
        from_ms: at_ms,
        to_ms: at_ms + 5 * 60_000,
    };
    write_calendar(&[entry], now_ms)
}

/// Something a person does, ms since 1970.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CalendarEntry {
    /// The same again is the same event.
    pub uid: String,
    /// What it is called.
    pub words: String,
    /// It begins.
    pub from_ms: i64,
    /// It is over.
    pub to_ms: i64,
}

/// All of them as one calendar, each with an alarm at its beginning.
#[must_use]
pub fn write_calendar(entries: &[CalendarEntry], now_ms: i64) -> String {
    let mut calendar = Calendar::new();
    for entry in entries {
        calendar.push(event(entry, now_ms));
    }
    calendar.done().to_string()
}

fn event(entry: &CalendarEntry, now_ms: i64) -> Event {
    let utc = |ms: i64| chrono::DateTime::from_timestamp_millis(ms).unwrap_or_default();
    Event::new()
        .uid(&format!("{}@wembrit", entry.uid))
        .timestamp(utc(now_ms))
        .summary(&entry.words)
        .starts(utc(entry.from_ms))
        .ends(utc(entry.to_ms))
        .alarm(Alarm::display(&entry.words, chrono::Duration::zero()))
        .done()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Read back by the package's own parser: the time, and an alarm.
    #[test]
    fn a_calendar_reads_it_back() {
        // 2026-11-24 16:20 UTC.
        let file = write_alarm("run-3", "Take plate 7 off Dunlin", 1_795_537_200_000, 0);
        let read: Calendar = file.parse().expect("a calendar");
        assert_eq!(read.components.len(), 1);
        assert!(file.contains("DTSTART:20261124T"), "{file}");
        assert!(file.contains("BEGIN:VALARM") && file.contains("SUMMARY:Take plate 7 off Dunlin"));
        assert!(file.contains("UID:run-3@wembrit"));
    }

    /// Every act is an event of its own, read back by the package's parser.
    #[test]
    fn a_schedule_is_one_calendar() {
        let entry = |n: i64| CalendarEntry {
            uid: format!("plate-{n}-on"),
            words: format!("Put on plate {n}, Dunlin; gloves"),
            from_ms: n * 3_600_000,
            to_ms: n * 3_600_000 + 600_000,
        };
        let file = write_calendar(&[entry(1), entry(2), entry(3)], 0);
        let read: Calendar = file.parse().expect("a calendar");
        assert_eq!(read.components.len(), 3);
        assert_eq!(file.matches("BEGIN:VALARM").count(), 3);
        assert!(file.contains("DTSTART:19700101T020000Z"), "{file}");
        assert!(file.contains("DTEND:19700101T021000Z"), "{file}");
    }
}
