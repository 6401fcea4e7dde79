//! What time it is.

use std::time::Instant;

use jiff::Timestamp;

/// Where the time comes from.
#[derive(Debug, Clone, Copy)]
pub enum Clock {
    /// The system's clock.
    System,
    /// Always this moment, in ms since 1970: repeatable pages.
    Fixed(i64),
    /// Set to a moment, and running at a pace of its own from there.
    Running {
        /// The moment it was set to, ms since 1970.
        start_ms: i64,
        /// When it was set.
        since: Instant,
        /// Its milliseconds for each millisecond that passes.
        speed: f64,
    },
}

impl Clock {
    /// A clock that starts at a moment and runs so many times as fast as others; it stands still
    /// at 0.
    #[must_use]
    pub fn running(start_ms: i64, speed: f64) -> Self {
        if speed <= 0.0 {
            return Clock::Fixed(start_ms);
        }
        Clock::Running {
            start_ms,
            since: Instant::now(),
            speed,
        }
    }

    /// How many times as fast as outside the time passes; nothing where it stands still.
    #[must_use]
    pub fn speed(self) -> Option<u32> {
        match self {
            Clock::System => Some(1),
            Clock::Fixed(_) => None,
            Clock::Running { speed, .. } => Some(speed.round() as u32),
        }
    }

    /// Now, in ms since 1970.
    #[must_use]
    pub fn now_ms(self) -> i64 {
        match self {
            Clock::System => Timestamp::now().as_millisecond(),
            Clock::Fixed(ms) => ms,
            Clock::Running {
                start_ms,
                since,
                speed,
            } => start_ms + (since.elapsed().as_secs_f64() * speed * 1000.0) as i64,
        }
    }
}

#[cfg(test)]
mod tests {
    use std::time::Duration;

    use super::*;

    #[test]
    fn a_clock_runs_at_its_pace_from_its_start() {
        assert_eq!(Clock::running(1_000, 0.0).now_ms(), 1_000);
        let Clock::Running {
            start_ms, since, ..
        } = Clock::running(1_000, 3600.0)
        else {
            panic!("it stands still");
        };
        // As if it had been set ten seconds ago.
        let earlier = Clock::Running {
            start_ms,
            since: since.checked_sub(Duration::from_secs(10)).expect("uptime"),
            speed: 3600.0,
        };
        let hours = (earlier.now_ms() - 1_000) as f64 / 3.6e6;
        assert!((10.0..11.0).contains(&hours), "{hours} h");
    }
}
