//! What failures cost, and which change would pay most.

use std::collections::BTreeMap;

use super::copies::{LedgerCopy, Look, Looks};
use super::plates::LedgerPlate;
use crate::odds::{Found, PROVEN, Verdict, Window, windows};
use crate::units::Money;

/// What copies cost that failed for a cause.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CauseCost {
    /// The cause; empty where nobody said one.
    pub cause: String,
    /// Copies.
    pub copies: u64,
    /// What they cost.
    pub cost: Money,
}

/// What failed copies cost by cause, the dearest first; plates lost whole with their own cause, and
/// the resin that was spoilt with them.
#[must_use]
pub fn by_cause(copies: &[LedgerCopy], plates: &[LedgerPlate]) -> Vec<CauseCost> {
    let mut all: BTreeMap<String, (u64, Money)> = BTreeMap::new();
    for copy in copies.iter().filter(|c| c.failed()) {
        let of = all
            .entry(copy.cause.clone().unwrap_or_default())
            .or_default();
        of.0 += 1;
        of.1 += copy.cost.total();
    }
    for (cause, cost) in plates.iter().flat_map(LedgerPlate::spoilt) {
        all.entry(cause.to_owned()).or_default().1 += cost;
    }
    let mut rows: Vec<CauseCost> = all
        .into_iter()
        .map(|(cause, (copies, cost))| CauseCost {
            cause,
            copies,
            cost,
        })
        .collect();
    rows.sort_by_key(|r| std::cmp::Reverse((r.cost, r.copies)));
    rows
}

/// A change that would pay.
#[derive(Debug, Clone, PartialEq)]
pub enum PaysMost {
    /// What these copies have in common costs more of them than the others lose.
    Alike {
        /// The way to look.
        look: Look,
        /// What they have in common.
        name: String,
        /// What it would have saved so far, had they come out as the others did.
        saves: Money,
    },
    /// More fail in a window than chance would have it.
    Window {
        /// The printer.
        printer: String,
        /// Where.
        found: Found,
        /// What it would have saved so far.
        saves: Money,
    },
}

impl PaysMost {
    /// What it would have saved so far.
    #[must_use]
    pub const fn saves(&self) -> Money {
        match self {
            Self::Alike { saves, .. } | Self::Window { saves, .. } => *saves,
        }
    }
}

/// The change that would have saved most so far, among what is proven worse than the rest, and the windows that are
/// more than luck. Nothing where nothing is.
#[must_use]
pub fn pays_most(copies: &[LedgerCopy], looks: &Looks) -> Option<PaysMost> {
    let mut best: Option<PaysMost> = None;
    let mut take = |new: PaysMost| {
        if best
            .as_ref()
            .is_none_or(|known| new.saves() > known.saves())
        {
            best = Some(new);
        }
    };
    for (look, rows) in &looks.0 {
        let all = rows.iter().fold((0, 0), |(g, f), r| {
            (g + r.group.judged.good, f + r.group.judged.failed)
        });
        for row in rows {
            let loss = |good: u64, failed: u64| failed as f64 / (good + failed).max(1) as f64;
            let mine = row.group.judged;
            let (good, failed) = (all.0 - mine.good, all.1 - mine.failed);
            let (own, rest) = (loss(mine.good, mine.failed), loss(good, failed));
            if own <= rest || row.group.verdict() != Verdict::Worse {
                continue;
            }
            take(PaysMost::Alike {
                look: *look,
                name: row.group.name.clone(),
                saves: Money::from_minor_f64(row.lost.0 as f64 * (1.0 - rest / own)),
            });
        }
    }
    let mut printers: BTreeMap<_, Vec<&LedgerCopy>> = BTreeMap::new();
    for copy in copies.iter().filter(|c| c.counts()) {
        printers.entry(copy.printer).or_default().push(copy);
    }
    for of in printers.values() {
        let stood: Vec<_> = of.iter().map(|c| c.stood).collect();
        let Some(found) = windows(&stood, &Window::ALL).first().copied() else {
            continue;
        };
        let failed: Vec<_> = of.iter().filter(|c| c.failed()).collect();
        let lost: Money = failed.iter().map(|c| c.cost.total()).sum();
        let share = found.stood as f64 / of.len() as f64;
        let more = found.failed as f64 - share * failed.len() as f64;
        if found.p > PROVEN || more <= 0.0 {
            continue;
        }
        let name = of[0].alike.get(&Look::Printer).cloned();
        take(PaysMost::Window {
            printer: name.unwrap_or_default(),
            found,
            saves: Money::from_minor_f64(lost.0 as f64 * more / failed.len() as f64),
        });
    }
    best.filter(|b| b.saves() > Money(0))
}

#[cfg(test)]
pub(super) mod tests {
    use super::super::copies::{LookRow, judged};
    use super::*;
    use crate::cost_parts::{CostKind, CostParts};
    use crate::flow::Stage;
    use crate::geometry::Quarter;
    use crate::ids::{CopyId, PartId, PlateId, PrinterId, RecipeId};
    use crate::odds::Stood;

    pub(in crate::ledger) fn copy(id: i64, printer: i64, at: [f64; 2], failed: bool) -> LedgerCopy {
        LedgerCopy {
            copy: CopyId(id),
            mark: id,
            plate: (PlateId(id / 20), id / 20),
            part: (PartId(1), "arm".into()),
            recipe: (RecipeId(1), 1),
            printer: PrinterId(printer),
            alike: BTreeMap::from([(Look::Printer, format!("printer {printer}"))]),
            stood: Stood {
                at,
                height_mm: 20.0 + (id % 7) as f64,
                neighbour_mm: None,
                failed,
            },
            stage: if failed { Stage::Failed } else { Stage::Good },
            cause: failed.then(|| "warped".to_owned()),
            failed_at: None,
            plate_lost: false,
            cost: CostParts::of(CostKind::Resin, Money(100)),
            resin_ml: 1.0,
        }
    }

    fn found(copies: &[LedgerCopy]) -> Option<PaysMost> {
        pays_most(copies, &Looks::of(copies))
    }

    /// Eighty on one printer of which 4 failed, forty on another of which 20 did: had they come out as the others,
    /// by hand: 20.00 times 1 − 0.05 / 0.5.
    #[test]
    fn the_worse_printer_is_what_pays() {
        let at = |i: i64| [(i % 10) as f64 / 10.0, (i % 3) as f64 / 3.0];
        let mut all: Vec<LedgerCopy> = (0..80).map(|i| copy(i, 1, at(i), i % 20 == 0)).collect();
        all.extend((80..120).map(|i| copy(i, 2, at(i), i % 2 == 0)));
        let Some(PaysMost::Alike { look, name, saves }) = found(&all) else {
            panic!("something pays: {:?}", found(&all));
        };
        assert_eq!(
            (look, name.as_str(), saves),
            (Look::Printer, "printer 2", Money(1800))
        );
        let causes = by_cause(&all, &[]);
        assert_eq!(
            (causes.len(), causes[0].copies, causes[0].cost),
            (1, 24, Money(2400))
        );
        let rows = LookRow::by(&all, Look::Printer);
        assert_eq!(rows.iter().map(|r| r.cost).sum::<Money>(), Money(12_000));
        assert_eq!(rows[1].each_good(), Some(Money(200)));
    }

    /// A plate that is lost says nothing of its copies, but they cost what they cost.
    #[test]
    fn a_lost_plate_is_no_loss_of_copies() {
        let mut all: Vec<LedgerCopy> = (0..40).map(|i| copy(i, 1, [0.2, 0.2], i >= 20)).collect();
        for lost in &mut all[20..] {
            lost.plate_lost = true;
        }
        assert_eq!((judged(&all).good, judged(&all).failed), (20, 0));
        assert_eq!(by_cause(&all, &[])[0].cost, Money(2000));
        assert_eq!(found(&all), None);
    }

    /// In one quarter: 9 of 11 failures on 26 of 100 copies; 2.86 of them would be there anyway.
    #[test]
    fn a_bad_quarter_is_what_pays() {
        let mut all: Vec<LedgerCopy> = (0..26).map(|i| copy(i, 1, [0.9, 0.1], i < 9)).collect();
        all.extend((26..100).map(|i| copy(i, 1, [0.2, 0.7], i < 28)));
        let Some(PaysMost::Window { found, saves, .. }) = self::found(&all) else {
            panic!("a window pays");
        };
        assert_eq!(
            (found.window, found.failed),
            (Window::Quarter(Quarter::FrontRight), 9)
        );
        assert_eq!(saves, Money(614));
    }
}
