//! Chores of the project: `cargo x test`, `cargo x fuzz`, `cargo x lint`, `cargo x css`,
//! `cargo x schema`, `cargo x shots`, `cargo x layers`.

mod fuzz;
mod layers;
mod rooms;
mod sources;

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode, Stdio};

type Chore = Result<(), String>;

fn main() -> ExitCode {
    let chore = std::env::args().nth(1).unwrap_or_default();
    let done = match chore.as_str() {
        "test" => test().and_then(|()| fuzz::by_the_commit(&root())),
        "fuzz" => fuzz::by_seed(&root(), std::env::args().nth(2).as_deref()),
        "lint" => lint(),
        "css" => css(),
        "shots" => shots(),
        "schema" => schema(),
        "layers" => house(),
        _ => Err("usage: cargo x test | fuzz [SEED] | lint | css | schema | shots | layers".into()),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(why) => {
            eprintln!("cargo x {chore}: {why}");
            ExitCode::FAILURE
        }
    }
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .parent()
        .map_or_else(PathBuf::new, Path::to_path_buf)
}

fn run(program: &str, args: &[&str], folder: &Path) -> Chore {
    eprintln!("+ {program} {}", args.join(" "));
    let status = Command::new(program)
        .args(args)
        .current_dir(folder)
        .status();
    match status {
        Ok(status) if status.success() => Ok(()),
        Ok(_) => Err(format!("{program} {} failed", args.join(" "))),
        Err(why) => Err(format!("{program}: {why}")),
    }
}

fn cargo(args: &[&str]) -> Chore {
    run(
        &std::env::var("CARGO").unwrap_or_else(|_| "cargo".into()),
        args,
        &root(),
    )
}

fn there(program: &str) -> bool {
    let answer = Command::new(program).arg("--version").output();
    answer.is_ok_and(|a| a.status.success())
}

/// Everything, on a machine that may have nothing but Rust and a C compiler. Goes on after a
/// failure, and names all failures at the end.
fn test() -> Chore {
    install_browser()?;
    let mut child = Command::new(std::env::var("CARGO").unwrap_or_else(|_| "cargo".into()))
        .args(["test", "--workspace", "--no-fail-fast"])
        .current_dir(root())
        .stdout(Stdio::piped())
        .spawn()
        .map_err(|why| format!("cargo: {why}"))?;
    let mut failed = Vec::new();
    for line in child
        .stdout
        .take()
        .map(BufReader::new)
        .into_iter()
        .flat_map(BufReader::lines)
    {
        let line = line.map_err(|why| why.to_string())?;
        eprintln!("{line}");
        failed.extend(failure(&line));
    }
    let ended = child.wait().map_err(|why| why.to_string())?;
    match (ended.success(), failed.as_slice()) {
        (true, _) => Ok(()),
        (false, []) => Err("the tests could not be built or run: see above".into()),
        (false, names) => Err(format!("{} failed:\n  {}", names.len(), names.join("\n  "))),
    }
}

/// The test a line of the runner says has failed.
fn failure(line: &str) -> Option<String> {
    let name = line.strip_prefix("test ")?.strip_suffix(" ... FAILED")?;
    Some(name.to_owned())
}

/// Chromium and its driver from Debian's packages, when they are missing.
fn install_browser() -> Chore {
    if there("chromedriver") && there("chromium") {
        return Ok(());
    }
    if !there("apt-get") {
        return Err("the browser tests need chromium and chromedriver on the PATH".into());
    }
    let root = Command::new("id")
        .arg("-u")
        .output()
        .is_ok_and(|o| o.stdout.trim_ascii() == b"0");
    let apt = |args: &[&str]| {
        if root {
            run("apt-get", args, &self::root())
        } else {
            run("sudo", &[&["apt-get"], args].concat(), &self::root())
        }
    };
    apt(&["update", "-qq"])?;
    apt(&[
        "install",
        "-y",
        "-qq",
        "--no-install-recommends",
        "chromium",
        "chromium-driver",
    ])
}

/// The arrows between crates and between rooms.
fn house() -> Chore {
    layers::check(&root())?;
    rooms::check(&root())
}

fn lint() -> Chore {
    cargo(&["fmt", "--all", "--check"])?;
    house()?;
    fresh_css()?;
    cargo(&[
        "clippy",
        "--workspace",
        "--all-targets",
        "--",
        "-D",
        "warnings",
    ])?;
    // SAFETY of the environment: set for the child only.
    let doc = Command::new(std::env::var("CARGO").unwrap_or_else(|_| "cargo".into()))
        .args(["doc", "--workspace", "--no-deps", "--quiet"])
        .env("RUSTDOCFLAGS", "-D warnings")
        .current_dir(root())
        .status();
    if doc.is_ok_and(|s| s.success()) {
        Ok(())
    } else {
        Err("the documentation has warnings".into())
    }
}

fn styles() -> PathBuf {
    root().join("crates/web")
}

/// Compiles the style sheet from its source.
fn css() -> Chore {
    run("npm", &["ci", "--no-fund", "--no-audit"], &styles())?;
    run("npm", &["run", "--silent", "css"], &styles())
}

/// The committed style sheet is what its source compiles to, where npm can tell. Nothing is
/// rewritten, and nothing fetched when the packages are here already.
fn fresh_css() -> Chore {
    if !there("npm") {
        eprintln!("npm is not here: the style sheet was not checked");
        return Ok(());
    }
    if !styles().join("node_modules").is_dir() {
        run("npm", &["ci", "--no-fund", "--no-audit"], &styles())?;
    }
    let fresh = std::env::temp_dir().join(format!("wembrit-{}.css", std::process::id()));
    let to = fresh.to_string_lossy();
    run(
        "npm",
        &["run", "--silent", "css", "--", "--output", &to],
        &styles(),
    )?;
    let read =
        |path: &Path| std::fs::read(path).map_err(|why| format!("{}: {why}", path.display()));
    if read(&fresh)? == read(&styles().join("static/app.css"))? {
        Ok(())
    } else {
        Err("static/app.css is stale: run `cargo x css` and commit it".into())
    }
}

/// Writes the store's schema anew from its migrations.
fn schema() -> Chore {
    let status = Command::new(std::env::var("CARGO").unwrap_or_else(|_| "cargo".into()))
        .args([
            "test",
            "--workspace",
            "--test",
            "it",
            "schema_rs_is_what_the_migrations_make",
        ])
        .env("WEMBRIT_WRITE_SCHEMA", "1")
        .current_dir(root())
        .status();
    if status.is_ok_and(|s| s.success()) {
        Ok(())
    } else {
        Err("the schema was not written".into())
    }
}

/// Makes the pictures of every main view anew.
fn shots() -> Chore {
    install_browser()?;
    cargo(&[
        "test",
        "-p",
        "wembrit",
        "--test",
        "it",
        "--",
        "--ignored",
        "pictures_of_every_view",
    ])
}

#[cfg(test)]
mod tests {
    use super::failure;

    #[test]
    fn failures_are_told_from_what_passed() {
        assert_eq!(
            failure("test pages::a ... FAILED").as_deref(),
            Some("pages::a")
        );
        assert_eq!(failure("test pages::a ... ok"), None);
        assert_eq!(failure("test result: FAILED. 1 passed; 1 failed"), None);
    }
}
