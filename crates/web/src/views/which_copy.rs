//! A copy of a plate to be named in a form.

use askama::Template;
use wembrit_core::ids::PlateId;

/// A list of copies by their numbers; where it would be longer than anybody looks through, the number itself.
#[derive(Template)]
#[template(path = "plates/which_copy.html")]
pub(crate) struct WhichCopy {
    /// What the field is known by on its page.
    pub(super) id: &'static str,
    /// What it is called in the form.
    pub(super) field: &'static str,
    /// What is said where none is named yet; empty where the first is.
    pub(super) none: &'static str,
    /// The plate whose sorting sheet shows the numbers, once it has one.
    pub(super) sorting: Option<PlateId>,
    /// Numbers and names.
    pub(super) copies: Vec<(i64, String)>,
    /// What was typed, where it was refused.
    pub(crate) typed: String,
}

/// Copies up to which they are listed.
const LISTED: usize = 60;

impl WhichCopy {
    pub(crate) fn is_empty(&self) -> bool {
        self.copies.is_empty()
    }

    fn is_listed(&self) -> bool {
        self.copies.len() <= LISTED
    }

    /// The least and the greatest number.
    fn range(&self) -> (i64, i64) {
        let numbers = || self.copies.iter().map(|(number, _)| *number);
        (numbers().min().unwrap_or(0), numbers().max().unwrap_or(0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// A list while it is short; else a number, with where to read it.
    #[rstest]
    #[case::short(
        60,
        Some(PlateId(3)),
        r#"<option value="519">rook, mark 519</option>"#,
        "sorting"
    )]
    #[case::long(
        61,
        Some(PlateId(3)),
        "its mark, 500 to 560, as on the <a href=\"/plates/3/sorting\">",
        "<option"
    )]
    #[case::of_a_draft(61, None, "its number; click it in the plan", "<a ")]
    fn a_copy_is_named(
        #[case] copies: i64,
        #[case] sorting: Option<PlateId>,
        #[case] says: &str,
        #[case] never: &str,
    ) {
        let all = (500..500 + copies).map(|n| (n, format!("rook, mark {n}")));
        let field = WhichCopy {
            id: "broke",
            field: "mark",
            none: "",
            sorting,
            copies: all.collect(),
            typed: String::new(),
        };
        let page = field.to_string();
        assert!(
            page.contains(says) && page.contains("name=\"mark\""),
            "{page}"
        );
        assert!(!page.contains(never), "{page}");
    }
}
