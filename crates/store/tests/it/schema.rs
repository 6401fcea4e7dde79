//! Migrations, and `schema.rs` against what they make. `cargo x schema` writes it anew.

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use diesel_migrations::{FileBasedMigrations, MigrationHarness};
use std::fmt::Write;

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
