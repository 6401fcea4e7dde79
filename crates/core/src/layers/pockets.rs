//! Pockets of air: suction cups, open toward the film and closed toward the plate, and sealed
//! cavities. The plate is at the lowest point, layers grow toward the film; the part stands off
//! the plate, so what is open at the bottom is open to the resin.

use super::regions::Regions;
use crate::union_find::find;

/// How a suction cup ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub enum CupEnd {
    /// Resin gets in from the side or from below.
    Vented,
    /// The film side closes: from here on it is a sealed cavity.
    Roofed,
    /// The part ends, open toward the film.
    Open,
}

/// A pocket that is open toward the film and closed everywhere else while it is printed.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Cup {
    /// Its deepest point above the lowest point of the part, mm.
    pub from_mm: f64,
    /// Where it ends, mm.
    pub to_mm: f64,
    /// The largest section it shuts in, mm².
    pub area_mm2: f64,
    /// Its volume, mm³.
    pub volume_mm3: f64,
    /// How it ends.
    pub end: CupEnd,
}

/// Smaller pockets are between sampling and harmless.
const LEAST_AREA_MM2: f64 = 2.0;
const LEAST_DEPTH_MM: f64 = 0.75;
const LEAST_CAVITY_MM3: f64 = 0.3;

#[derive(Debug, Clone, Copy, Default)]
struct Pocket {
    outside: bool,
    born: usize,
    volume: f64,
    largest: f64,
    /// Section in the layer of this number.
    now: f64,
    seen: usize,
}

/// Follows the air from layer to layer.
#[derive(Debug, Default)]
pub(super) struct PocketWatch {
    pockets: Vec<Pocket>,
    root: Vec<u32>,
    of_region: Vec<u32>,
    cups: Vec<Cup>,
    sealed_mm3: f64,
}

impl PocketWatch {
    fn find(&mut self, i: u32) -> u32 {
        find(&mut self.root, i)
    }

    /// Takes in the air of a layer; `pairs` are (region here, region below), sorted.
    pub(super) fn layer(&mut self, k: usize, here: &Regions, pairs: &[(u32, u32)], layer_mm: f64) {
        let mut of_region: Vec<u32> = Vec::with_capacity(here.regions.len());
        let mut next = 0;
        for (index, region) in here.regions.iter().enumerate() {
            let mut mine: Option<u32> = None;
            while let Some((_, below)) = pairs.get(next).filter(|(r, _)| *r as usize == index) {
                let other = self.find(self.of_region[*below as usize]);
                mine = Some(match mine {
                    None => other,
                    Some(mine) if mine == other => mine,
                    Some(mine) => self.merge(mine, other, k, layer_mm),
                });
                next += 1;
            }
            let pocket = mine.unwrap_or_else(|| {
                self.pockets.push(Pocket {
                    born: k,
                    ..Pocket::default()
                });
                self.root.push(self.root.len() as u32);
                self.root.len() as u32 - 1
            });
            if (region.at_edge || k == 0) && !self.pockets[pocket as usize].outside {
                self.vent(pocket, k, layer_mm);
            }
            of_region.push(pocket);
        }
        for (pocket, region) in of_region.iter_mut().zip(&here.regions) {
            *pocket = self.find(*pocket);
            let pocket = &mut self.pockets[*pocket as usize];
            if pocket.seen != k {
                pocket.now = 0.0;
            }
            pocket.seen = k;
            pocket.now += region.area;
            pocket.volume += region.area * layer_mm;
            pocket.largest = pocket.largest.max(pocket.now);
        }
        self.close(k, &of_region, layer_mm);
        self.of_region = of_region;
    }

    /// Resin gets into the pocket that a region of the layer just taken in belongs to.
    pub(super) fn is_open(&mut self, region: usize) -> bool {
        let pocket = self.find(self.of_region[region]);
        self.pockets[pocket as usize].outside
    }

    /// Pockets of the layer before that do not go on are roofed over.
    fn close(&mut self, k: usize, now: &[u32], layer_mm: f64) {
        let mut before = std::mem::take(&mut self.of_region);
        before.sort_unstable();
        before.dedup();
        for old in before {
            let root = self.find(old);
            let pocket = self.pockets[root as usize];
            if !pocket.outside && pocket.seen + 1 == k && !now.contains(&root) {
                self.tell(pocket, k, CupEnd::Roofed, layer_mm);
                if pocket.volume >= LEAST_CAVITY_MM3 {
                    self.sealed_mm3 += pocket.volume;
                }
                // Told once.
                self.pockets[root as usize].outside = true;
            }
        }
    }

    fn vent(&mut self, pocket: u32, k: usize, layer_mm: f64) {
        let was = self.pockets[pocket as usize];
        self.tell(was, k, CupEnd::Vented, layer_mm);
        self.pockets[pocket as usize].outside = true;
    }

    fn merge(&mut self, a: u32, b: u32, k: usize, layer_mm: f64) -> u32 {
        let (p, q) = (self.pockets[a as usize], self.pockets[b as usize]);
        match (p.outside, q.outside) {
            (true, false) => self.vent(b, k, layer_mm),
            (false, true) => self.vent(a, k, layer_mm),
            _ => {}
        }
        let merged = Pocket {
            outside: p.outside || q.outside,
            born: p.born.min(q.born),
            volume: p.volume + q.volume,
            largest: p.largest.max(q.largest),
            now: 0.0,
            seen: p.seen.max(q.seen),
        };
        let (keep, gone) = (a.min(b), a.max(b));
        self.root[gone as usize] = keep;
        self.pockets[keep as usize] = merged;
        keep
    }

    fn tell(&mut self, pocket: Pocket, k: usize, end: CupEnd, layer_mm: f64) {
        let (from, to) = (pocket.born as f64 * layer_mm, k as f64 * layer_mm);
        if pocket.largest >= LEAST_AREA_MM2 && to - from >= LEAST_DEPTH_MM {
            self.cups.push(Cup {
                from_mm: from,
                to_mm: to,
                area_mm2: pocket.largest,
                volume_mm3: pocket.volume,
                end,
            });
        }
    }

    /// The cups, and the volume of sealed cavities in mm³.
    pub(super) fn end(mut self, layers: usize, layer_mm: f64) -> (Vec<Cup>, f64) {
        let mut last = std::mem::take(&mut self.of_region);
        for pocket in &mut last {
            *pocket = self.find(*pocket);
        }
        last.sort_unstable();
        last.dedup();
        for pocket in last {
            let pocket = self.pockets[pocket as usize];
            if !pocket.outside {
                self.tell(pocket, layers, CupEnd::Open, layer_mm);
            }
        }
        (self.cups, self.sealed_mm3)
    }
}
