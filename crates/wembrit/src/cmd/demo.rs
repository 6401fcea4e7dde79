//! `wembrit demo`: the Brackwater Levy, half way.

use std::path::PathBuf;

use clap::Args;
use wembrit_store::{DataLock, Store};
use wembrit_web::Settings;

use super::CommandError;
use super::serve::Listening;

/// Serve the demo army.
#[derive(Debug, Args)]
pub(crate) struct Demo {
    #[command(flatten)]
    listening: Listening,
    /// Keep the demo in this file and go on with it at the next start; else it is made anew in a
    /// temporary one.
    #[arg(long, value_name = "FILE")]
    data: Option<PathBuf>,
}

impl Demo {
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let folder = tempfile::tempdir().map_err(|why| CommandError::File {
            path: std::env::temp_dir(),
            why,
        })?;
        let path = self
            .data
            .clone()
            .unwrap_or_else(|| folder.path().join("demo.sqlite"));
        let fresh = !path.exists();
        let _held = DataLock::take(&path)?;
        let store = Store::open(&path)?;
        let settings = Settings {
            clock: self.listening.clock(),
            measure: super::apart::measure_where(),
            demo: true,
            ..Settings::default()
        };
        if fresh {
            wembrit_demo::open(&store, settings.clock.now_ms())?;
        }
        self.listening.serve(store, settings)
    }
}
