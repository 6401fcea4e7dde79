//! `wembrit measure`: what is really in a mesh file.

use std::path::PathBuf;

use clap::Args;
use serde_json::json;
use wembrit_core::layers::StackFigures;
use wembrit_core::sculpt::measure::{MeasureOptions, Measured, warnings};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_web::apart::measure_apart;

use super::CommandError;

/// Files larger than this are not read.
const MOST_BYTES: u64 = 2_000_000_000;

/// Measure a mesh file.
#[derive(Debug, Args)]
pub(crate) struct Measure {
    /// STL, OBJ or 3MF.
    file: PathBuf,
    /// Layer height, mm.
    #[arg(long, default_value_t = 0.05, value_name = "MM")]
    layer: f64,
    /// Factor on the size of the file.
    #[arg(long, default_value_t = 1.0, value_name = "FACTOR")]
    scale: f64,
    /// Print one JSON object.
    #[arg(long)]
    json: bool,
}

impl Measure {
    #[expect(clippy::print_stdout, reason = "the answer of the command")]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let layer = LayerHeight::from_mm(self.layer)?;
        if !(0.001..=1000.0).contains(&self.scale) {
            return Err(CommandError::Scale(self.scale));
        }
        let unreadable = |why| CommandError::File {
            path: self.file.clone(),
            why,
        };
        let about = std::fs::metadata(&self.file).map_err(unreadable)?;
        if about.is_dir() || about.len() > MOST_BYTES {
            return Err(CommandError::NotAMesh(self.file.clone()));
        }
        let bytes = std::fs::read(&self.file).map_err(unreadable)?;
        let name = self
            .file
            .file_name()
            .unwrap_or_default()
            .to_string_lossy()
            .into_owned();
        let options = MeasureOptions {
            layer,
            scale: self.scale,
        };
        let program = std::env::current_exe().map_err(unreadable)?;
        let measured =
            measure_apart(&program, &bytes, &name, options, &Unwatched).map_err(|why| {
                CommandError::Measure {
                    path: self.file.clone(),
                    why,
                }
            })?;
        println!(
            "{}",
            if self.json {
                answer(&measured).to_string()
            } else {
                words(&measured)
            }
        );
        Ok(())
    }
}

fn answer(m: &Measured) -> serde_json::Value {
    let s = &m.stack;
    let (peak, index) = s.peak_pull();
    json!({
        "triangles": m.facts.triangles,
        "bounds_mm": [m.facts.low_mm, m.facts.high_mm],
        "watertight": m.facts.watertight(),
        "shells": m.facts.shells,
        "volume_ml": s.volume_mm3 / 1000.0,
        "surface_mm2": m.facts.surface_mm2,
        "layers": s.layers,
        "max_section_mm2": s.largest_section(),
        "sealed_cavity_ml": s.sealed_mm3 / 1000.0,
        "suction_cups": s.cups.iter().map(|c| json!({
            "z_from_mm": c.from_mm, "z_to_mm": c.to_mm, "area_mm2": c.area_mm2, "volume_ml": c.volume_mm3 / 1000.0,
        })).collect::<Vec<_>>(),
        "islands": s.islands.iter().map(|i| json!({ "z_mm": i.z_mm, "area_mm2": i.area_mm2 })).collect::<Vec<_>>(),
        "overhang_mm2": s.overhang_mm2,
        "thinnest": m.thickness.thinnest.map(|t| json!({ "mm": t.mm, "at_mm": in_file(t.at_mm, m) })),
        "neck": m.thickness.neck.map(|n| json!({ "mm": n.thin.mm, "at_mm": in_file(n.thin.at_mm, m), "hangs_mm3": n.hangs_mm3 })),
        "tips_at_deg": s.tips_at_deg,
        "peak_pull": { "z_mm": at_layer(s, peak, m), "index": index },
        "warnings": warnings(m),
    })
}

/// A place in the coordinates of the file.
fn in_file([x, y, z]: [f64; 3], m: &Measured) -> [f64; 3] {
    let (low, high) = (m.facts.low_mm, m.facts.high_mm);
    let middle = [0, 1].map(|k| (low[k] + high[k]) / 2.0);
    [x + middle[0], y + middle[1], z + low[2]]
}

fn at_layer(s: &StackFigures, layer: usize, m: &Measured) -> f64 {
    m.facts.size_mm()[2] * (layer as f64 + 0.5) / f64::from(s.layers.max(1))
}

fn words(m: &Measured) -> String {
    let [x, y, z] = m.facts.size_mm();
    let mut lines = vec![
        format!("size       {x:.2} x {y:.2} x {z:.2} mm"),
        format!("volume     {:.3} ml", m.stack.volume_mm3 / 1000.0),
        format!("surface    {:.1} mm2", m.facts.surface_mm2),
        format!(
            "triangles  {} in {} shells, {}",
            m.facts.triangles,
            m.facts.shells,
            if m.facts.watertight() {
                "watertight"
            } else {
                "open"
            }
        ),
        format!("layers     {}", m.stack.layers),
        format!(
            "islands    {}, suction cups {}",
            m.stack.islands.len(),
            m.stack.cups.len()
        ),
    ];
    lines.extend(warnings(m).into_iter().map(|w| format!("note       {w}")));
    lines.join("\n")
}
