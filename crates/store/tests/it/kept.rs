//! Data files as earlier versions left them: every one still opens, whole.

use std::path::PathBuf;

use wembrit_core::flow::Stage;
use wembrit_core::ids::{PrinterId, ResinId};
use wembrit_core::stores::{Move, Place, Volume};
use wembrit_core::units::Money;
use wembrit_store::commands::judge_plate::Failure;
use wembrit_store::commands::stores::{self, Bought, Said};
use wembrit_store::queries::{self, army, muster, plates, sculpts};
use wembrit_store::{Store, commands};

use crate::fresh::{Fresh, NOW, spike};

fn folder() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/data")
}

/// One plate judged with a loss, one planned, one copy wanted; a bottle of which some is in the vat.
fn half_way() -> Fresh {
    let fresh = Fresh::new(3);
    let accept = || {
        let plan = fresh.draft().unwrap();
        fresh
            .store
            .write(|c| commands::accept_plan::accept(c, plan, NOW))
            .unwrap();
        fresh
            .store
            .read(|c| plates::accepted(c, fresh.project))
            .unwrap()
            .last()
            .unwrap()
            .id
    };
    let bottle = Bought {
        resin: ResinId(1),
        size_ml: 500.0,
        price: Money(1950),
        best_before_ms: None,
        bottles: 1,
    };
    let poured = Move {
        from: Place::Bottle(1),
        to: Place::Vat(PrinterId(1)),
        volume: Volume(120_000),
    };
    let stock = |c: &mut wembrit_store::Conn| {
        stores::buy(c, &bottle, NOW)?;
        stores::make(c, &poured, &Said::default(), NOW)
    };
    fresh.store.write(stock).unwrap();
    let first = accept();
    fresh
        .store
        .write(|c| commands::run_plate::log_run(c, first, NOW, NOW + 60_000, NOW + 60_000))
        .unwrap();
    let on_plates = fresh
        .store
        .read(|c| plates::copies_on(c, &[first]))
        .unwrap();
    let lost = Failure {
        copy: on_plates[&first][1].copy.as_ref().unwrap().id,
        cause: wembrit_core::flow::FailureCause::Warped,
        note: "kept".into(),
    };
    fresh
        .store
        .write(|c| commands::judge_plate::judge(c, first, &[lost], NOW + 90_000))
        .unwrap();
    accept();
    let model = fresh.store.read(|c| muster::model(c, fresh.model)).unwrap();
    let more = commands::muster::ModelChange {
        name: model.name,
        quantity: 4,
        base_width_mm: 25.0,
        base_depth_mm: 25.0,
        carries: 0,
    };
    fresh
        .store
        .write(|c| commands::muster::change_model(c, fresh.model, model.row_version, &more, NOW))
        .unwrap();
    fresh
}

#[test]
#[ignore = "writes the data file that later versions must open; run once at the end of an issue"]
fn keep_a_data_file() {
    let name = std::env::var("WEMBRIT_KEEP").expect("the name of the file, such as after-01");
    half_way()
        .store
        .copy_to(&folder().join(format!("{name}.sqlite")))
        .unwrap();
}

#[test]
fn files_of_every_earlier_version_open_whole() {
    let mut opened = 0;
    for entry in std::fs::read_dir(folder()).unwrap() {
        let kept = entry.unwrap().path();
        if kept.extension().is_none_or(|e| e != "sqlite") {
            continue;
        }
        let work = tempfile::tempdir().unwrap();
        let path = work.path().join("w.sqlite");
        std::fs::copy(&kept, &path).unwrap();
        let store = Store::open(&path).unwrap_or_else(|e| panic!("{}: {e}", kept.display()));
        let project = store.read(muster::projects).unwrap()[0].id;
        let army = store.read(|c| army::load(c, project)).unwrap();
        let part = army.parts().next().unwrap().2;
        let stages = [Stage::Good, Stage::Failed, Stage::Planned].map(|s| part.counts.of(s));
        assert_eq!(
            (stages, part.need.wanted()),
            ([2, 1, 1], 1),
            "{}",
            kept.display()
        );
        let sculpt = store.read(sculpts::list).unwrap()[0].0.id;
        assert_eq!(
            store.read(|c| sculpts::bytes(c, sculpt)).unwrap(),
            spike(20.0)
        );
        let books = store.read(queries::stores::books).unwrap();
        assert_eq!(books.sum(), Volume(0), "{}", kept.display());
        let worn = store.read(|c| queries::wears::state(c, &[])).unwrap();
        assert!(worn.iter().any(|w| w.used.prints > 0.0));
        opened += 1;
    }
    assert!(opened >= 1, "the kept files are part of the repository");
}
