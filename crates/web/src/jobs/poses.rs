//! Poses of a sculpt are looked for and compared.

use wembrit_core::mesh::{ReadError, Solid, read_watched};
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::orient::{
    FineZone, OrientRequest, Origin, PoseTiming, Subject, base_under, find_poses, settle_poses,
};
use wembrit_core::sculpt::Sculpt;
use wembrit_core::sculpt::picture::{Side, draw_side};
use wembrit_core::watch::{Share, Silent, Watch};
use wembrit_core::workshop::first_fit;
use wembrit_paper::write_png;
use wembrit_store::queries::pages::workshop as pages;
use wembrit_store::queries::poses::PoseQuestion;
use wembrit_store::queries::{sculpts, zones};
use wembrit_store::{StoreError, commands};

use super::End;
use crate::state::App;

/// Poses of a sculpt, compared.
pub(super) fn run(
    app: &App,
    sculpt: &Sculpt,
    question: &PoseQuestion,
    key: &str,
    watch: &dyn Watch,
) -> Result<End, StoreError> {
    let (bytes, zones, workshop) = app.store.read(|c| {
        let bytes = sculpts::bytes(c, sculpt.id)?;
        Ok((bytes, zones::of_sculpt(c, sculpt.id)?, pages::load(c)?))
    })?;
    let scale = sculpt.unit_mm * question.scale;
    let mesh = match read_watched(&bytes, &sculpt.file_name, watch) {
        Ok(mesh) => mesh.scaled(scale),
        Err(ReadError::Stopped) => return Ok(End::Stopped),
        Err(error) => return Ok(End::Failed(error.to_string())),
    };
    drop(bytes);
    let zones = zones.into_iter().map(|(_, z)| FineZone {
        at_mm: z.at_mm.map(|c| c * scale),
        radius_mm: z.radius_mm * scale,
    });
    let timing = PoseTiming::of(
        first_fit(
            &workshop.printers,
            &workshop.settings,
            question.resin,
            question.layer,
        ),
        question.layer,
    );
    let request = OrientRequest {
        layer: question.layer,
        style: question.style,
        timing,
        zones: zones.collect(),
    };
    let solid = Solid::new(&mesh);
    let found = find_poses(&Subject::new(&solid, &request), &Share(watch, 0.0, 0.5))
        .and_then(|found| settle_poses(&mesh, found, &request, &Share(watch, 0.5, 0.45)));
    let Some(mut found) = found else {
        return Ok(End::Stopped);
    };
    let mut with_base = None;
    if question.base_mm > 0.0 {
        let joined = mesh.with(&base_under(&mesh, question.base_mm));
        let whole = Solid::new(&joined);
        let pose = Pose::new(10.0, BACK_DEG);
        let look = Subject::new(&whole, &request).judge(pose, Origin::BaseJoined);
        match settle_poses(&joined, vec![look], &request, &Silent(watch)) {
            Some(settled) => found.extend(settled),
            None => return Ok(End::Stopped),
        }
        with_base = Some(joined);
    }
    let mut drawn = Vec::new();
    for candidate in found {
        let shown = match (&with_base, candidate.origin) {
            (Some(joined), Origin::BaseJoined) => joined,
            _ => &mesh,
        };
        let picture = draw_side(&shown.posed(candidate.pose, 1.0), Side::Front);
        drawn.push((candidate, write_png(&picture).unwrap_or_default()));
    }
    app.store
        .write(|c| commands::poses::set(c, sculpt.id, key, &drawn))?;
    Ok(End::Done)
}
