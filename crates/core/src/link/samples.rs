//! Samples for the tests of this room.

use super::says::{JobSaid, MachineState, Says};

/// What a machine says in a state, with a job of this number in it.
pub(super) fn says(state: MachineState, job: Option<u64>) -> Says {
    Says {
        state,
        trouble: None,
        job: job.map(|number| JobSaid {
            number,
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
