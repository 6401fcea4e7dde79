//! Parts as they hang: measured once for every sculpt, scale, layer height, orientation and
//! supports.

use std::collections::{BTreeSet, HashMap};

use diesel::prelude::*;
use wembrit_core::ids::{RecipeVersionId, SculptId};
use wembrit_core::plan::concerns::Held;
use wembrit_core::recipe::{HeldFigures, KeptPart, PartSetup, RecipeVersion};

use super::recipes;
use super::sculpts::MEASURE_VERSION;
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{HeldRow, Nouns, PreparedRow};
use crate::schema::{prepared_parts as hf, sculpts as s};

/// What is known of a part as it hangs.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of(conn: &mut Conn, what: &PartSetup) -> Result<Option<KeptPart>, StoreError> {
    hf::table
        .filter(
            hf::sculpt_id
                .eq(what.sculpt.0)
                .and(hf::unit_mm.eq(what.unit_mm))
                .and(hf::scale.eq(what.scale))
                .and(hf::layer_um.eq(i64::from(what.layer.um())))
                .and(hf::orientation.eq(what.setup.pose.to_string()))
                .and(hf::supports.eq(what.setup.supports.to_string()))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .select(PreparedRow::as_select())
        .maybe::<PreparedRow>(conn)
}

/// The other ways in which a sculpt was measured at the same scale and layer height.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn others(conn: &mut Conn, what: &PartSetup) -> Result<Vec<KeptPart>, StoreError> {
    let rows = hf::table
        .filter(
            hf::sculpt_id
                .eq(what.sculpt.0)
                .and(hf::unit_mm.eq(what.unit_mm))
                .and(hf::scale.eq(what.scale))
                .and(hf::layer_um.eq(i64::from(what.layer.um())))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .order(hf::id)
        .select(PreparedRow::as_select())
        .nouns::<PreparedRow>(conn)?;
    Ok(rows
        .into_iter()
        .filter(|kept| kept.setup.setup != what.setup)
        .collect())
}

/// A sculpt, and the version of a recipe that prints it.
pub type AsPrinted = (SculptId, RecipeVersionId);

/// The figures of some sculpts as these versions hang them, by the newest measuring.
///
/// A large army has hundreds of sculpts and of versions, and nearly all versions hold alike: only the pairs that are
/// asked for are looked at, never all versions of all sculpts.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn held_figures(
    conn: &mut Conn,
    of: impl IntoIterator<Item = AsPrinted>,
) -> Result<HashMap<AsPrinted, HeldFigures>, StoreError> {
    let pairs: BTreeSet<AsPrinted> = of.into_iter().collect();
    let versions: BTreeSet<RecipeVersionId> = pairs.iter().map(|p| p.1).collect();
    let versions = recipes::versions_of(conn, &versions.into_iter().collect::<Vec<_>>())?;
    let known = pairs
        .iter()
        .filter_map(|p| Some((p.0, versions.get(&p.1)?)));
    by_versions(conn, &known.collect::<Vec<_>>())
}

/// The same where the versions are loaded already.
fn by_versions(
    conn: &mut Conn,
    of: &[(SculptId, &RecipeVersion)],
) -> Result<HashMap<AsPrinted, HeldFigures>, StoreError> {
    let sculpts: BTreeSet<SculptId> = of.iter().map(|(sculpt, _)| *sculpt).collect();
    let known = figures(conn, &sculpts.into_iter().collect::<Vec<_>>())?;
    let found = |(sculpt, version): &(SculptId, &RecipeVersion)| {
        Some(((*sculpt, version.id), *newest(&known, *sculpt, version)?))
    };
    Ok(of.iter().filter_map(found).collect())
}

/// A sculpt as a version hangs it, by the newest measuring.
pub(super) fn newest<'k>(
    known: &'k HashMap<SculptId, Vec<HeldFigures>>,
    sculpt: SculptId,
    version: &RecipeVersion,
) -> Option<&'k HeldFigures> {
    let as_it_says = |h: &&HeldFigures| {
        h.setup.setup == version.setup
            && h.setup.layer == version.layer
            && h.setup.scale == version.scale
    };
    known.get(&sculpt)?.iter().rev().find(as_it_says)
}

/// Everything known of some sculpts as these versions hang them, by the newest measuring.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_versions(
    conn: &mut Conn,
    of: impl IntoIterator<Item = AsPrinted>,
) -> Result<HashMap<AsPrinted, KeptPart>, StoreError> {
    let figures = held_figures(conn, of)?;
    let ids: BTreeSet<i64> = figures.values().map(|f| f.id).collect();
    let rows = hf::table
        .filter(hf::id.eq_any(ids.into_iter().collect::<Vec<_>>()))
        .select(PreparedRow::as_select())
        .nouns::<PreparedRow>(conn)?;
    let by_id: HashMap<i64, KeptPart> = rows.into_iter().map(|k| (k.id, k)).collect();
    let kept = |(pair, f): (AsPrinted, HeldFigures)| Some((pair, by_id.get(&f.id)?.clone()));
    Ok(figures.into_iter().filter_map(kept).collect())
}

/// Contacts and pull of the hardest layer of some sculpts as these versions hang them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn held(conn: &mut Conn, of: impl IntoIterator<Item = AsPrinted>) -> Result<Held, StoreError> {
    Ok(contacts_and_pull(held_figures(conn, of)?))
}

/// The same where the versions are loaded already.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn held_by(conn: &mut Conn, of: &[(SculptId, &RecipeVersion)]) -> Result<Held, StoreError> {
    Ok(contacts_and_pull(by_versions(conn, of)?))
}

fn contacts_and_pull(figures: HashMap<AsPrinted, HeldFigures>) -> Held {
    let held = |(pair, f): (AsPrinted, HeldFigures)| (pair, (f.contacts, f.peak_pull));
    figures.into_iter().map(held).collect()
}

/// The figures of some sculpts in their present unit, in every way they were measured, the newest measuring last.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn figures(
    conn: &mut Conn,
    sculpts: &[SculptId],
) -> Result<HashMap<SculptId, Vec<HeldFigures>>, StoreError> {
    let ids: Vec<i64> = sculpts.iter().map(|s| s.0).collect();
    let rows = hf::table
        .inner_join(s::table)
        .filter(hf::sculpt_id.eq_any(ids).and(hf::unit_mm.eq(s::unit_mm)))
        .order((hf::measure_version, hf::id))
        .select(HeldRow::as_select())
        .nouns::<HeldRow>(conn)?;
    let mut all: HashMap<SculptId, Vec<HeldFigures>> = HashMap::new();
    for row in rows {
        all.entry(row.setup.sculpt).or_default().push(row);
    }
    Ok(all)
}

/// The picture of a part as it hangs, as PNG.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn picture(conn: &mut Conn, id: i64) -> Result<Vec<u8>, StoreError> {
    hf::table
        .find(id)
        .select(hf::picture)
        .first(conn)
        .or_not_found("picture")
}
