//! Simple solids for tests, as loose triangles.

use wembrit_core::mesh::{Mesh, write_stl};

pub(crate) type Faces = Vec<[[f64; 3]; 3]>;

/// An upright block between two corners.
pub(crate) fn block(low: [f64; 3], high: [f64; 3]) -> Faces {
    let at = |i: usize| std::array::from_fn(|k| if i >> k & 1 == 1 { high[k] } else { low[k] });
    let quads = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    quads
        .iter()
        .flat_map(|q| [[q[0], q[1], q[2]], [q[0], q[2], q[3]]])
        .map(|t| t.map(at))
        .collect()
}

/// An upright cylinder of many sides on a point.
pub(crate) fn cylinder(radius: f64, height: f64, foot: [f64; 3]) -> Faces {
    const SIDES: usize = 256;
    let rim = |i: usize, z: f64| {
        let (sin, cos) = (i as f64 / SIDES as f64 * std::f64::consts::TAU).sin_cos();
        [foot[0] + radius * cos, foot[1] + radius * sin, foot[2] + z]
    };
    let middle = |z: f64| [foot[0], foot[1], foot[2] + z];
    (0..SIDES)
        .flat_map(|i| {
            let (a, b, c, d) = (
                rim(i, 0.0),
                rim(i + 1, 0.0),
                rim(i + 1, height),
                rim(i, height),
            );
            [
                [a, b, c],
                [a, c, d],
                [middle(0.0), b, a],
                [middle(height), d, c],
            ]
        })
        .collect()
}

pub(crate) fn mesh(faces: &Faces) -> Mesh {
    Mesh::weld(faces.iter().map(|f| f.map(|c| c.map(|c| c as f32))))
}

pub(crate) fn stl(faces: &Faces) -> Vec<u8> {
    write_stl(&mesh(faces))
}
