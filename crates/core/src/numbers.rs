//! Nouns of many numbers as the text they are kept as, in JSON. They read and write themselves
//! here in core, so that both are compiled with the computation: a plate has thousands of numbers.

use std::fmt;

use serde::{Serialize, de::DeserializeOwned};

/// Text that does not hold the numbers it should.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("its numbers cannot be read: {0}")]
pub struct NotNumbers(pub(crate) String);

pub(crate) fn read<T: DeserializeOwned>(text: &str) -> Result<T, NotNumbers> {
    serde_json::from_str(text).map_err(|e| NotNumbers(e.to_string()))
}

pub(crate) fn write(numbers: &impl Serialize, f: &mut fmt::Formatter<'_>) -> fmt::Result {
    f.write_str(&serde_json::to_string(numbers).map_err(|_| fmt::Error)?)
}

/// To the micrometre: no measurement is finer, and the text is shorter.
pub(crate) fn to_um(mm: f64) -> f64 {
    (mm * 1000.0).round() / 1000.0
}

/// A noun that is its text where a column of a data file is read.
macro_rules! from_text {
    ($noun:ty) => {
        impl TryFrom<String> for $noun {
            type Error = $crate::numbers::NotNumbers;
            fn try_from(text: String) -> Result<Self, Self::Error> {
                text.parse()
            }
        }
    };
}
pub(crate) use from_text;

/// Sum over copies of what each does in every slab above the plate.
#[must_use]
pub fn sum_over_slabs(of: &[(&[f64], u64)]) -> Vec<f64> {
    let slabs = of.iter().map(|(values, _)| values.len()).max().unwrap_or(0);
    (0..slabs)
        .map(|slab| {
            of.iter()
                .map(|(values, n)| values.get(slab).copied().unwrap_or(0.0) * *n as f64)
                .sum()
        })
        .collect()
}
