//! Plans from demand to figures.

use std::collections::BTreeMap;

use rstest::rstest;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::{PartId, PrinterId, ResinId, SettingVersionId};
use wembrit_core::pack::{FirstFit, PackError, PackJob, PackedPlate, Packer, Packing, Spot};
use wembrit_core::plan::{
    NotPlanned, PlanError, PlanPart, PlanPrinter, PlanRequest, PlanSetting, Rates, make_plan,
};
use wembrit_core::print_time::{LayerTiming, MachineKind};
use wembrit_core::resin::ResinFacts;
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::watch::{Unwatched, Watch};

fn layer(mm: f64) -> LayerHeight {
    LayerHeight::from_mm(mm).expect("a usual layer height")
}

fn part(id: i64, height_mm: f64, wanted: u64) -> PlanPart {
    PlanPart {
        id: PartId(id),
        outline: Outline::rectangle(14.0, 10.0),
        height_mm,
        volume_mm3: 900.0,
        surface_mm2: 700.0,
        resin: ResinId(1),
        layer: layer(0.05),
        wanted,
        priority: 1,
    }
}

fn request(parts: Vec<PlanPart>) -> PlanRequest {
    let setting = |printer, resin, mm| PlanSetting {
        version: SettingVersionId(printer * 100 + resin * 10),
        printer: PrinterId(printer),
        resin: ResinId(resin),
        layer: layer(mm),
        timing: LayerTiming::assumed(layer(mm)),
    };
    let resin = ResinFacts {
        price_per_kg: Money(4200),
        density_g_per_ml: 1.1,
    };
    PlanRequest {
        printers: vec![PlanPrinter {
            id: PrinterId(1),
            kind: MachineKind::Screen,
            width_mm: 120.0,
            depth_mm: 68.0,
            height_mm: 150.0,
            margin_mm: 3.0,
            startup_s: 120.0,
            busy_s: 0.0,
        }],
        settings: vec![
            setting(1, 1, 0.05),
            setting(1, 2, 0.05),
            setting(1, 1, 0.03),
        ],
        resins: BTreeMap::from([(ResinId(1), resin), (ResinId(2), resin)]),
        parts,
        rates: Rates {
            clearance_mm: 1.0,
            waste_share: 0.1,
            hands_on_minutes: 30.0,
            hands_on_per_hour: Money(1500),
        },
    }
}

#[test]
fn four_copies_take_the_hours_of_one_and_four_times_its_resin() {
    let one = make_plan(&request(vec![part(1, 32.0, 1)]), &FirstFit, &Unwatched).expect("a plan");
    let four = make_plan(&request(vec![part(1, 32.0, 4)]), &FirstFit, &Unwatched).expect("a plan");
    assert_eq!((one.plates.len(), four.plates.len()), (1, 1));
    let (one, four) = (&one.plates[0], &four.plates[0]);
    assert_eq!(one.figures.seconds, four.figures.seconds);
    assert_eq!(one.figures.layers, 640);
    assert!((four.figures.resin.ml - 4.0 * one.figures.resin.ml).abs() < 1e-9);
    // By hand: 0.9 ml with a tenth lost, 1.1 g/ml, 42 a kg: 4.57 cents each, and half an hour at 15.
    assert!((one.figures.resin.ml - 0.99).abs() < 1e-9);
    assert_eq!(
        (one.figures.resin_cost, one.figures.hands_on_cost),
        (Money(5), Money(750))
    );
    assert_eq!(
        four.copies.iter().map(|c| c.cost).sum::<Money>(),
        Money(18 + 750)
    );
}

#[test]
fn nothing_is_lost_and_settings_never_mix() {
    let mut parts = vec![
        part(1, 32.0, 70),
        part(2, 60.0, 3),
        part(3, 12.0, 40),
        part(4, 32.0, 5),
        part(5, 20.0, 6),
    ];
    parts[3].resin = ResinId(2);
    parts[4].layer = layer(0.03);
    let wanted: BTreeMap<PartId, u64> = parts.iter().map(|p| (p.id, p.wanted)).collect();
    let groups: BTreeMap<PartId, _> = parts.iter().map(|p| (p.id, (p.resin, p.layer))).collect();
    let plan = make_plan(&request(parts), &FirstFit, &Unwatched).expect("a plan");
    let mut found: BTreeMap<PartId, u64> = BTreeMap::new();
    for plate in &plan.plates {
        for copy in &plate.copies {
            *found.entry(copy.part).or_default() += 1;
            assert_eq!(groups[&copy.part], (plate.resin, plate.layer));
        }
        let shares: Money = plate.copies.iter().map(|c| c.cost).sum();
        assert_eq!(
            shares,
            plate.figures.resin_cost + plate.figures.hands_on_cost
        );
    }
    assert_eq!((found, plan.left_over), (wanted, vec![]));
}

#[rstest]
#[case::too_tall(|p: &mut PlanPart| p.height_mm = 151.0, NotPlanned::TooTall)]
#[case::too_wide(|p: &mut PlanPart| p.outline = Outline::rectangle(130.0, 70.0), NotPlanned::TooWide)]
#[case::no_setting(|p: &mut PlanPart| p.layer = LayerHeight::MIN, NotPlanned::NoPrinter)]
fn what_cannot_be_printed_is_named_and_the_rest_planned(
    #[case] spoil: fn(&mut PlanPart),
    #[case] why: NotPlanned,
) {
    let mut bad = part(9, 20.0, 2);
    spoil(&mut bad);
    let plan =
        make_plan(&request(vec![bad, part(1, 32.0, 3)]), &FirstFit, &Unwatched).expect("a plan");
    assert_eq!(plan.left_over, vec![(PartId(9), 2, why)]);
    assert_eq!(plan.plates.iter().map(|p| p.copies.len()).sum::<usize>(), 3);
}

#[test]
fn the_more_urgent_group_comes_first() {
    let mut urgent = part(2, 20.0, 1);
    (urgent.resin, urgent.priority) = (ResinId(2), 0);
    let plan = make_plan(
        &request(vec![part(1, 60.0, 1), urgent]),
        &FirstFit,
        &Unwatched,
    )
    .expect("a plan");
    assert_eq!(plan.plates[0].copies[0].part, PartId(2));
}

#[test]
fn an_unsound_arrangement_never_becomes_a_plan() {
    struct Heap;
    impl Packer for Heap {
        fn pack(&self, _job: &PackJob, _watch: &dyn Watch) -> Result<Packing, PackError> {
            let spot = Spot {
                item: 0,
                at_mm: [20.0, 20.0],
                rotation_deg: 0.0,
            };
            Ok(Packing {
                plates: vec![PackedPlate {
                    sheet: 0,
                    spots: vec![spot; 2],
                }],
                left_over: vec![],
            })
        }
    }
    let plan = make_plan(&request(vec![part(1, 32.0, 2)]), &Heap, &Unwatched);
    assert!(matches!(plan, Err(PlanError::Unsound(_))));
}
