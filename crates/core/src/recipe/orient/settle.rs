//! The poses that are shown, measured as the recipe would print them.

use rayon::prelude::*;

use super::score::{Candidate, OrientRequest, Score};
use super::search::worth_showing;
use crate::mesh::Mesh;
use crate::recipe::prepare::{PrepareRequest, Prepared, prepare};
use crate::recipe::supports::Supports;
use crate::watch::{Silent, Watch};
use crate::workshop::print_time::Drawn;

/// Measures every pose with its supports, by what prepares the part of a recipe: pull solved,
/// starts, overhang, contacts, resin and hours are those the recipe shows when it is chosen. What
/// is best in nothing any more, and was found by the search alone, goes.
///
/// Nothing when the watch says stop. Equal results whatever the number of threads.
///
/// # Units
/// `mesh` in mm at print scale, as its file stands.
#[must_use]
pub fn settle_poses(
    mesh: &Mesh,
    found: Vec<Candidate>,
    request: &OrientRequest,
    watch: &dyn Watch,
) -> Option<Vec<Candidate>> {
    let many = found.len().max(1) as f64;
    let mut settled = Vec::with_capacity(found.len());
    // A few at once bound what is in memory.
    for some in found.chunks(rayon::current_num_threads().max(1)) {
        let measured: Vec<Option<Candidate>> = some
            .par_iter()
            .map(|candidate| settle_pose(mesh, candidate, request, watch))
            .collect();
        for candidate in measured {
            settled.push(candidate?);
        }
        watch.report(settled.len() as f64 / many);
    }
    Some(worth_showing(settled, |_| true))
}

/// One pose measured as the recipe would print it; nothing when the watch says stop.
#[must_use]
fn settle_pose(
    mesh: &Mesh,
    candidate: &Candidate,
    request: &OrientRequest,
    watch: &dyn Watch,
) -> Option<Candidate> {
    let supports = if candidate.on_plate() {
        Supports::None
    } else {
        Supports::Planned(request.style)
    };
    let how = PrepareRequest {
        pose: candidate.pose,
        scale: 1.0,
        supports,
        supported: None,
        zones: &request.zones,
        layer: request.layer,
    };
    let Ok(Prepared { part, alone, .. }) = prepare(mesh, &how, &Silent(watch)) else {
        // A part without thickness never got this far: it was stopped.
        return None;
    };
    let drawn = Drawn {
        volume_mm3: part.part_mm3 + part.support_mm3,
        surface_mm2: part.surface_mm2,
    };
    let mut scores = candidate.scores;
    let measured = [
        (Score::Hours, request.timing.hours(part.height_mm, drawn)),
        (Score::Pull, alone.peak_pull().1),
        (Score::Islands, alone.islands.len() as f64),
        (Score::Overhang, alone.overhang_mm2),
        (Score::SupportResin, part.support_mm3 / 1000.0),
        (Score::CleanUp, part.minutes),
        (Score::FineContacts, part.fine_contacts as f64),
    ];
    for (score, value) in measured {
        scores.0[score as usize] = value;
    }
    Some(Candidate {
        scores,
        height_mm: part.height_mm,
        contacts: part.contacts,
        best_in: Vec::new(),
        ..*candidate
    })
}
