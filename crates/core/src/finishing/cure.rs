//! How long parts stay under the lamp: it belongs to lamp, resin and part, so it is learned from how
//! they felt.

use crate::words::words;

words! {
    /// How a part feels after the lamp.
    Feel, "feel after the cure" {
        /// It bends, nearly as before.
        Wobbly = "wobbly",
        /// Its surface holds a finger.
        Tacky = "tacky",
        /// It is hard and dry.
        Hard = "hard",
    }
}

/// Minutes for the next time. What was hard stays as it is: more makes parts brittle. Common
/// practice, no source, for the factors.
#[must_use]
pub fn next_minutes(minutes: f64, feel: Feel) -> f64 {
    let factor = match feel {
        Feel::Wobbly => 2.0,
        Feel::Tacky => 1.5,
        Feel::Hard => 1.0,
    };
    (minutes * factor * 2.0).ceil() / 2.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(4.0, Feel::Wobbly, 8.0)]
    #[case(4.0, Feel::Tacky, 6.0)]
    #[case(3.0, Feel::Tacky, 4.5)]
    #[case(4.0, Feel::Hard, 4.0)]
    fn what_was_soft_stays_longer(#[case] was: f64, #[case] feel: Feel, #[case] next: f64) {
        assert_eq!(next_minutes(was, feel), next);
    }
}
