//! Hostile inputs for about a minute: every test whose name begins with `hostile_`, round after
//! round with another seed, in so much memory and no more.

use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

/// How long rounds are begun.
const FOR: Duration = Duration::from_secs(60);
/// What a round may allocate at most, KiB: a test that needs more breaks off.
const MEMORY_KIB: u32 = 3_000_000;

/// By the seed given, or by 1.
pub(crate) fn by_seed(root: &Path, seed: Option<&str>) -> Result<(), String> {
    let seed = seed.map_or(Ok(1), str::parse);
    rounds(root, seed.map_err(|_| "the seed is a whole number")?)
}

/// By the first digits of the commit: other ground with every change, and the same whenever it is tried again.
pub(crate) fn by_the_commit(root: &Path) -> Result<(), String> {
    let head = Command::new("git")
        .args(["rev-parse", "HEAD"])
        .current_dir(root)
        .output();
    let head = head
        .map(|o| String::from_utf8_lossy(&o.stdout).into_owned())
        .unwrap_or_default();
    let digits = head.get(..8).and_then(|d| u64::from_str_radix(d, 16).ok());
    rounds(root, digits.unwrap_or(1))
}

fn rounds(root: &Path, first: u64) -> Result<(), String> {
    // What compiles may take what it needs.
    let built = Command::new("cargo")
        .args(["test", "--workspace", "--no-run", "--quiet"])
        .current_dir(root)
        .status();
    if !built.is_ok_and(|s| s.success()) {
        return Err("the tests could not be built: see above".into());
    }
    let began = Instant::now();
    let mut seed = first;
    while began.elapsed() < FOR {
        let limited =
            format!("ulimit -d {MEMORY_KIB} && exec cargo test --workspace --quiet hostile_");
        let round = Command::new("sh")
            .args(["-c", &limited])
            .env("PROPTEST_RNG_SEED", seed.to_string())
            .current_dir(root)
            .status();
        if !round.is_ok_and(|s| s.success()) {
            return Err(format!(
                "seed {seed} found a fault: repeat it by `cargo x fuzz {seed}`"
            ));
        }
        seed = seed.wrapping_add(1);
    }
    eprintln!(
        "hostile inputs of {} seeds, from {first} on: none did harm",
        seed.wrapping_sub(first)
    );
    Ok(())
}
