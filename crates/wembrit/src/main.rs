//! The one binary: reads the command line, logs, and says how it ended.

mod cmd;

use std::process::ExitCode;

use clap::Parser;
use tracing::Level;
use tracing_subscriber::filter::Targets;
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

/// The production office of a maker of resin-printed tabletop armies.
#[derive(Debug, Parser)]
#[command(name = "wembrit", version, about)]
struct Cli {
    #[command(subcommand)]
    command: cmd::Command,
}

fn main() -> ExitCode {
    // As elsewhere: `RUST_LOG=info`, or `RUST_LOG=warn,wembrit_web=debug`.
    let wanted = std::env::var("RUST_LOG").ok();
    let filter = wanted
        .and_then(|w| w.parse::<Targets>().ok())
        .unwrap_or_else(|| Targets::new().with_default(Level::WARN));
    tracing_subscriber::registry()
        .with(tracing_subscriber::fmt::layer().with_writer(std::io::stderr))
        .with(filter)
        .init();
    match cmd::run(Cli::parse().command) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            // One line, whatever the error holds.
            let line = error
                .to_string()
                .split_whitespace()
                .collect::<Vec<_>>()
                .join(" ");
            eprintln!("wembrit: {line}");
            ExitCode::from(2)
        }
    }
}
