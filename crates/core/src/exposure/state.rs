//! How sure an exposure is.

/// How sure the exposure of a process setting is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum ExposureState {
    /// Nobody has tested it: it is assumed.
    Missing,
    /// Tested, and to be tested again.
    Due(Due),
    /// Tested, and in use.
    Fresh,
}

/// Why an exposure is to be tested again.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Due {
    /// The last plate with it was lost, or copies of it failed as a wrong exposure makes them fail.
    Suspect,
    /// Another batch of the resin came into use since.
    NewResin,
    /// The film was changed since.
    NewFilm,
    /// The screen was changed since.
    NewScreen,
    /// The room is at so many °C, and was at so many when it was tested.
    Season([f64; 2]),
    /// For so many days nothing was printed with it: resin settles, films and screens age.
    Unused(i64),
}

/// Days without a print after which an exposure is tested again (common practice, no source).
pub const STALE_DAYS: i64 = 60;
/// A room that is so much warmer or colder is another season, °C (common practice, no source).
pub const SEASON_C: f64 = 5.0;

/// What is known of an exposure.
///
/// # Units
/// ms since 1970, °C.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ExposureFacts {
    /// Somebody has confirmed it.
    pub confirmed: bool,
    /// When it was tested or set last.
    pub tested_at_ms: i64,
    /// How warm the room was when it was tested.
    pub tested_c: Option<f64>,
    /// When it was printed with last.
    pub used_at_ms: Option<i64>,
    /// The last plate with it spoke against it.
    pub suspect: bool,
    /// When another batch of the resin came into use.
    pub resin_at_ms: Option<i64>,
    /// When the printer's film was changed.
    pub film_at_ms: Option<i64>,
    /// When the printer's screen was changed.
    pub screen_at_ms: Option<i64>,
    /// How warm the room is.
    pub room_c: Option<f64>,
}

impl ExposureState {
    /// The state of an exposure at a time.
    #[must_use]
    pub fn of(facts: &ExposureFacts, now_ms: i64) -> Self {
        let after = |at: Option<i64>| at.is_some_and(|at| at >= facts.tested_at_ms);
        let used = facts.used_at_ms.unwrap_or(i64::MIN).max(facts.tested_at_ms);
        let days = (now_ms - used).max(0) / 86_400_000;
        let rooms = facts.room_c.zip(facts.tested_c);
        let season = rooms.filter(|(now, then)| (now - then).abs() >= SEASON_C);
        let due = match (facts.suspect, season) {
            _ if !facts.confirmed => return Self::Missing,
            (true, _) => Due::Suspect,
            _ if after(facts.resin_at_ms) => Due::NewResin,
            _ if after(facts.film_at_ms) => Due::NewFilm,
            _ if after(facts.screen_at_ms) => Due::NewScreen,
            (_, Some((now, then))) => Due::Season([now, then]),
            _ if days >= STALE_DAYS => Due::Unused(days),
            _ => return Self::Fresh,
        };
        Self::Due(due)
    }
}

impl Due {
    /// In words, after "due:".
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::Suspect => "the last plate with it came out as if it were wrong".into(),
            Self::NewResin => "another batch of the resin is in use since".into(),
            Self::NewFilm => "the film was changed since".into(),
            Self::NewScreen => "the screen was changed since".into(),
            Self::Season([now, then]) => {
                format!("tested at {then:.0} °C, the room is at {now:.0} °C now")
            }
            Self::Unused(days) => format!("last used {days} days ago"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const DAY: i64 = 86_400_000;

    fn tested() -> ExposureFacts {
        ExposureFacts {
            confirmed: true,
            tested_at_ms: 10 * DAY,
            tested_c: Some(21.0),
            ..ExposureFacts::default()
        }
    }

    #[rstest]
    #[case::fresh(tested(), ExposureState::Fresh)]
    #[case::assumed(ExposureFacts { confirmed: false, suspect: true, ..tested() }, ExposureState::Missing)]
    #[case::suspect(ExposureFacts { suspect: true, ..tested() }, ExposureState::Due(Due::Suspect))]
    #[case::resin(ExposureFacts { resin_at_ms: Some(11 * DAY), ..tested() }, ExposureState::Due(Due::NewResin))]
    #[case::resin_before(ExposureFacts { resin_at_ms: Some(9 * DAY), ..tested() }, ExposureState::Fresh)]
    #[case::film(ExposureFacts { film_at_ms: Some(11 * DAY), ..tested() }, ExposureState::Due(Due::NewFilm))]
    #[case::screen(ExposureFacts { screen_at_ms: Some(11 * DAY), ..tested() }, ExposureState::Due(Due::NewScreen))]
    #[case::winter(ExposureFacts { room_c: Some(15.0), ..tested() }, ExposureState::Due(Due::Season([15.0, 21.0])))]
    #[case::as_warm(ExposureFacts { room_c: Some(18.0), ..tested() }, ExposureState::Fresh)]
    #[case::unused(ExposureFacts { tested_at_ms: -50 * DAY, ..tested() }, ExposureState::Due(Due::Unused(62)))]
    #[case::used(ExposureFacts { tested_at_ms: -50 * DAY, used_at_ms: Some(5 * DAY), ..tested() }, ExposureState::Fresh)]
    fn it_is_fresh_due_or_missing(#[case] facts: ExposureFacts, #[case] known: ExposureState) {
        assert_eq!(ExposureState::of(&facts, 12 * DAY), known);
    }
}
