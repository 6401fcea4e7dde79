//! The maker's choice among schools: questions, the answers there are, and what each costs.

use std::collections::BTreeMap;

use crate::words::words;

words! {
    /// Something makers do in different ways.
    Question, "question of practice" {
        /// How figures hang from the plate.
        Tilt = "tilt",
        /// Whether a figure is printed on its base.
        Base = "base",
        /// What prints are washed in.
        Wash = "wash",
        /// When supports come off.
        SupportsOff = "supports off",
        /// Whether small figures are hollowed.
        Hollow = "hollow",
        /// What is printed first.
        Order = "order",
        /// How the copies of a unit are spread over plates.
        Spread = "spread",
        /// How many copies of an untried recipe are planned.
        Untried = "untried",
    }
}

/// One way of doing it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct School {
    /// The word it is stored under.
    pub word: &'static str,
    /// What it is good for.
    pub good_for: &'static str,
    /// What it costs.
    pub costs: &'static str,
    /// A caution that belongs to it, or nothing.
    pub caution: &'static str,
}

const fn school(
    word: &'static str,
    good_for: &'static str,
    costs: &'static str,
    caution: &'static str,
) -> School {
    School {
        word,
        good_for,
        costs,
        caution,
    }
}

impl Question {
    /// What is asked.
    #[must_use]
    pub const fn asks(self) -> &'static str {
        match self {
            Question::Tilt => "How do standing figures hang from the plate?",
            Question::Base => "Are bases printed with the figure?",
            Question::Wash => "What do you wash in?",
            Question::SupportsOff => "When do supports come off?",
            Question::Hollow => "Do you hollow small figures?",
            Question::Order => "What is finished first?",
            Question::Spread => "How is a unit spread over plates?",
            Question::Untried => "How many copies of an untried recipe does a plan take?",
        }
    }

    /// The answers, the assumed one first. All of it common practice, no source, but the tilted
    /// section: a circle cut at 45° is longer by 1/cos 45°.
    #[must_use]
    pub const fn schools(self) -> &'static [School] {
        match self {
            Question::Tilt => TILT,
            Question::Base => BASE,
            Question::Wash => WASH,
            Question::SupportsOff => SUPPORTS_OFF,
            Question::Hollow => HOLLOW,
            Question::Order => ORDER,
            Question::Spread => SPREAD,
            Question::Untried => UNTRIED,
        }
    }

    /// The school of this word.
    #[must_use]
    pub fn school(self, word: &str) -> Option<&'static School> {
        self.schools().iter().find(|s| s.word == word)
    }

    /// What is assumed until the maker says otherwise.
    #[must_use]
    pub fn assumed(self) -> &'static School {
        &self.schools()[0]
    }
}

const BASES_APART: &str = "apart";
const UPRIGHT: &str = "upright";
const TILTED: &str = "tilted 30 to 45°";

const TILT: &[School] = &[
    school(
        UPRIGHT,
        "small sections, little pull, the least height lost to supports",
        "layer lines show on shallow slopes; flat starts need a look",
        "",
    ),
    school(
        TILTED,
        "softer layer lines, no large flat start",
        "every section is longer (1.41 times at 45°), so more pull; more supports, and more to cut away",
        "",
    ),
    school(
        "as each file asks",
        "vehicles, beasts and busts, that follow neither rule",
        "a look at every sculpt before its first print",
        "",
    ),
];
const BASE: &[School] = &[
    school(
        BASES_APART,
        "less pull and height under the figure; bases fill gaps on other plates",
        "one more part to keep and to glue; a loose base can stick to the film",
        "",
    ),
    school(
        "joined",
        "nothing to glue, feet stand where the sculptor put them",
        "a large flat section, more height, more pull",
        "",
    ),
];
const WASH: &[School] = &[
    school(
        "solvent",
        "clean detail in minutes, dries by itself",
        "baths to keep and to dispose of",
        "It burns: no flame or spark, lid closed, never in an ultrasonic cleaner. Its data sheet and local rules come first.",
    ),
    school(
        "water",
        "no fumes; only for resin made for it",
        "long drying; the water is waste like any other wash",
        "Wash water carries resin: contain it, label it, never down a drain.",
    ),
    school(
        "detergent",
        "does not burn or evaporate",
        "brushing, a second bath, wiping dry",
        "Its data sheet says what it may touch; used baths are waste.",
    ),
];
const SUPPORTS_OFF: &[School] = &[
    school(
        "before cure",
        "soft supports come away in warm water and mark little",
        "handling uncured parts: gloves throughout",
        "Parts are not cured yet: gloves on.",
    ),
    school(
        "before wash",
        "the least solvent is spent on supports",
        "the messiest way; resin still runs",
        "Liquid resin is on everything: gloves and eye protection on.",
    ),
    school(
        "after cure",
        "parts are hard and clean to hold",
        "thin parts snap more often; clippers leave pips",
        "Chips fly: eye protection on.",
    ),
];
/// The school that hollows no small figures.
const KEEPS_SOLID: &str = "solid";

const HOLLOW: &[School] = &[
    school(
        KEEPS_SOLID,
        "nothing can leak or burst; small figures are tougher",
        "more resin and more pull where sections are thick",
        "",
    ),
    school(
        "hollow above a size",
        "saves resin where it counts: beasts, hulls, terrain",
        "two drains at least for each, washing and curing inside",
        "A hollow without a way out keeps liquid resin, which swells, splits the wall and leaks.",
    ),
];
const ORDER: &[School] = &[
    school(
        "unit by unit",
        "something is fit for the table early",
        "plates mix heights less well: more hours in all",
        "",
    ),
    school(
        "all at once",
        "tall with tall over the whole army: fewest hours",
        "no unit is complete until late",
        "",
    ),
];
/// The school that never has a whole unit on one plate.
const APART: &str = "half of it on a plate at most";
/// What the school of keeping units together gives for every plate a unit is spared, s.
const TOGETHER_S: f64 = 20.0 * 60.0;
/// The school that keeps units together.
const TOGETHER: &str = "together where it costs little";

const SPREAD: &[School] = &[
    school(
        TOGETHER,
        "arms that look alike come off few plates: less sorting",
        "up to 20 minutes of printing for each plate that a unit is spared",
        "",
    ),
    school(
        "wherever there is room",
        "the fewest hours",
        "look-alike parts of many units on every plate",
        "",
    ),
    school(
        APART,
        "a lost plate is never the whole unit",
        "every unit comes from two plates at least, so it is complete later",
        "",
    ),
];

/// Most copies of an untried recipe where they are held back.
pub const UNTRIED_COPIES: u64 = 2;
/// The school that holds untried recipes back.
const FEW_FIRST: &str = "two until it is proven";

const UNTRIED: &[School] = &[
    school(
        "as many as are wanted",
        "one plan takes the whole army",
        "a start nobody looked at is lost by the dozen",
        "",
    ),
    school(
        FEW_FIRST,
        "a mistake costs two copies, not forty",
        "the rest waits for another plan",
        "",
    ),
];

/// Where an answer comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AnsweredBy {
    /// Nobody has answered: the usual one is assumed.
    Assumed,
    /// The workshop's answer.
    Workshop,
    /// The project's own answer.
    Project,
}

/// The maker's answers, one to every question, and what they mean for the work.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Practice(BTreeMap<Question, (&'static School, AnsweredBy)>);

impl Practice {
    /// From the words a workshop and a project have answered with; a word nobody knows is no
    /// answer.
    #[must_use]
    pub fn of(workshop: &BTreeMap<Question, String>, project: &BTreeMap<Question, String>) -> Self {
        let known = |answers: &BTreeMap<Question, String>, q: Question| {
            answers.get(&q).and_then(|word| q.school(word))
        };
        let answer = |q: &Question| match (known(project, *q), known(workshop, *q)) {
            (Some(school), _) => (*q, (school, AnsweredBy::Project)),
            (None, Some(school)) => (*q, (school, AnsweredBy::Workshop)),
            (None, None) => (*q, (q.assumed(), AnsweredBy::Assumed)),
        };
        Self(Question::ALL.iter().map(answer).collect())
    }

    /// Every question with its answer and who gave it.
    pub fn answers(&self) -> impl Iterator<Item = (Question, &'static School, AnsweredBy)> {
        self.0.iter().map(|(q, (school, by))| (*q, *school, *by))
    }

    /// The answer to a question.
    #[must_use]
    pub fn school(&self, question: Question) -> &'static School {
        self.0.get(&question).map_or(question.assumed(), |a| a.0)
    }

    fn is(&self, question: Question, word: &str) -> bool {
        self.school(question).word == word
    }

    /// One unit is finished before the next; the other school takes tall with tall over the whole
    /// army: then no unit goes first.
    #[must_use]
    pub fn unit_first(&self) -> bool {
        self.school(Question::Order) == Question::Order.assumed()
    }

    /// What it is worth to have a unit on one plate fewer, s.
    #[must_use]
    pub fn together_s(&self) -> f64 {
        if self.is(Question::Spread, TOGETHER) {
            TOGETHER_S
        } else {
            0.0
        }
    }

    /// No plate takes more than half of a unit.
    #[must_use]
    pub fn keeps_apart(&self) -> bool {
        self.is(Question::Spread, APART)
    }

    /// Most copies planned of a recipe that is not proven; nothing where there is no limit.
    #[must_use]
    pub fn unproven_copies(&self) -> Option<u64> {
        self.is(Question::Untried, FEW_FIRST)
            .then_some(UNTRIED_COPIES)
    }

    /// Small figures stay solid.
    #[must_use]
    pub fn keeps_solid(&self) -> bool {
        self.is(Question::Hollow, KEEPS_SOLID)
    }

    /// Bases are printed apart from their figures.
    #[must_use]
    pub fn prints_bases_apart(&self) -> bool {
        self.is(Question::Base, BASES_APART)
    }

    /// Figures hang upright.
    #[must_use]
    pub fn hangs_upright(&self) -> bool {
        self.is(Question::Tilt, UPRIGHT)
    }

    /// Figures hang tilted by 30 to 45°.
    #[must_use]
    pub fn hangs_tilted(&self) -> bool {
        self.is(Question::Tilt, TILTED)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_question_has_schools_with_reasons_for_and_against() {
        for question in Question::ALL {
            let schools = question.schools();
            assert!(schools.len() >= 2, "{question}");
            for school in schools {
                assert!(!school.good_for.is_empty() && !school.costs.is_empty());
                assert_eq!(question.school(school.word), Some(school));
            }
            assert_eq!(question.school("by moonlight"), None);
        }
    }

    #[test]
    fn the_figures_of_the_schools_are_what_the_planner_takes() {
        let minutes = format!("{} minutes", TOGETHER_S / 60.0);
        assert!(Question::Spread.schools()[0].costs.contains(&minutes));
        assert_eq!(Question::Untried.schools()[1].word, FEW_FIRST);
        assert!(FEW_FIRST.starts_with("two") && UNTRIED_COPIES == 2);
    }

    /// 1/cos 45° is √2.
    #[test]
    fn the_figure_of_the_tilted_school_is_the_secant() {
        let costs = Question::Tilt.schools()[1].costs;
        assert!(costs.contains(&format!(
            "{:.2} times at 45°",
            1.0 / 45f64.to_radians().cos()
        )));
    }

    #[test]
    fn a_project_answers_before_the_workshop_and_an_unknown_word_not_at_all() {
        let said = |q: Question, word: &str| BTreeMap::from([(q, word.to_owned())]);
        let nobody = BTreeMap::new();
        let assumed = Practice::of(&nobody, &nobody);
        assert!(assumed.unit_first() && assumed.hangs_upright() && !assumed.hangs_tilted());
        assert!(assumed.answers().all(|a| a.2 == AnsweredBy::Assumed));
        let tilted = Practice::of(&said(Question::Tilt, TILTED), &nobody);
        assert!(tilted.hangs_tilted());
        let own = Practice::of(
            &said(Question::Tilt, TILTED),
            &said(Question::Tilt, UPRIGHT),
        );
        assert!(own.hangs_upright());
        assert_eq!(
            Practice::of(&said(Question::Tilt, "sideways"), &nobody),
            assumed
        );
        let apart = Practice::of(&said(Question::Spread, APART), &nobody);
        assert!(apart.keeps_apart() && apart.together_s() == 0.0);
    }
}
