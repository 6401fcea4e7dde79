//! The pages: parses requests, calls store and core, renders. No rule of the job lives here.
//!
//! [`launch`] is the door. Inside: `router` (every route), `guard` (who may ask), `net` (who may be connected), `door` (who may come in), `state`,
//! `error`, `jobs` (long work off the async threads), [`printers`] (those that are connected), `handlers` / `forms` / `views` by page,
//! `assets` (style, scripts and fonts, shipped in the binary).

pub mod apart;
mod asked;
mod assets;
mod attended;
mod clock;
mod currency;
mod door;
mod error;
mod forms;
mod guard;
mod handlers;
mod jobs;
mod net;
mod once;
mod pace;
mod part_files;
mod photo;
pub mod printers;
mod router;
mod sent_forms;
mod settings;
mod state;
mod views;
mod whole;
mod worked;

pub use clock::Clock;
pub use door::{PassphraseError, keep_passphrase};
pub use error::LaunchError;
pub use net::Room;
pub use router::router;
pub use settings::Settings;
pub use state::App;

use std::future::Future;

use tokio::net::TcpListener;
use wembrit_store::Store;

/// Serves until `shutdown` resolves; running work gets the time to stop.
///
/// # Errors
/// [`LaunchError`] when background work cannot start, or the data file cannot be closed at the end.
pub async fn launch(
    store: Store,
    settings: Settings,
    listener: TcpListener,
    shutdown: impl Future<Output = ()> + Send + 'static,
) -> Result<(), LaunchError> {
    let app = App::new(store.clone(), settings);
    app.sweep_waiting();
    whole::look(&app)?;
    let workers = jobs::Workers::start(app.clone())?;
    let links = printers::link::Links::start(app.clone());
    let (streams, ending, room) = (app.clone(), app.clone(), app.settings.room);
    net::serve(listener, router(app), room, async move {
        shutdown.await;
        streams.stop_streams();
    })
    .await;
    drop(links);
    workers.stop();
    ending.sweep_waiting();
    Ok(store.close()?)
}
