//! The workshop: rates, three printers, four resins, one of them timed by its maker.

use wembrit_core::ids::{PrinterId, ResinId};
use wembrit_core::units::Money;
use wembrit_core::workshop::print_time::LayerTiming;
use wembrit_core::workshop::resin::{Nature, ResinFacts, Viscosity};
use wembrit_core::workshop::{Printer, Rates};
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::resins::ResinChange;
use wembrit_store::commands::workshop::WorkshopChange;
use wembrit_store::queries::{settings, workshop};
use wembrit_store::{Conn, Store, StoreError, commands};

/// Sets the workshop up: its resins.
pub(super) fn set_up_workshop(store: &Store, now_ms: i64) -> Result<Vec<ResinId>, StoreError> {
    store.write(|c| {
        name_workshop(c)?;
        add_printers(c)?;
        let ids = add_resins(c)?;
        time_resin(c, ids[0], now_ms)?;
        Ok(ids)
    })
}

fn name_workshop(c: &mut Conn) -> Result<(), StoreError> {
    let known = workshop::load(c)?;
    let figures = WorkshopChange {
        name: "Osierbank Workshop".into(),
        currency: "EUR".into(),
        time_zone: "UTC".into(),
        layer: known.layer,
        rates: Rates {
            clearance_mm: 1.2,
            waste_share: 0.02,
            hands_on_minutes: 35.0,
            hands_on_per_hour: Money(1400),
            copy_minutes: 0.0,
            contact_minutes: 0.0,
            kwh: Money(31),
        },
        assumed: "waste_share".into(),
    };
    commands::workshop::change(c, known.row_version, &figures)
}

fn add_printers(c: &mut Conn) -> Result<(), StoreError> {
    let printer = |name: &str, size: [f64; 3], (watts, price), assumed: &str| {
        PrinterChange::of(Printer {
            watts,
            price: Money(price),
            life_h: 4000.0,
            startup_s: 150.0,
            removal_mm: 4.0,
            assumed: assumed.into(),
            ..Printer::assumed(PrinterId(0), name, size)
        })
    };
    for new in [
        printer("Dunlin", [130.0, 80.0, 160.0], (55.0, 26_900), "life_h"),
        printer(
            "Bittern",
            [218.0, 123.0, 250.0],
            (90.0, 64_900),
            "startup_s,life_h",
        ),
        printer(
            "Crane",
            [300.0, 164.0, 300.0],
            (150.0, 119_000),
            "startup_s,margin_mm,watts,life_h",
        ),
    ] {
        commands::printers::add(c, &new)?;
    }
    Ok(())
}

fn add_resins(c: &mut Conn) -> Result<Vec<ResinId>, StoreError> {
    let resin =
        |name: &str, price, density_g_per_ml, viscosity, nature, wash: &str, assumed: &str| {
            ResinChange {
                name: name.into(),
                price_per_kg: Money(price),
                density_g_per_ml,
                cured_g_per_ml: ResinFacts::usual_cured(density_g_per_ml),
                film_mm: match viscosity {
                    Viscosity::Thin => 0.03,
                    Viscosity::Medium => 0.05,
                    Viscosity::Thick => 0.08,
                },
                viscosity,
                nature,
                wash_agents: wash.into(),
                safe_mm: if nature == Nature::Rigid { 0.7 } else { 0.4 },
                fuses_mm: 0.2,
                data_sheet: String::new(),
                assumed: assumed.into(),
            }
        };
    let mut ids = Vec::new();
    for new in [
        resin(
            "Slate tough",
            4150,
            1.12,
            Viscosity::Medium,
            Nature::Tough,
            "solvent",
            "",
        ),
        resin(
            "Peat plain",
            1890,
            1.1,
            Viscosity::Thin,
            Nature::Rigid,
            "solvent,detergent",
            "density_g_per_ml",
        ),
        resin(
            "Rush soft",
            5400,
            1.08,
            Viscosity::Thick,
            Nature::Soft,
            "solvent",
            "viscosity",
        ),
        resin(
            "Fen clear",
            2600,
            1.1,
            Viscosity::Thin,
            Nature::Rigid,
            "water,solvent",
            "density_g_per_ml",
        ),
    ] {
        ids.push(commands::resins::add(c, &new)?);
    }
    Ok(ids)
}

/// A resin whose timing the maker has found out; the others are as assumed.
fn time_resin(c: &mut Conn, resin: ResinId, now_ms: i64) -> Result<(), StoreError> {
    commands::settings::ensure_all(c, now_ms)?;
    for setting in settings::list(c)? {
        if setting.resin == resin {
            let timing = LayerTiming {
                exposure_s: 2.5,
                bottom_exposure_s: 35.0,
                lift_mm: 7.0,
                ..setting.timing
            };
            let assumed = "rest_s,tilt_cycle_s,beam_mm2_per_s,beam_mm_per_s";
            commands::settings::append(c, setting.id, setting.number, &timing, assumed, now_ms)?;
        }
    }
    Ok(())
}
