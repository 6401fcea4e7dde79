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
                    "Only {holds} this part, so it can tip over while it prints. Add contacts, or choose another orientation."
                );
            }
            format!(
                "This part may tear off its supports: its tips are {:.1} times what usually holds such a pull. Choose an orientation that pulls less, or thicker tips.",
                holding.times_enough(),
            )
        };
        Self {
            tips: tenth(holding.tips_mm2),
            per_disc: format!("{:.1}", holding.mm2_per_disc()),
            grams: tenth(holding.grams),
            doubt: holding.is_doubtful().then(doubt),
        }
    }
}
