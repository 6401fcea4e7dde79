//! Projects as a whole: copied, put away, taken up again.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{ModelId, ProjectId};

use super::muster::add_project;
use super::unit_moves::copy_into;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, one_row, plates};
use crate::schema::{practices, projects, units};

/// The same army once more, with its practice, recipes as they are now and sculpts, and with no copies yet.
///
/// # Errors
/// [`StoreError::Refused`] without a name.
pub fn copy(
    conn: &mut Conn,
    id: ProjectId,
    name: &str,
    now_ms: i64,
) -> Result<ProjectId, StoreError> {
    let name = name.trim();
    if name.is_empty() || name.chars().count() > 120 {
        return Err(StoreError::Refused(
            "write how the copy is called, in up to 120 letters".into(),
        ));
    }
    let army = army::load(conn, id)?;
    let new = add_project(conn, name)?;
    let mut became: HashMap<ModelId, ModelId> = HashMap::new();
    let mut carried = Vec::new();
    for unit in &army.units {
        let (copy, models) = copy_into(conn, &unit.unit, new, unit.unit.name.clone(), now_ms)?;
        became.extend(models);
        carried.push((copy, unit.unit.carrier));
    }
    // What carries a unit is a model of the copy, too.
    for (unit, carrier) in carried {
        let carrier = carrier.and_then(|c| became.get(&c)).map(|c| c.0);
        diesel::update(units::table.find(unit.0))
            .set(units::carrier_id.eq(carrier))
            .execute(conn)?;
    }
    let said: Vec<(String, String)> = practices::table
        .filter(practices::project_id.eq(id.0))
        .select((practices::question, practices::answer))
        .load(conn)?;
    for (question, answer) in said {
        diesel::insert_into(practices::table)
            .values((
                practices::project_id.eq(new.0),
                practices::question.eq(question),
                practices::answer.eq(answer),
            ))
            .execute(conn)?;
    }
    Ok(new)
}

/// Puts a project away, or takes it up again; all of it stays.
///
/// # Errors
/// [`StoreError::Refused`] while plates of it wait, run or are to be judged.
pub fn put_away(conn: &mut Conn, id: ProjectId, at_ms: Option<i64>) -> Result<(), StoreError> {
    let open = |s: PlateState| {
        matches!(
            s,
            PlateState::Planned | PlateState::Running | PlateState::Printed
        )
    };
    let still = plates::accepted(conn, id)?;
    let still = still.iter().filter(|p| open(p.state)).count();
    if at_ms.is_some() && still > 0 {
        return Err(StoreError::Refused(format!(
            "plates of it wait, run or are to be judged ({still}): release them, or bring them to an end first"
        )));
    }
    let changed = diesel::update(projects::table.find(id.0))
        .set(projects::put_away_at_ms.eq(at_ms))
        .execute(conn)?;
    one_row(changed, "project")
}
