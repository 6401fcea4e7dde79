//! A deadline as a calendar file with an alarm: a closed page cannot ring, a calendar can.
//!
//! Source: RFC 5545 (iCalendar), written by the `icalendar` package.

use icalendar::{Alarm, Calendar, Component, Event, EventLike};

/// One event of five minutes at a time, with an alarm at its beginning. The same `uid` again is the
/// same event.
#[must_use]
pub fn write_alarm(uid: &str, words: &str, at_ms: i64, now_ms: i64) -> String {
    let utc = |ms: i64| chrono::DateTime::from_timestamp_millis(ms).unwrap_or_default();
    let at = utc(at_ms);
    let mut event = Event::new();
    event
        .uid(&format!("{uid}@wembrit"))
        .timestamp(utc(now_ms))
        .summary(words)
        .starts(at)
        .ends(utc(at_ms + 5 * 60_000))
        .alarm(Alarm::display(words, chrono::Duration::zero()));
    Calendar::new().push(event.done()).done().to_string()
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
}
