//! What a failure looks like, what usually did it, in the order in which it is looked for, and what
//! to change. Common practice, no source.

use super::causes::FailureCause;

/// One possible reason of a failure.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Reason {
    /// What to look for.
    pub check: &'static str,
    /// What to change where it is so.
    pub change: &'static str,
}

/// What is known of a cause.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CauseCard {
    /// What it looks like.
    pub looks: &'static str,
    /// What usually did it: the likeliest first.
    pub reasons: &'static [Reason],
}

const fn reason(check: &'static str, change: &'static str) -> Reason {
    Reason { check, change }
}

/// Reasons that live as long as the program.
macro_rules! reasons {
    ($($one:expr),+ $(,)?) => {{
        const ALL: &[Reason] = &[$($one),+];
        ALL
    }};
}

const LEVEL: Reason = reason("the plate hangs askew", "level the plate anew");
const BOTTOM_LONGER: Reason = reason(
    "the first layers are too short",
    "add a third to the bottom exposure",
);
const EXPOSE_MORE: Reason = reason(
    "the exposure is too short",
    "add a tenth to the exposure and print the test piece",
);
const EXPOSE_LESS: Reason = reason(
    "the exposure is too long",
    "take a tenth off the exposure and print the test piece",
);
const WARM: Reason = reason("the room was cold", "warm the room before the start");
const MORE_SUPPORTS: Reason = reason(
    "few or thin tips where it hung",
    "more tips at the heaviest sections",
);
const LESS_PULL: Reason = reason(
    "a large section pulls there",
    "turn it so that its sections are smaller",
);
const STRAIN: Reason = reason(
    "bits or a skin in the resin",
    "strain the resin and shake it before the start",
);

impl FailureCause {
    /// What is known of it.
    #[must_use]
    pub const fn card(self) -> CauseCard {
        let (looks, reasons): (&'static str, &'static [Reason]) = match self {
            FailureCause::NothingOnPlate => (
                "The plate, or this place of it, comes up empty; a flat cake lies on the film.",
                reasons![LEVEL, BOTTOM_LONGER, WARM],
            ),
            FailureCause::StuckToFilm => (
                "Part of it hangs on the plate, the rest lies flat on the film.",
                reasons![
                    LESS_PULL,
                    MORE_SUPPORTS,
                    reason("the film is cloudy or loose", "tighten or change the film"),
                ],
            ),
            FailureCause::TornOff => (
                "The supports stand, the part is gone from them or hangs by a few.",
                reasons![MORE_SUPPORTS, LESS_PULL, EXPOSE_MORE],
            ),
            FailureCause::MissingFeature => (
                "A blade, a hand, the tip of a cloak is simply not there.",
                reasons![
                    reason("it starts in mid-air", "a tip under where it starts"),
                    MORE_SUPPORTS,
                ],
            ),
            FailureCause::Fused => (
                "Joints do not move, gaps are closed.",
                reasons![
                    EXPOSE_LESS,
                    reason(
                        "the scale is small for its gaps",
                        "print it larger, or joints apart"
                    ),
                ],
            ),
            FailureCause::SoftDetail => (
                "Edges are round, faces are blurred.",
                reasons![
                    EXPOSE_MORE,
                    WARM,
                    reason("layers are coarse", "a finer layer height")
                ],
            ),
            FailureCause::Warped => (
                "It is bent, a straight edge is not.",
                reasons![
                    reason(
                        "it lay askew while it was cured",
                        "spacers under it, turned half way"
                    ),
                    reason(
                        "it is thin and stood far from its supports",
                        "more tips along its length"
                    ),
                ],
            ),
            FailureCause::BrokenAtRemoval => (
                "It snapped when it came off the plate.",
                reasons![
                    reason(
                        "the first layers hold too well",
                        "take a fifth off the bottom exposure"
                    ),
                    reason(
                        "the scraper came under a thin part",
                        "begin at the raft's edge"
                    ),
                ],
            ),
            FailureCause::BrokenAtSupports => (
                "A thin part went with its support.",
                reasons![
                    reason(
                        "supports came off a cured part",
                        "take supports off before the cure, in warm water"
                    ),
                    reason("tips are wide on thin parts", "thinner tips there"),
                ],
            ),
            FailureCause::Residue => (
                "White film, sticky faces.",
                reasons![
                    reason("the bath is full of resin", "change the bath"),
                    reason("it was cured wet", "dry it longer"),
                ],
            ),
            FailureCause::Leaking => (
                "Liquid weeps out, or the wall has cracked.",
                reasons![
                    reason(
                        "its hollow has no second way out",
                        "two drains at least, at its ends"
                    ),
                    reason(
                        "it was not cured inside",
                        "fill and empty it in the wash, cure it inside"
                    ),
                ],
            ),
            FailureCause::WrongSize => (
                "It does not fit its base or its sister parts.",
                reasons![reason(
                    "its scale is not that of the other parts",
                    "one scale for the whole model"
                )],
            ),
            FailureCause::OutOfResin => (
                "The last layers are thin or missing.",
                reasons![reason(
                    "the vat held less than the plate takes",
                    "fill up before the start"
                )],
            ),
            FailureCause::Debris => (
                "Crumbs in the surface, a dent on the film.",
                reasons![
                    STRAIN,
                    reason(
                        "nobody looked into the vat between runs",
                        "look into the vat between runs"
                    )
                ],
            ),
            FailureCause::Other | FailureCause::Unsaid => ("", &[]),
        };
        CauseCard { looks, reasons }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every cause that has a name says what it looks like and what to try first.
    #[test]
    fn every_cause_has_a_card() {
        for cause in FailureCause::ALL {
            let card = cause.card();
            let named = !matches!(cause, FailureCause::Other | FailureCause::Unsaid);
            assert_eq!(!card.looks.is_empty(), named, "{cause}");
            assert_eq!(!card.reasons.is_empty(), named, "{cause}");
            for reason in card.reasons {
                assert!(!reason.check.is_empty() && !reason.change.is_empty());
            }
        }
    }
}
