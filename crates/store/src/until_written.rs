//! What was loaded, kept until somebody writes: a maker looks at many pages between two writes, and most of them begin
//! with the same army.
//!
//! A reading knows whether it sees the newest state: nobody was writing while it began, and nobody had written between.
//! Only such a reading takes what is kept and keeps what it loads. One process alone has the data file, so nobody
//! writes unseen.

use std::any::{Any, TypeId};
use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use diesel::connection::SimpleConnection as _;
use diesel::dsl::sql;
use diesel::prelude::*;
use diesel::sql_types::BigInt;

use crate::conn::Conn;
use crate::error::StoreError;

/// Things kept at once; beyond that it begins anew.
const MOST: usize = 64;

type Key = (TypeId, &'static str, Vec<i64>);
type Thing = Arc<dyn Any + Send + Sync>;

/// What was loaded from one data file since it was written last.
#[derive(Default)]
pub(crate) struct Shelf {
    /// Who writes just now.
    writing: AtomicUsize,
    /// Writes that are over.
    written: AtomicU64,
    /// Of which state, and what.
    kept: Mutex<(u64, HashMap<Key, Thing>)>,
}

/// The state a reading sees.
#[derive(Clone)]
struct Seen {
    shelf: Arc<Shelf>,
    written: u64,
}

thread_local! {
    static SEEN: RefCell<Option<Seen>> = const { RefCell::new(None) };
    /// Something is being loaded that will be kept.
    static LOADING: Cell<bool> = const { Cell::new(false) };
}

/// Whatever asks for what is written aside says so here: kept, it would tell what was.
///
/// # Panics
/// In debug builds, where it is asked for within something that is kept.
pub(crate) fn never_kept() {
    debug_assert!(!LOADING.get(), "what is written aside would be kept");
}

/// Somebody writes as long as this lives.
pub(crate) struct Writing<'a> {
    shelf: &'a Shelf,
    /// Nothing came of it: no row was changed.
    in_vain: bool,
}

impl Writing<'_> {
    /// A write inside its transaction. Whoever looks for work and finds none has written nothing.
    pub(crate) fn work<T>(
        &mut self,
        conn: &mut Conn,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let before = changes(conn)?;
        let done = work(conn)?;
        self.in_vain = changes(conn)? == before;
        Ok(done)
    }
}

impl Drop for Writing<'_> {
    fn drop(&mut self) {
        if !self.in_vain {
            self.shelf.written.fetch_add(1, Ordering::SeqCst);
        }
        self.shelf.writing.fetch_sub(1, Ordering::SeqCst);
    }
}

/// Rows this connection has changed so far.
fn changes(conn: &mut Conn) -> QueryResult<i64> {
    diesel::select(sql::<BigInt>("total_changes()")).get_result(conn)
}

/// Ends the reading of this thread, also where it panics.
struct Reading;

impl Drop for Reading {
    fn drop(&mut self) {
        SEEN.with_borrow_mut(|seen| *seen = None);
        LOADING.set(false);
    }
}

impl Shelf {
    /// A write begins.
    pub(crate) fn writing(&self) -> Writing<'_> {
        self.writing.fetch_add(1, Ordering::SeqCst);
        Writing {
            shelf: self,
            in_vain: false,
        }
    }

    /// A reading inside its transaction.
    pub(crate) fn reading<T>(
        self: &Arc<Self>,
        conn: &mut Conn,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let written = self.written.load(Ordering::SeqCst);
        // From the first question on a transaction sees one state.
        conn.batch_execute("SELECT 1 FROM sqlite_schema LIMIT 1")?;
        let newest = self.writing.load(Ordering::SeqCst) == 0
            && self.written.load(Ordering::SeqCst) == written;
        let seen = newest.then(|| Seen {
            shelf: self.clone(),
            written,
        });
        SEEN.with_borrow_mut(|s| *s = seen);
        let _ends = Reading;
        work(conn)
    }

    fn find(&self, written: u64, key: &Key) -> Option<Thing> {
        let kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        (kept.0 == written).then(|| kept.1.get(key).cloned())?
    }

    fn keep(&self, written: u64, key: Key, thing: Thing) {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.0 < written || (kept.0 == written && kept.1.len() >= MOST) {
            *kept = (written, HashMap::new());
        }
        if kept.0 == written {
            kept.1.insert(key, thing);
        }
    }
}

/// What was loaded under this name with these identities, else what is loaded now.
pub(crate) fn kept<T: Send + Sync + 'static>(
    conn: &mut Conn,
    (name, of): (&'static str, &[i64]),
    load: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
) -> Result<Arc<T>, StoreError> {
    let Some(seen) = SEEN.with_borrow(Clone::clone) else {
        return load(conn).map(Arc::new);
    };
    let key = (TypeId::of::<T>(), name, of.to_vec());
    let known = seen.shelf.find(seen.written, &key);
    if let Some(known) = known.and_then(|thing| thing.downcast::<T>().ok()) {
        return Ok(known);
    }
    let within = LOADING.replace(true);
    let loaded = load(conn);
    LOADING.set(within);
    let loaded = Arc::new(loaded?);
    seen.shelf.keep(seen.written, key, loaded.clone());
    Ok(loaded)
}

#[cfg(test)]
mod tests {
    use std::panic::{AssertUnwindSafe, catch_unwind};
    use std::sync::atomic::AtomicBool;

    use wembrit_core::flow::{TaskKind, TaskState};

    use super::*;
    use crate::{Store, commands, queries};

    #[derive(QueryableByName)]
    struct Tally {
        #[diesel(sql_type = BigInt)]
        n: i64,
    }

    fn tally(conn: &mut Conn) -> Result<i64, StoreError> {
        let row: Tally = diesel::sql_query("SELECT n FROM tally").get_result(conn)?;
        Ok(row.n)
    }

    fn kept_tally(conn: &mut Conn) -> Result<Arc<i64>, StoreError> {
        kept(conn, ("tally", &[]), tally)
    }

    fn count_up(conn: &mut Conn) -> Result<(), StoreError> {
        Ok(conn.batch_execute("UPDATE tally SET n = n + 1")?)
    }

    fn store() -> (tempfile::TempDir, Store) {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("w.sqlite")).unwrap();
        let made = "CREATE TABLE tally (n INTEGER); INSERT INTO tally VALUES (1)";
        store.write(|c| Ok(c.batch_execute(made)?)).unwrap();
        (folder, store)
    }

    #[test]
    fn it_is_loaded_once_until_somebody_writes() {
        let (_folder, store) = store();
        let first = store.read(kept_tally).unwrap();
        assert!(Arc::ptr_eq(&first, &store.read(kept_tally).unwrap()));
        store
            .write(|c| Ok(c.batch_execute("UPDATE tally SET n = 9 WHERE n = 8")?))
            .unwrap();
        assert!(Arc::ptr_eq(&first, &store.read(kept_tally).unwrap()));
        // The same name of something else is something else.
        let other = store.read(|c| kept(c, ("tally", &[2]), |_| Ok(7_i64)));
        assert_eq!((*first, *other.unwrap()), (1, 7));
        // Who writes sees what they wrote, also after a reading that broke off.
        let broken = catch_unwind(AssertUnwindSafe(|| store.read::<()>(|_| panic!("a fault"))));
        assert!(broken.is_err());
        let in_between = store.write(|c| {
            count_up(c)?;
            kept_tally(c)
        });
        assert_eq!(*in_between.unwrap(), 2);
        assert_eq!(*store.read(kept_tally).unwrap(), 2);
    }

    #[test]
    fn what_is_written_aside_leaves_the_rest_kept() {
        let (_folder, store) = store();
        let first = store.read(kept_tally).unwrap();
        let task = |c: &mut Conn| {
            commands::tasks::ask(c, TaskKind::Measure, "a", 1)?;
            commands::tasks::claim(c, TaskKind::Measure.lane(), 2)
        };
        let task = store.write_aside(task).unwrap().unwrap();
        store
            .write_aside(|c| {
                // While it is written too.
                assert!(Arc::ptr_eq(&first, &store.read(kept_tally)?));
                commands::tasks::report(c, &task, 0.5)
            })
            .unwrap();
        assert!(Arc::ptr_eq(&first, &store.read(kept_tally).unwrap()));
        let running = |c: &mut Conn| queries::tasks::list(c, TaskState::Running);
        let found = store.read(running).unwrap();
        assert_eq!(found[0].progress, 0.5);
        // Who would keep it is stopped, and nobody after them.
        let keeping = || store.read(|c| kept(c, ("tasks", &[]), running));
        assert!(catch_unwind(AssertUnwindSafe(keeping)).is_err());
        assert_eq!(store.read(running).unwrap().len(), 1);
    }

    /// Whatever is written meanwhile, what is kept is what the same reading finds in the file.
    #[test]
    fn what_is_kept_is_what_the_reading_sees() {
        let (_folder, store) = store();
        let done = AtomicBool::new(false);
        std::thread::scope(|scope| {
            let readers: Vec<_> = (0..3)
                .map(|_| {
                    scope.spawn(|| {
                        let mut looks = 0;
                        while looks < 200 || !done.load(Ordering::Relaxed) {
                            let both = store.read(|c| Ok((tally(c)?, *kept_tally(c)?)));
                            let (found, kept) = both.unwrap();
                            assert_eq!(found, kept);
                            looks += 1;
                        }
                    })
                })
                .collect();
            for _ in 0..200 {
                store.write(count_up).unwrap();
            }
            done.store(true, Ordering::Relaxed);
            for reader in readers {
                reader.join().unwrap();
            }
        });
        assert_eq!(*store.read(kept_tally).unwrap(), 201);
    }
}
