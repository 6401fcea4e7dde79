//! The stages of a copy, and the only ways from one to the next.

use super::causes::FailedAt;
use super::error::FlowError;
use super::states::{CopyEvent, Stage};
use crate::geometry::Point;
use crate::ids::{CopyId, PartId, PlateId};

/// Where a copy stands after an event.
///
/// # Errors
/// [`FlowError::Copy`] when the event does not apply to a copy in that stage.
pub fn next_stage(from: Stage, event: CopyEvent) -> Result<Stage, FlowError> {
    use CopyEvent as E;
    use Stage as S;
    match (from, event) {
        (S::Planned, E::Start) => Ok(S::Printing),
        (S::Planned, E::Release) => Ok(S::Released),
        (S::Printing, E::Finish) => Ok(S::InFinishing),
        (S::InFinishing, E::Pass) => Ok(S::Good),
        (S::Printing | S::InFinishing | S::Good | S::Surplus, E::Fail) => Ok(S::Failed),
        (S::Good | S::Failed | S::Surplus, E::Rejudge) => Ok(S::InFinishing),
        (S::Good, E::SetAside) => Ok(S::Surplus),
        (S::Surplus, E::Recall) => Ok(S::Good),
        (S::Printing, E::PutBack) | (S::Failed, E::Recount) => Ok(S::Planned),
        (from, event) => Err(FlowError::Copy { from, event }),
    }
}

/// One physical printed piece.
#[derive(Debug, Clone, PartialEq)]
pub struct PrintedCopy {
    /// Which one.
    pub id: CopyId,
    /// Its part.
    pub part: PartId,
    /// Its one number in the whole workshop, the same on every sheet, screen and export.
    pub mark: i64,
    /// The plate it is printed on.
    pub plate: PlateId,
    /// Where it stands.
    pub stage: Stage,
    /// Why it failed, in a word.
    pub cause: Option<String>,
    /// Where on its way it failed.
    pub failed_at: Option<FailedAt>,
    /// The layer it failed at.
    pub failed_layer: Option<i64>,
    /// What is to be mended on it; empty where nothing is.
    pub mend: String,
    /// How long the mending takes, min.
    pub mend_minutes: Option<f64>,
    /// It was not there, and nobody has said that it is found or gone.
    pub missing: bool,
    /// Anything worth remembering.
    pub note: String,
}

/// A copy on a plate, as a change by hand knows it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlacedCopy {
    /// What it is known by on this plate.
    pub key: i64,
    /// Its part.
    pub part: PartId,
    /// Where its middle stands, mm.
    pub at_mm: Point,
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// It stays where it is, whatever is arranged around it.
    pub pinned: bool,
}

#[cfg(test)]
mod tests {
    use super::super::causes::FailureCause;
    use super::*;

    #[test]
    fn a_copy_walks_from_plan_to_good() {
        let walk = [CopyEvent::Start, CopyEvent::Finish, CopyEvent::Pass];
        let end = walk
            .iter()
            .try_fold(Stage::Planned, |s, e| next_stage(s, *e));
        assert_eq!(end, Ok(Stage::Good));
    }

    /// Every way there is, as the design lists them: 15.
    #[test]
    fn only_these_steps_exist() {
        use CopyEvent as E;
        use Stage as S;
        let ways = [
            (S::Planned, E::Start, S::Printing),
            (S::Planned, E::Release, S::Released),
            (S::Printing, E::Finish, S::InFinishing),
            (S::Printing, E::Fail, S::Failed),
            (S::Printing, E::PutBack, S::Planned),
            (S::InFinishing, E::Pass, S::Good),
            (S::InFinishing, E::Fail, S::Failed),
            (S::Good, E::Fail, S::Failed),
            (S::Good, E::Rejudge, S::InFinishing),
            (S::Good, E::SetAside, S::Surplus),
            (S::Failed, E::Rejudge, S::InFinishing),
            (S::Failed, E::Recount, S::Planned),
            (S::Surplus, E::Fail, S::Failed),
            (S::Surplus, E::Rejudge, S::InFinishing),
            (S::Surplus, E::Recall, S::Good),
        ];
        for from in Stage::ALL {
            for event in CopyEvent::ALL {
                let way = ways.iter().find(|w| (w.0, w.1) == (*from, *event));
                assert_eq!(
                    next_stage(*from, *event).ok(),
                    way.map(|w| w.2),
                    "{from} {event}"
                );
            }
        }
    }

    #[test]
    fn words_read_back_to_the_same_case() {
        for stage in Stage::ALL {
            assert_eq!(stage.as_str().parse(), Ok(*stage));
        }
        for cause in FailureCause::ALL {
            assert_eq!(cause.as_str().parse(), Ok(*cause));
        }
        assert!("lost".parse::<Stage>().is_err());
    }
}
