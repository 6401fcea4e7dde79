//! Plates cut for the hours in which somebody is there, each plan scheduled in earnest.

use wembrit_core::geometry::Outline;
use wembrit_core::pack::{BuildArea, Item, PackJob, PackSearch, Packing, Slots, Wishes};
use wembrit_core::schedule::{Job, Machine, ScheduleSearch, Shop, Window};
use wembrit_core::watch::Unwatched;

/// Numbers by a seed: Knuth's linear congruences, from memory.
struct Rng(u64);

impl Rng {
    fn share(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1_u64 << 53) as f64
    }

    fn below(&mut self, n: usize) -> usize {
        (self.share() * n as f64) as usize
    }
}

const HANDS: u32 = 10;

fn build_area(width_mm: f64, depth_mm: f64, per_mm_s: f64) -> BuildArea {
    BuildArea {
        width_mm,
        depth_mm,
        height_mm: 160.0,
        part_pull: None,
        plate_pull: None,
        margin_mm: 0.0,
        busy_s: 0.0,
        constant_s: 0.0,
        per_mm_s,
        low: Vec::new(),
        slots: Slots::default(),
    }
}

/// Seven corners on an ellipse.
fn oval(width_mm: f64, depth_mm: f64) -> Outline {
    let corner = |n: i32| {
        let turn = f64::from(n) * std::f64::consts::TAU / 7.0;
        [width_mm / 2.0 * turn.cos(), depth_mm / 2.0 * turn.sin()]
    };
    Outline::try_new((0..7).map(corner).collect()).expect("a simple outline")
}

/// Somebody is there in these hours of three weeks.
fn attended(hours: &[(u32, u32)]) -> Vec<Window> {
    let day = |d: u32| {
        hours.iter().map(move |(from, to)| Window {
            from: d * 1440 + from * 60,
            to: d * 1440 + to * 60,
        })
    };
    (0..21).flat_map(day).collect()
}

fn listening(job: &PackJob, windows: &[Window]) -> PackJob {
    let shop = Shop {
        attended: windows.to_vec(),
        ..Shop::default()
    };
    let seconds = |(print, kept)| (f64::from(print) * 60.0, f64::from(kept) * 60.0);
    let steps = shop.slots([HANDS, 0, HANDS]).into_iter().map(seconds);
    let slots = Slots::new(steps.collect());
    let mut job = job.clone();
    for build_area in &mut job.build_areas {
        build_area.slots = slots.clone();
    }
    job
}

/// When the plates of a packing are done, min, and what they print, s.
fn ends(job: &PackJob, packing: &Packing, windows: &[Window]) -> (u32, f64) {
    let machines = vec![Machine::default(); job.build_areas.len()];
    let mut all = 0.0;
    let jobs = packing.plates.iter().map(|plate| {
        let on = &job.build_areas[plate.build_area];
        let high = plate.placements.iter().map(|p| job.items[p.item].height_mm);
        let seconds = on.constant_s + on.per_mm_s * high.fold(0.0, f64::max);
        all += seconds;
        let mut print = vec![None; machines.len()];
        print[plate.build_area] = Some((seconds / 60.0).ceil() as u32);
        Job {
            print,
            load: HANDS,
            unload: HANDS,
            weight: 1,
            ..Job::default()
        }
    });
    let jobs = jobs.collect();
    let shop = Shop {
        machines,
        jobs,
        attended: windows.to_vec(),
        ..Shop::default()
    };
    let found = ScheduleSearch::FOR_A_PAGE
        .replan(&shop, &[], &Unwatched)
        .expect("times");
    (found.ends(&shop).last, all)
}

/// Two printers: a large one takes 4.5 h for a plate, a small one 2 h for half as much; somebody is
/// there from 07 to 08 and from 18 to 22. Worked by hand: two a day come off the large one, at 18:10
/// and 07:10, three off the small one, at 18:10, 20:30 and 07:10. By hours on the printers alone 2
/// and 6 plates are done soonest, 21 h in all; six of the small ones are off on the third morning at
/// 07:10. Three and four take 21.5 h, and the last is off on the second evening.
#[test]
fn fewer_longer_plates_end_sooner() {
    let job = PackJob {
        wishes: Wishes::default(),
        build_areas: vec![
            build_area(104.0, 54.0, 540.0),
            build_area(52.0, 54.0, 240.0),
        ],
        clearance_mm: 1.0,
        items: vec![Item::new(oval(50.0, 50.0), 30.0, 10)],
    };
    let windows = attended(&[(7, 8), (18, 22)]);
    let search = PackSearch { seed: 1, steps: 4 };
    let on_each = |packing: &Packing| {
        [0, 1].map(|a| packing.plates.iter().filter(|p| p.build_area == a).count())
    };
    let deaf = search.pack(&job, &Unwatched).expect("it packs");
    assert_eq!(on_each(&deaf), [2, 6]);
    assert_eq!(
        ends(&job, &deaf, &windows),
        (2 * 1440 + 7 * 60 + 10, 21.0 * 3600.0)
    );
    let hears = search.pack(&listening(&job, &windows), &Unwatched);
    let hears = hears.expect("it packs");
    assert_eq!(on_each(&hears), [3, 4]);
    let (end, seconds) = ends(&job, &hears, &windows);
    assert!(
        end < 1440 + 21 * 60 && seconds == 21.5 * 3600.0,
        "{end} {seconds}"
    );
}

/// Workshops drawn by a seed: plates cut for the hours end no later than others by more than an
/// hour, and a day sooner in all.
#[test]
fn what_listens_ends_sooner() {
    let mut sooner = 0.0;
    for seed in [1, 7, 13] {
        let mut rng = Rng(seed);
        let mut areas = vec![build_area(200.0, 120.0, 270.0 + 60.0 * rng.share())];
        if rng.below(3) > 0 {
            areas.push(build_area(120.0, 68.0, 120.0 + 100.0 * rng.share()));
        }
        let item = |_| {
            let outline = oval(15.0 + 30.0 * rng.share(), 12.0 + 25.0 * rng.share());
            let height = 15.0 + 70.0 * rng.share() * rng.share();
            Item::new(outline, height, 1 + rng.below(20) as u64)
        };
        let items = (0..12).map(item).collect();
        let job = PackJob {
            wishes: Wishes {
                plate_s: 600.0,
                ..Wishes::default()
            },
            build_areas: areas,
            clearance_mm: 1.0,
            items,
        };
        let hours: [&[(u32, u32)]; 4] = [
            &[(7, 8), (18, 22)],
            &[(8, 18)],
            &[(6, 7), (17, 23)],
            &[(19, 22)],
        ];
        let windows = attended(hours[rng.below(4)]);
        let search = PackSearch { seed: 1, steps: 6 };
        let deaf = search.pack(&job, &Unwatched).expect("it packs");
        let hears = search.pack(&listening(&job, &windows), &Unwatched);
        let [deaf, hears] = [deaf, hears.expect("it packs")];
        let [deaf, hears] = [deaf, hears].map(|p| f64::from(ends(&job, &p, &windows).0) / 60.0);
        assert!(hears <= deaf + 1.0, "{seed}: {hears} after {deaf}");
        sooner += deaf - hears;
    }
    assert!(sooner > 24.0, "{sooner} h");
}
