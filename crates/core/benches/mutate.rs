//! A million changed files through every reader, and as many changed army lists: how many are read,
//! how many refused, and how long it takes. Nothing may panic, and no case may take a second.
//! `cargo bench -p wembrit-core --bench mutate`, with `WEMBRIT_CASES=N` for another number.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    clippy::unwrap_used,
    reason = "a bench has a clock, prints, and stops where it cannot go on"
)]
#![allow(missing_docs, reason = "a program")]

use std::time::{Duration, Instant};

use wembrit_core::army::roster::read_roster;
use wembrit_core::mesh::read_mesh;

const FILES: [&str; 6] = [
    "h_nan_degenerate.stl",
    "p_box.stl",
    "p_box_ascii.stl",
    "f_quads_negative.obj",
    "f_components.3mf",
    "p_torus.obj",
];
const LIST: &str =
    "# Fen guard\n12x Reed-piker on 25mm bases\n  - 4 wheels\nTotal: 12\n2x5 spearmen\n";

/// SplitMix64 (G. Steele, D. Lea, C. Flood, OOPSLA 2014, from memory).
fn next(state: &mut u64) -> usize {
    *state = state.wrapping_add(0x9e37_79b9_7f4a_7c15);
    let mut z = *state;
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    ((z ^ (z >> 31)) >> 1) as usize
}

/// Some bytes changed, a piece doubled, the end cut off.
fn changed(bytes: &[u8], state: &mut u64) -> Vec<u8> {
    let mut out = bytes.to_vec();
    for _ in 0..next(state) % 12 {
        let at = next(state) % out.len();
        out[at] = next(state) as u8;
    }
    if next(state).is_multiple_of(4) {
        let (a, b) = (next(state) % out.len(), next(state) % out.len());
        let piece = out[a.min(b)..a.max(b)].to_vec();
        out.extend(piece);
    }
    if next(state).is_multiple_of(3) {
        let keep = next(state) % out.len();
        out.truncate(keep.max(1));
    }
    out
}

/// Cases, how many were read, and the longest.
fn run(cases: usize, mut read: impl FnMut(usize, &mut u64) -> bool) -> (usize, Duration) {
    let (mut state, mut good, mut longest) = (1, 0, Duration::ZERO);
    for case in 0..cases {
        let start = Instant::now();
        good += usize::from(read(case, &mut state));
        longest = longest.max(start.elapsed());
    }
    (good, longest)
}

fn main() {
    let cases = std::env::var("WEMBRIT_CASES").map_or(1_000_000, |n| n.parse().unwrap());
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/data/");
    let files = FILES.map(|name| std::fs::read(format!("{folder}{name}")).unwrap());
    let start = Instant::now();
    let (good, longest) = run(cases, |case, state| {
        let which = case % FILES.len();
        read_mesh(&changed(&files[which], state), FILES[which]).is_ok()
    });
    println!(
        "{cases} files: {good} read, {} refused, {:.0} s, the longest {:.0} ms",
        cases - good,
        start.elapsed().as_secs_f64(),
        longest.as_secs_f64() * 1000.0
    );
    assert!(longest < Duration::from_secs(1));
    let start = Instant::now();
    let (good, longest) = run(cases, |_, state| {
        let bytes = changed(LIST.as_bytes(), state);
        read_roster(&String::from_utf8_lossy(&bytes)).is_ok()
    });
    println!(
        "{cases} lists: {good} read, {} refused, {:.0} s, the longest {:.0} ms",
        cases - good,
        start.elapsed().as_secs_f64(),
        longest.as_secs_f64() * 1000.0
    );
    assert!(longest < Duration::from_secs(1));
}
