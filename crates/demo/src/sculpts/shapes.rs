//! Signed-distance shapes, and shells meshed from them with surface nets.

use fast_surface_nets::ndshape::{RuntimeShape, Shape};
use fast_surface_nets::{SurfaceNetsBuffer, surface_nets};
use glam::Vec3;

/// Cell of the grid a shell is meshed on, mm.
const CELL_MM: f32 = 0.45;

/// A basic shape; lengths in mm, z up.
#[derive(Debug, Clone, Copy)]
pub enum Solid {
    /// A ball stretched along the axes.
    Ball {
        /// Middle.
        at: [f32; 3],
        /// Half the size along each axis.
        radii: [f32; 3],
    },
    /// A limb that thins from one end to the other.
    Limb {
        /// One end.
        from: [f32; 3],
        /// The other end.
        to: [f32; 3],
        /// Radius at the one end.
        from_r: f32,
        /// Radius at the other.
        to_r: f32,
    },
    /// An upright block with rounded edges.
    Block {
        /// Middle.
        at: [f32; 3],
        /// Half the size along each axis.
        half: [f32; 3],
        /// Radius of its edges.
        round: f32,
    },
    /// A standing cylinder.
    Drum {
        /// Middle.
        at: [f32; 3],
        /// Radius.
        radius: f32,
        /// Half its height.
        half_height: f32,
    },
}

impl Solid {
    fn distance(&self, p: Vec3) -> f32 {
        match *self {
            Solid::Ball { at, radii } => {
                let (p, r) = (p - Vec3::from(at), Vec3::from(radii));
                let (k0, k1) = ((p / r).length(), (p / (r * r)).length());
                if k1 == 0.0 {
                    -r.min_element()
                } else {
                    k0 * (k0 - 1.0) / k1
                }
            }
            Solid::Limb {
                from,
                to,
                from_r,
                to_r,
            } => {
                let (a, b) = (Vec3::from(from), Vec3::from(to));
                let t = ((p - a).dot(b - a) / (b - a).length_squared().max(1e-6)).clamp(0.0, 1.0);
                (p - a - (b - a) * t).length() - (from_r + (to_r - from_r) * t)
            }
            Solid::Block { at, half, round } => {
                let q = (p - Vec3::from(at)).abs() - (Vec3::from(half) - Vec3::splat(round));
                q.max(Vec3::ZERO).length() + q.max_element().min(0.0) - round
            }
            Solid::Drum {
                at,
                radius,
                half_height,
            } => {
                let p = p - Vec3::from(at);
                let (side, end) = (p.truncate().length() - radius, p.z.abs() - half_height);
                side.max(end).min(0.0) + Vec3::new(side.max(0.0), end.max(0.0), 0.0).length()
            }
        }
    }

    fn bounds(&self) -> (Vec3, Vec3) {
        match *self {
            Solid::Ball { at, radii: half } | Solid::Block { at, half, .. } => (
                Vec3::from(at) - Vec3::from(half),
                Vec3::from(at) + Vec3::from(half),
            ),
            Solid::Limb {
                from,
                to,
                from_r,
                to_r,
            } => {
                let r = Vec3::splat(from_r.max(to_r));
                (
                    Vec3::from(from).min(Vec3::from(to)) - r,
                    Vec3::from(from).max(Vec3::from(to)) + r,
                )
            }
            Solid::Drum {
                at,
                radius,
                half_height,
            } => {
                let half = Vec3::new(radius, radius, half_height);
                (Vec3::from(at) - half, Vec3::from(at) + half)
            }
        }
    }
}

/// A closed shell: shapes grown together, others carved out.
#[derive(Debug, Clone, Default)]
pub struct Shell {
    solids: Vec<Solid>,
    carved: Vec<Solid>,
    blend_mm: f32,
}

impl Shell {
    /// Shapes grown together, their seams softened over `blend_mm`.
    #[must_use]
    pub fn of(blend_mm: f32, solids: Vec<Solid>) -> Self {
        Self {
            solids,
            carved: Vec::new(),
            blend_mm,
        }
    }

    /// Shapes taken away from it.
    #[must_use]
    pub fn carved(mut self, carved: Vec<Solid>) -> Self {
        self.carved = carved;
        self
    }

    fn distance(&self, p: Vec3) -> f32 {
        let k = self.blend_mm.max(1e-3);
        let grown = self.solids.iter().fold(f32::INFINITY, |d, solid| {
            let next = solid.distance(p);
            if d.is_infinite() {
                return next;
            }
            let h = (0.5 + 0.5 * (next - d) / k).clamp(0.0, 1.0);
            next + (d - next) * h - k * h * (1.0 - h)
        });
        self.carved
            .iter()
            .fold(grown, |d, solid| d.max(-solid.distance(p)))
    }

    /// Its triangles, outward.
    pub(super) fn to_faces(&self) -> Vec<[[f32; 3]; 3]> {
        let start = (Vec3::splat(f32::INFINITY), Vec3::splat(f32::NEG_INFINITY));
        let (low, high) = self
            .solids
            .iter()
            .map(Solid::bounds)
            .fold(start, |(l, h), (a, b)| (l.min(a), h.max(b)));
        let low = low - Vec3::splat(3.0 * CELL_MM);
        let cells = ((high - low) / CELL_MM).ceil() + Vec3::splat(4.0);
        let grid = RuntimeShape::<u32, 3>::new([cells.x as u32, cells.y as u32, cells.z as u32]);
        let field: Vec<f32> = (0..grid.size())
            .map(|i| {
                let [x, y, z] = grid.delinearize(i);
                self.distance(low + Vec3::new(x as f32, y as f32, z as f32) * CELL_MM) / CELL_MM
            })
            .collect();
        let mut net = SurfaceNetsBuffer::default();
        let last = [cells.x as u32 - 1, cells.y as u32 - 1, cells.z as u32 - 1];
        surface_nets(&field, &grid, [0; 3], last, &mut net);
        let at = |i: u32| (low + Vec3::from(net.positions[i as usize]) * CELL_MM).to_array();
        let mut faces: Vec<[[f32; 3]; 3]> = net
            .indices
            .chunks_exact(3)
            .map(|t| [at(t[0]), at(t[1]), at(t[2])])
            .collect();
        if signed_volume(&faces) < 0.0 {
            faces.iter_mut().for_each(|face| face.swap(1, 2));
        }
        faces
    }
}

fn signed_volume(faces: &[[[f32; 3]; 3]]) -> f32 {
    faces
        .iter()
        .map(|f| {
            let [a, b, c] = f.map(Vec3::from);
            a.dot(b.cross(c)) / 6.0
        })
        .sum()
}

/// A limb, shortly.
pub(super) fn limb(from: [f32; 3], to: [f32; 3], from_r: f32, to_r: f32) -> Solid {
    Solid::Limb {
        from,
        to,
        from_r,
        to_r,
    }
}

/// A stretched ball, shortly.
pub(super) fn ball(at: [f32; 3], radii: [f32; 3]) -> Solid {
    Solid::Ball { at, radii }
}

/// A block, shortly.
pub(super) fn block(at: [f32; 3], half: [f32; 3], round: f32) -> Solid {
    Solid::Block { at, half, round }
}

/// A drum, shortly.
pub(super) fn drum(at: [f32; 3], radius: f32, half_height: f32) -> Solid {
    Solid::Drum {
        at,
        radius,
        half_height,
    }
}
