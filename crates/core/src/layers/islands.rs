//! Islands: regions with nothing under them in the layer before.

use super::regions::Regions;
use crate::union_find::find;

/// A region that starts in mid-air.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Island {
    /// Height above the lowest point at which it starts, mm.
    pub z_mm: f64,
    /// Area of its first layer, mm².
    pub area_mm2: f64,
    /// Its largest area within a millimetre above, or until it joins something, mm².
    pub grown_mm2: f64,
    /// A point of its first layer, about the middle of the box, mm.
    pub at_mm: [f64; 2],
    /// Height at which it joins something else; nothing when it never does.
    pub joins_mm: Option<f64>,
}

/// Layers an island stays alone at least: what joins sooner is the rounded tip of a slope.
pub(super) const ALONE_LAYERS: usize = 8;
/// Area an island grows to at least, mm²: below it is sampling.
const LEAST_MM2: f64 = 0.3;

#[derive(Debug, Clone, Copy)]
struct Line {
    /// First layer; what stands on the plate began with layer 0.
    born: usize,
    first_area: f64,
    grown: f64,
    at: [f64; 2],
    joined: Option<usize>,
}

/// Follows regions from layer to layer.
#[derive(Debug)]
pub(super) struct IslandWatch {
    /// Layers an island stays alone at least.
    alone: usize,
    lines: Vec<Line>,
    root: Vec<u32>,
    /// Line of every region of the layer before.
    of_region: Vec<u32>,
}

impl Default for IslandWatch {
    fn default() -> Self {
        Self::lasting(ALONE_LAYERS)
    }
}

impl IslandWatch {
    /// Tells islands that stay alone for some layers at least.
    pub(super) fn lasting(layers: usize) -> Self {
        Self {
            alone: layers,
            lines: Vec::new(),
            root: Vec::new(),
            of_region: Vec::new(),
        }
    }

    fn find(&mut self, i: u32) -> u32 {
        find(&mut self.root, i)
    }

    /// Takes in a layer; `pairs` are (region here, region below), sorted.
    pub(super) fn layer(
        &mut self,
        k: usize,
        here: &Regions,
        pairs: &[(u32, u32)],
        layers_per_mm: usize,
    ) {
        let mut of_region = Vec::with_capacity(here.regions.len());
        let mut next = 0;
        for (index, region) in here.regions.iter().enumerate() {
            let mut mine: Option<u32> = None;
            while let Some((_, below)) = pairs.get(next).filter(|(r, _)| *r as usize == index) {
                let other = self.find(self.of_region[*below as usize]);
                mine = Some(match mine {
                    None => other,
                    Some(mine) if mine == other => mine,
                    Some(mine) => self.merge(mine, other, k),
                });
                next += 1;
            }
            let line = mine.unwrap_or_else(|| {
                self.lines.push(Line {
                    born: k,
                    first_area: region.area,
                    grown: 0.0,
                    at: region.longest.1,
                    joined: None,
                });
                self.root.push(self.root.len() as u32);
                self.root.len() as u32 - 1
            });
            of_region.push(line);
        }
        let mut areas = Vec::with_capacity(of_region.len());
        for (line, region) in of_region.iter().zip(&here.regions) {
            areas.push((self.find(*line), region.area));
        }
        areas.sort_unstable_by_key(|(line, _)| *line);
        for group in areas.chunk_by(|a, b| a.0 == b.0) {
            let line = &mut self.lines[group[0].0 as usize];
            if k <= line.born + layers_per_mm {
                line.grown = line.grown.max(group.iter().map(|(_, area)| area).sum());
            }
        }
        self.of_region = of_region;
    }

    /// The elder of two lines goes on; the younger has joined it.
    fn merge(&mut self, a: u32, b: u32, k: usize) -> u32 {
        let (elder, younger) = if self.lines[a as usize].born <= self.lines[b as usize].born {
            (a, b)
        } else {
            (b, a)
        };
        self.lines[younger as usize].joined.get_or_insert(k);
        self.root[younger as usize] = elder;
        elder
    }

    /// The islands worth telling, lowest first.
    pub(super) fn end(self, layers: usize, layer_mm: f64) -> Vec<Island> {
        let found = self.lines.iter().filter(|l| {
            let alone = l.joined.unwrap_or(layers) - l.born;
            l.born > 0 && alone >= self.alone && l.grown >= LEAST_MM2
        });
        let at = |k: usize| k as f64 * layer_mm;
        found
            .map(|l| Island {
                z_mm: at(l.born),
                area_mm2: l.first_area,
                grown_mm2: l.grown,
                at_mm: l.at,
                joins_mm: l.joined.map(at),
            })
            .collect()
    }
}
