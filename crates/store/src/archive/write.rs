//! Writing an archive.

use std::collections::BTreeSet;
use std::io::{Seek, Write};

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use super::columns::{Column, Kind, Table, tables};
use super::contents::{Held, Manifest};
use super::{FORMAT, Scope};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::sculpts;
use crate::schema::{projects, sculpts as s, workshop};
use wembrit_core::ids::SculptId;

/// Tables of a project: what hangs on one of its rows goes with it.
const OF_PROJECT: &[&str] = &[
    "projects",
    "units",
    "models",
    "choices",
    "options",
    "parts",
    "pieces",
    "picks",
    "concerns_put_aside",
    "practices",
    "plans",
    "plan_demand",
    "plates",
    "placements",
    "copies",
    "runs",
    "run_checks",
    "print_times",
    "hand_spells",
    "remedies",
    "weighings",
    "batches",
    "batch_steps",
    "cures",
    "photos",
    "trials",
    "variants",
    "grades",
    "miniatures",
    "miniature_options",
    "arrivals",
    "reservations",
];

/// Tables whose rows go with what they describe, once that goes.
const WITH_IT: &[(&str, &str)] = &[
    ("recipe_versions", "recipes"),
    ("print_meshes", "recipes"),
    ("fine_zones", "sculpts"),
    ("joints", "sculpts"),
    ("dismissals", "sculpts"),
    ("scale_attempts", "sculpts"),
    ("setting_versions", "process_settings"),
    ("exposure_tests", "process_settings"),
    ("ladder_steps", "process_settings"),
    ("process_settings", "printers"),
];

#[derive(QueryableByName)]
struct Line {
    #[diesel(sql_type = Text)]
    line: String,
}

#[derive(QueryableByName)]
struct Many {
    #[diesel(sql_type = BigInt)]
    many: i64,
}

fn other(error: impl std::fmt::Display) -> StoreError {
    StoreError::Other(format!("the archive cannot be written: {error}"))
}

/// Which rows of a table, called `t`, go out. Those with a uid are marked; one without hangs on the first row it names.
fn going(table: &Table, scope: Scope) -> String {
    let is_marked =
        |name: &str, id: &str| format!("{id} IN (SELECT row FROM going WHERE tab = '{name}')");
    if scope == Scope::Workshop {
        return "1".into();
    }
    if table.has_uid() {
        return is_marked(&table.name, "t.id");
    }
    let named = table.columns.iter().find_map(|c| Some((c, c.to.as_ref()?)));
    named.map_or_else(
        || "0".into(),
        |(column, to)| is_marked(to, &format!("t.{}", column.name)),
    )
}

/// Marks the rows of a project that go out, in a table of this connection alone.
fn mark(conn: &mut Conn, all: &[Table], scope: Scope) -> Result<(), StoreError> {
    conn.batch_execute(
        "CREATE TEMP TABLE IF NOT EXISTS going (tab TEXT NOT NULL, row INTEGER NOT NULL, PRIMARY KEY (tab, row)); \
         DELETE FROM going;",
    )?;
    let Scope::Project(project) = scope else {
        return Ok(());
    };
    let take = |conn: &mut Conn, table: &str, which: &str| {
        conn.batch_execute(&format!(
            "INSERT OR IGNORE INTO going SELECT '{table}', m.id FROM {table} m WHERE {which}"
        ))
    };
    take(conn, "projects", &format!("m.id = {}", project.0))?;
    // Rows that hang on rows that go, and rows that these name, until nothing is added.
    loop {
        let before = count(conn)?;
        for table in all {
            let points = table
                .columns
                .iter()
                .filter_map(|c| Some((c, c.to.as_ref()?)));
            for (column, to) in points {
                let of_project = OF_PROJECT.contains(&table.name.as_str())
                    && OF_PROJECT.contains(&to.as_str())
                    && column.filled;
                let hangs = of_project || WITH_IT.contains(&(table.name.as_str(), to.as_str()));
                if hangs && table.has_uid() {
                    let on = format!(
                        "m.{} IN (SELECT row FROM going WHERE tab = '{to}')",
                        column.name
                    );
                    take(conn, &table.name, &on)?;
                }
                let named = format!(
                    "m.id IN (SELECT t.{} FROM {} t WHERE {})",
                    column.name,
                    table.name,
                    going(table, scope)
                );
                take(conn, to, &named)?;
            }
        }
        if count(conn)? == before {
            return Ok(());
        }
    }
}

fn count(conn: &mut Conn) -> Result<i64, StoreError> {
    let row: Many = diesel::sql_query("SELECT count(*) AS many FROM going").get_result(conn)?;
    Ok(row.many)
}

/// A column of a row as SQL that makes JSON of it.
fn as_json(column: &Column) -> String {
    let name = &column.name;
    match (&column.to, column.kind) {
        (Some(to), _) => format!("'{name}', (SELECT r.uid FROM {to} r WHERE r.id = t.{name})"),
        (None, Kind::Real) => format!(
            "'{name}', CASE WHEN t.{name} IS NULL THEN NULL ELSE json(format('%!.17g', t.{name})) END"
        ),
        (None, Kind::Bytes) => format!("'{name}', hex(t.{name})"),
        (None, _) => format!("'{name}', t.{name}"),
    }
}

pub(super) fn rows(
    conn: &mut Conn,
    table: &Table,
    scope: Scope,
) -> Result<Vec<String>, StoreError> {
    let mut columns: Vec<String> = table.columns.iter().map(as_json).collect();
    if table.has_uid() {
        // So that a workshop that moves keeps its addresses.
        columns.insert(0, "'id', t.id".into());
    }
    let lines: Vec<Line> = diesel::sql_query(format!(
        "SELECT json_object({}) AS line FROM {} t WHERE {} ORDER BY {}",
        columns.join(", "),
        table.name,
        going(table, scope),
        if table.has_uid() { "t.id" } else { "1" }
    ))
    .load(conn)?;
    Ok(lines.into_iter().map(|l| l.line).collect())
}

/// Writes an archive, and says what its first file says. Everything in it is of one moment: call it within one transaction.
///
/// # Errors
/// [`StoreError::NotFound`] for a project that is not there; [`StoreError::Other`] when it cannot be written.
pub fn write<W: Write + Seek>(
    conn: &mut Conn,
    scope: Scope,
    now_ms: i64,
    to: W,
) -> Result<Manifest, StoreError> {
    let name: String = match scope {
        Scope::Workshop => workshop::table.select(workshop::name).first(conn)?,
        Scope::Project(id) => projects::table
            .find(id.0)
            .select(projects::name)
            .first(conn)
            .or_not_found("project")?,
    };
    let mut all = tables(conn)?;
    if matches!(scope, Scope::Project(_)) {
        // What is the workshop's own stays: its name, hours and money.
        all.retain(|t| t.name != "workshop" && t.name != "attendance");
    }
    mark(conn, &all, scope)?;
    let mut zip = ZipWriter::new(to);
    let packed = SimpleFileOptions::default()
        .compression_method(CompressionMethod::Deflated)
        .large_file(true);
    let mut files = Vec::new();
    let mut counts = Vec::new();
    let mut put = |zip: &mut ZipWriter<W>, name: String, bytes: &[u8]| {
        zip.start_file(&name, packed).map_err(other)?;
        zip.write_all(bytes).map_err(other)?;
        files.push(Held {
            name,
            bytes: bytes.len() as u64,
            blake3: blake3::hash(bytes).to_hex().to_string(),
        });
        Ok::<(), StoreError>(())
    };
    for table in &all {
        let rows = rows(conn, table, scope)?;
        if rows.is_empty() {
            continue;
        }
        let text = format!("[\n{}\n]\n", rows.join(",\n"));
        counts.push((table.name.clone(), rows.len() as u64));
        put(
            &mut zip,
            format!("tables/{}.json", table.name),
            text.as_bytes(),
        )?;
    }
    let meshes: Vec<(i64, Option<String>)> = s::table
        .filter(s::hash.is_not_null())
        .order(s::id)
        .select((s::id, s::hash))
        .load(conn)?;
    let marked = marked_sculpts(conn)?;
    let goes = |id: i64| scope == Scope::Workshop || marked.contains(&id);
    for (id, hash) in meshes.into_iter().filter(|(id, _)| goes(*id)) {
        let bytes = sculpts::bytes(conn, SculptId(id))?;
        put(
            &mut zip,
            format!("meshes/{}", hash.unwrap_or_default()),
            &bytes,
        )?;
    }
    let manifest = Manifest {
        format: FORMAT,
        what: match scope {
            Scope::Workshop => "workshop".into(),
            Scope::Project(_) => "project".into(),
        },
        name,
        written_at_ms: now_ms,
        rows: counts.into_iter().collect(),
        files,
    };
    let text = serde_json::to_vec_pretty(&manifest).map_err(other)?;
    zip.start_file("wembrit.json", packed).map_err(other)?;
    zip.write_all(&text).map_err(other)?;
    zip.finish().map_err(other)?;
    Ok(manifest)
}

fn marked_sculpts(conn: &mut Conn) -> Result<BTreeSet<i64>, StoreError> {
    let rows: Vec<Many> =
        diesel::sql_query("SELECT row AS many FROM going WHERE tab = 'sculpts'").load(conn)?;
    Ok(rows.into_iter().map(|r| r.many).collect())
}
