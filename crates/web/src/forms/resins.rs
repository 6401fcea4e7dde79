//! A resin's form.

use wembrit_core::units::Money;
use wembrit_core::workshop::resin::{Nature, Viscosity, WashAgent};
use wembrit_store::queries::resins::ResinChange;
use wembrit_store::rows::Resin;

use super::{Faults, Field, Input, Kind, Reader, mark_assumed, plain, words};

/// What is assumed of a resin of which only the price is known: common practice, no source.
pub(crate) const DENSITY_G_PER_ML: f64 = 1.1;
pub(crate) const VISCOSITY: Viscosity = Viscosity::Medium;
pub(crate) const NATURE: Nature = Nature::Rigid;
pub(crate) const WASH_AGENT: WashAgent = WashAgent::Solvent;
pub(crate) const SAFE_MM: f64 = 0.5;
pub(crate) const FUSES_MM: f64 = 0.2;

/// The fields, filled from a resin or with what is assumed of a new one.
pub(crate) fn fields(resin: Option<&Resin>) -> Vec<Field> {
    let agents = WashAgent::ALL
        .iter()
        .map(|a| (a.to_string(), a.to_string()))
        .collect();
    let fields = vec![
        Field::text("name", "Name", resin.map_or("", |r| r.name.as_str())),
        Field::number(
            "price_per_kg",
            "Price of a kilogram",
            "",
            resin.map_or(Money(2500), |r| r.facts().price_per_kg),
        ),
        Field::number(
            "density_g_per_ml",
            "Density",
            "g/ml",
            plain(resin.map_or(DENSITY_G_PER_ML, |r| r.density_g_per_ml)),
        )
        .hint("On the data sheet; usually 1.05 to 1.2."),
        Field::new(
            "viscosity",
            "Viscosity",
            words(Viscosity::ALL),
            resin.map_or(VISCOSITY, |r| r.viscosity),
        )
        .hint("Thick resin needs larger drain holes and slower lifts."),
        Field::new(
            "nature",
            "Once cured",
            words(Nature::ALL),
            resin.map_or(NATURE, |r| r.nature),
        ),
        Field::new(
            "wash_agents",
            "May be washed in",
            Kind::Ticks(agents),
            resin.map_or(WASH_AGENT.as_str(), |r| r.wash_agents.as_str()),
        )
        .hint("As its data sheet says."),
        Field::number(
            "safe_mm",
            "Safe from",
            "mm",
            plain(resin.map_or(SAFE_MM, |r| r.safe_um as f64 / 1000.0)),
        )
        .hint("The thinnest feature that survives in it."),
        Field::number(
            "fuses_mm",
            "Fuses gaps up to",
            "mm",
            plain(resin.map_or(FUSES_MM, |r| r.fuses_um as f64 / 1000.0)),
        )
        .hint("Joints closer than this come out as one piece."),
    ];
    let unknown = "density_g_per_ml,viscosity,nature,wash_agents,safe_mm,fuses_mm";
    mark_assumed(fields, resin.map_or(unknown, |r| r.assumed.as_str()))
}

pub(crate) fn read(input: &Input, assumed: String) -> Result<ResinChange, Faults> {
    let mut r = Reader::new(input);
    let agents: Vec<&str> = input
        .all("wash_agents")
        .filter(|a| a.parse::<WashAgent>().is_ok())
        .collect();
    if agents.is_empty() {
        r.refuse(
            "wash_agents",
            "tick at least one: the resin's data sheet names them",
        );
    }
    let change = ResinChange {
        name: r.name("name"),
        price_per_kg: r.money("price_per_kg"),
        density_g_per_ml: r.number("density_g_per_ml", 0.8, 2.0),
        viscosity: r.choice("viscosity", Viscosity::Medium),
        nature: r.choice("nature", Nature::Rigid),
        wash_agents: agents.join(","),
        safe_mm: r.number("safe_mm", 0.05, 5.0),
        fuses_mm: r.number("fuses_mm", 0.01, 3.0),
        assumed,
    };
    r.done(change)
}
