//! A resin's form.

use crate::currency::Amount;
use wembrit_core::ids::ResinId;
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::resin::{Nature, ResinFacts, Viscosity, WashAgent};
use wembrit_store::commands::resins::ResinChange;

use super::{Faults, Field, Input, Kind, Reader, mark_assumed, plain, words};

/// The fields, filled from a resin or with what is assumed of a new one.
pub(crate) fn fields(resin: Option<&Resin>) -> Vec<Field> {
    let agents = WashAgent::ALL
        .iter()
        .map(|a| (a.to_string(), a.to_string()))
        .collect();
    let usual = Resin::assumed(ResinId(0), "", ResinFacts::ASSUMED.price_per_kg);
    let known = resin.unwrap_or(&usual);
    let fields = vec![
        Field::text("name", "Name", resin.map_or("", |r| r.name.as_str())),
        Field::number(
            "price_per_kg",
            "Price of a kilogram",
            "",
            known.facts.price_per_kg.written(),
        ),
        Field::number(
            "density_g_per_ml",
            "Density",
            "g/ml",
            plain(known.facts.density_g_per_ml),
        )
        .hint("On the data sheet; usually 1.05 to 1.2."),
        Field::number(
            "cured_g_per_ml",
            "Density once cured",
            "g/ml",
            plain(known.facts.cured_g_per_ml),
        )
        .hint("Resin shrinks as it cures: 5 to 7 % more than the liquid."),
        Field::number(
            "film_mm",
            "Stays on prints",
            "mm",
            plain(known.facts.film_mm),
        )
        .hint("The film on a print that has dripped off: 0.03 thin, 0.05, 0.08 thick."),
        Field::new(
            "viscosity",
            "Viscosity",
            words(Viscosity::ALL),
            known.viscosity,
        )
        .hint("Thick resin needs larger drain holes and slower lifts."),
        Field::new("nature", "Once cured", words(Nature::ALL), known.nature),
        Field::new(
            "wash_agents",
            "May be washed in",
            Kind::Ticks(agents),
            known.wash_agents.as_str(),
        )
        .hint("As its data sheet says."),
        Field::number("safe_mm", "Safe from", "mm", plain(known.safe_mm))
            .hint("The thinnest feature that survives in it."),
        Field::number("fuses_mm", "Fuses gaps up to", "mm", plain(known.fuses_mm))
            .hint("Joints closer than this come out as one piece."),
        Field::text("data_sheet", "Safety data sheet", &known.data_sheet)
            .hint("Its address, such as https://…; shown wherever the resin is handled."),
    ];
    mark_assumed(fields, resin.map_or(Resin::UNKNOWN, |r| r.assumed.as_str()))
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
    let data_sheet = input.get("data_sheet").trim().to_owned();
    if !data_sheet.is_empty()
        && !["https://", "http://"]
            .iter()
            .any(|s| data_sheet.starts_with(s))
    {
        r.refuse("data_sheet", "give its address, beginning with https://");
    }
    let change = ResinChange {
        data_sheet,
        name: r.name("name"),
        price_per_kg: r.money("price_per_kg"),
        density_g_per_ml: r.number("density_g_per_ml", 0.8, 2.0),
        cured_g_per_ml: r.number("cured_g_per_ml", 0.8, 2.5),
        film_mm: r.number("film_mm", 0.0, 1.0),
        viscosity: r.choice("viscosity", Viscosity::Medium),
        nature: r.choice("nature", Nature::Rigid),
        wash_agents: agents.join(","),
        safe_mm: r.number("safe_mm", 0.05, 5.0),
        fuses_mm: r.number("fuses_mm", 0.01, 3.0),
        assumed,
    };
    r.done(change)
}
