//! `wembrit pack`: packs an instance of outlines, and says how near the bound that is.

use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use clap::Args;
use wembrit_core::pack::{Instance, PackSearch, Packing, check_packing};
use wembrit_core::watch::Watch;

use super::CommandError;

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

/// Stops at a moment, once there is a plan.
pub(super) struct Until(Option<Instant>, AtomicBool);

impl Until {
    /// Never stops.
    pub(super) const fn never() -> Self {
        Self(None, AtomicBool::new(true))
    }

    /// Stops at a moment.
    pub(super) const fn at(moment: Instant) -> Self {
        Self(Some(moment), AtomicBool::new(true))
    }
}

impl Watch for Until {
    fn stopped(&self) -> bool {
        self.1.load(Ordering::Relaxed) && self.0.is_some_and(|end| Instant::now() >= end)
    }
    fn report(&self, _share: f64) {}
}

impl Pack {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let text = std::fs::read_to_string(&self.instance).map_err(|why| CommandError::File {
            path: self.instance.clone(),
            why,
        })?;
        let instance = Instance::read(&text).map_err(|why| CommandError::Instance {
            path: self.instance.clone(),
            why,
        })?;
        let seconds = if self.seconds.is_finite() {
            self.seconds.clamp(0.0, 86_400.0)
        } else {
            20.0
        };
        let until = match self.steps {
            Some(_) => None,
            // A little is needed to write the answer.
            None => Some(Instant::now() + Duration::from_secs_f64((seconds - 0.15).max(0.0))),
        };
        let search = PackSearch {
            seed: self.seed,
            steps: self.steps.unwrap_or(u64::MAX),
        };
        let mut reported: Vec<Packing> = Vec::new();
        let watch = Until(until, AtomicBool::new(false));
        search.improve(&instance.job, None, &watch, &mut |p| {
            reported.push(p.clone());
            watch.1.store(true, Ordering::Relaxed);
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
