//! `wembrit odds`: how likely copies come out, and how many to print.

use std::path::PathBuf;

use clap::Args;
use wembrit_core::odds::answer_odds;

use super::CommandError;
use super::until::read_text;

/// How many copies to print, by what was judged: for a chance, for money, for whole models, over plates.
#[derive(Debug, Args)]
pub(crate) struct Odds {
    /// The case, a JSON file; an array of cases is answered by an array.
    case: PathBuf,
}

impl Odds {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let text = read_text(&self.case)?;
        let answer = answer_odds(&text).map_err(|why| CommandError::Odds {
            path: self.case.clone(),
            why,
        })?;
        println!("{answer}");
        Ok(())
    }
}
