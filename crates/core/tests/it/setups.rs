//! Parts set up for the plate: tilted cylinders, supports against closed forms, contacts on the surface.

use std::f64::consts::PI;

use glam::DVec3;
use rstest::rstest;
use wembrit_core::layers::{StackFigures, measure_stack, undersides};
use wembrit_core::mesh::{Mesh, Solid, read_mesh};
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::orient::{
    OrientRequest, Origin, PoseTiming, Score, Subject, of_schools, settle_poses,
};
use wembrit_core::recipe::prepare::{PrepareRequest, prepare};
use wembrit_core::recipe::supports::{
    Holding, HoldingLimit, RAFT_MM, SupportPlan, SupportStyle, Supports, plan_supports,
};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::{Unwatched, Watch};

use crate::outside::meshes::file;
use crate::shapes::{Faces, block, cylinder, mesh};

fn stack(solid: &Solid) -> StackFigures {
    measure_stack(solid, LayerHeight::USUAL, 1.0, &Unwatched).expect("nobody stops it")
}

/// A cylinder cut at a slant is an ellipse of half axes r and r/c, c = cos θ: area πr²/c, torsion
/// constant πa³b³/(a²+b²), which over the upright one is 2/(c + c³) (Roark's Formulas for Stress
/// and Strain, table 10.1, from memory).
#[rstest]
#[case(5.0)]
#[case(20.0)]
#[case(45.0)]
fn a_tilted_cylinder_is_longer_in_section_and_pulls_harder(#[case] degrees: f64) {
    let upright = Solid::new(&mesh(&cylinder(3.0, 40.0, [0.0; 3])));
    let tilted = stack(&upright.posed(Pose::new(degrees, BACK_DEG)));
    let c = degrees.to_radians().cos();
    // In the middle the whole ellipse is cut.
    let middle = tilted.area_mm2[tilted.area_mm2.len() / 2];
    assert!((middle / (PI * 9.0 / c) - 1.0).abs() < 0.005, "{middle}");
    let disc = PI * 81.0 / 2.0;
    let pull = tilted.peak_pull().1 * PI * 10_000.0 / 2.0 / disc;
    assert!(
        (pull / (2.0 / (c + c.powi(3))) - 1.0).abs() < 0.01,
        "{pull}"
    );
}

#[test]
fn at_45_degrees_a_cylinder_pulls_1_87_times_as_hard_as_at_5() {
    let upright = Solid::new(&mesh(&cylinder(3.0, 40.0, [0.0; 3])));
    let pull = |d| stack(&upright.posed(Pose::new(d, BACK_DEG))).peak_pull().1;
    assert!((pull(45.0) / pull(5.0) - 1.87).abs() < 0.02);
}

fn plan(part: &Mesh, style: &SupportStyle) -> SupportPlan {
    plan_supports(part, LayerHeight::USUAL, style, &Unwatched).expect("nobody stops it")
}

/// A post with an arm: 6 × 24 mm of underside, 16 mm up.
fn cantilever() -> Faces {
    [
        block([0.0, 0.0, 0.0], [10.0, 10.0, 20.0]),
        block([9.0, 2.0, 16.0], [34.0, 8.0, 20.0]),
    ]
    .concat()
}

/// Every column under the arm is as long as the arm is high; together with the raft they are the
/// resin that the layers measure.
#[test]
fn supports_of_a_cantilever_are_columns_of_its_height() {
    let style = SupportStyle {
        spacing_mm: 4.0,
        ..SupportStyle::USUAL
    };
    let plan = plan(&mesh(&cantilever()), &style);
    let under: Vec<_> = plan
        .columns
        .iter()
        .filter(|c| c.touch.at_mm[0] > 10.5)
        .collect();
    // 144 mm² at 4 mm apart: a row of six in two rows, more or less.
    assert!((9..=16).contains(&under.len()), "{}", under.len());
    let lifted = RAFT_MM + style.lift_mm;
    for c in &under {
        assert!(
            (c.touch.at_mm[2] - (16.0 + lifted)).abs() < 0.1,
            "{:?}",
            c.touch
        );
    }
    let columns: f64 = plan
        .columns
        .iter()
        .map(|c| style.column_mm3(c.touch.at_mm[2] - RAFT_MM))
        .sum();
    // Columns have ten sides: 0.9355 of the circle. Necks lean a little, bends overlap.
    let raft = area(&plan.raft) * RAFT_MM;
    let expected = columns * 0.9355 + raft;
    assert!(
        (plan.support_mm3 / expected - 1.0).abs() < 0.06,
        "measured {}, by hand {expected}",
        plan.support_mm3
    );
}

fn area(corners: &[[f64; 2]]) -> f64 {
    (0..corners.len())
        .map(|i| {
            let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
            a[0] * b[1] - a[1] * b[0]
        })
        .sum::<f64>()
        .abs()
        / 2.0
}

/// Distance from a point to a triangle (C. Ericson, Real-Time Collision Detection, §5.1.5, from
/// memory).
fn to_triangle(p: [f64; 3], [a, b, c]: [[f64; 3]; 3]) -> f64 {
    let [p, a, b, c] = [p, a, b, c].map(DVec3::from_array);
    let on_edge = |from: DVec3, to: DVec3| {
        let along = to - from;
        let share = ((p - from).dot(along) / along.length_squared()).clamp(0.0, 1.0);
        p.distance(from + along * share)
    };
    let n = (b - a).cross(c - a).normalize();
    let over = |from: DVec3, to: DVec3| (to - from).cross(p - from).dot(n) >= 0.0;
    if over(a, b) && over(b, c) && over(c, a) {
        (p - a).dot(n).abs()
    } else {
        on_edge(a, b).min(on_edge(b, c)).min(on_edge(c, a))
    }
}

/// How often a ray straight up from a point leaves a mesh, less how often it enters.
fn winding(faces: &[[[f64; 3]; 3]], at: [f64; 3]) -> i32 {
    let mut sum = 0;
    for [a, b, c] in faces {
        let side = |p: &[f64; 3], q: &[f64; 3]| {
            (q[0] - p[0]) * (at[1] - p[1]) - (q[1] - p[1]) * (at[0] - p[0])
        };
        let (u, v, w) = (side(b, c), side(c, a), side(a, b));
        let all = u + v + w;
        let inside = (u > 0.0 && v > 0.0 && w > 0.0) || (u < 0.0 && v < 0.0 && w < 0.0);
        if inside && (u * a[2] + v * b[2] + w * c[2]) / all > at[2] {
            sum += if all > 0.0 { 1 } else { -1 };
        }
    }
    sum
}

/// An arm over an arm over an arm: the upper ones must be reached around the lower.
fn shelves() -> Faces {
    [
        block([0.0, 0.0, 0.0], [6.0, 12.0, 40.0]),
        block([5.0, 2.0, 10.0], [30.0, 10.0, 13.0]),
        block([5.0, 3.0, 25.0], [24.0, 9.0, 28.0]),
        // A blade that hangs from above and starts in mid-air.
        block([22.0, 5.0, 16.0], [23.0, 6.0, 26.0]),
    ]
    .concat()
}

/// After planning nothing starts in mid-air, every contact is on the surface, and no column runs
/// through the part.
#[rstest]
#[case::shelves_upright(shelves(), Pose::AS_IMPORTED)]
#[case::shelves_back(shelves(), Pose::new(20.0, BACK_DEG))]
#[case::shelves_aside(shelves(), Pose::new(60.0, 20.0))]
#[case::shelves_head_down(shelves(), Pose::new(180.0, 0.0))]
#[case::cantilever(cantilever(), Pose::new(7.5, BACK_DEG))]
fn supports_hold_everything_and_run_through_nothing(#[case] faces: Faces, #[case] pose: Pose) {
    let part = mesh(&faces).posed(pose, 1.0);
    let style = SupportStyle::USUAL;
    let plan = plan(&part, &style);
    let low = part.bounds().0[2];
    let lifted = part.shifted([0.0, 0.0, plan.lifted_mm - low]);
    let all: Vec<[[f64; 3]; 3]> = lifted.faces().collect();
    let whole = stack(&Solid::new(&lifted.with(&plan.mesh)));
    assert_eq!(whole.islands, [], "something starts in mid-air");
    assert!(!plan.columns.is_empty());
    for column in &plan.columns {
        let at = column.touch.at_mm;
        let near = all
            .iter()
            .map(|t| to_triangle(at, *t))
            .fold(f64::INFINITY, f64::min);
        assert!(near < 0.1, "a contact {near} mm off at {at:?}");
        for pair in column.way.windows(2) {
            for i in 1..40 {
                let share = f64::from(i) / 40.0;
                let p: [f64; 3] =
                    std::array::from_fn(|k| pair[0][k] + (pair[1][k] - pair[0][k]) * share);
                let from_tip = (0..3).map(|k| (p[k] - at[k]).powi(2)).sum::<f64>().sqrt();
                let foot = column.way[column.way.len() - 1];
                let from_foot = (0..3).map(|k| (p[k] - foot[k]).powi(2)).sum::<f64>().sqrt();
                if from_tip > 0.6 && (!column.on_part || from_foot > 0.6) {
                    assert_eq!(
                        winding(&all, p),
                        0,
                        "a column runs through the part at {p:?}"
                    );
                }
            }
        }
    }
}

#[test]
fn planning_supports_stops_when_asked() {
    struct Stop;
    impl Watch for Stop {
        fn stopped(&self) -> bool {
            true
        }
        fn report(&self, _share: f64) {}
    }
    let plan = plan_supports(
        &mesh(&cantilever()),
        LayerHeight::USUAL,
        &SupportStyle::USUAL,
        &Stop,
    );
    assert_eq!(plan, None);
}

/// What has a flat sole may stand on the plate as its file stands, even where its top is flatter
/// still; what stands on an edge, or on nothing flat, may not.
#[rstest]
#[case::a_block(block([0.0; 3], [10.0, 8.0, 6.0]), true)]
#[case::wider_above([block([2.0, 2.0, 0.0], [10.0, 10.0, 4.0]), block([0.0, 0.0, 3.9], [12.0, 12.0, 5.0])].concat(), true)]
#[case::on_a_thin_foot([block([5.0, 5.0, 0.0], [6.0, 6.0, 4.0]), block([0.0, 0.0, 3.9], [12.0, 12.0, 9.0])].concat(), false)]
#[case::a_post_on_four_pegs([block([0.0, 0.0, 3.0], [10.0, 10.0, 30.0]), block([0.0; 3], [1.0, 1.0, 3.1])].concat(), false)]
fn a_flat_sole_may_stand_on_the_plate(#[case] faces: Faces, #[case] stands: bool) {
    let solid = Solid::new(&mesh(&faces));
    let on_plate = (Pose::AS_IMPORTED, Origin::FlatDown);
    assert_eq!(of_schools(&solid).contains(&on_plate), stands);
    // Tilted it has no sole any more.
    let tilted = solid.posed(Pose::new(20.0, BACK_DEG));
    assert!(!of_schools(&tilted).contains(&on_plate));
}

/// A bracket of two walls on a sole.
fn bracket() -> Faces {
    [
        block([0.0; 3], [30.0, 16.0, 3.0]),
        block([0.0; 3], [3.0, 16.0, 24.0]),
        block([27.0, 0.0, 0.0], [30.0, 16.0, 24.0]),
    ]
    .concat()
}

/// What the maker picks by is what the recipe shows afterwards: the same function makes both. The
/// sections of a bracket are a U, which the fast form of pull takes for a block.
#[test]
fn a_pose_is_told_with_the_figures_of_its_recipe() {
    let mesh = mesh(&bracket());
    let request = OrientRequest {
        layer: LayerHeight::USUAL,
        style: SupportStyle::USUAL,
        timing: PoseTiming::of(None, LayerHeight::USUAL),
        zones: Vec::new(),
    };
    let solid = Solid::new(&mesh);
    let subject = Subject::new(&solid, &request);
    let looked = subject.judge(Pose::new(70.0, BACK_DEG), Origin::Tilted);
    let settled = settle_poses(&mesh, vec![looked.clone()], &request, &Unwatched).unwrap();
    let told = &settled[0];
    let how = PrepareRequest {
        pose: told.pose,
        scale: 1.0,
        supports: Supports::Planned(request.style),
        supported: None,
        zones: &[],
        layer: request.layer,
    };
    let recipe = prepare(&mesh, &how, &Unwatched).unwrap();
    assert_eq!(told.scores.of(Score::Pull), recipe.part.peak_pull.1);
    assert_eq!(told.scores.of(Score::Overhang), recipe.alone.overhang_mm2);
    assert_eq!(
        told.scores.of(Score::SupportResin),
        recipe.part.support_mm3 / 1000.0
    );
    assert_eq!(told.contacts, recipe.part.contacts);
    let fast = looked.scores.of(Score::Pull);
    assert!(
        fast > 1.5 * told.scores.of(Score::Pull),
        "{fast} by the fast form"
    );
}

/// Supports that are planned here are as many as the part's own pull asks for: figures, a wide hem, a
/// hull and a plate leaning back all pass what parts are judged by. A slab along the film pulls harder
/// than any tips hold, and that is said.
#[rstest]
#[case::a_post(cylinder(3.0, 40.0, [0.0; 3]), 10.0, false)]
#[case::an_arm(cantilever(), 0.0, false)]
#[case::a_hem_of_28_mm(cylinder(14.0, 30.0, [0.0; 3]), 7.5, false)]
#[case::a_hem_along_the_film(cylinder(14.0, 30.0, [0.0; 3]), 0.0, false)]
#[case::a_hull(block([0.0; 3], [22.0, 60.0, 20.0]), 20.0, false)]
#[case::a_hull_leaning_far(block([0.0; 3], [22.0, 60.0, 20.0]), 40.0, false)]
#[case::a_box_on_its_edge(block([0.0; 3], [20.0, 20.0, 20.0]), 45.0, false)]
#[case::a_plate_leaning_back(block([0.0; 3], [50.0, 40.0, 3.0]), 40.0, false)]
#[case::a_slab_along_the_film(block([0.0; 3], [50.0, 40.0, 3.0]), 0.0, true)]
fn planned_supports_hold_what_pulls(
    #[case] faces: Faces,
    #[case] lean_deg: f64,
    #[case] told: bool,
) {
    let posed = mesh(&faces).posed(Pose::new(lean_deg, BACK_DEG), 1.0);
    let pull = stack(&Solid::new(&posed)).peak_pull().1;
    for spacing_mm in [2.0, 3.0, 5.0] {
        let style = SupportStyle {
            spacing_mm,
            ..SupportStyle::USUAL
        };
        let contacts = plan(&posed, &style).contacts();
        let holding = Holding::of(&Supports::Planned(style), contacts, pull, 0.0).unwrap();
        let limit = HoldingLimit::default();
        assert_eq!(
            holding.is_doubtful(&limit),
            told,
            "{holding:?} at {spacing_mm}"
        );
        assert!(holding.times_enough(&limit) >= 1.0 || told, "{holding:?}");
    }
}

/// The underside of a leaning brick of 20 × 30 mm is its sole: 600 mm² seen under 25° are 544, one place
/// for every 4; its steep faces are none of it.
#[test]
fn a_leaning_brick_shows_its_sole() {
    let brick = mesh(&block([0.0; 3], [20.0, 30.0, 10.0]));
    let leaning = Solid::new(&brick.posed(Pose::new(25.0, BACK_DEG), 1.0));
    let found = undersides(&leaning, 2.0).len() as f64;
    let places = 600.0 * 25_f64.to_radians().cos() / 4.0;
    assert!((found / places - 1.0).abs() < 0.1, "{found}");
}

/// A ball starts in one point: it hangs on three tips all the same, low on it and apart.
#[test]
fn nothing_hangs_on_fewer_than_three_tips() {
    let ball = read_mesh(&file("p_sphere.stl"), "p_sphere.stl").expect("it reads");
    let plan = plan_supports(&ball, LayerHeight::USUAL, &SupportStyle::USUAL, &Unwatched)
        .expect("nobody stops it");
    assert!(plan.columns.len() >= 3, "{}", plan.columns.len());
    let (low, high) = ball.bounds();
    for (i, a) in plan.columns.iter().enumerate() {
        let at = a.touch.at_mm;
        assert!(at[2] - plan.lifted_mm <= 0.3 * (high[2] - low[2]));
        for b in &plan.columns[i + 1..] {
            let other = b.touch.at_mm;
            assert!((at[0] - other[0]).hypot(at[1] - other[1]) > 0.9);
        }
    }
}
