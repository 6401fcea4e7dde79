//! Scale: one division, and what it breaks.

use crate::geometry::Outline;
use crate::pose::Pose;
use crate::recipe::supports::{RAFT_MM, Supports};
use crate::recipe::{PreparedPart, RecipeVersion};
use crate::sculpt::SculptFacts;
use crate::words::words;
use crate::workshop::{BuildVolume, Printer};

/// A factor as the division it comes from, in mm.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Division {
    /// What it should measure.
    pub wanted_mm: f64,
    /// What it measures in the file.
    pub measured_mm: f64,
}

impl Division {
    /// The factor; nothing where there is nothing to divide by.
    #[must_use]
    pub fn factor(&self) -> Option<f64> {
        let factor = self.wanted_mm / self.measured_mm;
        (self.measured_mm > 0.0 && self.wanted_mm > 0.0 && factor.is_finite()).then_some(factor)
    }
}

/// Rim of a base that stays free around feet, mm: common practice, no source.
pub const RIM_MM: f64 = 1.0;

/// To a base: the side that must shrink most decides, so the whole stands on it. Feet leave a
/// rim, a base of the file's own does not. Ovals may be turned by a quarter.
#[must_use]
pub fn to_base(base_mm: [f64; 2], footprint_mm: [f64; 2], own_base: bool) -> Division {
    let rim = if own_base { 0.0 } else { 2.0 * RIM_MM };
    let wanted = base_mm.map(|b| b - rim);
    let tighter = |foot: [f64; 2]| {
        let of = |k: usize| Division {
            wanted_mm: wanted[k],
            measured_mm: foot[k],
        };
        if of(0).wanted_mm * of(1).measured_mm <= of(1).wanted_mm * of(0).measured_mm {
            of(0)
        } else {
            of(1)
        }
    };
    let (one, other) = (
        tighter(footprint_mm),
        tighter([footprint_mm[1], footprint_mm[0]]),
    );
    if one.factor() >= other.factor() {
        one
    } else {
        other
    }
}

/// Height of the eyes of a standing figure as a share of its height: from memory, artists' eight
/// heads, the eyes at half a head.
pub const EYE_SHARE: f64 = 0.9375;

/// The largest factor at which a part fits, however it is turned about the vertical.
#[must_use]
pub fn largest_factor(outline: &Outline, height_mm: f64, room: &BuildVolume) -> f64 {
    let fits = |degrees: u32| {
        let (low, high) = outline.placed(f64::from(degrees), [0.0, 0.0]).bounds();
        (room.width_mm / (high[0] - low[0])).min(room.depth_mm / (high[1] - low[1]))
    };
    let across = (0..180).map(fits).fold(0.0, f64::max);
    across.min(room.height_mm / height_mm).max(0.0)
}

/// A part at factor 1 as it hangs, without what supports add, and what they lift it by.
#[derive(Debug, Clone, PartialEq)]
pub struct AtOne {
    /// Outline on the plate, mm; with its raft where it was prepared, so a little on the safe side.
    pub outline: Outline,
    /// Height of the part itself, mm.
    pub height_mm: f64,
    /// What supports lift it by, whatever its scale, mm.
    pub lift_mm: f64,
}

impl AtOne {
    /// A part as its recipe holds it: as it was prepared, else its file.
    #[must_use]
    pub fn of(version: &RecipeVersion, kept: Option<&PreparedPart>, facts: &SculptFacts) -> Self {
        let lift_mm = match version.setup.supports {
            Supports::Planned(style) => style.lift_mm + RAFT_MM,
            Supports::None | Supports::InFile | Supports::PrintMesh(_) => 0.0,
        };
        match kept.filter(|_| version.setup.pose != Pose::AS_IMPORTED) {
            Some(part) => {
                let grow = 1.0 / version.scale;
                Self {
                    outline: part.outline.scaled(grow),
                    height_mm: (part.height_mm - lift_mm).max(0.1) * grow,
                    lift_mm,
                }
            }
            None => Self {
                outline: facts.outline.clone(),
                height_mm: facts.height_mm,
                lift_mm,
            },
        }
    }

    /// The largest factor at which it fits a printer, with what removal and supports need.
    #[must_use]
    pub fn largest_factor(&self, printer: &Printer) -> f64 {
        let room = printer.build_volume().above(self.lift_mm);
        largest_factor(&self.outline, self.height_mm, &room)
    }
}

/// Into how many pieces a part must be cut along each of its sides to fit, the side it lies on
/// chosen well; all one when it fits whole.
#[must_use]
pub fn pieces_needed(size_mm: [f64; 3], room: &BuildVolume) -> [u32; 3] {
    let room = [room.width_mm, room.depth_mm, room.height_mm];
    const ORDERS: [[usize; 3]; 6] = [
        [0, 1, 2],
        [1, 0, 2],
        [0, 2, 1],
        [2, 0, 1],
        [1, 2, 0],
        [2, 1, 0],
    ];
    let cut = |order: [usize; 3]| -> [u32; 3] {
        std::array::from_fn(|k| (size_mm[k] / room[order[k]]).ceil().clamp(1.0, 1e6) as u32)
    };
    let many = |c: &[u32; 3]| c.iter().map(|n| u64::from(*n)).product::<u64>();
    ORDERS
        .into_iter()
        .map(cut)
        .min_by_key(many)
        .unwrap_or([1; 3])
}

/// A joint that must stay free, with the gap its designer gave it.
#[derive(Debug, Clone, PartialEq)]
pub struct Joint {
    /// Its name.
    pub name: String,
    /// The gap at the size of the file, mm.
    pub gap_mm: f64,
}

/// Something a factor breaks.
#[derive(Debug, Clone, PartialEq)]
pub enum Breaks {
    /// The thinnest feature is under a pixel of the printer: it is not drawn.
    UnderPixel {
        /// Its width then, mm.
        thin_mm: f64,
        /// The pixel, mm.
        pixel_mm: f64,
    },
    /// The thinnest feature is thinner than the resin survives.
    Fragile {
        /// Its width then, mm.
        thin_mm: f64,
        /// What the resin survives, mm.
        safe_mm: f64,
    },
    /// A joint's gap closes.
    Fuses {
        /// The joint.
        joint: String,
        /// Its gap then, mm.
        gap_mm: f64,
        /// The gap the resin closes, mm.
        fuses_mm: f64,
    },
}

impl std::fmt::Display for Breaks {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Breaks::UnderPixel { thin_mm, pixel_mm } => write!(
                f,
                "The thinnest feature is {thin_mm:.3} mm then, under the printer's pixel of {pixel_mm:.3} mm: it is not drawn."
            ),
            Breaks::Fragile { thin_mm, safe_mm } => write!(
                f,
                "The thinnest feature is {thin_mm:.2} mm then; this resin is safe from {safe_mm:.2} mm."
            ),
            Breaks::Fuses {
                joint,
                gap_mm,
                fuses_mm,
            } => write!(
                f,
                "The gap of {joint} is {gap_mm:.2} mm then; this resin fuses up to {fuses_mm:.2} mm."
            ),
        }
    }
}

/// What a printer and a resin can do.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Limits {
    /// The printer's pixel, mm.
    pub pixel_mm: f64,
    /// Thinnest feature the resin survives, mm.
    pub safe_mm: f64,
    /// Widest gap the resin closes, mm.
    pub fuses_mm: f64,
}

/// What a factor breaks. `thinnest_mm` is measured at the size of the file.
#[must_use]
pub fn what_breaks(
    factor: f64,
    thinnest_mm: Option<f64>,
    joints: &[Joint],
    limits: &Limits,
) -> Vec<Breaks> {
    let mut broken = Vec::new();
    if let Some(thin_mm) = thinnest_mm.map(|t| t * factor) {
        let Limits {
            pixel_mm, safe_mm, ..
        } = *limits;
        if thin_mm < pixel_mm {
            broken.push(Breaks::UnderPixel { thin_mm, pixel_mm });
        } else if thin_mm < safe_mm {
            broken.push(Breaks::Fragile { thin_mm, safe_mm });
        }
    }
    for joint in joints {
        let gap_mm = joint.gap_mm * factor;
        if gap_mm < limits.fuses_mm {
            broken.push(Breaks::Fuses {
                joint: joint.name.clone(),
                gap_mm,
                fuses_mm: limits.fuses_mm,
            });
        }
    }
    broken
}

words! {
    /// What came of printing a sculpt at a scale.
    Outcome, "outcome of a scale" {
        /// It printed, and what should move moves.
        Worked = "worked",
        /// What should move is one piece.
        Fused = "fused",
    }
}

/// What is known of a sculpt on one printer with one resin.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Known {
    /// The smallest scale that worked.
    pub smallest_worked: Option<f64>,
    /// The largest that fused.
    pub largest_fused: Option<f64>,
}

impl Known {
    /// From what was tried.
    #[must_use]
    pub fn of(tried: &[(f64, Outcome)]) -> Self {
        let scales = |outcome| {
            tried
                .iter()
                .filter(move |(_, o)| *o == outcome)
                .map(|(s, _)| *s)
        };
        Self {
            smallest_worked: scales(Outcome::Worked).reduce(f64::min),
            largest_fused: scales(Outcome::Fused).reduce(f64::max),
        }
    }

    /// A warning about a scale, in words.
    #[must_use]
    pub fn warning(&self, scale: f64) -> Option<String> {
        let percent = |s: f64| format!("{:.0} %", s * 100.0);
        match (self.largest_fused, self.smallest_worked) {
            (Some(fused), _) if scale <= fused => {
                Some(format!("It fused at {} here.", percent(fused)))
            }
            (Some(fused), Some(worked)) if scale < worked => Some(format!(
                "Nobody knows here: it fused at {}, the smallest that worked is {}.",
                percent(fused),
                percent(worked)
            )),
            (None, Some(worked)) if scale < worked => Some(format!(
                "Smaller than tried here: the smallest that worked is {}.",
                percent(worked)
            )),
            (Some(fused), None) => Some(format!(
                "It fused at {} here; nothing larger has been tried.",
                percent(fused)
            )),
            _ => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// Worked by hand: 25 / 28.41 = 0.87997; an oval of 60 × 35 over 30 × 20 is held by 35 / 20
    /// and by 60 / 30 = 2: the smaller, 1.75; feet of 20 × 10 on 25 leave a rim: 23 / 20.
    #[rstest]
    #[case::round([25.0, 25.0], [28.41, 28.41], true, 0.879_97)]
    #[case::oval([60.0, 35.0], [30.0, 20.0], true, 1.75)]
    #[case::oval_across([60.0, 35.0], [20.0, 30.0], true, 1.75)]
    #[case::feet([25.0, 25.0], [20.0, 10.0], false, 1.15)]
    fn a_base_is_one_division(
        #[case] base: [f64; 2],
        #[case] foot: [f64; 2],
        #[case] own: bool,
        #[case] factor: f64,
    ) {
        let found = to_base(base, foot, own).factor().expect("a factor");
        assert!((found - factor).abs() < 1e-4, "{found}");
    }

    #[test]
    fn nothing_is_divided_by_nothing() {
        let nothing = Division {
            wanted_mm: 25.0,
            measured_mm: 0.0,
        };
        assert_eq!(nothing.factor(), None);
    }

    fn room(width_mm: f64, depth_mm: f64, height_mm: f64) -> BuildVolume {
        BuildVolume {
            width_mm,
            depth_mm,
            height_mm,
        }
    }

    /// A needle fits a square plate along its diagonal, √2 times its side, less its own width.
    #[test]
    fn a_long_part_is_turned_to_fit() {
        let needle = Outline::rectangle(100.0, 0.1);
        let factor = largest_factor(&needle, 1.0, &room(100.0, 100.0, 500.0));
        assert!((factor - 2f64.sqrt()).abs() < 0.003, "{factor}");
        assert_eq!(
            largest_factor(&needle, 50.0, &room(500.0, 500.0, 25.0)),
            0.5
        );
    }

    #[rstest]
    #[case([100.0, 50.0, 80.0], 1)]
    #[case([250.0, 50.0, 80.0], 2)]
    #[case([190.0, 190.0, 190.0], 8)]
    #[case([90.0, 10.0, 150.0], 1)]
    fn what_fits_nowhere_is_cut(#[case] size: [f64; 3], #[case] pieces: u32) {
        let cut = pieces_needed(size, &room(120.0, 100.0, 160.0));
        assert_eq!(cut.iter().product::<u32>(), pieces, "{cut:?}");
    }

    fn limits() -> Limits {
        Limits {
            pixel_mm: 0.035,
            safe_mm: 0.5,
            fuses_mm: 0.2,
        }
    }

    #[rstest]
    #[case::all_well(1.0, 0)]
    #[case::fragile(0.7, 1)]
    #[case::fuses_too(0.6, 2)]
    #[case::under_a_pixel(0.05, 2)]
    fn a_factor_breaks_what_is_fine(#[case] factor: f64, #[case] many: usize) {
        let joint = Joint {
            name: "the elbow".into(),
            gap_mm: 0.3,
        };
        let broken = what_breaks(factor, Some(0.6), &[joint], &limits());
        assert_eq!(broken.len(), many, "{broken:?}");
        assert_eq!(
            broken
                .iter()
                .any(|b| matches!(b, Breaks::UnderPixel { .. })),
            factor < 0.058
        );
    }

    #[rstest]
    #[case(&[], 0.5, None)]
    #[case(&[(0.8, Outcome::Worked), (0.9, Outcome::Worked)], 0.85, None)]
    #[case(&[(0.8, Outcome::Worked)], 0.7, Some("Smaller than tried"))]
    #[case(&[(0.8, Outcome::Worked), (0.5, Outcome::Fused)], 0.6, Some("Nobody knows"))]
    #[case(&[(0.8, Outcome::Worked), (0.5, Outcome::Fused)], 0.4, Some("It fused at 50 %"))]
    #[case(&[(0.5, Outcome::Fused)], 0.9, Some("nothing larger"))]
    fn between_what_fused_and_what_worked_there_is_a_warning(
        #[case] tried: &[(f64, Outcome)],
        #[case] scale: f64,
        #[case] says: Option<&str>,
    ) {
        let warning = Known::of(tried).warning(scale);
        match says {
            None => assert_eq!(warning, None),
            Some(words) => assert!(warning.expect("a warning").contains(words)),
        }
    }

    proptest! {
        /// At the largest factor the part fits turned somehow, and no side sticks out.
        #[test]
        fn the_largest_factor_fits(w in 1.0f64..80.0, d in 1.0f64..80.0, h in 1.0f64..80.0) {
            let room = room(100.0, 60.0, 120.0);
            let factor = largest_factor(&Outline::rectangle(w, d), h, &room);
            prop_assert!(h * factor <= room.height_mm + 1e-9);
            prop_assert!(w * d * factor * factor <= room.width_mm * room.depth_mm + 1e-6);
        }
    }
}
