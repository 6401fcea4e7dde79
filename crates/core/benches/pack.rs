//! How long a first plan of some 600 copies takes, as a ratio to growing their outlines once for the
//! bound, in seconds of this machine, and what further steps bring.
//! `cargo bench -p wembrit-core --bench pack`.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    reason = "a bench has a clock and prints"
)]
#![allow(missing_docs, reason = "a program")]

use std::time::Instant;

use wembrit_core::geometry::Outline;
use wembrit_core::pack::{
    BuildArea, Item, PackJob, PackSearch, Packing, Slots, Wishes, lower_bound,
};
use wembrit_core::watch::Unwatched;

/// A figure seen from above: a body with two arms, of so many millimetres.
fn figure(size: f64, arms: f64) -> Outline {
    let corners = (0..24).map(|i| {
        let angle = f64::from(i) * std::f64::consts::TAU / 24.0;
        let r = size * (0.5 + arms * (angle * 2.0).cos().max(0.0).powi(4));
        [r * angle.cos(), r * angle.sin()]
    });
    Outline::try_new(corners.collect()).expect("a star is simple")
}

fn army() -> PackJob {
    let kinds = [
        (22.0, 0.3, 46.0, 40),
        (14.0, 0.9, 33.0, 90),
        (25.0, 0.0, 4.0, 130),
        (9.0, 1.2, 17.0, 150),
        (8.0, 0.2, 13.0, 140),
        (30.0, 0.5, 64.0, 10),
        (6.0, 2.4, 30.0, 40),
    ];
    PackJob {
        wishes: Wishes::default(),
        build_areas: vec![BuildArea {
            width_mm: 218.0,
            depth_mm: 123.0,
            height_mm: 220.0,
            part_pull: None,
            plate_pull: None,
            margin_mm: 3.0,
            busy_s: 0.0,
            constant_s: 0.0,
            per_mm_s: 1.0,
            low: Vec::new(),
            slots: Slots::default(),
        }],
        clearance_mm: 1.5,
        items: kinds
            .iter()
            .map(|(size, arms, height, copies)| Item::new(figure(*size, *arms), *height, *copies))
            .collect(),
    }
}

fn sum(job: &PackJob, packing: &Packing) -> f64 {
    packing
        .plates
        .iter()
        .map(|p| {
            let heights = p.placements.iter().map(|s| job.items[s.item].height_mm);
            heights.fold(0.0, f64::max)
        })
        .sum()
}

fn main() {
    let job = army();
    let start = Instant::now();
    let bound = lower_bound(&job);
    let grown = start.elapsed().as_secs_f64();
    let start = Instant::now();
    let search = PackSearch { seed: 1, steps: 60 };
    search
        .improve(&job, None, &Unwatched, &mut |packing| {
            let taken = start.elapsed().as_secs_f64();
            println!(
                "{:.2} s, {:.0} times the bound: {} plates, {:.1} mm, {:.3} of the bound",
                taken,
                taken / grown,
                packing.plates.len(),
                sum(&job, packing),
                sum(&job, packing) / bound.sum_height_mm
            );
        })
        .expect("it packs");
    println!("{:.2} s for 60 steps", start.elapsed().as_secs_f64());
}
