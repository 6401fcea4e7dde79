//! Everything that is measured on a sculpt, from its bytes.

use crate::geometry::Outline;
use crate::layers::{
    Effort, HeightProfile, StackFigures, Thickness, measure_height_profile, measure_silhouette,
    measure_stack, measure_thickness,
};
use crate::mesh::{
    DrawnUnit, Format, Mesh, MeshFacts, ReadError, Solid, UnitDoubt, format_of, guess_unit,
    read_watched,
};
use crate::units::LayerHeight;
use crate::watch::{Share, Watch};

/// What is kept about a sculpt, at the size of its file.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Measured {
    /// Figures of the mesh.
    pub facts: MeshFacts,
    /// Its outline on the plate about the middle of its box, mm.
    pub outline: Outline,
    /// Its skyline.
    pub profile: HeightProfile,
    /// What its layers tell.
    pub stack: StackFigures,
    /// What is thin about it.
    pub thickness: Thickness,
    /// What is asked about its unit, where mm make little sense.
    pub unit: Option<UnitDoubt>,
}

/// How a file is measured.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MeasureOptions {
    /// Layer height.
    pub layer: LayerHeight,
    /// Factor on the size of the file, its unit included.
    pub scale: f64,
}

impl MeasureOptions {
    /// At the size of the file.
    #[must_use]
    pub fn at(layer: LayerHeight) -> Self {
        Self { layer, scale: 1.0 }
    }
}

/// Why a file could not be measured, in one line for the maker.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum MeasureError {
    /// It could not be read.
    #[error(transparent)]
    Read(ReadError),
    /// All its triangles stand on one line.
    #[error("the mesh has no thickness: export it again as a solid")]
    Flat,
    /// Larger than anything that is printed.
    #[error(
        "it is more than {MOST_MM} mm long, which nothing prints: was it drawn in another unit?"
    )]
    TooLarge,
    /// Its triangles lie through each other all over.
    #[error(
        "its triangles run through each other all over, and make no surface: export the mesh again"
    )]
    TooDense,
    /// More layers than are cut.
    #[error(
        "{layers} layers are more than the {MOST_LAYERS} that are cut: was it drawn in another unit?"
    )]
    TooTall {
        /// Layers there would be.
        layers: u64,
    },
    /// It closes hardly anywhere.
    #[error(
        "the mesh has no inside: it does not close on {open_percent} % of the lines it is looked through along; close its faces where it was made, and export it again"
    )]
    Void {
        /// Share of scan lines on which it is open, in per cent.
        open_percent: u8,
    },
    /// Asked to stop.
    #[error("measuring was stopped")]
    Stopped,
}

/// Layers cut at most: two metres at 0.05 mm.
pub const MOST_LAYERS: u64 = 40_000;

/// Sides longer than this are of no file that is printed, mm.
const MOST_MM: f64 = 5_000.0;
/// Crossings of sections and scan lines at most: on all layers, and on those cut at once.
const MOST_CROSSINGS: (f64, f64) = (150_000_000.0, 12_000_000.0);
/// How often triangles may cover the box from one side: the densest sculpts do a few hundred times.
const MOST_COVERED: f64 = 1_000.0;

impl From<ReadError> for MeasureError {
    fn from(why: ReadError) -> Self {
        match why {
            ReadError::Stopped => MeasureError::Stopped,
            why => MeasureError::Read(why),
        }
    }
}

/// Reads and measures a file.
///
/// # Errors
/// [`MeasureError`], one line.
pub fn measure_file(
    bytes: &[u8],
    file_name: &str,
    options: MeasureOptions,
    watch: &dyn Watch,
) -> Result<Measured, MeasureError> {
    let mesh = read_watched(bytes, file_name, watch)?;
    step(watch, 0.2)?;
    let unitless = format_of(bytes, file_name) != Format::ThreeMf;
    measure(&mesh, unitless, options, watch)
}

/// Reads and measures a file, and lets its bytes go as soon as they are read: they take as much
/// memory as all that is made of them.
///
/// # Errors
/// [`MeasureError`], one line.
pub fn measure_bytes(
    bytes: Vec<u8>,
    file_name: &str,
    options: MeasureOptions,
    watch: &dyn Watch,
) -> Result<Measured, MeasureError> {
    let mesh = read_watched(&bytes, file_name, watch)?;
    let unitless = format_of(&bytes, file_name) != Format::ThreeMf;
    drop(bytes);
    step(watch, 0.2)?;
    measure(&mesh, unitless, options, watch)
}

fn step(watch: &dyn Watch, share: f64) -> Result<(), MeasureError> {
    watch.report(share);
    if watch.stopped() {
        Err(MeasureError::Stopped)
    } else {
        Ok(())
    }
}

fn measure(
    mesh: &Mesh,
    unitless: bool,
    options: MeasureOptions,
    watch: &dyn Watch,
) -> Result<Measured, MeasureError> {
    let (low, high) = mesh.bounds();
    let size: [f64; 3] = std::array::from_fn(|k| (high[k] - low[k]) * options.scale);
    let longest = size.iter().copied().fold(0.0, f64::max);
    if longest > MOST_MM {
        return Err(MeasureError::TooLarge);
    }
    if size[2] <= 0.0 {
        return Err(MeasureError::Flat);
    }
    let layers = (size[2] / options.layer.mm()).ceil();
    if layers > MOST_LAYERS as f64 {
        return Err(MeasureError::TooTall {
            layers: layers as u64,
        });
    }
    let solid = Solid::new(mesh);
    let effort = Effort::of(&solid, options.layer, options.scale);
    if effort.crossings > MOST_CROSSINGS.0
        || effort.at_once > MOST_CROSSINGS.1
        || effort.covered > MOST_COVERED
    {
        return Err(MeasureError::TooDense);
    }
    step(watch, 0.4)?;
    // The shadow and the skyline need the triangles alone: they are drawn beside the layers.
    let (shadow, stack) = rayon::join(
        || {
            let thickness = measure_thickness(&solid, options.scale, effort.covered, watch);
            let outline = measure_silhouette(mesh).map(|o| (o, measure_height_profile(mesh)));
            (outline, thickness)
        },
        || {
            measure_stack(
                &solid,
                options.layer,
                options.scale,
                &Share(watch, 0.4, 0.6),
            )
        },
    );
    let stack = stack.ok_or(MeasureError::Stopped)?;
    let (shadow, thickness) = shadow;
    let thickness = thickness.ok_or(MeasureError::Stopped)?;
    let (outline, profile) = shadow.ok_or(MeasureError::Flat)?;
    if stack.volume_mm3 <= 0.0 {
        return Err(MeasureError::Flat);
    }
    if stack.is_void() {
        return Err(MeasureError::Void {
            open_percent: (stack.unbalanced * 100.0).round() as u8,
        });
    }
    Ok(Measured {
        facts: scaled(solid.facts, options.scale),
        outline: outline.scaled(options.scale),
        profile: profile.scaled(options.scale),
        stack,
        thickness,
        unit: guess_unit(longest).filter(|_| unitless && options.scale == 1.0),
    })
}

fn scaled(facts: MeshFacts, scale: f64) -> MeshFacts {
    MeshFacts {
        low_mm: facts.low_mm.map(|c| c * scale),
        high_mm: facts.high_mm.map(|c| c * scale),
        volume_mm3: facts.volume_mm3 * scale.powi(3),
        surface_mm2: facts.surface_mm2 * scale.powi(2),
        open_edge_mm: facts.open_edge_mm * scale,
        joined_edge_mm: facts.joined_edge_mm * scale,
        widest_seam_mm: facts.widest_seam_mm * scale,
        ..facts
    }
}

/// The question about its unit.
fn unit_words(doubt: &UnitDoubt, size_mm: [f64; 3]) -> String {
    let [_, _, height] = size_mm;
    let longest = size_mm.into_iter().fold(0.0, f64::max);
    let then = |u: &DrawnUnit| format!("in {}, {:.1} mm", u.name, height * u.mm);
    let likely: Vec<String> = doubt.likely.iter().map(then).collect();
    if !likely.is_empty() {
        return format!(
            "{height:.3} mm tall is unlikely: was it drawn in another unit? Then it is {}",
            likely.join(", or ")
        );
    }
    let what = if longest > 1.0 {
        "longer than a build plate: was it drawn as large as life, or in another unit?"
    } else {
        "smaller than anything that prints: was it drawn in another unit?"
    };
    format!("{longest:.3} mm long, {what}")
}

/// What a maker should know about the figures of a file, in sentences.
#[must_use]
pub fn warnings(m: &Measured) -> Vec<String> {
    let facts = &m.facts;
    let mut said: Vec<String> = facts.remark.iter().cloned().collect();
    if let Some(doubt) = &m.unit {
        said.push(unit_words(doubt, facts.size_mm()));
    }
    if facts.joined_edge_mm > 0.0 {
        said.push(format!(
            "seams were open along {:.1} mm of edges, by {:.4} mm at most: their corners were joined for measuring",
            facts.joined_edge_mm, facts.widest_seam_mm
        ));
    }
    if facts.turned > 0 {
        said.push(format!(
            "triangles that faced another way than their neighbours: {}; they were turned for measuring",
            facts.turned
        ));
    }
    if facts.open_edge_mm > 0.0 {
        said.push(format!(
            "faces are missing along {:.1} mm of edges: holes were closed for measuring, the volume is an estimate",
            facts.open_edge_mm
        ));
    }
    if m.stack.unbalanced > 0.002 {
        said.push(format!(
            "on {:.1} % of the scan lines the mesh does not close: the volume is uncertain by about as much",
            m.stack.unbalanced * 100.0
        ));
    }
    let differs = (m.stack.volume_mm3 - facts.volume_mm3).abs() / facts.volume_mm3.abs().max(1e-9);
    if differs > 0.005 {
        said.push(format!(
            "shells overlap: their union is {:.1} % {} than the sum of the shells",
            differs * 100.0,
            if m.stack.volume_mm3 < facts.volume_mm3 {
                "less"
            } else {
                "more"
            }
        ));
    }
    if facts.inverted_shells > 0 {
        said.push(format!(
            "{} of {} shells are turned inside out; they are counted as solid",
            facts.inverted_shells, facts.shells
        ));
    }
    if facts.dropped > 0 {
        said.push(format!(
            "{} triangles without area or with unreadable corners were left out",
            facts.dropped
        ));
    }
    if m.stack.columns > 0 {
        said.push(format!(
            "it seems to bring its own supports: {} thin columns rise from a common base",
            m.stack.columns
        ));
    }
    if m.stack.sealed_mm3 > 0.0 {
        said.push(format!(
            "{:.2} ml of air are sealed in: liquid resin would stay inside",
            m.stack.sealed_mm3 / 1000.0
        ));
    }
    said
}
