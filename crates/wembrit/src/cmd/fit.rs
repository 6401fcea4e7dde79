//! `wembrit fit`: what a log from outside teaches.

use std::path::PathBuf;

use clap::Args;
use wembrit_core::learn::answer_fit;

use super::CommandError;
use super::until::read_text;

/// Learn from a log: the line of a printer, a ladder, another layer height, the next exposure.
#[derive(Debug, Args)]
pub(crate) struct Fit {
    /// The case, a JSON file; an array of cases is answered by an array.
    case: PathBuf,
}

impl Fit {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let text = read_text(&self.case)?;
        let answer = answer_fit(&text).map_err(|why| CommandError::Fit {
            path: self.case.clone(),
            why,
        })?;
        println!("{answer}");
        Ok(())
    }
}
