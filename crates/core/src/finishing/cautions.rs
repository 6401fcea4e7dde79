//! Cautions, where they apply. The resin's safety data sheet, local rules and qualified people come
//! before anything said here.

use super::step::Step;
use crate::workshop::resin::WashAgent;

/// What a step asks to mind.
#[must_use]
pub fn of_step(step: Step, agent: WashAgent) -> Vec<&'static str> {
    match step {
        Step::Drip => vec![GLOVES, AIR],
        Step::Remove => vec![
            GLOVES,
            "Scrapers and hardened edges cut: work away from the hand.",
        ],
        Step::Wash => {
            let mut all = vec![GLOVES, AIR];
            match agent {
                WashAgent::Solvent => all.extend([
                    "Solvent burns: no flame or spark near it, the lid closed.",
                    "Never solvent in an ultrasonic cleaner.",
                ]),
                WashAgent::Water => {
                    all.push("Wash water carries resin: contain it, label it, let it not stand open to children or pets.");
                }
                WashAgent::Detergent => all.push("A used bath is waste like any other wash."),
            }
            all.push(DRAIN);
            all
        }
        Step::Dry => match agent {
            WashAgent::Solvent => vec![
                AIR,
                "No heat gun or hair dryer on what is wet with solvent.",
            ],
            _ => vec![GLOVES],
        },
        Step::SupportsOff => vec![
            "Gloves until the parts are cured; eye protection: chips fly.",
            "Crumbs of resin are waste too: gather them, cure them.",
        ],
        Step::Join => vec![
            GLOVES,
            "A torch for curing harms eyes: look away, or wear the glasses made for it.",
        ],
        Step::Cure => vec![
            "UV light harms eyes: the lid closed.",
            "Keep open resin out of its light.",
        ],
        Step::Judge => vec![],
    }
}

const GLOVES: &str =
    "Gloves and eye protection: uncured resin irritates skin and can sensitise it.";
const AIR: &str = "Air drawn outside, or through a carbon filter.";
const DRAIN: &str =
    "Neither resin nor wash goes down a drain: cure what is left, then as local rules say.";

/// Everything, for the page of cautions.
pub const ALL: &[(&str, &[&str])] = &[
    (
        "Skin, eyes and breath",
        &[
            GLOVES,
            "Resin on the skin: wash at once with soap and water.",
            AIR,
            "A respirator where the air is not enough.",
            "Children and pets stay out of the room.",
        ],
    ),
    (
        "Fire and light",
        &[
            "Solvent burns: no flame or spark near it, the lid closed, never in an ultrasonic cleaner.",
            "No heat gun or hair dryer on what is wet with solvent.",
            "UV light harms eyes.",
            "Keep open resin out of the sun and of UV torches.",
        ],
    ),
    (
        "Waste",
        &[
            DRAIN,
            "Wash water left to evaporate is contained and labelled; nothing is hosed off outdoors.",
            "What is used up is cured before it goes into the bin, as local rules say.",
        ],
    ),
    (
        "Hands and tools",
        &[
            "Scrapers and hardened chips cut: work away from the hand.",
            "To loosen parts by cold: sealed, and never in a freezer for food.",
            "What is worn on the body needs a barrier to the skin.",
        ],
    ),
];

#[cfg(test)]
mod tests {
    use super::*;

    /// Each step says its own, nothing twice, and fire is spoken of where there is solvent.
    #[test]
    fn every_step_has_its_own() {
        for step in Step::ALL {
            for agent in WashAgent::ALL {
                let all = of_step(*step, *agent);
                let mut once = all.clone();
                once.sort_unstable();
                once.dedup();
                assert_eq!(once.len(), all.len());
                let burns = all.iter().any(|w| w.contains("burns"));
                assert_eq!(burns, *step == Step::Wash && *agent == WashAgent::Solvent);
            }
        }
    }
}
