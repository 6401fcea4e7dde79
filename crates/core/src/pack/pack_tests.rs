//! The packer against its judge, and the judge against brute force.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::watch::{Unwatched, Watch};

pub(super) fn build_area(width_mm: f64, depth_mm: f64) -> BuildArea {
    BuildArea {
        width_mm,
        depth_mm,
        height_mm: 160.0,
        margin_mm: 3.0,
        part_pull: None,
        plate_pull: None,
        busy_s: 0.0,
        constant_s: 300.0,
        per_mm_s: 160.0,
        low: Vec::new(),
        slots: Slots::default(),
    }
}

pub(super) fn job(build_areas: Vec<BuildArea>, items: Vec<(Outline, f64, u64)>) -> PackJob {
    let items = items
        .into_iter()
        .map(|(outline, height_mm, copies)| Item::new(outline, height_mm, copies))
        .collect();
    PackJob {
        wishes: Wishes::default(),
        build_areas,
        clearance_mm: 1.0,
        items,
    }
}

pub(super) fn ell() -> Outline {
    let corners = [
        [0.0, 0.0],
        [20.0, 0.0],
        [20.0, 6.0],
        [6.0, 6.0],
        [6.0, 24.0],
        [0.0, 24.0],
    ];
    Outline::try_new(corners.to_vec()).unwrap()
}

#[test]
fn copies_nest_and_tall_stands_with_tall() {
    let job = job(
        vec![build_area(70.0, 60.0)],
        vec![
            (ell(), 12.0, 9),
            (Outline::rectangle(20.0, 20.0), 55.0, 6),
            (Outline::rectangle(5.0, 5.0), 8.0, 12),
        ],
    );
    let packing = PackSearch::AT_ONCE.pack(&job, &Unwatched).unwrap();
    assert_eq!(check_packing(&job, &packing), vec![]);
    assert_eq!(packing.left_over, vec![]);
    let tall_on = |p: &PackedPlate| p.placements.iter().filter(|s| s.item == 1).count();
    assert_eq!(
        tall_on(&packing.plates[0]),
        6,
        "all tall ones share the first plate"
    );
    assert_eq!(packing, PackSearch::AT_ONCE.pack(&job, &Unwatched).unwrap());
}

#[rstest]
#[case::too_tall(Outline::rectangle(10.0, 10.0), 200.0, Misfit::TooTall)]
#[case::too_wide(Outline::rectangle(90.0, 10.0), 20.0, Misfit::TooWide)]
fn what_fits_no_printer_is_left_over_and_the_rest_is_packed(
    #[case] outline: Outline,
    #[case] height: f64,
    #[case] why: Misfit,
) {
    let job = job(
        vec![build_area(70.0, 60.0)],
        vec![(outline, height, 2), (ell(), 12.0, 3)],
    );
    let packing = PackSearch::AT_ONCE.pack(&job, &Unwatched).unwrap();
    assert_eq!(
        packing.left_over,
        vec![LeftOver {
            item: 0,
            copies: 2,
            why
        }]
    );
    assert_eq!(check_packing(&job, &packing), vec![]);
}

#[test]
fn a_long_pole_goes_on_the_larger_printer_and_work_is_shared() {
    let job = job(
        vec![build_area(70.0, 60.0), build_area(150.0, 100.0)],
        vec![
            (Outline::rectangle(120.0, 4.0), 10.0, 1),
            (Outline::rectangle(55.0, 50.0), 10.0, 4),
        ],
    );
    let packing = PackSearch::AT_ONCE.pack(&job, &Unwatched).unwrap();
    assert_eq!(check_packing(&job, &packing), vec![]);
    let pole = packing
        .plates
        .iter()
        .find(|p| p.placements.iter().any(|s| s.item == 0))
        .unwrap();
    assert_eq!(pole.build_area, 1);
    assert!(packing.plates.iter().any(|p| p.build_area == 0));
}

#[test]
fn a_stop_is_heeded_and_too_many_copies_are_refused() {
    struct Stop;
    impl Watch for Stop {
        fn stopped(&self) -> bool {
            true
        }
        fn report(&self, _share: f64) {}
    }
    let few = job(vec![build_area(70.0, 60.0)], vec![(ell(), 12.0, 3)]);
    assert_eq!(
        PackSearch::AT_ONCE.pack(&few, &Stop),
        Err(PackError::Stopped)
    );
    let many = job(
        vec![build_area(70.0, 60.0)],
        vec![(ell(), 12.0, u64::MAX), (ell(), 9.0, 2)],
    );
    assert_eq!(
        PackSearch::AT_ONCE.pack(&many, &Unwatched),
        Err(PackError::TooMany {
            copies: u64::MAX,
            limit: MAX_COPIES
        })
    );
}

/// Each row breaks one rule of a plate that was right.
#[rstest]
#[case::right(|_: &mut Packing| {}, |f: &[PackFault]| f.is_empty())]
#[case::overlap(|p: &mut Packing| p.plates[0].placements[1].at_mm = p.plates[0].placements[0].at_mm, |f: &[PackFault]| matches!(f, [PackFault::TooNear { distance_mm: 0.0, .. }]))]
#[case::too_near(|p: &mut Packing| p.plates[0].placements[1].at_mm[0] = 24.5, |f: &[PackFault]| matches!(f, [PackFault::TooNear { distance_mm, .. }] if (*distance_mm - 0.5).abs() < 1e-9))]
#[case::over_the_margin(|p: &mut Packing| p.plates[0].placements[0].at_mm[0] = 7.9, |f: &[PackFault]| matches!(f, [PackFault::Outside { placement: 0, .. }]))]
#[case::nowhere(|p: &mut Packing| p.plates[0].placements[0].at_mm[0] = f64::NAN, |f: &[PackFault]| f.contains(&PackFault::Outside { plate: 0, placement: 0 }))]
#[case::lost(|p: &mut Packing| { p.plates[0].placements.pop(); }, |f: &[PackFault]| f == [PackFault::Miscounted { item: 0, asked: 2, found: 1 }])]
#[case::doubled(|p: &mut Packing| p.left_over.push(LeftOver { item: 0, copies: 1, why: Misfit::TooTall }), |f: &[PackFault]| f == [PackFault::Miscounted { item: 0, asked: 2, found: 3 }])]
#[case::no_such_printer(|p: &mut Packing| p.plates[0].build_area = 7, |f: &[PackFault]| f.contains(&PackFault::Unknown { plate: 0 }))]
fn the_checker_sees(#[case] spoil: fn(&mut Packing), #[case] seen: fn(&[PackFault]) -> bool) {
    let job = job(
        vec![build_area(70.0, 60.0)],
        vec![(Outline::rectangle(10.0, 10.0), 20.0, 2)],
    );
    let placement = |x| Placement {
        item: 0,
        at_mm: [x, 20.0],
        rotation_deg: 0.0,
    };
    let mut packing = Packing {
        plates: vec![PackedPlate {
            build_area: 0,
            placements: vec![placement(14.0), placement(40.0)],
            fixed: false,
        }],
        left_over: vec![],
    };
    spoil(&mut packing);
    let faults = check_packing(&job, &packing);
    assert!(seen(&faults), "{faults:?}");
}

fn star(radii: &[f64]) -> Outline {
    let corner = |(i, r): (usize, &f64)| {
        let angle = i as f64 / radii.len() as f64 * std::f64::consts::TAU;
        [r * angle.cos(), r * angle.sin()]
    };
    Outline::try_new(radii.iter().enumerate().map(corner).collect()).unwrap()
}

/// Brute force: points sown along and inside both shapes; the least distance found.
fn sown_distance(a: &Outline, b: &Outline) -> f64 {
    let sow = |o: &Outline| {
        let edge = |(p, q): (Point, Point)| {
            (0..40).map(move |i| {
                let t = f64::from(i) / 40.0;
                [p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t]
            })
        };
        let middle = o
            .corners()
            .iter()
            .fold([0.0, 0.0], |m, c| [m[0] + c[0], m[1] + c[1]]);
        let middle = middle.map(|m| m / o.corners().len() as f64);
        let rim: Vec<Point> = o.edges().flat_map(edge).collect();
        // The shapes are stars about their middle: every point between it and the rim is inside.
        let inner = rim.iter().flat_map(|p| {
            (0..8).map(move |i| {
                let t = f64::from(i) / 8.0;
                [
                    middle[0] + (p[0] - middle[0]) * t,
                    middle[1] + (p[1] - middle[1]) * t,
                ]
            })
        });
        inner.chain(rim.iter().copied()).collect::<Vec<Point>>()
    };
    let (a, b) = (sow(a), sow(b));
    a.iter()
        .flat_map(|p| b.iter().map(|q| (p[0] - q[0]).hypot(p[1] - q[1])))
        .fold(f64::INFINITY, f64::min)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn every_packing_passes_the_checker(
        parts in proptest::collection::vec((proptest::collection::vec(2.0f64..14.0, 5..9), 5.0f64..170.0, 1u64..6), 1..7),
        clearance in prop_oneof![Just(0.0), 0.0f64..2.5],
    ) {
        let mut job = job(vec![build_area(80.0, 50.0), build_area(60.0, 60.0)], parts.iter().map(|(r, h, n)| (star(r), *h, *n)).collect());
        job.clearance_mm = clearance;
        let packing = PackSearch::AT_ONCE.pack(&job, &Unwatched).unwrap();
        prop_assert_eq!(check_packing(&job, &packing), vec![]);
    }

    #[test]
    fn the_checker_agrees_with_brute_force(
        a in proptest::collection::vec(4.0f64..10.0, 8), b in proptest::collection::vec(4.0f64..10.0, 8),
        shift in 5.0f64..22.0, turn in 0.0f64..360.0,
    ) {
        let mut job = job(vec![build_area(100.0, 100.0)], vec![(star(&a), 9.0, 1), (star(&b), 9.0, 1)]);
        job.clearance_mm = 1.0;
        let placements = vec![
            Placement { item: 0, at_mm: [50.0, 50.0], rotation_deg: 0.0 },
            Placement { item: 1, at_mm: [50.0 + shift, 50.0], rotation_deg: turn },
        ];
        let sown = sown_distance(&star(&a).placed(0.0, [50.0, 50.0]), &star(&b).placed(turn, [50.0 + shift, 50.0]));
        let faults = check_packing(&job, &Packing { plates: vec![PackedPlate { build_area: 0, placements, fixed: false }], left_over: vec![] });
        // Sowing is coarse: it may miss by the pitch of its points, never find less than the truth.
        if sown < 0.99 { prop_assert_eq!(faults.len(), 1); }
        if sown > 1.7 { prop_assert_eq!(faults.len(), 0, "sown distance {}", sown); }
    }
}

/// A base as a polygon, of so many millimetres across.
pub(super) fn base(across: f64) -> Outline {
    let corner = |i: u32| {
        let angle = f64::from(i) * std::f64::consts::TAU / 32.0;
        [across / 2.0 * angle.cos(), across / 2.0 * angle.sin()]
    };
    Outline::try_new((0..32).map(corner).collect()).unwrap()
}

proptest! {
    /// The search judges by its own code, which skips edges that cannot meet; the checker looks at
    /// every pair.
    #[test]
    fn search_and_checker_agree_on_what_is_clear(
        a in proptest::collection::vec(2.0f64..14.0, 3..20), b in proptest::collection::vec(2.0f64..14.0, 3..20),
        shift in prop::array::uniform2(-26.0f64..26.0), turn in 0.0f64..360.0, clearance in 0.01f64..3.0,
    ) {
        let (a, b) = (star(&a), star(&b).placed(turn, [0.0, 0.0]));
        let there = a.placed(0.0, shift);
        let is_clear = nest::clear(a.corners(), shift, b.corners(), clearance);
        let meets = |clearance: f64| !in_the_way(&there, &[&b], clearance).is_empty();
        if is_clear {
            prop_assert!(!meets(clearance - 1e-3));
        } else {
            prop_assert!(meets(clearance + 1e-3));
        }
    }
}

/// Where no clearance is asked, boxes once could share a thousandth of a micrometre.
#[rstest]
#[case::they_share_a_hair(-5e-7, 1)]
#[case::they_are_apart(5e-8, 2)]
fn copies_without_clearance_do_not_overlap(#[case] between: f64, #[case] stand: usize) {
    let job = PackJob {
        clearance_mm: 0.0,
        ..job(
            vec![build_area(80.0, 50.0)],
            vec![(Outline::rectangle(20.0, 20.0), 10.0, 2)],
        )
    };
    let placement = |x: f64| Placement {
        item: 0,
        at_mm: [x, 20.0],
        rotation_deg: 0.0,
    };
    let plate = PackedPlate {
        build_area: 0,
        placements: vec![placement(20.0), placement(40.0 + between)],
        fixed: false,
    };
    assert_eq!(work::Work::new(&job).restored(&plate).puts().len(), stand);
}

#[test]
fn bases_are_pressed_onto_a_plate_that_rows_do_not_fill() {
    // Rows of six leave a plate of this size with eighteen; closer ones hold nineteen.
    let mut plate = build_area(218.0, 123.0);
    plate.height_mm = 220.0;
    let job = PackJob {
        clearance_mm: 1.5,
        ..job(vec![plate], vec![(base(32.5), 10.0, 19)])
    };
    let search = |steps| {
        PackSearch { seed: 2, steps }
            .pack(&job, &Unwatched)
            .unwrap()
    };
    assert_eq!(search(0).plates.len(), 2);
    let pressed = search(40);
    assert_eq!(check_packing(&job, &pressed), vec![]);
    assert_eq!(pressed.plates.len(), 1);
}

/// Cuts a rectangle into so many by straight cuts.
fn cut(size: [f64; 2], pieces: usize, seed: &mut u64, into: &mut Vec<[f64; 2]>) {
    *seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
    if pieces < 2 {
        into.push(size);
        return;
    }
    let share = 0.35 + 0.3 * ((*seed >> 33) as f64 / f64::from(u32::MAX >> 1));
    let longer = usize::from(size[1] > size[0]);
    let (mut a, mut b) = (size, size);
    a[longer] = (size[longer] * share * 10.0).round() / 10.0;
    b[longer] = size[longer] - a[longer];
    cut(a, pieces / 2, seed, into);
    cut(b, pieces - pieces / 2, seed, into);
}

#[rstest]
fn rectangles_cut_from_a_plate_fill_it_again(#[values(1, 2, 4, 5, 6)] seed: u64) {
    let mut pieces = Vec::new();
    cut([144.0, 94.0], 9, &mut seed.clone(), &mut pieces);
    let items = pieces
        .iter()
        .map(|p| (Outline::rectangle(p[0], p[1]), 20.0, 1))
        .collect();
    let job = PackJob {
        clearance_mm: 0.0,
        ..job(vec![build_area(150.0, 100.0)], items)
    };
    let packing = PackSearch { seed: 1, steps: 20 }
        .pack(&job, &Unwatched)
        .unwrap();
    assert_eq!(check_packing(&job, &packing), vec![]);
    assert_eq!(packing.plates.len(), 1, "{pieces:?}");
}

/// Shared out again, a small printer may be offered nothing but copies that it cannot take.
#[test]
fn rectangles_are_shared_out_again_between_printers_of_different_sizes() {
    let job = job(
        vec![build_area(60.0, 60.0), build_area(150.0, 100.0)],
        vec![
            (Outline::rectangle(120.0, 20.0), 30.0, 6),
            (Outline::rectangle(40.0, 45.0), 40.0, 5),
            (Outline::rectangle(20.0, 25.0), 30.0, 8),
        ],
    );
    let packing = PackSearch { seed: 1, steps: 24 }
        .pack(&job, &Unwatched)
        .unwrap();
    assert_eq!(check_packing(&job, &packing), vec![]);
    assert_eq!(packing.left_over, vec![]);
}
