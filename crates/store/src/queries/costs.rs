//! What plates cost, model by model.

use std::collections::BTreeMap;

use diesel::dsl::{count_star, sql};
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Double};
use wembrit_core::cost::{PartCost, one_model};
use wembrit_core::ids::{ModelId, OptionId, PlateId, UnitId};
use wembrit_core::units::Money;

use super::kits;
use crate::db::Conn;
use crate::error::StoreError;
use crate::schema::{models, parts, placements, units};

/// What one model has on some plates.
#[derive(Debug, Clone, PartialEq)]
pub struct ModelCost {
    /// Its unit.
    pub unit: (UnitId, String),
    /// The model.
    pub model: (ModelId, String),
    /// Its copies on these plates.
    pub copies: u64,
    /// Resin they take, waste included.
    pub ml: f64,
    /// What they cost.
    pub cost: Money,
    /// What one model of the kind costs; nothing when not all its parts are on these plates.
    pub each: Option<Money>,
}

/// The copies on these plates, summed by model, most urgent unit first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn by_model(conn: &mut Conn, of: &[PlateId]) -> Result<Vec<ModelCost>, StoreError> {
    type Row = (i64, i64, i64, f64, i64);
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let on_plates: Vec<Row> = placements::table
        .inner_join(parts::table)
        .filter(placements::plate_id.eq_any(ids))
        .group_by((parts::id, parts::model_id))
        .select((
            parts::id,
            parts::model_id,
            count_star(),
            sql::<Double>("sum(placements.resin_ml)"),
            sql::<BigInt>("sum(placements.cost_minor)"),
        ))
        .load(conn)?;
    let mut by_model: BTreeMap<i64, Vec<Row>> = BTreeMap::new();
    for row in on_plates {
        by_model.entry(row.1).or_default().push(row);
    }
    let touched: Vec<i64> = by_model.keys().copied().collect();
    let names: Vec<(i64, String, i64, String)> = models::table
        .inner_join(units::table)
        .filter(models::id.eq_any(&touched))
        .order((
            units::priority,
            units::position,
            models::position,
            models::id,
        ))
        .select((units::id, units::name, models::id, models::name))
        .load(conn)?;
    let armies: Vec<ModelId> = touched.iter().map(|m| ModelId(*m)).collect();
    let takers = kits::takers(conn, &armies)?;
    let counts: Vec<(i64, i64, i64, Option<i64>, i64)> = parts::table
        .inner_join(models::table)
        .filter(
            parts::model_id
                .eq_any(&touched)
                .and(parts::removed_at_ms.is_null()),
        )
        .select((
            parts::id,
            parts::model_id,
            parts::count,
            parts::option_id,
            models::quantity,
        ))
        .load(conn)?;
    Ok(names
        .into_iter()
        .map(|(unit_id, unit, id, model)| {
            let rows = by_model.remove(&id).unwrap_or_default();
            let part = |(part, _, count, option, quantity): &(i64, i64, i64, Option<i64>, i64)| {
                let taken = option.map_or(*quantity, |o| {
                    takers.get(&OptionId(o)).copied().unwrap_or(0)
                });
                let row = rows.iter().find(|r| r.0 == *part);
                PartCost {
                    per_model: *count as f64 * taken as f64 / (*quantity).max(1) as f64,
                    copies: row.map_or(0, |r| r.2.max(0) as u64),
                    cost: Money(row.map_or(0, |r| r.4)),
                }
            };
            let parts: Vec<PartCost> = counts
                .iter()
                .filter(|(_, of, ..)| *of == id)
                .map(part)
                .collect();
            ModelCost {
                unit: (UnitId(unit_id), unit),
                model: (ModelId(id), model),
                copies: rows.iter().map(|r| r.2.max(0) as u64).sum(),
                ml: rows.iter().map(|r| r.3).sum(),
                cost: Money(rows.iter().map(|r| r.4).sum()),
                each: one_model(&parts),
            }
        })
        .collect())
}
