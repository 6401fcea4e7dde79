//! A plate under the maker's hands: moves, turns, pins, what goes to the pool and comes from it,
//! each looked at before it holds.

use std::collections::BTreeMap;

use crate::flow::PlacedCopy;
use crate::geometry::{Point, Quarter};
use crate::ids::{PartId, UnitId};
use crate::numbers::sum_over_slabs;
use crate::pack::{
    BuildArea, Item, PackFault, PackJob, PackSearch, PackedPlate, Packing, Placement, Wishes,
    check_packing, in_the_way,
};
use crate::plan::PlanPart;
use crate::plan::figures::build_area;
use crate::watch::Unwatched;
use crate::workshop::{Printer, ProcessSetting};

/// What the maker does.
#[derive(Debug, Clone, PartialEq)]
pub enum Change {
    /// Puts a copy elsewhere, turned as said.
    Move {
        /// Which copy.
        key: i64,
        /// Where to, mm.
        at_mm: Point,
        /// Its turn, degrees.
        rotation_deg: f64,
    },
    /// Pins copies, or frees them.
    Pin {
        /// Which copies.
        keys: Vec<i64>,
        /// Pinned from now on.
        pinned: bool,
    },
    /// Takes copies off the plate, into the pool.
    Remove {
        /// Which copies.
        keys: Vec<i64>,
    },
    /// Puts copies from the pool where there is room.
    Add {
        /// Which part.
        part: PartId,
        /// How many.
        copies: u64,
    },
    /// Arranges everything anew around what is pinned.
    Repack,
}

/// Why a change does not hold.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Blocked {
    /// The copy is not on this plate.
    #[error("that copy is not on this plate any more: load the page again")]
    NotThere,
    /// A pinned copy is not moved.
    #[error("it is pinned: free it first")]
    Pinned,
    /// It would reach over the margin.
    #[error("it would reach over the margin")]
    Outside,
    /// Others stand there, or nearer than the clearance.
    #[error("{} in the way", if .0.len() == 1 { "one copy is".to_owned() } else { format!("{} copies are", .0.len()) })]
    InTheWay(Vec<i64>),
    /// The printer may not take it: too tall, or it pulls too hard.
    #[error("{0}")]
    Limit(String),
    /// Fewer are in the pool than are asked for.
    #[error("the pool has not so many of them")]
    NotInPool,
    /// There is no room for it.
    #[error("there is no room for it between the others: repack, or take something off")]
    NoRoom,
    /// Another arrangement of the same copies was not found.
    #[error("no arrangement was found that holds them all: nothing was changed")]
    NoArrangement,
}

/// What a plate is looked at with.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateLayout {
    /// Its printer.
    pub build_area: BuildArea,
    /// Free space between two copies, mm.
    pub clearance_mm: f64,
    /// The parts on it and in the pool.
    pub parts: BTreeMap<PartId, PlanPart>,
    /// Copies of the plan that stand on no plate.
    pub pool: BTreeMap<PartId, u64>,
    /// Most copies of a unit on one plate; of none where units may stay together.
    pub unit_most: BTreeMap<UnitId, u64>,
    /// The quarter that slender parts are kept out of.
    pub kept_clear: Option<Quarter>,
}

impl PlateLayout {
    /// With a printer, and the parts that stand on its plate; nothing in the pool.
    #[must_use]
    pub fn new(
        printer: &Printer,
        setting: &ProcessSetting,
        clearance_mm: f64,
        parts: impl IntoIterator<Item = PlanPart>,
    ) -> Self {
        Self {
            build_area: build_area(printer, setting, 0.0),
            clearance_mm,
            parts: parts.into_iter().map(|p| (p.id, p)).collect(),
            pool: BTreeMap::new(),
            unit_most: BTreeMap::new(),
            kept_clear: printer.kept_clear,
        }
    }

    /// The plate after a change; the pool is what is not on a plate and follows by itself.
    ///
    /// # Errors
    /// [`Blocked`], and nothing is changed.
    pub fn change(
        &self,
        placed: &[PlacedCopy],
        change: &Change,
    ) -> Result<Vec<PlacedCopy>, Blocked> {
        let of = |key: i64| {
            let found = placed.iter().position(|p| p.key == key);
            found.ok_or(Blocked::NotThere)
        };
        let mut after = placed.to_vec();
        match change {
            Change::Move {
                key,
                at_mm,
                rotation_deg,
            } => {
                let index = of(*key)?;
                if placed[index].pinned {
                    return Err(Blocked::Pinned);
                }
                let moved = &mut after[index];
                moved.at_mm = *at_mm;
                moved.rotation_deg = rotation_deg.rem_euclid(360.0);
                self.stands(&after, index)?;
            }
            Change::Pin { keys, pinned } => {
                for key in keys {
                    after[of(*key)?].pinned = *pinned;
                }
            }
            Change::Remove { keys } => {
                for key in keys {
                    if placed[of(*key)?].pinned {
                        return Err(Blocked::Pinned);
                    }
                }
                after.retain(|p| !keys.contains(&p.key));
            }
            Change::Add { part, copies } => {
                if self.pool.get(part).copied().unwrap_or(0) < *copies || *copies == 0 {
                    return Err(Blocked::NotInPool);
                }
                self.limits(&after, *part, *copies)?;
                let all_pinned: Vec<PlacedCopy> = placed
                    .iter()
                    .map(|p| PlacedCopy { pinned: true, ..*p })
                    .collect();
                let more = BTreeMap::from([(*part, *copies)]);
                let around = self.around(&all_pinned, &more, PackSearch { seed: 1, steps: 4 });
                after = around.ok_or(Blocked::NoRoom)?;
                for copy in &mut after {
                    copy.pinned = placed.iter().any(|p| p.key == copy.key && p.pinned);
                }
            }
            Change::Repack => {
                let mut free: BTreeMap<PartId, u64> = BTreeMap::new();
                for copy in placed.iter().filter(|p| !p.pinned) {
                    *free.entry(copy.part).or_default() += 1;
                }
                let kept: Vec<PlacedCopy> = placed.iter().filter(|p| p.pinned).copied().collect();
                let arranged = self
                    .around(&kept, &free, PackSearch { seed: 1, steps: 24 })
                    .ok_or(Blocked::NoArrangement)?;
                after = self.cleared(&rekeyed(placed, &arranged));
            }
        }
        Ok(after)
    }

    /// How many more copies of a part find room between the others, at most so many.
    #[must_use]
    pub fn room_for(&self, placed: &[PlacedCopy], part: PartId, most: u64) -> u64 {
        let pinned: Vec<PlacedCopy> = placed
            .iter()
            .map(|p| PlacedCopy { pinned: true, ..*p })
            .collect();
        let fits = |n: &u64| {
            let more = BTreeMap::from([(part, *n)]);
            let search = PackSearch { seed: 1, steps: 2 };
            self.limits(placed, part, *n).is_ok() && self.around(&pinned, &more, search).is_some()
        };
        // From one upward: on a full plate the first answer is the last.
        (1..=most).take_while(fits).last().unwrap_or(0)
    }

    /// Faults of a plate, by the independent judge of packings.
    #[must_use]
    pub fn faults(&self, placed: &[PlacedCopy]) -> Vec<PackFault> {
        let (job, order) = self.job(placed, &BTreeMap::new());
        let packing = Packing {
            plates: vec![packed(placed, &order)],
            left_over: Vec::new(),
        };
        check_packing(&job, &packing)
    }

    /// A copy stands inside the margin and clear of the others.
    pub(super) fn stands(&self, placed: &[PlacedCopy], index: usize) -> Result<(), Blocked> {
        let outline = |p: &PlacedCopy| {
            let part = self.parts.get(&p.part)?;
            Some(part.outline.placed(p.rotation_deg, p.at_mm))
        };
        let shape = outline(&placed[index]).ok_or(Blocked::NotThere)?;
        let (low, high) = shape.bounds();
        let rim = self.build_area.margin_mm - 1e-6;
        let sides = [self.build_area.width_mm, self.build_area.depth_mm];
        if (0..2).any(|k| low[k] < rim || high[k] > sides[k] - rim) {
            return Err(Blocked::Outside);
        }
        let others: Vec<(i64, crate::geometry::Outline)> = placed
            .iter()
            .enumerate()
            .filter(|(i, _)| *i != index)
            .filter_map(|(_, p)| Some((p.key, outline(p)?)))
            .collect();
        let shapes: Vec<&crate::geometry::Outline> = others.iter().map(|o| &o.1).collect();
        let blocked = in_the_way(&shape, &shapes, self.clearance_mm);
        if blocked.is_empty() {
            Ok(())
        } else {
            Err(Blocked::InTheWay(
                blocked.into_iter().map(|i| others[i].0).collect(),
            ))
        }
    }

    /// The printer may take so many more copies.
    fn limits(&self, placed: &[PlacedCopy], part: PartId, copies: u64) -> Result<(), Blocked> {
        let new = self.parts.get(&part).ok_or(Blocked::NotThere)?;
        if new.height_mm > self.build_area.height_mm {
            return Err(Blocked::Limit(format!(
                "it is {:.1} mm tall, the printer takes {:.1}",
                new.height_mm, self.build_area.height_mm
            )));
        }
        let hardest = new.pull.iter().copied().fold(0.0, f64::max);
        if self.build_area.part_pull.is_some_and(|cap| hardest > cap) {
            return Err(Blocked::Limit(format!(
                "it pulls {hardest:.1} discs, one part may pull {:.1}",
                self.build_area.part_pull.unwrap_or(0.0)
            )));
        }
        if let Some(most) = self.unit_most.get(&new.unit) {
            let same =
                |p: &&PlacedCopy| self.parts.get(&p.part).is_some_and(|p| p.unit == new.unit);
            let here = placed.iter().filter(same).count() as u64;
            if here + copies > *most {
                return Err(Blocked::Limit(format!(
                    "the practice puts half of a unit on a plate at most: of this one {most}, and {here} stand here"
                )));
            }
        }
        if let Some(cap) = self.build_area.plate_pull {
            let on_it = placed.iter().filter_map(|p| self.parts.get(&p.part));
            let pulls: Vec<(&[f64], u64)> = on_it
                .map(|p| (p.pull.as_slice(), 1))
                .chain([(new.pull.as_slice(), copies)])
                .collect();
            let peak = peak_of(&sum_over_slabs(&pulls)).1;
            if peak > cap + 1e-9 {
                return Err(Blocked::Limit(format!(
                    "the plate would pull {peak:.1} discs, it may pull {cap:.1}"
                )));
            }
        }
        Ok(())
    }

    fn job(&self, kept: &[PlacedCopy], more: &BTreeMap<PartId, u64>) -> (PackJob, Vec<PartId>) {
        let mut copies: BTreeMap<PartId, u64> = more.clone();
        for copy in kept {
            *copies.entry(copy.part).or_default() += 1;
        }
        let known: Vec<(&PlanPart, u64)> = copies
            .iter()
            .filter_map(|(part, n)| Some((self.parts.get(part)?, *n)))
            .collect();
        let order = known.iter().map(|(p, _)| p.id).collect();
        let item = |(part, copies): &(&PlanPart, u64)| Item {
            pull: part.pull.clone(),
            ..Item::new(part.outline.clone(), part.height_mm, *copies)
        };
        let job = PackJob {
            wishes: Wishes::default(),
            build_areas: vec![self.build_area.clone()],
            clearance_mm: self.clearance_mm,
            items: known.iter().map(item).collect(),
        };
        (job, order)
    }

    /// The kept copies where they are and all further ones around them; nothing where not all of
    /// them find room.
    pub(super) fn around(
        &self,
        kept: &[PlacedCopy],
        more: &BTreeMap<PartId, u64>,
        search: PackSearch,
    ) -> Option<Vec<PlacedCopy>> {
        let (job, order) = self.job(kept, more);
        let all: u64 = job.items.iter().map(|i| i.copies).sum();
        let plate = search
            .around(&job, &packed(kept, &order), all, &Unwatched)
            .ok()??;
        let next = kept.iter().map(|p| p.key).max().unwrap_or(0) + 1;
        let mut placed = kept.to_vec();
        for (index, placement) in plate.placements.iter().skip(kept.len()).enumerate() {
            placed.push(PlacedCopy {
                key: next + index as i64,
                part: order[placement.item],
                at_mm: placement.at_mm,
                rotation_deg: placement.rotation_deg,
                pinned: false,
            });
        }
        Some(placed)
    }
}

/// Copies keep their keys when they are arranged anew: each part's keys in their order.
pub(super) fn rekeyed(before: &[PlacedCopy], arranged: &[PlacedCopy]) -> Vec<PlacedCopy> {
    let mut keys: BTreeMap<PartId, Vec<i64>> = BTreeMap::new();
    for copy in before.iter().rev().filter(|p| !p.pinned) {
        keys.entry(copy.part).or_default().push(copy.key);
    }
    let mut after: Vec<PlacedCopy> = Vec::new();
    for copy in arranged {
        let key = if copy.pinned {
            Some(copy.key)
        } else {
            keys.get_mut(&copy.part).and_then(Vec::pop)
        };
        after.push(PlacedCopy {
            key: key.unwrap_or(copy.key),
            ..*copy
        });
    }
    after.sort_by_key(|p| p.key);
    after
}

fn packed(placed: &[PlacedCopy], order: &[PartId]) -> PackedPlate {
    let placement = |p: &PlacedCopy| {
        Some(Placement {
            item: order.iter().position(|id| *id == p.part)?,
            at_mm: p.at_mm,
            rotation_deg: p.rotation_deg,
        })
    };
    PackedPlate {
        build_area: 0,
        placements: placed.iter().filter_map(placement).collect(),
        fixed: false,
    }
}

/// Slab and size of the largest value; the lowest among equals.
#[must_use]
pub fn peak_of(values: &[f64]) -> (usize, f64) {
    let larger = |best: (usize, f64), (slab, value): (usize, &f64)| {
        if *value > best.1 {
            (slab, *value)
        } else {
            best
        }
    };
    values.iter().enumerate().fold((0, 0.0), larger)
}

#[cfg(test)]
#[path = "layout_tests.rs"]
mod layout_tests;
