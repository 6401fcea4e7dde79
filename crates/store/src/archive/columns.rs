//! The tables and columns that go out, with what they point to.

use std::collections::{BTreeMap, BTreeSet};

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};

use crate::conn::Conn;
use crate::error::StoreError;

const LIST: &str = include_str!("../../export-columns.txt");

/// How a column is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kind {
    Whole,
    Real,
    Words,
    Bytes,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Column {
    pub(super) name: String,
    pub(super) kind: Kind,
    /// It may not be empty.
    pub(super) filled: bool,
    /// The table it points to: it goes out as that row's uid.
    pub(super) to: Option<String>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Table {
    pub(super) name: String,
    pub(super) columns: Vec<Column>,
}

impl Table {
    pub(super) fn has_uid(&self) -> bool {
        self.columns.iter().any(|c| c.name == "uid")
    }

    pub(super) fn column(&self, name: &str) -> Option<&Column> {
        self.columns.iter().find(|c| c.name == name)
    }
}

#[derive(QueryableByName)]
struct Known {
    #[diesel(sql_type = Text)]
    name: String,
    #[diesel(sql_type = Text)]
    kind: String,
    #[diesel(sql_type = BigInt)]
    filled: i64,
}

#[derive(QueryableByName)]
struct Points {
    #[diesel(sql_type = Text)]
    column: String,
    #[diesel(sql_type = Text)]
    target: String,
}

/// Names of tables with the columns that go out; tables that stay as a whole are not among them.
fn listed() -> BTreeMap<String, Vec<String>> {
    let mut all: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let mut table = String::new();
    for line in LIST.lines() {
        if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
            name.clone_into(&mut table);
        } else if let Some(columns) = line.strip_prefix("out:") {
            let columns = columns.split_whitespace().map(str::to_owned);
            all.insert(table.clone(), columns.collect());
        }
    }
    all
}

/// All tables that go out, each after those its filled columns point to.
pub(super) fn tables(conn: &mut Conn) -> Result<Vec<Table>, StoreError> {
    let mut open: Vec<Table> = Vec::new();
    for (name, out) in listed() {
        let known: Vec<Known> = diesel::sql_query(format!(
            "SELECT name, type AS kind, \"notnull\" AS filled FROM pragma_table_info('{name}')"
        ))
        .load(conn)?;
        let points: Vec<Points> = diesel::sql_query(format!(
            "SELECT \"from\" AS \"column\", \"table\" AS target FROM pragma_foreign_key_list('{name}')"
        ))
        .load(conn)?;
        let column = |wanted: &String| {
            let known = known.iter().find(|k| k.name == *wanted)?;
            Some(Column {
                name: wanted.clone(),
                kind: match known.kind.as_str() {
                    "REAL" => Kind::Real,
                    "BLOB" => Kind::Bytes,
                    "TEXT" => Kind::Words,
                    _ => Kind::Whole,
                },
                filled: known.filled == 1,
                to: points
                    .iter()
                    .find(|p| p.column == *wanted)
                    .map(|p| p.target.clone()),
            })
        };
        open.push(Table {
            columns: out.iter().filter_map(column).collect(),
            name,
        });
    }
    let mut done: BTreeSet<String> = BTreeSet::new();
    let mut ordered = Vec::new();
    while !open.is_empty() {
        let ready = |t: &Table| {
            let needs = t.columns.iter().filter(|c| c.filled);
            needs
                .filter_map(|c| c.to.as_ref())
                .all(|to| *to == t.name || done.contains(to))
        };
        let Some(next) = open.iter().position(ready) else {
            return Err(StoreError::Other("tables that need each other".into()));
        };
        let table = open.remove(next);
        done.insert(table.name.clone());
        ordered.push(table);
    }
    Ok(ordered)
}
