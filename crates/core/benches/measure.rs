//! How long measuring takes, as a ratio to one plain pass that reads and sums the same
//! triangles, and in CPU seconds of this machine. `cargo bench -p wembrit-core --bench measure`.
//!
//! With `WEMBRIT_BENCH_STL=FILE` the large mesh is written there, to time the program itself.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    reason = "a bench has a clock and prints"
)]
#![allow(missing_docs, reason = "a program")]

use std::time::Instant;

use wembrit_core::mesh::{Mesh, read_mesh, write_stl};
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

/// A rippled ball, 78 mm tall, of 2 × `side`² triangles.
fn rippled(side: usize) -> Mesh {
    let corner = |i: usize, j: usize| -> [f32; 3] {
        let u = (i % side) as f64 / side as f64 * std::f64::consts::TAU;
        let v = 1e-4 + j as f64 / side as f64 * (std::f64::consts::PI - 2e-4);
        let r = 1.0
            + 0.12 * (7.0 * u).sin() * (5.0 * v).sin()
            + 0.02 * (61.0 * u).sin() * (53.0 * v).sin();
        [
            30.0 * r * v.sin() * u.cos(),
            24.0 * r * v.sin() * u.sin(),
            39.0 * r * v.cos(),
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

/// Every triangle in four, `times` over.
fn subdivided(mesh: &Mesh, times: u32) -> Mesh {
    let mut faces: Vec<[[f32; 3]; 3]> = mesh
        .faces()
        .map(|f| f.map(|c| c.map(|c| c as f32)))
        .collect();
    for _ in 0..times {
        let middle =
            |p: [f32; 3], q: [f32; 3]| -> [f32; 3] { std::array::from_fn(|k| (p[k] + q[k]) / 2.0) };
        faces = faces
            .into_iter()
            .flat_map(|[a, b, c]| {
                let (ab, bc, ca) = (middle(a, b), middle(b, c), middle(c, a));
                [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]
            })
            .collect();
    }
    Mesh::weld(faces)
}

/// CPU seconds of this process so far (fields 14 and 15 of /proc/self/stat, in hundredths).
fn cpu_s() -> f64 {
    let stat = std::fs::read_to_string("/proc/self/stat").unwrap_or_default();
    let after = stat.rsplit(')').next().unwrap_or_default();
    let ticks: f64 = after
        .split_whitespace()
        .skip(11)
        .take(2)
        .filter_map(|t| t.parse::<f64>().ok())
        .sum();
    ticks / 100.0
}

fn main() {
    let bunny = include_bytes!("../tests/data/s_bunny.stl");
    let bunny = subdivided(&read_mesh(bunny, "a.stl").expect("the bunny reads"), 4);
    for (name, mesh) in [
        ("bunny, 0.94 million", bunny),
        ("rippled ball, 2 million", rippled(1000)),
    ] {
        let bytes = write_stl(&mesh);
        if let (Ok(path), true) = (
            std::env::var("WEMBRIT_BENCH_STL"),
            name.starts_with("rippled"),
        ) {
            std::fs::write(path, &bytes).expect("written");
        }
        drop(mesh);
        let start = Instant::now();
        let plain: f64 = bytes[84..]
            .chunks_exact(50)
            .map(|r| f64::from(f32::from_le_bytes([r[12], r[13], r[14], r[15]])))
            .sum();
        let plain_s = start.elapsed().as_secs_f64();
        let (start, cpu) = (Instant::now(), cpu_s());
        let measured = measure_file(
            &bytes,
            "bench.stl",
            MeasureOptions::at(LayerHeight::USUAL),
            &Unwatched,
        )
        .expect("it measures");
        let (wall, cpu) = (start.elapsed().as_secs_f64(), cpu_s() - cpu);
        println!(
            "{name}: {} triangles, {} layers, {:.3} ml: {cpu:.2} CPU s, {wall:.2} s, {:.0} times one plain pass ({plain:.0})",
            measured.facts.triangles,
            measured.stack.layers,
            measured.stack.volume_mm3 / 1000.0,
            wall / plain_s.max(1e-9)
        );
    }
}
