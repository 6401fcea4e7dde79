//! The route of a batch: which steps, in which order, for how long, and why.
//!
//! The order is a practice; what is forbidden has a reason in what would go wrong. All minutes are
//! common practice, no source, until the maker changes them.

use super::step::Step;
use crate::workshop::practice::{Practice, Question};
use crate::workshop::resin::{Viscosity, WashAgent};

/// One step of a route.
#[derive(Debug, Clone, PartialEq)]
pub struct RouteStep {
    /// The step.
    pub step: Step,
    /// How long it takes, min.
    pub minutes: f64,
    /// What is to be looked to in it, each a sentence.
    pub notes: Vec<String>,
}

/// What a route is made for.
#[derive(Debug, Clone, PartialEq)]
pub struct RouteAsk {
    /// Copies in the batch.
    pub copies: u64,
    /// Supports touch them at so many places.
    pub contacts: u64,
    /// Copies whose hollow has a way out.
    pub hollow: u64,
    /// Copies with joints that must stay free.
    pub jointed: u64,
    /// What its resin may be washed in.
    pub wash_agents: Vec<WashAgent>,
    /// How thick it flows.
    pub viscosity: Viscosity,
    /// Minutes under the lamp that were hard enough the last time; nothing where nobody said.
    pub cure_minutes: Option<f64>,
}

/// Why an order of steps is not permitted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum RouteFault {
    /// A step stands in it twice.
    #[error("'{0}' stands in it twice: take one out")]
    Twice(Step),
    /// A step is missing.
    #[error("'{0}' is missing: put it in")]
    Missing(Step),
    /// Two steps stand in the wrong order.
    #[error("'{0}' has to come before '{1}': {2}")]
    Order(Step, Step, &'static str),
}

/// What has to come before what, and why. Common practice, no source.
const BEFORE: &[(Step, Step, &str)] = &[
    (
        Step::Drip,
        Step::Wash,
        "resin that drips off is saved, and does not spoil the bath",
    ),
    (
        Step::Drip,
        Step::Remove,
        "what is taken off wet drips on everything",
    ),
    (
        Step::Remove,
        Step::SupportsOff,
        "on the plate nobody gets at the supports",
    ),
    (
        Step::Remove,
        Step::Cure,
        "what is cured on the plate comes off in pieces",
    ),
    (
        Step::Wash,
        Step::Dry,
        "before the wash there is nothing to dry",
    ),
    (
        Step::Wash,
        Step::Cure,
        "resin that is not washed off cures as a skin over the detail",
    ),
    (Step::Dry, Step::Cure, "what is cured wet stays white"),
    (
        Step::Wash,
        Step::Join,
        "liquid resin in the joint would be cured in",
    ),
    (Step::Dry, Step::Join, "wet faces do not hold"),
    (
        Step::SupportsOff,
        Step::Join,
        "supports stand between the faces",
    ),
];

/// Whether this order of steps is permitted.
///
/// # Errors
/// [`RouteFault`], the first one found.
pub fn check_route(steps: &[Step]) -> Result<(), RouteFault> {
    let at = |step: Step| steps.iter().position(|s| *s == step);
    for step in Step::ALL {
        if steps.iter().filter(|s| *s == step).count() > 1 {
            return Err(RouteFault::Twice(*step));
        }
        if step.is_needed() && at(*step).is_none() {
            return Err(RouteFault::Missing(*step));
        }
    }
    for (first, then, why) in BEFORE {
        if let (Some(a), Some(b)) = (at(*first), at(*then))
            && a > b
        {
            return Err(RouteFault::Order(*first, *then, why));
        }
    }
    if let Some(at) = at(Step::Judge)
        && at + 1 < steps.len()
    {
        return Err(RouteFault::Order(
            steps[at + 1],
            Step::Judge,
            "it is the last look",
        ));
    }
    Ok(())
}

/// Minutes to drip off; thick resin runs longer.
fn drip_minutes(viscosity: Viscosity) -> f64 {
    match viscosity {
        Viscosity::Thin => 5.0,
        Viscosity::Medium => 10.0,
        Viscosity::Thick => 20.0,
    }
}

/// What a practice washes in.
fn wished(practice: &Practice) -> WashAgent {
    let word = practice.school(Question::Wash).word;
    word.parse().unwrap_or(WashAgent::Solvent)
}

/// What a resin is washed in: the practice's agent where it permits it, else the first that it does.
#[must_use]
pub fn wash_agent(permitted: &[WashAgent], practice: &Practice) -> WashAgent {
    let wished = wished(practice);
    match permitted.first() {
        Some(first) if !permitted.contains(&wished) => *first,
        _ => wished,
    }
}

/// Seconds to take off one support and to look at one copy.
const CONTACT_S: f64 = 4.0;
const LOOK_S: f64 = 15.0;
/// Minutes to take the parts off a plate, at least.
const REMOVE_MIN: f64 = 5.0;
/// Cured for so long where nobody has said yet, min.
const CURE_MIN: f64 = 4.0;

/// The route that practice, resin and parts ask for.
#[must_use]
pub fn route_for(ask: &RouteAsk, practice: &Practice) -> Vec<RouteStep> {
    let agent = wash_agent(&ask.wash_agents, practice);
    let mut route = route_washed_in(ask, practice, agent);
    let wished = wished(practice);
    if agent != wished
        && let Some(wash) = route.iter_mut().find(|s| s.step == Step::Wash)
    {
        let words = format!("Your practice is {wished}; this resin is for {agent} only.");
        wash.notes.insert(0, words);
    }
    route
}

/// The same washed in this, whatever practice and resin say.
#[must_use]
pub fn route_washed_in(ask: &RouteAsk, practice: &Practice, agent: WashAgent) -> Vec<RouteStep> {
    let supports = ask.contacts > 0;
    let off = practice.school(Question::SupportsOff).word;
    let order: Vec<Step> = match off {
        "before wash" => vec![
            Step::Drip,
            Step::Remove,
            Step::SupportsOff,
            Step::Wash,
            Step::Dry,
            Step::Cure,
            Step::Judge,
        ],
        "after cure" => vec![
            Step::Drip,
            Step::Remove,
            Step::Wash,
            Step::Dry,
            Step::Cure,
            Step::SupportsOff,
            Step::Judge,
        ],
        _ => vec![
            Step::Drip,
            Step::Remove,
            Step::Wash,
            Step::Dry,
            Step::SupportsOff,
            Step::Cure,
            Step::Judge,
        ],
    };
    let step = |step: Step| {
        let (minutes, notes) = of_step(step, ask, agent);
        RouteStep {
            step,
            minutes,
            notes,
        }
    };
    order
        .into_iter()
        .filter(|s| supports || *s != Step::SupportsOff)
        .map(step)
        .collect()
}

fn of_step(step: Step, ask: &RouteAsk, agent: WashAgent) -> (f64, Vec<String>) {
    let copies = ask.copies as f64;
    let mut notes: Vec<String> = Vec::new();
    let mut note = |words: &str| notes.push(words.to_owned());
    let minutes = match step {
        Step::Drip => drip_minutes(ask.viscosity),
        Step::Remove => {
            note("The scraper away from the hand that holds the plate.");
            (REMOVE_MIN + copies * 10.0 / 60.0).round()
        }
        Step::Wash => {
            note(match agent {
                WashAgent::Solvent => "In solvent: the dirty bath first, then the clean one.",
                WashAgent::Water => "In water.",
                WashAgent::Detergent => {
                    "In detergent: brush, and two minutes more in a clean bath."
                }
            });
            note("Small parts in a sieve; count the pieces against the plate afterwards.");
            if ask.hollow > 0 {
                note("Hollow parts: fill and empty them three times, then holes down.");
            }
            if ask.jointed > 0 {
                note("Jointed parts: a clean bath, and move the joints in it.");
            }
            match agent {
                WashAgent::Solvent => 4.0,
                WashAgent::Water => 5.0,
                WashAgent::Detergent => 6.0,
            }
        }
        Step::Dry => {
            if ask.hollow > 0 {
                note("Hollow parts with their holes down.");
            }
            match agent {
                WashAgent::Solvent => 10.0,
                // Common practice, no source: water takes far longer than solvent.
                WashAgent::Water => 45.0,
                WashAgent::Detergent => 20.0,
            }
        }
        Step::SupportsOff => {
            note("Guns, pipes and blades strut by strut; warm water where they are not cured.");
            (ask.contacts as f64 * CONTACT_S / 60.0).ceil().max(1.0)
        }
        Step::Join => (copies * 2.0).max(2.0),
        Step::Cure => {
            note("Turn them over half way; the face they rest on comes last.");
            note("Thin and flat parts on spacers, so that they do not warp.");
            if ask.hollow > 0 {
                note("Hollow parts inside too.");
            }
            if ask.jointed > 0 {
                note("Jointed parts in bursts of 30 s, joints moved between.");
            }
            if agent == WashAgent::Water {
                note("Never under water.");
            }
            ask.cure_minutes.unwrap_or(CURE_MIN)
        }
        Step::Judge => (copies * LOOK_S / 60.0).ceil().max(1.0),
    };
    (minutes, notes)
}

#[cfg(test)]
mod tests {
    use super::super::cautions;
    use super::*;
    use rstest::rstest;
    use std::collections::BTreeMap;

    fn ask() -> RouteAsk {
        RouteAsk {
            copies: 12,
            contacts: 180,
            hollow: 0,
            jointed: 0,
            wash_agents: vec![WashAgent::Solvent],
            viscosity: Viscosity::Medium,
            cure_minutes: None,
        }
    }

    fn practice(question: Question, word: &str) -> Practice {
        Practice::of(
            &BTreeMap::from([(question, word.to_owned())]),
            &BTreeMap::new(),
        )
    }

    fn steps(route: &[RouteStep]) -> Vec<Step> {
        route.iter().map(|s| s.step).collect()
    }

    /// Every school's route keeps the rules, and supports come off where it says.
    #[test]
    fn the_order_is_the_practices() {
        for school in Question::SupportsOff.schools() {
            for contacts in [0, 180] {
                let ask = RouteAsk { contacts, ..ask() };
                let route = steps(&route_for(
                    &ask,
                    &practice(Question::SupportsOff, school.word),
                ));
                assert_eq!(check_route(&route), Ok(()), "{}", school.word);
                let off = route.iter().position(|s| *s == Step::SupportsOff);
                assert_eq!(off.is_some(), contacts > 0);
                if let Some(off) = off {
                    let at = |step| route.iter().position(|s| *s == step).unwrap();
                    assert_eq!(off < at(Step::Wash), school.word == "before wash");
                    assert_eq!(off > at(Step::Cure), school.word == "after cure");
                }
            }
        }
    }

    /// All pairs of steps the wrong way round: refused where there is a reason, else permitted.
    #[test]
    fn an_order_that_spoils_the_parts_is_refused_with_the_reason() {
        use Step as S;
        let whole = [
            S::Drip,
            S::Remove,
            S::Wash,
            S::Dry,
            S::SupportsOff,
            S::Join,
            S::Cure,
            S::Judge,
        ];
        assert_eq!(check_route(&whole), Ok(()));
        // Of neighbours only these may change places.
        let may = [
            (S::Remove, S::Wash),
            (S::Dry, S::SupportsOff),
            (S::Join, S::Cure),
        ];
        for i in 0..whole.len() - 1 {
            let mut other = whole;
            other.swap(i, i + 1);
            let pair = (whole[i], whole[i + 1]);
            assert_eq!(check_route(&other).is_ok(), may.contains(&pair), "{pair:?}");
        }
        // Parts may stay on the plate through wash and dry.
        let on_plate = [
            S::Drip,
            S::Wash,
            S::Dry,
            S::Remove,
            S::SupportsOff,
            S::Cure,
            S::Judge,
        ];
        assert_eq!(check_route(&on_plate), Ok(()));
        let wet = [S::Remove, S::Wash, S::Cure, S::Dry, S::Judge];
        let why = check_route(&wet).unwrap_err().to_string();
        assert_eq!(
            why,
            "'dry' has to come before 'cure': what is cured wet stays white"
        );
    }

    #[rstest]
    #[case(&[Step::Remove, Step::Wash, Step::Judge], RouteFault::Missing(Step::Cure))]
    #[case(&[Step::Remove, Step::Wash, Step::Cure, Step::Cure, Step::Judge], RouteFault::Twice(Step::Cure))]
    #[case(&[Step::Remove, Step::Wash, Step::Judge, Step::Cure], RouteFault::Order(Step::Cure, Step::Judge, "it is the last look"))]
    fn a_route_is_whole(#[case] steps: &[Step], #[case] fault: RouteFault) {
        assert_eq!(check_route(steps), Err(fault));
    }

    /// Over all practices, all that a resin may be washed in, and all steps: what is told of fire, of heat
    /// and of baths is told of the agent that the route washes in, and of no other.
    #[test]
    fn cautions_are_those_of_the_agent_in_use() {
        let mut permitted = vec![vec![]];
        for agent in WashAgent::ALL {
            let with = permitted.clone().into_iter().map(|mut of: Vec<_>| {
                of.push(*agent);
                of
            });
            permitted.extend(with.collect::<Vec<_>>());
        }
        for wished in WashAgent::ALL {
            for agents in &permitted {
                let ask = RouteAsk {
                    wash_agents: agents.clone(),
                    ..ask()
                };
                let practice = practice(Question::Wash, wished.as_str());
                let agent = wash_agent(agents, &practice);
                let free = agents.is_empty() || agents.contains(wished);
                assert_eq!(agent == *wished, free, "{wished} in {agents:?}");
                for step in route_for(&ask, &practice) {
                    let told = cautions::of_step(step.step, agent).join(" ");
                    let [is_wash, is_dry] = [Step::Wash, Step::Dry].map(|s| s == step.step);
                    let solvent = agent == WashAgent::Solvent;
                    assert_eq!(told.contains("Solvent burns"), is_wash && solvent);
                    assert_eq!(told.contains("ultrasonic"), is_wash && solvent);
                    assert_eq!(told.contains("heat gun or hair dryer"), is_dry && solvent);
                    let water = is_wash && agent == WashAgent::Water;
                    assert_eq!(told.contains("Wash water carries resin"), water);
                    let bath = is_wash && agent == WashAgent::Detergent;
                    assert_eq!(told.contains("A used bath is waste"), bath);
                    if is_wash {
                        let named = format!("In {agent}");
                        assert!(step.notes.iter().any(|n| n.starts_with(&named)));
                    }
                }
            }
        }
    }

    /// A resin that is for water only is not washed in solvent, whatever the practice; water dries
    /// longer.
    #[test]
    fn the_resin_decides_what_it_is_washed_in() {
        let water = RouteAsk {
            wash_agents: vec![WashAgent::Water],
            ..ask()
        };
        let minutes = |route: &[RouteStep], step| {
            let found = route.iter().find(|s| s.step == step);
            found.map(|s| (s.minutes, s.notes.join(" "))).unwrap()
        };
        let [usual, other] =
            [ask(), water].map(|a| route_for(&a, &practice(Question::Wash, "solvent")));
        assert!(minutes(&other, Step::Dry).0 > 2.0 * minutes(&usual, Step::Dry).0);
        assert!(
            minutes(&other, Step::Wash)
                .1
                .starts_with("Your practice is solvent; this resin is for water only.")
        );
        assert!(minutes(&other, Step::Cure).1.contains("Never under water"));
        assert!(!minutes(&usual, Step::Wash).1.contains("Your practice"));
    }

    #[test]
    fn hollow_and_jointed_parts_ask_for_more() {
        let of = RouteAsk {
            hollow: 2,
            jointed: 1,
            cure_minutes: Some(6.5),
            ..ask()
        };
        let route = route_for(&of, &practice(Question::Wash, "solvent"));
        let all: String = route.iter().flat_map(|s| &s.notes).cloned().collect();
        for words in [
            "empty them three times",
            "a clean bath",
            "inside too",
            "bursts of 30 s",
        ] {
            assert!(all.contains(words), "{words}");
        }
        let cure = route.iter().find(|s| s.step == Step::Cure).unwrap();
        assert_eq!(cure.minutes, 6.5);
        // 180 contacts at 4 s.
        let off = route.iter().find(|s| s.step == Step::SupportsOff).unwrap();
        assert_eq!(off.minutes, 12.0);
    }
}
