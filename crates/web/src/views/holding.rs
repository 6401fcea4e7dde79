//! What holds a part to its supports.

use wembrit_core::recipe::supports::{Holding, HoldingLimit};

use super::show::{count, tenth};

/// What holds a part, in words.
pub(crate) struct HoldingView {
    pub(crate) tips: String,
    pub(crate) per_disc: String,
    pub(crate) grams: String,
    /// Against what holds here, or usually.
    pub(crate) times: String,
    /// What to do, where it is doubtful.
    pub(crate) doubt: Option<String>,
}

impl HoldingView {
    pub(super) fn new(holding: &Holding, limit: &HoldingLimit) -> Self {
        let what = if limit.plates > 0 {
            "what has held here before"
        } else {
            "what usually holds"
        };
        let times = holding.times_enough(limit);
        let times = if times > 10.0 {
            format!("more than ten times {what}")
        } else {
            format!("{times:.1} times {what}")
        };
        let doubt = || {
            if holding.can_tip() {
                let holds = count(holding.contacts as u64, "contact holds", "contacts hold");
                return format!(
                    "Only {holds} this part, so it can tip over while it prints. Add contacts, or choose another orientation."
                );
            }
            if holding.pulls_too_hard() {
                return format!(
                    "This part may tear off its supports: its hardest layer pulls {:.0} times as hard as a disc of 20 mm, and no number of tips is sure to hold that. Choose an orientation that pulls less.",
                    holding.pull
                );
            }
            format!(
                "This part may tear off its supports: its tips are {times}. Choose an orientation that pulls less, or thicker tips."
            )
        };
        Self {
            tips: tenth(holding.tips_mm2),
            per_disc: format!("{:.1}", holding.mm2_per_disc()),
            grams: tenth(holding.grams),
            doubt: holding.is_doubtful(limit).then(doubt),
            times,
        }
    }
}
