//! What the workshop of the scenario has written down so far: how long plates printed, how long hands
//! were on them, how exposures were tested.

use wembrit_core::exposure::{ExposureTest, Tested};
use wembrit_core::flow::PlateState;
use wembrit_core::ids::ProjectId;
use wembrit_core::learn::{JudgedTest, LadderPoint, Verdict};
use wembrit_store::commands::print_times::Printed;
use wembrit_store::commands::{exposures, hands, print_times};
use wembrit_store::queries::{plates, settings};
use wembrit_store::{Conn, StoreError};

const DAY_MS: i64 = 86_400_000;

/// Writes it down.
pub(crate) fn write(c: &mut Conn, project: ProjectId, now_ms: i64) -> Result<(), StoreError> {
    let done = plates::accepted(c, project)?;
    let done = done.iter().filter(|p| p.state == PlateState::Done);
    for (n, plate) in done.enumerate() {
        let (reckoned_s, _) = plate.reckoned;
        // A few minutes with every plate, and a little with every layer.
        let printed_s = 240.0 + reckoned_s * [1.02, 1.03, 1.015][n % 3];
        print_times::say(c, plate.id, Printed::For(printed_s), now_ms)?;
        let minutes = [31.0, 38.0, 24.0][n % 3];
        hands::say(c, plate.id, minutes, now_ms)?;
    }
    let all = settings::list(c)?;
    // Of one setting the exposure was found, of the next it is being looked for.
    let found: [(Tested, f64, Verdict, i64); 5] = [
        (Tested::Layer, 1.9, Verdict::Under, 60),
        (Tested::Layer, 3.3, Verdict::Over, 60),
        (Tested::Layer, 2.5, Verdict::Right, 59),
        (Tested::Bottom, 25.0, Verdict::Under, 60),
        (Tested::Bottom, 30.0, Verdict::Right, 59),
    ];
    let sought = [
        (Tested::Layer, 1.5, Verdict::Under, 2),
        (Tested::Layer, 1.9, Verdict::Over, 1),
    ];
    let first = all.iter().find(|s| s.exposure_confirmed());
    let next = all.iter().find(|s| !s.exposure_confirmed());
    for (setting, tests) in [(first, &found[..]), (next, &sought[..])] {
        let Some(setting) = setting else { continue };
        for (of, exposure_s, verdict, days) in tests {
            let test = ExposureTest {
                of: *of,
                judged: JudgedTest {
                    exposure_s: *exposure_s,
                    verdict: *verdict,
                },
                room_c: Some(21.0),
                at_ms: now_ms - days * DAY_MS,
            };
            exposures::judge(c, setting.id, &test, "")?;
        }
    }
    if let Some(setting) = first {
        let steps = [(1.9, 0.107), (2.5, 0.136), (3.3, 0.161), (4.5, 0.196)];
        let steps = steps.map(|(exposure_s, depth_mm)| LadderPoint {
            exposure_s,
            depth_mm,
        });
        exposures::measure(c, setting.id, &steps, now_ms - 59 * DAY_MS)?;
    }
    Ok(())
}
