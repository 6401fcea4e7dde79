//! Boxes, for files that a test uploads.

/// The triangles of a box, turned outward.
pub(crate) fn faces(low: [f32; 3], high: [f32; 3]) -> Vec<[[f32; 3]; 3]> {
    let at = |i: usize| -> [f32; 3] {
        std::array::from_fn(|k| if i >> k & 1 == 0 { low[k] } else { high[k] })
    };
    const FACES: [[usize; 4]; 6] = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    let halves = FACES
        .iter()
        .flat_map(|f| [[f[0], f[1], f[2]], [f[0], f[2], f[3]]]);
    halves.map(|t| t.map(at)).collect()
}
