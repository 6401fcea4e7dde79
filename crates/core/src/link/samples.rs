//! Samples for the tests of this room.

use super::job_key::JobKey;
use super::says::{JobSaid, MachineState, Says};

/// What a machine says in a state, with a job of this number in it.
pub(super) fn says(state: MachineState, job: Option<u64>) -> Says {
    Says {
        machine: "heron-1".into(),
        boot: "3".into(),
        jobs: 7,
        state,
        trouble: None,
        job: job.map(|number| JobSaid {
            number,
            boot: "2".into(),
            file: "plate-3-0a1b2c".into(),
            checksum: "ab".into(),
        }),
        layer: 100,
        printed_s: 0.0,
        since_s: 0.0,
        room_c: 21.0,
        resin_ml: 100.0,
        travel_mm: 200.0,
        files: Vec::new(),
        speed: 1.0,
    }
}

/// The job of that machine with this number.
pub(super) fn key(number: u64) -> JobKey {
    JobKey {
        machine: "heron-1".into(),
        boot: "2".into(),
        number,
        ..JobKey::of_file("plate-3-0a1b2c", "ab")
    }
}
