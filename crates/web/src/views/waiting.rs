//! What a page that waits for a measure says, and fetches again until nothing is open.

use askama::Template;

use super::show;

/// A live piece of a page: it is under way, or done.
#[derive(Template)]
#[template(path = "waiting.html")]
pub(crate) struct Waiting {
    words: &'static str,
    open: bool,
    /// How long it will take; empty where nobody knows.
    about: String,
}

impl Waiting {
    const fn new(words: &'static str, open: bool) -> Self {
        let about = String::new();
        Self { words, open, about }
    }

    /// A sculpt is being measured.
    pub(crate) const fn of_sculpt(open: bool) -> Self {
        let words = "It is being measured; this page shows the figures when they are there";
        Self::new(words, open)
    }

    /// A part is being measured as its recipe holds it.
    pub(crate) const fn of_recipe(open: bool) -> Self {
        let words = "It is being measured as it hangs; the figures come by themselves";
        Self::new(words, open)
    }

    /// The variants of a trial are.
    pub(crate) const fn of_trial(open: bool) -> Self {
        let words = "Variants are being measured as they hang";
        Self::new(words, open)
    }

    /// With how long all that is before it takes, s, where that is known.
    pub(crate) fn about(self, seconds: Option<f64>) -> Self {
        let about = seconds.map_or_else(String::new, show::about);
        Self { about, ..self }
    }
}
