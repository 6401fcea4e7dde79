//! Plans, plates, what stands on them, and their runs.

use diesel::prelude::*;
use wembrit_core::cost_parts::CostParts;
use wembrit_core::flow::{
    FailedAt, PlacedCopy, PlanEffort, PlanRevision, PlanScope, PlanState, Plate, PlateState,
    PrintedCopy, Stage,
};
use wembrit_core::ids::{
    CopyId, PartId, PlanId, PlateId, PrinterId, ProjectId, RecipeVersionId, ResinId, SculptId,
    SettingVersionId, UnitId,
};
use wembrit_core::learn::{Paces, Weights};
use wembrit_core::plan::{COST_RULE, PlateFigures};
use wembrit_core::units::{LayerHeight, ResinUse};

use super::{Row, read, written};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::plans)]
pub(crate) struct PlanRow {
    id: i64,
    row_version: i64,
    project_id: i64,
    revision: i64,
    #[diesel(deserialize_as = String)]
    state: PlanState,
    fingerprint: String,
    refusal: Option<String>,
    scope: String,
    #[diesel(deserialize_as = String)]
    effort: PlanEffort,
    from_plan_id: Option<i64>,
    bound_seconds: f64,
    bound_plates: i64,
    first_seconds: Option<f64>,
    better_found: i64,
    edits_held: i64,
}

impl Row for PlanRow {
    type Noun = PlanRevision;
    fn noun(self) -> Result<PlanRevision, StoreError> {
        Ok(PlanRevision {
            id: PlanId(self.id),
            row_version: self.row_version,
            project: ProjectId(self.project_id),
            revision: self.revision,
            state: self.state,
            fingerprint: self.fingerprint,
            refusal: self.refusal,
            scope: read_scope(&self.scope)?,
            effort: self.effort,
            from: self.from_plan_id.map(PlanId),
            bound_seconds: self.bound_seconds,
            bound_plates: self.bound_plates,
            first_seconds: self.first_seconds,
            better_found: self.better_found,
            edits_held: self.edits_held,
        })
    }
}

/// What a plan was asked for, as it is kept.
#[derive(Default, serde::Serialize, serde::Deserialize)]
#[serde(default)]
struct KeptScope {
    printers: Vec<i64>,
    units: Vec<i64>,
    resins: Vec<i64>,
    until_h: Option<f64>,
    no_spares: bool,
    by_hours: bool,
}

fn read_scope(text: &str) -> Result<PlanScope, StoreError> {
    let kept: KeptScope = read(text)?;
    Ok(PlanScope {
        printers: kept.printers.into_iter().map(PrinterId).collect(),
        units: kept.units.into_iter().map(UnitId).collect(),
        resins: kept.resins.into_iter().map(ResinId).collect(),
        until_h: kept.until_h,
        no_spares: kept.no_spares,
        by_hours: kept.by_hours,
    })
}

pub(crate) fn scope_text(scope: &PlanScope) -> String {
    written(&KeptScope {
        printers: scope.printers.iter().map(|p| p.0).collect(),
        units: scope.units.iter().map(|u| u.0).collect(),
        resins: scope.resins.iter().map(|r| r.0).collect(),
        until_h: scope.until_h,
        no_spares: scope.no_spares,
        by_hours: scope.by_hours,
    })
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::plates)]
pub(crate) struct PlateRow {
    id: i64,
    row_version: i64,
    project_id: i64,
    plan_id: i64,
    number: i64,
    #[diesel(deserialize_as = String)]
    state: PlateState,
    printer_id: i64,
    resin_id: i64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
    setting_version_id: i64,
    height_mm: f64,
    layers: i64,
    seconds: f64,
    resin_g: f64,
    #[diesel(embed)]
    costs: PlateCostRow,
    told_seconds: Option<f64>,
    told_ml: Option<f64>,
    #[diesel(embed)]
    resin: PlateResinRow,
    weighed_times: f64,
}

/// Resin of a plate as it is kept, ml: all of it, and of that what goes where.
#[derive(Debug, Clone, Copy, Queryable, Selectable, AsChangeset, Insertable)]
#[diesel(table_name = crate::schema::plates)]
pub(crate) struct PlateResinRow {
    pub(crate) resin_ml: f64,
    part_ml: f64,
    support_ml: f64,
    film_ml: f64,
    inside_ml: f64,
}

impl From<ResinUse> for PlateResinRow {
    fn from(goes: ResinUse) -> Self {
        Self {
            resin_ml: goes.ml(),
            part_ml: goes.part_ml,
            support_ml: goes.support_ml,
            film_ml: goes.film_ml,
            inside_ml: goes.inside_ml,
        }
    }
}

impl PlateResinRow {
    /// By where it goes; what was not kept apart is waste.
    fn goes(&self) -> ResinUse {
        let kept = ResinUse {
            part_ml: self.part_ml,
            support_ml: self.support_ml,
            film_ml: self.film_ml,
            inside_ml: self.inside_ml,
            waste_ml: 0.0,
        };
        ResinUse {
            waste_ml: self.resin_ml - kept.ml(),
            ..kept
        }
    }

    /// With prints that weigh so many times what was reckoned.
    pub(crate) fn weighing(&self, times: f64) -> Self {
        self.goes().weighing(times).into()
    }
}

impl PlateRow {
    /// By the paces of the printers and the weights of prints: time and resin of a plate are what is expected
    /// of it; once it was started its resin stays as it was expected then.
    pub(crate) fn by(self, paces: &Paces, weights: &Weights) -> Plate {
        let printer = PrinterId(self.printer_id);
        let time = paces.expect(printer, self.seconds, self.told_seconds);
        let reckoned = self.resin.goes();
        // A draft was just worked out, with its copies and its cost.
        let goes = if self.state == PlateState::Planned {
            let times = weights.of(ResinId(self.resin_id)).times;
            reckoned.weighing(times / self.weighed_times)
        } else {
            reckoned
        };
        let plate = Plate {
            id: PlateId(self.id),
            row_version: self.row_version,
            project: ProjectId(self.project_id),
            plan: PlanId(self.plan_id),
            number: self.number,
            state: self.state,
            printer: PrinterId(self.printer_id),
            resin: ResinId(self.resin_id),
            layer: self.layer,
            setting: SettingVersionId(self.setting_version_id),
            height_mm: self.height_mm,
            layers: self.layers,
            seconds: time.seconds(),
            time,
            resin_ml: goes.ml(),
            goes,
            reckoned: (self.seconds, self.resin.resin_ml),
            resin_g: self.resin_g * goes.ml() / self.resin.resin_ml.max(f64::EPSILON),
            costs: self.costs.parts(),
        };
        let took = paces.took(plate.id).filter(|_| plate.is_printed());
        plate.as_told(self.told_ml).taking(took.unwrap_or(time))
    }
}

/// What a plate costs, by component.
#[derive(Debug, Clone, Copy, Queryable, Selectable, AsChangeset, Insertable)]
#[diesel(table_name = crate::schema::plates)]
pub(crate) struct PlateCostRow {
    resin_cost_minor: i64,
    consumables_cost_minor: i64,
    power_cost_minor: i64,
    wear_cost_minor: i64,
    hands_on_cost_minor: i64,
}

impl From<CostParts> for PlateCostRow {
    fn from(cost: CostParts) -> Self {
        let [resin, consumables, power, wear, hands] = cost.planned();
        Self {
            resin_cost_minor: resin,
            consumables_cost_minor: consumables,
            power_cost_minor: power,
            wear_cost_minor: wear,
            hands_on_cost_minor: hands,
        }
    }
}

impl PlateCostRow {
    fn parts(self) -> CostParts {
        CostParts::of_planned([
            self.resin_cost_minor,
            self.consumables_cost_minor,
            self.power_cost_minor,
            self.wear_cost_minor,
            self.hands_on_cost_minor,
        ])
    }
}

/// The figures of a plate as they are written: the same columns whoever computed them.
#[derive(Insertable, AsChangeset)]
#[diesel(table_name = crate::schema::plates)]
pub(crate) struct PlateFiguresRow {
    height_mm: f64,
    layers: i64,
    seconds: f64,
    resin_g: f64,
    cost_rule: i64,
    #[diesel(embed)]
    costs: PlateCostRow,
    cost_basis: String,
    #[diesel(embed)]
    resin: PlateResinRow,
    weighed_times: f64,
}

impl From<&PlateFigures> for PlateFiguresRow {
    fn from(figures: &PlateFigures) -> Self {
        Self {
            height_mm: figures.height_mm,
            layers: i64::from(figures.layers),
            seconds: figures.reckoned_s,
            resin_g: figures.resin_g,
            cost_rule: COST_RULE,
            costs: figures.cost.into(),
            cost_basis: serde_json::to_string(&figures.basis).unwrap_or_default(),
            resin: figures.resin.into(),
            weighed_times: figures.weighed_times,
        }
    }
}

#[derive(Queryable, Selectable, Insertable)]
#[diesel(table_name = crate::schema::placements)]
pub(crate) struct PlacementRow {
    pub(crate) plate_id: i64,
    pub(crate) seq: i64,
    pub(crate) part_id: i64,
    pub(crate) sculpt_id: i64,
    pub(crate) recipe_version_id: i64,
    x_mm: f64,
    y_mm: f64,
    rotation_deg: f64,
    pub(crate) resin_ml: f64,
    #[diesel(embed)]
    costs: CopyCostRow,
    pinned: i64,
}

/// What a copy costs, by component.
#[derive(Debug, Clone, Copy, Queryable, Selectable, Insertable)]
#[diesel(table_name = crate::schema::placements)]
pub(crate) struct CopyCostRow {
    resin_cost_minor: i64,
    consumables_cost_minor: i64,
    power_cost_minor: i64,
    wear_cost_minor: i64,
    hands_cost_minor: i64,
}

impl From<CostParts> for CopyCostRow {
    fn from(cost: CostParts) -> Self {
        let [resin, consumables, power, wear, hands] = cost.planned();
        Self {
            resin_cost_minor: resin,
            consumables_cost_minor: consumables,
            power_cost_minor: power,
            wear_cost_minor: wear,
            hands_cost_minor: hands,
        }
    }
}

impl CopyCostRow {
    pub(crate) fn parts(self) -> CostParts {
        CostParts::of_planned([
            self.resin_cost_minor,
            self.consumables_cost_minor,
            self.power_cost_minor,
            self.wear_cost_minor,
            self.hands_cost_minor,
        ])
    }
}

impl PlacementRow {
    /// A copy where it stands on a plate, with its sculpt and recipe, its resin, ml, and its cost.
    pub(crate) fn new(
        plate: PlateId,
        placed: &PlacedCopy,
        (sculpt, recipe): (SculptId, RecipeVersionId),
        resin_ml: f64,
        cost: CostParts,
    ) -> Self {
        Self {
            plate_id: plate.0,
            seq: placed.key,
            part_id: placed.part.0,
            sculpt_id: sculpt.0,
            recipe_version_id: recipe.0,
            x_mm: placed.at_mm[0],
            y_mm: placed.at_mm[1],
            rotation_deg: placed.rotation_deg,
            resin_ml,
            costs: cost.into(),
            pinned: i64::from(placed.pinned),
        }
    }

    /// What the copy costs.
    pub(crate) fn cost(&self) -> CostParts {
        self.costs.parts()
    }

    /// Where the copy stands.
    pub(crate) fn placed(&self) -> PlacedCopy {
        PlacedCopy {
            key: self.seq,
            part: PartId(self.part_id),
            at_mm: [self.x_mm, self.y_mm],
            rotation_deg: self.rotation_deg,
            pinned: self.pinned != 0,
        }
    }
}

/// The plate, and the copy where it stands.
impl Row for PlacementRow {
    type Noun = (PlateId, PlacedCopy, SculptId, RecipeVersionId);
    fn noun(self) -> Result<Self::Noun, StoreError> {
        Ok((
            PlateId(self.plate_id),
            self.placed(),
            SculptId(self.sculpt_id),
            RecipeVersionId(self.recipe_version_id),
        ))
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::copies)]
pub(crate) struct CopyRow {
    id: i64,
    part_id: i64,
    mark: i64,
    plate_id: i64,
    #[diesel(deserialize_as = String)]
    stage: Stage,
    cause: Option<String>,
    note: String,
    failed_at: Option<String>,
    failed_layer: Option<i64>,
    mend: String,
    pub(crate) mend_minutes: Option<f64>,
    missing: i64,
}

impl Row for CopyRow {
    type Noun = PrintedCopy;
    fn noun(self) -> Result<PrintedCopy, StoreError> {
        Ok(PrintedCopy {
            id: CopyId(self.id),
            part: PartId(self.part_id),
            mark: self.mark,
            plate: PlateId(self.plate_id),
            stage: self.stage,
            cause: self.cause,
            failed_at: self.failed_at.map(FailedAt::try_from).transpose()?,
            failed_layer: self.failed_layer,
            mend: self.mend,
            mend_minutes: self.mend_minutes,
            missing: self.missing != 0,
            note: self.note,
        })
    }
}
