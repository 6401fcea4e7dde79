//! Prepares a part for the plate: turned, scaled, with its supports, measured.

use super::prepared::{PreparedPart, SetupDrawing};
use crate::layers::{
    Effort, Loads, StackFigures, Thickness, measure_height_profile, measure_silhouette,
    measure_stack, measure_thickness,
};
use crate::mesh::{Mesh, Solid, measure_mesh};
use crate::pose::Pose;
use crate::recipe::orient::FineZone;
use crate::recipe::supports::{SupportPlan, Supports, clean_up_minutes, plan_supports};
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

/// How a part is to prepare.
#[derive(Debug, Clone, PartialEq)]
pub struct PrepareRequest<'a> {
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

/// What was prepared in one go: the part for a plate, what its layers alone told, its picture.
#[derive(Debug, Clone, PartialEq)]
pub struct Prepared {
    /// With everything a plate needs.
    pub part: PreparedPart,
    /// What the layers of the part alone tell, as it is turned.
    pub alone: StackFigures,
    /// What is thin about it.
    pub thickness: Thickness,
    /// The part from the front.
    pub picture: Picture,
}

/// Why a part could not be prepared.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PrepareError {
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

/// A part with what holds it.
struct Held {
    /// Everything that is printed.
    whole: Mesh,
    /// What is drawn: the part as it is lifted.
    shown: Mesh,
    /// Where supports touch the part, before it was lifted, mm.
    touches: Vec<[f64; 3]>,
    contacts: usize,
    support_mm3: f64,
    /// Layers of everything.
    stack: StackFigures,
    drawing: SetupDrawing,
}

/// A part on the supports planned for it.
fn on_planned(posed: &Mesh, plan: SupportPlan) -> Held {
    let low = posed.bounds().0;
    let shown = posed.shifted([0.0, 0.0, plan.lifted_mm - low[2]]);
    let front = |p: &[f64; 3]| [p[0], p[2]];
    let columns = plan.columns.iter();
    let riskiest = plan.riskiest.iter();
    let ends = |f: fn(f64, f64) -> f64| plan.raft.iter().map(|p| p[0]).reduce(f);
    let drawing = SetupDrawing {
        columns: columns.map(|c| c.way.iter().map(front).collect()).collect(),
        riskiest: riskiest
            .map(|i| front(&plan.columns[*i].touch.at_mm))
            .collect(),
        raft_mm: ends(f64::min).zip(ends(f64::max)).map(|(a, b)| [a, b]),
        ..SetupDrawing::default()
    };
    // Contacts as they lie on the part before it was lifted.
    let touch = |[x, y, z]: [f64; 3]| [x, y, z - plan.lifted_mm + low[2]];
    Held {
        whole: shown.with(&plan.mesh),
        touches: plan.columns.iter().map(|c| touch(c.touch.at_mm)).collect(),
        contacts: plan.contacts(),
        support_mm3: plan.support_mm3,
        shown,
        drawing,
        stack: plan.stack,
    }
}

fn stood(mesh: &Mesh) -> Mesh {
    mesh.shifted([0.0, 0.0, -mesh.bounds().0[2]])
}

/// A part that stands as its file has it, with what supports are in the file.
fn as_it_is(posed: &Mesh, stack: StackFigures, contacts: usize, support_mm3: f64) -> Held {
    let whole = stood(posed);
    Held {
        shown: whole.clone(),
        whole,
        touches: Vec::new(),
        contacts,
        support_mm3,
        stack,
        drawing: SetupDrawing::default(),
    }
}

/// The part alone as its recipe turns and scales it, on the plate: what is supported elsewhere.
#[must_use]
pub fn design_mesh(file: &Mesh, pose: Pose, scale: f64) -> Mesh {
    stood(&file.posed(pose, scale))
}

/// A part as it stands on the plate, with its supports: what is printed.
///
/// # Errors
/// [`PrepareError`], one line.
pub fn print_mesh(
    file: &Mesh,
    how: &PrepareRequest<'_>,
    watch: &dyn Watch,
) -> Result<Mesh, PrepareError> {
    let posed = || file.posed(how.pose, how.scale);
    match how.supports {
        Supports::None | Supports::InFile => Ok(stood(&posed())),
        Supports::Planned(style) => {
            let posed = posed();
            let plan = plan_supports(&posed, how.layer, &style, watch);
            Ok(stood(
                &on_planned(&posed, plan.ok_or(PrepareError::Stopped)?).whole,
            ))
        }
        Supports::PrintMesh(_) => {
            let real = how.supported.ok_or(PrepareError::NoPrintMesh)?;
            Ok(stood(real.mesh))
        }
    }
}

/// Contacts in a zone marked fine.
fn count_fine(touches: &[[f64; 3]], how: &PrepareRequest<'_>) -> usize {
    let in_zone = |at: &&[f64; 3]| {
        how.zones.iter().any(|z| {
            let middle = how.pose.turn(z.at_mm.map(|c| c * how.scale));
            let far: f64 = (0..3).map(|k| (middle[k] - at[k]).powi(2)).sum();
            far.sqrt() <= z.radius_mm * how.scale
        })
    };
    touches.iter().filter(in_zone).count()
}

/// Sets a part up for the plate and measures it with its supports.
///
/// # Errors
/// [`PrepareError`], one line.
pub fn prepare(
    file: &Mesh,
    how: &PrepareRequest<'_>,
    watch: &dyn Watch,
) -> Result<Prepared, PrepareError> {
    let posed = file.posed(how.pose, how.scale);
    let stack = |mesh: &Mesh| {
        measure_stack(&Solid::new(mesh), how.layer, 1.0, watch).ok_or(PrepareError::Stopped)
    };
    let alone = stack(&posed)?;
    let solid = Solid::new(&posed);
    let covered = Effort::of(&solid, how.layer, 1.0).covered;
    let thickness = measure_thickness(&solid, 1.0, covered, watch).ok_or(PrepareError::Stopped)?;
    let held = match how.supports {
        Supports::None => as_it_is(&posed, alone.clone(), 0, 0.0),
        Supports::InFile => as_it_is(&posed, alone.clone(), alone.columns as usize, 0.0),
        Supports::Planned(style) => {
            let plan = plan_supports(&posed, how.layer, &style, watch);
            on_planned(&posed, plan.ok_or(PrepareError::Stopped)?)
        }
        Supports::PrintMesh(_) => {
            let real = how.supported.ok_or(PrepareError::NoPrintMesh)?;
            let whole = stood(real.mesh);
            as_it_is(&whole, stack(&whole)?, real.contacts, real.support_mm3)
        }
    };
    let fine_contacts = count_fine(&held.touches, how);
    let contacts = held.contacts.max(held.touches.len());
    let (low, high) = held.shown.bounds();
    let top = held.whole.bounds().1[2];
    // The raft is held by the plate: what pulls on the supports is the part, as it was lifted.
    let (layer, pull) = alone.peak_pull();
    let lifted_mm = (top - f64::from(alone.layers) * how.layer.mm()).max(0.0);
    let part = PreparedPart {
        outline: measure_silhouette(&held.whole).ok_or(PrepareError::Flat)?,
        profile: measure_height_profile(&held.whole),
        height_mm: top,
        part_mm3: held.stack.volume_mm3 - held.support_mm3,
        support_mm3: held.support_mm3,
        surface_mm2: measure_mesh(&held.whole).surface_mm2,
        inside_mm3: 0.0,
        contacts,
        fine_contacts,
        minutes: clean_up_minutes(contacts, fine_contacts),
        starts_left: held.stack.islands.len(),
        peak_pull: (lifted_mm + layer as f64 * how.layer.mm(), pull),
        loads: Loads::of(&alone, how.layer, lifted_mm),
        drawing: SetupDrawing {
            picture_mm: [low[0], low[2], high[0], high[2]],
            ..held.drawing
        },
    };
    Ok(Prepared {
        part,
        alone,
        thickness,
        picture: draw_side(&held.shown, Side::Front),
    })
}
