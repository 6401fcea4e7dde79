//! A sculpt seen from its four sides: how light every point is, ready to be inked.

use crate::mesh::Mesh;
use crate::words::words;

words! {
    /// A side of a sculpt.
    Side, "side" {
        /// From −y.
        Front = "front",
        /// From +x.
        Right = "right",
        /// From +y.
        Back = "back",
        /// From −x.
        Left = "left",
    }
}

/// A picture without colour.
///
/// # Shape
/// Row by row from the top; `None` where nothing is, else the light from 0 to 255.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Picture {
    /// Points across.
    pub width: usize,
    /// Points down.
    pub height: usize,
    /// The points.
    pub light: Vec<Option<u8>>,
}

/// Points along the longer side of a picture.
const POINTS: f64 = 340.0;

/// Draws a mesh from a side, in parallel projection, filling the picture; light comes from the
/// upper left of the viewer.
#[must_use]
pub fn draw_side(mesh: &Mesh, side: Side) -> Picture {
    let view = View::of(mesh, side);
    let turned = |c: [f64; 3]| view.turned(c);
    let [across, up] = view.size;
    let scale = POINTS / across.max(up).max(1e-9);
    let many = |length: f64| ((length * scale).ceil() as usize).max(1);
    let (width, height) = (many(across), many(up));
    let mut light = vec![None; width * height];
    let mut nearest = vec![f64::NEG_INFINITY; width * height];
    for face in mesh.faces() {
        let t = face.map(|c| turned(c).map(|c| c * scale));
        let shade = shade(&t);
        paint(&t, (width, height), |index, depth| {
            if depth > nearest[index] {
                nearest[index] = depth;
                light[index] = Some(shade);
            }
        });
    }
    Picture {
        width,
        height,
        light,
    }
}

/// A mesh as it is seen from a side.
struct View {
    side: Side,
    low: [f64; 3],
    high: [f64; 3],
    /// Across and up.
    size: [f64; 2],
}

impl View {
    fn of(mesh: &Mesh, side: Side) -> Self {
        let (low, high) = mesh.bounds();
        let across = if matches!(side, Side::Front | Side::Back) {
            high[0] - low[0]
        } else {
            high[1] - low[1]
        };
        Self {
            side,
            low,
            high,
            size: [across, high[2] - low[2]],
        }
    }

    /// Across, up, and toward the viewer.
    fn turned(&self, c: [f64; 3]) -> [f64; 3] {
        let (low, high) = (self.low, self.high);
        match self.side {
            Side::Front => [c[0] - low[0], c[2] - low[2], high[1] - c[1]],
            Side::Right => [c[1] - low[1], c[2] - low[2], c[0] - low[0]],
            Side::Back => [high[0] - c[0], c[2] - low[2], c[1] - low[1]],
            Side::Left => [high[1] - c[1], c[2] - low[2], high[0] - c[0]],
        }
    }
}

/// The point of a mesh that is seen at a place of its picture: shares of the width from the left
/// and of the height from the top. Nothing beside it.
#[must_use]
pub fn point_seen(mesh: &Mesh, side: Side, share: [f64; 2]) -> Option<[f64; 3]> {
    let view = View::of(mesh, side);
    let at = [share[0] * view.size[0], (1.0 - share[1]) * view.size[1]];
    let mut nearest: Option<(f64, [f64; 3])> = None;
    for face in mesh.faces() {
        let t = face.map(|c| view.turned(c));
        let cross = |a: [f64; 3], b: [f64; 3]| {
            (b[0] - a[0]) * (at[1] - a[1]) - (b[1] - a[1]) * (at[0] - a[0])
        };
        let w = [cross(t[1], t[2]), cross(t[2], t[0]), cross(t[0], t[1])];
        let area: f64 = w.iter().sum();
        if area == 0.0 || w.iter().any(|w| w / area < 0.0) {
            continue;
        }
        let depth: f64 = (0..3).map(|i| w[i] / area * t[i][2]).sum();
        if nearest.is_none_or(|n| depth > n.0) {
            let point = std::array::from_fn(|k| (0..3).map(|i| w[i] / area * face[i][k]).sum());
            nearest = Some((depth, point));
        }
    }
    nearest.map(|n| n.1)
}

/// How light a triangle is, whichever way it winds.
fn shade(t: &[[f64; 3]; 3]) -> u8 {
    const TO_LIGHT: [f64; 3] = [-0.42, 0.62, 0.66];
    let edge = |a: [f64; 3], b: [f64; 3]| -> [f64; 3] { std::array::from_fn(|k| b[k] - a[k]) };
    let (u, v) = (edge(t[0], t[1]), edge(t[0], t[2]));
    let mut n = [
        u[1] * v[2] - u[2] * v[1],
        u[2] * v[0] - u[0] * v[2],
        u[0] * v[1] - u[1] * v[0],
    ];
    let length = n.iter().map(|c| c * c).sum::<f64>().sqrt();
    if length == 0.0 {
        return 0;
    }
    // Files face inward now and then: the side toward the viewer is the outside.
    if n[2] < 0.0 {
        n = n.map(|c| -c);
    }
    let lit: f64 = n.iter().zip(TO_LIGHT).map(|(a, b)| a / length * b).sum();
    (60.0 + 195.0 * lit.max(0.0)) as u8
}

/// Calls for every point whose middle lies in a triangle, and for the nearest one when it is
/// smaller than a point.
fn paint(t: &[[f64; 3]; 3], (width, height): (usize, usize), mut put: impl FnMut(usize, f64)) {
    let of = |k: usize| t.map(|c| c[k]);
    let least = |v: [f64; 3]| v[0].min(v[1]).min(v[2]);
    let most = |v: [f64; 3]| v[0].max(v[1]).max(v[2]);
    let cell = |v: f64, many: usize| (v.max(0.0) as usize).min(many - 1);
    let (xs, ys) = (of(0), of(1));
    let (x0, x1, y0, y1) = (
        cell(least(xs), width),
        cell(most(xs), width),
        cell(least(ys), height),
        cell(most(ys), height),
    );
    let index = |x: usize, y: usize| (height - 1 - y) * width + x;
    if x0 == x1 && y0 == y1 {
        put(index(x0, y0), most(of(2)));
        return;
    }
    let side = |a: [f64; 3], b: [f64; 3], p: [f64; 2]| {
        (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])
    };
    let area = side(t[0], t[1], [t[2][0], t[2][1]]);
    if area == 0.0 {
        return;
    }
    for y in y0..=y1 {
        for x in x0..=x1 {
            let p = [x as f64 + 0.5, y as f64 + 0.5];
            let w = [
                side(t[1], t[2], p) / area,
                side(t[2], t[0], p) / area,
                side(t[0], t[1], p) / area,
            ];
            if w.iter().all(|w| *w >= -1e-9) {
                put(
                    index(x, y),
                    w[0] * t[0][2] + w[1] * t[1][2] + w[2] * t[2][2],
                );
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// A tall post at −x and a low block at +x, toward +y: every side shows them differently.
    fn corner() -> Mesh {
        let block = |low: [f32; 3], high: [f32; 3]| {
            let at = move |i: usize| {
                std::array::from_fn(|k| if i >> k & 1 == 1 { high[k] } else { low[k] })
            };
            [
                [0, 2, 3, 1],
                [4, 5, 7, 6],
                [0, 1, 5, 4],
                [2, 6, 7, 3],
                [0, 4, 6, 2],
                [1, 3, 7, 5],
            ]
            .into_iter()
            .flat_map(|q| [[q[0], q[1], q[2]], [q[0], q[2], q[3]]])
            .map(move |t| t.map(at))
        };
        Mesh::weld(
            block([0.0, 0.0, 0.0], [2.0, 2.0, 10.0]).chain(block([2.0, 0.0, 0.0], [8.0, 6.0, 2.0])),
        )
    }

    /// Whether the upper half is filled at the left and at the right end.
    #[rstest]
    #[case(Side::Front, true, false)]
    #[case(Side::Back, false, true)]
    #[case(Side::Right, true, false)]
    #[case(Side::Left, false, true)]
    fn every_side_is_seen_from_where_it_says(
        #[case] side: Side,
        #[case] left: bool,
        #[case] right: bool,
    ) {
        let picture = draw_side(&corner(), side);
        let row = picture.height / 4 * picture.width;
        let filled = |x: usize| picture.light[row + x].is_some();
        assert_eq!((filled(3), filled(picture.width - 4)), (left, right));
        let foot = (picture.height - 3) * picture.width;
        assert!(
            picture.light[foot..foot + picture.width]
                .iter()
                .filter(|l| l.is_some())
                .count()
                > picture.width * 9 / 10
        );
        assert_eq!(picture.width.max(picture.height), 340);
    }

    /// The post's front is at y = 0, the block's at x from 2 to 8; beside them is nothing.
    #[rstest]
    #[case(Side::Front, [0.1, 0.1], Some([0.8, 0.0, 9.0]))]
    #[case(Side::Front, [0.75, 0.9], Some([6.0, 0.0, 1.0]))]
    #[case(Side::Back, [0.75, 0.9], Some([2.0, 6.0, 1.0]))]
    #[case(Side::Front, [0.75, 0.1], None)]
    fn a_place_in_a_picture_is_a_point_of_the_mesh(
        #[case] side: Side,
        #[case] share: [f64; 2],
        #[case] point: Option<[f64; 3]>,
    ) {
        let seen = point_seen(&corner(), side, share);
        match (seen, point) {
            (Some(a), Some(b)) => assert!((0..3).all(|k| (a[k] - b[k]).abs() < 1e-6), "{a:?}"),
            (a, b) => assert_eq!(a, b),
        }
    }

    #[test]
    fn what_faces_the_light_is_lighter() {
        // From the right: a slope facing up is lighter than the wall under it.
        let wedge = Mesh::weld([
            [[10.0, 0.0, 0.0], [10.0, 10.0, 0.0], [10.0, 10.0, 5.0]],
            [[10.0, 0.0, 0.0], [10.0, 10.0, 5.0], [10.0, 0.0, 5.0]],
            [[10.0, 0.0, 5.0], [10.0, 10.0, 5.0], [0.0, 10.0, 10.0]],
            [[10.0, 0.0, 5.0], [0.0, 10.0, 10.0], [0.0, 0.0, 10.0]],
        ]);
        let picture = draw_side(&wedge, Side::Right);
        let at = |share: f64| {
            picture.light
                [(picture.height as f64 * share) as usize * picture.width + picture.width / 2]
        };
        assert!(at(0.2) > at(0.8), "{:?} {:?}", at(0.2), at(0.8));
    }
}
