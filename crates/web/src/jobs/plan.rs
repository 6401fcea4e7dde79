//! A plan is computed, and gets better while somebody watches.

use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use wembrit_core::flow::{PlanEffort, PlanRevision};
use wembrit_core::ids::PlanId;
use wembrit_core::pack::{PackError, PackSearch};
use wembrit_core::plan::{ExistingPlate, Plan, PlanError, PlanRequest, improve_plan, plan_request};
use wembrit_core::watch::{Silent, Watch};
use wembrit_store::queries::{demand, plans};
use wembrit_store::{Store, StoreError, commands};

use super::progress::TaskWatch;
use super::{End, prepare};
use crate::attended;
use crate::state::{App, Topic, Urgent};

/// A plan, from demand to plates; each better one is saved.
pub(super) fn run(app: &App, id: PlanId, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    // What hangs otherwise than its file stands has to be measured first.
    let waiting = app.store.read(|c| {
        let lines = plans::demand_of(c, id)?;
        demand::unprepared(c, &lines)
    })?;
    for (sculpt, of) in waiting {
        match prepare::run(app, &of, &Silent(watch))? {
            End::Done => {}
            End::Stopped => return Ok(End::Stopped),
            End::Failed(why) => {
                let why = format!("{}: {why}", sculpt.name);
                app.store
                    .write(|c| commands::save_plan::set_failed(c, id, &why))?;
                return Ok(End::Failed(why));
            }
        }
    }
    let (plan, request, existing) = asked(&app.store, id, app.now_ms())?;
    let search = PackSearch {
        // A search that is taken up again goes on elsewhere.
        seed: 1 + plan.better_found.unsigned_abs(),
        steps: match plan.effort {
            PlanEffort::Repair => 0,
            PlanEffort::Anew | PlanEffort::Further => SEARCH_STEPS,
        },
    };
    let saving = Saving {
        app,
        plan: id,
        watch,
        urgent: Mutex::new(Some(app.urgent())),
        state: Mutex::default(),
    };
    let ended = improve_plan(&request, &existing, search, &saving, &mut |better| {
        saving.offer(better);
    });
    saving.save(Duration::ZERO);
    if let Some(error) = saving.state().failed.take() {
        return Err(error);
    }
    match ended {
        Ok(()) if watch.stopped() && !watch.is_unwanted() => Ok(End::Stopped),
        Ok(()) => {
            app.store
                .write(|c| commands::save_plan::end_search(c, id))?;
            Ok(End::Done)
        }
        Err(PlanError::Pack(PackError::Stopped)) => Ok(End::Stopped),
        Err(error) => {
            let why = error.to_string();
            app.store
                .write(|c| commands::save_plan::set_failed(c, id, &why))?;
            Ok(End::Failed(why))
        }
    }
}

/// A plan, what it is made from, with the hours in which somebody is there from now on, and the
/// plates it begins with.
fn asked(
    store: &Store,
    id: PlanId,
    now_ms: i64,
) -> Result<(PlanRevision, PlanRequest, Vec<ExistingPlate>), StoreError> {
    let (plan, lines, facts, existing) = store.read(|c| {
        let plan = plans::load(c, id)?;
        let lines = plans::demand_of(c, id)?;
        let mut facts = demand::plan_facts(c, plan.project, &lines)?;
        facts.slots = attended::slots(c, now_ms)?;
        Ok((plan, lines, facts, plans::existing_plates(c, id)?))
    })?;
    let request = plan_request(&facts, &lines, &plan.scope);
    Ok((plan, request, existing))
}

/// Steps of the search for better plans: then it ends by itself.
const SEARCH_STEPS: u64 = 120;

/// Saves better plans, at most one a second; the last of them always.
struct Saving<'a> {
    app: &'a App,
    plan: PlanId,
    watch: &'a TaskWatch<'a>,
    /// Until there is a first plan somebody waits for it.
    urgent: Mutex<Option<Urgent>>,
    state: Mutex<Unsaved>,
}

#[derive(Default)]
struct Unsaved {
    last: Option<Instant>,
    plan: Option<Plan>,
    failed: Option<StoreError>,
}

impl Saving<'_> {
    fn state(&self) -> std::sync::MutexGuard<'_, Unsaved> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn offer(&self, better: &Plan) {
        self.state().plan = Some(better.clone());
        self.save(Duration::from_secs(1));
    }

    /// Saves what is not saved yet, when the last time is so long ago.
    fn save(&self, pause: Duration) {
        let mut state = self.state();
        if state.last.is_some_and(|at| at.elapsed() < pause) {
            return;
        }
        let Some(plan) = state.plan.take() else {
            return;
        };
        state.last = Some(Instant::now());
        let saved = self
            .app
            .store
            .write(|c| commands::save_plan::save_better(c, self.plan, &plan));
        match saved {
            Ok(()) => {
                // There is a plan to look at: the rest is improvement.
                let mut urgent = (self.urgent.lock()).unwrap_or_else(PoisonError::into_inner);
                drop(urgent.take());
                self.watch.make_way();
                self.app.tell(Topic::Plates);
            }
            Err(error) => state.failed = Some(error),
        }
    }
}

impl Watch for Saving<'_> {
    fn stopped(&self) -> bool {
        self.watch.stopped()
    }
    fn report(&self, share: f64) {
        self.save(Duration::from_secs(1));
        self.watch.report(share);
    }
}

#[cfg(test)]
mod tests {
    #![allow(
        clippy::unwrap_used,
        reason = "a test that cannot go on should stop there"
    )]

    use super::*;
    use wembrit_core::flow::PlanScope;
    use wembrit_store::commands::ask_plan::{PlanAsk, ask};
    use wembrit_store::queries::muster;

    /// What attendance says reaches the packer: a plate of nine hours is taken off in the morning,
    /// unless hours on the printers alone are asked for.
    #[test]
    fn plates_are_cut_for_the_hours_somebody_is_there() {
        const NOW: i64 = 1_795_500_000_000;
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("w.sqlite")).unwrap();
        wembrit_demo::fill(&store, NOW).unwrap();
        let project = store.read(muster::projects).unwrap()[0].id;
        let kept = |by_hours: bool| {
            let of = PlanAsk {
                scope: PlanScope {
                    by_hours,
                    ..PlanScope::default()
                },
                ..PlanAsk::default()
            };
            let id = store.write(|c| ask(c, project, &of, NOW)).unwrap();
            let request = asked(&store, id, NOW).unwrap().1;
            assert!(!request.accepted_s.is_empty());
            request.slots.kept(9.0 * 3600.0) / 3600.0
        };
        assert!((kept(true) - 9.0).abs() < 1e-9);
        // Somebody is there from 8 to 22: the second of a day comes off the next morning.
        assert!((11.5..=12.5).contains(&kept(false)), "{}", kept(false));
    }
}
