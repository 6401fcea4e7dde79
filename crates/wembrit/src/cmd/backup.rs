//! `wembrit backup` and `wembrit restore`: a copy of the data file, and back.

use std::path::{Path, PathBuf};
use std::time::Duration;

use clap::Args;
use wembrit_store::{DataLock, Store, private};

use super::CommandError;
use super::export::{draft_of, file_error};

/// Copy a data file.
#[derive(Debug, Args)]
pub(crate) struct Backup {
    /// The copy that is written.
    copy: PathBuf,
    /// The data file; it may be served meanwhile.
    #[arg(long, default_value = "wembrit.sqlite", value_name = "FILE")]
    data: PathBuf,
}

impl Backup {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        if self.copy.exists() {
            return Err(CommandError::There(self.copy.clone()));
        }
        let store = Store::beside(&self.data)?;
        let draft = draft_of(&self.copy);
        if draft.exists() {
            std::fs::remove_file(&draft).map_err(file_error(&draft))?;
        }
        store.copy_to(&draft)?;
        std::fs::rename(&draft, &self.copy)
            .inspect_err(|_| drop(std::fs::remove_file(&draft)))
            .map_err(file_error(&self.copy))?;
        println!(
            "{} is a copy of {}",
            self.copy.display(),
            self.data.display()
        );
        Ok(())
    }
}

/// Put a copy back.
#[derive(Debug, Args)]
pub(crate) struct Restore {
    /// The copy.
    copy: PathBuf,
    /// The data file whose place it takes; nobody may serve it meanwhile.
    #[arg(long, default_value = "wembrit.sqlite", value_name = "FILE")]
    data: PathBuf,
    /// Take a copy of a workshop in which nothing is, too.
    #[arg(long)]
    even_if_empty: bool,
}

/// What a data file consists of while it is open, by the ends of its names.
const LAID: [&str; 3] = ["", "-wal", "-shm"];

/// A file that SQLite lays beside its own.
fn beside(path: &Path, suffix: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(suffix);
    name.into()
}

/// What is laid beside a draft when it is brought up to date: the copy it came from is there still.
fn forget_copies(draft: &Path) -> Result<(), CommandError> {
    let folder = draft.parent().filter(|p| !p.as_os_str().is_empty());
    let folder = folder.unwrap_or(Path::new("."));
    let begins = draft.file_name().unwrap_or_default().to_string_lossy();
    let begins = format!("{begins}.before-");
    for entry in std::fs::read_dir(folder).map_err(file_error(folder))? {
        let entry = entry.map_err(file_error(folder))?;
        if entry.file_name().to_string_lossy().starts_with(&begins) {
            std::fs::remove_file(entry.path()).map_err(file_error(folder))?;
        }
    }
    Ok(())
}

/// How often it is looked whether a file is closed, and how long between.
const LOOKS: (u32, Duration) = (100, Duration::from_millis(20));

/// Waits until the last connection is closed, which folds the log into the file: a thread that opened one may let go
/// of it a moment after everybody else.
fn wait_until_closed(path: &Path) {
    let log = beside(path, "-wal");
    for _ in 0..LOOKS.0 {
        if !log.exists() {
            return;
        }
        std::thread::sleep(LOOKS.1);
    }
}

impl Restore {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        if !self.copy.is_file() {
            let why = std::io::ErrorKind::NotFound.into();
            return Err(file_error(&self.copy)(why));
        }
        let there = self.data.exists();
        let _held = DataLock::take(&self.data)?;
        let looked = self.take_its_place();
        if !there && looked.is_err() {
            // The lock made it.
            drop(std::fs::remove_file(&self.data));
        }
        looked?;
        println!("{} is now {}", self.data.display(), self.copy.display());
        Ok(())
    }

    /// What takes its place is looked at first, in a copy of its own: older ones are brought up to date there.
    fn draft(&self) -> Result<PathBuf, CommandError> {
        let draft = draft_of(&self.data);
        for suffix in LAID {
            let (from, to) = (beside(&self.copy, suffix), beside(&draft, suffix));
            if to.exists() {
                std::fs::remove_file(&to).map_err(file_error(&to))?;
            }
            // With what was written last, where the copy was not closed.
            if from.exists() && suffix != "-shm" {
                // By its bytes: a copy of the file would have the rights of the first.
                let mut kept = private(&to).map_err(file_error(&to))?;
                let mut copy = std::fs::File::open(&from).map_err(file_error(&from))?;
                std::io::copy(&mut copy, &mut kept).map_err(file_error(&to))?;
            }
        }
        Ok(draft)
    }

    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    fn take_its_place(&self) -> Result<(), CommandError> {
        let draft = self.draft()?;
        let good = Store::is_one(&draft).and_then(|()| {
            let store = Store::open(&draft)?;
            store.check()?;
            store.is_empty()
        });
        wait_until_closed(&draft);
        forget_copies(&draft)?;
        let refused = match good {
            Err(error) => Some(error.into()),
            Ok(true) if !self.even_if_empty => Some(CommandError::Empty(self.copy.clone())),
            Ok(_) => None,
        };
        if let Some(error) = refused {
            for suffix in LAID {
                drop(std::fs::remove_file(beside(&draft, suffix)));
            }
            return Err(error);
        }
        let length = std::fs::metadata(&self.data).map_or(0, |m| m.len());
        let kept = (1..).map(|n| beside(&self.data, &format!(".replaced-{n}")));
        let kept = kept.into_iter().find(|k| !k.exists());
        if let (true, Some(kept)) = (length > 0, kept) {
            // With what was written last: it is folded into the file when that is opened and closed.
            Store::open(&self.data).map(drop).ok();
            for suffix in LAID {
                let old = beside(&self.data, suffix);
                if old.exists() {
                    std::fs::rename(&old, beside(&kept, suffix)).map_err(file_error(&old))?;
                }
            }
            println!("the old one is kept as {}", kept.display());
        }
        for suffix in LAID.into_iter().rev() {
            let from = beside(&draft, suffix);
            if from.exists() {
                std::fs::rename(&from, beside(&self.data, suffix)).map_err(file_error(&from))?;
            }
        }
        Ok(())
    }
}
