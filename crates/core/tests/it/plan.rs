//! Plans from demand to figures.

use std::collections::BTreeMap;

use rstest::rstest;
use wembrit_core::cost_parts::CostKind;
use wembrit_core::flow::PlacedCopy;
use wembrit_core::geometry::{Outline, Quarter};
use wembrit_core::ids::{
    PartId, PrinterId, ProcessSettingId, RecipeVersionId, ResinId, SculptId, SettingVersionId,
    UnitId,
};
use wembrit_core::pack::{PackSearch, Slots};
use wembrit_core::plan::advice::{Advice, advise, saved_in_all};
use wembrit_core::plan::layout::PlateLayout;
use wembrit_core::plan::per_copy::{CopyOf, break_even};
use wembrit_core::plan::{
    ExistingPlate, NotPlanned, Plan, PlanPart, PlanRequest, PlannedCopy, PlannedPlate, build_area,
    improve_plan, make_plan, plate_figures,
};
use wembrit_core::recipe::scale::AtOne;
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::print_time::{Drawn, LayerTiming, MachineKind};
use wembrit_core::workshop::resin::ResinFacts;
use wembrit_core::workshop::resin_use::Body;
use wembrit_core::workshop::{Printer, ProcessSetting, Rates};

fn layer(mm: f64) -> LayerHeight {
    LayerHeight::from_mm(mm).expect("a usual layer height")
}

fn part(id: i64, height_mm: f64, wanted: u64) -> PlanPart {
    PlanPart {
        id: PartId(id),
        sculpt: SculptId(1),
        recipe_version: RecipeVersionId(1),
        outline: Outline::rectangle(14.0, 10.0),
        height_mm,
        body: Body {
            part_mm3: 700.0,
            support_mm3: 200.0,
            surface_mm2: 700.0,
            inside_mm3: 0.0,
        },
        contacts: 0,
        resin: ResinId(1),
        layer: layer(0.05),
        wanted,
        priority: 1,
        unit: UnitId(1),
        pull: Vec::new(),
        most: None,
    }
}

fn request(parts: Vec<PlanPart>) -> PlanRequest {
    let setting = |printer, resin, mm| ProcessSetting {
        id: ProcessSettingId(printer * 100 + resin * 10),
        printer: PrinterId(printer),
        resin: ResinId(resin),
        layer: layer(mm),
        version: SettingVersionId(printer * 100 + resin * 10),
        number: 1,
        timing: LayerTiming::assumed(layer(mm)),
        assumed: String::new(),
    };
    let resin = ResinFacts {
        price_per_kg: Money(4200),
        density_g_per_ml: 1.1,
        cured_g_per_ml: 1.1,
        film_mm: 0.0,
        ..ResinFacts::ASSUMED
    };
    PlanRequest {
        printers: vec![Printer::assumed(PrinterId(1), "one", [120.0, 68.0, 150.0])],
        accepted_s: BTreeMap::new(),
        slots: Slots::default(),
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
            copy_minutes: 0.0,
            contact_minutes: 0.0,
            kwh: Money(0),
        },
        together_s: 0.0,
        apart: false,
        until_s: None,
    }
}

/// Twenty-four hulls with hollows of 2.033 ml that do not drain: 48.8 ml more, and what is lost beside it;
/// grams and money follow.
#[test]
fn resin_that_stays_inside_is_counted() {
    let plan = |inside_mm3: f64| {
        let mut hull = part(1, 32.0, 24);
        hull.body.inside_mm3 = inside_mm3;
        let plan = make_plan(&request(vec![hull]), PackSearch::AT_ONCE, &Unwatched);
        let all = plan.expect("a plan").plates;
        let ml: f64 = all.iter().map(|p| p.figures.resin.ml()).sum();
        let inside: f64 = all.iter().map(|p| p.figures.resin.inside_ml).sum();
        let grams: f64 = all.iter().map(|p| p.figures.resin_g).sum();
        let resin: Money = all
            .iter()
            .map(|p| p.figures.cost.get(CostKind::Resin))
            .sum();
        let copies: f64 = all.iter().flat_map(|p| &p.copies).map(|c| c.ml).sum();
        assert!((copies - ml).abs() < 1e-9);
        (ml, inside, grams, resin)
    };
    let (dry, full) = (plan(0.0), plan(2033.0));
    assert!((full.1 - 48.792).abs() < 1e-9 && dry.1 == 0.0);
    // A tenth is lost besides; 1.1 g/ml, 42 a kilogram.
    let more = 48.792 * 1.1;
    assert!((full.0 - dry.0 - more).abs() < 1e-9);
    assert!((full.2 - dry.2 - more * 1.1).abs() < 1e-9);
    let minor = more * 1.1 * 4.2;
    assert!(((full.3.0 - dry.3.0) as f64 - minor).abs() <= 2.0);
}

#[test]
fn four_copies_take_the_hours_of_one_and_four_times_its_resin() {
    let one = make_plan(
        &request(vec![part(1, 32.0, 1)]),
        PackSearch::AT_ONCE,
        &Unwatched,
    )
    .expect("a plan");
    let four = make_plan(
        &request(vec![part(1, 32.0, 4)]),
        PackSearch::AT_ONCE,
        &Unwatched,
    )
    .expect("a plan");
    assert_eq!((one.plates.len(), four.plates.len()), (1, 1));
    let (one, four) = (&one.plates[0], &four.plates[0]);
    assert_eq!(one.figures.seconds, four.figures.seconds);
    assert_eq!(one.figures.layers, 640);
    assert!((four.figures.resin.ml() - 4.0 * one.figures.resin.ml()).abs() < 1e-9);
    // By hand: 0.9 ml with a tenth lost, 1.1 g/ml, 42 a kg: 4.57 cents each, and half an hour at 15.
    assert!((one.figures.resin.ml() - 0.99).abs() < 1e-9);
    let of = |kind| one.figures.cost.get(kind);
    assert_eq!(
        (of(CostKind::Resin), of(CostKind::Hands)),
        (Money(5), Money(750))
    );
    assert_eq!(
        four.copies.iter().map(|c| c.cost.total()).sum::<Money>(),
        Money(18 + 750)
    );
}

/// Hands by hand: half an hour, two minutes for each of three copies, six seconds for each of their contacts, at 15 an
/// hour: 38 min are 9.50; the copy with all the contacts pays for them.
#[test]
fn hands_are_counted_by_copies_and_contacts() {
    let mut request = request(vec![part(1, 32.0, 2), part(2, 32.0, 1)]);
    request.parts[1].contacts = 20;
    request.rates.copy_minutes = 2.0;
    request.rates.contact_minutes = 0.1;
    let plan = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    let plate = &plan.plates[0];
    assert_eq!(plate.figures.cost.get(CostKind::Hands), Money(950));
    let of = |part: i64| {
        let copy = plate.copies.iter().find(|c| c.part == PartId(part));
        copy.expect("a copy").cost.get(CostKind::Hands).0
    };
    // A third of the plate's ten minutes and two of its own; two minutes more for twenty contacts.
    assert!((of(2) - of(1) - 50).abs() <= 1, "{} {}", of(1), of(2));
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
    let plan = make_plan(&request(parts), PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    let mut found: BTreeMap<PartId, u64> = BTreeMap::new();
    for plate in &plan.plates {
        for copy in &plate.copies {
            *found.entry(copy.part).or_default() += 1;
            assert_eq!(groups[&copy.part], (plate.resin, plate.layer));
        }
        let shares: Money = plate.copies.iter().map(|c| c.cost.total()).sum();
        assert_eq!(shares, plate.figures.cost.total());
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
    let plan = make_plan(
        &request(vec![bad, part(1, 32.0, 3)]),
        PackSearch::AT_ONCE,
        &Unwatched,
    )
    .expect("a plan");
    assert_eq!(plan.left_over, vec![(PartId(9), 2, why)]);
    assert_eq!(plan.plates.iter().map(|p| p.copies.len()).sum::<usize>(), 3);
}

/// Poles that would stand in a quarter stand elsewhere when it is kept clear, at the same hours and money.
#[test]
fn slender_parts_are_kept_out_of_a_quarter() {
    let mut pole = part(2, 45.0, 9);
    pole.outline = Outline::rectangle(6.0, 6.0);
    let mut request = request(vec![part(1, 20.0, 16), pole]);
    let in_quarter = |plan: &Plan, quarter: Quarter| {
        let on = |c: &&PlannedCopy| {
            c.part == PartId(2) && quarter.holds([c.at_mm[0] / 120.0, c.at_mm[1] / 68.0])
        };
        plan.plates[0].copies.iter().filter(on).count()
    };
    let before = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    let quarter = *Quarter::ALL
        .iter()
        .max_by_key(|q| in_quarter(&before, **q))
        .expect("a quarter");
    assert!(in_quarter(&before, quarter) > 0);
    request.printers[0].kept_clear = Some(quarter);
    let after = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    assert_eq!(in_quarter(&after, quarter), 0);
    assert_eq!(after.plates[0].figures, before.plates[0].figures);
    assert_eq!((before.plates.len(), after.plates.len()), (1, 1));
}

#[test]
fn the_more_urgent_group_comes_first() {
    let mut urgent = part(2, 20.0, 1);
    (urgent.resin, urgent.priority) = (ResinId(2), 0);
    let plan = make_plan(
        &request(vec![part(1, 60.0, 1), urgent]),
        PackSearch::AT_ONCE,
        &Unwatched,
    )
    .expect("a plan");
    assert_eq!(plan.plates[0].copies[0].part, PartId(2));
}

#[rstest]
#[case::removal(|r: &mut PlanRequest| r.printers[0].removal_mm = 20.0, NotPlanned::TooTall)]
#[case::part_pull(|r: &mut PlanRequest| r.printers[0].part_pull = Some(4.0), NotPlanned::PullsTooHard)]
#[case::plate_pull(|r: &mut PlanRequest| r.printers[0].plate_pull = Some(4.0), NotPlanned::PullsTooHard)]
fn hard_limits_of_a_printer_leave_a_part_out(
    #[case] limit: fn(&mut PlanRequest),
    #[case] why: NotPlanned,
) {
    let mut hard = part(9, 140.0, 2);
    hard.pull = vec![5.0; 140];
    let mut request = request(vec![hard, part(1, 32.0, 3)]);
    assert!(plan(&request).left_over.is_empty());
    limit(&mut request);
    assert_eq!(plan(&request).left_over, vec![(PartId(9), 2, why)]);
}

/// Six discs' worth at the same height, four may pull at once: two plates. One that pulls where
/// the others do not shares theirs.
#[test]
fn pull_is_summed_layer_by_layer() {
    let mut low = part(1, 30.0, 6);
    low.pull = vec![1.0; 30];
    let mut high = part(2, 30.0, 1);
    high.pull = [vec![0.0; 30], vec![4.0; 2]].concat();
    let mut request = request(vec![low, high]);
    assert_eq!(plan(&request).plates.len(), 1);
    request.printers[0].plate_pull = Some(4.0);
    let plan = plan(&request);
    assert_eq!(plan.plates.len(), 2);
    assert!(plan.left_over.is_empty());
}

#[test]
fn an_untried_recipe_is_planned_by_the_few() {
    let mut untried = part(1, 30.0, 12);
    untried.most = Some(2);
    let plan = plan(&request(vec![untried, part(2, 30.0, 3)]));
    assert_eq!(plan.left_over, vec![(PartId(1), 10, NotPlanned::Untried)]);
    assert_eq!(copies(&plan, PartId(1)), 2);
}

#[test]
fn no_plate_takes_more_than_half_of_a_unit_where_they_are_kept_apart() {
    let mut request = request(vec![part(1, 30.0, 7), part(2, 30.0, 1)]);
    request.parts[1].unit = UnitId(2);
    assert_eq!(plan(&request).plates.len(), 1);
    request.apart = true;
    let plan = plan(&request);
    assert_eq!(plan.plates.len(), 2);
    let most = |p: &PlannedPlate| p.copies.iter().filter(|c| c.part == PartId(1)).count();
    assert!(plan.plates.iter().all(|p| most(p) <= 4));
    assert_eq!(
        copies(&plan, PartId(2)),
        1,
        "a single copy stands somewhere"
    );
}

/// A plate of 32 mm takes 640 layers; whatever ends later than the cut-off waits.
#[test]
fn what_ends_after_the_cut_off_waits() {
    let mut request = request(vec![part(1, 32.0, 90)]);
    let all = plan(&request);
    assert!(all.plates.len() > 1);
    request.until_s = Some(all.plates[0].figures.seconds + 1.0);
    let cut = plan(&request);
    assert_eq!(cut.plates.len(), 1);
    let late: u64 = cut.left_over.iter().map(|l| l.1).sum();
    assert_eq!(late + copies(&cut, PartId(1)), 90);
    assert!(cut.left_over.iter().all(|l| l.2 == NotPlanned::TooLate));
}

/// What stands stays where it stands: one copy more comes into a gap, one fewer leaves one.
#[test]
fn planning_from_what_stands_changes_as_little_as_it_can() {
    let before = plan(&request(vec![part(1, 32.0, 40), part(2, 20.0, 9)]));
    let standing: Vec<ExistingPlate> = before.plates.iter().map(standing).collect();
    let after = |parts| {
        let mut told = Vec::new();
        improve_plan(
            &request(parts),
            &standing,
            PackSearch::AT_ONCE,
            &Unwatched,
            &mut |p| told.push(p.clone()),
        )
        .expect("a plan");
        told.pop().expect("one plan")
    };
    let places = |p: &Plan| {
        let all = p.plates.iter().flat_map(|p| &p.copies);
        let mut at: Vec<String> = all
            .map(|c| format!("{} {:.3?} {:.3}", c.part, c.at_mm, c.rotation_deg))
            .collect();
        at.sort();
        at
    };
    let same = after(vec![part(1, 32.0, 40), part(2, 20.0, 9)]);
    assert_eq!(places(&same), places(&before));
    let more = after(vec![part(1, 32.0, 40), part(2, 20.0, 11)]);
    let (old, new) = (places(&before), places(&more));
    assert_eq!(new.len(), old.len() + 2);
    assert!(old.iter().all(|place| new.contains(place)));
    let fewer = after(vec![part(1, 32.0, 38), part(2, 20.0, 9)]);
    let new = places(&fewer);
    assert_eq!(new.len(), old.len() - 2);
    assert!(new.iter().all(|place| old.contains(place)));
}

/// One plate is as short as can be: a search with any number of steps ends at once.
#[test]
fn nothing_is_looked_for_under_the_bound() {
    let mut told = 0;
    let search = PackSearch {
        seed: 1,
        steps: u64::MAX,
    };
    let request = request(vec![part(1, 32.013, 9), part(2, 20.0, 5)]);
    improve_plan(&request, &[], search, &Unwatched, &mut |_| told += 1).expect("a plan");
    assert_eq!(told, 1);
}

/// Better plans only, none under the bound; a plate that may not be moved is in all of them.
#[test]
fn plans_get_better_and_fixed_plates_stay() {
    let mut parts: Vec<PlanPart> = (1..9)
        .map(|i| part(i, 10.0 + 7.0 * i as f64, 5 + i as u64))
        .collect();
    for (i, part) in parts.iter_mut().enumerate() {
        part.outline = Outline::rectangle(9.0 + 2.3 * i as f64, 26.0 - 1.9 * i as f64);
    }
    let request = request(parts);
    let first = plan(&request);
    let mut begun: Vec<ExistingPlate> = first.plates.iter().map(standing).collect();
    begun[0].fixed = true;
    let mut told: Vec<Plan> = Vec::new();
    let search = PackSearch { seed: 3, steps: 30 };
    improve_plan(&request, &begun, search, &Unwatched, &mut |p| {
        told.push(p.clone());
    })
    .expect("a plan");
    let plates = |p: &Plan| p.seconds() + 1800.0 * p.plates.len() as f64;
    assert!(told.windows(2).all(|w| plates(&w[1]) < plates(&w[0])));
    for plan in &told {
        assert!(plan.bound.seconds > 0.0 && plan.bound.seconds <= plan.seconds());
        assert!(plan.bound.plates <= plan.plates.len() as u64);
        let kept = plan.plates.iter().find(|p| p.fixed).expect("it is there");
        for (part, at_mm, _) in &begun[0].copies {
            assert!(
                kept.copies
                    .iter()
                    .any(|c| c.part == *part && c.at_mm == *at_mm)
            );
        }
    }
}

/// On a screen a plate takes its time whatever stands on it, so each copy takes its share of it;
/// a beam draws every copy, so two take less than twice as long, and more than one.
#[test]
fn one_copy_takes_its_share_of_the_plate() {
    let mut request = request(vec![part(1, 32.0, 1)]);
    let curve = |request: &PlanRequest| {
        CopyOf {
            part: request.parts[0].clone(),
            printer: request.printers[0].clone(),
            setting: request.settings[0].clone(),
            resin: request.resins[&ResinId(1)],
            rates: request.rates,
        }
        .curve()
    };
    let screen = curve(&request);
    // 14 × 10 mm with 1 mm between on 114 × 62 mm: 7 × 5 in rows, and no more by area than 46.
    let most = screen.len();
    assert!((35..=46).contains(&most), "{most}");
    for (index, point) in screen.iter().enumerate() {
        assert_eq!(point.copies, index as u64 + 1);
        assert!((point.minutes * point.copies as f64 - screen[0].minutes).abs() < 1e-9);
    }
    // Half an hour of hands at 15 an hour: 750, and 4.57 of resin each, by hand.
    assert!((screen[9].cost_minor - (750.0 + 46.0) / 10.0).abs() < 1e-9);
    assert_eq!(break_even(&screen, Money(80), Money(0)), Some(10));
    request.printers[0].kind = MachineKind::Beam;
    let beam = curve(&request);
    let all = |i: usize| beam[i].minutes * beam[i].copies as f64;
    assert!(all(1) > all(0) && all(1) < 2.0 * all(0));
}

/// Advice says what it saves, and where there is nothing to say it is silent.
#[rstest]
#[case::a_mast_over_low_ones(90.0, 1, true)]
#[case::a_mast_that_is_pinned(90.0, 1, false)]
#[case::many_masts(90.0, 6, false)]
#[case::hardly_taller(20.4, 1, false)]
fn leaving_the_tallest_is_advised_where_few_set_the_hours(
    #[case] height_mm: f64,
    #[case] copies: u64,
    #[case] advised: bool,
) {
    let request = request(vec![part(1, 20.0, 8), part(2, height_mm, copies)]);
    let plate = &plan(&request).plates[0];
    let pinned = !advised && height_mm > 80.0 && copies == 1;
    let pieces: Vec<PlacedCopy> = plate
        .copies
        .iter()
        .enumerate()
        .map(|(key, c)| PlacedCopy {
            key: key as i64,
            part: c.part,
            at_mm: c.at_mm,
            rotation_deg: c.rotation_deg,
            pinned: pinned && c.part == PartId(2),
        })
        .collect();
    let (printer, setting) = (&request.printers[0], &request.settings[0]);
    let board = PlateLayout::new(printer, setting, 1.0, request.parts.iter().cloned());
    let seconds = |pieces: &[PlacedCopy]| {
        let on_it: Vec<&PlanPart> = pieces.iter().map(|p| &board.parts[&p.part]).collect();
        let (printer, setting) = (&request.printers[0], &request.settings[0]);
        let resin = &request.resins[&ResinId(1)];
        plate_figures(&on_it, printer, setting, resin, &request.rates)
            .0
            .seconds
    };
    let told = advise(&board, &pieces, &seconds, &|_| 1.0);
    let leave = told.iter().find_map(|a| match a {
        Advice::Leave {
            part,
            saves_s,
            alone_s,
            ..
        } => Some((*part, *saves_s, *alone_s)),
        _ => None,
    });
    assert_eq!(leave.is_some(), advised, "{told:?}");
    if let Some((part, saves_s, alone_s)) = leave {
        assert_eq!(part, PartId(2));
        // What is taken off is printed later: a plate of its own takes longer than it saved here,
        // another one that is as long takes it for nothing.
        let alone: Vec<PlacedCopy> = pieces.iter().filter(|p| p.part == part).copied().collect();
        assert!((seconds(&alone) - alone_s).abs() < 1e-9);
        assert!(saved_in_all(saves_s, alone_s, &[]) < 0.0);
        assert_eq!(saved_in_all(saves_s, alone_s, &[60.0, alone_s]), saves_s);
        let rest: Vec<PlacedCopy> = pieces.iter().filter(|p| p.part != part).copied().collect();
        assert!((seconds(&pieces) - seconds(&rest) - saves_s).abs() < 1e-9);
    }
}

fn plan(request: &PlanRequest) -> Plan {
    make_plan(request, PackSearch::AT_ONCE, &Unwatched).expect("a plan")
}

fn copies(plan: &Plan, part: PartId) -> u64 {
    let all = plan.plates.iter().flat_map(|p| &p.copies);
    all.filter(|c| c.part == part).count() as u64
}

fn standing(plate: &PlannedPlate) -> ExistingPlate {
    ExistingPlate {
        printer: plate.printer,
        resin: plate.resin,
        layer: plate.layer,
        copies: plate
            .copies
            .iter()
            .map(|c| (c.part, c.at_mm, c.rotation_deg))
            .collect(),
        fixed: false,
    }
}

/// The largest factor the scale page offers is one the planner takes, and a little more is not:
/// both leave what removal needs and what supports lift the part by.
#[rstest]
#[case::tall([10.0, 8.0], 40.0, 5.0, 12.0)]
#[case::flat([40.0, 30.0], 4.0, 5.0, 30.0)]
#[case::no_supports([10.0, 8.0], 40.0, 0.0, 12.0)]
#[case::nothing_for_removal([10.0, 8.0], 40.0, 5.0, 0.0)]
fn a_factor_that_is_offered_is_never_too_large_for_a_plan(
    #[case] across: [f64; 2],
    #[case] height_mm: f64,
    #[case] lift_mm: f64,
    #[case] removal_mm: f64,
) {
    let mut request = request(Vec::new());
    request.printers[0].removal_mm = removal_mm;
    let at_one = AtOne {
        outline: Outline::rectangle(across[0], across[1]),
        height_mm,
        lift_mm,
    };
    let factor = at_one.largest_factor(&request.printers[0]);
    let mut plan_at = |factor: f64| {
        request.parts = vec![PlanPart {
            outline: at_one.outline.scaled(factor),
            ..part(1, height_mm * factor + lift_mm, 1)
        }];
        make_plan(&request, PackSearch::AT_ONCE, &Unwatched)
    };
    assert_eq!(plan_at(factor * 0.9999).expect("a plan").plates.len(), 1);
    let above = plan_at(factor * 1.01).expect("a plan");
    assert!(above.plates.is_empty());
    let why = above.left_over[0].2;
    assert!(
        matches!(why, NotPlanned::TooTall | NotPlanned::TooWide),
        "{why}"
    );
}

/// What the packer reckons of a height is what the plate takes, down to a single layer: bottom and
/// transition layers take longer each.
#[rstest]
#[case::as_assumed(0, 0.0)]
#[case::fading(8, 0.0)]
#[case::lifted_more_at_the_bottom(5, 12.0)]
fn the_packer_reckons_what_a_plate_takes(#[case] transition: u32, #[case] bottom_lift_mm: f64) {
    let request = request(vec![part(1, 20.0, 1)]);
    let printer = &request.printers[0];
    let mut setting = request.settings[0].clone();
    setting.timing.transition_layers = transition;
    setting.timing.bottom_lift_mm = bottom_lift_mm;
    let area = build_area(printer, &setting, 0.0);
    for layers in (1..40).chain([400, 3000]) {
        let tall = f64::from(layers) * setting.layer.mm();
        let takes = printer.plate_seconds_of(&setting, layers, Drawn::default());
        assert!((area.seconds(tall) - takes).abs() < 1e-6, "{layers} layers");
    }
}
