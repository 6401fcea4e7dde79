//! What a part does to the film, slab by slab above the plate.

use std::fmt;
use std::str::FromStr;

use super::stack::StackFigures;
use crate::numbers::{self, NotNumbers, from_text, to_um};
use crate::units::{LayerHeight, PULL_SLAB_MM};

/// Load of a part on the film in each slab of [`PULL_SLAB_MM`] above the plate: the hardest layer
/// of the slab.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Loads {
    /// Pull, as an index: 1 is a disc of 20 mm.
    pub pull: Vec<f64>,
    /// Section area, mm².
    pub area_mm2: Vec<f64>,
}

impl Loads {
    /// Of the layers of a part that begins somewhat above the plate.
    #[must_use]
    pub fn of(stack: &StackFigures, layer: LayerHeight, lifted_mm: f64) -> Self {
        let by_slab = |values: &[f64]| {
            let slab = |i: usize| {
                let middle = lifted_mm + (i as f64 + 0.5) * layer.mm();
                (middle / PULL_SLAB_MM) as usize
            };
            let mut slabs = vec![0.0_f64; values.len().checked_sub(1).map_or(0, slab) + 1];
            for (i, value) in values.iter().enumerate() {
                slabs[slab(i)] = slabs[slab(i)].max(*value);
            }
            slabs
        };
        Self {
            pull: by_slab(&stack.pull),
            area_mm2: by_slab(&stack.area_mm2),
        }
    }
}

impl fmt::Display for Loads {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let short = |values: &[f64]| values.iter().map(|v| to_um(*v)).collect::<Vec<f64>>();
        numbers::write(&(short(&self.pull), short(&self.area_mm2)), f)
    }
}

impl FromStr for Loads {
    type Err = NotNumbers;
    fn from_str(text: &str) -> Result<Self, NotNumbers> {
        let (pull, area_mm2) = numbers::read(text)?;
        Ok(Self { pull, area_mm2 })
    }
}

from_text!(Loads);
