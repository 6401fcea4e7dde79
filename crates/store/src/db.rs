//! Opening, migrating and handing out connections.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use diesel::connection::SimpleConnection;
use diesel::migration::MigrationSource;
use diesel::prelude::*;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool};
use diesel::sql_types::{BigInt, Text};
use diesel::sqlite::Sqlite;
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};

use crate::archive::is_empty;
use crate::commands::sculpts;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::lock::private;
use crate::trouble::{at_opening, damaged};
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
    opened: Arc<Opened>,
}

/// What was opened, and how it was found.
#[derive(Debug)]
struct Opened {
    path: PathBuf,
    clean: bool,
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
        // It holds people's work: nobody else on this machine reads it.
        if !path.exists() {
            private(path).map_err(|error| at_opening(&error.to_string(), path))?;
        }
        // What a clean end folds into the file lies beside it after another.
        let clean = !std::fs::metadata(beside(path, "-wal")).is_ok_and(|log| log.len() > 0);
        let mut conn = SqliteConnection::establish(url)
            .map_err(|error| at_opening(&error.to_string(), path))?;
        // First of all: a process that ends may still be tidying the file up.
        conn.batch_execute(BUSY_TIMEOUT)?;
        let ready = migrate(&mut conn, path)
            .and_then(|()| conn.immediate_transaction(sculpts::sweep_incoming));
        ready.map_err(|error: StoreError| match error {
            StoreError::Other(said) => at_opening(&said, path),
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
            opened: Arc::new(Opened {
                path: path.to_owned(),
                clean,
            }),
        })
    }

    /// Refuses what is no workshop, and makes nothing of it.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] for an empty file and for one of another program.
    pub fn is_one(path: &Path) -> Result<(), StoreError> {
        let no = |what: &str| StoreError::NotOurs(format!("{} {what}", path.display()));
        let length = std::fs::metadata(path).map(|m| m.len());
        if length.map_err(|e| no(&format!("cannot be read: {e}")))? == 0 {
            return Err(no("is an empty file: name a copy of a data file"));
        }
        let url = path.to_str();
        let url = url.ok_or_else(|| no("has a name that is not readable text"))?;
        let mut conn = SqliteConnection::establish(url)
            .map_err(|error| at_opening(&error.to_string(), path))?;
        match standing(&mut conn, path)? {
            [0, _] => Err(no("is not a data file of Wembrit: name a copy of one")),
            _ => Ok(()),
        }
    }

    /// Where it is.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.opened.path
    }

    /// It was closed as it should be before it was opened: after a power cut it is worth a look.
    #[must_use]
    pub fn was_closed(&self) -> bool {
        self.opened.clean
    }

    /// Folds what was written last into the file: the end of a server that was asked to end.
    ///
    /// # Errors
    /// [`StoreError::Busy`], and what SQLite says; nothing is lost then, and the next start looks the file through.
    pub fn close(&self) -> Result<(), StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        Ok(conn.batch_execute("PRAGMA wal_checkpoint(TRUNCATE)")?)
    }

    /// Nothing was ever put into it.
    ///
    /// # Errors
    /// As [`Store::read`].
    pub fn is_empty(&self) -> Result<bool, StoreError> {
        self.read(is_empty)
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
            .map_err(|error| at_opening(&error.to_string(), path))?;
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
            opened: Arc::new(Opened {
                path: path.to_owned(),
                clean: true,
            }),
        })
    }

    /// Everything in the file is where it belongs, page by page and reference by reference. A value out of its range
    /// is no damage: its page says so, and has the form that mends it.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] where it is not.
    pub fn check(&self) -> Result<(), StoreError> {
        let conn: &mut Conn = &mut *self.pool.get()?;
        let broken = number(
            conn,
            "SELECT (SELECT count(*) FROM pragma_quick_check \
             WHERE quick_check <> 'ok' AND quick_check NOT LIKE 'CHECK constraint failed%') + \
             (SELECT count(*) FROM pragma_foreign_key_check) AS number",
        )?;
        if broken > 0 {
            return Err(StoreError::NotOurs(damaged(&self.opened.path)));
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
    if path.exists() {
        return Err(StoreError::Other(format!(
            "{} is there already",
            path.display()
        )));
    }
    // Into an empty file of its owner's alone; what was begun goes where it fails.
    private(path).map_err(|error| at_opening(&error.to_string(), path))?;
    let written = diesel::sql_query("VACUUM INTO ?")
        .bind::<Text, _>(path.to_string_lossy().as_ref())
        .execute(conn);
    written.map(drop).map_err(|error| {
        drop(std::fs::remove_file(path));
        at_opening(&error.to_string(), path)
    })
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
    let tables = number(conn, "SELECT count(*) AS number FROM sqlite_master")
        .map_err(|error| at_opening(&error.to_string(), path))?;
    let mark = number(
        conn,
        "SELECT application_id AS number FROM pragma_application_id",
    )?;
    if tables > 0 && mark != APPLICATION_ID {
        return Err(not_ours(
            "belongs to another program: name another file with --data",
        ));
    }
    set_pragmas(conn).map_err(|error| at_opening(&error.to_string(), path))?;
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

/// A copy beside the data file, written whole before it gets its name.
fn back_up(conn: &mut Conn, path: &Path, migrations: usize) -> Result<(), StoreError> {
    let (draft, kept) = (
        beside(path, ".copying"),
        beside(path, &format!(".before-{migrations}")),
    );
    let io =
        |error: std::io::Error| StoreError::Other(format!("the copy before the update: {error}"));
    if draft.exists() {
        std::fs::remove_file(&draft).map_err(io)?;
    }
    vacuum_into(conn, &draft)?;
    std::fs::rename(draft, kept).map_err(io)
}

/// A file beside another.
fn beside(path: &Path, suffix: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(suffix);
    name.into()
}
