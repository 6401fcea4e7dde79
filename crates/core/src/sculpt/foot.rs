//! What a figure stands on.

use super::facts::{LayerFacts, Sculpt, SculptFacts};
use super::slab::slab_under;
use super::supported::brings_supports;
use crate::layers::HeightProfile;

/// What a figure stands on, or would without the supports of its file.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Foot {
    /// Width and depth, mm.
    pub size_mm: [f64; 2],
    /// Height of the slab it brings, mm; nothing where it stands on its own feet.
    pub slab_mm: Option<f64>,
    /// From there to the top, mm.
    pub height_mm: f64,
}

impl Foot {
    /// All of a file, for one whose figure cannot be told from its supports.
    #[must_use]
    pub fn all_of(facts: &SculptFacts) -> Self {
        Self {
            size_mm: [facts.width_mm, facts.depth_mm],
            slab_mm: None,
            height_mm: facts.height_mm,
        }
    }

    /// Of a file as it stands, at its own size: above the columns and the raft where it brings supports.
    /// Nothing for a file whose figure could not be told from them, or whose layers are not measured.
    #[must_use]
    pub fn of(sculpt: &Sculpt, facts: &SculptFacts, layers: Option<&LayerFacts>) -> Option<Self> {
        if brings_supports(sculpt, layers).is_none() {
            let size_mm = footprint_mm(&facts.profile)?;
            let slab_mm = layers.and_then(|l| slab_under(&l.area_curve, facts.height_mm, size_mm));
            return Some(Self {
                size_mm,
                slab_mm,
                height_mm: facts.height_mm,
            });
        }
        let layers = layers?;
        let raised = layers.raised?;
        let share = raised.from_mm / facts.height_mm;
        let below = (share * layers.area_curve.len() as f64).ceil() as usize;
        let above = layers.area_curve.get(below..).unwrap_or_default();
        let height_mm = facts.height_mm - raised.from_mm;
        Some(Self {
            size_mm: raised.foot_mm,
            slab_mm: slab_under(above, height_mm, raised.foot_mm),
            height_mm,
        })
    }
}

/// Width and depth of what stands on the ground, mm: the widest of the lowest fifth, three
/// millimetres at most, so that a chamfered edge does not count for the base.
fn footprint_mm(reach: &HeightProfile) -> Option<[f64; 2]> {
    let top = reach.0.last()?.to_mm;
    let low = reach
        .0
        .iter()
        .take_while(|b| b.from_mm < (top * 0.2).min(3.0));
    let across = low.filter_map(|b| {
        let span = |deg: f64| b.span_mm(deg).map(|(from, to)| to - from);
        Some([span(0.0)?, span(90.0)?])
    });
    across.reduce(|a, b| [a[0].max(b[0]), a[1].max(b[1])])
}
