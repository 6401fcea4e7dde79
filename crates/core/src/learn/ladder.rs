//! How deep resin cures, by how long it is exposed.

use super::LearnError;
use super::through::Through;

/// Shortest exposure that is taken, s.
pub const SHORTEST_S: f64 = 0.05;
/// Longest exposure that is taken, s.
pub const LONGEST_S: f64 = 600.0;

/// A step of a measured ladder.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LadderPoint {
    /// How long it was exposed, s.
    pub exposure_s: f64,
    /// How thick it came out, mm.
    pub depth_mm: f64,
}

/// Reads lines of exposure, s, and depth, mm, as somebody measured them.
///
/// # Errors
/// The first line that is none, in words.
pub fn read_ladder(text: &str) -> Result<Vec<LadderPoint>, String> {
    let mut steps = Vec::new();
    for line in text.lines().map(str::trim).filter(|l| !l.is_empty()) {
        // Decimal commas are taken where something else parts the two.
        let parted = [";", "\t", ", ", " "]
            .into_iter()
            .find(|p| line.contains(p));
        let mut cells = line.split(parted.unwrap_or(",")).map(str::trim);
        let mut number = |least: f64, most: f64| {
            let cell = cells.next()?.replace(',', ".");
            let number = cell.parse::<f64>().ok();
            number.filter(|n| (least..=most).contains(n))
        };
        let step = number(SHORTEST_S, LONGEST_S).zip(number(0.001, 5.0));
        let step = step.filter(|_| cells.next().is_none());
        let Some((exposure_s, depth_mm)) = step else {
            return Err(format!(
                "'{line}' is no exposure and thickness: write it as 1.5, 0.11"
            ));
        };
        steps.push(LadderPoint {
            exposure_s,
            depth_mm,
        });
    }
    if steps.is_empty() {
        return Err("nothing was measured: a line for each exposure, such as 1.5, 0.11".into());
    }
    Ok(steps)
}

/// The working curve of a resin under a lamp: depth = Dp · ln(exposure / threshold)
/// (P. F. Jacobs, Rapid Prototyping & Manufacturing, 1992, from memory).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ladder {
    /// Depth of penetration, mm: deeper by this for 2.7 times the exposure.
    pub dp_mm: f64,
    /// It may be less, at nine of ten,
    pub dp_low_mm: f64,
    /// or more.
    pub dp_high_mm: f64,
    /// Nothing cures before this, s.
    pub threshold_s: f64,
}

/// Steps a ladder has at least.
const LEAST: usize = 4;
/// How sure the range of a ladder is.
const LEVEL: f64 = 0.9;
/// Depths of penetration between which resins for screens lie, mm (common practice, no source).
const USUAL_DP_MM: [f64; 2] = [0.05, 0.2];

impl Ladder {
    /// The curve through the steps of a ladder, by least squares over the logarithm of the exposure.
    ///
    /// # Errors
    /// [`LearnError`] for fewer than four steps, one exposure only, or depths that do not rise.
    pub fn fit(points: &[LadderPoint]) -> Result<Self, LearnError> {
        let sensible = |v: f64| v.is_finite() && v > 0.0 && v < 1e6;
        if points.iter().any(|p| !sensible(p.exposure_s)) {
            return Err(LearnError::NoNumber("an exposure"));
        }
        if points.iter().any(|p| !sensible(p.depth_mm)) {
            return Err(LearnError::NoNumber("a depth"));
        }
        if points.len() < LEAST {
            return Err(LearnError::TooFew {
                found: points.len(),
                least: LEAST,
            });
        }
        let points = points.iter().map(|p| [p.exposure_s.ln(), p.depth_mm]);
        let points: Vec<[f64; 2]> = points.collect();
        let line = Through::points(&points).ok_or(LearnError::OnePlace)?;
        if line.slope <= 0.0 {
            return Err(LearnError::NotRising);
        }
        let around = line.around_slope(LEVEL);
        Ok(Self {
            dp_mm: line.slope,
            dp_low_mm: line.slope - around,
            dp_high_mm: line.slope + around,
            threshold_s: (-line.intercept / line.slope).exp(),
        })
    }

    /// The exposure for another layer height, s, where one for this height is known.
    #[must_use]
    pub fn exposure_s(&self, exposure_s: f64, from_mm: f64, to_mm: f64) -> f64 {
        curved(exposure_s, from_mm, to_mm, self.dp_mm)
    }
}

/// As deep below the layer as before: t₂ = t₁ · exp((h₂ − h₁) / Dp).
fn curved(exposure_s: f64, from_mm: f64, to_mm: f64, dp_mm: f64) -> f64 {
    exposure_s * ((to_mm - from_mm) / dp_mm).exp()
}

/// Between which exposures the one for another layer height lies, s, where nothing is measured: to
/// be tested next.
#[must_use]
pub fn other_layer(exposure_s: f64, from_mm: f64, to_mm: f64) -> [f64; 2] {
    let [a, b] = USUAL_DP_MM.map(|dp| curved(exposure_s, from_mm, to_mm, dp));
    [a.min(b), a.max(b)]
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("1.5, 0.11\n\n2 0.13", Some([[1.5, 0.11], [2.0, 0.13]]))]
    #[case("1,5; 0,11\n2\t0,13", Some([[1.5, 0.11], [2.0, 0.13]]))]
    #[case("1.5,0.11\n2,0.13", Some([[1.5, 0.11], [2.0, 0.13]]))]
    #[case("1, 2, 3", None)]
    #[case("1.5 NaN", None)]
    #[case("900 0.1", None)]
    #[case(" ", None)]
    fn measured_depths_are_lines(#[case] text: &str, #[case] known: Option<[[f64; 2]; 2]>) {
        let found = read_ladder(text).ok().map(|all| {
            let pairs = all.iter().map(|p| [p.exposure_s, p.depth_mm]);
            pairs.collect::<Vec<_>>()
        });
        assert_eq!(found, known.map(|k| k.to_vec()));
    }
}
