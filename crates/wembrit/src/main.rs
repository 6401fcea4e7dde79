//! The one binary: reads the command line, logs, and says how it ended.

mod cmd;

use std::process::ExitCode;

use clap::Parser;

/// The production office of a maker of resin-printed tabletop armies.
#[derive(Debug, Parser)]
#[command(name = "wembrit", version, about)]
struct Cli {
    #[command(subcommand)]
    command: cmd::Command,
}

fn main() -> ExitCode {
    let filter = tracing_subscriber::EnvFilter::try_from_default_env()
        .unwrap_or_else(|_| tracing_subscriber::EnvFilter::new("warn"));
    tracing_subscriber::fmt()
        .with_env_filter(filter)
        .with_writer(std::io::stderr)
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
