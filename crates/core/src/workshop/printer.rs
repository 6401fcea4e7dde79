//! A printer.

use crate::geometry::Quarter;
use crate::ids::{PrinterId, ResinId};
use crate::learn::Pace;
use crate::units::{LayerHeight, Money, layer_count};
use crate::workshop::print_time::{Drawn, MachineKind, plate_seconds};
use crate::workshop::setting::ProcessSetting;
use crate::workshop::upkeep::Upkeep;

/// A printer of the workshop.
///
/// # Units
/// mm, s, µm; pulls are indices, 1 is a disc of 20 mm.
#[derive(Debug, Clone, PartialEq)]
pub struct Printer {
    /// Which one.
    pub id: PrinterId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// What the maker calls it.
    pub name: String,
    /// Kind of machine.
    pub kind: MachineKind,
    /// Plate width.
    pub width_mm: f64,
    /// Plate depth.
    pub depth_mm: f64,
    /// Way of the plate upward.
    pub height_mm: f64,
    /// What of it has to stay free to take the parts off.
    pub removal_mm: f64,
    /// Rim of the plate that stays free.
    pub margin_mm: f64,
    /// Time before the first layer and after the last.
    pub startup_s: f64,
    /// Side of a pixel of its screen, or of its beam's spot.
    pub pixel_um: u32,
    /// Hardest pull of one part; nothing where there is no limit.
    pub part_pull: Option<f64>,
    /// Hardest pull of a plate, layer by layer; nothing where there is no limit.
    pub plate_pull: Option<f64>,
    /// Bringing another resin into its vat, min; 0 where a second vat stands ready.
    pub change_minutes: f64,
    /// Resin that is lost by it, ml.
    pub change_ml: f64,
    /// What it draws while it prints, W.
    pub watts: f64,
    /// What it cost.
    pub price: Money,
    /// Hours it lasts.
    pub life_h: f64,
    /// What it costs while it prints, its film and screen with it.
    pub upkeep: Upkeep,
    /// The quarter of its plate that slender parts are kept out of; none where the maker has not asked for it.
    pub kept_clear: Option<Quarter>,
    /// Names of the figures nobody has confirmed, parted by commas.
    pub assumed: String,
    /// How long it takes against what is reckoned of it, by its log.
    pub pace: Pace,
}

/// What a printer takes of a part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BuildVolume {
    /// Width inside the margin, mm.
    pub width_mm: f64,
    /// Depth inside the margin, mm.
    pub depth_mm: f64,
    /// Height for the part itself, mm.
    pub height_mm: f64,
}

impl BuildVolume {
    /// What is left of it above supports that lift a part.
    #[must_use]
    pub fn above(self, lift_mm: f64) -> Self {
        Self {
            height_mm: self.height_mm - lift_mm,
            ..self
        }
    }
}

/// Pixel taken where there is no printer yet, µm (common practice, no source).
pub const USUAL_PIXEL_UM: u32 = 35;

/// What a printer draws, W, and how long it lasts, h, where nobody has said (common practice, no source).
const USUAL_WATTS: f64 = 60.0;
const USUAL_LIFE_H: f64 = 4000.0;

/// Names of the figures that are assumed of a printer of which only its size is known.
pub const PRINTER_ASSUMED: &str =
    "margin_mm,startup_s,removal_mm,pixel_um,change_minutes,change_ml,watts,life_h";

impl Printer {
    /// A printer of which only its size is known: the rest is assumed (common practice, no source).
    #[must_use]
    pub fn assumed(id: PrinterId, name: &str, [width_mm, depth_mm, height_mm]: [f64; 3]) -> Self {
        Self {
            id,
            row_version: 1,
            name: name.into(),
            kind: MachineKind::Screen,
            width_mm,
            depth_mm,
            height_mm,
            removal_mm: 0.0,
            margin_mm: 3.0,
            startup_s: 120.0,
            pixel_um: USUAL_PIXEL_UM,
            part_pull: None,
            plate_pull: None,
            change_minutes: 25.0,
            change_ml: 15.0,
            watts: USUAL_WATTS,
            price: Money(0),
            life_h: USUAL_LIFE_H,
            upkeep: Upkeep::of_machine(USUAL_WATTS, 0, USUAL_LIFE_H),
            kept_clear: None,
            assumed: format!("name,kind,{PRINTER_ASSUMED}"),
            pace: Pace::unlogged(),
        }
    }

    /// What it takes of a part: the margin is kept, and the way that removal needs.
    #[must_use]
    pub fn build_volume(&self) -> BuildVolume {
        BuildVolume {
            width_mm: self.width_mm - 2.0 * self.margin_mm,
            depth_mm: self.depth_mm - 2.0 * self.margin_mm,
            height_mm: self.height_mm - self.removal_mm,
        }
    }

    /// What its vat has to hold at least, and holds at most, where nobody has said, ml: 5 and 25 mm over
    /// its plate (common practice, no source).
    #[must_use]
    pub fn usual_vat_ml(&self) -> [f64; 2] {
        let over = |mm: f64| (self.width_mm * self.depth_mm * mm / 10_000.0).round() * 10.0;
        [over(5.0), over(25.0).max(20.0)]
    }

    /// Time of a plate that is so tall with one of its settings, s, as it is reckoned of layers and
    /// movement; [`Self::pace`] makes of it what is expected. A beam machine draws what is on it.
    #[must_use]
    pub fn plate_seconds(&self, setting: &ProcessSetting, height_mm: f64, drawn: Drawn) -> f64 {
        self.plate_seconds_of(setting, layer_count(height_mm, setting.layer), drawn)
    }

    /// The same for a number of layers.
    #[must_use]
    pub fn plate_seconds_of(&self, setting: &ProcessSetting, layers: u32, drawn: Drawn) -> f64 {
        plate_seconds(
            self.kind,
            self.startup_s,
            &setting.timing,
            setting.layer,
            layers,
            drawn,
        )
    }

    /// Time of one normal layer with one of its settings, without what a beam draws, s.
    #[must_use]
    pub fn layer_seconds(&self, setting: &ProcessSetting) -> f64 {
        setting.timing.layer_s(self.kind)
    }
}

/// The finest pixel of some printers, mm: that printer could still draw it.
#[must_use]
pub fn finest_pixel_mm(printers: &[Printer]) -> f64 {
    let finest = printers.iter().map(|p| p.pixel_um).min();
    f64::from(finest.unwrap_or(USUAL_PIXEL_UM)) / 1000.0
}

/// The first printer with a setting for a resin and layer height: what a part takes alone is told
/// for it, wherever it is told.
#[must_use]
pub fn first_fit<'a>(
    printers: &'a [Printer],
    settings: &'a [ProcessSetting],
    resin: ResinId,
    layer: LayerHeight,
) -> Option<(&'a Printer, &'a ProcessSetting)> {
    let fit = settings
        .iter()
        .filter(|s| s.resin == resin && s.layer == layer);
    fit.into_iter()
        .find_map(|s| Some((printers.iter().find(|p| p.id == s.printer)?, s)))
}
