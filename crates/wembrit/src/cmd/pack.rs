//! `wembrit pack`: packs an instance of outlines, and says how near the bound that is.

use std::path::PathBuf;

use clap::Args;
use wembrit_core::pack::{Instance, PackSearch, Packing, check_packing};

use super::CommandError;
use super::until::{Until, read_text};

/// Pack an instance of outlines onto as few millimetres of plates as it takes.
#[derive(Debug, Args)]
pub(crate) struct Pack {
    /// The instance, a JSON file.
    instance: PathBuf,
    /// Seconds to look for better plans.
    #[arg(long, default_value_t = 20.0, value_name = "S")]
    seconds: f64,
    /// Seed of the search.
    #[arg(long, default_value_t = 1, value_name = "N")]
    seed: u64,
    /// Steps of the search in place of seconds: the same number gives the same plan.
    #[arg(long, value_name = "N")]
    steps: Option<u64>,
}

impl Pack {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let text = read_text(&self.instance)?;
        let instance = Instance::read(&text).map_err(|why| CommandError::Instance {
            path: self.instance.clone(),
            why,
        })?;
        let search = PackSearch {
            seed: self.seed,
            steps: self.steps.unwrap_or(u64::MAX),
        };
        let mut reported: Vec<Packing> = Vec::new();
        let watch = Until::once_there_is_one(self.steps, self.seconds);
        search.improve(&instance.job, None, &watch, &mut |p| {
            reported.push(p.clone());
            watch.there_is_one();
        })?;
        // The last one that passes its check: an unsound one is never printed.
        let mut unsound = None;
        let sound = reported.into_iter().rev().find(|p| {
            let fault = check_packing(&instance.job, p).into_iter().next();
            let sound = fault.is_none();
            unsound = fault.or(unsound.take());
            sound
        });
        let packing = match (sound, unsound) {
            (Some(packing), _) => packing,
            (None, Some(fault)) => return Err(CommandError::Unsound(fault)),
            (None, None) => Packing::default(),
        };
        println!("{}", instance.answer(&packing));
        Ok(())
    }
}
