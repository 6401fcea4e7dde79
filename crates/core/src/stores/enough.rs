//! Which plates the resin lasts for, in the order in which they are printed.

use std::collections::BTreeMap;

use super::books::{Books, Place};
use super::bottle::Bottle;
use crate::flow::Plate;
use crate::ids::{PlateId, PrinterId, ResinId};
use crate::workshop::Printer;

/// A vat, and what is in it.
///
/// # Units
/// ml.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct VatLevel {
    /// The printer's.
    pub printer: PrinterId,
    /// Of which resin; nothing where it is empty and clean.
    pub resin: Option<ResinId>,
    /// What it holds.
    pub holds_ml: f64,
    /// What it has to hold at least, or the plate runs dry.
    pub least_ml: f64,
    /// What it holds at most: a plate that takes more is filled up while it runs.
    pub most_ml: f64,
    /// What is lost in it and in the strainer when another resin comes in.
    pub change_ml: f64,
}

impl VatLevel {
    /// The vat of a printer that holds so much at least and at most, ml, while nothing is in it.
    #[must_use]
    pub fn empty(printer: &Printer, [least_ml, most_ml]: [f64; 2]) -> Self {
        Self {
            printer: printer.id,
            resin: None,
            holds_ml: 0.0,
            least_ml,
            most_ml,
            change_ml: printer.change_ml,
        }
    }
}

/// A plate in its turn.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlateNeed {
    /// Which one.
    pub plate: PlateId,
    /// On which printer.
    pub printer: PrinterId,
    /// Of which resin.
    pub resin: ResinId,
    /// What it takes, ml.
    pub ml: f64,
}

impl PlateNeed {
    /// Of a plate.
    #[must_use]
    pub fn of(plate: &Plate) -> Self {
        Self {
            plate: plate.id,
            printer: plate.printer,
            resin: plate.resin,
            ml: plate.resin_ml,
        }
    }
}

/// What there is.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Stock {
    /// In bottles, ml.
    pub bottles: BTreeMap<ResinId, f64>,
    /// In vats.
    pub vats: Vec<VatLevel>,
}

impl Stock {
    /// What the books say is in these bottles and in these vats, whatever they were thought to hold. A vat
    /// with a mix counts as the resin there is most of.
    #[must_use]
    pub fn of(books: &Books, bottles: &[Bottle], vats: &[VatLevel]) -> Self {
        let mut in_bottles: BTreeMap<ResinId, f64> = BTreeMap::new();
        for bottle in bottles {
            for (resin, volume) in books.content(Place::Bottle(bottle.id)) {
                *in_bottles.entry(resin).or_default() += volume.in_ml();
            }
        }
        let level = |vat: &VatLevel| {
            let place = Place::Vat(vat.printer);
            VatLevel {
                resin: books.resin_in(place),
                holds_ml: books.held(place).in_ml(),
                ..*vat
            }
        };
        Self {
            bottles: in_bottles,
            vats: vats.iter().map(level).collect(),
        }
    }
}

/// Whether there is resin for a plate.
#[derive(Debug, Clone, PartialEq)]
pub struct Covered {
    /// Which one.
    pub plate: PlateId,
    /// What is poured into its vat before or while it runs, ml.
    pub pour_ml: f64,
    /// When the vat is to be filled up while it runs, as shares of the plate; none where what goes in before
    /// the start is enough.
    pub refills: Vec<f64>,
    /// What is lost of the resin that was in the vat before, ml.
    pub changed_ml: f64,
    /// What is missing up to and with this plate, ml; nothing where there is enough.
    pub short_ml: f64,
}

/// Which plates the resin lasts for.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Enough {
    /// Plate by plate, in their order.
    pub plates: Vec<Covered>,
    /// What has to be bought of each resin, ml.
    pub short: BTreeMap<ResinId, f64>,
    /// What is left in bottles after all of it, ml.
    pub left: BTreeMap<ResinId, f64>,
}

impl Enough {
    /// Plates, from the first one on, that are covered.
    #[must_use]
    pub fn lasts(&self) -> usize {
        let short = self.plates.iter().position(|p| p.short_ml > 0.0);
        short.unwrap_or(self.plates.len())
    }

    /// Bottles of a size that make up for what is short of a resin.
    #[must_use]
    pub fn bottles(&self, resin: ResinId, size_ml: f64) -> u64 {
        let short = self.short.get(&resin).copied().unwrap_or(0.0);
        (short / size_ml.max(1.0) - 1e-9).ceil().max(0.0) as u64
    }
}

/// Smaller differences than this are of counting, ml.
const SMALL_ML: f64 = 1e-6;

/// Goes through the plates in their order: each vat is filled from bottles so far that it holds its least
/// after the plate. Where a vat holds another resin, that is strained back into a bottle first, but for what
/// stays in vat and strainer.
#[must_use]
pub fn enough(stock: &Stock, plates: &[PlateNeed]) -> Enough {
    let mut left = stock.bottles.clone();
    let mut vats: BTreeMap<PrinterId, VatLevel> =
        stock.vats.iter().map(|v| (v.printer, *v)).collect();
    let mut told = Enough::default();
    for need in plates {
        let vat = vats.entry(need.printer).or_insert(VatLevel {
            printer: need.printer,
            resin: None,
            holds_ml: 0.0,
            least_ml: 0.0,
            most_ml: f64::INFINITY,
            change_ml: 0.0,
        });
        let mut changed_ml = 0.0;
        if let Some(other) = vat.resin.filter(|r| *r != need.resin) {
            changed_ml = vat.change_ml.min(vat.holds_ml);
            *left.entry(other).or_default() += vat.holds_ml - changed_ml;
            vat.holds_ml = 0.0;
        }
        vat.resin = Some(need.resin);
        let pour_ml = (vat.least_ml + need.ml - vat.holds_ml).max(0.0);
        let bottle = left.entry(need.resin).or_default();
        let missing = (pour_ml - *bottle).max(0.0);
        *bottle = (*bottle - pour_ml).max(0.0);
        let refills = refills(vat, need.ml);
        vat.holds_ml += pour_ml - need.ml;
        let short = told.short.entry(need.resin).or_default();
        *short += missing;
        told.plates.push(Covered {
            plate: need.plate,
            pour_ml,
            refills,
            changed_ml,
            short_ml: if missing > SMALL_ML { *short } else { 0.0 },
        });
    }
    told.short.retain(|_, ml| *ml > SMALL_ML);
    told.left = left;
    told
}

/// When a vat that is filled to its most before the start is down to its least, again and again, as shares of
/// a plate that takes so much: evenly over it.
fn refills(vat: &VatLevel, takes_ml: f64) -> Vec<f64> {
    let between = vat.most_ml - vat.least_ml;
    if between <= 0.0 || takes_ml <= 0.0 {
        return Vec::new();
    }
    let first = (vat.holds_ml.max(vat.most_ml) - vat.least_ml) / takes_ml;
    let more = (0..).map(|n| first + f64::from(n) * between / takes_ml);
    more.take_while(|share| *share < 1.0 - SMALL_ML).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const R: ResinId = ResinId(1);
    const PLATES: [f64; 7] = [46.4, 25.1, 88.0, 97.0, 74.0, 61.0, 58.0];

    fn vat(printer: i64, holds_ml: f64) -> VatLevel {
        VatLevel {
            printer: PrinterId(printer),
            resin: (holds_ml > 0.0).then_some(R),
            holds_ml,
            least_ml: 60.0,
            most_ml: 400.0,
            change_ml: 15.0,
        }
    }

    /// By hand: 120 ml in the vat, of which 60 stay, and 310 in the bottle are 370 for plates of 46.4 to 58:
    /// 330.5 for five, 391.5 for six. A second vat keeps 60 more: 256.5 for four, 330.5 of 310 for five.
    #[rstest]
    #[case::one_vat(&[1, 1, 1, 1, 1, 1, 1], 5, 21.5)]
    #[case::two_vats(&[1, 2, 1, 2, 1, 2, 1], 4, 20.5)]
    fn it_lasts_for_so_many(#[case] on: &[i64], #[case] plates: usize, #[case] short_ml: f64) {
        let stock = Stock {
            bottles: BTreeMap::from([(R, 310.0)]),
            vats: vec![vat(1, 120.0), vat(2, 0.0)],
        };
        let need = |(n, (ml, on)): (i64, (&f64, &i64))| PlateNeed {
            plate: PlateId(n),
            printer: PrinterId(*on),
            resin: R,
            ml: *ml,
        };
        let needs: Vec<PlateNeed> = (1..).zip(PLATES.iter().zip(on)).map(need).collect();
        let told = enough(&stock, &needs);
        assert_eq!(told.lasts(), plates);
        assert!((told.plates[plates].short_ml - short_ml).abs() < 1e-9);
        // The seventh comes on top of what is short already.
        let last = told.plates.last().expect("seven").short_ml;
        assert!((told.short[&R] - last).abs() < 1e-9 && last > short_ml);
        assert_eq!(
            (told.bottles(R, 500.0), told.bottles(R, 50.0)),
            (1, (last / 50.0).ceil() as u64)
        );
    }

    /// What is in the vat goes back into its bottle when another resin is wanted.
    #[test]
    fn another_resin_is_strained_back_first() {
        let other = ResinId(2);
        let stock = Stock {
            bottles: BTreeMap::from([(R, 0.0), (other, 200.0)]),
            vats: vec![vat(1, 120.0)],
        };
        let need = |n, resin, ml| PlateNeed {
            plate: PlateId(n),
            printer: PrinterId(1),
            resin,
            ml,
        };
        let told = enough(&stock, &[need(1, other, 50.0), need(2, R, 40.0)]);
        assert_eq!(told.lasts(), 2);
        // Fifteen of each stay in vat and strainer; the second finds 105 of its own and 60 that stay.
        let changed: Vec<f64> = told.plates.iter().map(|p| p.changed_ml).collect();
        assert_eq!(changed, [15.0, 15.0]);
        assert_eq!((told.left[&R], told.left[&other]), (5.0, 135.0));
        assert!(told.short.is_empty());
    }

    /// By hand: 400 ml less 60 that stay are 340 of 800: filled up at 0.425, and again at 0.85.
    #[rstest]
    #[case::fits(300.0, &[])]
    #[case::just_fits(340.0, &[])]
    #[case::twice(800.0, &[0.425, 0.85])]
    fn a_plate_that_takes_more_than_a_vat_is_filled_up(#[case] ml: f64, #[case] at: &[f64]) {
        let stock = Stock {
            bottles: BTreeMap::from([(R, 5000.0)]),
            vats: vec![vat(1, 0.0)],
        };
        let need = PlateNeed {
            plate: PlateId(1),
            printer: PrinterId(1),
            resin: R,
            ml,
        };
        let told = enough(&stock, &[need]);
        assert_eq!(told.plates[0].refills, at);
        assert_eq!(told.plates[0].pour_ml, ml + 60.0);
    }
}
