//! Migrations, and `schema.rs` against what they make. `cargo x schema` writes it anew.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use diesel_migrations::{FileBasedMigrations, MigrationHarness};

#[derive(QueryableByName)]
struct Column {
    #[diesel(sql_type = Text)]
    name: String,
    #[diesel(sql_type = Text)]
    kind: String,
    #[diesel(sql_type = BigInt)]
    filled: i64,
    #[diesel(sql_type = BigInt)]
    key: i64,
}

#[derive(QueryableByName, PartialEq, Eq, PartialOrd, Ord)]
struct Words {
    #[diesel(sql_type = Text)]
    one: String,
    #[diesel(sql_type = Text)]
    two: String,
}

fn migrations() -> FileBasedMigrations {
    FileBasedMigrations::from_path(concat!(env!("CARGO_MANIFEST_DIR"), "/migrations"))
        .expect("the folder is there")
}

fn words(conn: &mut SqliteConnection, sql: &str) -> Vec<Words> {
    diesel::sql_query(sql).load(conn).expect("a fixed query")
}

fn render(conn: &mut SqliteConnection) -> String {
    let tables = words(
        conn,
        "SELECT name AS one, '' AS two FROM sqlite_master WHERE type = 'table' AND name NOT LIKE '\\_\\_%' ESCAPE '\\' \
         AND name NOT LIKE 'sqlite%' ORDER BY name",
    );
    let mut out =
        String::from("// Generated from the migrations by `cargo x schema`; do not edit.\n");
    for Words { one: table, .. } in &tables {
        let sql = format!(
            "SELECT name, type AS kind, \"notnull\" AS filled, pk AS key FROM pragma_table_info('{table}')"
        );
        let columns: Vec<Column> = diesel::sql_query(sql).load(conn).expect("a fixed query");
        let mut keys: Vec<&Column> = columns.iter().filter(|c| c.key > 0).collect();
        keys.sort_by_key(|c| c.key);
        let keys: Vec<&str> = keys.iter().map(|c| c.name.as_str()).collect();
        write!(
            out,
            "\ndiesel::table! {{\n    {table} ({}) {{\n",
            keys.join(", ")
        )
        .expect("a string takes it");
        for column in &columns {
            let kind = match column.kind.as_str() {
                "INTEGER" => "BigInt",
                "REAL" => "Double",
                "TEXT" => "Text",
                "BLOB" => "Binary",
                other => panic!("{table}.{}: no type for {other}", column.name),
            };
            let kind = if column.filled == 1 {
                kind.into()
            } else {
                format!("Nullable<{kind}>")
            };
            writeln!(out, "        {} -> {kind},", column.name).expect("a string takes it");
        }
        out.push_str("    }\n}\n");
    }
    out.push('\n');
    let mut joined: Vec<[String; 2]> = Vec::new();
    for Words { one: table, .. } in &tables {
        let keys = format!(
            "SELECT \"from\" AS one, \"table\" AS two FROM pragma_foreign_key_list('{table}') ORDER BY \"from\""
        );
        for Words {
            one: column,
            two: other,
        } in words(conn, &keys)
        {
            // Diesel joins a pair of tables in one way only: the second is joined by hand, and so
            // is a table with itself.
            let mut pair = [table.clone(), other.clone()];
            pair.sort();
            if joined.contains(&pair) || *table == other {
                continue;
            }
            joined.push(pair);
            writeln!(out, "diesel::joinable!({table} -> {other} ({column}));")
                .expect("a string takes it");
        }
    }
    out.push_str("\ndiesel::allow_tables_to_appear_in_same_query!(\n");
    for Words { one: table, .. } in &tables {
        writeln!(out, "    {table},").expect("a string takes it");
    }
    out.push_str(");\n");
    out
}

#[test]
fn schema_rs_is_what_the_migrations_make() {
    let mut conn = SqliteConnection::establish(":memory:").unwrap();
    conn.run_pending_migrations(migrations()).unwrap();
    let fresh = render(&mut conn);
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/src/schema.rs");
    if std::env::var_os("WEMBRIT_WRITE_SCHEMA").is_some() {
        std::fs::write(path, &fresh).unwrap();
    }
    assert_eq!(
        std::fs::read_to_string(path).unwrap(),
        fresh,
        "run `cargo x schema`"
    );
}

#[test]
fn every_migration_goes_up_down_and_up_again() {
    let mut conn = SqliteConnection::establish(":memory:").unwrap();
    let tables = |conn: &mut SqliteConnection| {
        words(
            conn,
            "SELECT name AS one, coalesce(sql, '') AS two FROM sqlite_master ORDER BY name",
        )
    };
    conn.run_pending_migrations(migrations()).unwrap();
    let once = tables(&mut conn);
    conn.revert_all_migrations(migrations()).unwrap();
    assert!(
        tables(&mut conn)
            .iter()
            .all(|t| t.one.contains("diesel") || t.one.starts_with("sqlite"))
    );
    conn.run_pending_migrations(migrations()).unwrap();
    assert!(tables(&mut conn) == once);
}

#[test]
fn tables_are_strict_and_nothing_cascades() {
    let mut conn = SqliteConnection::establish(":memory:").unwrap();
    conn.run_pending_migrations(migrations()).unwrap();
    for table in words(
        &mut conn,
        "SELECT name AS one, sql AS two FROM sqlite_master WHERE type = 'table' AND name NOT LIKE '%diesel%' AND name NOT LIKE 'sqlite%'",
    ) {
        assert!(table.two.contains("STRICT"), "{} is not strict", table.one);
        assert!(
            !table.two.to_uppercase().contains("CASCADE"),
            "{} cascades",
            table.one
        );
    }
    assert!(
        conn.batch_execute("UPDATE workshop SET clearance_mm = 'wide'")
            .is_err()
    );
}

/// A line of `export-columns.txt` for a table: its name and what it says after each word.
fn listed() -> BTreeMap<String, BTreeMap<String, Vec<String>>> {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/export-columns.txt");
    let text = std::fs::read_to_string(path).expect("the list is there");
    let mut all: BTreeMap<String, BTreeMap<String, Vec<String>>> = BTreeMap::new();
    let mut table = String::new();
    for line in text
        .lines()
        .filter(|l| !l.starts_with('#') && !l.is_empty())
    {
        if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
            table = name.to_owned();
            let before = all.insert(table.clone(), BTreeMap::new());
            assert!(before.is_none(), "{table} is listed twice");
            continue;
        }
        let (word, rest) = line.split_once(": ").expect("a word and what it says");
        let words = rest.split(' ').map(str::to_owned).collect();
        let of = all.get_mut(&table).expect("a table comes first");
        of.insert(word.to_owned(), words);
    }
    all
}

/// Every column goes out or stays for a reason, and what goes out is known by a uid or by what it
/// belongs to.
#[test]
fn no_column_is_forgotten_by_an_export() {
    let mut conn = SqliteConnection::establish(":memory:").expect("memory");
    conn.run_pending_migrations(migrations()).expect("they run");
    let mut listed = listed();
    let columns = words(
        &mut conn,
        "SELECT m.name AS one, c.name AS two FROM sqlite_master m, pragma_table_info(m.name) c WHERE m.type = 'table' \
         AND m.name NOT LIKE '\\_\\_%' ESCAPE '\\' AND m.name NOT LIKE 'sqlite%'",
    );
    let mut tables: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for Words { one, two } in columns {
        tables.entry(one).or_default().insert(two);
    }
    for (table, columns) in tables {
        let list = listed.remove(&table);
        let mut list = list.unwrap_or_else(|| panic!("{table} is not in export-columns.txt"));
        if list.contains_key("whole") {
            continue;
        }
        let mut of = |word: &str| list.remove(word).unwrap_or_default();
        let (out, stays, key) = (of("out"), of("stays"), of("key"));
        let named: BTreeSet<String> = out.iter().chain(&stays).cloned().collect();
        assert_eq!(named, columns, "the columns of {table} and its list");
        assert_eq!(
            named.len(),
            out.len() + stays.len(),
            "{table}: out or stays"
        );
        let known = if key.is_empty() {
            vec!["uid".to_owned()]
        } else {
            key
        };
        assert!(
            known.iter().all(|k| out.contains(k)),
            "{table} is known by {known:?}"
        );
        // A number of this file means nothing outside; it must not go out under another name.
        assert!(!out.contains(&"id".to_owned()), "{table}");
    }
    assert!(
        listed.is_empty(),
        "listed, but not there: {:?}",
        listed.keys()
    );
}
