//! Copies on plates of what was taken away since, in words.

use wembrit_core::ids::PlateId;
use wembrit_store::queries::pages::plans::Orphans;

use super::show::count;

/// A plate that holds copies of what was taken away, in words.
pub(super) fn orphan_words(orphans: &Orphans) -> (PlateId, i64, String) {
    let copies = count(orphans.copies, "copy", "copies");
    let is = if orphans.copies == 1 { "is" } else { "are" };
    let of = orphans.of.join("; ");
    let words = format!(
        "{copies} on it {is} of what was taken away: {of}. Release the plate, or print it and keep them as surplus."
    );
    (orphans.plate, orphans.number, words)
}
