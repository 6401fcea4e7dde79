//! What a page that waits for a measure says, and fetches again until nothing is open.

use askama::Template;

/// A live piece of a page: it is under way, or done.
#[derive(Template)]
#[template(path = "waiting.html")]
pub(crate) struct Waiting {
    words: &'static str,
    open: bool,
}

impl Waiting {
    /// A sculpt is being measured.
    pub(crate) const fn of_sculpt(open: bool) -> Self {
        let words = "It is being measured; this page shows the figures when they are there.";
        Self { words, open }
    }

    /// A part is being measured as its recipe holds it.
    pub(crate) const fn of_recipe(open: bool) -> Self {
        let words = "It is being measured as it hangs; the figures come by themselves.";
        Self { words, open }
    }

    /// The variants of a trial are.
    pub(crate) const fn of_trial(open: bool) -> Self {
        let words = "Variants are being measured as they hang.";
        Self { words, open }
    }
}
