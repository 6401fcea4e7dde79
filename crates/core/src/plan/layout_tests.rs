//! Any sequence of changes keeps every copy exactly once and every plate valid.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::geometry::Outline;
use crate::ids::{RecipeVersionId, ResinId, SculptId, UnitId};
use crate::units::LayerHeight;
use crate::workshop::resin_use::Body;

fn part(id: i64, outline: Outline, height_mm: f64) -> PlanPart {
    PlanPart {
        id: PartId(id),
        sculpt: SculptId(1),
        recipe_version: RecipeVersionId(1),
        outline,
        height_mm,
        body: Body {
            part_mm3: 100.0,
            support_mm3: 0.0,
            surface_mm2: 100.0,
            inside_mm3: 0.0,
        },
        contacts: 0,
        resin: ResinId(1),
        layer: LayerHeight::from_mm(0.05).expect("a layer height"),
        wanted: 10,
        priority: 1,
        unit: UnitId(1),
        pull: vec![1.0; 10],
        most: None,
    }
}

fn ell() -> Outline {
    let corners = [
        [0.0, 0.0],
        [18.0, 0.0],
        [18.0, 6.0],
        [6.0, 6.0],
        [6.0, 20.0],
        [0.0, 20.0],
    ];
    Outline::try_new(corners.to_vec()).expect("an outline")
}

fn layout() -> PlateLayout {
    let parts = [
        part(1, Outline::rectangle(10.0, 10.0), 20.0),
        part(2, ell(), 35.0),
        part(3, Outline::rectangle(30.0, 4.0), 8.0),
    ];
    PlateLayout {
        build_area: BuildArea {
            width_mm: 70.0,
            depth_mm: 50.0,
            height_mm: 100.0,
            part_pull: None,
            plate_pull: None,
            margin_mm: 2.0,
            busy_s: 0.0,
            constant_s: 0.0,
            per_mm_s: 1.0,
            low: Vec::new(),
            slots: crate::pack::Slots::default(),
        },
        clearance_mm: 1.0,
        unit_most: BTreeMap::new(),
        kept_clear: None,
        pool: parts.iter().map(|p| (p.id, 4)).collect(),
        parts: parts.into_iter().map(|p| (p.id, p)).collect(),
    }
}

fn changes() -> impl Strategy<Value = Vec<Change>> {
    let key = || 1i64..9;
    let one = prop_oneof![
        3 => (key(), 0.0f64..70.0, 0.0f64..50.0, -720.0f64..720.0).prop_map(|(key, x, y, turn)| {
            Change::Move { key, at_mm: [x, y], rotation_deg: turn }
        }),
        1 => (key(), any::<bool>()).prop_map(|(key, pinned)| Change::Pin { keys: vec![key], pinned }),
        1 => key().prop_map(|key| Change::Remove { keys: vec![key] }),
        2 => (1i64..4, 1u64..3).prop_map(|(part, copies)| Change::Add { part: PartId(part), copies }),
        1 => Just(Change::Repack),
    ];
    prop::collection::vec(one, 1..14)
}

fn counted(placed: &[PlacedCopy], part: PartId) -> u64 {
    placed.iter().filter(|p| p.part == part).count() as u64
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn any_sequence_keeps_every_copy_once_and_the_plate_valid(changes in changes()) {
        let mut layout = layout();
        let mut placed: Vec<PlacedCopy> = Vec::new();
        for change in changes {
            let pinned: Vec<PlacedCopy> = placed.iter().filter(|p| p.pinned).copied().collect();
            let Ok(after) = layout.change(&placed, &change) else {
                continue;
            };
            for part in [1, 2, 3].map(PartId) {
                let all = counted(&placed, part) + layout.pool[&part];
                let on_it = counted(&after, part);
                prop_assert!(on_it <= all);
                layout.pool.insert(part, all - on_it);
                prop_assert_eq!(on_it + layout.pool[&part], 4);
            }
            let mut keys: Vec<i64> = after.iter().map(|p| p.key).collect();
            keys.sort_unstable();
            keys.dedup();
            prop_assert_eq!(keys.len(), after.len(), "a key is given twice");
            prop_assert_eq!(layout.faults(&after), vec![]);
            if !matches!(change, Change::Pin { .. }) {
                for copy in pinned {
                    prop_assert!(after.contains(&copy), "a pinned copy moved");
                }
            }
            placed = after;
        }
    }
}

fn copy(key: i64, part: i64, at_mm: Point) -> PlacedCopy {
    PlacedCopy {
        key,
        part: PartId(part),
        at_mm,
        rotation_deg: 0.0,
        pinned: false,
    }
}

#[rstest]
#[case::free([40.0, 20.0], Ok(()))]
#[case::a_clearance_away([27.0, 10.0], Ok(()))]
#[case::too_near([26.5, 10.0], Err(Blocked::InTheWay(vec![2])))]
#[case::over_the_margin([66.0, 20.0], Err(Blocked::Outside))]
fn a_move_is_looked_at(#[case] to: Point, #[case] answer: Result<(), Blocked>) {
    // Rectangles stand about their middles.
    let placed = [copy(1, 1, [50.0, 40.0]), copy(2, 1, [16.0, 10.0])];
    let moved = layout().change(
        &placed,
        &Change::Move {
            key: 1,
            at_mm: to,
            rotation_deg: 0.0,
        },
    );
    assert_eq!(moved.map(drop), answer);
}

#[test]
fn what_blocks_is_told() {
    let mut layout = layout();
    let mut placed = vec![copy(1, 1, [50.0, 40.0])];
    placed[0].pinned = true;
    let change = Change::Move {
        key: 1,
        at_mm: [20.0, 20.0],
        rotation_deg: 0.0,
    };
    assert_eq!(layout.change(&placed, &change), Err(Blocked::Pinned));
    let add = Change::Add {
        part: PartId(2),
        copies: 5,
    };
    assert_eq!(layout.change(&placed, &add), Err(Blocked::NotInPool));
    layout.build_area.plate_pull = Some(2.0);
    let add = Change::Add {
        part: PartId(2),
        copies: 2,
    };
    let refusal = layout.change(&placed, &add).expect_err("too hard");
    assert_eq!(
        refusal.to_string(),
        "the plate would pull 3.0 discs, it may pull 2.0"
    );
    layout.build_area.plate_pull = None;
    layout.unit_most = crate::pack::halves([(UnitId(1), 10)]);
    let four = [0, 1, 2, 3].map(|i| copy(i, 1, [10.0 + 12.0 * i as f64, 10.0]));
    let refusal = layout
        .change(&four, &add)
        .expect_err("more than half of ten");
    assert!(
        refusal
            .to_string()
            .ends_with("of this one 5, and 4 stand here"),
        "{refusal}"
    );
    assert_eq!(layout.room_for(&four, PartId(3), 2), 1);
    layout.build_area.height_mm = 30.0;
    let refusal = layout.change(&placed, &add).expect_err("too tall");
    assert!(refusal.to_string().contains("35.0 mm tall"));
    assert_eq!(
        Blocked::InTheWay(vec![4, 5]).to_string(),
        "2 copies are in the way"
    );
}

/// As many as there is room for, by adding them.
#[test]
fn room_is_what_can_be_added() {
    let mut layout = layout();
    layout.pool.insert(PartId(1), 100);
    let few = [copy(1, 2, [35.0, 25.0])];
    let room = layout.room_for(&few, PartId(1), 12);
    assert!(room > 4, "{room}");
    let add = Change::Add {
        part: PartId(1),
        copies: room,
    };
    assert_eq!(
        layout.change(&few, &add).expect("room").len() as u64,
        room + 1
    );
}

#[test]
fn loads_add_up_and_the_peak_is_found() {
    let sum = sum_over_slabs(&[(&[1.0, 2.0], 2), (&[0.5, 0.0, 3.0], 1)]);
    assert_eq!(sum, vec![2.5, 4.0, 3.0]);
    assert_eq!(peak_of(&sum), (1, 4.0));
}

/// A plate of 24 places, full: poles 40 mm tall on 9 × 9 where it is said, blocks on all others; some pinned.
fn full(poles: [bool; 24], pinned: [bool; 24]) -> (PlateLayout, Vec<PlacedCopy>) {
    let parts = [
        part(1, Outline::rectangle(9.0, 9.0), 40.0),
        part(2, Outline::rectangle(10.0, 10.0), 12.0),
    ];
    let layout = PlateLayout {
        parts: parts.into_iter().map(|p| (p.id, p)).collect(),
        kept_clear: Some(Quarter::FrontLeft),
        ..layout()
    };
    let stands = |i: usize| {
        let at = [7.0 + 11.0 * (i % 6) as f64, 7.0 + 11.0 * (i / 6) as f64];
        PlacedCopy {
            pinned: pinned[i],
            ..copy(i as i64, if poles[i] { 1 } else { 2 }, at)
        }
    };
    (layout, (0..24).map(stands).collect())
}

/// The front left quarter of it is three places wide and two deep.
fn in_front_left(i: usize) -> bool {
    i % 6 < 3 && i < 12
}

#[rstest]
#[case::turned_by_half(&[0, 1], &[], 0)]
#[case::changing_places(&[0, 1], &[20], 0)]
#[case::nothing_is_asked_of_what_stands_well(&[20, 21], &[], 0)]
#[case::pinned_ones_stay(&[0, 1], &[0], 1)]
#[case::more_than_places_elsewhere(&[0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19], &[], 2)]
fn slender_copies_leave_the_quarter(
    #[case] poles: &[usize],
    #[case] pins: &[usize],
    #[case] left: usize,
) {
    let among = |list: &[usize]| std::array::from_fn(|i| list.contains(&i));
    let (layout, placed) = full(among(poles), among(pins));
    let cleared = layout.cleared(&placed);
    assert_eq!(layout.in_kept_clear(&cleared).len(), left);
    assert_eq!(layout.faults(&cleared), vec![]);
    if left == layout.in_kept_clear(&placed).len() {
        assert_eq!(cleared, placed);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn clearing_loses_nothing_and_reaches_what_can_be(
        poles: [bool; 24],
        pins in prop::collection::vec(prop::bool::weighted(0.2), 24),
    ) {
        let pinned = std::array::from_fn(|i| pins[i]);
        let (layout, placed) = full(poles, pinned);
        let cleared = layout.cleared(&placed);
        prop_assert_eq!(layout.faults(&cleared), vec![]);
        let keys = |all: &[PlacedCopy]| {
            let mut keys: Vec<_> = all.iter().map(|c| (c.key, c.part, c.pinned)).collect();
            keys.sort_unstable();
            keys
        };
        prop_assert_eq!(keys(&cleared), keys(&placed));
        for copy in placed.iter().filter(|c| c.pinned) {
            prop_assert!(cleared.contains(copy), "a pinned copy moved");
        }
        // By hand: those pinned inside stay, and those for which no block outside changes places.
        let count = |holds: &dyn Fn(usize) -> bool| (0..24).filter(|i| holds(*i)).count();
        let stay = count(&|i| in_front_left(i) && poles[i] && pinned[i]);
        let go = count(&|i| in_front_left(i) && poles[i] && !pinned[i]);
        let room = count(&|i| !in_front_left(i) && !poles[i] && !pinned[i]);
        prop_assert_eq!(layout.in_kept_clear(&cleared).len(), stay + go.saturating_sub(room));
    }
}
