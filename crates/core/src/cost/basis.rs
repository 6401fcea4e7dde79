//! What a plate costs, from what it takes and what that costs: kept with the plate, so that every figure opens.

use serde::{Deserialize, Serialize};

use super::split;
use crate::cost_parts::{CostKind, CostParts};
use crate::units::Money;
use crate::workshop::Rates;
use crate::workshop::upkeep::Upkeep;

/// What a plate takes, and what each of it costs. Prices are minor units for one.
///
/// # Units
/// ml, h, W, min.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct Basis {
    /// Resin.
    pub ml: f64,
    /// A ml of it.
    pub ml_minor: f64,
    /// What drains into the baths.
    pub drained_ml: f64,
    /// A ml of that.
    pub drained_ml_minor: f64,
    /// Gloves and towels.
    pub plate_minor: f64,
    /// Hours on the printer.
    pub hours: f64,
    /// What it draws.
    pub watts: f64,
    /// A kilowatt-hour.
    pub kwh_minor: f64,
    /// An hour of the machine.
    pub hour_minor: f64,
    /// Layers.
    pub layers: f64,
    /// A layer of the film.
    pub film_layer_minor: f64,
    /// A print of the film.
    pub film_print_minor: f64,
    /// Copies.
    pub copies: f64,
    /// Contacts of their supports.
    pub contacts: f64,
    /// Minutes of hands for the plate.
    pub plate_minutes: f64,
    /// Minutes for each copy.
    pub copy_minutes: f64,
    /// Minutes for each contact.
    pub contact_minutes: f64,
    /// An hour of hands.
    pub hands_minor: f64,
}

/// What a component comes to, and from what.
#[derive(Debug, Clone, PartialEq)]
pub struct Opened {
    /// The component.
    pub kind: CostKind,
    /// How it is reckoned, with its figures. Prices are minor units: the page writes them.
    pub terms: Vec<Term>,
    /// What it comes to.
    pub amount: Money,
}

/// One product of a component: so much of something, each at a price.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Term {
    /// How much.
    pub much: f64,
    /// Of what.
    pub of: &'static str,
    /// What one costs, minor units.
    pub each_minor: f64,
    /// The price is of one of these.
    pub a: &'static str,
}

impl Term {
    fn new(much: f64, of: &'static str, each_minor: f64, a: &'static str) -> Self {
        Self {
            much,
            of,
            each_minor,
            a,
        }
    }

    fn minor(&self) -> f64 {
        self.much * self.each_minor
    }
}

/// What a plate really took, as far as somebody wrote it down.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Took {
    /// Resin that left the vat for it, ml.
    pub ml: Option<f64>,
    /// Hours on the printer.
    pub hours: Option<f64>,
    /// Share of its layers that was printed.
    pub share: f64,
    /// Minutes of hands that were timed.
    pub minutes: Option<f64>,
    /// Runs it took.
    pub runs: f64,
}

impl Took {
    /// Nothing of it was written down: it is believed to have taken what was planned.
    #[must_use]
    pub fn is_planned(&self) -> bool {
        self.ml.is_none() && self.hours.is_none() && self.minutes.is_none() && self.share >= 1.0
    }
}

/// What a copy takes of its plate.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Takes {
    /// Resin, ml.
    pub ml: f64,
    /// What drains off it, ml.
    pub drained_ml: f64,
    /// Plate it covers, mm².
    pub area_mm2: f64,
    /// Contacts of its supports.
    pub contacts: f64,
}

impl Basis {
    /// The prices of a printer and of the workshop; what is taken is still nothing.
    #[must_use]
    pub fn priced(ml_minor: f64, upkeep: &Upkeep, rates: &Rates) -> Self {
        Self {
            ml_minor,
            drained_ml_minor: upkeep.drained_ml_minor,
            plate_minor: upkeep.plate_minor,
            watts: upkeep.watts,
            kwh_minor: rates.kwh.0 as f64,
            hour_minor: upkeep.hour_minor,
            film_layer_minor: upkeep.film_layer_minor,
            film_print_minor: upkeep.film_print_minor,
            plate_minutes: rates.hands_on_minutes,
            copy_minutes: rates.copy_minutes,
            contact_minutes: rates.contact_minutes,
            hands_minor: rates.hands_on_per_hour.0 as f64,
            ..Self::default()
        }
    }

    /// Minutes of hands.
    #[must_use]
    pub fn minutes(&self) -> f64 {
        self.plate_minutes + self.copy_minutes * self.copies + self.contact_minutes * self.contacts
    }

    /// With these minutes of hands in all, as somebody timed them.
    #[must_use]
    pub fn timed(self, minutes: f64) -> Self {
        Self {
            plate_minutes: minutes,
            copy_minutes: 0.0,
            contact_minutes: 0.0,
            ..self
        }
    }

    /// What it really took, at the same prices.
    #[must_use]
    pub fn took(self, took: &Took) -> Self {
        let times = took.runs.max(1.0);
        let ml = took.ml.unwrap_or(self.ml * took.share);
        let of = Self {
            ml,
            drained_ml: self.drained_ml
                * if self.ml > 0.0 {
                    ml / self.ml
                } else {
                    took.share
                },
            hours: took.hours.unwrap_or(self.hours * took.share),
            layers: self.layers * took.share,
            plate_minor: self.plate_minor * times,
            ..self
        };
        took.minutes.map_or(of, |minutes| of.timed(minutes))
    }

    /// Hands on a copy that was mended for so long.
    #[must_use]
    pub fn mend(&self, minutes: f64) -> Money {
        Money::from_minor_f64(minutes / 60.0 * self.hands_minor)
    }

    /// Component by component with what it is reckoned from; those nothing is said of left out.
    #[must_use]
    pub fn opened(&self) -> Vec<Opened> {
        let film = if self.film_layer_minor * self.layers >= self.film_print_minor {
            Term::new(
                self.layers,
                "layers",
                self.film_layer_minor,
                "layer of film",
            )
        } else {
            Term::new(1.0, "print", self.film_print_minor, "print of film")
        };
        let minute = self.hands_minor / 60.0;
        let kwh = self.watts / 1000.0 * self.hours;
        let all = [
            (
                CostKind::Resin,
                vec![Term::new(self.ml, "ml", self.ml_minor, "ml")],
            ),
            (
                CostKind::Consumables,
                vec![
                    Term::new(
                        self.drained_ml,
                        "ml into the bath",
                        self.drained_ml_minor,
                        "ml",
                    ),
                    Term::new(1.0, "plate's gloves and towels", self.plate_minor, "plate"),
                ],
            ),
            (
                CostKind::Power,
                vec![Term::new(kwh, "kWh", self.kwh_minor, "kWh")],
            ),
            (
                CostKind::Wear,
                vec![
                    Term::new(self.hours, "h of machine and screen", self.hour_minor, "h"),
                    film,
                ],
            ),
            (
                CostKind::Hands,
                vec![
                    Term::new(self.plate_minutes, "min for the plate", minute, "min"),
                    Term::new(
                        self.copy_minutes * self.copies,
                        "min for copies",
                        minute,
                        "min",
                    ),
                    Term::new(
                        self.contact_minutes * self.contacts,
                        "min for contacts",
                        minute,
                        "min",
                    ),
                ],
            ),
        ];
        let open = |(kind, mut terms): (CostKind, Vec<Term>)| {
            terms.retain(|t| t.minor() > 0.0);
            let minor = terms.iter().map(Term::minor).sum();
            let amount = Money::from_minor_f64(minor);
            (!terms.is_empty()).then_some(Opened {
                kind,
                terms,
                amount,
            })
        };
        all.into_iter().filter_map(open).collect()
    }

    /// What it costs.
    #[must_use]
    pub fn cost(&self) -> CostParts {
        self.opened()
            .iter()
            .fold(CostParts::default(), |sum, o| sum.with(o.kind, o.amount))
    }

    /// What each copy costs of that, to the minor unit: resin by the resin it takes; baths, gloves and towels by
    /// what drains off it; electricity, wear and the plate's minutes by the plate it covers; minutes for copies
    /// evenly; minutes for contacts by its contacts.
    #[must_use]
    pub fn shares(&self, copies: &[Takes]) -> Vec<CostParts> {
        let by = |of: &dyn Fn(&Takes) -> f64| copies.iter().map(of).collect::<Vec<f64>>();
        let area = by(&|t| t.area_mm2);
        let all: f64 = area.iter().sum();
        let covers = |t: &Takes| if all > 0.0 { t.area_mm2 / all } else { 0.0 };
        let hands = by(&|t| {
            self.plate_minutes * covers(t) + self.copy_minutes + self.contact_minutes * t.contacts
        });
        let cost = self.cost();
        let mut shares = vec![CostParts::default(); copies.len()];
        for (kind, amount) in cost.each() {
            let weights = match kind {
                CostKind::Resin => by(&|t| t.ml),
                CostKind::Consumables => by(&|t| t.drained_ml),
                CostKind::Hands => hands.clone(),
                _ => area.clone(),
            };
            for (share, part) in shares.iter_mut().zip(split(amount, &weights)) {
                *share = share.with(kind, part);
            }
        }
        shares
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By hand: 105 ml at 4.41 are 463; 8.17 of hands, 0.13 of electricity, 0.40 of wear.
    fn plate() -> Basis {
        Basis {
            ml: 105.0,
            ml_minor: 463.0 / 105.0,
            hours: 4.0,
            watts: 108.333_333,
            kwh_minor: 30.0,
            hour_minor: 10.0,
            copies: 7.0,
            plate_minutes: 40.85,
            hands_minor: 1200.0,
            ..Basis::default()
        }
    }

    /// The worked figures of the design: 192, 191 four times, 189, 188, together 13.33.
    #[test]
    fn seven_equal_copies_share_a_plate() {
        let takes = Takes {
            ml: 15.0,
            area_mm2: 300.0,
            ..Takes::default()
        };
        let cost = plate().cost();
        let of = |kind| cost.get(kind).0;
        assert_eq!(
            [
                CostKind::Resin,
                CostKind::Hands,
                CostKind::Power,
                CostKind::Wear
            ]
            .map(of),
            [463, 817, 13, 40]
        );
        let shares = plate().shares(&[takes; 7]);
        let totals: Vec<i64> = shares.iter().map(|s| s.total().0).collect();
        assert_eq!(totals, [192, 191, 191, 191, 191, 189, 188]);
        assert_eq!(shares.into_iter().sum::<CostParts>(), cost);
    }

    #[test]
    fn a_figure_opens_into_what_it_is_reckoned_from() {
        let basis = Basis {
            layers: 900.0,
            film_layer_minor: 0.05,
            film_print_minor: 40.0,
            copy_minutes: 2.0,
            ..plate()
        };
        let opened = basis.opened();
        let wear = opened
            .iter()
            .find(|o| o.kind == CostKind::Wear)
            .expect("wear");
        // Four hours at ten, and the layers: 45 are more than the 40 of a print.
        assert_eq!(wear.amount, Money(85));
        assert_eq!(wear.terms[1].of, "layers");
        let hands = opened
            .iter()
            .find(|o| o.kind == CostKind::Hands)
            .expect("hands");
        // 40.85 and 14 min at 20 a minute.
        assert_eq!((hands.amount, hands.terms.len()), (Money(1097), 2));
        assert_eq!(basis.cost().total(), opened.iter().map(|o| o.amount).sum());
        let timed = basis.timed(30.0).cost().get(CostKind::Hands);
        assert_eq!(timed, Money(600));
        assert_eq!(basis.mend(3.0), Money(60));
        assert!(Basis::default().opened().is_empty());
    }
}
