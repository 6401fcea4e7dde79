//! What the layers of a sculpt tell, parts as their recipes print them, poses compared.

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::{
    Cup, CupEnd, Island, Loads, Neck, Raised, StackFigures, Thickness, Thin,
};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::orient::{Candidate, Origin, Score, Scores};
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::{HeldFigures, KeptPart, PartSetup, PreparedPart, Setup, SetupDrawing};
use wembrit_core::sculpt::LayerFacts;
use wembrit_core::units::LayerHeight;

use super::kept::Read;
use super::sculpt::{OUTLINES, PROFILES};
use super::{Row, count, parsed, read, written};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::layer_facts)]
pub(crate) struct LayerFactsRow {
    sculpt_id: i64,
    scale: f64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pose: Pose,
    layers: i64,
    pitch_mm: f64,
    volume_mm3: f64,
    largest_section_mm2: f64,
    overhang_mm2: f64,
    thickness: String,
    tips_at_deg: f64,
    sealed_mm3: f64,
    peak_pull: f64,
    peak_pull_at_mm: f64,
    support_columns: i64,
    raised: Option<String>,
    islands: String,
    cups: String,
    area_curve: String,
}

/// Points kept of a curve at most; of each stretch its largest value.
const CURVE_POINTS: usize = 400;

type IslandRow = (f64, f64, f64, [f64; 2], Option<f64>);
type CupRow = (f64, f64, f64, f64, String);

fn island((z_mm, area_mm2, grown_mm2, at_mm, joins_mm): IslandRow) -> Island {
    Island {
        z_mm,
        area_mm2,
        grown_mm2,
        at_mm,
        joins_mm,
    }
}

fn cup((from_mm, to_mm, area_mm2, volume_mm3, end): CupRow) -> Result<Cup, StoreError> {
    let end = match end.as_str() {
        "vented" => CupEnd::Vented,
        "roofed" => CupEnd::Roofed,
        "open" => CupEnd::Open,
        other => return Err(StoreError::BadRow(format!("a cup that ends '{other}'"))),
    };
    Ok(Cup {
        from_mm,
        to_mm,
        area_mm2,
        volume_mm3,
        end,
    })
}

impl Row for LayerFactsRow {
    type Noun = LayerFacts;
    fn noun(self) -> Result<LayerFacts, StoreError> {
        let islands: Vec<IslandRow> = read(&self.islands)?;
        let cups: Vec<CupRow> = read(&self.cups)?;
        Ok(LayerFacts {
            sculpt: SculptId(self.sculpt_id),
            scale: self.scale,
            layer: self.layer,
            pose: self.pose,
            layers: self.layers,
            pitch_mm: self.pitch_mm,
            volume_mm3: self.volume_mm3,
            largest_section_mm2: self.largest_section_mm2,
            overhang_mm2: self.overhang_mm2,
            thickness: read(&self.thickness).map(thickness)?,
            tips_at_deg: self.tips_at_deg,
            sealed_mm3: self.sealed_mm3,
            peak_pull: self.peak_pull,
            peak_pull_at_mm: self.peak_pull_at_mm,
            support_columns: self.support_columns,
            raised: self.raised.as_deref().map(read).transpose()?.map(raised),
            islands: islands.into_iter().map(island).collect(),
            cups: cups.into_iter().map(cup).collect::<Result<_, _>>()?,
            area_curve: CURVES.of(self.area_curve, read)?,
        })
    }
}

/// Where it begins, its width and depth.
type RaisedRow = (f64, [f64; 2]);

fn raised((from_mm, foot_mm): RaisedRow) -> Raised {
    Raised { from_mm, foot_mm }
}

pub(crate) fn raised_text(stack: &StackFigures) -> Option<String> {
    let row = |r: Raised| -> RaisedRow { (r.from_mm, r.foot_mm) };
    stack.raised.map(|r| written(&row(r)))
}

/// Thinnest wall or rod: how thick, where; the same of the neck, and what hangs on it.
type ThicknessRow = (Option<(f64, [f64; 3])>, Option<(f64, [f64; 3], f64)>);

fn thickness((thinnest, neck): ThicknessRow) -> Thickness {
    Thickness {
        thinnest: thinnest.map(|(mm, at_mm)| Thin { mm, at_mm }),
        neck: neck.map(|(mm, at_mm, hangs_mm3)| Neck {
            thin: Thin { mm, at_mm },
            hangs_mm3,
        }),
    }
}

pub(crate) fn thickness_text(of: &Thickness) -> String {
    let row: ThicknessRow = (
        of.thinnest.map(|t| (t.mm, t.at_mm)),
        of.neck.map(|n| (n.thin.mm, n.thin.at_mm, n.hangs_mm3)),
    );
    written(&row)
}

pub(crate) fn islands_text(stack: &StackFigures) -> String {
    let row = |i: &Island| -> IslandRow { (i.z_mm, i.area_mm2, i.grown_mm2, i.at_mm, i.joins_mm) };
    written(&stack.islands.iter().map(row).collect::<Vec<_>>())
}

pub(crate) fn cups_text(stack: &StackFigures) -> String {
    let row = |c: &Cup| -> CupRow {
        let end = match c.end {
            CupEnd::Vented => "vented",
            CupEnd::Roofed => "roofed",
            CupEnd::Open => "open",
        };
        (c.from_mm, c.to_mm, c.area_mm2, c.volume_mm3, end.to_owned())
    };
    written(&stack.cups.iter().map(row).collect::<Vec<_>>())
}

pub(crate) fn curve_text(values: &[f64]) -> String {
    let step = values.len().div_ceil(CURVE_POINTS).max(1);
    let largest = |some: &[f64]| some.iter().copied().fold(0.0, f64::max);
    written(
        &values
            .chunks(step)
            .map(|s| (largest(s) * 100.0).round() / 100.0)
            .collect::<Vec<f64>>(),
    )
}

static DRAWINGS: Read<SetupDrawing> = Read::new();
static LOADS: Read<Loads> = Read::new();
static CURVES: Read<Vec<f64>> = Read::new();

/// A part as it hangs, without its outlines and drawings.
#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::prepared_parts)]
pub(crate) struct HeldRow {
    id: i64,
    sculpt_id: i64,
    unit_mm: f64,
    scale: f64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pose: Pose,
    #[diesel(deserialize_as = String)]
    supports: Supports,
    height_mm: f64,
    part_mm3: f64,
    support_mm3: f64,
    contacts: i64,
    starts_left: i64,
    peak_pull: f64,
    measure_version: i64,
}

impl Row for HeldRow {
    type Noun = HeldFigures;
    fn noun(self) -> Result<HeldFigures, StoreError> {
        Ok(HeldFigures {
            id: self.id,
            setup: PartSetup {
                sculpt: SculptId(self.sculpt_id),
                unit_mm: self.unit_mm,
                scale: self.scale,
                layer: self.layer,
                setup: Setup {
                    pose: self.pose,
                    supports: self.supports,
                },
            },
            measure_version: self.measure_version,
            height_mm: self.height_mm,
            part_mm3: self.part_mm3,
            support_mm3: self.support_mm3,
            contacts: count(self.contacts) as usize,
            starts_left: count(self.starts_left) as usize,
            peak_pull: self.peak_pull,
        })
    }
}

/// A part as it hangs, with everything.
#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::prepared_parts)]
pub(crate) struct PreparedRow {
    #[diesel(embed)]
    held: HeldRow,
    surface_mm2: f64,
    fine_contacts: i64,
    minutes: f64,
    peak_pull_at_mm: f64,
    outline: String,
    height_profile: String,
    drawn: String,
    loads: String,
}

impl Row for PreparedRow {
    type Noun = KeptPart;
    fn noun(self) -> Result<KeptPart, StoreError> {
        let held = self.held.noun()?;
        Ok(KeptPart {
            id: held.id,
            setup: held.setup,
            part: PreparedPart {
                outline: OUTLINES.of(self.outline, parsed)?,
                profile: PROFILES.of(self.height_profile, parsed)?,
                height_mm: held.height_mm,
                part_mm3: held.part_mm3,
                support_mm3: held.support_mm3,
                surface_mm2: self.surface_mm2,
                inside_mm3: 0.0,
                contacts: held.contacts,
                fine_contacts: count(self.fine_contacts) as usize,
                minutes: self.minutes,
                starts_left: held.starts_left,
                peak_pull: (self.peak_pull_at_mm, held.peak_pull),
                loads: LOADS.of(self.loads, parsed)?,
                drawing: DRAWINGS.of(self.drawn, parsed)?,
            },
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::poses)]
pub(crate) struct PoseRow {
    id: i64,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pose: Pose,
    #[diesel(deserialize_as = String)]
    origin: Origin,
    scores: String,
    height_mm: f64,
    contacts: i64,
    best_in: String,
    undominated: i64,
}

/// A pose with its identity, as the search found it.
impl Row for PoseRow {
    type Noun = (i64, Candidate);
    fn noun(self) -> Result<(i64, Candidate), StoreError> {
        let words = self.best_in.split(',').filter(|w| !w.is_empty());
        let best: Result<Vec<Score>, _> = words.map(str::parse).collect();
        let candidate = Candidate {
            pose: self.pose,
            origin: self.origin,
            scores: Scores(read(&self.scores)?),
            height_mm: self.height_mm,
            contacts: count(self.contacts) as usize,
            best_in: best
                .map_err(|e: wembrit_core::words::UnknownWord| StoreError::BadRow(e.to_string()))?,
            undominated: self.undominated != 0,
        };
        Ok((self.id, candidate))
    }
}

pub(crate) fn scores_text(c: &Candidate) -> String {
    written(&c.scores.0)
}

pub(crate) fn best_text(c: &Candidate) -> String {
    let words: Vec<&str> = c.best_in.iter().map(|s| s.as_str()).collect();
    words.join(",")
}
