//! The books of resin in the data file: bought, poured, printed, strained back.

use wembrit_core::flow::FailureCause;
use wembrit_core::ids::{PlateId, PrinterId, ResinId};
use wembrit_core::stores::{Lost, Move, Place, Volume};
use wembrit_core::units::Money;
use wembrit_store::commands::stores::{self, Bought, Said};
use wembrit_store::commands::{accept_plan, run_plate};
use wembrit_store::queries::{self, plates};
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
        .write(|c| run_plate::log_run(c, again, NOW, NOW + HOUR, NOW + HOUR))
        .unwrap();
    assert!((before - shelf.held(VAT) - known.resin_ml).abs() < 2e-3);
    assert!((shelf.held(Place::Printed) - known.resin_ml * (1.0 + share)).abs() < 2e-3);
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
    let strain = |shelf: &Shelf| shelf.write(|c| stores::strain_back(c, PrinterId(1), NOW));
    assert!(strain(&shelf).unwrap_err().contains("know of nothing"));
    shelf.pour(Place::Bottle(1), VAT, 120.0).unwrap();
    strain(&shelf).unwrap();
    assert_eq!(
        (shelf.held(VAT), shelf.held(Place::Bottle(1))),
        (0.0, 1000.0)
    );
    shelf.pour(Place::Bottle(1), VAT, 120.0).unwrap();
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
    let limit = |least, most| shelf.write(|c| stores::limit_vat(c, PrinterId(1), [least, most]));
    assert!(limit(60.0, 50.0).is_err());
    limit(60.0, 900.0).unwrap();
    shelf.pour(Place::Bottle(1), VAT, 900.0).unwrap();
}
