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

words! {
    /// What a part is to the lamp.
    UnderLamp, "kind of part under the lamp" {
        /// Light reaches all of it from outside.
        Solid = "solid",
        /// Its inside has to be cured too.
        Hollow = "hollow",
        /// It is cured in short bursts, joints moved between.
        Jointed = "jointed",
    }
}

impl UnderLamp {
    /// What the batch is that has so many hollow and jointed copies: the most careful kind of any.
    #[must_use]
    pub const fn of(hollow: u64, jointed: u64) -> Self {
        match (hollow, jointed) {
            (0, 0) => UnderLamp::Solid,
            (0, _) => UnderLamp::Jointed,
            _ => UnderLamp::Hollow,
        }
    }
}

/// How parts of one resin felt after the lamp.
#[derive(Debug, Clone, PartialEq)]
pub struct Felt {
    /// The lamp, as its maker calls it; empty where nobody said.
    pub lamp: String,
    /// What lay under it.
    pub kind: UnderLamp,
    /// So many minutes.
    pub minutes: f64,
    /// And so they felt.
    pub feel: Feel,
}

/// What was felt last of this kind under the lamp that was used last; where that lamp has had none
/// of the kind, what was felt under it at all. Another lamp tells nothing. The newest stands last.
#[must_use]
pub fn nearest(felt: &[Felt], kind: UnderLamp) -> Option<&Felt> {
    let lamp = &felt.last()?.lamp;
    let under = || felt.iter().rev().filter(|f| f.lamp == *lamp);
    under().find(|f| f.kind == kind).or_else(|| under().next())
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

    /// Minutes belong to lamp and kind of part: a hollow hull says nothing of pikes, and the lamp of
    /// last year nothing of today's.
    #[rstest]
    #[case::same_lamp_and_kind(&[("weak", "solid", 9.0), ("strong", "solid", 4.0), ("strong", "hollow", 8.0)], UnderLamp::Solid, 4.0)]
    #[case::same_lamp(&[("weak", "jointed", 9.0), ("strong", "solid", 4.0)], UnderLamp::Jointed, 4.0)]
    #[case::the_newest(&[("", "solid", 4.0), ("", "solid", 5.0)], UnderLamp::Solid, 5.0)]
    fn minutes_belong_to_lamp_and_part(
        #[case] felt: &[(&str, &str, f64)],
        #[case] kind: UnderLamp,
        #[case] minutes: f64,
    ) {
        let felt: Vec<Felt> = felt
            .iter()
            .map(|(lamp, kind, minutes)| Felt {
                lamp: (*lamp).into(),
                kind: kind.parse().unwrap(),
                minutes: *minutes,
                feel: Feel::Hard,
            })
            .collect();
        assert_eq!(nearest(&felt, kind).map(|f| f.minutes), Some(minutes));
        assert_eq!(nearest(&[], kind), None);
    }

    #[rstest]
    #[case(4.0, Feel::Wobbly, 8.0)]
    #[case(4.0, Feel::Tacky, 6.0)]
    #[case(3.0, Feel::Tacky, 4.5)]
    #[case(4.0, Feel::Hard, 4.0)]
    fn what_was_soft_stays_longer(#[case] was: f64, #[case] feel: Feel, #[case] next: f64) {
        assert_eq!(next_minutes(was, feel), next);
    }
}
