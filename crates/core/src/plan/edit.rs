//! A plate of a draft with everything a change by hand on it is looked at with.

use std::collections::BTreeMap;

use super::advice::{Advice, advise, tallest_part, tilt};
use super::figures::plate_figures;
use super::gather::{PlanFacts, plan_request};
use super::layout::{Blocked, Change, PlateLayout};
use super::made::PlateFigures;
use super::request::{PlanPart, PlanRequest};
use crate::army::demand::DemandLine;
use crate::cost_parts::CostParts;
use crate::flow::{PlacedCopy, PlanScope, Plate};
use crate::ids::PartId;
use crate::pack::halves;
use crate::recipe::{KeptPart, Setup};
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::resin_use;
use crate::workshop::{Printer, ProcessSetting};

/// A plate of a draft.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateEdit {
    /// The plate.
    pub plate: Plate,
    /// What a change on it is looked at with.
    pub layout: PlateLayout,
    /// What stands on it.
    pub copies: Vec<PlacedCopy>,
    /// What the plan was asked for, part by part.
    pub lines: BTreeMap<PartId, DemandLine>,
    request: PlanRequest,
}

/// What a plate takes after a change, and what each of its copies takes.
#[derive(Debug, Clone, PartialEq)]
pub struct EditedPlate {
    /// Its figures; a plate that nothing stands on takes no time and no hands.
    pub figures: PlateFigures,
    /// Copy by copy: the line it stands for, its resin in ml, what it costs.
    pub shares: Vec<(PlacedCopy, DemandLine, f64, CostParts)>,
}

/// Another way to hold the part that sets the hours of a plate.
#[derive(Debug, Clone, PartialEq)]
pub struct TiltAdvice {
    /// The part.
    pub part: PartId,
    /// How it would be held.
    pub setup: Setup,
    /// What the plate takes less, s.
    pub saves_s: f64,
    /// The part, held so.
    pub new: PlanPart,
    /// What stands on the plate then.
    pub after: Vec<PlacedCopy>,
}

/// A part, and ways to hold it that were measured.
pub type OtherWays = (PartId, Vec<KeptPart>);

/// All advice on one plate.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateAdvice {
    /// Hold the tallest part otherwise.
    pub tilt: Option<TiltAdvice>,
    /// Take off or put on.
    pub others: Vec<Advice>,
}

impl PlateEdit {
    /// A plate with the facts of its plan; `placed` are the copies of each part on all plates of
    /// the plan. Nothing when its printer or resin is out of use.
    #[must_use]
    pub fn new(
        plate: Plate,
        copies: Vec<PlacedCopy>,
        lines: &[DemandLine],
        placed: &BTreeMap<PartId, u64>,
        facts: &PlanFacts,
    ) -> Option<Self> {
        let mut request = plan_request(facts, lines, &PlanScope::default());
        // Only what may share this plate.
        request
            .parts
            .retain(|p| p.resin == plate.resin && p.layer == plate.layer);
        let (printer, setting, _) = request.printing(plate.printer, plate.resin, plate.layer)?;
        // What is not proven is held back here as in the plan.
        let left = |part: &PlanPart| {
            let on_plates = placed.get(&part.id).copied().unwrap_or(0);
            part.may().saturating_sub(on_plates)
        };
        let parts = request.parts.iter().cloned();
        let layout = PlateLayout {
            unit_most: if request.apart {
                halves(request.parts.iter().map(|p| (p.unit, p.may())))
            } else {
                BTreeMap::new()
            },
            pool: request
                .parts
                .iter()
                .map(|p| (p.id, left(p)))
                .filter(|(_, n)| *n > 0)
                .collect(),
            ..PlateLayout::new(printer, setting, request.rates.clearance_mm, parts)
        };
        Some(Self {
            plate,
            layout,
            copies,
            lines: lines.iter().map(|l| (l.part, *l)).collect(),
            request,
        })
    }

    /// Looks at a change.
    ///
    /// # Errors
    /// [`Blocked`], in words.
    pub fn change(&self, change: &Change) -> Result<Vec<PlacedCopy>, Blocked> {
        self.layout.change(&self.copies, change)
    }

    /// The change that takes all copies of a part off.
    #[must_use]
    pub fn leave(&self, part: PartId) -> Change {
        let of_part = self.copies.iter().filter(|c| c.part == part);
        Change::Remove {
            keys: of_part.map(|c| c.key).collect(),
        }
    }

    /// With so many more copies of a part in the pool than the plan was asked for.
    #[must_use]
    pub fn with_spares(mut self, part: PartId, copies: u64) -> Self {
        *self.layout.pool.entry(part).or_default() += copies;
        self
    }

    /// With a part held otherwise, by a new version of its recipe.
    #[must_use]
    pub fn with_part(mut self, new: PlanPart, line: DemandLine) -> Self {
        self.lines.insert(line.part, line);
        self.layout.parts.insert(line.part, new);
        self
    }

    fn printing(&self) -> Option<(&Printer, &ProcessSetting, &ResinFacts)> {
        let plate = &self.plate;
        self.request
            .printing(plate.printer, plate.resin, plate.layer)
    }

    /// What the plate takes with these copies on it; nothing when one of them is no part of it.
    #[must_use]
    pub fn edited(&self, copies: &[PlacedCopy]) -> Option<EditedPlate> {
        let (printer, setting, resin) = self.printing()?;
        let rates = &self.request.rates;
        let parts: Vec<&PlanPart> = copies
            .iter()
            .map(|c| self.layout.parts.get(&c.part))
            .collect::<Option<_>>()?;
        let (mut figures, costs) = plate_figures(&parts, printer, setting, resin, rates);
        if copies.is_empty() {
            (figures.reckoned_s, figures.seconds) = (0.0, 0.0);
            figures.cost = CostParts::default();
        }
        let shares = copies
            .iter()
            .zip(&parts)
            .zip(costs)
            .map(|((copy, part), cost)| {
                let line = *self.lines.get(&copy.part)?;
                let ml = resin_use(&part.body, rates.waste_share, resin).ml();
                Some((*copy, line, ml, cost))
            })
            .collect::<Option<_>>()?;
        Some(EditedPlate { figures, shares })
    }

    fn seconds(&self, layout: &PlateLayout, copies: &[PlacedCopy]) -> f64 {
        let Some((printer, setting, resin)) = self.printing() else {
            return 0.0;
        };
        let parts: Vec<&PlanPart> = copies
            .iter()
            .filter_map(|c| layout.parts.get(&c.part))
            .collect();
        let (figures, _) = plate_figures(&parts, printer, setting, resin, &self.request.rates);
        figures.seconds
    }

    /// What would shorten this plate or use it better; `ways` are others to hold the part that
    /// sets its hours.
    #[must_use]
    pub fn advised(&self, ways: Option<&OtherWays>) -> PlateAdvice {
        PlateAdvice {
            tilt: ways.and_then(|(part, ways)| self.tilt(*part, ways)),
            others: self.advice(),
        }
    }

    fn advice(&self) -> Vec<Advice> {
        let seconds = |copies: &[PlacedCopy]| self.seconds(&self.layout, copies);
        let ml = |part: PartId| {
            let part = self.layout.parts.get(&part);
            part.zip(self.printing()).map_or(0.0, |(p, (_, _, resin))| {
                resin_use(&p.body, self.request.rates.waste_share, resin).ml()
            })
        };
        advise(&self.layout, &self.copies, &seconds, &ml)
    }

    /// The part that sets the hours, where it may be held otherwise: all copies of the plan stand
    /// here, and none is pinned.
    #[must_use]
    pub fn tallest_alone(&self, placed: &BTreeMap<PartId, u64>) -> Option<DemandLine> {
        let tallest = tallest_part(&self.layout, &self.copies)?;
        let here = self.copies.iter().filter(|c| c.part == tallest);
        let pinned = here.clone().any(|c| c.pinned);
        let all_here = placed.get(&tallest) == Some(&(here.count() as u64));
        (all_here && !pinned).then(|| self.lines.get(&tallest).copied())?
    }

    /// The way to hold a part that saves most, among those that were measured already.
    #[must_use]
    pub fn tilt(&self, part: PartId, ways: &[KeptPart]) -> Option<TiltAdvice> {
        let now = self.layout.parts.get(&part)?;
        let parts: Vec<PlanPart> = ways.iter().map(|w| now.prepared_as(&w.part)).collect();
        let seconds = |layout: &PlateLayout, copies: &[PlacedCopy]| self.seconds(layout, copies);
        let found = tilt(&self.layout, &self.copies, &parts, &seconds)?;
        Some(TiltAdvice {
            part,
            setup: ways[found.way].setup.setup,
            saves_s: found.saves_s,
            new: parts[found.way].clone(),
            after: found.after,
        })
    }
}
