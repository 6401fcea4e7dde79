//! The search for plates: valid, the same whatever the threads, never under the bound; and the
//! bound never above the best there is.

use proptest::prelude::*;
use rstest::rstest;
use wembrit_core::geometry::Outline;
use wembrit_core::pack::{
    BuildArea, Instance, Item, PackJob, PackSearch, PackedPlate, Packing, Placement, Slots, Wishes,
    check_packing, lower_bound,
};
use wembrit_core::watch::{Unwatched, Watch};

/// A plan at once, and some rounds of looking for a better one.
const USUAL: PackSearch = PackSearch { seed: 1, steps: 8 };

fn build_area(width_mm: f64, depth_mm: f64) -> BuildArea {
    BuildArea {
        width_mm,
        depth_mm,
        height_mm: 150.0,
        margin_mm: 2.0,
        part_pull: None,
        plate_pull: None,
        busy_s: 0.0,
        constant_s: 0.001,
        per_mm_s: 1.0,
        low: Vec::new(),
        slots: Slots::default(),
    }
}

/// Pieces of all manners: rectangles, ells, stars with deep notches, discs.
fn outline(kind: u8, a: f64, b: f64) -> Outline {
    let corners = match kind % 4 {
        0 => return Outline::rectangle(a, b),
        1 => vec![
            [0.0, 0.0],
            [a, 0.0],
            [a, b * 0.35],
            [a * 0.35, b * 0.35],
            [a * 0.35, b],
            [0.0, b],
        ],
        2 => (0..32)
            .map(|i| {
                let (sin, cos) = (f64::from(i) * std::f64::consts::PI / 16.0).sin_cos();
                [a / 2.0 * cos, a / 2.0 * sin]
            })
            .collect(),
        _ => (0..10)
            .map(|i| {
                let r = if i % 2 == 0 { a / 2.0 } else { a / 4.5 };
                let (sin, cos) = (f64::from(i) * std::f64::consts::PI / 5.0).sin_cos();
                [r * cos, r * sin]
            })
            .collect(),
    };
    Outline::try_new(corners).expect("a simple outline")
}

fn jobs() -> impl Strategy<Value = PackJob> {
    let item = (0u8..4, 6.0f64..32.0, 6.0f64..32.0, 5.0f64..90.0, 1u64..6);
    (
        prop::collection::vec(item, 1..9),
        prop_oneof![Just(0.0), 0.0f64..2.5],
    )
        .prop_map(|(items, clearance_mm)| PackJob {
            wishes: Wishes::default(),
            build_areas: vec![build_area(110.0, 70.0)],
            clearance_mm,
            items: items
                .into_iter()
                .map(|(kind, a, b, height_mm, copies)| {
                    Item::new(outline(kind, a, b), height_mm, copies)
                })
                .collect(),
        })
}

fn cost(job: &PackJob, packing: &Packing) -> f64 {
    let tallest = |p: &wembrit_core::pack::PackedPlate| {
        let heights = p.placements.iter().map(|s| job.items[s.item].height_mm);
        heights.fold(0.0, f64::max)
    };
    packing.plates.iter().map(tallest).sum()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 50, ..ProptestConfig::default() })]

    /// The judge, that shares no code with the search, finds nothing; and the bound holds.
    #[test]
    fn every_packing_is_sound_and_not_under_the_bound(job in jobs(), seed in 0u64..1000) {
        let search = PackSearch { seed, steps: 3 };
        let packing = search.pack(&job, &Unwatched).expect("it packs");
        prop_assert_eq!(check_packing(&job, &packing), vec![]);
        let bound = lower_bound(&job);
        prop_assert!(cost(&job, &packing) >= bound.sum_height_mm - 1e-9);
        prop_assert!(packing.plates.len() as u64 >= bound.plates);
    }
}

/// Plates cut into rectangles: how they were cut is a packing without waste, so the bound may not
/// be above it.
#[test]
fn the_bound_is_never_above_perfect_packings() {
    let mut state = 7_u64;
    let mut next = move || {
        state = state
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as f64 / (1u64 << 31) as f64
    };
    for round in 0..200 {
        let (width, depth) = (60.0 + 80.0 * next(), 40.0 + 60.0 * next());
        let many = 1 + round % 4;
        let (mut items, mut sum) = (Vec::new(), 0.0);
        for _ in 0..many {
            let mut pieces = vec![[width, depth]];
            while pieces.len() < 3 + round % 9 {
                let [w, d] = pieces.remove((next() * pieces.len() as f64) as usize);
                let share = 0.25 + 0.5 * next();
                let halves = if w > d {
                    [[w * share, d], [w * (1.0 - share), d]]
                } else {
                    [[w, d * share], [w, d * (1.0 - share)]]
                };
                pieces.extend(halves);
            }
            let top = 20.0 + 100.0 * next();
            sum += top;
            items.extend(pieces.iter().enumerate().map(|(i, [w, d])| {
                let lower = if i == 0 { 1.0 } else { 0.2 + 0.8 * next() };
                Item::new(Outline::rectangle(*w, *d), top * lower, 1)
            }));
        }
        let job = PackJob {
            wishes: Wishes::default(),
            build_areas: vec![build_area(width + 4.0, depth + 4.0)],
            clearance_mm: 0.0,
            items,
        };
        let bound = lower_bound(&job);
        assert!(
            bound.plates as usize <= many,
            "{} plates, {many} do",
            bound.plates
        );
        assert!(
            bound.sum_height_mm <= sum + 1e-6,
            "{} over {sum}",
            bound.sum_height_mm
        );
        assert!(bound.seconds <= sum + many as f64 * 0.001 + 1e-6);
    }
}

fn mixed(copies: u64) -> PackJob {
    let item = |kind, a, b, height_mm, copies| Item::new(outline(kind, a, b), height_mm, copies);
    PackJob {
        wishes: Wishes::default(),
        build_areas: vec![build_area(120.0, 80.0)],
        clearance_mm: 1.5,
        items: vec![
            item(0, 20.0, 14.0, 60.0, copies),
            item(1, 26.0, 22.0, 45.0, copies),
            item(2, 24.0, 24.0, 38.0, copies),
            item(0, 9.0, 9.0, 12.0, 3 * copies),
            item(2, 15.0, 15.0, 20.0, 2 * copies),
        ],
    }
}

/// The same seed and steps give the same plan, whatever the threads.
#[test]
fn threads_change_no_digit() {
    let job = mixed(6);
    let with = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new()
            .num_threads(threads)
            .build()
            .expect("a pool");
        pool.install(|| {
            PackSearch { seed: 5, steps: 6 }
                .pack(&job, &Unwatched)
                .expect("it packs")
        })
    };
    let one = with(1);
    // More threads than lanes and cores too: nobody may wait for himself.
    for threads in [2, 4, 8] {
        assert_eq!(one, with(threads));
    }
    let other = PackSearch { seed: 6, steps: 6 }
        .pack(&job, &Unwatched)
        .expect("it packs");
    assert_eq!(check_packing(&job, &other), vec![]);
}

/// No more hours than boxes on shelves take, tall before low: what a maker does by eye.
#[test]
fn squeezing_beats_boxes_on_shelves() {
    let job = mixed(8);
    let squeezed = USUAL.pack(&job, &Unwatched).expect("it packs");
    let (width, depth) = (116.0, 76.0);
    let mut boxes: Vec<([f64; 2], f64)> = Vec::new();
    for item in &job.items {
        let (low, high) = item.outline.bounds();
        let size = [0, 1].map(|k| high[k] - low[k] + job.clearance_mm);
        boxes.extend((0..item.copies).map(|_| (size, item.height_mm)));
    }
    boxes.sort_by(|a, b| b.1.total_cmp(&a.1));
    let (mut sum, mut x, mut y, mut shelf) = (0.0, f64::INFINITY, f64::INFINITY, 0.0_f64);
    for ([w, d], height) in boxes {
        if x + w > width {
            (x, y, shelf) = (0.0, y + shelf, 0.0);
        }
        if y + d > depth {
            (x, y, shelf, sum) = (0.0, 0.0, 0.0, sum + height);
        }
        (x, shelf) = (x + w, shelf.max(d));
    }
    assert!(
        cost(&job, &squeezed) < 0.9 * sum,
        "{} {sum}",
        cost(&job, &squeezed)
    );
}

/// Every packing told is better than the one before; a stop leaves the last one.
#[test]
fn better_plans_come_one_after_the_other() {
    struct Stopping(std::sync::atomic::AtomicUsize);
    impl Watch for Stopping {
        fn stopped(&self) -> bool {
            self.0.fetch_add(1, std::sync::atomic::Ordering::Relaxed) > 60
        }
        fn report(&self, _share: f64) {}
    }
    let job = mixed(9);
    let mut told: Vec<f64> = Vec::new();
    let search = PackSearch {
        seed: 2,
        steps: u64::MAX,
    };
    search
        .improve(&job, None, &Stopping(Default::default()), &mut |p| {
            assert_eq!(check_packing(&job, p), vec![]);
            told.push(cost(&job, p));
        })
        .expect("it packs");
    assert!(
        !told.is_empty() && told.windows(2).all(|w| w[1] <= w[0] + 1e-9),
        "{told:?}"
    );
}

#[rstest]
#[case::too_tall(20.0, 400.0)]
#[case::too_wide(400.0, 20.0)]
fn what_fits_nowhere_is_left_over(#[case] side: f64, #[case] height_mm: f64) {
    let mut job = mixed(2);
    job.items
        .push(Item::new(Outline::rectangle(side, side), height_mm, 3));
    let packing = USUAL.pack(&job, &Unwatched).expect("it packs");
    assert_eq!(check_packing(&job, &packing), vec![]);
    assert_eq!(packing.left_over.len(), 1);
    assert_eq!(packing.left_over[0].copies, 3);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// Squares of which exactly six fit a plate: the best there is takes them by falling height,
    /// six at a time (any other sharing can be exchanged into this one without loss). The search
    /// finds it, and the bound says that nothing is under it.
    #[test]
    fn squares_are_packed_as_well_as_can_be(mut heights in prop::collection::vec(5.0f64..90.0, 1..40)) {
        let build_area = BuildArea { margin_mm: 2.0, ..build_area(3.0 * 20.0 + 2.0 * 1.0 + 4.0, 2.0 * 20.0 + 1.0 + 4.0) };
        let item = |h: &f64| Item::new(Outline::rectangle(20.0, 20.0), *h, 1);
        let job = PackJob {
            wishes: Wishes::default(),
            build_areas: vec![build_area],
            clearance_mm: 1.0,
            items: heights.iter().map(item).collect(),
        };
        heights.sort_by(|a, b| b.total_cmp(a));
        let best: f64 = heights.iter().step_by(6).sum();
        let packing = PackSearch::AT_ONCE.pack(&job, &Unwatched).expect("it packs");
        prop_assert_eq!(check_packing(&job, &packing), vec![]);
        prop_assert!((cost(&job, &packing) - best).abs() < 1e-9, "{} {best}", cost(&job, &packing));
        let bound = lower_bound(&job);
        prop_assert!((bound.sum_height_mm - best).abs() < 1e-6);
        prop_assert_eq!(bound.plates as usize, packing.plates.len());
    }

    /// Whatever the limits, no plate goes beyond them, and nothing is left over that could have
    /// stood alone.
    #[test]
    fn limits_hold_on_every_plate(
        pulls in prop::collection::vec((0.5f64..4.0, 1u64..6, 0i64..3), 1..8),
        cap in 2.0f64..9.0,
        apart in any::<bool>(),
        seed in 0u64..50,
    ) {
        let mut job = mixed(1);
        job.wishes.apart = apart;
        job.build_areas[0].plate_pull = Some(cap);
        job.items = pulls
            .iter()
            .enumerate()
            .map(|(i, (pull, copies, unit))| Item {
                pull: vec![*pull; 3 + i],
                unit: *unit,
                ..Item::new(outline(i as u8, 9.0 + i as f64, 8.0), 10.0 + i as f64, *copies)
            })
            .collect();
        let packing = PackSearch { seed, steps: 4 }.pack(&job, &Unwatched).expect("it packs");
        prop_assert_eq!(check_packing(&job, &packing), vec![]);
        for left in &packing.left_over {
            prop_assert!(pulls[left.item].0 > cap);
        }
    }
}

/// A unit on fewer plates, where that is worth the hours it costs.
#[test]
fn units_stay_together_where_it_is_worth_it() {
    let scattered = |together_s: f64| {
        let mut job = mixed(1);
        job.wishes.together_s = together_s;
        // Two units of equal heights, each of which fills a plate of its own.
        job.items = (0..2)
            .map(|unit| Item {
                unit,
                ..Item::new(
                    Outline::rectangle(26.0, 18.0),
                    30.0 + 0.01 * unit as f64,
                    14,
                )
            })
            .collect();
        let packing = PackSearch { seed: 4, steps: 40 }
            .pack(&job, &Unwatched)
            .expect("it packs");
        let units = |p: &wembrit_core::pack::PackedPlate| {
            let mut units: Vec<i64> = p
                .placements
                .iter()
                .map(|s| job.items[s.item].unit)
                .collect();
            units.sort_unstable();
            units.dedup();
            units.len()
        };
        packing.plates.iter().map(units).sum::<usize>()
    };
    assert!(scattered(1000.0) <= scattered(0.0));
}

/// Arranged anew around what is pinned: all of it, or nothing is changed.
#[test]
fn copies_are_arranged_around_those_that_stay() {
    let mut job = mixed(1);
    job.items = vec![Item::new(Outline::rectangle(20.0, 20.0), 10.0, 9)];
    let at = |x: f64, y: f64| Placement {
        item: 0,
        at_mm: [x, y],
        rotation_deg: 0.0,
    };
    let pinned = PackedPlate {
        build_area: 0,
        placements: vec![at(60.0, 40.0), at(100.0, 20.0)],
        fixed: false,
    };
    let search = PackSearch { seed: 1, steps: 12 };
    let around = |least| {
        search
            .around(&job, &pinned, least, &Unwatched)
            .expect("not stopped")
    };
    let plate = around(9).expect("nine squares of 20 fit 116 by 76 around two");
    assert_eq!(plate.placements.len(), 9);
    assert_eq!(plate.placements[..2], pinned.placements[..]);
    let packing = Packing {
        plates: vec![plate],
        left_over: vec![],
    };
    assert_eq!(check_packing(&job, &packing), vec![]);
    job.items[0].copies = 40;
    let around = search
        .around(&job, &pinned, 40, &Unwatched)
        .expect("not stopped");
    assert_eq!(around, None);
}

/// Two printers share the work: the free one gets the next plate.
#[test]
fn plates_go_to_the_printer_that_is_done_first() {
    let mut job = mixed(8);
    job.build_areas.push(BuildArea {
        busy_s: 50.0,
        ..build_area(90.0, 90.0)
    });
    let packing = USUAL.pack(&job, &Unwatched).expect("it packs");
    assert_eq!(check_packing(&job, &packing), vec![]);
    let on = |s| packing.plates.iter().filter(|p| p.build_area == s).count();
    assert!(on(0) > 0 && on(1) > 0);
}

#[rstest]
#[case("", "no JSON")]
#[case("{}", "'plate'")]
#[case(
    r#"{"plate":{"width_mm":100,"depth_mm":80,"height_mm":100,"margin_mm":2}}"#,
    "'parts'"
)]
#[case(
    r#"{"plate":{"width_mm":-1,"depth_mm":80,"height_mm":100,"margin_mm":2},"parts":[]}"#,
    "'width_mm' of the plate"
)]
#[case(r#"{"plate":{"width_mm":100,"depth_mm":80,"height_mm":100,"margin_mm":2},"parts":[{"id":"a","outline":[[0,0],[1,"x"]],"height_mm":3,"copies":1}]}"#, "a corner of part 'a'")]
#[case(r#"{"plate":{"width_mm":100,"depth_mm":80,"height_mm":100,"margin_mm":2},"clearance_mm":1,"parts":[{"id":"a","outline":[[0,0],[5,0],[5,5]],"height_mm":3,"copies":-1}]}"#, "'copies' of part 'a'")]
fn bad_instances_are_told_in_one_line(#[case] text: &str, #[case] says: &str) {
    let refused = Instance::read(text)
        .expect_err("a bad instance")
        .to_string();
    assert!(
        refused.contains(says) && !refused.contains('\n'),
        "{refused}"
    );
}

/// What is answered can be read by others: every copy, in the instance's own words.
#[test]
fn an_answer_names_every_copy_and_the_bound() {
    let text = r#"{"name":"t","plate":{"width_mm":60,"depth_mm":40,"height_mm":100,"margin_mm":2},"clearance_mm":1,
        "parts":[{"id":"tall","outline":[[0,0],[10,0],[10,10],[0,10]],"height_mm":40,"copies":4},
                 {"id":"low","outline":[[0,0],[6,0],[3,5]],"height_mm":8,"copies":5}]}"#;
    let instance = Instance::read(text).expect("it reads");
    let packing = USUAL.pack(&instance.job, &Unwatched).expect("it packs");
    let answer = instance.answer(&packing);
    let names: Vec<&str> = answer["plates"]
        .as_array()
        .into_iter()
        .flatten()
        .flat_map(|p| p["placements"].as_array().into_iter().flatten())
        .filter_map(|s| s["part"].as_str())
        .collect();
    assert_eq!(names.iter().filter(|n| **n == "tall").count(), 4);
    assert_eq!(names.iter().filter(|n| **n == "low").count(), 5);
    assert_eq!(answer["bound"]["plates"], 1);
    assert_eq!(answer["bound"]["sum_height_mm"], 40.0);
    assert!(answer.get("left_over").is_none());
}
