//! A part as it hangs on a plate: turned, scaled, with its supports, and everything the plate
//! needs to know of it.

use crate::geometry::Outline;
use crate::layers::{
    HeightProfile, Loads, StackFigures, measure_height_profile, measure_silhouette, measure_stack,
};
use crate::mesh::{Mesh, Solid, measure_mesh};
use crate::pose::Pose;
use crate::recipe::orient::FineZone;
use crate::recipe::supports::{Supports, clean_up_minutes, plan_supports};
use crate::sculpt::picture::{Picture, Side, draw_side};
use crate::units::LayerHeight;
use crate::watch::Watch;

/// A mesh that was supported elsewhere, with what was measured when it was laid over its design.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Supported<'a> {
    /// The whole mesh, mm.
    pub mesh: &'a Mesh,
    /// Resin of its supports, mm³.
    pub support_mm3: f64,
    /// Places where they touch.
    pub contacts: usize,
}

/// How a part is to hang.
#[derive(Debug, Clone, PartialEq)]
pub struct Hanging<'a> {
    /// Its orientation.
    pub pose: Pose,
    /// Factor on the size of the file, its unit included.
    pub scale: f64,
    /// Its supports.
    pub supports: Supports,
    /// The mesh supported elsewhere, where the supports come from one.
    pub supported: Option<Supported<'a>>,
    /// Zones marked fine, in the file's own coordinates.
    pub zones: &'a [FineZone],
    /// Layer height.
    pub layer: LayerHeight,
}

/// What is drawn of a part and its supports from the front, mm above the plate.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct HungDrawing {
    /// Left, lowest, right and highest of what the picture shows.
    pub picture_mm: [f64; 4],
    /// Columns, each from its contact to its foot.
    pub columns: Vec<Vec<[f64; 2]>>,
    /// Left and right end of the raft.
    pub raft_mm: Option<[f64; 2]>,
    /// The riskiest starts, the riskiest first.
    pub riskiest: Vec<[f64; 2]>,
}

/// A part as it hangs.
///
/// # Units
/// mm, mm², mm³, minutes.
#[derive(Debug, Clone, PartialEq)]
pub struct Hung {
    /// What the layers of the part alone tell, as it is turned.
    pub alone: StackFigures,
    /// Outline on the plate, supports and raft included, about the middle of its box.
    pub outline: Outline,
    /// Skyline, supports included.
    pub reach: HeightProfile,
    /// Height above the plate.
    pub height_mm: f64,
    /// Solid of the part.
    pub part_mm3: f64,
    /// Supports and raft.
    pub support_mm3: f64,
    /// Surface of all.
    pub surface_mm2: f64,
    /// Places where supports touch.
    pub contacts: usize,
    /// Those in zones marked fine.
    pub fine_contacts: usize,
    /// Minutes to cut it free.
    pub minutes: f64,
    /// Regions of part and supports together that start in mid-air all the same.
    pub starts_left: usize,
    /// Hardest layer of the part: its height above the plate, and its pull.
    pub peak_pull: (f64, f64),
    /// What it does to the film, layer by layer.
    pub loads: Loads,
    /// For the picture.
    pub drawing: HungDrawing,
    /// The part from the front.
    pub picture: Picture,
}

/// Why a part could not be hung.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum HangError {
    /// All its triangles stand on one line.
    #[error("the mesh has no thickness: export it again as a solid")]
    Flat,
    /// The recipe names a supported mesh that is not there.
    #[error("its supported mesh is not there: drop it on the recipe again")]
    NoPrintMesh,
    /// Asked to stop.
    #[error("measuring was stopped")]
    Stopped,
}

/// Hangs a part and measures it with its supports.
///
/// # Errors
/// [`HangError`], one line.
pub fn hang(file: &Mesh, how: &Hanging<'_>, watch: &dyn Watch) -> Result<Hung, HangError> {
    let posed = file.posed(how.pose, how.scale);
    let low = posed.bounds().0;
    let stack = |mesh: &Mesh| {
        measure_stack(&Solid::new(mesh), how.layer, 1.0, watch).ok_or(HangError::Stopped)
    };
    let alone = stack(&posed)?;
    let mut drawing = HungDrawing::default();
    let (whole, shown, touches, mut contacts, support_mm3, whole_stack) = match how.supports {
        Supports::None | Supports::InFile => {
            let part = posed.shifted([0.0, 0.0, -low[2]]);
            let contacts = if how.supports == Supports::InFile {
                alone.columns as usize
            } else {
                0
            };
            (part.clone(), part, Vec::new(), contacts, 0.0, alone.clone())
        }
        Supports::Planned(style) => {
            let plan = plan_supports(&posed, how.layer, &style, watch).ok_or(HangError::Stopped)?;
            let part = posed.shifted([0.0, 0.0, plan.lifted_mm - low[2]]);
            let front = |p: &[f64; 3]| [p[0], p[2]];
            drawing.columns = plan
                .columns
                .iter()
                .map(|c| c.way.iter().map(front).collect())
                .collect();
            drawing.riskiest = plan
                .riskiest
                .iter()
                .map(|i| front(&plan.columns[*i].touch.at_mm))
                .collect();
            let ends = |f: fn(f64, f64) -> f64| plan.raft.iter().map(|p| p[0]).reduce(f);
            drawing.raft_mm = ends(f64::min).zip(ends(f64::max)).map(|(a, b)| [a, b]);
            // Contacts as they lie on the part before it was lifted.
            let touches: Vec<[f64; 3]> = plan
                .columns
                .iter()
                .map(|c| {
                    let [x, y, z] = c.touch.at_mm;
                    [x, y, z - plan.lifted_mm + low[2]]
                })
                .collect();
            let contacts = plan.contacts();
            let whole = part.with(&plan.mesh);
            (whole, part, touches, contacts, plan.support_mm3, plan.stack)
        }
        Supports::PrintMesh(_) => {
            let real = how.supported.ok_or(HangError::NoPrintMesh)?;
            let bottom = real.mesh.bounds().0[2];
            let whole = real.mesh.shifted([0.0, 0.0, -bottom]);
            let told = stack(&whole)?;
            (
                whole.clone(),
                whole,
                Vec::new(),
                real.contacts,
                real.support_mm3,
                told,
            )
        }
    };
    let in_zone = |at: &[f64; 3]| {
        how.zones.iter().any(|z| {
            let middle = how.pose.turn(z.at_mm.map(|c| c * how.scale));
            let far: f64 = (0..3).map(|k| (middle[k] - at[k]).powi(2)).sum();
            far.sqrt() <= z.radius_mm * how.scale
        })
    };
    let fine_contacts = touches.iter().filter(|t| in_zone(t)).count();
    contacts = contacts.max(touches.len());
    let outline = measure_silhouette(&whole).ok_or(HangError::Flat)?;
    let (low, high) = shown.bounds();
    drawing.picture_mm = [low[0], low[2], high[0], high[2]];
    let top = whole.bounds().1[2];
    // The raft is held by the plate: what pulls on the supports is the part, as it was lifted.
    let (layer, pull) = alone.peak_pull();
    let lifted_mm = (top - f64::from(alone.layers) * how.layer.mm()).max(0.0);
    Ok(Hung {
        outline,
        reach: measure_height_profile(&whole),
        height_mm: top,
        part_mm3: whole_stack.volume_mm3 - support_mm3,
        support_mm3,
        surface_mm2: measure_mesh(&whole).surface_mm2,
        contacts,
        fine_contacts,
        minutes: clean_up_minutes(contacts, fine_contacts),
        starts_left: whole_stack.islands.len(),
        peak_pull: (lifted_mm + layer as f64 * how.layer.mm(), pull),
        loads: Loads::of(&alone, how.layer, lifted_mm),
        picture: draw_side(&shown, Side::Front),
        drawing,
        alone,
    })
}
