//! `wembrit passphrase`: lets other devices in who know it.

use std::path::PathBuf;

use clap::Args;
use wembrit_store::{DataLock, Store, commands};
use wembrit_web::keep_passphrase;

use super::CommandError;

/// Set the passphrase of a workshop.
#[derive(Debug, Args)]
pub(crate) struct Passphrase {
    /// The data file.
    #[arg(long, default_value = "wembrit.sqlite", value_name = "FILE")]
    data: PathBuf,
}

impl Passphrase {
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let mut words = String::new();
        let read = std::io::stdin().read_line(&mut words);
        read.map_err(|why| CommandError::File {
            path: PathBuf::from("standard input"),
            why,
        })?;
        let kept = keep_passphrase(&words)?;
        let _held = DataLock::take(&self.data)?;
        let store = Store::open(&self.data)?;
        store.write(|c| commands::workshop::set_passphrase(c, &kept))?;
        Ok(())
    }
}
