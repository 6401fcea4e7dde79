//! What was taken away and can be put back.

use diesel::prelude::*;
use diesel::sql_query;
use diesel::sql_types::{BigInt, Text};
use wembrit_core::ids::ProjectId;

use crate::conn::Conn;
use crate::error::StoreError;

/// Something that was taken away.
#[derive(Debug, Clone, PartialEq, Eq, QueryableByName)]
pub struct Removed {
    /// The word of its kind in addresses: `units`, `parts` …
    #[diesel(sql_type = Text)]
    pub kind: String,
    /// Its identity there.
    #[diesel(sql_type = BigInt)]
    pub id: i64,
    /// Its name.
    #[diesel(sql_type = Text)]
    pub name: String,
    /// What it stood in; empty for what stands alone.
    #[diesel(sql_type = Text)]
    pub of: String,
    /// When it was taken away.
    #[diesel(sql_type = BigInt)]
    pub at_ms: i64,
}

/// What was taken out of a project, the latest first. What stands in something that was taken away
/// itself comes back with that.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_project(conn: &mut Conn, project: ProjectId) -> Result<Vec<Removed>, StoreError> {
    let of_model = |table: &str, kind: &str| {
        format!(
            "SELECT '{kind}' AS kind, x.id, x.name, u.name || ', ' || m.name AS \"of\", x.removed_at_ms AS at_ms \
             FROM {table} x JOIN models m ON m.id = x.model_id JOIN units u ON u.id = m.unit_id \
             WHERE u.project_id = ?1 AND x.removed_at_ms IS NOT NULL \
             AND m.removed_at_ms IS NULL AND u.removed_at_ms IS NULL"
        )
    };
    let all = [
        "SELECT 'units' AS kind, u.id, u.name, '' AS \"of\", u.removed_at_ms AS at_ms \
         FROM units u WHERE u.project_id = ?1 AND u.removed_at_ms IS NOT NULL"
            .to_owned(),
        "SELECT 'models' AS kind, m.id, m.name, u.name AS \"of\", m.removed_at_ms AS at_ms \
         FROM models m JOIN units u ON u.id = m.unit_id \
         WHERE u.project_id = ?1 AND m.removed_at_ms IS NOT NULL AND u.removed_at_ms IS NULL"
            .to_owned(),
        of_model("parts", "parts"),
        of_model("choices", "choices"),
        of_model("pieces", "pieces"),
    ];
    let query = format!("{} ORDER BY at_ms DESC, id", all.join(" UNION ALL "));
    Ok(sql_query(query).bind::<BigInt, _>(project.0).load(conn)?)
}

/// What was taken out of the workshop, the latest first: projects, sculpts, printers, resins.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_workshop(conn: &mut Conn) -> Result<Vec<Removed>, StoreError> {
    let all: Vec<String> = ["projects", "sculpts", "printers", "resins"]
        .iter()
        .map(|table| {
            format!(
                "SELECT '{table}' AS kind, id, name, '' AS \"of\", removed_at_ms AS at_ms \
                 FROM {table} WHERE removed_at_ms IS NOT NULL"
            )
        })
        .collect();
    let query = format!("{} ORDER BY at_ms DESC, id", all.join(" UNION ALL "));
    Ok(sql_query(query).load(conn)?)
}
