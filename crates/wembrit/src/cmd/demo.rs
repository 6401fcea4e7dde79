//! `wembrit demo`: the Brackwater Levy, half way.

use std::path::PathBuf;

use clap::Args;
use wembrit_store::{DataLock, Store};
use wembrit_web::Settings;

use super::serve::Listening;
use super::{CommandError, demo_printers};

/// Serve the demo army.
#[derive(Debug, Args)]
pub(crate) struct Demo {
    #[command(flatten)]
    listening: Listening,
    /// Keep the demo in this file and go on with it at the next start; else it is made anew in a
    /// temporary one.
    #[arg(long, value_name = "FILE")]
    data: Option<PathBuf>,
    /// Without its three simulated printers: runs are written down by hand.
    #[arg(long)]
    by_hand: bool,
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
        let now_ms = settings.clock.now_ms();
        let memory = match &self.data {
            Some(file) => file.with_extension("printers"),
            None => folder.path().join("printers"),
        };
        let beside = async {
            if self.by_hand {
                return Ok(());
            }
            let speed = self.listening.speed();
            demo_printers::start(&store.clone(), &memory, speed, now_ms).await
        };
        self.listening.serve(store.clone(), settings, beside)
    }
}
