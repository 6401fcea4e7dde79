//! Recipes from untried to proven: trials on small plates, winners, first copies.

use rstest::rstest;
use wembrit_core::flow::{PlanScope, PlateState, Stage};
use wembrit_core::ids::{PlanId, RecipeVersionId, TrialId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{make_plan, plan_request, plan_trial};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{Proof, Setup};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::ProcessSetting;
use wembrit_store::commands::muster::PartChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::trials::VariantChange;
use wembrit_store::queries::{demand, muster, plates, printers, recipes, settings, trials};
use wembrit_store::{StoreError, commands};

use crate::fresh::{Fresh, NOW};
use crate::prepared::work_off;

fn begin(fresh: &Fresh) -> TrialId {
    let begun = fresh.store.write(|c| {
        let printer = printers::list(c)?[0].id;
        commands::trials::begin(c, fresh.part, printer, NOW)
    });
    begun.unwrap()
}

/// A variant that hangs otherwise, or is exposed otherwise.
fn vary(fresh: &Fresh, trial: TrialId, name: &str, tilt: f64, exposure_s: Option<f64>) {
    let added = fresh.store.write(|c| {
        let part = muster::part(c, fresh.part)?;
        let version = recipes::newest(c, part.recipe)?;
        let variant = VariantChange {
            name: name.into(),
            recipe: RecipeChange {
                setup: Some(Setup {
                    pose: Pose::new(tilt, 90.0),
                    supports: Supports::Planned(SupportStyle::USUAL),
                }),
                ..RecipeChange::of(&version)
            },
            printer: printers::list(c)?[0].id,
            exposure_s,
        };
        commands::trials::add_variant(c, trial, &variant, NOW)
    });
    added.unwrap();
}

fn newest(fresh: &Fresh) -> (RecipeVersionId, i64, Proof) {
    let read = fresh.store.read(|c| {
        let recipe = muster::part(c, fresh.part)?.recipe;
        let version = recipes::newest(c, recipe)?;
        let settings = settings::list(c)?;
        let proof = recipes::proofs(c, &[version.id])?.best(&version, &settings);
        Ok((version.id, version.version, proof))
    });
    read.unwrap()
}

/// Prints and passes every plate that waits.
fn print_all(fresh: &Fresh) {
    let all = fresh.store.read(|c| plates::accepted(c, fresh.project));
    for (at, plate) in (NOW..).step_by(60_000).zip(all.unwrap()) {
        if plate.state == PlateState::Planned {
            fresh
                .store
                .write(|c| {
                    commands::run_plate::log_run(c, plate.id, at, at + 60_000, at + 60_000)?;
                    commands::judge_plate::judge(c, plate.id, &[], at + 90_000)
                })
                .unwrap();
        }
    }
}

/// Plans the plates of a trial as the page does: worked out, then saved.
fn plan(fresh: &Fresh, trial: TrialId) -> Result<PlanId, StoreError> {
    fresh
        .store
        .write(|c| commands::trials::ensure_settings(c, trial, NOW))?;
    let facts = fresh.store.read(|c| trials::facts(c, trial))?;
    let planned = plan_trial(&facts).map_err(|why| StoreError::Refused(why.to_string()))?;
    fresh
        .store
        .write(|c| commands::trials::plan(c, &facts, planned, NOW))
}

/// One copy of the newest version, on a plate.
fn first_copy(fresh: &Fresh) {
    let (project, lines, facts) = fresh
        .store
        .read(|c| trials::first_copies(c, &[fresh.part]))
        .unwrap();
    let request = plan_request(&facts, &lines, &PlanScope::default());
    let plan = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).unwrap();
    fresh
        .store
        .write(|c| commands::trials::plan_first_copies(c, project, &lines, &plan, NOW))
        .unwrap();
}

#[test]
fn a_trial_runs_from_variants_to_a_proven_recipe() {
    let fresh = Fresh::new(12);
    work_off(&fresh);
    let trial = begin(&fresh);
    assert_eq!(newest(&fresh).2, Proof::OnTrial);
    let alone = plan(&fresh, trial);
    assert!(matches!(alone, Err(StoreError::Refused(why)) if why.contains("two at least")));
    vary(&fresh, trial, "far back", 45.0, None);
    vary(&fresh, trial, "longer", 45.0, Some(3.5));
    let early = plan(&fresh, trial);
    assert!(matches!(early, Err(StoreError::Refused(why)) if why.contains("still being measured")));
    work_off(&fresh);

    // Orientations share a plate, an exposure of its own takes one.
    let plan = plan(&fresh, trial).unwrap();
    let on = fresh.store.read(|c| plates::of_plan(c, plan)).unwrap();
    assert_eq!(on.len(), 2);
    let on_plates = fresh
        .store
        .read(|c| plates::copies_on(c, &on.iter().map(|p| p.id).collect::<Vec<_>>()))
        .unwrap();
    let versions: Vec<RecipeVersionId> = on_plates
        .values()
        .flatten()
        .map(|s| s.recipe_version)
        .collect();
    assert_eq!(versions.len(), 3, "one copy of every variant");
    assert!(
        on_plates
            .values()
            .flatten()
            .all(|s| s.placed.part == fresh.part)
    );
    assert_eq!(fresh.wanted(), 9, "copies of a trial count");
    // The exposure of the trial is not that of the setting.
    let exposures: Vec<f64> = fresh
        .store
        .read(settings::list)
        .unwrap()
        .iter()
        .map(|s| s.timing.exposure_s)
        .collect();
    assert!(!exposures.contains(&3.5));
    // Once planned it is as it is.
    let all = fresh.store.read(|c| trials::variants(c, trial)).unwrap();
    let late = fresh
        .store
        .write(|c| commands::trials::remove_variant(c, trial, all[1].0.id));
    assert!(matches!(late, Err(StoreError::Refused(_))));

    let mark = |variant: usize, what: &str, value| {
        fresh
            .store
            .write(|c| commands::trials::grade(c, trial, all[variant].0.id, what, value))
    };
    mark(2, "detail", Some(5)).unwrap();
    mark(1, "detail", Some(2)).unwrap();
    mark(1, "detail", None).unwrap();
    assert!(mark(0, "detail", Some(6)).is_err() && mark(0, "taste", Some(3)).is_err());
    assert_eq!(
        fresh
            .store
            .read(|c| trials::grades(c, trial))
            .unwrap()
            .len(),
        1
    );

    fresh
        .store
        .write(|c| commands::trials::declare(c, trial, all[2].0.id, "crisp", NOW))
        .unwrap();
    let again = fresh
        .store
        .write(|c| commands::trials::declare(c, trial, all[1].0.id, "", NOW));
    assert!(
        matches!(again, Err(StoreError::Refused(_))),
        "a trial is decided once"
    );
    let (_, version, proof) = newest(&fresh);
    assert_eq!((version, proof), (2, Proof::OnTrial));
    // The winner's exposure became the setting's, and is no assumption any more.
    let setting = fresh.store.read(settings::list).unwrap();
    let known = setting.iter().find(|s| s.timing.exposure_s == 3.5).unwrap();
    assert!(!known.assumed.split(',').any(|f| f == "exposure_s"));

    // Copies of variants prove nothing; one of the version itself does.
    print_all(&fresh);
    assert_eq!(newest(&fresh).2, Proof::OnTrial);
    work_off(&fresh);
    first_copy(&fresh);
    print_all(&fresh);
    let (id, _, proof) = newest(&fresh);
    assert_eq!(proof, Proof::Proven);
    let good: u64 = fresh
        .store
        .read(|c| {
            let proofs = recipes::proofs(c, &[id])?;
            let on = |s: &ProcessSetting| proofs.good_on(id, s.id);
            Ok(settings::list(c)?.iter().map(on).sum())
        })
        .unwrap();
    assert_eq!(good, 1, "copies of variants do not count");
    let state = fresh.store.read(|c| trials::load(c, trial)).unwrap().state;
    assert_eq!(state, TrialState::Decided);
}

/// A change after proving is a new, untried version that says what changed.
#[rstest]
#[case::scale(|r: &mut RecipeChange| r.scale = 0.9, "scale 100.0 → 90.0 %")]
#[case::layer(|r: &mut RecipeChange| r.layer = LayerHeight::from_mm(0.03).unwrap(), "layer 0.05 → 0.03 mm")]
#[case::pose(|r: &mut RecipeChange| r.setup = Some(Setup { pose: Pose::new(30.0, 90.0), supports: Supports::None }), "hangs as the file stands → 30° back")]
fn a_change_after_proving_is_untried(#[case] with: fn(&mut RecipeChange), #[case] says: &str) {
    let fresh = Fresh::new(1);
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .unwrap();
    print_all(&fresh);
    assert_eq!(newest(&fresh).2, Proof::Proven);
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    fresh
        .store
        .write(|c| {
            let mut to = RecipeChange::of(&recipes::newest(c, part.recipe)?);
            with(&mut to);
            commands::recipes::change(c, part.recipe, &to, NOW)
        })
        .unwrap();
    let (id, version, proof) = newest(&fresh);
    assert_eq!((version, proof), (2, Proof::Untried));
    let changed = fresh
        .store
        .read(|c| recipes::version(c, id))
        .unwrap()
        .changed;
    assert_eq!(changed, says);
    let copies = fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .unwrap();
    let on_plates = fresh
        .store
        .read(|c| plates::copies_on(c, &[copies[0].id]))
        .unwrap();
    let copy = on_plates[&copies[0].id][0].copy.clone().unwrap();
    assert_eq!(copy.stage, Stage::Good, "what was printed stays as it was");
}

/// Another sculpt begins anew: what the old one proved does not hold for it.
#[test]
fn another_sculpt_is_untried_and_hangs_as_it_stands() {
    let fresh = Fresh::new(1);
    let wembrit_store::commands::sculpts::Arrival::New(other) =
        crate::fresh::upload(&fresh.store, "other.stl", &crate::fresh::spike(12.0)).unwrap()
    else {
        panic!("another file is new");
    };
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .unwrap();
    print_all(&fresh);
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let change = |sculpt| {
        fresh.store.write(|c| {
            let now = muster::part(c, fresh.part)?;
            let version = recipes::newest(c, part.recipe)?;
            let to = PartChange {
                name: now.name.clone(),
                count: 1,
                spares: 0,
                sculpt: Some(sculpt),
                option: None,
                recipe: RecipeChange::of(&version),
            };
            commands::muster::change_part(c, fresh.part, now.row_version, &to, NOW)
        })
    };
    change(other).unwrap();
    assert_eq!(newest(&fresh).2, Proof::Untried);
    let version = fresh
        .store
        .read(|c| recipes::newest(c, part.recipe))
        .unwrap();
    assert_eq!(version.changed, "another sculpt");
}

/// A plan has to wait for what hangs otherwise than its file stands, and then uses it as it hangs.
#[test]
fn a_plan_uses_parts_as_they_hang() {
    let fresh = Fresh::new(2);
    work_off(&fresh);
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let planned = || {
        let lines = fresh.lines();
        let waiting = fresh.store.read(|c| demand::unprepared(c, &lines));
        let (waiting, request) = (waiting.unwrap().len(), fresh.request_all());
        (
            waiting,
            request.parts[0].height_mm,
            request.parts[0].body.volume_mm3(),
        )
    };
    let (waiting, height, volume) = planned();
    assert_eq!((waiting, height), (0, 20.0));
    fresh
        .store
        .write(|c| {
            let version = recipes::newest(c, part.recipe)?;
            let to = RecipeChange {
                setup: Some(Setup {
                    pose: Pose::AS_IMPORTED,
                    supports: Supports::Planned(SupportStyle::USUAL),
                }),
                ..RecipeChange::of(&version)
            };
            commands::recipes::change(c, part.recipe, &to, NOW)
        })
        .unwrap();
    assert_eq!(planned().0, 1);
    work_off(&fresh);
    let (waiting, lifted, more) = planned();
    assert_eq!(waiting, 0);
    // Raft of 0.8 mm and a lift of 5 mm; supports take resin too.
    assert!((lifted - height - 5.8).abs() < 0.01, "{lifted}");
    assert!(more > volume + 50.0, "{more} {volume}");
}
