//! Bringing an archive in.

use std::collections::{BTreeMap, HashMap};
use std::io::{Read, Seek};

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Binary, Double, Text};
use diesel::sqlite::Sqlite;
use serde_json::{Map, Value};
use wembrit_core::flow::SculptState;
use wembrit_core::ids::{ProjectId, SculptId};

use super::columns::{Column, Kind, Table, tables};
use super::contents::{Contents, read_file, refused};
use super::readable::readable;
use crate::commands::sculpts::{PackedFile, put_chunks, wait_to_be_measured};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{last_id, miniatures};
use crate::schema::{copies, printers as p, projects, resins as r, sculpts as s};

/// What came in.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Brought {
    /// New rows by table.
    pub rows: BTreeMap<String, u64>,
    /// Rows that were here already.
    pub known: u64,
    /// The projects that came.
    pub projects: Vec<ProjectId>,
}

type Ids = HashMap<(String, String), i64>;

/// Columns that count on from what an archive brings.
const COUNTERS: [&str; 6] = ["mark", "number", "position", "revision", "seq", "version"];
/// So far they have counted at most; the data file takes a thousand times more.
const MOST_COUNTED: i64 = 1_000_000_000;

/// Tables of which there is one row in a file.
const ONE_ROW: [&str; 2] = ["workshop", "attendance"];

/// Brings an archive in, all or nothing within one transaction. A workshop goes into one where nothing is yet; a
/// project into any, and printers, resins, sculpts and recipes that are here already are used as they are.
///
/// # Errors
/// [`StoreError::Refused`] in one line where it cannot be.
pub fn bring_in<R: Read + Seek>(
    conn: &mut Conn,
    contents: &mut Contents<R>,
    now_ms: i64,
) -> Result<Brought, StoreError> {
    let whole = contents.manifest.what == "workshop";
    if whole && !is_empty(conn)? {
        return Err(refused(
            "a whole workshop goes into an empty one: give another data file, or bring in one project",
        ));
    }
    let all = tables(conn)?;
    for name in contents.manifest.rows.keys() {
        if !all.iter().any(|t| t.name == *name) {
            return Err(refused(format!(
                "it has a table '{name}' this Wembrit does not know"
            )));
        }
    }
    let mut bring = Bring {
        ids: Ids::new(),
        later: Vec::new(),
        new_sculpts: Vec::new(),
        brought: Brought::default(),
        whole,
        marks_from: if whole {
            0
        } else {
            miniatures::last_mark(conn)?
        },
    };
    for table in &all {
        let Some(many) = contents.manifest.rows.get(&table.name).copied() else {
            continue;
        };
        let text = read_file(&mut contents.zip, &format!("tables/{}.json", table.name))?;
        let rows: Vec<Map<String, Value>> = serde_json::from_slice(&text)
            .map_err(|e| refused(format!("table {} cannot be read: {e}", table.name)))?;
        if rows.len() as u64 != many {
            return Err(refused(format!(
                "table {} has {} rows, and says {many}",
                table.name,
                rows.len()
            )));
        }
        if whole && ONE_ROW.contains(&table.name.as_str()) {
            diesel::sql_query(format!("DELETE FROM {}", table.name)).execute(conn)?;
        }
        for row in &rows {
            bring.row(conn, table, row)?;
        }
    }
    bring.point(conn)?;
    bring.meshes(conn, contents, now_ms)?;
    readable(conn, &bring.brought.projects)?;
    Ok(bring.brought)
}

pub(crate) fn is_empty(conn: &mut Conn) -> Result<bool, StoreError> {
    let projects: i64 = projects::table.count().get_result(conn)?;
    let printers: i64 = p::table.count().get_result(conn)?;
    let resins: i64 = r::table.count().get_result(conn)?;
    let sculpts: i64 = s::table.count().get_result(conn)?;
    let copies: i64 = copies::table.count().get_result(conn)?;
    Ok(projects + printers + resins + sculpts + copies == 0)
}

struct Bring {
    ids: Ids,
    /// Table, row, column and what it points to: rows may point forward.
    later: Vec<(String, i64, String, (String, String))>,
    /// New sculpts with the hash of their files.
    new_sculpts: Vec<(i64, String)>,
    brought: Brought,
    /// Marks go on from here.
    marks_from: i64,
    /// A whole workshop: it keeps its numbers.
    whole: bool,
}

/// A value for one column.
enum Given {
    Nothing,
    Whole(i64),
    Real(f64),
    Words(String),
    Bytes(Vec<u8>),
}

fn given(table: &str, column: &Column, value: &Value) -> Result<Given, StoreError> {
    let wrong = || {
        refused(format!(
            "{table}.{} holds what it cannot: {value}",
            column.name
        ))
    };
    Ok(match (value, column.kind) {
        (Value::Null, _) => Given::Nothing,
        (Value::Number(n), Kind::Whole) => {
            let n = n.as_i64().ok_or_else(wrong)?;
            // Counting goes on from here: there has to be room for it.
            if COUNTERS.contains(&column.name.as_str()) && n > MOST_COUNTED {
                return Err(wrong());
            }
            Given::Whole(n)
        }
        (Value::Number(n), Kind::Real) => {
            Given::Real(n.as_f64().filter(|n| n.is_finite()).ok_or_else(wrong)?)
        }
        (Value::String(text), Kind::Words) => Given::Words(text.clone()),
        (Value::String(text), Kind::Bytes) => Given::Bytes(from_hex(text).ok_or_else(wrong)?),
        _ => return Err(wrong()),
    })
}

fn from_hex(text: &str) -> Option<Vec<u8>> {
    let digit = |c: u8| (c as char).to_digit(16).map(|d| d as u8);
    let bytes = text.as_bytes().chunks(2);
    bytes
        .map(|pair| match pair {
            [high, low] => Some(digit(*high)? * 16 + digit(*low)?),
            _ => None,
        })
        .collect()
}

impl Bring {
    fn row(
        &mut self,
        conn: &mut Conn,
        table: &Table,
        row: &Map<String, Value>,
    ) -> Result<(), StoreError> {
        let is_unknown = |k: &&String| *k != "id" && table.column(k).is_none();
        if let Some(unknown) = row.keys().find(is_unknown) {
            return Err(refused(format!(
                "{} has a column '{unknown}' this Wembrit does not know",
                table.name
            )));
        }
        let uid = row.get("uid").and_then(Value::as_str).map(str::to_owned);
        if table.has_uid() {
            let uid = uid.as_deref().filter(|u| !u.is_empty() && u.len() <= 64);
            let uid =
                uid.ok_or_else(|| refused(format!("{} has a row without a uid", table.name)))?;
            if let Some(known) = self.known(conn, table, row, uid)? {
                self.ids.insert((table.name.clone(), uid.to_owned()), known);
                self.brought.known += 1;
                return Ok(());
            }
        }
        let (mut names, mut values, mut given_ones) = (Vec::new(), Vec::new(), Vec::new());
        let mut later = Vec::new();
        if let Some(id) = row.get("id").and_then(Value::as_i64).filter(|_| self.whole) {
            if !(1..=MOST_COUNTED).contains(&id) {
                return Err(refused(format!(
                    "{}.id holds what it cannot: {id}",
                    table.name
                )));
            }
            names.push("id");
            values.push("?");
            given_ones.push(Given::Whole(id));
        }
        for column in &table.columns {
            let Some(value) = row.get(&column.name) else {
                continue;
            };
            let given = match &column.to {
                None => self.mark(column, given(&table.name, column, value)?),
                Some(to) => {
                    let points = value.as_str().map(str::to_owned);
                    let found = points.and_then(|uid| {
                        let key = (to.clone(), uid);
                        match self.ids.get(&key) {
                            Some(id) => Some(*id),
                            None => {
                                later.push((column.name.clone(), key));
                                None
                            }
                        }
                    });
                    found.map_or(Given::Nothing, Given::Whole)
                }
            };
            let given = self.of_sculpt(table, column, given);
            names.push(column.name.as_str());
            values.push(if matches!(given, Given::Nothing) {
                "NULL"
            } else {
                "?"
            });
            given_ones.push(given);
        }
        let sql = format!(
            "INSERT INTO {} ({}) VALUES ({})",
            table.name,
            names.join(", "),
            values.join(", ")
        );
        let mut query = diesel::sql_query(sql).into_boxed::<Sqlite>();
        for given in given_ones {
            query = match given {
                Given::Nothing => query,
                Given::Whole(n) => query.bind::<BigInt, _>(n),
                Given::Real(n) => query.bind::<Double, _>(n),
                Given::Words(text) => query.bind::<Text, _>(text),
                Given::Bytes(bytes) => query.bind::<Binary, _>(bytes),
            };
        }
        query.execute(conn).map_err(|e| {
            let why = StoreError::from(e);
            refused(format!("a row of {} cannot be taken in: {why}", table.name))
        })?;
        let id = last_id(conn)?;
        *self.brought.rows.entry(table.name.clone()).or_default() += 1;
        if let Some(uid) = uid {
            self.ids.insert((table.name.clone(), uid), id);
        }
        // What points forward has an id: tables without one name nothing that may be empty.
        for (column, to) in later {
            self.later.push((table.name.clone(), id, column, to));
        }
        match table.name.as_str() {
            "projects" => self.brought.projects.push(ProjectId(id)),
            "sculpts" => {
                let hash = row.get("hash").and_then(Value::as_str);
                self.new_sculpts.extend(hash.map(|h| (id, h.to_owned())));
            }
            _ => {}
        }
        Ok(())
    }

    /// The row is here already. The same project twice is refused; a file with the same bytes is the same sculpt.
    fn known(
        &self,
        conn: &mut Conn,
        table: &Table,
        row: &Map<String, Value>,
        uid: &str,
    ) -> Result<Option<i64>, StoreError> {
        #[derive(QueryableByName)]
        struct Id {
            #[diesel(sql_type = BigInt)]
            id: i64,
        }
        let find = |conn: &mut Conn, column: &str, value: &str| {
            diesel::sql_query(format!("SELECT id FROM {} WHERE {column} = ?", table.name))
                .bind::<Text, _>(value.to_owned())
                .get_result::<Id>(conn)
                .optional()
        };
        let found = find(conn, "uid", uid)?;
        if table.name == "projects" && found.is_some() {
            return Err(refused(
                "this project is here already, maybe among what was put away or taken away: look there, or bring it into another workshop",
            ));
        }
        if found.is_none() && table.name == "sculpts" {
            let hash = row.get("hash").and_then(Value::as_str);
            return Ok(match hash {
                Some(hash) => find(conn, "hash", hash)?.map(|i| i.id),
                None => None,
            });
        }
        Ok(found.map(|i| i.id))
    }

    /// Marks go on from the last of this workshop.
    fn mark(&self, column: &Column, given: Given) -> Given {
        match given {
            Given::Whole(mark) if column.name == "mark" => {
                Given::Whole(mark.saturating_add(self.marks_from))
            }
            other => other,
        }
    }

    /// A sculpt waits for its file, and then to be measured.
    fn of_sculpt(&self, table: &Table, column: &Column, given: Given) -> Given {
        match (table.name.as_str(), column.name.as_str(), &given) {
            ("sculpts", "hash", _) => Given::Nothing,
            ("sculpts", "state", Given::Words(state)) if state != SculptState::Refused.as_str() => {
                Given::Words(SculptState::Incoming.as_str().into())
            }
            _ => given,
        }
    }

    /// What pointed to a row that came later.
    fn point(&self, conn: &mut Conn) -> Result<(), StoreError> {
        for (table, row, column, key) in &self.later {
            let id = self.ids.get(key).ok_or_else(|| {
                refused(format!(
                    "{table}.{column} points to a row that is not in it"
                ))
            })?;
            diesel::sql_query(format!("UPDATE {table} SET {column} = ? WHERE id = ?"))
                .bind::<BigInt, _>(*id)
                .bind::<BigInt, _>(*row)
                .execute(conn)?;
        }
        Ok(())
    }

    fn meshes<R: Read + Seek>(
        &mut self,
        conn: &mut Conn,
        contents: &mut Contents<R>,
        now_ms: i64,
    ) -> Result<(), StoreError> {
        for (id, hash) in std::mem::take(&mut self.new_sculpts) {
            let bytes = read_file(&mut contents.zip, &format!("meshes/{hash}"))
                .map_err(|_| refused(format!("the file of a sculpt is not in it: {hash}")))?;
            let file = PackedFile::new(&bytes)?;
            put_chunks(conn, SculptId(id), &file)?;
            wait_to_be_measured(conn, SculptId(id), &file, now_ms)?;
        }
        Ok(())
    }
}
