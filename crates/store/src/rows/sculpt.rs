//! Sculpts and what was measured on them.

use diesel::prelude::*;
use wembrit_core::flow::SculptState;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::HeightProfile;
use wembrit_core::sculpt::{Sculpt, SculptFacts, SupportsSaid};
use wembrit_core::units::Money;

use super::kept::Read;
use super::{Row, parsed, read};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::sculpts)]
pub(crate) struct SculptRow {
    id: i64,
    uid: String,
    row_version: i64,
    name: String,
    file_name: String,
    hash: Option<String>,
    bytes: i64,
    #[diesel(deserialize_as = String)]
    state: SculptState,
    refusal: Option<String>,
    unit_mm: f64,
    unit_asked: Option<String>,
    wall_um: i64,
    price_minor: i64,
    #[diesel(deserialize_as = String)]
    supports: SupportsSaid,
}

impl Row for SculptRow {
    type Noun = Sculpt;
    fn noun(self) -> Result<Sculpt, StoreError> {
        Ok(Sculpt {
            id: SculptId(self.id),
            uid: self.uid,
            row_version: self.row_version,
            name: self.name,
            file_name: self.file_name,
            hash: self.hash,
            bytes: self.bytes,
            state: self.state,
            refusal: self.refusal,
            unit_mm: self.unit_mm,
            unit_asked: self.unit_asked,
            wall_mm: self.wall_um as f64 / 1000.0,
            price: Money(self.price_minor),
            supports: self.supports,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::sculpt_facts)]
pub(crate) struct SculptFactsRow {
    sculpt_id: i64,
    measure_version: i64,
    triangles: i64,
    dropped: i64,
    width_mm: f64,
    depth_mm: f64,
    height_mm: f64,
    volume_mm3: f64,
    surface_mm2: f64,
    shells: i64,
    inverted_shells: i64,
    inner_shells: i64,
    open_edge_mm: f64,
    shell_sum_mm3: f64,
    pull_upright: Option<f64>,
    pull_tilted: Option<f64>,
    warnings: String,
    outline: String,
    height_profile: String,
}

pub(super) static OUTLINES: Read<Outline> = Read::new();
pub(super) static PROFILES: Read<HeightProfile> = Read::new();

impl Row for SculptFactsRow {
    type Noun = SculptFacts;
    fn noun(self) -> Result<SculptFacts, StoreError> {
        Ok(SculptFacts {
            sculpt: SculptId(self.sculpt_id),
            measure_version: self.measure_version,
            triangles: self.triangles,
            dropped: self.dropped,
            width_mm: self.width_mm,
            depth_mm: self.depth_mm,
            height_mm: self.height_mm,
            volume_mm3: self.volume_mm3,
            surface_mm2: self.surface_mm2,
            shells: self.shells,
            inverted_shells: self.inverted_shells,
            inner_shells: self.inner_shells,
            open_edge_mm: self.open_edge_mm,
            shell_sum_mm3: self.shell_sum_mm3,
            pull_upright: self.pull_upright,
            pull_tilted: self.pull_tilted,
            warnings: read(&self.warnings)?,
            outline: OUTLINES.of(self.outline, parsed)?,
            profile: PROFILES.of(self.height_profile, parsed)?,
            undrained_mm3: 0.0,
        })
    }
}
