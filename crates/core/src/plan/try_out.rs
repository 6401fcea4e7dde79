//! Small plates for a trial: its variants side by side, one of each.

use super::gather::{PlanFacts, plan_request};
use super::improve::make_plan;
use super::made::{NotPlanned, Plan, PlanError, PlannedPlate};
use super::request::{PlanPart, PlanRequest};
use crate::army::demand::DemandLine;
use crate::flow::PlanScope;
use crate::ids::{PartId, SculptId};
use crate::pack::PackSearch;
use crate::recipe::trial::{OnPlate, TrialState, plates};
use crate::recipe::{KeptPart, RecipeVersion, Trial, Variant};
use crate::watch::Unwatched;
use crate::workshop::ProcessSetting;

/// A trial with everything its plates are planned from.
#[derive(Debug, Clone, PartialEq)]
pub struct TrialFacts {
    /// The trial.
    pub trial: Trial,
    /// The sculpt its part is printed from.
    pub sculpt: SculptId,
    /// Its variants, with what was prepared of each.
    pub variants: Vec<(Variant, RecipeVersion, Option<KeptPart>)>,
    /// The workshop.
    pub facts: PlanFacts,
}

impl TrialFacts {
    /// Names of the variants that are not prepared yet: their plates cannot be planned.
    #[must_use]
    pub fn unprepared(&self) -> Vec<&str> {
        let waiting = self.variants.iter().filter(|(_, _, kept)| kept.is_none());
        waiting
            .map(|(variant, _, _)| variant.name.as_str())
            .collect()
    }

    /// Those it waits for while it is put together; a trial that is planned waits for nothing.
    #[must_use]
    pub fn waiting_for(&self) -> Vec<&str> {
        if self.trial.state == TrialState::Open {
            self.unprepared()
        } else {
            Vec::new()
        }
    }

    /// What decides the plate of each variant.
    #[must_use]
    pub fn on_plates(&self) -> Vec<OnPlate> {
        let on = |(variant, version, _): &(Variant, RecipeVersion, Option<KeptPart>)| OnPlate {
            printer: variant.printer,
            resin: version.resin,
            layer: version.layer,
            exposure_s: variant.exposure_s,
        };
        self.variants.iter().map(on).collect()
    }

    /// What the plan of the trial is for.
    #[must_use]
    pub fn line(&self) -> DemandLine {
        self.line_of(
            self.trial.part,
            self.trial.recipe_version,
            self.variants.len() as u64,
        )
    }

    fn line_of(
        &self,
        part: PartId,
        recipe_version: crate::ids::RecipeVersionId,
        wanted: u64,
    ) -> DemandLine {
        DemandLine {
            part,
            sculpt: self.sculpt,
            recipe_version,
            wanted,
        }
    }
}

/// Why a trial has no plates.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TrialPlanError {
    /// There is nothing to compare.
    #[error("add a variant first: a trial compares two at least")]
    TooFew,
    /// Variants are still being measured.
    #[error("'{0}' is still being measured: wait a moment")]
    Waiting(String),
    /// A printer or resin is out of use.
    #[error("the printer or the resin of a variant is out of use: take the variant out")]
    OutOfUse,
    /// A variant is too large.
    #[error("a variant does not fit its printer: choose a larger one")]
    DoesNotFit,
    /// None of the first copies is on a plate.
    #[error("no plate takes it: {0}")]
    NoPlate(NotPlanned),
    /// No plan was found.
    #[error(transparent)]
    Plan(#[from] PlanError),
}

/// The plates of a trial, with what each is printed with.
///
/// # Errors
/// [`TrialPlanError`], in words that say what to do.
pub fn plan_trial(of: &TrialFacts) -> Result<Vec<(OnPlate, PlannedPlate)>, TrialPlanError> {
    if of.variants.len() < 2 {
        return Err(TrialPlanError::TooFew);
    }
    let waiting = of.unprepared();
    if !waiting.is_empty() {
        return Err(TrialPlanError::Waiting(waiting.join("', '")));
    }
    let blank = plan_request(&of.facts, &[], &PlanScope::default());
    let on = of.on_plates();
    let mut planned = Vec::new();
    for group in plates(&on) {
        let with = on[group[0]];
        let known = blank
            .printing(with.printer, with.resin, with.layer)
            .ok_or(TrialPlanError::OutOfUse)?
            .1;
        let mut setting: ProcessSetting = known.clone();
        if let Some(exposure_s) = with.exposure_s {
            setting.timing.exposure_s = exposure_s;
        }
        let parts = group.iter().filter_map(|index| {
            let (_, version, kept) = &of.variants[*index];
            let line = of.line_of(of.trial.part, version.id, 1);
            Some(PlanPart::new(&line, version, &kept.as_ref()?.part))
        });
        let request = PlanRequest {
            settings: vec![setting],
            parts: parts.collect(),
            ..blank.clone()
        };
        let plan = make_plan(&request, PackSearch::AT_ONCE, &Unwatched)?;
        if !plan.left_over.is_empty() {
            return Err(TrialPlanError::DoesNotFit);
        }
        planned.extend(plan.plates.into_iter().map(|plate| (with, plate)));
    }
    Ok(planned)
}

/// A plan of one copy of each of some parts, at once.
///
/// # Errors
/// [`TrialPlanError`] when none of them is on a plate.
pub fn plan_first_copies(facts: &PlanFacts, lines: &[DemandLine]) -> Result<Plan, TrialPlanError> {
    let request = plan_request(facts, lines, &PlanScope::default());
    let plan = make_plan(&request, PackSearch::AT_ONCE, &Unwatched)?;
    match plan.left_over.first() {
        Some((_, _, why)) if plan.plates.is_empty() => Err(TrialPlanError::NoPlate(*why)),
        _ => Ok(plan),
    }
}
