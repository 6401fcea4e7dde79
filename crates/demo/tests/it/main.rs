//! The demo scenario holds what it promises.

#![allow(
    clippy::unwrap_used,
    reason = "a test that cannot go on should stop there"
)]

mod poses;

use rstest::rstest;
use wembrit_core::flow::{PlateState, SculptState, Stage};
use wembrit_core::layers::{Voxels, find_hollows};
use wembrit_core::sculpt::findings::{Evidence, FindingKind, find};
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::resin::{ResinFacts, safe_mm};
use wembrit_demo::sculpts::{Flaw, all};
use wembrit_store::Store;
use wembrit_store::queries::{army, muster, plates, sculpts};

const NOW: i64 = 1_795_500_000_000;

#[rstest]
#[case(Flaw::SealedHollow, |f: &wembrit_core::mesh::MeshFacts| f.inner_shells == 1 && f.watertight())]
#[case(Flaw::InvertedShell, |f: &wembrit_core::mesh::MeshFacts| f.inverted_shells == 1)]
#[case(Flaw::OpenMesh, |f: &wembrit_core::mesh::MeshFacts| !f.watertight())]
#[case(Flaw::Cup, |f: &wembrit_core::mesh::MeshFacts| f.watertight())]
fn every_flaw_is_there_and_is_measured(
    #[case] flaw: Flaw,
    #[case] seen: fn(&wembrit_core::mesh::MeshFacts) -> bool,
) {
    let sculpt = all()
        .into_iter()
        .find(|s| s.flaw == flaw)
        .expect("the flaw is in the scenario");
    let measured = measure_file(
        &sculpt.to_stl(),
        sculpt.file_name,
        MeasureOptions::at(LayerHeight::USUAL),
        &Unwatched,
    )
    .expect("a dirty file is measured all the same");
    assert!(seen(&measured.facts), "{:?}", measured.facts);
}

/// They look like miniatures: several shells sunk into each other, an outline below its hull.
#[test]
fn sculpts_are_made_of_shells_and_leave_air_in_their_hull() {
    let mut airy = 0;
    for sculpt in all() {
        let measured = measure_file(
            &sculpt.to_stl(),
            sculpt.file_name,
            MeasureOptions::at(LayerHeight::USUAL),
            &Unwatched,
        )
        .expect("it measures");
        assert!(
            measured.facts.shells >= 3,
            "{} has {} shells",
            sculpt.file_name,
            measured.facts.shells
        );
        let hull = wembrit_core::geometry::convex_hull(measured.outline.corners());
        let hull = wembrit_core::geometry::Outline::try_new(hull)
            .expect("a hull")
            .area_mm2();
        airy += usize::from(measured.outline.area_mm2() < 0.75 * hull);
    }
    assert!(airy >= 6, "{airy}");
}

#[test]
fn the_levy_is_half_way() {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("demo.sqlite")).expect("it opens");
    wembrit_demo::fill(&store, NOW).expect("the scenario fills");
    let project = store.read(muster::projects).expect("projects")[0].id;
    let army = store.read(|c| army::load(c, project)).expect("the army");
    assert_eq!((army.units.len(), army.progress.models), (9, 85));
    assert!(
        army.progress.copies > 190 && army.progress.complete > 10,
        "{:?}",
        army.progress
    );
    let stages = |stage| {
        army.parts()
            .map(|(_, _, p)| p.counts.of(stage))
            .sum::<u32>()
    };
    assert!(stages(Stage::Failed) > 3 && stages(Stage::Printing) > 0 && stages(Stage::Planned) > 0);
    let states: Vec<PlateState> = store
        .read(|c| plates::accepted(c, project))
        .expect("plates")
        .iter()
        .map(|p| p.state)
        .collect();
    for state in [PlateState::Done, PlateState::Running, PlateState::Planned] {
        assert!(states.contains(&state), "{states:?}");
    }
}

/// Every kind of finding has a sculpt that shows it, and there are sculpts enough to choose from.
/// Only thin walls and necks have none: the thinnest of them is 0.73 mm, which prints.
#[test]
fn every_kind_of_finding_is_shown() {
    let layer = LayerHeight::USUAL;
    let mut kinds = std::collections::BTreeSet::new();
    let sculpts = all();
    assert!(sculpts.len() >= 12);
    for sculpt in &sculpts {
        let bytes = sculpt.to_stl();
        let measured = measure_file(
            &bytes,
            sculpt.file_name,
            MeasureOptions::at(layer),
            &Unwatched,
        )
        .expect("it measures");
        let mesh = wembrit_core::mesh::read_mesh(&bytes, "a.stl").expect("it reads");
        let hollows = find_hollows(&Voxels::of(&wembrit_core::mesh::Solid::new(&mesh), 1.0));
        let stack = &measured.stack;
        let found = find(&Evidence {
            volume_mm3: stack.volume_mm3,
            resin: ResinFacts {
                price_per_kg: Money(2500),
                density_g_per_ml: 1.0,
                ..ResinFacts::ASSUMED
            },
            least_width_mm: safe_mm(None),
            islands: &stack.islands,
            cups: &stack.cups,
            hollows: &hollows,
            thickness: measured.thickness,
            open_edge_mm: measured.facts.open_edge_mm,
            inverted_shells: i64::from(measured.facts.inverted_shells),
            tips_at_deg: stack.tips_at_deg,
            supported: false,
        });
        kinds.extend(found.iter().map(|f| f.kind));
        let ways_out: Vec<usize> = hollows.iter().map(|h| h.ways_out.len()).collect();
        match sculpt.flaw {
            Flaw::SealedHollow => assert_eq!(ways_out, [0], "{}", sculpt.file_name),
            Flaw::OneWayOut => assert_eq!(ways_out, [1], "{}", sculpt.file_name),
            _ => assert!(ways_out.is_empty(), "{}: {ways_out:?}", sculpt.file_name),
        }
    }
    let thin = [FindingKind::Thin, FindingKind::Neck, FindingKind::Tips];
    let missing: Vec<_> = FindingKind::ALL
        .iter()
        .filter(|k| !kinds.contains(k) && !thin.contains(k))
        .collect();
    assert!(missing.is_empty(), "{missing:?}");
}

/// It opens sooner than it is filled: only files that nothing was planned of are left to measure,
/// and everything else is the same.
#[test]
fn the_demo_opens_with_what_plates_need() {
    let filled = |how: fn(&Store, i64) -> Result<(), wembrit_demo::DemoError>| {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("w.sqlite")).unwrap();
        how(&store, NOW).unwrap();
        store
            .read(|c| {
                let project = muster::projects(c)?[0].id;
                let army = army::load(c, project)?;
                let plates = plates::accepted(c, project)?;
                Ok((army, plates, sculpts::list(c)?))
            })
            .unwrap()
    };
    let (opened, opened_plates, files) = filled(wembrit_demo::open);
    let (whole, whole_plates, all_files) = filled(wembrit_demo::fill);
    assert_eq!(
        (opened.progress, opened.spent()),
        (whole.progress, whole.spent())
    );
    assert_eq!(opened_plates, whole_plates);
    assert_eq!(files.len(), all_files.len());
    assert!(
        all_files
            .iter()
            .all(|(s, f)| s.state == SculptState::Measured && f.is_some())
    );
    let waiting: Vec<_> = files
        .iter()
        .filter(|(s, _)| s.state == SculptState::Waiting)
        .collect();
    assert!(!waiting.is_empty(), "something is left to the server");
    for (_, model, part) in opened.parts() {
        let waits = part
            .part
            .sculpt
            .is_some_and(|id| waiting.iter().any(|(s, _)| s.id == id));
        let placed =
            part.need.alive + part.counts.of(Stage::Failed) + part.counts.of(Stage::Surplus);
        assert!(
            !waits || placed == 0,
            "{} is on a plate and was not measured",
            model.model.name
        );
    }
}
