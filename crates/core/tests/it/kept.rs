//! Nouns of many numbers as text: what is written is read again as it was, to the micrometre.

use proptest::prelude::*;
use rstest::rstest;
use wembrit_core::geometry::Outline;
use wembrit_core::layers::{HeightProfile, Loads, ProfileBand};
use wembrit_core::recipe::SetupDrawing;

fn mm() -> impl Strategy<Value = f64> {
    // Whole micrometres, as they are kept.
    (-400_000i32..400_000).prop_map(|um| f64::from(um) / 1000.0)
}

fn points(range: std::ops::Range<usize>) -> impl Strategy<Value = Vec<[f64; 2]>> {
    prop::collection::vec([mm(), mm()], range)
}

proptest! {
    #[test]
    fn an_outline_is_read_as_it_was_written(corners in points(3..80)) {
        if let Ok(outline) = Outline::try_new(corners) {
            prop_assert_eq!(outline.to_string().parse::<Outline>().unwrap(), outline);
        }
    }

    #[test]
    fn a_height_profile_is_read_as_it_was_written(
        bands in prop::collection::vec((mm(), mm(), prop::collection::vec(mm(), 0..36)), 0..12)
    ) {
        let band = |(from_mm, to_mm, reach_mm)| ProfileBand { from_mm, to_mm, reach_mm };
        let profile = HeightProfile(bands.into_iter().map(band).collect());
        prop_assert_eq!(profile.to_string().parse::<HeightProfile>().unwrap(), profile);
    }

    #[test]
    fn loads_are_read_as_they_were_written(
        pull in prop::collection::vec(mm(), 0..200),
        area_mm2 in prop::collection::vec(mm(), 0..200),
    ) {
        let loads = Loads { pull, area_mm2 };
        prop_assert_eq!(loads.to_string().parse::<Loads>().unwrap(), loads);
    }

    #[test]
    fn a_drawing_is_read_as_it_was_written(
        picture_mm in [mm(), mm(), mm(), mm()],
        columns in prop::collection::vec(points(0..6), 0..9),
        raft_mm in prop::option::of([mm(), mm()]),
        riskiest in points(0..4),
    ) {
        let drawing = SetupDrawing { picture_mm, columns, raft_mm, riskiest };
        prop_assert_eq!(drawing.to_string().parse::<SetupDrawing>().unwrap(), drawing);
    }

    /// What is finer than a micrometre is rounded, nothing else.
    #[test]
    fn rounding_costs_half_a_micrometre_at_most(corners in prop::collection::vec([-90.0..90.0f64, -90.0..90.0], 3..20)) {
        if let Ok(outline) = Outline::try_new(corners) {
            let back: Outline = outline.to_string().parse().unwrap();
            for (was, is) in outline.corners().iter().zip(back.corners()) {
                prop_assert!((0..2).all(|k| (was[k] - is[k]).abs() <= 0.000_501), "{was:?} {is:?}");
            }
        }
    }
}

#[rstest]
#[case::nothing("")]
#[case::cut_off("[[0,0],[1,0")]
#[case::a_word("[[0,0],[1,0],[0,\"one\"]]")]
#[case::three_numbers("[[0,0,0],[1,0,0],[0,1,0]]")]
#[case::no_number("[[0,0],[1,0],[0,null]]")]
#[case::without_area("[[0,0],[1,1],[2,2]]")]
#[case::too_few("[[0,0],[1,1]]")]
fn text_that_is_no_outline_is_refused(#[case] text: &str) {
    let error = text.parse::<Outline>().expect_err("it is none").to_string();
    assert!(error.starts_with("its numbers cannot be read: "), "{error}");
}
