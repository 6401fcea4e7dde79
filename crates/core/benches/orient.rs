//! How long the search for poses takes over a sculpt of 200,000 triangles, as a ratio to
//! measuring it once layer by layer, and in seconds of this machine.
//! `cargo bench -p wembrit-core --bench orient`.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    reason = "a bench has a clock and prints"
)]
#![allow(missing_docs, reason = "a program")]

use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Instant;

use wembrit_core::layers::measure_stack;
use wembrit_core::mesh::{Mesh, Solid};
use wembrit_core::recipe::orient::{OrientRequest, PoseTiming, Subject, find_poses, settle_poses};
use wembrit_core::recipe::supports::SupportStyle;
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::{Unwatched, Watch};

/// A rippled egg of 2 × `side`² triangles.
fn rippled(side: usize) -> Mesh {
    let corner = |i: usize, j: usize| -> [f32; 3] {
        let u = (i % side) as f64 / side as f64 * std::f64::consts::TAU;
        let v = 1e-4 + j as f64 / side as f64 * (std::f64::consts::PI - 2e-4);
        let r = 1.0 + 0.25 * (5.0 * u).sin() * (4.0 * v).sin();
        [
            12.0 * r * v.sin() * u.cos(),
            9.0 * r * v.sin() * u.sin(),
            17.0 * r * v.cos(),
        ]
        .map(|c| c as f32)
    };
    Mesh::weld((0..side).flat_map(|i| {
        (0..side).flat_map(move |j| {
            let [a, b, c, d] = [
                corner(i, j),
                corner(i, j + 1),
                corner(i + 1, j + 1),
                corner(i + 1, j),
            ];
            [[a, b, c], [a, c, d]]
        })
    }))
}

/// Counts how often it is reports how far the search is.
struct Counting(AtomicUsize);

impl Watch for Counting {
    fn stopped(&self) -> bool {
        false
    }
    fn report(&self, _share: f64) {
        self.0.fetch_add(1, Ordering::Relaxed);
    }
}

fn main() {
    let mesh = rippled(320);
    let solid = Solid::new(&mesh);
    let request = OrientRequest {
        layer: LayerHeight::USUAL,
        style: SupportStyle::USUAL,
        timing: PoseTiming::of(None, LayerHeight::USUAL),
        zones: Vec::new(),
    };
    let start = Instant::now();
    let stack = measure_stack(&solid, LayerHeight::USUAL, 1.0, &Unwatched);
    let once = start.elapsed().as_secs_f64();
    let subject = Subject::new(&solid, &request);
    let reports = Counting(AtomicUsize::new(0));
    let start = Instant::now();
    let found = find_poses(&subject, &reports).unwrap_or_default();
    let search = start.elapsed().as_secs_f64();
    let settled = settle_poses(&mesh, found, &request, &reports);
    let shown = settled.map_or(0, |s| s.len());
    let settle = start.elapsed().as_secs_f64() - search;
    println!("what is shown is measured in {settle:.1} s");
    println!(
        "{} triangles, {} layers: the search over some hundred poses takes {:.1} times as long as measuring once ({search:.1} s against {once:.2} s), reports {} times, shows {shown}",
        solid.facts.triangles,
        stack.map_or(0, |s| s.layers),
        search / once,
        reports.0.into_inner()
    );
}
