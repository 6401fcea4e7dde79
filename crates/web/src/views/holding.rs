//! What holds a part to its supports.

use wembrit_core::recipe::supports::Holding;

use super::show::{count, tenth};

/// What holds a part, in words.
pub(crate) struct HoldingView {
    pub(crate) tips: String,
    pub(crate) per_disc: String,
    pub(crate) grams: String,
    /// What to do, where it is doubtful.
    pub(crate) doubt: Option<String>,
}

impl HoldingView {
    pub(super) fn new(holding: &Holding) -> Self {
        let doubt = || {
            if holding.can_tip() {
                let holds = count(holding.contacts as u64, "contact holds", "contacts hold");
                return format!(
                    "{holds} it: on fewer than three it can tip. More contacts, or another orientation."
                );
            }
            format!(
                "{} hold it against a pull of {:.2} discs, {:.0} mm² for each: it may tear off. About {} of that tip would do, or thicker ones, or another orientation.",
                count(holding.contacts as u64, "contact", "contacts"),
                holding.pull,
                holding.mm2_per_disc(),
                holding.contacts_wanted()
            )
        };
        Self {
            tips: tenth(holding.tips_mm2),
            per_disc: format!("{:.0}", holding.mm2_per_disc()),
            grams: tenth(holding.grams),
            doubt: holding.is_doubtful().then(doubt),
        }
    }
}
