//! `wembrit measure-apart`: the process in which a file is measured.

use std::io;

use clap::Args;
use wembrit_web::apart::{Allowance, MeasureWhere, answer};

use super::CommandError;

/// Measure what comes on standard input, within limits.
#[derive(Debug, Args)]
pub(crate) struct Apart {}

impl Apart {
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        answer(io::stdin().lock(), io::stdout(), limit).map_err(CommandError::Apart)
    }
}

/// This very program measures; where it cannot be named, the server does it itself.
pub(crate) fn measure_where() -> MeasureWhere {
    std::env::current_exe().map_or(MeasureWhere::Here, MeasureWhere::Apart)
}

#[cfg(unix)]
fn limit(to: Allowance) -> io::Result<()> {
    use rustix::process::{Resource, Rlimit, setrlimit};
    let at_most = |limit: u64| Rlimit {
        current: Some(limit),
        maximum: Some(limit),
    };
    // No memory image of a process that was ended: it would be as large as it was.
    setrlimit(Resource::Core, at_most(0))?;
    setrlimit(Resource::Cpu, at_most(to.cpu_s))?;
    setrlimit(Resource::As, at_most(to.memory))?;
    Ok(())
}

#[cfg(not(unix))]
fn limit(_: Allowance) -> io::Result<()> {
    Ok(())
}
