//! Files that bring their own supports.

use super::facts::{LayerFacts, Sculpt, SupportsSaid};

/// Why a file is taken to bring its supports.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BringsSupports {
    /// The maker said so.
    Said,
    /// So many thin columns carry it.
    Columns(i64),
    /// Its name says so.
    Named,
}

/// Columns from which a file brings its own supports.
const COLUMNS: i64 = 3;

/// Whether a file brings its supports, and what tells; its layers are those of the file as it stands,
/// where they are measured.
#[must_use]
pub fn brings_supports(sculpt: &Sculpt, layers: Option<&LayerFacts>) -> Option<BringsSupports> {
    let columns = layers.map_or(0, |l| l.support_columns);
    match sculpt.supports {
        SupportsSaid::Brings => Some(BringsSupports::Said),
        SupportsSaid::Without => None,
        SupportsSaid::Recognised if columns >= COLUMNS => Some(BringsSupports::Columns(columns)),
        SupportsSaid::Recognised => {
            names_supports(&sculpt.file_name).then_some(BringsSupports::Named)
        }
    }
}

impl Sculpt {
    /// How thick the thinnest wall or rod of its figure is by some of its layers, mm; nothing where its file
    /// brings supports, whose tips are what is thinnest about it.
    #[must_use]
    pub fn thinnest_mm(
        &self,
        layers: Option<&LayerFacts>,
        of_file: Option<&LayerFacts>,
    ) -> Option<f64> {
        let own = layers.filter(|_| brings_supports(self, of_file).is_none());
        own.and_then(LayerFacts::thinnest_mm)
    }
}

/// A file name that says it brings supports, in the ways sculptors write it (common practice, no
/// source); "unsupported" and "no supports" say the opposite.
fn names_supports(file_name: &str) -> bool {
    let lower = file_name.to_lowercase();
    let stem = lower.rsplit_once('.').map_or(&*lower, |(stem, _)| stem);
    let words: Vec<&str> = stem
        .split(|c: char| !c.is_alphabetic())
        .filter(|w| !w.is_empty())
        .collect();
    let says = |w: &str| {
        let rest = w.strip_prefix("pre").unwrap_or(w);
        matches!(rest, "supported" | "supports" | "support" | "supp" | "sup")
    };
    let denies = |w: &str| matches!(w, "un" | "no" | "non" | "not" | "without");
    let at = words.iter().position(|w| says(w));
    at.is_some_and(|at| {
        let before = at.checked_sub(1).and_then(|b| words.get(b));
        !before.is_some_and(|w| denies(w))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("Reeve_supported.stl", true)]
    #[case("reeve Pre-Supported (2).STL", true)]
    #[case("presupported-reeve.obj", true)]
    #[case("Reeve_SUP.stl", true)]
    #[case("Reeve v2 with supports.stl", true)]
    #[case("Reeve_unsupported.stl", false)]
    #[case("reeve no supports.stl", false)]
    #[case("Reeve_un-supported.stl", false)]
    #[case("Reeve non supported.3mf", false)]
    #[case("Reeve_nosup.stl", false)]
    #[case("Superior reeve.stl", false)]
    #[case("supper table.stl", false)]
    #[case("Reeve.stl", false)]
    #[case("", false)]
    fn names_tell(#[case] name: &str, #[case] says: bool) {
        assert_eq!(names_supports(name), says);
    }
}
