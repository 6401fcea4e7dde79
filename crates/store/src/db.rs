//! Opening, migrating and handing out connections.

use std::io::Read as _;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use diesel::connection::SimpleConnection;
use diesel::migration::MigrationSource;
use diesel::prelude::*;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool};
use diesel::sql_types::{BigInt, Text};
use diesel::sqlite::Sqlite;
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};

use crate::commands::sculpts;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::until_written::Shelf;

const MIGRATIONS: EmbeddedMigrations = embed_migrations!("migrations");

/// Marks a SQLite file as ours: "WEMB".
const APPLICATION_ID: i64 = 0x5745_4d42;

/// How long to wait for somebody else's lock, in ms.
const BUSY_TIMEOUT: &str = "PRAGMA busy_timeout = 5000";

/// The data file, opened. Cheap to clone. Its functions block: call them off the async threads.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<Conn>>,
    shelf: Arc<Shelf>,
}

#[derive(Debug)]
struct Pragmas;

impl CustomizeConnection<Conn, diesel::r2d2::Error> for Pragmas {
    fn on_acquire(&self, conn: &mut Conn) -> Result<(), diesel::r2d2::Error> {
        set_pragmas(conn).map_err(diesel::r2d2::Error::QueryError)
    }
}

fn set_pragmas(conn: &mut Conn) -> QueryResult<()> {
    // First: switching to WAL may have to wait already.
    conn.batch_execute(BUSY_TIMEOUT)?;
    conn.batch_execute("PRAGMA journal_mode = WAL")?;
    conn.batch_execute("PRAGMA synchronous = FULL")?;
    conn.batch_execute("PRAGMA foreign_keys = ON")
}

impl Store {
    /// Opens a data file, makes it when it is not there, and brings it up to date. Before an
    /// existing file is changed a copy is laid beside it. Uploads that a stop cut off are swept.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] for a file of another program or of a newer Wembrit;
    /// [`StoreError::Other`] when it cannot be read or written.
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        let url = path.to_str().ok_or_else(|| {
            StoreError::NotOurs("the path of the data file is not readable text".into())
        })?;
        let mut conn = SqliteConnection::establish(url)
            .map_err(|error| StoreError::Other(format!("{}: {error}", path.display())))?;
        // First of all: a process that ends may still be tidying the file up.
        conn.batch_execute(BUSY_TIMEOUT)?;
        migrate(&mut conn, path)?;
        conn.immediate_transaction(sculpts::sweep_incoming)
            .map_err(|error: StoreError| match error {
                StoreError::Other(why) if why.contains("readonly") => read_only(path),
                StoreError::Other(why) if why.contains("malformed") => {
                    StoreError::NotOurs(damaged(path))
                }
                other => other,
            })?;
        drop(conn);
        let pool = Pool::builder()
            .max_size(8)
            .connection_customizer(Box::new(Pragmas))
            .build(ConnectionManager::new(url))?;
        Ok(Self {
            pool,
            shelf: Arc::default(),
        })
    }

    /// Opens a data file that may be in use elsewhere: it is neither made nor brought up to date nor tidied up.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] where it is not there, or of another version.
    pub fn beside(path: &Path) -> Result<Self, StoreError> {
        let no = |what: &str| StoreError::NotOurs(format!("{} {what}", path.display()));
        if !path.is_file() {
            return Err(no("is not there: name the data file with --data"));
        }
        let url = path.to_str();
        let url = url.ok_or_else(|| no("has a name that is not readable text"))?;
        let mut conn = SqliteConnection::establish(url)
            .map_err(|error| StoreError::Other(format!("{}: {error}", path.display())))?;
        conn.batch_execute(BUSY_TIMEOUT)?;
        let [applied, known] = standing(&mut conn, path)?;
        if applied < known {
            return Err(no(
                "was written by an older Wembrit: serve it once, which brings it up to date",
            ));
        }
        drop(conn);
        let pool = Pool::builder()
            .max_size(2)
            .connection_customizer(Box::new(Pragmas))
            .build(ConnectionManager::new(url))?;
        Ok(Self {
            pool,
            shelf: Arc::default(),
        })
    }

    /// Everything in the file is where it belongs, page by page and reference by reference.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] where it is not.
    pub fn check(&self) -> Result<(), StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        let broken = number(
            conn,
            "SELECT (SELECT count(*) FROM pragma_quick_check WHERE quick_check <> 'ok') + \
             (SELECT count(*) FROM pragma_foreign_key_check) AS number",
        )?;
        if broken > 0 {
            return Err(StoreError::NotOurs(
                "the file is damaged: take an older copy".into(),
            ));
        }
        Ok(())
    }

    /// Reads; everything in `work` sees the same state.
    ///
    /// # Errors
    /// What `work` returns, or [`StoreError::Busy`].
    pub fn read<T>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        conn.transaction(|conn| self.shelf.reading(conn, work))
    }

    /// Writes: all of `work` or nothing.
    ///
    /// # Errors
    /// What `work` returns, or [`StoreError::Busy`].
    pub fn write<T>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        let mut writing = self.shelf.writing();
        conn.immediate_transaction(|conn| writing.work(conn, work))
    }

    /// Writes what no page keeps: how far the tasks are. What was loaded stays kept.
    ///
    /// # Errors
    /// As [`Store::write`].
    pub fn write_aside<T>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        conn.immediate_transaction(work)
    }
}

impl Store {
    /// Writes a whole copy of the data file while it is in use.
    ///
    /// # Errors
    /// [`StoreError::Other`] when the copy cannot be written, or there is a file already.
    pub fn copy_to(&self, path: &Path) -> Result<(), StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        vacuum_into(conn, path)
    }
}

fn vacuum_into(conn: &mut Conn, path: &Path) -> Result<(), StoreError> {
    diesel::sql_query("VACUUM INTO ?")
        .bind::<Text, _>(path.to_string_lossy().as_ref())
        .execute(conn)?;
    Ok(())
}

#[derive(QueryableByName)]
struct Number {
    #[diesel(sql_type = BigInt)]
    number: i64,
}

fn number(conn: &mut Conn, sql: &str) -> QueryResult<i64> {
    diesel::sql_query(sql)
        .get_result::<Number>(conn)
        .map(|row| row.number)
}

fn failed(error: Box<dyn std::error::Error + Send + Sync>) -> StoreError {
    StoreError::Other(error.to_string())
}

/// How many migrations a file of ours has, and how many there are.
fn standing(conn: &mut Conn, path: &Path) -> Result<[usize; 2], StoreError> {
    let not_ours = |what: &str| StoreError::NotOurs(format!("{} {what}", path.display()));
    let tables = number(conn, "SELECT count(*) AS number FROM sqlite_master").map_err(|error| {
        match StoreError::from(error) {
            StoreError::Busy => StoreError::Busy,
            _ if is_sqlite(path) => StoreError::NotOurs(damaged(path)),
            _ => not_ours("is not a data file of Wembrit: name another file with --data"),
        }
    })?;
    let mark = number(
        conn,
        "SELECT application_id AS number FROM pragma_application_id",
    )?;
    if tables > 0 && mark != APPLICATION_ID {
        return Err(not_ours(
            "belongs to another program: name another file with --data",
        ));
    }
    set_pragmas(conn).map_err(|error| unwritable(error, path))?;
    let known: Vec<String> = MigrationSource::<Sqlite>::migrations(&MIGRATIONS)
        .map_err(failed)?
        .iter()
        .map(|m| m.name().version().to_string())
        .collect();
    let applied = conn.applied_migrations().map_err(failed)?;
    if applied
        .iter()
        .any(|version| !known.contains(&version.to_string()))
    {
        return Err(not_ours(
            "was written by a newer Wembrit: use that version, or a copy made before",
        ));
    }
    Ok([applied.len(), known.len()])
}

fn migrate(conn: &mut Conn, path: &Path) -> Result<(), StoreError> {
    let [applied, known] = standing(conn, path)?;
    if applied == known {
        return Ok(());
    }
    if applied > 0 {
        back_up(conn, path, applied)?;
    }
    conn.batch_execute(&format!("PRAGMA application_id = {APPLICATION_ID}"))?;
    // Rebuilding a table would trip over its own references: they are checked as a whole instead.
    conn.batch_execute("PRAGMA foreign_keys = OFF")?;
    conn.run_pending_migrations(MIGRATIONS).map_err(failed)?;
    let broken = number(
        conn,
        "SELECT count(*) AS number FROM pragma_foreign_key_check",
    )?;
    if broken > 0 {
        return Err(StoreError::BadRow(format!(
            "{broken} references lead nowhere after the update"
        )));
    }
    Ok(conn.batch_execute("PRAGMA foreign_keys = ON")?)
}

fn is_sqlite(path: &Path) -> bool {
    let mut head = [0; 16];
    let read = std::fs::File::open(path).and_then(|mut file| file.read_exact(&mut head));
    read.is_ok() && &head == b"SQLite format 3\0"
}

fn read_only(path: &Path) -> StoreError {
    StoreError::NotOurs(format!(
        "{} can only be read: give it and its folder the right to be written, or name another file with --data",
        path.display()
    ))
}

fn unwritable(error: diesel::result::Error, path: &Path) -> StoreError {
    let said = error.to_string();
    if said.contains("readonly") || said.contains("read-only") {
        read_only(path)
    } else if said.contains("malformed") || said.contains("not a database") {
        StoreError::NotOurs(damaged(path))
    } else {
        error.into()
    }
}

/// That a data file is damaged, with the copies that lie beside it.
fn damaged(path: &Path) -> String {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty());
    let beside = std::fs::read_dir(folder.unwrap_or(Path::new("."))).map_or_else(
        |_| Vec::new(),
        |entries| {
            let names = entries.filter_map(|e| e.ok()?.file_name().into_string().ok());
            let mut copies: Vec<String> = names
                .filter(|n| n.starts_with(&format!("{name}.before-")))
                .collect();
            copies.sort();
            copies
        },
    );
    let copies = if beside.is_empty() {
        "there is no copy beside it: take one from your backup".to_owned()
    } else {
        format!("copies beside it: {}", beside.join(", "))
    };
    format!("{} is damaged; {copies}", path.display())
}

/// A copy beside the data file, written whole before it gets its name.
fn back_up(conn: &mut Conn, path: &Path, migrations: usize) -> Result<(), StoreError> {
    let beside = |suffix: &str| -> PathBuf {
        let mut name = path.as_os_str().to_owned();
        name.push(suffix);
        name.into()
    };
    let (draft, kept) = (beside(".copying"), beside(&format!(".before-{migrations}")));
    let io =
        |error: std::io::Error| StoreError::Other(format!("the copy before the update: {error}"));
    if draft.exists() {
        std::fs::remove_file(&draft).map_err(io)?;
    }
    vacuum_into(conn, &draft)?;
    std::fs::rename(draft, kept).map_err(io)
}
