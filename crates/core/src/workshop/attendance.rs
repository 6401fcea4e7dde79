//! When somebody is there, in local time: windows of each day of the week, and days that are
//! otherwise. Moments are made of them where the time zone is known, not here.

/// From one minute of a day to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct DayWindow {
    /// Minutes after midnight.
    pub from: u16,
    /// Minutes after midnight, 1440 for its end.
    pub to: u16,
}

/// A day of the calendar.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Date {
    /// Year.
    pub year: i16,
    /// From 1.
    pub month: i8,
    /// From 1.
    pub day: i8,
}

/// Names of the days, as they are typed.
pub const DAYS: [&str; 7] = [
    "Monday",
    "Tuesday",
    "Wednesday",
    "Thursday",
    "Friday",
    "Saturday",
    "Sunday",
];

/// When somebody is there, and what the hands need.
///
/// # Units
/// min.
#[derive(Debug, Clone, PartialEq)]
pub struct Attendance {
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Windows of each day of the week, from Monday.
    pub weekly: [Vec<DayWindow>; 7],
    /// Days that are otherwise; without windows nobody is there.
    pub otherwise: Vec<(Date, Vec<DayWindow>)>,
    /// Nothing prints in these hours; they may go over midnight.
    pub quiet: Option<DayWindow>,
    /// Putting a plate on.
    pub load_minutes: f64,
    /// Taking it off.
    pub unload_minutes: f64,
    /// Somebody stays in reach for the first layers.
    pub look_minutes: f64,
    /// Names of the figures nobody has confirmed, parted by commas.
    pub assumed: String,
}

/// Why a time when somebody is there cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum AttendanceError {
    /// No time of the day.
    #[error("'{0}' is no window: write it as 18:00-22:00, several with commas, or away")]
    Window(String),
    /// It ends before it begins.
    #[error("'{0}' ends before it begins")]
    Backwards(String),
    /// No date.
    #[error("'{0}' is no day: write it as 2026-12-24: 10:00-12:00, or 2026-12-24: away")]
    Day(String),
    /// Not seven days.
    #[error("a week has seven days")]
    Week,
}

fn minute(text: &str) -> Option<u16> {
    let text = text.trim();
    let (hours, minutes) = text.split_once([':', '.']).unwrap_or((text, "0"));
    let digits = |t: &str| (1..=2).contains(&t.len()) && t.bytes().all(|b| b.is_ascii_digit());
    if !digits(hours) || !digits(minutes) {
        return None;
    }
    let (hours, minutes): (u16, u16) = (hours.parse().ok()?, minutes.parse().ok()?);
    let at = hours * 60 + minutes;
    (minutes < 60 && at <= 1440).then_some(at)
}

fn clock(minute: u16) -> String {
    format!("{:02}:{:02}", minute / 60, minute % 60)
}

impl DayWindow {
    /// Reads `22:00-07:00`; it may go over midnight.
    ///
    /// # Errors
    /// [`AttendanceError::Window`].
    pub fn read(text: &str) -> Result<Self, AttendanceError> {
        let wrong = || AttendanceError::Window(text.trim().to_owned());
        let text = text.replace(['–', '—'], "-");
        let (from, to) = text.split_once('-').ok_or_else(wrong)?;
        let (from, to) = minute(from).zip(minute(to)).ok_or_else(wrong)?;
        Ok(Self { from, to })
    }
}

impl std::fmt::Display for DayWindow {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}-{}", clock(self.from), clock(self.to))
    }
}

/// Reads the windows of a day: `7:00-8:00, 18:00-22:00`; nothing, or `away`, where nobody is there.
/// Windows that touch become one.
///
/// # Errors
/// [`AttendanceError`].
pub fn read_windows(text: &str) -> Result<Vec<DayWindow>, AttendanceError> {
    let text = text.trim();
    if text.is_empty() || text.eq_ignore_ascii_case("away") {
        return Ok(Vec::new());
    }
    let mut all = Vec::new();
    for piece in text.split(',') {
        let window = DayWindow::read(piece)?;
        if window.from >= window.to {
            return Err(AttendanceError::Backwards(piece.trim().to_owned()));
        }
        all.push(window);
    }
    all.sort_unstable();
    let mut joined: Vec<DayWindow> = Vec::new();
    for window in all {
        match joined.last_mut() {
            Some(last) if window.from <= last.to => last.to = last.to.max(window.to),
            _ => joined.push(window),
        }
    }
    Ok(joined)
}

/// Windows of a day as they are typed.
#[must_use]
pub fn write_windows(windows: &[DayWindow]) -> String {
    let all: Vec<String> = windows.iter().map(DayWindow::to_string).collect();
    all.join(", ")
}

/// Reads days that are otherwise, one to a line: `2026-12-24: 10:00-12:00`.
///
/// # Errors
/// [`AttendanceError`] with the line.
pub fn read_otherwise(text: &str) -> Result<Vec<(Date, Vec<DayWindow>)>, AttendanceError> {
    let mut all: Vec<(Date, Vec<DayWindow>)> = Vec::new();
    for line in text.lines().map(str::trim).filter(|l| !l.is_empty()) {
        let wrong = || AttendanceError::Day(line.to_owned());
        let (date, windows) = line.split_once([':', ' ']).unwrap_or((line, ""));
        let mut numbers = date.trim().split('-').map(|n| n.parse::<i16>().ok());
        let mut next = || numbers.next().flatten();
        let (year, month, day) = (next(), next(), next());
        let date = match (year, month, day) {
            (Some(year @ 2000..=2999), Some(month @ 1..=12), Some(day @ 1..=31)) => Date {
                year,
                month: month as i8,
                day: day as i8,
            },
            _ => return Err(wrong()),
        };
        let windows = read_windows(windows.trim_start_matches(':')).map_err(|_| wrong())?;
        all.retain(|(other, _)| *other != date);
        all.push((date, windows));
    }
    all.sort_unstable();
    Ok(all)
}

/// Days that are otherwise as they are typed.
#[must_use]
pub fn write_otherwise(days: &[(Date, Vec<DayWindow>)]) -> String {
    let line = |(d, windows): &(Date, Vec<DayWindow>)| {
        let windows = if windows.is_empty() {
            "away".to_owned()
        } else {
            write_windows(windows)
        };
        format!("{:04}-{:02}-{:02}: {windows}", d.year, d.month, d.day)
    };
    days.iter().map(line).collect::<Vec<_>>().join("\n")
}

impl Attendance {
    /// Reads a week: seven days from Monday, parted by semicolons.
    ///
    /// # Errors
    /// [`AttendanceError`].
    pub fn read_week(text: &str) -> Result<[Vec<DayWindow>; 7], AttendanceError> {
        let days: Result<Vec<_>, _> = text.split(';').map(read_windows).collect();
        days?.try_into().map_err(|_| AttendanceError::Week)
    }

    /// The week as it is kept.
    #[must_use]
    pub fn write_week(&self) -> String {
        let days: Vec<String> = self.weekly.iter().map(|d| write_windows(d)).collect();
        days.join("; ")
    }

    /// When somebody is there on a day, which is this one of the week (0 is Monday).
    #[must_use]
    pub fn on(&self, date: Date, weekday: usize) -> &[DayWindow] {
        let other = self.otherwise.iter().find(|(d, _)| *d == date);
        other.map_or(&self.weekly[weekday % 7], |(_, windows)| windows)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("7:00-8:00, 18-22", "07:00-08:00, 18:00-22:00")]
    #[case("18.30–24", "18:30-24:00")]
    #[case("9:00-12:00,11:00-13:00", "09:00-13:00")]
    #[case("away", "")]
    #[case("  ", "")]
    fn windows_are_read(#[case] typed: &str, #[case] kept: &str) {
        let read = read_windows(typed).unwrap();
        assert_eq!(write_windows(&read), kept);
        assert_eq!(read_windows(kept), Ok(read));
    }

    #[rstest]
    #[case("evening", "'evening' is no window")]
    #[case("8:00-25:00", "'8:00-25:00' is no window")]
    #[case("8:75-9:00", "'8:75-9:00' is no window")]
    #[case("22:00-7:00", "ends before it begins")]
    fn what_is_no_window_is_named(#[case] typed: &str, #[case] says: &str) {
        let why = read_windows(typed).unwrap_err().to_string();
        assert!(why.contains(says), "{why}");
    }

    #[test]
    fn days_may_be_otherwise() {
        let typed = "2026-12-31: 10:00-12:00\n2026-12-24 away\n";
        let read = read_otherwise(typed).unwrap();
        let kept = write_otherwise(&read);
        assert_eq!(kept, "2026-12-24: away\n2026-12-31: 10:00-12:00");
        assert_eq!(read_otherwise(&kept).as_ref(), Ok(&read));
        for wrong in [
            "24.12.2026: away",
            "2026-13-01: away",
            "2026-12-24: at noon",
        ] {
            assert!(read_otherwise(wrong).is_err(), "{wrong}");
        }
        let week = Attendance::read_week("1-2; ; ; ; ; ; 3-4").unwrap();
        assert!(Attendance::read_week("1-2").is_err());
        let all = Attendance {
            row_version: 1,
            weekly: week,
            otherwise: read,
            quiet: None,
            load_minutes: 10.0,
            unload_minutes: 10.0,
            look_minutes: 10.0,
            assumed: String::new(),
        };
        let date = |day| Date {
            year: 2026,
            month: 12,
            day,
        };
        assert_eq!(all.on(date(24), 0), []);
        assert_eq!(all.on(date(28), 0), read_windows("1-2").unwrap());
        assert_eq!(
            Attendance::read_week(&all.write_week()).unwrap(),
            all.weekly
        );
    }
}
