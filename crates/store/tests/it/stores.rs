//! The books of resin in the data file: bought, poured, printed, strained back.

use wembrit_core::exposure::{ExposureTest, Tested};
use wembrit_core::flow::FailureCause;
use wembrit_core::ids::{PartId, PlateId, PrinterId, ResinId, RunId};
use wembrit_core::learn::{JudgedTest, Verdict};
use wembrit_core::ledger::by_cause;
use wembrit_core::stores::{
    Lost, Move, OnScale, Place, Volume, Wear, WearKind, WeightSays, reckoned_g,
};
use wembrit_core::units::Money;
use wembrit_store::commands::run_plate::While;
use wembrit_store::commands::stores::{self, Bought, Said};
use wembrit_store::commands::weighings::OnTheScale;
use wembrit_store::commands::{accept_plan, exposures, run_plate, vats, wears, weighings};
use wembrit_store::queries::pages::{ledger, weighing};
use wembrit_store::queries::weighings::weights;
use wembrit_store::queries::{self, army, plates};
use wembrit_store::{Conn, StoreError};

use crate::fresh::{Fresh, NOW};

const HOUR: i64 = 3_600_000;
const VAT: Place = Place::Vat(PrinterId(1));

struct Shelf(Fresh);

impl Shelf {
    /// A workshop with a bottle of a litre.
    fn new() -> Self {
        let shelf = Self(Fresh::new(4));
        let litre = Bought {
            resin: ResinId(1),
            size_ml: 1000.0,
            price: Money(3150),
            best_before_ms: None,
            bottles: 1,
        };
        shelf.write(|c| stores::buy(c, &litre, NOW)).unwrap();
        shelf
    }

    fn write<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> Result<T, String> {
        self.0.store.write(work).map_err(|e| e.to_string())
    }

    fn held(&self, place: Place) -> f64 {
        let books = self.0.store.read(queries::stores::books).unwrap();
        assert_eq!(books.sum(), Volume(0), "the books balance");
        books.held(place).in_ml()
    }

    fn pour(&self, from: Place, to: Place, ml: f64) -> Result<(), String> {
        let volume = Volume::ml(ml).unwrap();
        let what = Move { from, to, volume };
        self.write(|c| stores::make(c, &what, &Said::default(), NOW))
    }

    fn plate(&self) -> PlateId {
        let plan = self.0.draft().unwrap();
        self.write(|c| accept_plan::accept(c, plan, NOW)).unwrap();
        let all = self.0.store.read(|c| plates::accepted(c, self.0.project));
        all.unwrap().last().unwrap().id
    }
}

/// What a plate takes leaves its vat when it is taken off; half of it when it was stopped half way; what the
/// books do not know of stays out of them.
#[test]
fn a_print_leaves_its_vat() {
    let shelf = Shelf::new();
    let plate = shelf.plate();
    let known = shelf.0.store.read(|c| plates::load(c, plate)).unwrap();
    shelf.pour(Place::Bottle(1), VAT, 100.0).unwrap();
    shelf.write(|c| run_plate::start(c, plate, NOW)).unwrap();
    let half = known.layers / 2;
    let lose =
        |c: &mut Conn| run_plate::lose(c, plate, FailureCause::Warped, Some(half), NOW + HOUR);
    shelf.write(lose).unwrap();
    let share = half as f64 / known.layers as f64;
    assert!((shelf.held(VAT) - (100.0 - known.resin_ml * share)).abs() < 2e-3);
    let before = shelf.held(VAT);
    let again = shelf.plate();
    shelf
        .write(|c| run_plate::log_run(c, again, NOW + HOUR, NOW + 2 * HOUR, NOW + 2 * HOUR))
        .unwrap();
    assert!((before - shelf.held(VAT) - known.resin_ml).abs() < 2e-3);
    let goes = known.goes;
    let parts = [
        (Place::Printed, goes.cured_ml()),
        (Place::Gone(Lost::Washed), goes.film_ml),
        (Place::Gone(Lost::Tools), goes.waste_ml),
    ];
    for (place, ml) in parts {
        let held = shelf.held(place);
        assert!(
            ml > 0.0 && (held - ml * (1.0 + share)).abs() < 4e-3,
            "{place:?}: {held}"
        );
    }
}

/// A vat that is lost with its plate is money of the project, under the cause of the plate.
#[test]
fn a_lost_vat_is_spent_with_its_plate() {
    let shelf = Shelf::new();
    let plate = shelf.plate();
    let known = shelf.0.store.read(|c| plates::load(c, plate)).unwrap();
    shelf.pour(Place::Bottle(1), VAT, 100.0).unwrap();
    shelf.write(|c| run_plate::start(c, plate, NOW)).unwrap();
    let money = || {
        let army = shelf.0.store.read(|c| army::load(c, shelf.0.project));
        army.unwrap().money
    };
    assert_eq!((money().spent(), money().running), (Money(0), known.cost()));
    let (cause, half) = (FailureCause::Warped, known.layers / 2);
    shelf
        .write(|c| {
            run_plate::lose(c, plate, cause, Some(half), NOW + HOUR)?;
            run_plate::spoil_vat(c, plate, cause, NOW + HOUR)
        })
        .unwrap();
    let page = shelf.0.store.read(|c| ledger::load(c, shelf.0.project));
    let page = page.unwrap();
    let share = half as f64 / known.layers as f64;
    let spoilt = (100.0 - known.resin_ml * share) * page.plates[0].basis.unwrap().ml_minor;
    let spent = page.plates[0].actual().unwrap().total() + Money::from_minor_f64(spoilt);
    assert!(
        spoilt > 1.0 && (money().spent() - spent).0.abs() <= 1,
        "{spent:?}"
    );
    assert_eq!(money().running, Money(0));
    // Nobody pays for its copies but the project, and they cost what the half plate took.
    let lost: Money = page.charges.lost.values().copied().sum();
    assert_eq!(lost, page.plates[0].actual().unwrap().total());
    assert!(lost < known.cost());
    let causes = by_cause(&page.copies, &page.plates);
    assert_eq!((causes.len(), causes[0].cost), (1, money().spent()));
}

/// There was more in the vat than the books say: the print is there, so a count makes up for it.
#[test]
fn the_print_is_there() {
    let shelf = Shelf::new();
    let plate = shelf.plate();
    let known = shelf.0.store.read(|c| plates::load(c, plate)).unwrap();
    shelf
        .pour(Place::Bottle(1), VAT, known.resin_ml / 2.0)
        .unwrap();
    shelf
        .write(|c| run_plate::log_run(c, plate, NOW, NOW + HOUR, NOW + HOUR))
        .unwrap();
    assert_eq!(shelf.held(VAT), 0.0);
    assert!((shelf.held(Place::Counted) + known.resin_ml / 2.0).abs() < 2e-3);
}

/// A vat is strained back into its bottle where that has room, into one of its own where not.
#[test]
fn a_vat_is_strained_back() {
    let shelf = Shelf::new();
    let strain = |shelf: &Shelf| shelf.write(|c| vats::strain_back(c, PrinterId(1), NOW));
    assert!(strain(&shelf).unwrap_err().contains("know of nothing"));
    shelf.pour(Place::Bottle(1), VAT, 120.0).unwrap();
    strain(&shelf).unwrap();
    assert_eq!(
        (shelf.held(VAT), shelf.held(Place::Bottle(1))),
        (0.0, 985.0)
    );
    assert_eq!(shelf.held(Place::Gone(Lost::Changed)), 15.0);
    shelf.pour(Place::Bottle(1), VAT, 135.0).unwrap();
    let full = |c: &mut Conn| {
        stores::count(
            c,
            Place::Bottle(1),
            Volume(1_000_000),
            &Said::default(),
            NOW,
        )
    };
    shelf.write(full).unwrap();
    strain(&shelf).unwrap();
    assert_eq!(
        (shelf.held(VAT), shelf.held(Place::Bottle(2))),
        (0.0, 120.0)
    );
    shelf
        .pour(Place::Bottle(2), Place::Gone(Lost::Spilt), 20.0)
        .unwrap();
    assert_eq!(shelf.held(Place::Bottle(2)), 100.0);
    let much = shelf.pour(Place::Bottle(1), VAT, 900.0).unwrap_err();
    assert!(much.contains("it takes"), "{much}");
    let limit = |least, most| shelf.write(|c| vats::limit(c, PrinterId(1), [least, most]));
    assert!(limit(60.0, 50.0).is_err());
    limit(60.0, 900.0).unwrap();
    shelf.pour(Place::Bottle(1), VAT, 900.0).unwrap();
}

/// 200 ml of one resin and 40 of another are 240 ml of a mix: it counts whole, and its exposure was
/// not tested, whatever is known of the one there is most of.
#[test]
fn a_mixed_vat_counts_whole_and_is_not_tested() {
    let shelf = Shelf::new();
    let other = Bought {
        resin: shelf.0.another_resin(),
        size_ml: 500.0,
        price: Money(1900),
        best_before_ms: None,
        bottles: 1,
    };
    shelf.write(|c| stores::buy(c, &other, NOW)).unwrap();
    shelf
        .write(|c| vats::limit(c, PrinterId(1), [20.0, 400.0]))
        .unwrap();
    shelf.pour(Place::Bottle(1), VAT, 200.0).unwrap();
    let plate = shelf.plate();
    let known = || {
        let read = |c: &mut Conn| queries::preflights::known(c, plate, NOW);
        shelf.0.store.read(read).unwrap()
    };
    assert_eq!(
        (known().vat_left_ml(), known().untested_mix),
        (Some(200.0), false)
    );
    shelf.pour(Place::Bottle(2), VAT, 40.0).unwrap();
    assert_eq!(
        (known().vat_left_ml(), known().untested_mix),
        (Some(240.0), true)
    );
    // Its own test tells, one from before it was poured together does not.
    let setting = known().setting.unwrap();
    let judge = |verdict, at_ms| {
        let test = ExposureTest {
            of: Tested::Layer,
            judged: JudgedTest {
                exposure_s: 2.4,
                verdict,
            },
            room_c: None,
            at_ms,
        };
        shelf
            .write(|c| exposures::judge(c, setting, &test, ""))
            .unwrap();
        known().untested_mix
    };
    assert!(judge(Verdict::Right, NOW - HOUR));
    assert!(judge(Verdict::Under, NOW + HOUR));
    assert!(!judge(Verdict::Right, NOW + HOUR));
    // A level that is corrected is no pour.
    let said = Said::default();
    let holds = Volume::ml(250.0).unwrap();
    shelf
        .write(|c| stores::count(c, VAT, holds, &said, NOW + 2 * HOUR))
        .unwrap();
    assert!(!known().untested_mix);
}

/// What is said to be in a vat before a start was poured from the bottle that is open, then from the next; what
/// no bottle has was found. Another resin goes back first, but for what clings.
#[test]
fn a_vat_is_filled_from_the_bottles_before_a_start() {
    let shelf = Shelf::new();
    let more = Bought {
        resin: ResinId(1),
        size_ml: 500.0,
        price: Money(1900),
        best_before_ms: None,
        bottles: 1,
    };
    shelf.write(|c| stores::buy(c, &more, NOW)).unwrap();
    shelf
        .pour(Place::Bottle(2), Place::Gone(Lost::Spilt), 450.0)
        .unwrap();
    let fill = |ml: f64| {
        let holds = Volume::ml(ml).unwrap();
        shelf.write(|c| vats::filled(c, PrinterId(1), ResinId(1), holds, RunId(1), NOW))
    };
    let plate = shelf.plate();
    shelf.write(|c| run_plate::start(c, plate, NOW)).unwrap();
    fill(120.0).unwrap();
    let held = |places: [Place; 3]| places.map(|p| shelf.held(p));
    let places = [VAT, Place::Bottle(2), Place::Bottle(1)];
    assert_eq!(held(places), [120.0, 0.0, 930.0]);
    assert_eq!(shelf.held(Place::Counted), 0.0);
    fill(100.0).unwrap();
    assert_eq!(held(places), [100.0, 0.0, 930.0]);
    assert_eq!(shelf.held(Place::Counted), 20.0);
    let up = While::Refilled(Some(Volume(60_000)));
    shelf
        .write(|c| run_plate::during(c, plate, &up, NOW))
        .unwrap();
    assert_eq!(held(places), [160.0, 0.0, 870.0]);
    // More than it takes goes nowhere, during a run as before it.
    shelf
        .write(|c| vats::limit(c, PrinterId(1), [20.0, 180.0]))
        .unwrap();
    let over = shelf.write(|c| run_plate::during(c, plate, &up, NOW));
    assert!(over.unwrap_err().contains("it takes 180 ml"));
    assert_eq!(held(places), [160.0, 0.0, 870.0]);
    // It is spoilt, and charged to the run.
    let off = |cause: &str| shelf.write(|c| vats::write_off(c, PrinterId(1), cause, None, NOW));
    assert!(off(" ").unwrap_err().contains("why"));
    off("the film tore").unwrap();
    assert_eq!(shelf.held(Place::Gone(Lost::WrittenOff)), 160.0);
    assert!(off("again").unwrap_err().contains("know of nothing"));
    let last = shelf.0.store.read(queries::stores::entries).unwrap();
    assert_eq!(last.last().unwrap().cause, "the film tore");
}

/// A sheet is the plate's area by its thickness; a bottle is counted on the scale.
#[test]
fn a_sheet_and_a_bottle_on_the_scale() {
    let shelf = Shelf::new();
    shelf.pour(Place::Bottle(1), VAT, 120.0).unwrap();
    let sheet = |mm: f64| shelf.write(|c| vats::cure_sheet(c, PrinterId(1), mm, NOW));
    assert!(sheet(0.0).is_err() && sheet(f64::NAN).is_err());
    sheet(0.3).unwrap();
    let of = shelf
        .0
        .store
        .read(|c| queries::printers::load(c, PrinterId(1)));
    let of = of.unwrap();
    let ml = of.width_mm * of.depth_mm * 0.3 / 1000.0;
    assert!((shelf.held(Place::Gone(Lost::Sheet)) - ml).abs() < 1e-3);
    let resin = shelf.0.store.read(|c| queries::resins::load(c, ResinId(1)));
    let density = resin.unwrap().facts.density_g_per_ml;
    let weigh = |g: f64| shelf.write(|c| stores::weigh_bottle(c, 1, g, 100.0, NOW));
    assert!(weigh(90.0).unwrap_err().contains("write what it weighs"));
    weigh(100.0 + 700.0 * density).unwrap();
    assert_eq!(shelf.held(Place::Bottle(1)), 700.0);
    let known = shelf.0.store.read(queries::stores::bottles).unwrap();
    assert_eq!(known[0].empty_g, Some(100.0));
}

/// A plate that was weighed changes what the next is expected to take: what waits follows, what ran stays; what
/// holds liquid teaches nothing.
#[test]
fn what_was_weighed_is_expected_of_the_next() {
    let shelf = Shelf::new();
    let plate = shelf.plate();
    let look = |plate| shelf.0.store.read(|c| plates::load(c, plate)).unwrap();
    let before = look(plate);
    let weigh = |plate, part, copies, grams| {
        let what = OnTheScale {
            part,
            copies,
            state: OnScale::Washed,
            grams,
            sure: false,
        };
        shelf.write(|c| weighings::weigh(c, plate, &what, NOW))
    };
    assert!(
        weigh(plate, None, 1, 20.0)
            .unwrap_err()
            .contains("printed to its end")
    );
    let print = |plate| shelf.write(|c| run_plate::log_run(c, plate, NOW, NOW + HOUR, NOW + HOUR));
    print(plate).unwrap();
    // All of it fails, so that another one is wanted.
    shelf.0.fails(plate, NOW + HOUR);
    let next = shelf.plate();
    let page = shelf.0.store.read(|c| weighing::load(c, plate)).unwrap();
    let facts = page.resin.facts;
    let body = page.on_it.body(None, 1).expect("a plate with copies");
    let reckoned = reckoned_g(&body, OnScale::Washed, &facts);
    // Mass is kept: what cured weighs what the liquid did.
    assert!((before.goes.cured_ml() * facts.density_g_per_ml - reckoned).abs() < 1e-6);
    assert!(
        weigh(plate, None, 1, 0.0).is_err() && weigh(plate, Some(PartId(999)), 1, 5.0).is_err()
    );
    assert_eq!(
        weigh(plate, None, 1, reckoned * 1.06),
        Ok(WeightSays::AsExpected)
    );
    let times = shelf.0.store.read(weights).unwrap().of(ResinId(1)).times;
    assert!(times > 1.01 && times < 1.06, "{times}");
    let after = look(next);
    assert!((after.goes.cured_ml() - before.goes.cured_ml() * times).abs() < 1e-9);
    assert_eq!(after.goes.film_ml, before.goes.film_ml);
    assert!((after.resin_g / after.resin_ml - facts.density_g_per_ml).abs() < 1e-9);
    assert_eq!(look(plate).goes, before.goes, "what ran stays as it was");
    // It runs: what is weighed from now on is no more of its figure.
    shelf.write(|c| run_plate::start(c, next, NOW)).unwrap();
    assert!((look(next).resin_ml - after.resin_ml).abs() < 1e-9);
    for _ in 0..5 {
        weigh(plate, None, 1, reckoned * 1.06).unwrap();
    }
    assert!((look(next).resin_ml - after.resin_ml).abs() < 1e-9);
    let far = weigh(plate, None, 1, reckoned * 2.0).unwrap();
    assert!(matches!(far, WeightSays::Far(times) if times > 1.8));
    let weighed = |shelf: &Shelf| {
        let page = shelf.0.store.read(|c| weighing::load(c, plate));
        page.unwrap().weighed.len()
    };
    assert_eq!(
        weighed(&shelf),
        6,
        "what is far off waits for a second look"
    );
    let sure = OnTheScale {
        part: None,
        copies: 1,
        state: OnScale::Washed,
        grams: reckoned * 2.0,
        sure: true,
    };
    shelf
        .write(|c| weighings::weigh(c, plate, &sure, NOW))
        .unwrap();
    let shown = shelf.0.store.read(|c| weighing::load(c, plate)).unwrap();
    assert_eq!(shown.weighed.len(), 7);
    let wrong = shown.weighed[0].id;
    shelf.write(|c| weighings::forget(c, plate, wrong)).unwrap();
    assert!(shelf.write(|c| weighings::forget(c, plate, wrong)).is_err());
}

/// A film is worn by the layers that ran on its printer; a new one begins anew, and the exposure is due after
/// it; what is said of its life makes it no newer.
#[test]
fn what_wears_is_replaced() {
    let shelf = Shelf::new();
    let plate = shelf.plate();
    shelf
        .write(|c| run_plate::log_run(c, plate, NOW, NOW + HOUR, NOW + HOUR))
        .unwrap();
    let layers = shelf
        .0
        .store
        .read(|c| plates::load(c, plate))
        .unwrap()
        .layers as f64;
    let film = |shelf: &Shelf| {
        let all = shelf
            .0
            .store
            .read(|c| queries::wears::state(c, &[]))
            .unwrap();
        let film = all.into_iter().find(|w| w.wear.kind == WearKind::Film);
        film.expect("a printer has a film")
    };
    let wear = Wear {
        life: layers,
        ..Wear::usual(WearKind::Film, Some(PrinterId(1)))
    };
    shelf.write(|c| wears::set_life(c, &wear)).unwrap();
    assert!(film(&shelf).is_due() && film(&shelf).used.prints == 1.0);
    shelf
        .write(|c| wears::renew(c, WearKind::Film, PrinterId(1), NOW + 2 * HOUR))
        .unwrap();
    assert_eq!((film(&shelf).worn, film(&shelf).wear.life), (0.0, layers));
    let changed = |c: &mut Conn| queries::exposures::changes(c, PrinterId(1), ResinId(1));
    let changed = shelf.0.store.read(changed).unwrap();
    assert_eq!(changed, [Some(NOW + 2 * HOUR), None, None]);
    let wrong = |wear: Wear| shelf.write(|c| wears::replace(c, &wear, NOW)).unwrap_err();
    assert!(
        wrong(Wear {
            life: f64::NAN,
            ..wear
        })
        .contains("layers and prints")
    );
    assert!(
        wrong(Wear {
            printer: None,
            ..wear
        })
        .contains("which printer")
    );
    assert!(
        wrong(Wear {
            printer: Some(PrinterId(9)),
            ..wear
        })
        .contains("printer")
    );
}
