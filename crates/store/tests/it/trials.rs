//! Recipes from untried to proven: trials on small plates, winners, first copies.

use rstest::rstest;
use wembrit_core::flow::{PlateState, Stage};
use wembrit_core::ids::{RecipeVersionId, TrialId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::Proof;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::units::LayerHeight;
use wembrit_store::StoreError;
use wembrit_store::queries::muster::PartChange;
use wembrit_store::queries::recipes::{self, Hang, RecipeChange};
use wembrit_store::queries::trials::{self, VariantChange};
use wembrit_store::queries::{demand, muster, plans, plates, printers, settings};

use crate::fresh::{Fresh, NOW};
use crate::prepared::work_off;

fn begin(fresh: &Fresh) -> TrialId {
    let begun = fresh.store.write(|c| {
        let printer = printers::list(c)?[0].id;
        trials::begin(c, fresh.part, printer, NOW)
    });
    begun.unwrap()
}

/// A variant that hangs otherwise, or is exposed otherwise.
fn vary(fresh: &Fresh, trial: TrialId, name: &str, tilt: f64, exposure_s: Option<f64>) {
    let added = fresh.store.write(|c| {
        let part = muster::part(c, fresh.part)?;
        let version = recipes::newest(c, part.recipe_id)?;
        let variant = VariantChange {
            name: name.into(),
            recipe: RecipeChange {
                hang: Some(Hang {
                    pose: Pose::new(tilt, 90.0),
                    supports: Supports::Planned(SupportStyle::USUAL),
                }),
                ..RecipeChange::of(&version)
            },
            printer: printers::list(c)?[0].id,
            exposure_s,
        };
        trials::add_variant(c, trial, &variant, NOW)
    });
    added.unwrap();
}

fn newest(fresh: &Fresh) -> (RecipeVersionId, i64, Proof) {
    let read = fresh.store.read(|c| {
        let recipe = muster::part(c, fresh.part)?.recipe_id;
        let version = recipes::newest(c, recipe)?;
        let standing = recipes::proofs(c, &[version.id])?[&version.id];
        Ok((version.id, version.version, standing))
    });
    read.unwrap()
}

/// Prints and passes every plate that waits.
fn print_all(fresh: &Fresh) {
    for plate in fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .unwrap()
    {
        if plate.state == PlateState::Planned {
            fresh
                .store
                .write(|c| {
                    plates::log_run(c, plate.id, NOW, NOW + 60_000, NOW + 60_000)?;
                    plates::judge(c, plate.id, &[], NOW + 90_000)
                })
                .unwrap();
        }
    }
}

#[test]
fn a_trial_runs_from_variants_to_a_proven_recipe() {
    let fresh = Fresh::new(12);
    work_off(&fresh);
    let trial = begin(&fresh);
    assert_eq!(newest(&fresh).2, Proof::OnTrial);
    let alone = fresh.store.write(|c| trials::plan(c, trial, NOW));
    assert!(matches!(alone, Err(StoreError::Refused(why)) if why.contains("two at least")));
    vary(&fresh, trial, "far back", 45.0, None);
    vary(&fresh, trial, "longer", 45.0, Some(3.5));
    let early = fresh.store.write(|c| trials::plan(c, trial, NOW));
    assert!(matches!(early, Err(StoreError::Refused(why)) if why.contains("still being measured")));
    work_off(&fresh);

    // Orientations share a plate, an exposure of its own takes one.
    let plan = fresh.store.write(|c| trials::plan(c, trial, NOW)).unwrap();
    let on = fresh.store.read(|c| plates::of_plan(c, plan)).unwrap();
    assert_eq!(on.len(), 2);
    let spots = fresh
        .store
        .read(|c| plates::spots(c, &on.iter().map(|p| p.id).collect::<Vec<_>>()))
        .unwrap();
    let versions: Vec<RecipeVersionId> = spots
        .values()
        .flatten()
        .map(|s| s.placement.recipe_version_id)
        .collect();
    assert_eq!(versions.len(), 3, "one copy of every variant");
    assert!(
        spots
            .values()
            .flatten()
            .all(|s| s.placement.part_id == fresh.part)
    );
    assert_eq!(fresh.wanted(), 9, "copies of a trial count");
    // The exposure of the trial is not that of the setting.
    let exposures: Vec<f64> = fresh
        .store
        .read(settings::list)
        .unwrap()
        .iter()
        .map(|(_, v)| v.exposure_s)
        .collect();
    assert!(!exposures.contains(&3.5));
    // Once planned it is as it is.
    let all = fresh.store.read(|c| trials::variants(c, trial)).unwrap();
    let late = fresh
        .store
        .write(|c| trials::remove_variant(c, trial, all[1].0.id));
    assert!(matches!(late, Err(StoreError::Refused(_))));

    let mark = |variant: usize, what: &str, value| {
        fresh
            .store
            .write(|c| trials::mark(c, trial, all[variant].0.id, what, value))
    };
    mark(2, "detail", Some(5)).unwrap();
    mark(1, "detail", Some(2)).unwrap();
    mark(1, "detail", None).unwrap();
    assert!(mark(0, "detail", Some(6)).is_err() && mark(0, "taste", Some(3)).is_err());
    assert_eq!(
        fresh.store.read(|c| trials::marks(c, trial)).unwrap().len(),
        1
    );

    fresh
        .store
        .write(|c| trials::declare(c, trial, all[2].0.id, "crisp", NOW))
        .unwrap();
    let again = fresh
        .store
        .write(|c| trials::declare(c, trial, all[1].0.id, "", NOW));
    assert!(
        matches!(again, Err(StoreError::Refused(_))),
        "a trial is decided once"
    );
    let (_, version, standing) = newest(&fresh);
    assert_eq!((version, standing), (2, Proof::OnTrial));
    // The winner's exposure became the setting's, and is no assumption any more.
    let setting = fresh.store.read(settings::list).unwrap();
    let (_, known) = setting.iter().find(|(_, v)| v.exposure_s == 3.5).unwrap();
    assert!(!known.assumed.split(',').any(|f| f == "exposure_s"));

    // Copies of variants prove nothing; one of the version itself does.
    print_all(&fresh);
    assert_eq!(newest(&fresh).2, Proof::OnTrial);
    work_off(&fresh);
    fresh
        .store
        .write(|c| trials::plan_first_copies(c, &[fresh.part], NOW))
        .unwrap();
    print_all(&fresh);
    let (id, _, standing) = newest(&fresh);
    assert_eq!(standing, Proof::Proven);
    let recipe = fresh
        .store
        .read(|c| muster::part(c, fresh.part))
        .unwrap()
        .recipe_id;
    let on = fresh.store.read(|c| recipes::proven_on(c, recipe)).unwrap();
    assert_eq!(on[&id], [("Dunlin".to_owned(), 1)]);
    let state = fresh.store.read(|c| trials::load(c, trial)).unwrap().state;
    assert_eq!(state, TrialState::Decided);
}

/// A change after proving is a new, untried version that says what changed.
#[rstest]
#[case::scale(|r: &mut RecipeChange| r.scale = 0.9, "scale 100.0 → 90.0 %")]
#[case::layer(|r: &mut RecipeChange| r.layer = LayerHeight::from_mm(0.03).unwrap(), "layer 0.05 → 0.03 mm")]
#[case::pose(|r: &mut RecipeChange| r.hang = Some(Hang { pose: Pose::new(30.0, 90.0), supports: Supports::None }), "hangs as the file stands → 30° back")]
fn a_change_after_proving_is_untried(#[case] with: fn(&mut RecipeChange), #[case] says: &str) {
    let fresh = Fresh::new(1);
    let plan = fresh.draft().unwrap();
    fresh.store.write(|c| plans::accept(c, plan, NOW)).unwrap();
    print_all(&fresh);
    assert_eq!(newest(&fresh).2, Proof::Proven);
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    fresh
        .store
        .write(|c| {
            let mut to = RecipeChange::of(&recipes::newest(c, part.recipe_id)?);
            with(&mut to);
            recipes::change(c, part.recipe_id, &to, NOW)
        })
        .unwrap();
    let (id, version, standing) = newest(&fresh);
    assert_eq!((version, standing), (2, Proof::Untried));
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
    let spots = fresh
        .store
        .read(|c| plates::spots(c, &[copies[0].id]))
        .unwrap();
    let copy = spots[&copies[0].id][0].copy.clone().unwrap();
    assert_eq!(copy.stage, Stage::Good, "what was printed stays as it was");
}

/// Another sculpt begins anew: what the old one proved does not hold for it.
#[test]
fn another_sculpt_is_untried_and_hangs_as_it_stands() {
    let fresh = Fresh::new(1);
    let wembrit_store::queries::sculpts::Arrival::New(other) =
        crate::fresh::upload(&fresh.store, "other.stl", &crate::fresh::spike(12.0)).unwrap()
    else {
        panic!("another file is new");
    };
    let plan = fresh.draft().unwrap();
    fresh.store.write(|c| plans::accept(c, plan, NOW)).unwrap();
    print_all(&fresh);
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let change = |sculpt| {
        fresh.store.write(|c| {
            let now = muster::part(c, fresh.part)?;
            let version = recipes::newest(c, part.recipe_id)?;
            let to = PartChange {
                name: now.name.clone(),
                count: 1,
                spares: 0,
                sculpt: Some(sculpt),
                option: None,
                recipe: RecipeChange::of(&version),
            };
            muster::change_part(c, fresh.part, now.row_version, &to, NOW)
        })
    };
    change(other).unwrap();
    assert_eq!(newest(&fresh).2, Proof::Untried);
    let version = fresh
        .store
        .read(|c| recipes::newest(c, part.recipe_id))
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
        let request = fresh.store.read(|c| {
            let army = wembrit_store::queries::army::load(c, fresh.project)?;
            let lines = demand::lines(&army);
            Ok((
                demand::unprepared(c, &lines)?.len(),
                demand::plan_request(c, fresh.project, &lines)?,
            ))
        });
        let (waiting, request) = request.unwrap();
        (
            waiting,
            request.parts[0].height_mm,
            request.parts[0].volume_mm3,
        )
    };
    let (waiting, height, volume) = planned();
    assert_eq!((waiting, height), (0, 20.0));
    fresh
        .store
        .write(|c| {
            let version = recipes::newest(c, part.recipe_id)?;
            let to = RecipeChange {
                hang: Some(Hang {
                    pose: Pose::AS_IMPORTED,
                    supports: Supports::Planned(SupportStyle::USUAL),
                }),
                ..RecipeChange::of(&version)
            };
            recipes::change(c, part.recipe_id, &to, NOW)
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
