//! `wembrit export`: a workshop or a project as an open archive.

use std::fs::File;
use std::io::BufWriter;
use std::path::{Path, PathBuf};

use clap::Args;
use jiff::Timestamp;
use wembrit_store::archive::{Scope, write};
use wembrit_store::queries::muster;
use wembrit_store::{Conn, Store, StoreError};

use super::CommandError;

/// Write an archive.
#[derive(Debug, Args)]
pub(crate) struct Export {
    /// The file that is written.
    archive: PathBuf,
    /// The data file; it may be served meanwhile.
    #[arg(long, default_value = "wembrit.sqlite", value_name = "FILE")]
    data: PathBuf,
    /// One project by its name, in place of all.
    #[arg(long, value_name = "NAME")]
    project: Option<String>,
}

/// A name beside a file, so that it appears whole or not at all.
pub(super) fn draft_of(path: &Path) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(".writing");
    name.into()
}

pub(super) fn file_error(path: &Path) -> impl FnOnce(std::io::Error) -> CommandError {
    let path = path.to_owned();
    |why| CommandError::File { path, why }
}

impl Export {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        if self.archive.exists() {
            return Err(CommandError::There(self.archive.clone()));
        }
        let store = Store::beside(&self.data)?;
        let scope = self.scope(&store)?;
        let draft = draft_of(&self.archive);
        let file = File::create(&draft).map_err(file_error(&draft))?;
        let now_ms = Timestamp::now().as_millisecond();
        let written = store.read(|c: &mut Conn| write(c, scope, now_ms, BufWriter::new(file)));
        let written = written.inspect_err(|_| drop(std::fs::remove_file(&draft)))?;
        std::fs::rename(&draft, &self.archive).map_err(file_error(&self.archive))?;
        println!("{}", super::import::words(&written));
        Ok(())
    }

    fn scope(&self, store: &Store) -> Result<Scope, CommandError> {
        let Some(name) = &self.project else {
            return Ok(Scope::Workshop);
        };
        let all = store.read(|c: &mut Conn| -> Result<_, StoreError> { muster::projects(c) })?;
        let found = all
            .iter()
            .find(|p| p.name == *name || p.id.to_string() == *name);
        found.map(|p| Scope::Project(p.id)).ok_or_else(|| {
            let names: Vec<&str> = all.iter().map(|p| p.name.as_str()).collect();
            CommandError::NoProject {
                name: name.clone(),
                known: names.join(", "),
            }
        })
    }
}
