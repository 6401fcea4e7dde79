//! The steps of finishing, and what each of them occupies.

use crate::words::words;

words! {
    /// One step of finishing.
    Step, "step of finishing" {
        /// The plate is tilted over the vat until no resin runs any more.
        Drip = "drip off",
        /// The parts come off the plate.
        Remove = "remove",
        /// They are washed.
        Wash = "wash",
        /// They dry.
        Dry = "dry",
        /// Supports come off.
        SupportsOff = "supports off",
        /// Parts are joined while they are not cured yet.
        Join = "join",
        /// They are cured under the lamp.
        Cure = "cure",
        /// They are looked at.
        Judge = "judge",
    }
}

/// What a step occupies: of a station there is one, and a person has one pair of hands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Station {
    /// A person, from the beginning of the step to its end.
    Hands,
    /// The wash.
    Wash,
    /// The cure lamp.
    Lamp,
    /// Nothing: it takes its time wherever there is room.
    Shelf,
}

impl Step {
    /// What it occupies.
    #[must_use]
    pub const fn station(self) -> Station {
        match self {
            Step::Remove | Step::SupportsOff | Step::Join | Step::Judge => Station::Hands,
            Step::Wash => Station::Wash,
            Step::Cure => Station::Lamp,
            Step::Drip | Step::Dry => Station::Shelf,
        }
    }

    /// It goes on while nobody is there, and ends by the clock.
    #[must_use]
    pub const fn rests(self) -> bool {
        !matches!(self.station(), Station::Hands)
    }

    /// What is done, as an instruction.
    #[must_use]
    pub const fn order(self) -> &'static str {
        match self {
            Step::Drip => "Tilt the plate and let it drip off",
            Step::Remove => "Remove the parts from the plate",
            Step::Wash => "Wash",
            Step::Dry => "Let them dry",
            Step::SupportsOff => "Take the supports off",
            Step::Join => "Join",
            Step::Cure => "Cure",
            Step::Judge => "Judge",
        }
    }

    /// A step that no route can do without.
    #[must_use]
    pub const fn is_needed(self) -> bool {
        matches!(self, Step::Remove | Step::Wash | Step::Cure | Step::Judge)
    }
}
