//! The workshop: printers, resins, process settings, its own figures.

use crate::currency::Amount;
use askama::Template;
use wembrit_core::exposure::ExposureState;
use wembrit_core::workshop::{Printer, Resin, Workshop};
use wembrit_paper::{Volume, draw_volumes};
use wembrit_store::queries::pages::workshop::WorkshopPage;

use super::Page;
use super::exposure::state_words;
use super::show::{count, tenth};
use crate::forms::{self, plain};

/// A figure, tinted while nobody has confirmed it.
pub(crate) struct Figure {
    pub(crate) text: String,
    pub(crate) assumed: bool,
}

fn figure(text: impl ToString, name: &str, assumed: &str) -> Figure {
    Figure {
        text: text.to_string(),
        assumed: assumed.split(',').any(|a| a == name),
    }
}

pub(crate) struct Row {
    pub(crate) to: String,
    pub(crate) name: String,
    pub(crate) figures: Vec<Figure>,
    /// What its log says in a word.
    pub(crate) said: String,
    /// Whether a printer is connected.
    pub(crate) link: &'static str,
}

/// Everything about the workshop on one page.
#[derive(Template)]
#[template(path = "workshop/show.html")]
pub(crate) struct WorkshopView {
    pub(crate) page: Page,
    pub(crate) drawing: String,
    pub(crate) printers: Vec<Row>,
    pub(crate) resins: Vec<Row>,
    pub(crate) settings: Vec<Row>,
    pub(crate) figures: Vec<(&'static str, Figure)>,
    pub(crate) assumed: usize,
}

impl WorkshopView {
    pub(crate) fn new(page: Page, data: &WorkshopPage, states: &[ExposureState]) -> Self {
        let (all_printers, all_resins) = (&data.printers, &data.resins);
        let volumes: Vec<Volume> = all_printers
            .iter()
            .map(|p| Volume {
                name: p.name.clone(),
                width_mm: p.width_mm,
                depth_mm: p.depth_mm,
                height_mm: p.height_mm,
            })
            .collect();
        let mut rows = Vec::new();
        for (setting, state) in data.settings.iter().zip(states) {
            let printer = all_printers.iter().find(|p| p.id == setting.printer);
            let resin = all_resins.iter().find(|r| r.id == setting.resin);
            let (Some(printer), Some(resin)) = (printer, resin) else {
                continue;
            };
            let timing = &setting.timing;
            let of = |text: String, name| figure(text, name, &setting.assumed);
            // A sum of figures is as sure as the least sure of those that go into it.
            let any_assumed = forms::settings::fields(printer.kind, setting)
                .iter()
                .any(|f| f.assumed);
            let layer = Figure {
                text: tenth(printer.layer_seconds(setting)),
                assumed: any_assumed,
            };
            rows.push(Row {
                said: state_words(state).0.to_owned(),
                link: "",
                to: format!("/settings/{}", setting.id),
                name: format!("{}, {}, {}", printer.name, resin.name, setting.layer),
                figures: vec![
                    of(tenth(timing.exposure_s), "exposure_s"),
                    of(timing.bottom_layers.to_string(), "bottom_layers"),
                    of(tenth(timing.bottom_exposure_s), "bottom_exposure_s"),
                    layer,
                ],
            });
        }
        let mut view = Self {
            page,
            drawing: if volumes.is_empty() {
                String::new()
            } else {
                draw_volumes(&volumes)
            },
            printers: all_printers
                .iter()
                .map(|p| printer_row(p, data.connected.contains(&p.id)))
                .collect(),
            resins: all_resins.iter().map(resin_row).collect(),
            settings: rows,
            figures: own_figures(&data.workshop),
            assumed: 0,
        };
        let tables = [&view.printers, &view.resins, &view.settings];
        let in_tables = tables.into_iter().flatten().flat_map(|row| &row.figures);
        view.assumed = in_tables
            .chain(view.figures.iter().map(|(_, f)| f))
            .filter(|f| f.assumed)
            .count();
        view
    }
}

fn printer_row(p: &Printer, connected: bool) -> Row {
    let of = |text: String, name| figure(text, name, &p.assumed);
    Row {
        link: if connected { "connected" } else { "by hand" },
        said: match p.pace.runs() {
            0 => "no run timed yet".to_owned(),
            runs => count(runs as u64, "run timed", "runs timed"),
        },
        to: format!("/printers/{}", p.id),
        name: p.name.clone(),
        figures: vec![
            of(p.kind.to_string(), "kind"),
            of(
                format!("{} × {}", plain(p.width_mm), plain(p.depth_mm)),
                "width_mm",
            ),
            of(plain(p.height_mm), "height_mm"),
            of(plain(p.margin_mm), "margin_mm"),
            of(plain(p.startup_s), "startup_s"),
        ],
    }
}

fn resin_row(r: &Resin) -> Row {
    let of = |text: String, name| figure(text, name, &r.assumed);
    Row {
        said: String::new(),
        link: "",
        to: format!("/resins/{}", r.id),
        name: r.name.clone(),
        figures: vec![
            of(r.facts.price_per_kg.written(), "price_per_kg"),
            of(
                format!("{:.2}", r.facts.density_g_per_ml),
                "density_g_per_ml",
            ),
            of(r.viscosity.to_string(), "viscosity"),
            of(r.nature.to_string(), "nature"),
            of(r.wash_agents.replace(',', ", "), "wash_agents"),
        ],
    }
}

fn own_figures(w: &Workshop) -> Vec<(&'static str, Figure)> {
    let of = |text: String, name| figure(text, name, &w.assumed);
    vec![
        (
            "Usual layer height, mm",
            of(w.layer.to_string(), "layer_um"),
        ),
        (
            "Clearance between copies, mm",
            of(plain(w.rates.clearance_mm), "clearance_mm"),
        ),
        (
            "Resin lost on top, %",
            of(plain(w.rates.waste_share * 100.0), "waste_share"),
        ),
        (
            "Hands on for each plate, min",
            of(plain(w.rates.hands_on_minutes), "hands_on_minutes"),
        ),
        (
            "An hour of your hands",
            of(
                w.rates.hands_on_per_hour.written(),
                "hands_on_per_hour_minor",
            ),
        ),
        ("Currency", of(w.currency.clone(), "currency")),
        ("Time zone", of(w.time_zone.clone(), "time_zone")),
    ]
}
