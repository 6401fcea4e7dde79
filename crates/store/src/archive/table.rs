//! One table by itself, row by row as an archive has it.

use serde_json::Value;

use super::Scope;
use super::columns::tables;
use super::write::rows;
use crate::conn::Conn;
use crate::error::StoreError;

/// A table: its columns, and its rows in words; what points to another row is that row's uid.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WholeTable {
    /// Names of its columns.
    pub columns: Vec<String>,
    /// In their order.
    pub rows: Vec<Vec<String>>,
}

/// The names of all tables that go out.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn table_names(conn: &mut Conn) -> Result<Vec<String>, StoreError> {
    let mut names: Vec<String> = tables(conn)?.into_iter().map(|t| t.name).collect();
    names.sort_unstable();
    Ok(names)
}

/// One of them.
///
/// # Errors
/// [`StoreError::NotFound`] for a name that is none of theirs.
pub fn whole_table(conn: &mut Conn, name: &str) -> Result<WholeTable, StoreError> {
    let all = tables(conn)?;
    let table = all.iter().find(|t| t.name == name);
    let table = table.ok_or(StoreError::NotFound { what: "table" })?;
    let mut columns: Vec<String> = table.columns.iter().map(|c| c.name.clone()).collect();
    if table.has_uid() {
        columns.insert(0, "id".into());
    }
    let mut told = Vec::new();
    for line in rows(conn, table, Scope::Workshop)? {
        let row: Value = serde_json::from_str(&line)
            .map_err(|e| StoreError::Other(format!("a row of {name}: {e}")))?;
        let cell = |column: &String| match row.get(column) {
            None | Some(Value::Null) => String::new(),
            Some(Value::String(words)) => words.clone(),
            Some(other) => other.to_string(),
        };
        told.push(columns.iter().map(cell).collect());
    }
    Ok(WholeTable {
        columns,
        rows: told,
    })
}
