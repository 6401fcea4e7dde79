//! A cost, opened into its components and what each is reckoned from.

use crate::currency::Amount;
use wembrit_core::cost::{Basis, Opened, Term};
use wembrit_core::cost_parts::{CostKind, CostParts};

use super::show;

/// A component: what it is, what it comes to, and from what.
pub(crate) struct OpenedRow {
    pub(crate) kind: CostKind,
    pub(crate) amount: String,
    /// How it is reckoned; empty where that was not kept.
    pub(crate) words: String,
}

/// `105.2 ml × 0.0441 a ml`.
fn term(of: &Term) -> String {
    let much = show::some(of.much);
    format!(
        "{much} {} × {} a {}",
        of.of,
        show::price(of.each_minor),
        of.a
    )
}

/// The components of a cost with what each is reckoned from, where that was kept.
pub(crate) fn opened(cost: &CostParts, basis: Option<&Basis>) -> Vec<OpenedRow> {
    let all = basis.map(Basis::opened).unwrap_or_default();
    let words = |kind: CostKind| {
        let found = all.iter().find(|o: &&Opened| o.kind == kind);
        let terms = found.map(|o| o.terms.iter().map(term).collect::<Vec<_>>());
        terms.unwrap_or_default().join(" + ")
    };
    cost.each()
        .map(|(kind, amount)| OpenedRow {
            kind,
            amount: amount.written(),
            words: words(kind),
        })
        .collect()
}
