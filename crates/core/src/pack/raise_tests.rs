//! Raising: what one plate gives another, and that nothing is lost on the way.

use super::super::pack_tests::{base, build_area, job};
use super::*;
use crate::geometry::Outline;
use crate::pack::{PackedPlate, Placement, check_packing};

/// A plate with copies at places, given as item, x, y.
fn plate(work: &Work, places: &[(usize, f64, f64)]) -> Filled {
    let placements: Vec<Placement> = places
        .iter()
        .map(|(item, x, y)| Placement {
            item: *item,
            at_mm: [*x, *y],
            rotation_deg: 0.0,
        })
        .collect();
    let filled = work.restored(&PackedPlate {
        build_area: 0,
        placements,
        fixed: false,
    });
    assert_eq!(filled.puts().len(), places.len(), "the start is sound");
    filled
}

#[test]
fn the_tallest_of_a_plate_finds_room_among_taller_ones_and_the_low_make_way() {
    // Two tall blocks too far apart to leave a place between or beside them, and bases about.
    let items = vec![
        (Outline::rectangle(30.0, 70.0), 60.0, 2),
        (Outline::rectangle(28.0, 60.0), 40.0, 1),
        (base(20.0), 5.0, 7),
    ];
    let job = job(vec![build_area(106.0, 80.0)], items);
    let mut work = Work::new(&job);
    work.prepare_shapes();
    let mut plates = vec![
        plate(
            &work,
            &[
                (0, 20.0, 40.0),
                (0, 75.0, 40.0),
                (2, 47.0, 20.0),
                (2, 47.0, 60.0),
            ],
        ),
        plate(
            &work,
            &[
                (1, 20.0, 40.0),
                (2, 50.0, 20.0),
                (2, 50.0, 60.0),
                (2, 75.0, 20.0),
                (2, 75.0, 60.0),
                (2, 93.0, 40.0),
            ],
        ),
    ];
    assert!(
        !work.insert(&mut plates[0].clone(), 1),
        "there is no gap for it"
    );
    let mut raises = Raises::default();
    let mut rng = Rng(3);
    let raised = (0..8)
        .find_map(|_| raises.step(&work, &plates, &mut rng))
        .expect("one of some tries does it");
    assert_eq!(check_packing(&job, &work.packing(&raised)), vec![]);
    assert_eq!(
        raised.iter().map(|p| p.height_mm).collect::<Vec<_>>(),
        [60.0, 5.0]
    );
    // A plate that is fixed neither gives nor takes.
    for fixed in 0..2 {
        plates[fixed].fixed = true;
        assert!(raises.step(&work, &plates, &mut rng).is_none());
        plates[fixed].fixed = false;
    }
}
