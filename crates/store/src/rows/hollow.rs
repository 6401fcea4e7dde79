//! Hollows of a file, and what hollowing it would do.

use diesel::prelude::*;
use wembrit_core::layers::{Drain, Hollow, Hollowing, WayOut};
use wembrit_core::sculpt::HollowFacts;

use super::{Row, read, written};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::hollow_facts)]
pub(crate) struct HollowRow {
    wall_um: i64,
    saved_mm3: f64,
    uncertain_mm3: f64,
    pitch_mm: f64,
    pockets: i64,
    drains_needed: i64,
    drains: String,
    trapped_mm3: f64,
    left_hanging_mm3: f64,
    left_standing_mm3: f64,
    hollows: String,
}

type KeptWay = ([f64; 3], f64);
type KeptHollow = (f64, Vec<KeptWay>, f64, f64);
type KeptDrain = ([f64; 3], bool);

impl Row for HollowRow {
    type Noun = HollowFacts;
    fn noun(self) -> Result<HollowFacts, StoreError> {
        let drains: Vec<KeptDrain> = read(&self.drains)?;
        let hollows: Vec<KeptHollow> = read(&self.hollows)?;
        let way = |(at_mm, wide_mm): KeptWay| WayOut { at_mm, wide_mm };
        let hollow = |(volume_mm3, ways, from_mm, to_mm): KeptHollow| Hollow {
            volume_mm3,
            ways_out: ways.into_iter().map(way).collect(),
            from_mm,
            to_mm,
        };
        Ok(HollowFacts {
            wall_mm: self.wall_um as f64 / 1000.0,
            saved_mm3: self.saved_mm3,
            uncertain_mm3: self.uncertain_mm3,
            pitch_mm: self.pitch_mm,
            pockets: self.pockets,
            drains_needed: self.drains_needed,
            drains: drains
                .into_iter()
                .map(|(at_mm, hidden)| Drain { at_mm, hidden })
                .collect(),
            trapped_mm3: self.trapped_mm3,
            left_hanging_mm3: self.left_hanging_mm3,
            left_standing_mm3: self.left_standing_mm3,
            hollows: hollows.into_iter().map(hollow).collect(),
        })
    }
}

pub(crate) fn drains_text(of: &Hollowing) -> String {
    let kept = |d: &Drain| -> KeptDrain { (d.at_mm, d.hidden) };
    written(&of.drains.iter().map(kept).collect::<Vec<_>>())
}

pub(crate) fn hollows_text(of: &[Hollow]) -> String {
    let way = |w: &WayOut| -> KeptWay { (w.at_mm, w.wide_mm) };
    let kept = |h: &Hollow| -> KeptHollow {
        let ways = h.ways_out.iter().map(way).collect();
        (h.volume_mm3, ways, h.from_mm, h.to_mm)
    };
    written(&of.iter().map(kept).collect::<Vec<_>>())
}
