//! How a part hangs: how far it leans from the way its file stands, and to which side.

use std::str::FromStr;

use glam::{DMat3, DVec3};

/// An orientation up to turning about the vertical, which the plate plan decides.
///
/// # Units
/// Degrees. `toward_deg` is where the top leans: 0 to the right (+x), 90 to the back (+y).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pose {
    tilt_deg: f64,
    toward_deg: f64,
}

/// Where the back is: figures face −y.
pub const BACK_DEG: f64 = 90.0;

/// A pose that cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("'{0}' is no orientation: write a tilt from 0 to 180° and a direction")]
pub struct PoseError(String);

impl Pose {
    /// As the file stands.
    pub const AS_IMPORTED: Self = Self {
        tilt_deg: 0.0,
        toward_deg: 0.0,
    };

    /// A lean by some degrees to some side, to a tenth of a degree so that equal ones are equal.
    #[must_use]
    pub fn new(tilt_deg: f64, toward_deg: f64) -> Self {
        let tenth = |x: f64| (x * 10.0).round() / 10.0;
        let (tilt, toward) = if tilt_deg < 0.0 {
            (-tilt_deg, toward_deg + 180.0)
        } else {
            (tilt_deg, toward_deg)
        };
        let tilt = tenth(tilt.min(180.0));
        let toward = tenth(toward.rem_euclid(360.0)).rem_euclid(360.0);
        if tilt == 0.0 {
            Self::AS_IMPORTED
        } else {
            Self {
                tilt_deg: tilt,
                toward_deg: toward,
            }
        }
    }

    /// The pose in which a direction of the file points up.
    #[must_use]
    pub fn with_up(up: [f64; 3]) -> Self {
        // Turning the file by the tilt toward d brings to the top what pointed away from d.
        let length = (up[0] * up[0] + up[1] * up[1] + up[2] * up[2]).sqrt();
        if length == 0.0 {
            return Self::AS_IMPORTED;
        }
        let tilt = (up[2] / length).clamp(-1.0, 1.0).acos().to_degrees();
        Self::new(tilt, up[1].atan2(up[0]).to_degrees() + 180.0)
    }

    /// How far it leans, degrees.
    #[must_use]
    pub fn tilt_deg(self) -> f64 {
        self.tilt_deg
    }

    /// Where its top leans, degrees.
    #[must_use]
    pub fn toward_deg(self) -> f64 {
        self.toward_deg
    }

    /// The rotation about the horizontal axis across the lean.
    #[must_use]
    pub fn matrix(self) -> DMat3 {
        if self.tilt_deg == 0.0 {
            return DMat3::IDENTITY;
        }
        let (sin, cos) = self.toward_deg.to_radians().sin_cos();
        DMat3::from_axis_angle(DVec3::new(-sin, cos, 0.0), self.tilt_deg.to_radians())
    }

    /// A point of the file as it hangs.
    #[must_use]
    pub fn turn(self, at: [f64; 3]) -> [f64; 3] {
        (self.matrix() * DVec3::from_array(at)).to_array()
    }

    /// The angle between two poses' verticals, degrees.
    #[must_use]
    pub fn apart_deg(self, other: Self) -> f64 {
        let up = |p: Self| p.matrix().transpose() * DVec3::Z;
        up(self).dot(up(other)).clamp(-1.0, 1.0).acos().to_degrees()
    }

    /// In a maker's words.
    #[must_use]
    pub fn words(self) -> String {
        if self.tilt_deg == 0.0 {
            return "as the file stands".into();
        }
        if self.tilt_deg == 180.0 {
            return "head down".into();
        }
        const SIDES: [&str; 8] = [
            "to the right",
            "back and right",
            "back",
            "back and left",
            "to the left",
            "forward and left",
            "forward",
            "forward and right",
        ];
        let side = (self.toward_deg / 45.0).round() as usize % 8;
        format!("{}° {}", self.tilt_deg, SIDES[side])
    }
}

impl std::fmt::Display for Pose {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        if self.tilt_deg == 0.0 {
            f.write_str("as imported")
        } else {
            write!(f, "tilt {} toward {}", self.tilt_deg, self.toward_deg)
        }
    }
}

impl FromStr for Pose {
    type Err = PoseError;
    fn from_str(text: &str) -> Result<Self, PoseError> {
        if text == "as imported" {
            return Ok(Self::AS_IMPORTED);
        }
        let bad = || PoseError(text.to_owned());
        let rest = text.strip_prefix("tilt ").ok_or_else(bad)?;
        let (tilt, toward) = rest.split_once(" toward ").ok_or_else(bad)?;
        let number = |t: &str| t.parse::<f64>().ok().filter(|n| n.is_finite());
        match (number(tilt), number(toward)) {
            (Some(tilt), Some(toward)) if (0.0..=180.0).contains(&tilt) => {
                Ok(Self::new(tilt, toward))
            }
            _ => Err(bad()),
        }
    }
}

impl TryFrom<String> for Pose {
    type Error = PoseError;
    fn try_from(text: String) -> Result<Self, PoseError> {
        text.parse()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case::back(Pose::new(90.0, BACK_DEG), [0.0, 1.0, 0.0])]
    #[case::to_the_right(Pose::new(90.0, 0.0), [1.0, 0.0, 0.0])]
    #[case::head_down(Pose::new(180.0, 0.0), [0.0, 0.0, -1.0])]
    #[case::a_little_back(Pose::new(30.0, BACK_DEG), [0.0, 0.5, 0.75f64.sqrt()])]
    fn the_top_leans_where_it_says(#[case] pose: Pose, #[case] top: [f64; 3]) {
        let turned = pose.turn([0.0, 0.0, 1.0]);
        for k in 0..3 {
            assert!((turned[k] - top[k]).abs() < 1e-9, "{turned:?}");
        }
    }

    #[rstest]
    #[case("as imported", "as the file stands")]
    #[case("tilt 7.5 toward 90", "7.5° back")]
    #[case("tilt 180 toward 0", "head down")]
    #[case("tilt 35 toward 318", "35° forward and right")]
    fn poses_are_told_in_words(#[case] text: &str, #[case] says: &str) {
        let pose: Pose = text.parse().expect("a pose");
        assert_eq!(
            (pose.to_string().as_str(), pose.words().as_str()),
            (text, says)
        );
    }

    #[rstest]
    #[case("")]
    #[case("tilt 200 toward 3")]
    #[case("tilt NaN toward 3")]
    #[case("sideways")]
    fn what_is_no_pose_is_refused(#[case] text: &str) {
        assert!(text.parse::<Pose>().is_err());
    }

    proptest! {
        #[test]
        fn a_pose_survives_being_written(tilt in 0.0f64..180.0, toward in -400.0f64..800.0) {
            let pose = Pose::new(tilt, toward);
            prop_assert_eq!(pose.to_string().parse::<Pose>(), Ok(pose));
        }

        /// Turning is rigid and keeps the hand.
        #[test]
        fn turning_keeps_lengths_and_the_hand(tilt in 0.0f64..180.0, toward in 0.0f64..360.0) {
            let m = Pose::new(tilt, toward).matrix();
            prop_assert!((m.determinant() - 1.0).abs() < 1e-9);
            prop_assert!((m * m.transpose() - DMat3::IDENTITY).to_cols_array().iter().all(|x| x.abs() < 1e-9));
        }

        #[test]
        fn what_should_be_up_is_up(x in -1.0f64..1.0, y in -1.0f64..1.0, z in -1.0f64..1.0) {
            let length = (x * x + y * y + z * z).sqrt();
            prop_assume!(length > 0.1);
            let top = Pose::with_up([x, y, z]).turn([x, y, z]);
            prop_assert!((top[2] / length - 1.0).abs() < 1e-5, "{:?}", top);
        }
    }
}
