//! What a model still lacks, and on which plates it is.

use std::collections::BTreeMap;

use crate::army::ArmyModel;
use crate::flow::Stage;
use crate::ids::{PartId, PlateId};

/// Copies of a part on a plate that is not judged yet.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OnPlate {
    /// Which one.
    pub plate: PlateId,
    /// Its number.
    pub number: i64,
    /// Copies of the part on it.
    pub copies: u32,
    /// When it comes off, ms since 1970, where that is known.
    pub off_ms: Option<i64>,
    /// It is on its printer.
    pub runs: bool,
    /// It is off its printer: the copies are in finishing.
    pub in_finishing: bool,
}

/// Copies that are off by a moment without any plate that waits: in finishing, or on plates that run.
#[must_use]
pub fn coming(on: &BTreeMap<PartId, Vec<OnPlate>>, by_ms: i64) -> BTreeMap<PartId, u32> {
    let comes = |o: &&OnPlate| o.in_finishing || (o.runs && o.off_ms.is_some_and(|ms| ms <= by_ms));
    let of = |(part, all): (&PartId, &Vec<OnPlate>)| {
        (*part, all.iter().filter(comes).map(|o| o.copies).sum())
    };
    on.iter().map(of).collect()
}

/// What is missing of one part, so that every model is complete.
#[derive(Debug, Clone, PartialEq)]
pub struct Lack {
    /// The part.
    pub part: PartId,
    /// Its name.
    pub name: String,
    /// Good copies that are missing.
    pub short: u32,
    /// Models it holds back.
    pub models: u32,
    /// On which plates they are, the first off first.
    pub on: Vec<OnPlate>,
    /// Copies that are on no plate.
    pub on_none: u32,
    /// It has no sculpt, or one that is not measured.
    pub no_file: bool,
}

/// What holds a model back, what holds back most first: parts of which good copies are missing. Pieces from elsewhere
/// are told apart, see [`crate::army::Piece`].
#[must_use]
pub fn held_back(model: &ArmyModel, on_plates: &BTreeMap<PartId, Vec<OnPlate>>) -> Vec<Lack> {
    let mut all: Vec<Lack> = model
        .parts
        .iter()
        .filter_map(|p| {
            let required = u32::try_from(p.need.required()).unwrap_or(u32::MAX);
            let short = required.saturating_sub(p.counts.of(Stage::Good));
            if short == 0 {
                return None;
            }
            let mut on = on_plates.get(&p.part.id).cloned().unwrap_or_default();
            // What is off is nearer than what is printing; what has no time comes last.
            on.sort_by_key(|o| (!o.in_finishing, o.off_ms.is_none(), o.off_ms, o.number));
            let under_way: u32 = on.iter().map(|o| o.copies).sum();
            Some(Lack {
                part: p.part.id,
                name: p.part.name.clone(),
                short,
                models: short.div_ceil(p.need.count.max(1)),
                on_none: short.saturating_sub(under_way),
                no_file: p.sculpt.is_none(),
                on,
            })
        })
        .collect();
    all.sort_by(|a, b| b.models.cmp(&a.models).then(b.on_none.cmp(&a.on_none)));
    all
}
