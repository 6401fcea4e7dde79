//! Copies one part has over that another part could use: of the same sculpt, at the same scale.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::army::surplus::{Over, PrintedAs, fits_in};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{CopyId, ModelId, PartId, ProjectId, SculptId};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{
    copies, models, parts, projects, recipe_versions as rv, recipes, reservations, units,
};

/// What is over elsewhere and fits parts of a model, or of a whole project; the lowest
/// mark first.
fn over(
    conn: &mut Conn,
    model: Option<ModelId>,
    project: Option<ProjectId>,
) -> Result<Vec<Over>, StoreError> {
    let mut wants = parts::table
        .inner_join(models::table.inner_join(units::table))
        .inner_join(recipes::table.on(recipes::id.eq(parts::recipe_id)))
        .inner_join(rv::table.on(rv::recipe_id.eq(recipes::id)))
        .filter(
            parts::removed_at_ms
                .is_null()
                .and(parts::sculpt_id.is_not_null()),
        )
        .order((parts::id, rv::version))
        .select((parts::id, parts::sculpt_id.assume_not_null(), rv::scale))
        .into_boxed();
    if let Some(id) = model {
        wants = wants.filter(models::id.eq(id.0));
    }
    if let Some(id) = project {
        wants = wants.filter(units::project_id.eq(id.0));
    }
    let wants: Vec<(i64, i64, f64)> = wants.load(conn)?;
    // The last version of each recipe is how it is printed now.
    let printed_as = |(part, sculpt, scale): (i64, i64, f64)| PrintedAs {
        part: PartId(part),
        sculpt: SculptId(sculpt),
        scale,
    };
    let newest: BTreeMap<i64, PrintedAs> =
        wants.into_iter().map(|w| (w.0, printed_as(w))).collect();
    let sculpts: Vec<i64> = newest.values().map(|w| w.sculpt.0).collect();
    type Row = (i64, i64, i64, i64, f64, String, String);
    let rows: Vec<Row> = copies::table
        .inner_join(
            parts::table
                .inner_join(models::table.inner_join(units::table.inner_join(projects::table))),
        )
        .inner_join(rv::table.on(rv::id.eq(copies::recipe_version_id)))
        .left_join(reservations::table.on(reservations::copy_id.eq(copies::id.nullable())))
        .filter(
            copies::stage
                .eq(Stage::Surplus.as_str())
                .and(copies::sculpt_id.eq_any(sculpts))
                .and(reservations::id.is_null()),
        )
        .order(copies::mark)
        .select((
            copies::id,
            copies::mark,
            copies::part_id,
            copies::sculpt_id,
            rv::scale,
            projects::name,
            models::name,
        ))
        .load(conn)?;
    let mut all = Vec::new();
    for wants in newest.values() {
        let fits = |r: &&Row| fits_in(&printed_as((r.2, r.3, r.4)), wants);
        all.extend(rows.iter().filter(fits).map(|r| Over {
            part: wants.part,
            copy: CopyId(r.0),
            mark: r.1,
            project: r.5.clone(),
            model: r.6.clone(),
        }));
    }
    Ok(all)
}

/// What is over elsewhere and fits parts of a model.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn for_model(conn: &mut Conn, id: ModelId) -> Result<Vec<Over>, StoreError> {
    over(conn, Some(id), None)
}

/// What is over elsewhere and fits parts of a project.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn for_project(conn: &mut Conn, id: ProjectId) -> Result<Vec<Over>, StoreError> {
    over(conn, None, Some(id))
}
