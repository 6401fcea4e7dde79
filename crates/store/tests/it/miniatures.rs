//! Miniatures keep particular copies: what fails, is wanted less, comes from elsewhere or is taken apart.

use wembrit_core::army::miniatures::{Arrived, BuildStep, Miniature, state_of};
use wembrit_core::cost_parts::CostKind;
use wembrit_core::flow::{FailureCause, Stage};
use wembrit_core::ids::{CopyId, PlateId};
use wembrit_core::units::Money;
use wembrit_store::commands::judge_plate::{self, Failure};
use wembrit_store::commands::miniatures::{Built, Coming, come, go_to, leave, put, take_apart};
use wembrit_store::commands::muster::{self, ModelChange};
use wembrit_store::commands::{accept_plan, run_plate};
use wembrit_store::queries::pages::miniatures as pages;
use wembrit_store::queries::{army, plates};
use wembrit_store::{Conn, StoreError};

use crate::fresh::{Fresh, NOW};

const HOUR: i64 = 3_600_000;

struct Bench(Fresh, PlateId);

impl Bench {
    /// Five wanted, five printed and good.
    fn new() -> Self {
        let fresh = Fresh::new(5);
        let plan = fresh.draft().unwrap();
        let accept = |c: &mut Conn| accept_plan::accept(c, plan, NOW);
        fresh.store.write(accept).unwrap();
        let all = fresh.store.read(|c| plates::accepted(c, fresh.project));
        let bench = Self(fresh, all.unwrap()[0].id);
        bench.write(|c| run_plate::log_run(c, bench.1, NOW, NOW + HOUR, NOW + HOUR));
        bench.write(|c| judge_plate::judge(c, bench.1, &[], NOW));
        bench
    }

    fn write<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> T {
        self.0.store.write(work).unwrap()
    }

    fn refused<T: std::fmt::Debug>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
    ) -> String {
        self.0.store.write(work).unwrap_err().to_string()
    }

    fn page(&self) -> pages::MiniaturesPage {
        self.0.store.read(|c| pages::load(c, self.0.model)).unwrap()
    }

    fn states(&self) -> Vec<(i64, &'static str)> {
        let page = self.page();
        let state = |m: &Miniature| (m.number, state_of(m, &page.model));
        page.standing.iter().map(state).collect()
    }

    fn put(&self, most: u32) -> Built {
        self.write(|c| put(c, self.0.model, most, NOW))
    }

    fn kept(&self, number: i64) -> (wembrit_core::ids::MiniatureId, i64) {
        let page = self.page();
        let found = page.standing.iter().find(|m| m.number == number).unwrap();
        (found.id, found.keeps[0].mark)
    }

    fn fail(&self, mark: i64) {
        self.write(|c| judge_plate::rejudge(c, self.1, NOW));
        let copies = self.0.store.read(|c| plates::copies_of(c, self.1)).unwrap();
        let id: CopyId = copies
            .iter()
            .filter_map(|c| c.copy.as_ref())
            .find(|c| c.mark == mark)
            .unwrap()
            .id;
        let failed = [Failure {
            copy: id,
            cause: FailureCause::Warped,
            note: String::new(),
        }];
        self.write(|c| judge_plate::judge(c, self.1, &failed, NOW));
    }
}

#[test]
fn two_never_keep_the_same_copy_and_what_fails_leaves_one_open() {
    let bench = Bench::new();
    assert_eq!(bench.put(2), Built { new: 2, filled: 0 });
    assert_eq!(bench.put(u32::MAX), Built { new: 3, filled: 0 });
    assert_eq!(bench.put(u32::MAX), Built::default(), "five are wanted");
    let marks: std::collections::BTreeSet<i64> = (1..=5).map(|n| bench.kept(n).1).collect();
    assert_eq!(marks.len(), 5);
    let (first, mark) = bench.kept(1);
    let (second, _) = bench.kept(2);
    bench.write(|c| go_to(c, bench.0.model, &[first, second], BuildStep::Primed, NOW));
    assert_eq!(bench.states()[0], (1, "primed"));
    bench.fail(mark);
    assert_eq!(bench.states()[0], (1, "open"));
    // All or none of those that were ticked.
    let third = bench.kept(3).0;
    let why = bench.refused(|c| go_to(c, bench.0.model, &[third, first], BuildStep::Painted, NOW));
    assert!(why.contains("number 1 is not complete"), "{why}");
    assert_eq!(bench.states()[2], (3, "complete"));
    // One is given: it goes to the open one, and another mark it is.
    let coming = Coming {
        part: bench.0.part,
        how: Arrived::Gifted,
        copies: 1,
        each: Money(0),
        note: "from a friend".into(),
    };
    bench.write(|c| come(c, &coming, NOW));
    assert_eq!(bench.put(u32::MAX), Built { new: 0, filled: 1 });
    assert_eq!(bench.states()[0], (1, "primed"));
    assert_ne!(bench.kept(1).1, mark);
    let came = bench.page().came.remove(0);
    let why = bench.refused(|c| leave(c, came.id, NOW));
    assert!(why.contains("take that apart first"), "{why}");
    bench.write(|c| take_apart(c, first, NOW));
    bench.write(|c| leave(c, came.id, NOW));
    assert_eq!(bench.states().len(), 4);
    // A number is not given twice.
    bench.write(|c| come(c, &coming, NOW));
    bench.put(u32::MAX);
    assert_eq!(bench.states()[4].0, 6);
}

/// What came counts as good, is not planned again, and costs what was paid; marks go on from it.
#[test]
fn what_came_counts_and_costs() {
    let fresh = Fresh::new(5);
    let coming = Coming {
        part: fresh.part,
        how: Arrived::Bought,
        copies: 2,
        each: Money(350),
        note: String::new(),
    };
    fresh.store.write(|c| come(c, &coming, NOW)).unwrap();
    assert_eq!(fresh.wanted(), 3);
    let (_, model) = fresh.store.read(|c| army::model(c, fresh.model)).unwrap();
    assert_eq!(model.progress.complete, 2);
    let counts = &model.parts[0].counts;
    assert_eq!(counts.living.get(CostKind::Bought), Money(700));
    assert_eq!((counts.came, model.spent()), (2, Money(700)));
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| accept_plan::accept(c, plan, NOW))
        .unwrap();
    let all = fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .unwrap();
    let copies = fresh
        .store
        .read(|c| plates::copies_of(c, all[0].id))
        .unwrap();
    let marks: Vec<i64> = copies
        .iter()
        .filter_map(|c| Some(c.copy.as_ref()?.mark))
        .collect();
    assert_eq!(marks, [3, 4, 5]);
    for none in [0, 501] {
        let coming = Coming {
            copies: none,
            ..coming.clone()
        };
        assert!(fresh.store.write(|c| come(c, &coming, NOW)).is_err());
    }
}

/// Fewer are wanted: copies nobody keeps are set aside first, and none that a miniature keeps.
#[test]
fn kept_copies_are_not_set_aside() {
    let bench = Bench::new();
    bench.put(4);
    let row = bench.page().model.model;
    let fewer = ModelChange {
        name: row.name.clone(),
        quantity: 2,
        base_width_mm: row.base_width_mm,
        base_depth_mm: row.base_depth_mm,
        carries: 0,
    };
    bench.write(|c| muster::change_model(c, row.id, row.row_version, &fewer, NOW));
    let counts = bench.page().model.parts[0].counts.clone();
    assert_eq!(
        (counts.of(Stage::Good), counts.of(Stage::Surplus)),
        (4, 1),
        "four are kept, the fifth is set aside"
    );
    let last = bench.kept(4).0;
    bench.write(|c| take_apart(c, last, NOW));
    assert_eq!(bench.page().model.parts[0].counts.of(Stage::Surplus), 2);
}
