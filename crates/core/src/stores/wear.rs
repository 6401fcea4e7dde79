//! What wears and is used up: counted by runs, warned of before it is due.

use crate::flow::Plate;
use crate::ids::{PlateId, PrinterId};
use crate::units::Money;
use crate::words::words;
use crate::workshop::upkeep::Upkeep;

words! {
    /// What wears.
    WearKind, "part that wears" {
        /// The film of a vat: by layers and by prints, whichever is sooner.
        Film = "film",
        /// The screen of a printer: by hours of printing.
        Screen = "screen",
        /// The first bath prints go into: by the resin that drains off them.
        Bath = "bath",
        /// A second, clean one behind it.
        CleanBath = "clean bath",
        /// A filter for the air: by hours of printing.
        Filter = "air filter",
        /// Gloves: a box of them.
        Gloves = "gloves",
        /// Paper towels: a roll of them.
        Towels = "towels",
        /// The cure lamp: by its hours.
        Lamp = "cure lamp",
    }
}

impl WearKind {
    /// Each printer has its own, and exposures on it are tested again after a new one.
    #[must_use]
    pub const fn of_a_printer(self) -> bool {
        matches!(self, Self::Film | Self::Screen)
    }

    /// How long one lasts, and its second figure, while nobody has said (common practice, no source; films and
    /// screens from memory): layers and prints of a film; ml of a bath and the percent of resin at which it
    /// cleans no more; pieces of gloves and towels, and how many a plate takes; hours of the others.
    #[must_use]
    pub const fn usual(self) -> [f64; 2] {
        match self {
            Self::Film => [60_000.0, 60.0],
            Self::Screen => [2000.0, 1.0],
            Self::Bath => [1000.0, 5.0],
            Self::CleanBath => [1000.0, 2.0],
            Self::Filter => [300.0, 1.0],
            Self::Gloves => [100.0, 2.0],
            Self::Towels => [120.0, 3.0],
            Self::Lamp => [5000.0, 1.0],
        }
    }

    /// What the two figures are called; the second is empty where there is none.
    #[must_use]
    pub const fn figures(self) -> [&'static str; 2] {
        match self {
            Self::Film => ["layers", "prints"],
            Self::Bath | Self::CleanBath => ["ml", "% resin"],
            Self::Gloves | Self::Towels => ["pieces", "a plate"],
            Self::Screen | Self::Filter | Self::Lamp => ["hours", ""],
        }
    }

    /// What to do when it is due.
    #[must_use]
    pub const fn todo(self) -> &'static str {
        match self {
            Self::Film => "put in a new film",
            Self::Screen => "put in a new screen",
            Self::Bath | Self::CleanBath => "change the bath",
            Self::Filter => "put in a new filter",
            Self::Gloves => "buy gloves",
            Self::Towels => "buy towels",
            Self::Lamp => "measure the lamp, or replace it",
        }
    }
}

/// Of the resin that drains off prints, what stays in the first of two baths (common practice, no source).
const FIRST_BATH: f64 = 0.9;

/// What some runs took of everything that wears.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Used {
    /// Layers.
    pub layers: f64,
    /// Runs.
    pub prints: f64,
    /// Hours of printing.
    pub hours: f64,
    /// Resin that drained off, ml.
    pub drained_ml: f64,
    /// Hours under the cure lamp.
    pub cured_h: f64,
}

impl Used {
    /// What a plate takes that waits.
    #[must_use]
    pub fn of(plate: &Plate) -> Self {
        Self {
            layers: plate.layers as f64,
            prints: 1.0,
            hours: plate.seconds / 3600.0,
            drained_ml: plate.goes.film_ml,
            cured_h: 0.0,
        }
    }

    /// Two together.
    #[must_use]
    pub fn and(self, other: &Self) -> Self {
        Self {
            layers: self.layers + other.layers,
            prints: self.prints + other.prints,
            hours: self.hours + other.hours,
            drained_ml: self.drained_ml + other.drained_ml,
            cured_h: self.cured_h + other.cured_h,
        }
    }
}

/// A run, or something else that wears: on which printer, when, ms since 1970, and what it took.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wearing {
    /// On this printer; nothing for what is about no printer.
    pub printer: Option<PrinterId>,
    /// When.
    pub at_ms: i64,
    /// What it took.
    pub used: Used,
}

/// Something that wears, as it was put in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wear {
    /// What.
    pub kind: WearKind,
    /// In this printer, where each has its own.
    pub printer: Option<PrinterId>,
    /// How long it lasts, see [`WearKind::usual`].
    pub life: f64,
    /// Its second figure.
    pub second: f64,
    /// Since when, ms since 1970; nothing where nobody has said: since the first run.
    pub since_ms: Option<i64>,
    /// Somebody has said how long it lasts.
    pub said: bool,
    /// What a new one costs: a film, a box, a roll, a bath; nothing where nobody has said.
    pub price: Money,
}

impl Wear {
    /// One that nobody has said anything about.
    #[must_use]
    pub const fn usual(kind: WearKind, printer: Option<PrinterId>) -> Self {
        let [life, second] = kind.usual();
        Self {
            kind,
            printer,
            life,
            second,
            since_ms: None,
            said: false,
            price: Money(0),
        }
    }

    /// What a printer costs while it prints, with what of all that was put in wears or is used up by it: its price by
    /// how long it lasts.
    #[must_use]
    pub fn upkeep(machine: Upkeep, put_in: &[Self], printer: PrinterId) -> Upkeep {
        let in_use = Self::in_use(put_in, &[printer]);
        let two_baths = in_use.iter().any(|w| w.kind == WearKind::CleanBath);
        in_use.iter().fold(machine, |mut sum, wear| {
            let price = wear.price.0 as f64;
            let each = price / wear.life;
            match wear.kind {
                WearKind::Film => {
                    sum.film_layer_minor += each;
                    sum.film_print_minor += price / wear.second;
                }
                WearKind::Screen | WearKind::Filter => sum.hour_minor += each,
                WearKind::Gloves | WearKind::Towels => sum.plate_minor += each * wear.second,
                WearKind::Bath | WearKind::CleanBath => {
                    let ml = Used {
                        drained_ml: 1.0,
                        ..Used::default()
                    };
                    sum.drained_ml_minor += price * wear.worn(&ml, two_baths);
                }
                // By the minutes of each cure, which no plate knows beforehand: it is worth a trifle.
                WearKind::Lamp => {}
            }
            sum
        })
    }

    /// How worn it is by that: 1 when it is due. With two baths each takes its share.
    #[must_use]
    pub fn worn(&self, used: &Used, two_baths: bool) -> f64 {
        let bath = |share: f64| used.drained_ml * share / self.takes_ml();
        match self.kind {
            WearKind::Film => (used.layers / self.life).max(used.prints / self.second),
            WearKind::Screen | WearKind::Filter => used.hours / self.life,
            WearKind::Bath if two_baths => bath(FIRST_BATH),
            WearKind::Bath => bath(1.0),
            WearKind::CleanBath => bath(1.0 - FIRST_BATH),
            WearKind::Gloves | WearKind::Towels => used.prints * self.second / self.life,
            WearKind::Lamp => used.cured_h / self.life,
        }
    }

    /// Whatever is in use: the last of each kind that was put in, else the usual one. A clean bath only where
    /// somebody has put one there.
    #[must_use]
    pub fn in_use(put_in: &[Self], printers: &[PrinterId]) -> Vec<Self> {
        let mut all = Vec::new();
        for kind in WearKind::ALL {
            let of: Vec<Option<PrinterId>> = if kind.of_a_printer() {
                printers.iter().copied().map(Some).collect()
            } else {
                vec![None]
            };
            for printer in of {
                let mine = |w: &&Wear| w.kind == *kind && w.printer == printer;
                match put_in.iter().rev().find(mine) {
                    Some(wear) => all.push(*wear),
                    None if *kind == WearKind::CleanBath => {}
                    None => all.push(Wear::usual(*kind, printer)),
                }
            }
        }
        all
    }

    /// Resin at which a bath cleans no more, ml.
    fn takes_ml(&self) -> f64 {
        self.life * self.second / 100.0
    }

    fn counts(&self, printer: Option<PrinterId>) -> bool {
        self.printer.is_none() || self.printer == printer
    }
}

/// How worn something is, and for which plates it lasts.
#[derive(Debug, Clone, PartialEq)]
pub struct Worn {
    /// What.
    pub wear: Wear,
    /// What it was used for.
    pub used: Used,
    /// How worn it is; 1 when it is due.
    pub worn: f64,
    /// The first plate that waits which it does not last through.
    pub ends_in: Option<PlateId>,
}

/// A share from which on it is told.
const NEAR: f64 = 0.9;

impl Worn {
    /// How worn everything is by what ran, and for which plates it lasts, in their order.
    #[must_use]
    pub fn all(
        in_use: &[Wear],
        log: &[Wearing],
        waiting: &[(PlateId, Option<PrinterId>, Used)],
    ) -> Vec<Self> {
        let two_baths = in_use.iter().any(|w| w.kind == WearKind::CleanBath);
        let of = |wear: &Wear| {
            let since = wear.since_ms.unwrap_or(i64::MIN);
            let mine = log
                .iter()
                .filter(|r| r.at_ms >= since && wear.counts(r.printer));
            let used = mine.fold(Used::default(), |sum, r| sum.and(&r.used));
            let mut then = used;
            let ends_in = waiting.iter().find(|(_, printer, takes)| {
                if !wear.counts(*printer) {
                    return false;
                }
                then = then.and(takes);
                wear.worn(&then, two_baths) > 1.0 + 1e-9
            });
            Self {
                wear: *wear,
                worn: wear.worn(&used, two_baths),
                used,
                ends_in: ends_in.map(|(plate, ..)| *plate),
            }
        };
        in_use.iter().map(of).collect()
    }

    /// It is due.
    #[must_use]
    pub fn is_due(&self) -> bool {
        self.worn >= 1.0 - 1e-9
    }

    /// It is told: it is due or nearly, or does not last for the plates that wait.
    #[must_use]
    pub fn is_told(&self) -> bool {
        self.worn >= NEAR || self.ends_in.is_some()
    }

    /// What it was used for, of how much.
    #[must_use]
    pub fn words(&self) -> String {
        let w = &self.wear;
        match w.kind {
            WearKind::Film => format!(
                "{:.0} of {:.0} layers, {:.0} of {:.0} prints",
                self.used.layers, w.life, self.used.prints, w.second
            ),
            WearKind::Screen | WearKind::Filter => {
                format!("{:.0} of {:.0} hours", self.used.hours, w.life)
            }
            WearKind::Bath | WearKind::CleanBath => {
                let limit = w.takes_ml();
                format!("{:.1} of {limit:.0} ml of resin in it", self.worn * limit)
            }
            WearKind::Gloves | WearKind::Towels => format!(
                "{:.0} of {:.0}, {:.0} a plate",
                self.used.prints * w.second,
                w.life,
                w.second
            ),
            WearKind::Lamp => format!("{:.0} of {:.0} hours", self.used.cured_h, w.life),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const A: Option<PrinterId> = Some(PrinterId(1));
    const B: Option<PrinterId> = Some(PrinterId(2));

    fn ran(printer: Option<PrinterId>, at_ms: i64) -> Wearing {
        Wearing {
            printer,
            at_ms,
            used: Used {
                layers: 1000.0,
                prints: 1.0,
                hours: 4.0,
                drained_ml: 8.2,
                cured_h: 0.1,
            },
        }
    }

    fn told(all: &[Worn], kind: WearKind, printer: Option<PrinterId>) -> &Worn {
        let found = all
            .iter()
            .find(|w| w.wear.kind == kind && w.wear.printer == printer);
        found.expect("it is in use")
    }

    /// By hand: 1,640 cm² under 0.05 mm are 8.2 ml a plate, 5 % of a litre are 50: six plates. With four in it
    /// two more go, the third of those that wait is too many. With a clean bath behind it nine tenths stay in the first: 45 ml after six, the
    /// seventh is too many; of the clean one's 20 it is 0.82 a plate.
    #[rstest]
    #[case::one(false, 0.656, Some(3))]
    #[case::two(true, 0.590_4, None)]
    fn a_bath_lasts_for_so_many(
        #[case] two: bool,
        #[case] used: f64,
        #[case] ends_in: Option<i64>,
    ) {
        let mut put_in = Vec::new();
        if two {
            put_in.push(Wear::usual(WearKind::CleanBath, None));
        }
        let all = Wear::in_use(&put_in, &[PrinterId(1)]);
        let log: Vec<Wearing> = (0..4).map(|n| ran(A, n)).collect();
        let waiting: Vec<_> = (1..=2 + i64::from(!two))
            .map(|n| (PlateId(n), A, ran(A, 0).used))
            .collect();
        let found = Worn::all(&all, &log, &waiting);
        let bath = told(&found, WearKind::Bath, None);
        assert!((bath.worn - used).abs() < 1e-9, "{}", bath.worn);
        assert_eq!(bath.ends_in, ends_in.map(PlateId));
        assert_eq!(
            found.iter().any(|w| w.wear.kind == WearKind::CleanBath),
            two
        );
    }

    /// Each printer has its own film; a new one begins at nothing; layers or prints, whichever is sooner.
    #[test]
    fn a_film_wears_with_its_own_printer() {
        let film = |since_ms, life, second| Wear {
            life,
            second,
            since_ms,
            ..Wear::usual(WearKind::Film, A)
        };
        let all = Wear::in_use(
            &[film(Some(0), 9000.0, 60.0), film(Some(10), 4000.0, 60.0)],
            &[PrinterId(1), PrinterId(2)],
        );
        let log: Vec<Wearing> = (0..20)
            .map(|n| ran(if n % 2 == 0 { A } else { B }, n))
            .collect();
        let waiting: Vec<_> = [B, A, A]
            .into_iter()
            .zip(1..)
            .map(|(on, n)| (PlateId(n), on, ran(on, 0).used))
            .collect();
        let found = Worn::all(&all, &log, &waiting);
        let mine = told(&found, WearKind::Film, A);
        // Runs 10, 12, 14, 16 and 18 of 4,000 layers.
        assert_eq!((mine.used.prints, mine.worn), (5.0, 1.25));
        assert!(mine.is_due() && mine.is_told());
        assert_eq!(mine.ends_in, Some(PlateId(2)));
        let other = told(&found, WearKind::Film, B);
        assert_eq!(
            (other.used.prints, other.worn, other.ends_in),
            (10.0, 1.0 / 6.0, None)
        );
        assert!(!other.is_told());
        assert_eq!(told(&found, WearKind::Screen, A).used.hours, 40.0);
        assert_eq!(told(&found, WearKind::Gloves, None).worn, 0.4);
        assert!((told(&found, WearKind::Lamp, None).used.cured_h - 2.0).abs() < 1e-9);
        let by_prints = film(None, 1e9, 5.0);
        assert_eq!(by_prints.worn(&mine.used, false), 1.0);
        assert_eq!(mine.words(), "5000 of 4000 layers, 5 of 60 prints");
    }
}
