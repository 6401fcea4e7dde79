//! Bottles on the shelf and what is in the vats, in the scenario.

use wembrit_core::stores::{Move, Place, Volume};
use wembrit_core::units::Money;
use wembrit_store::commands::stores::{self, Bought, Said};
use wembrit_store::queries::{printers, resins};
use wembrit_store::{Conn, StoreError};

/// Resin, how many bottles, what each holds, ml, what was paid for each.
type Bottles = (&'static str, u32, f64, i64);
/// Which printer's vat some of the first was poured into, and how much, ml.
type Poured = Option<(usize, f64)>;

const BOTTLES: [(Bottles, Poured); 4] = [
    (("Slate tough", 1, 500.0, 1950), Some((0, 110.0))),
    (("Peat plain", 2, 1000.0, 2600), Some((2, 390.0))),
    (("Rush soft", 1, 500.0, 2300), None),
    (("Fen clear", 1, 500.0, 2100), None),
];

/// Puts them there.
pub(crate) fn stock(c: &mut Conn, now_ms: i64) -> Result<(), StoreError> {
    let (resins, printers) = (resins::list(c)?, printers::list(c)?);
    let mut next = 1;
    for ((name, bottles, size_ml, price), poured) in BOTTLES {
        let Some(resin) = resins.iter().find(|r| r.name == name) else {
            continue;
        };
        let bought = Bought {
            resin: resin.id,
            size_ml,
            price: Money(price),
            best_before_ms: Some(now_ms + 250 * 86_400_000),
            bottles,
        };
        stores::buy(c, &bought, now_ms)?;
        let first = Place::Bottle(next);
        next += i64::from(bottles);
        if let Some((printer, ml)) = poured
            && let Some(printer) = printers.get(printer)
        {
            let what = Move {
                from: first,
                to: Place::Vat(printer.id),
                volume: Volume::ml(ml).map_err(|e| StoreError::Refused(e.to_string()))?,
            };
            stores::make(c, &what, &Said::default(), now_ms)?;
        }
    }
    Ok(())
}
