//! `wembrit schedule`: gives an instance of plates their places on printers, and says how near the
//! bound that is.

use std::path::PathBuf;
use std::time::Instant;

use clap::Args;
use wembrit_core::schedule::{ScheduleBound, ScheduleSearch, ShopInstance, check_schedule};

use super::CommandError;
use super::until::{Until, read_text};

/// Schedule an instance of plates over printers, to end as early as can be.
#[derive(Debug, Args)]
pub(crate) struct Schedule {
    /// The instance, a JSON file.
    instance: PathBuf,
    /// Seconds to look for better schedules.
    #[arg(long, default_value_t = 10.0, value_name = "S")]
    seconds: f64,
    /// Seed of the search.
    #[arg(long, default_value_t = 1, value_name = "N")]
    seed: u64,
    /// Rounds of the search in place of seconds: the same number gives the same schedule.
    #[arg(long, value_name = "N")]
    steps: Option<u64>,
}

/// The share of the time that goes into the bound at most.
const FOR_THE_BOUND: f64 = 0.25;

impl Schedule {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let begun = Instant::now();
        let text = read_text(&self.instance)?;
        let instance = ShopInstance::read(&text).map_err(|why| CommandError::ShopInstance {
            path: self.instance.clone(),
            why,
        })?;
        let until = |share: f64| Until::after(begun, self.steps, self.seconds * share);
        let shop = &instance.shop;
        let search = |steps| ScheduleSearch {
            seed: self.seed,
            steps,
            tries: 200_000,
        };
        let first = search(0).run(shop, &Until::never(), &mut |_| {})?;
        let within = first.ends(shop).last;
        let bound = ScheduleBound::of(shop, within, &until(FOR_THE_BOUND));
        let steps = self.steps.unwrap_or(u64::MAX);
        let schedule = search(steps).run(shop, &until(1.0), &mut |_| {})?;
        if let Some(fault) = check_schedule(shop, &schedule).into_iter().next() {
            return Err(CommandError::UnsoundSchedule(fault));
        }
        let bound = ScheduleBound {
            at: bound.at.min(schedule.ends(shop).last),
            ..bound
        };
        println!("{}", instance.answer(&schedule, bound));
        Ok(())
    }
}
