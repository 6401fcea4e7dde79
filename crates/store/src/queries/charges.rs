//! What living copies pay besides their own: for copies that failed, for files, for mends.

use std::collections::{BTreeMap, HashMap};

use diesel::dsl::count_star;
use diesel::prelude::*;
use wembrit_core::cost::{Charged, Charges, FilePrice};
use wembrit_core::cost_parts::{CostKind, CostParts};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{CopyId, PartId, PlateId, ProjectId};
use wembrit_core::units::Money;

use super::{spent, took};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::PlacementRow;
use crate::schema::{bundles, copies, placements, plates, sculpts};

/// What living copies pay besides their own, and what none of them pays for.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Beside {
    /// Part by part.
    pub beside: BTreeMap<PartId, CostParts>,
    /// What each copy that held is charged with, copy by copy.
    pub charges: Charges,
}

/// Loads it for a project.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn, project: ProjectId) -> Result<Beside, StoreError> {
    let printed = printed(conn, project)?;
    let all: Vec<Charged> = printed.iter().map(|p| p.charged).collect();
    let charges = Charges::of(&all);
    let mut beside: BTreeMap<PartId, CostParts> = BTreeMap::new();
    let mut add = |part, kind, amount: Money| {
        let of = beside.entry(part).or_default();
        *of = *of + CostParts::of(kind, amount);
    };
    for copy in printed.iter().filter(|c| c.alive) {
        let of = copy.charged;
        add(of.part, CostKind::Failures, charges.to(of.copy));
        add(of.part, CostKind::Mends, copy.mend);
    }
    for (part, share) in FilePrice::shares(&files(conn)?) {
        add(part, CostKind::Files, share);
    }
    Ok(Beside { beside, charges })
}

struct Printed {
    charged: Charged,
    mend: Money,
    alive: bool,
}

/// Copies of plates on which something failed, or was mended.
fn printed(conn: &mut Conn, project: ProjectId) -> Result<Vec<Printed>, StoreError> {
    type Row = (i64, i64, String, Option<f64>, PlacementRow);
    let told = copies::table
        .inner_join(plates::table)
        .filter(plates::project_id.eq(project.0))
        .filter(
            copies::stage
                .eq(Stage::Failed.as_str())
                .or(copies::mend_minutes.is_not_null()),
        )
        .select(copies::plate_id)
        .distinct()
        .load::<i64>(conn)?;
    let rows: Vec<Row> = copies::table
        .inner_join(plates::table)
        .inner_join(placements::table.on(placements::copy_id.eq(copies::id.nullable())))
        .filter(copies::plate_id.eq_any(told))
        .order(copies::id)
        .select((
            copies::id,
            copies::part_id,
            copies::stage,
            copies::mend_minutes,
            PlacementRow::as_select(),
        ))
        .load(conn)?;
    // Read where something was mended only: there are many copies.
    let mended = rows.iter().filter(|r| r.3.is_some());
    let bases = took::bases(conn, mended.map(|r| r.4.plate_id).collect())?;
    let taken = spent::costs_as_taken(conn, Some(project))?;
    let printed = |(id, part, stage, minutes, placed): Row| {
        let stage = Stage::try_from(stage)?;
        let basis = bases.get(&PlateId(placed.plate_id));
        let mend = minutes.and_then(|m| Some(basis?.mend(m)));
        let mend = mend.unwrap_or_default();
        let cost = taken.get(&id).map_or_else(|| placed.cost(), |t| t.cost);
        Ok(Printed {
            charged: Charged {
                copy: CopyId(id),
                part: PartId(part),
                plate: PlateId(placed.plate_id),
                cost: cost.total() + mend,
                failed: stage == Stage::Failed,
            },
            mend,
            alive: stage.is_alive(),
        })
    };
    rows.into_iter().map(printed).collect()
}

/// Files and bundles with a price, with the living copies made of each, over all projects.
fn files(conn: &mut Conn) -> Result<Vec<FilePrice>, StoreError> {
    let alive = Stage::ALL.iter().filter(|s| s.is_alive());
    let alive: Vec<&str> = alive.map(|s| s.as_str()).collect();
    let paid: HashMap<i64, (i64, Option<i64>)> = sculpts::table
        .filter(
            sculpts::price_minor
                .gt(0)
                .or(sculpts::bundle_id.is_not_null()),
        )
        .select((sculpts::id, (sculpts::price_minor, sculpts::bundle_id)))
        .load::<(i64, (i64, Option<i64>))>(conn)?
        .into_iter()
        .collect();
    let of: Vec<i64> = paid.keys().copied().collect();
    let made: Vec<(i64, i64, i64)> = copies::table
        .filter(
            copies::stage
                .eq_any(alive)
                .and(copies::sculpt_id.eq_any(of)),
        )
        .group_by((copies::sculpt_id, copies::part_id))
        .select((copies::sculpt_id, copies::part_id, count_star()))
        .load(conn)?;
    let prices: HashMap<i64, i64> = bundles::table
        .select((bundles::id, bundles::price_minor))
        .load::<(i64, i64)>(conn)?
        .into_iter()
        .collect();
    // Files by themselves, and bundles, each with a key of its own.
    let mut of: BTreeMap<(bool, i64), FilePrice> = BTreeMap::new();
    for (sculpt, part, copies) in made {
        let (price, bundle) = paid.get(&sculpt).copied().unwrap_or_default();
        let mut add = |key, price: i64| {
            let file = of.entry(key).or_default();
            file.price = Money(price);
            *file.copies.entry(PartId(part)).or_default() += copies.max(0) as u64;
        };
        if price > 0 {
            add((false, sculpt), price);
        }
        if let Some(bundle) = bundle {
            add((true, bundle), prices.get(&bundle).copied().unwrap_or(0));
        }
    }
    Ok(of.into_values().collect())
}
