//! A mesh that was supported elsewhere is laid over its design: how it was moved, turned, scaled.

use glam::{DMat3, DVec3};
use rustc_hash::FxHashMap;

use super::by_surface::{SAMPLES, Surface, by_surface};
use super::similarity::{Similarity, similarity};
use crate::layers::{StackFigures, count_contacts, measure_stack};
use crate::mesh::{Mesh, Solid};
use crate::recipe::MeshFound;
use crate::units::LayerHeight;
use crate::watch::Watch;

/// How a supported mesh lies to its design: x ↦ scale · turn · x + shift.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Registration {
    /// The factor; 1 when it was not scaled.
    pub scale: f64,
    /// The rotation.
    pub turn: DMat3,
    /// The shift, mm.
    pub shift_mm: [f64; 3],
    /// Root of the mean squared distance of matched corners, mm.
    pub rms_mm: f64,
    /// Share of the design's corners that were found again.
    pub found: f64,
    /// Its triangles are others than those of the design: it was found by its surface.
    pub remeshed: bool,
}

impl Registration {
    /// By how much it was turned, degrees.
    #[must_use]
    pub fn turned_deg(&self) -> f64 {
        let trace = self.turn.x_axis.x + self.turn.y_axis.y + self.turn.z_axis.z;
        ((trace - 1.0) / 2.0).clamp(-1.0, 1.0).acos().to_degrees()
    }

    /// How far its vertical leans from the design's, degrees: another pose than was exported.
    #[must_use]
    pub fn leans_deg(&self) -> f64 {
        (self.turn * DVec3::Z)
            .z
            .clamp(-1.0, 1.0)
            .acos()
            .to_degrees()
    }

    /// Where a point of the design lies.
    #[must_use]
    pub fn place(&self, at: DVec3) -> DVec3 {
        self.turn * at * self.scale + DVec3::from_array(self.shift_mm)
    }
}

/// Why a mesh could not be laid over its design.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum RegisterError {
    /// Too little of the design is in it.
    #[error(
        "only {percent:.0} % of the design was found in it: is it the supported mesh of another part, or was the mesh changed before it was supported? Export the design again, support it, and drop it back unchanged"
    )]
    NotFound {
        /// Percent of the corners found.
        percent: f64,
    },
    /// It is the mirror image of the design.
    #[error(
        "it is the mirror image of the design: left and right were changed; mirror it back where it was supported, or export the design again"
    )]
    Mirrored,
    /// It is the design itself.
    #[error("there is nothing in it beside the design: export it with its supports")]
    NoSupports,
    /// Asked to stop.
    #[error("measuring was stopped")]
    Stopped,
}

/// Triangles of the design that are looked for.
const LOOKED_FOR: usize = 240;
/// Corners a guess is tried on.
const TRIED: usize = 160;
/// Share of the corners that must be found.
const ENOUGH: f64 = 0.8;

/// Shape of a triangle whatever its size and place: its shorter sides as shares of the longest,
/// and its corners opposite to them. Nothing for one that looks alike when its corners change
/// places.
fn shape(t: [DVec3; 3]) -> Option<([f64; 2], [DVec3; 3])> {
    let mut sides: [(f64, DVec3); 3] =
        std::array::from_fn(|k| ((t[(k + 1) % 3] - t[(k + 2) % 3]).length(), t[k]));
    sides.sort_by(|a, b| b.0.total_cmp(&a.0));
    let [a, b, c] = sides.map(|s| s.0);
    let distinct = a > 1.01 * b && b > 1.01 * c && c > 0.02 * a;
    distinct.then(|| ([b / a, c / a], sides.map(|s| s.1)))
}

fn key(shares: [f64; 2], shift: [i32; 2]) -> [i32; 2] {
    [0, 1].map(|k| (shares[k] * 1000.0).floor() as i32 + shift[k])
}

/// Corners of a mesh by place.
struct Corners<'a> {
    all: &'a [[f32; 3]],
    cells: FxHashMap<[i32; 3], Vec<u32>>,
    side: f64,
}

impl<'a> Corners<'a> {
    fn of(mesh: &'a Mesh, side: f64) -> Self {
        let mut cells: FxHashMap<[i32; 3], Vec<u32>> = FxHashMap::default();
        for (index, c) in mesh.corners().iter().enumerate() {
            let cell = c.map(|x| (f64::from(x) / side).floor() as i32);
            cells.entry(cell).or_default().push(index as u32);
        }
        Self {
            all: mesh.corners(),
            cells,
            side,
        }
    }

    /// The nearest corner within the side of a cell.
    fn nearest(&self, at: DVec3) -> Option<(u32, DVec3, f64)> {
        let cell = (at / self.side).floor().as_ivec3();
        let mut best: Option<(u32, DVec3, f64)> = None;
        for x in -1..=1 {
            for y in -1..=1 {
                for z in -1..=1 {
                    let here = [cell.x + x, cell.y + y, cell.z + z];
                    for index in self.cells.get(&here).into_iter().flatten() {
                        let corner = DVec3::from_array(self.all[*index as usize].map(f64::from));
                        let far = corner.distance(at);
                        if far <= self.side && best.is_none_or(|b| far < b.2) {
                            best = Some((*index, corner, far));
                        }
                    }
                }
            }
        }
        best
    }
}

/// Finds the design in a supported mesh by the shapes of its triangles, which moving, turning and
/// scaling leave as they are.
///
/// # Errors
/// [`RegisterError::NotFound`] when too little of it is there.
pub fn register(
    design: &Mesh,
    supported: &Mesh,
    watch: &dyn Watch,
) -> Result<Registration, RegisterError> {
    let (low, high) = supported.bounds();
    let size = (0..3).map(|k| high[k] - low[k]).fold(0.0, f64::max);
    let near = Corners::of(supported, (size * 5e-4).max(1e-3));
    match guess(design, supported, &near) {
        Ok(guess) => Ok(refine(design, &near, guess)),
        Err(not_found) => {
            let mirrored = design.mapped(|c| DVec3::new(-c.x, c.y, c.z));
            if guess(&mirrored, supported, &near).is_ok() {
                return Err(RegisterError::Mirrored);
            }
            let found = remeshed(design, &mirrored, supported, watch);
            if watch.stopped() {
                return Err(RegisterError::Stopped);
            }
            found.unwrap_or(Err(not_found))
        }
    }
}

/// Share of the design that has to lie on a surface whose triangles are others.
const ON_SURFACE: f64 = 0.93;

/// The design in a mesh of other triangles, or its mirror image; nothing for another part.
fn remeshed(
    design: &Mesh,
    mirrored: &Mesh,
    supported: &Mesh,
    watch: &dyn Watch,
) -> Option<Result<Registration, RegisterError>> {
    let surface = Surface::of(supported, SAMPLES);
    let enough = |found: &(Similarity, f64)| found.1 >= ON_SURFACE;
    let as_it_is = by_surface(design, &surface, supported, watch);
    let other = by_surface(mirrored, &surface, supported, watch);
    let share = |found: &Option<(Similarity, f64)>| found.map_or(0.0, |f| f.1);
    if share(&other) > share(&as_it_is) + 0.02 && other.as_ref().is_some_and(enough) {
        return Some(Err(RegisterError::Mirrored));
    }
    let ((scale, turn, by), found) = as_it_is.filter(enough)?;
    Some(Ok(Registration {
        scale,
        turn,
        shift_mm: by.to_array(),
        rms_mm: surface.side / 2.0,
        found,
        remeshed: true,
    }))
}

/// The similarity under which most corners of the design are found again.
fn guess(design: &Mesh, supported: &Mesh, near: &Corners<'_>) -> Result<Similarity, RegisterError> {
    let mut there: FxHashMap<[i32; 2], Vec<[DVec3; 3]>> = FxHashMap::default();
    for face in supported.faces() {
        if let Some((shares, corners)) = shape(face.map(DVec3::from_array)) {
            there.entry(key(shares, [0, 0])).or_default().push(corners);
        }
    }
    let tried = some_corners(design, TRIED);
    let mut best: (usize, Option<Similarity>) = (0, None);
    'looking: for (shares, corners) in largest_triangles(design) {
        for shift in NEIGHBOURS {
            let alike = there.get(&key(shares, shift)).into_iter().flatten();
            for other in alike.take(40) {
                let pairs: Vec<_> = corners.iter().copied().zip(other.iter().copied()).collect();
                let Some((scale, turn, by)) = similarity(&pairs) else {
                    continue;
                };
                let hits = |p: &&DVec3| near.nearest(turn * **p * scale + by).is_some();
                let found = tried.iter().filter(hits).count();
                if found > best.0 {
                    best = (found, Some((scale, turn, by)));
                }
                if found as f64 >= 0.95 * tried.len() as f64 {
                    break 'looking;
                }
            }
        }
    }
    let percent = 100.0 * best.0 as f64 / tried.len().max(1) as f64;
    let enough = best.1.filter(|_| percent >= 100.0 * ENOUGH);
    enough.ok_or(RegisterError::NotFound { percent })
}

/// The triangles that are looked for: shape and corners, the largest first.
fn largest_triangles(design: &Mesh) -> Vec<([f64; 2], [DVec3; 3])> {
    let mut large: Vec<([f64; 2], [DVec3; 3], f64)> = design
        .faces()
        .filter_map(|f| {
            let t = f.map(DVec3::from_array);
            let (shares, corners) = shape(t)?;
            Some((shares, corners, (t[1] - t[0]).cross(t[2] - t[0]).length()))
        })
        .collect();
    large.sort_by(|a, b| b.2.total_cmp(&a.2));
    large.truncate(LOOKED_FOR);
    large
        .into_iter()
        .map(|(shares, t, _)| (shares, t))
        .collect()
}

/// About so many corners of a mesh, spread over it.
fn some_corners(mesh: &Mesh, many: usize) -> Vec<DVec3> {
    let step = (mesh.corners().len() / many).max(1);
    let corners = mesh.corners().iter().step_by(step);
    corners
        .map(|c| DVec3::from_array(c.map(f64::from)))
        .collect()
}

/// Lays the design over the mesh again, with many corners at once.
fn refine(design: &Mesh, near: &Corners<'_>, mut guess: Similarity) -> Registration {
    let all = some_corners(design, 20_000);
    let (mut found, mut rms_mm) = (1.0, 0.0);
    for _ in 0..3 {
        let (scale, turn, by) = guess;
        let pairs: Vec<(DVec3, DVec3)> = all
            .iter()
            .filter_map(|p| Some((*p, near.nearest(turn * *p * scale + by)?.1)))
            .collect();
        let Some(better) = similarity(&pairs).filter(|_| pairs.len() > 3) else {
            break;
        };
        guess = better;
        let (scale, turn, by) = guess;
        let squared = pairs
            .iter()
            .map(|(p, q)| (turn * *p * scale + by).distance_squared(*q));
        found = pairs.len() as f64 / all.len() as f64;
        rms_mm = (squared.sum::<f64>() / pairs.len() as f64).sqrt();
    }
    let (scale, turn, by) = guess;
    Registration {
        scale,
        turn,
        shift_mm: by.to_array(),
        rms_mm,
        found,
        remeshed: false,
    }
}

const NEIGHBOURS: [[i32; 2]; 9] = [
    [0, 0],
    [-1, 0],
    [1, 0],
    [0, -1],
    [0, 1],
    [-1, -1],
    [-1, 1],
    [1, -1],
    [1, 1],
];

/// What a supported mesh tells about its supports.
#[derive(Debug, Clone, PartialEq)]
pub struct RegisteredMesh {
    /// How it lies to the design.
    pub registration: Registration,
    /// Resin of supports and raft, mm³.
    pub support_mm3: f64,
    /// Places where supports touch the part.
    pub contacts: usize,
    /// What the layers of the whole tell.
    pub stack: StackFigures,
}

/// Measures a supported mesh against its design: what is not design is support.
///
/// # Errors
/// [`RegisterError`].
pub fn measure_print_mesh(
    design: &Mesh,
    supported: &Mesh,
    layer: LayerHeight,
    watch: &dyn Watch,
) -> Result<RegisteredMesh, RegisterError> {
    let registration = register(design, supported, watch)?;
    let placed = design.mapped(|at| registration.place(at));
    let (low, high) = supported.bounds();
    let size = (0..3).map(|k| high[k] - low[k]).fold(0.0, f64::max);
    let supports = if registration.remeshed {
        let surface = Surface::of(&placed, 4 * SAMPLES);
        let on = |c: [f64; 3]| surface.is_on(DVec3::from_array(c));
        supported.only(|t| {
            let middle = [0, 1, 2].map(|k| (t[0][k] + t[1][k] + t[2][k]) / 3.0);
            !(on(middle) && t.iter().all(|c| on(*c)))
        })
    } else {
        let of_design = Corners::of(&placed, (size * 5e-4).max(1e-3));
        let near = |c: &[f64; 3]| of_design.nearest(DVec3::from_array(*c)).is_some();
        supported.only(|t| !t.iter().all(near))
    };
    if supports.triangles().is_empty() {
        return Err(RegisterError::NoSupports);
    }
    watch.report(0.2);
    let stack = |mesh: &Mesh| {
        measure_stack(&Solid::new(mesh), layer, 1.0, watch).ok_or(RegisterError::Stopped)
    };
    let (whole, alone) = (stack(supported)?, stack(&placed)?);
    Ok(RegisteredMesh {
        registration,
        support_mm3: (whole.volume_mm3 - alone.volume_mm3).max(0.0),
        contacts: count_contacts(&Solid::new(&placed), &Solid::new(&supports), layer),
        stack: whole,
    })
}

impl RegisteredMesh {
    /// As it is kept.
    #[must_use]
    pub fn found(&self, height_mm: f64) -> MeshFound {
        let r = &self.registration;
        MeshFound {
            remeshed: r.remeshed,
            size_factor: r.scale,
            turned_deg: r.turned_deg(),
            leans_deg: r.leans_deg(),
            shift_mm: r.shift_mm.iter().map(|s| s * s).sum::<f64>().sqrt(),
            rms_mm: r.rms_mm,
            support_mm3: self.support_mm3,
            contacts: self.contacts,
            height_mm,
        }
    }
}
