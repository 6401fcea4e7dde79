//! Supports as they are planned: how thick, how close, how high; what they take.

mod holding;
mod plan;
mod shape;

pub use holding::{CameOff, Holding, HoldingLimit};
pub use plan::{Column, SupportPlan, plan_supports};

use std::str::FromStr;

use crate::ids::PrintMeshId;

/// Where the supports of a recipe come from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Supports {
    /// None: it stands on the plate.
    None,
    /// The file brings its own.
    InFile,
    /// Planned here: an estimate.
    Planned(SupportStyle),
    /// Measured on a mesh the maker supported elsewhere.
    PrintMesh(PrintMeshId),
}

/// Supports that cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("'{0}' names no supports")]
pub struct SupportsError(String);

impl std::fmt::Display for Supports {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Supports::None => f.write_str("none"),
            Supports::InFile => f.write_str("in the file"),
            Supports::Planned(s) => {
                write!(f, "planned {} {} {}", s.tip_mm, s.spacing_mm, s.lift_mm)
            }
            Supports::PrintMesh(id) => write!(f, "print mesh {id}"),
        }
    }
}

impl FromStr for Supports {
    type Err = SupportsError;
    fn from_str(text: &str) -> Result<Self, SupportsError> {
        let bad = || SupportsError(text.to_owned());
        match text {
            "none" => return Ok(Supports::None),
            "in the file" => return Ok(Supports::InFile),
            _ => {}
        }
        if let Some(id) = text.strip_prefix("print mesh ") {
            return id.parse().map(Supports::PrintMesh).map_err(|_| bad());
        }
        let numbers = text.strip_prefix("planned ").ok_or_else(bad)?;
        let numbers: Vec<f64> = numbers
            .split(' ')
            .map(|n| n.parse().map_err(|_| bad()))
            .collect::<Result<_, _>>()?;
        let [tip_mm, spacing_mm, lift_mm] = numbers[..] else {
            return Err(bad());
        };
        SupportStyle::checked(tip_mm, spacing_mm, lift_mm)
            .map(Supports::Planned)
            .ok_or_else(bad)
    }
}

impl TryFrom<String> for Supports {
    type Error = SupportsError;
    fn try_from(text: String) -> Result<Self, SupportsError> {
        text.parse()
    }
}

impl Supports {
    /// In a maker's words.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Supports::None => "no supports".into(),
            Supports::InFile => "supports of the file".into(),
            Supports::Planned(s) => format!(
                "supports planned: tips of {} mm, {} mm apart, lifted {} mm",
                s.tip_mm, s.spacing_mm, s.lift_mm
            ),
            Supports::PrintMesh(_) => "supports measured on the print mesh".into(),
        }
    }

    /// The style contacts are planned with, or would be.
    #[must_use]
    pub fn style(&self) -> SupportStyle {
        match self {
            Supports::Planned(style) => *style,
            _ => SupportStyle::USUAL,
        }
    }
}

/// How supports are planned.
///
/// # Units
/// mm.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SupportStyle {
    /// Diameter of a tip where it touches the part.
    pub tip_mm: f64,
    /// Distance of contacts on an overhang.
    pub spacing_mm: f64,
    /// How far the lowest point of the part hangs off the raft.
    pub lift_mm: f64,
}

impl SupportStyle {
    /// Tips of half a millimetre: common practice for miniatures, no source.
    pub const USUAL: Self = Self {
        tip_mm: 0.5,
        spacing_mm: 3.0,
        lift_mm: 5.0,
    };

    /// A style a maker may ask for: tips of 0.1 to 3 mm, 0.8 to 30 mm apart, lifted by at most
    /// 50 mm.
    #[must_use]
    pub fn checked(tip_mm: f64, spacing_mm: f64, lift_mm: f64) -> Option<Self> {
        let fits = (0.1..=3.0).contains(&tip_mm)
            && (0.8..=30.0).contains(&spacing_mm)
            && (0.0..=50.0).contains(&lift_mm);
        fits.then_some(Self {
            tip_mm,
            spacing_mm,
            lift_mm,
        })
    }

    /// Diameter of a column, mm: some times its tip, never under a millimetre (common practice,
    /// no source).
    #[must_use]
    pub fn column_mm(&self) -> f64 {
        (2.0 * self.tip_mm + 0.2).max(1.0)
    }

    /// Volume of a column of this length with its tip, mm³.
    #[must_use]
    pub fn column_mm3(&self, length_mm: f64) -> f64 {
        let (r, t) = (self.column_mm() / 2.0, self.tip_mm / 2.0);
        let cone = TIP_LENGTH_MM.min(length_mm);
        std::f64::consts::PI * (r * r * (length_mm - cone) + cone * (r * r + r * t + t * t) / 3.0)
    }
}

/// Length of the cone at the end of a column, mm.
pub const TIP_LENGTH_MM: f64 = 1.5;
/// Thickness of the raft, mm.
pub const RAFT_MM: f64 = 0.8;
/// How far the raft reaches around the feet of the columns, mm.
pub const RAFT_RIM_MM: f64 = 1.5;

/// Minutes to cut a part free and smooth its marks: common practice, no source (half a minute to
/// begin with, six seconds for a contact, half as much again where it is marked fine).
#[must_use]
pub fn clean_up_minutes(contacts: usize, fine: usize) -> f64 {
    if contacts == 0 {
        0.0
    } else {
        0.5 + 0.1 * contacts as f64 + 0.05 * fine as f64
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("none", Some("no supports"))]
    #[case("in the file", Some("supports of the file"))]
    #[case(
        "planned 0.4 2.5 6",
        Some("supports planned: tips of 0.4 mm, 2.5 mm apart, lifted 6 mm")
    )]
    #[case("print mesh 12", Some("supports measured on the print mesh"))]
    #[case("planned 0 2.5 6", None)]
    #[case("planned 0.4 2.5", None)]
    #[case("planned NaN 2 5", None)]
    #[case("glue", None)]
    fn supports_survive_being_written(#[case] text: &str, #[case] says: Option<&str>) {
        let read = text.parse::<Supports>().ok();
        assert_eq!(read.map(|s| s.words()).as_deref(), says);
        if let Some(read) = read {
            assert_eq!(read.to_string(), text);
        }
    }

    /// Worked by hand: a column of 1.2 mm and 11.5 mm, of which 1.5 mm taper to 0.5 mm:
    /// π·0.36·10 + π·1.5·(0.36 + 0.15 + 0.0625)/3 = 12.209 mm³.
    #[test]
    fn a_column_is_a_cylinder_and_a_cone() {
        assert!((SupportStyle::USUAL.column_mm3(11.5) - 12.209).abs() < 0.001);
    }

    #[rstest]
    #[case(0, 0, 0.0)]
    #[case(20, 0, 2.5)]
    #[case(20, 4, 2.7)]
    fn minutes_follow_the_contacts(#[case] contacts: usize, #[case] fine: usize, #[case] min: f64) {
        assert!((clean_up_minutes(contacts, fine) - min).abs() < 1e-9);
    }
}
