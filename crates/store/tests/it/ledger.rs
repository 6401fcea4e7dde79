//! What a good model costs, who pays for what failed, what plates took, and spares with their reason.

use wembrit_core::cost::{Took, model_cost};
use wembrit_core::cost_parts::CostKind;
use wembrit_core::flow::FailureCause;
use wembrit_core::ids::PrinterId;
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_core::ledger::{Look, LookRow, PlateTotals, by_cause, judged};
use wembrit_core::stores::{Wear, WearKind};
use wembrit_core::units::Money;
use wembrit_store::commands::judge_plate::{self, Failure};
use wembrit_store::commands::print_times::{Printed, say};
use wembrit_store::commands::{accept_plan, bundles, hands, muster, run_plate, spares, wears};
use wembrit_store::queries::pages::ledger as pages;
use wembrit_store::queries::{self, army, charges, judged as counted, plates};
use wembrit_store::{Conn, StoreError};

use crate::fresh::{Fresh, NOW};

const HOUR: i64 = 3_600_000;

struct Bench(Fresh, PlateId);

impl Bench {
    /// A plate of seven copies that came off.
    fn new() -> Self {
        let fresh = Fresh::new(7);
        let film = Wear {
            price: Money(2400),
            ..Wear::usual(WearKind::Film, Some(PrinterId(1)))
        };
        fresh
            .store
            .write(|c| wears::replace(c, &film, NOW))
            .unwrap();
        let plan = fresh.draft().unwrap();
        fresh
            .store
            .write(|c| accept_plan::accept(c, plan, NOW))
            .unwrap();
        let all = fresh
            .store
            .read(|c| plates::accepted(c, fresh.project))
            .unwrap();
        assert_eq!(all.len(), 1);
        let bench = Self(fresh, all[0].id);
        bench
            .write(|c| run_plate::log_run(c, bench.1, NOW, NOW + HOUR, NOW + HOUR))
            .unwrap();
        bench
    }

    fn write<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> Result<T, String> {
        self.0.store.write(work).map_err(|e| e.to_string())
    }

    fn read<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> T {
        self.0.store.read(work).unwrap()
    }

    /// The copies at these places of the plate fail, the others are good.
    fn judge(&self, failed: &[usize]) {
        let copies = self.read(|c| plates::copies_of(c, self.1));
        let failure = |i: &usize| Failure {
            copy: copies[*i].copy.as_ref().unwrap().id,
            cause: FailureCause::TornOff,
            note: String::new(),
        };
        let failed: Vec<Failure> = failed.iter().map(failure).collect();
        self.write(|c| judge_plate::judge(c, self.1, &failed, NOW + HOUR))
            .unwrap();
    }

    /// What one good model costs, and of that what failed.
    fn each(&self) -> (Money, Money) {
        let army = self.read(|c| army::load(c, self.0.project));
        let cost = model_cost(&army.units[0].models[0]).unwrap();
        let failures = cost
            .parts
            .iter()
            .map(|p| p.cost.get(CostKind::Failures))
            .sum();
        (cost.each, failures)
    }
}

/// Five of seven have to pay for two; judged again as good they pay for nothing; a plate lost whole is nobody's.
#[test]
fn failed_copies_are_paid_by_good_ones() {
    let bench = Bench::new();
    let plate = bench.read(|c| plates::load(c, bench.1));
    assert!(
        plate.costs.get(CostKind::Wear) > Money(0),
        "the film is paid for"
    );
    assert!(plate.costs.get(CostKind::Power) > Money(0));
    let (before, nothing) = bench.each();
    assert_eq!(nothing, Money(0));
    bench.judge(&[1, 6]);
    let (each, failures) = bench.each();
    // Seven are paid by five; to the minor unit of the mean.
    let exact = plate.cost().0 as f64 / 5.0;
    assert!((each.0 as f64 - exact).abs() <= 1.0, "{each:?} for {exact}");
    assert!(failures > Money(0) && each > before);
    let page = bench.read(|c| pages::load(c, bench.0.project));
    let charged: Money = page.charges.to.values().copied().sum();
    assert_eq!(by_cause(&page.copies, &page.plates)[0].cost, charged);
    let rows = LookRow::by(&page.copies, Look::Printer);
    assert_eq!(
        (rows[0].group.judged.good, rows[0].group.judged.failed),
        (5, 2)
    );
    bench
        .write(|c| judge_plate::rejudge(c, bench.1, NOW + 2 * HOUR))
        .unwrap();
    bench.judge(&[]);
    assert_eq!(bench.each(), (before, Money(0)));
}

#[test]
fn a_lost_plate_is_nobodys_and_tells_nothing_of_copies() {
    let fresh = Fresh::new(3);
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| accept_plan::accept(c, plan, NOW))
        .unwrap();
    let plate = fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .unwrap()
        .remove(0);
    fresh
        .store
        .write(|c| run_plate::start(c, plate.id, NOW))
        .unwrap();
    fresh
        .store
        .write(|c| run_plate::lose(c, plate.id, FailureCause::StuckToFilm, Some(3), NOW + HOUR))
        .unwrap();
    let charges = fresh
        .store
        .read(|c| charges::load(c, fresh.project))
        .unwrap()
        .charges;
    let page = fresh.store.read(|c| pages::load(c, fresh.project)).unwrap();
    let took = page.plates[0].actual().unwrap().total();
    assert_eq!(charges.lost.get(&plate.id), Some(&took));
    assert!(took < plate.cost(), "stopped after three layers");
    assert_eq!(page.army.spent(), took);
    assert_eq!(judged(&page.copies).all(), 0);
    let counted = fresh
        .store
        .read(|c| Ok((counted::of_workshop(c)?, counted::plates_lost(c)?)))
        .unwrap();
    assert_eq!((counted.0.all(), counted.1.failed), (0, 1));
    // Stopped after three layers it took little resin, but all of the hands.
    let actual = page.plates[0].actual().unwrap();
    assert!(actual.get(CostKind::Resin) <= page.plates[0].planned.get(CostKind::Resin));
    assert_eq!(
        actual.get(CostKind::Hands),
        page.plates[0].planned.get(CostKind::Hands)
    );
}

/// What was typed of a run and timed on it changes what it cost, and nothing of what was planned.
#[test]
fn what_a_plate_took_is_told_beside_the_plan() {
    let bench = Bench::new();
    let look = || {
        let page = bench.read(|c| pages::load(c, bench.0.project));
        PlateTotals::of(&page.plates)
    };
    let before = look();
    assert_eq!(
        before.planned.get(CostKind::Hands),
        before.actual.get(CostKind::Hands)
    );
    bench
        .write(|c| hands::say(c, bench.1, 45.0, NOW + HOUR))
        .unwrap();
    bench
        .write(|c| say(c, bench.1, Printed::For(0.8 * 3600.0), NOW + HOUR))
        .unwrap();
    let after = look();
    assert_eq!(after.planned, before.planned);
    let took = bench.read(|c| queries::took::of_plates(c, &[bench.1]))[&bench.1];
    let basis = took.planned.unwrap();
    // 45 minutes at what an hour costs; eight tenths of an hour at what the printer draws.
    let hands_minor = (0.75 * basis.hands_minor).round() as i64;
    assert_eq!(after.actual.get(CostKind::Hands), Money(hands_minor));
    let power = (0.8 * basis.watts / 1000.0 * basis.kwh_minor).round() as i64;
    assert_eq!(after.actual.get(CostKind::Power), Money(power));
    assert!(took.took.is_some_and(|t: Took| !t.is_planned()));
}

/// A single file is paid by the copies made of it, a bundle by those of all that came with it, to the last cent.
#[test]
fn files_are_paid_by_what_is_made_of_them() {
    let bench = Bench::new();
    let files = || {
        let army = bench.read(|c| army::load(c, bench.0.project));
        let parts = army
            .parts()
            .map(|(_, _, p)| p.counts.beside.get(CostKind::Files));
        parts.sum::<Money>()
    };
    assert_eq!(files(), Money(0));
    let refused = bench.write(|c| bundles::buy(c, "  ", Money(1000), true, NOW));
    assert!(refused.is_err_and(|why| why.contains("what it is called")));
    bench
        .write(|c| bundles::buy(c, "marsh folk", Money(1001), true, NOW))
        .unwrap();
    assert_eq!(files(), Money(1001));
    let all = bench.read(queries::bundles::list);
    assert_eq!((all[0].sculpts, all[0].price), (1, Money(1001)));
    bench.write(|c| bundles::forget(c, all[0].id)).unwrap();
    assert_eq!(files(), Money(0));
    assert!(bench.write(|c| bundles::forget(c, 99)).is_err());
}

/// Spares are written with their reason, are wanted, and another number typed by hand is no longer explained by it.
#[test]
fn spares_keep_their_reason() {
    let bench = Bench::new();
    bench.judge(&[0, 1, 2]);
    let data = bench.read(|c| pages::of_model(c, bench.0.model));
    let (of, asked) = (
        data.facts.judged.values().next().unwrap(),
        data.facts.workshop,
    );
    assert_eq!((of.good, of.failed, asked), (4, 3, *of));
    let part = data.model.parts[0].part.id;
    let wanted = bench.0.wanted();
    bench
        .write(|c| spares::write(c, part, 2, "4 of 7 came out", NOW))
        .unwrap();
    assert_eq!(bench.0.wanted(), wanted + 2);
    let part = bench.read(|c| queries::muster::part(c, part));
    assert_eq!(
        (part.spares, part.spares_why.as_str()),
        (2, "4 of 7 came out")
    );
    let change = |spares| {
        bench.write(|c| {
            let part = queries::muster::part(c, part.id)?;
            let recipe = queries::recipes::newest(c, part.recipe)?;
            let to = muster::PartChange {
                name: part.name.clone(),
                count: part.count,
                spares,
                sculpt: part.sculpt,
                option: part.option,
                recipe: wembrit_store::commands::recipes::RecipeChange::of(&recipe),
            };
            muster::change_part(c, part.id, part.row_version, &to, NOW)
        })
    };
    change(2).unwrap();
    assert_eq!(
        bench.read(|c| queries::muster::part(c, part.id)).spares_why,
        "4 of 7 came out"
    );
    change(3).unwrap();
    assert_eq!(
        bench.read(|c| queries::muster::part(c, part.id)).spares_why,
        ""
    );
    assert_eq!(data.project, ProjectId(1));
}

/// A plan that nobody has accepted is enough for advice: a spare costs its resin and the hands on it.
#[test]
fn advice_comes_with_an_open_plan() {
    let fresh = Fresh::new(4);
    let look = || {
        fresh
            .store
            .read(|c| pages::of_model(c, fresh.model))
            .unwrap()
    };
    assert!(look().facts.spare.is_empty());
    let plan = fresh.draft().unwrap();
    let data = look();
    let spare = data.facts.spare.values().next().expect("a part");
    assert!(spare.resin_minor > 0.0 && spare.hands_minor > 0.0);
    assert!(data.facts.plate.get(CostKind::Hands) > Money(0));
    let on: u64 = data
        .waiting
        .iter()
        .flat_map(|(_, parts)| parts.values())
        .sum();
    assert_eq!(on, 4);
    let before = *spare;
    fresh
        .store
        .write(|c| accept_plan::accept(c, plan, NOW))
        .unwrap();
    let after = *look().facts.spare.values().next().expect("a part");
    assert!((after.resin_minor - before.resin_minor).abs() < 1e-9);
}
