//! What every handler has at hand.

use std::path::PathBuf;
use std::sync::atomic::{AtomicI64, AtomicU8, AtomicUsize, Ordering};
use std::sync::{Arc, Condvar, Mutex, OnceLock, PoisonError};
use std::time::Duration;

use tokio::sync::{OwnedSemaphorePermit, Semaphore, broadcast, watch};
use wembrit_core::currency::Currency;
use wembrit_core::ids::ProjectId;
use wembrit_store::commands::form_keys;
use wembrit_store::queries::workshop;
use wembrit_store::{Conn, Store, StoreError};

use crate::clock::Clock;
use crate::currency;
use crate::door::Door;
use crate::error::WebError;
use crate::once::{self, Sent};
use crate::pace::Pace;
use crate::printers::Printers;
use crate::settings::Settings;
use crate::worked::Kept;

/// What a piece of news is about. Pages fetch again what depends on it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Topic {
    /// Sculpts and what is measured on them.
    Sculpts,
    /// Plans and plates.
    Plates,
    /// What connected printers say.
    Printers,
}

impl Topic {
    pub(crate) const fn as_str(self) -> &'static str {
        match self {
            Topic::Sculpts => "sculpts",
            Topic::Plates => "plates",
            Topic::Printers => "printers",
        }
    }
}

/// Something a person waits for is under way as long as this lives.
pub(crate) struct Urgent(Arc<AtomicUsize>);

impl Drop for Urgent {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

/// The application's state; cheap to clone.
#[derive(Clone)]
pub struct App {
    pub(crate) store: Store,
    pub(crate) settings: Arc<Settings>,
    /// The project that was looked at last; 0 for none.
    last_project: Arc<AtomicI64>,
    /// How often the bell was rung: every lane has to hear it.
    bell: Arc<(Mutex<u64>, Condvar)>,
    news: broadcast::Sender<Topic>,
    stopping: watch::Sender<bool>,
    /// Whose turn it is to make a file of a mesh.
    exports: Arc<Semaphore>,
    /// How many things are under way that a person waits for.
    urgent: Arc<AtomicUsize>,
    /// Who comes in from other devices.
    pub(crate) door: Arc<Door>,
    /// How long tasks took of late.
    pub(crate) pace: Arc<Pace>,
    /// What was worked out for pages.
    pub(crate) worked: Arc<Kept>,
    /// Those that are connected.
    pub(crate) printers: Arc<Printers>,
    /// What time it is.
    clock: Arc<Mutex<Clock>>,
    /// Decimals of the workshop's currency.
    decimals: Arc<AtomicU8>,
    /// Forms that were sent of late.
    pub(crate) sent: Arc<Sent>,
    /// What is wrong with the data file, once that is known.
    damage: Arc<OnceLock<String>>,
}

impl App {
    /// A server's state around its data file.
    #[must_use]
    pub fn new(store: Store, settings: Settings) -> Self {
        let known = store
            .read(workshop::load)
            .map(|w| Currency::of(&w.currency).decimals);
        Self {
            decimals: Arc::new(AtomicU8::new(known.unwrap_or(2))),
            store,
            last_project: Arc::default(),
            bell: Arc::default(),
            news: broadcast::Sender::new(64),
            stopping: watch::Sender::new(false),
            exports: Arc::new(Semaphore::new(1)),
            urgent: Arc::default(),
            door: Arc::default(),
            pace: Arc::default(),
            worked: Arc::default(),
            printers: Arc::default(),
            clock: Arc::new(Mutex::new(settings.clock)),
            sent: Arc::default(),
            damage: Arc::default(),
            settings: Arc::new(settings),
        }
    }

    /// The folder beside the data file in which archives wait between being looked at and brought in: they hold what the
    /// data file holds, and are for the same eyes.
    pub(crate) fn waiting(&self) -> PathBuf {
        let mut name = self.store.path().as_os_str().to_owned();
        name.push(".waiting");
        name.into()
    }

    /// Nobody waits for an archive any more.
    pub(crate) fn sweep_waiting(&self) {
        let folder = self.waiting();
        if folder.exists()
            && let Err(error) = std::fs::remove_dir_all(&folder)
        {
            tracing::warn!(%error, folder = %folder.display(), "archives that waited could not be removed");
        }
    }

    /// The data file is damaged: this is said from now on.
    pub(crate) fn is_damaged(&self, why: String) {
        tracing::error!("{why}");
        // It is said once.
        drop(self.damage.set(why));
    }

    /// What is wrong with the data file.
    pub(crate) fn damage(&self) -> Option<&str> {
        self.damage.get().map(String::as_str)
    }

    /// The workshop's currency.
    pub(crate) fn currency(&self) -> Currency {
        let decimals = self.decimals.load(Ordering::Relaxed);
        Currency { decimals }
    }

    /// The workshop counts in this currency from now on.
    pub(crate) fn counts_in(&self, code: &str) {
        let decimals = Currency::of(code).decimals;
        self.decimals.store(decimals, Ordering::Relaxed);
    }

    /// A page of this project is looked at: pages of no project show it from now on.
    pub(crate) fn look_at(&self, project: ProjectId) {
        self.last_project.store(project.0, Ordering::Relaxed);
    }

    /// The project that was looked at last.
    pub(crate) fn last_project(&self) -> Option<ProjectId> {
        let id = self.last_project.load(Ordering::Relaxed);
        (id > 0).then_some(ProjectId(id))
    }

    /// Waits until no other file is made of a mesh; the turn ends when what is given is dropped.
    pub(crate) async fn export_turn(&self) -> Option<OwnedSemaphorePermit> {
        Arc::clone(&self.exports).acquire_owned().await.ok()
    }

    /// Now, in ms since 1970.
    pub(crate) fn now_ms(&self) -> i64 {
        self.clock().now_ms()
    }

    /// The clock as it is set.
    pub(crate) fn clock(&self) -> Clock {
        *self.clock.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// From now on time passes so many times as fast.
    pub(crate) fn passes(&self, speed: f64) {
        let mut clock = self.clock.lock().unwrap_or_else(PoisonError::into_inner);
        *clock = Clock::running(clock.now_ms(), speed);
    }

    /// Reads off the async threads.
    pub(crate) async fn read<T: Send + 'static>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let store = self.store.clone();
        let work = currency::carried(move || store.read(work));
        Ok(tokio::task::spawn_blocking(work).await??)
    }

    /// Reads what a page shows, off the async threads, with what is around it at hand.
    pub(crate) async fn view<T: Send + 'static>(
        &self,
        work: impl FnOnce(&mut Conn, &Self) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let app = self.clone();
        self.read(move |c| work(c, &app)).await
    }

    /// Writes off the async threads: all of it or nothing. The first write of a form spends its key.
    pub(crate) async fn write<T: Send + 'static>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let (store, key, now) = (self.store.clone(), once::take(), self.now_ms());
        let work = currency::carried(move || {
            store.write(|c| {
                if let Some(key) = &key {
                    form_keys::spend(c, key, now)?;
                }
                work(c)
            })
        });
        Ok(tokio::task::spawn_blocking(work).await??)
    }

    /// Tells every open page that something of this topic has changed.
    pub(crate) fn tell(&self, topic: Topic) {
        // Nobody listening is no fault.
        let _ = self.news.send(topic);
    }

    /// News from here on, and whether the server is stopping.
    pub(crate) fn listen(&self) -> (broadcast::Receiver<Topic>, watch::Receiver<bool>) {
        (self.news.subscribe(), self.stopping.subscribe())
    }

    /// Ends every open stream: they would hold the door for ever.
    pub(crate) fn stop_streams(&self) {
        self.stopping.send_replace(true);
    }

    /// Something that a person waits for begins; searches wait until it ends.
    pub(crate) fn urgent(&self) -> Urgent {
        self.urgent.fetch_add(1, Ordering::Relaxed);
        Urgent(self.urgent.clone())
    }

    /// Somebody waits for something shorter than a search.
    pub(crate) fn is_urgent(&self) -> bool {
        self.urgent.load(Ordering::Relaxed) > 0
    }

    /// Wakes the workers: there may be a task.
    pub(crate) fn ring(&self) {
        let mut rung = self.bell.0.lock().unwrap_or_else(PoisonError::into_inner);
        *rung += 1;
        self.bell.1.notify_all();
    }

    /// Waits until the bell is rung beyond what was heard, at most this long; says what is heard
    /// now.
    pub(crate) fn wait_for_bell(&self, heard: u64, at_most: Duration) -> u64 {
        let rung = self.bell.0.lock().unwrap_or_else(PoisonError::into_inner);
        let waited = self
            .bell
            .1
            .wait_timeout_while(rung, at_most, |rung| *rung == heard);
        *waited.unwrap_or_else(PoisonError::into_inner).0
    }
}
