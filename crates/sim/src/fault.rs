//! What goes wrong with printers, on request or by a seed.

use serde::{Deserialize, Serialize};

/// A fault.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Fault {
    /// It neither hears nor answers for some seconds of the clock.
    LostLink,
    /// It hears, does what it is told, and its answers are lost, for some seconds of the clock.
    LostAnswers,
    /// It is without power for some seconds of the clock; what it printed does not go on by itself.
    PowerCut,
    /// Its vat is empty.
    ResinEmpty,
    /// Nothing holds on its plate: from here on it prints into the vat, and does not know.
    NothingOnPlate,
    /// What it prints sticks to the film, layer for layer, and it does not know.
    StuckToFilm,
    /// It gets cold.
    ColdRoom,
    /// A byte of every file in its memory turns into another.
    WrongFile,
}

impl Fault {
    /// All of them.
    pub const ALL: [Self; 8] = [
        Self::LostLink,
        Self::LostAnswers,
        Self::PowerCut,
        Self::ResinEmpty,
        Self::NothingOnPlate,
        Self::StuckToFilm,
        Self::ColdRoom,
        Self::WrongFile,
    ];
}

/// A fault that waits for its layer.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct AtLayer {
    /// After so many layers are done; at once where nothing is said.
    #[serde(default)]
    pub layer: u32,
    /// What.
    pub fault: Fault,
    /// For how long it does not answer or has no power, s of the clock.
    #[serde(default = "AtLayer::usual_seconds")]
    pub seconds: f64,
}

impl AtLayer {
    fn usual_seconds() -> f64 {
        5.0
    }

    /// What a seed says of a job with so many layers: one job in three has a fault, always the same for the same seed
    /// and number.
    #[must_use]
    pub fn by_seed(seed: u64, number: u64, layers: u32) -> Option<Self> {
        let text = format!("{seed} {number}");
        let bytes = *blake3::hash(text.as_bytes()).as_bytes();
        let share =
            |at: usize| f64::from(u16::from_le_bytes([bytes[at], bytes[at + 1]])) / 65_536.0;
        if share(0) >= 1.0 / 3.0 {
            return None;
        }
        let fault = Fault::ALL[(share(2) * Fault::ALL.len() as f64) as usize];
        Some(Self {
            layer: (share(4) * f64::from(layers)) as u32,
            fault,
            seconds: Self::usual_seconds(),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A third of 3,000 jobs, give or take four standard deviations (26), and every fault among them.
    #[test]
    fn a_seed_strikes_a_third_of_all_jobs() {
        let all: Vec<AtLayer> = (0..3000)
            .filter_map(|n| AtLayer::by_seed(7, n, 800))
            .collect();
        assert!((896..=1104).contains(&all.len()), "{}", all.len());
        for fault in Fault::ALL {
            assert!(all.iter().any(|f| f.fault == fault), "{fault:?}");
        }
        assert!(all.iter().all(|f| f.layer < 800));
        assert_eq!(AtLayer::by_seed(7, 12, 800), AtLayer::by_seed(7, 12, 800));
        assert_ne!(
            (0..50)
                .map(|n| AtLayer::by_seed(7, n, 800))
                .collect::<Vec<_>>(),
            (0..50)
                .map(|n| AtLayer::by_seed(8, n, 800))
                .collect::<Vec<_>>()
        );
    }
}
