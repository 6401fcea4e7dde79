//! Bottles on the shelf, what is in the vats, on the scale and worn, in the scenario.

use wembrit_core::ids::ProjectId;
use wembrit_core::stores::{Lost, Move, OnScale, Place, Volume, Wear, WearKind, reckoned_g};
use wembrit_core::units::Money;
use wembrit_store::commands::stores::{self, Bought, Said};
use wembrit_store::commands::weighings::OnTheScale;
use wembrit_store::commands::{vats, wears, weighings};
use wembrit_store::queries::pages::weighing;
use wembrit_store::queries::{plates, printers, resins};
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
    // Some was spilt with that, and a sheet was cured to lift a chip out.
    if let Some(last) = printers.last() {
        let spilt = Move {
            from: Place::Bottle(2),
            to: Place::Gone(Lost::Spilt),
            volume: Volume(9_000),
        };
        stores::make(c, &spilt, &Said::default(), now_ms)?;
        vats::cure_sheet(c, last.id, 0.3, now_ms)?;
    }
    Ok(())
}

/// How the plates that came off weighed against what was reckoned, one after the other.
const WEIGHED: [f64; 4] = [1.038, 1.021, 1.052, 1.029];

/// Puts what came off on the scale, as it was washed.
pub(crate) fn weigh(c: &mut Conn, project: ProjectId, now_ms: i64) -> Result<(), StoreError> {
    let mut factors = WEIGHED.iter().cycle();
    for plate in plates::accepted(c, project)? {
        let page = weighing::load(c, plate.id)?;
        let body = page.on_it.body(None, 1).filter(|_| page.can_be_weighed());
        let (Some(body), Some(factor)) = (body, factors.next()) else {
            continue;
        };
        let what = OnTheScale {
            part: None,
            sure: false,
            copies: 1,
            state: OnScale::Washed,
            grams: (reckoned_g(&body, OnScale::Washed, &page.resin.facts) * factor * 10.0).round()
                / 10.0,
        };
        weighings::weigh(c, plate.id, &what, now_ms)?;
    }
    Ok(())
}

/// What wears, and what a new one costs.
const PRICES: [(WearKind, i64); 7] = [
    (WearKind::Film, 1900),
    (WearKind::Screen, 7900),
    (WearKind::Bath, 650),
    (WearKind::CleanBath, 650),
    (WearKind::Filter, 1200),
    (WearKind::Gloves, 850),
    (WearKind::Towels, 320),
];

/// What wears, with its price. The film of the first printer is an old one; the workshop has two baths.
pub(crate) fn wear(c: &mut Conn, now_ms: i64) -> Result<(), StoreError> {
    let printers = printers::list(c)?;
    for (kind, price) in PRICES {
        let of: Vec<_> = if kind.of_a_printer() {
            printers.iter().map(|p| Some(p.id)).collect()
        } else {
            vec![None]
        };
        for printer in of {
            let new = Wear {
                price: Money(price),
                ..Wear::usual(kind, printer)
            };
            match kind {
                WearKind::Film if printer == printers.first().map(|p| p.id) => {
                    let old = Wear {
                        life: 1300.0,
                        second: 8.0,
                        // What is left of it is worth a little only.
                        price: Money(40),
                        ..new
                    };
                    wears::set_life(c, &old)?;
                }
                WearKind::CleanBath => wears::replace(c, &new, now_ms)?,
                _ => wears::set_life(c, &new)?,
            }
        }
    }
    Ok(())
}
