//! `wembrit import`: an archive comes in.

use std::fs::File;
use std::io::BufReader;
use std::path::PathBuf;

use clap::Args;
use jiff::Timestamp;
use wembrit_store::archive::{Manifest, bring_in, look};
use wembrit_store::{Conn, DataLock, Store};

use super::CommandError;
use super::export::file_error;

/// Bring an archive in.
#[derive(Debug, Args)]
pub(crate) struct Import {
    /// The archive.
    archive: PathBuf,
    /// The data file; it is made where it is not there.
    #[arg(long, default_value = "wembrit.sqlite", value_name = "FILE")]
    data: PathBuf,
    /// Only say what it holds.
    #[arg(long)]
    look: bool,
}

/// What an archive holds, in a line.
pub(super) fn words(of: &Manifest) -> String {
    let many = |table: &str| of.rows.get(table).copied().unwrap_or(0);
    let bytes: u64 = of.files.iter().map(|f| f.bytes).sum();
    format!(
        "{} {}: projects {}, units {}, models {}, parts {}, sculpts {}, plates {}, copies {}; {:.1} MB",
        of.what,
        of.name,
        many("projects"),
        many("units"),
        many("models"),
        many("parts"),
        many("sculpts"),
        many("plates"),
        many("copies"),
        bytes as f64 / 1e6
    )
}

impl Import {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let file = File::open(&self.archive).map_err(file_error(&self.archive))?;
        let mut contents = look(BufReader::new(file))?;
        println!("{}", words(&contents.manifest));
        if self.look {
            return Ok(());
        }
        let _held = DataLock::take(&self.data)?;
        let store = Store::open(&self.data)?;
        let now_ms = Timestamp::now().as_millisecond();
        let brought = store.write(|c: &mut Conn| bring_in(c, &mut contents, now_ms))?;
        let new: u64 = brought.rows.values().sum();
        println!("came in: {new} rows; {} were here already", brought.known);
        Ok(())
    }
}
