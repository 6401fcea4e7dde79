//! What becomes of a copy when somebody looks at it.

use super::causes::{FailedAt, FailureCause};
use super::copy::next_stage;
use super::error::FlowError;
use super::states::{CopyEvent, Stage};

/// What somebody says of a copy.
#[derive(Debug, Clone, PartialEq)]
pub enum Judgement {
    /// Fit for building.
    Good,
    /// Of no use.
    Failed {
        /// Why.
        cause: FailureCause,
        /// Where on its way, where that is known.
        at: Option<FailedAt>,
        /// At which layer, where that is known.
        layer: Option<i64>,
        /// Anything worth remembering.
        note: String,
    },
    /// It can be mended; later it is good or failed.
    ToMend {
        /// What is to be done.
        what: String,
        /// How long that should take, min.
        minutes: Option<f64>,
    },
    /// It is not there: the vat is searched.
    Missing,
}

impl Judgement {
    /// Where a copy stands after it. What is to be mended or looked for stays where it is, with a
    /// mark on it.
    ///
    /// # Errors
    /// [`FlowError`] for a copy that cannot be judged so.
    pub fn stage_after(&self, from: Stage) -> Result<Stage, FlowError> {
        match self {
            Judgement::Good => next_stage(from, CopyEvent::Pass),
            Judgement::Failed { .. } => next_stage(from, CopyEvent::Fail),
            // Only what has come off and is not judged can be either.
            Judgement::ToMend { .. } | Judgement::Missing => {
                next_stage(from, CopyEvent::Pass).map(|_| from)
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every stage with every judgement.
    #[test]
    fn only_what_came_off_is_judged() {
        let failed = Judgement::Failed {
            cause: FailureCause::Warped,
            at: None,
            layer: None,
            note: String::new(),
        };
        let mend = Judgement::ToMend {
            what: "straighten it in hot water".into(),
            minutes: Some(3.0),
        };
        for from in Stage::ALL {
            let after = |j: &Judgement| j.stage_after(*from).ok();
            let off = *from == Stage::InFinishing;
            assert_eq!(
                after(&Judgement::Good),
                off.then_some(Stage::Good),
                "{from}"
            );
            assert_eq!(after(&mend), off.then_some(*from), "{from}");
            assert_eq!(after(&Judgement::Missing), off.then_some(*from), "{from}");
            let may_fail = matches!(
                from,
                Stage::Printing | Stage::InFinishing | Stage::Good | Stage::Surplus
            );
            assert_eq!(after(&failed), may_fail.then_some(Stage::Failed), "{from}");
        }
    }
}
