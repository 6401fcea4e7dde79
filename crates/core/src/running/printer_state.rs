//! What a printer is doing, read off its run and what is known of its vat.

use crate::flow::Run;
use crate::words::words;

words! {
    /// Where a printer stands.
    PrinterState, "state of a printer" {
        /// Nobody uses it.
        Idle = "idle",
        /// It prints.
        Running = "running",
        /// Its run is held.
        Paused = "paused",
        /// Its run should have ended: a plate waits in it.
        ToUnload = "to unload",
        /// Something may lie in its vat: only a person clears it.
        ToCheck = "to check",
        /// It is out of use.
        OutOfService = "out of service",
    }
}

impl PrinterState {
    /// Read off what is known; `seconds` are those of the plate that runs.
    #[must_use]
    pub fn of(in_use: bool, to_check: bool, run: Option<(&Run, f64)>, now_ms: i64) -> Self {
        match run {
            Some((run, _)) if run.paused_at_ms.is_some() => PrinterState::Paused,
            Some((run, seconds)) if run.ends_at_ms(seconds, now_ms) <= now_ms => {
                PrinterState::ToUnload
            }
            Some(_) => PrinterState::Running,
            None if !in_use => PrinterState::OutOfService,
            None if to_check => PrinterState::ToCheck,
            None => PrinterState::Idle,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ids::{PlateId, RunId};
    use rstest::rstest;

    const HOUR: i64 = 3_600_000;

    /// A run of two hours, begun at 0.
    #[rstest]
    #[case(true, false, None, HOUR, PrinterState::Idle)]
    #[case(true, true, None, HOUR, PrinterState::ToCheck)]
    #[case(false, true, None, HOUR, PrinterState::OutOfService)]
    #[case(true, true, Some((None, 0)), HOUR, PrinterState::Running)]
    #[case(true, false, Some((None, 0)), 2 * HOUR, PrinterState::ToUnload)]
    #[case(true, false, Some((None, HOUR)), 2 * HOUR, PrinterState::Running)]
    #[case(true, false, Some((Some(HOUR), 0)), 5 * HOUR, PrinterState::Paused)]
    fn it_is_what_its_run_says(
        #[case] in_use: bool,
        #[case] to_check: bool,
        #[case] run: Option<(Option<i64>, i64)>,
        #[case] now_ms: i64,
        #[case] state: PrinterState,
    ) {
        let run = run.map(|(paused_at_ms, paused_ms)| Run {
            paused_at_ms,
            paused_ms,
            ..Run::begun(RunId(1), PlateId(1), 0)
        });
        let run = run.as_ref().map(|r| (r, 7200.0));
        assert_eq!(PrinterState::of(in_use, to_check, run, now_ms), state);
    }
}
