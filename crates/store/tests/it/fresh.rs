//! A fresh workshop with a small army, for the tests.

use tempfile::TempDir;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::army::demand_lines;
use wembrit_core::flow::{FailureCause, PlanScope};
use wembrit_core::ids::{ModelId, PartId, PlanId, PlateId, ProjectId, ResinId, SculptId};
use wembrit_core::mesh::{Mesh, write_stl};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{PlanRequest, make_plan, plan_request};
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::print_time::MachineKind;
use wembrit_core::workshop::resin::{Nature, Viscosity};
use wembrit_store::commands::judge_plate::{self, Failure};
use wembrit_store::commands::muster::{ModelChange, PartChange, UnitChange};
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::resins::ResinChange;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::queries::{army, demand, plans, plates, sculpts};
use wembrit_store::{Conn, Store, StoreError, commands};

/// A time to begin with: 2026-11-24 06:00 UTC.
pub(crate) const NOW: i64 = 1_795_500_000_000;

/// A store in a folder of its own, and what is in it.
pub(crate) struct Fresh {
    pub(crate) store: Store,
    pub(crate) folder: TempDir,
    pub(crate) project: ProjectId,
    pub(crate) model: ModelId,
    pub(crate) part: PartId,
    pub(crate) sculpt: SculptId,
}

/// A tetrahedron of this size as a binary STL.
pub(crate) fn spike(size_mm: f32) -> Vec<u8> {
    let c = [
        [0.0, 0.0, 0.0],
        [size_mm, 0.0, 0.0],
        [0.0, size_mm, 0.0],
        [0.0, 0.0, size_mm],
    ];
    write_stl(&Mesh::weld(
        [[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]].map(|t: [usize; 3]| t.map(|i| c[i])),
    ))
}

pub(crate) fn upload(store: &Store, name: &str, bytes: &[u8]) -> Result<Arrival, StoreError> {
    let packed = commands::sculpts::PackedFile::new(bytes)?;
    store.write(|c| commands::sculpts::take_in(c, name, &packed, NOW))
}

pub(crate) fn measure(store: &Store, id: SculptId) -> Result<(), StoreError> {
    store.write(|c| {
        let measured = measure_file(
            &sculpts::bytes(c, id)?,
            "spike.stl",
            MeasureOptions::at(LayerHeight::USUAL),
            &Unwatched,
        )
        .expect("a good file");
        commands::sculpts::set_measured(c, id, LayerHeight::USUAL, &measured, NOW)
    })
}

impl Fresh {
    /// A second resin, of which only the price is known.
    pub(crate) fn another_resin(&self) -> ResinId {
        let resin = Resin::assumed(ResinId(0), "umber", Money(3800));
        let add = |c: &mut Conn| commands::resins::add(c, &ResinChange::of(resin));
        self.store.write(add).expect("a second resin")
    }

    /// One project with one model of one part, wanted `quantity` times, and one printer.
    pub(crate) fn new(quantity: u32) -> Self {
        let folder = tempfile::tempdir().expect("a folder for the test");
        let store = Store::open(&folder.path().join("w.sqlite")).expect("a fresh file opens");
        let Ok(Arrival::New(sculpt)) = upload(&store, "reed_spike.stl", &spike(20.0)) else {
            panic!("the first upload is new");
        };
        measure(&store, sculpt).expect("it measures");
        let layer = LayerHeight::from_mm(0.05).expect("a usual layer height");
        let filled = store.write(|c| {
            let resin = commands::resins::add(
                c,
                &ResinChange {
                    data_sheet: String::new(),
                    name: "slate".into(),
                    price_per_kg: Money(4000),
                    density_g_per_ml: 1.1,
                    cured_g_per_ml: 1.17,
                    film_mm: 0.05,
                    viscosity: Viscosity::Medium,
                    nature: Nature::Tough,
                    wash_agents: "solvent".into(),
                    safe_mm: 0.5,
                    fuses_mm: 0.2,
                    assumed: String::new(),
                },
            )?;
            commands::printers::add(
                c,
                &PrinterChange {
                    name: "Dunlin".into(),
                    kind: MachineKind::Screen,
                    width_mm: 100.0,
                    depth_mm: 60.0,
                    height_mm: 120.0,
                    margin_mm: 3.0,
                    startup_s: 60.0,
                    pixel_um: 35,
                    removal_mm: 0.0,
                    part_pull: None,
                    plate_pull: None,
                    change_minutes: 25.0,
                    change_ml: 15.0,
                    watts: 50.0,
                    price: Money(0),
                    life_h: 4000.0,
                    assumed: String::new(),
                },
            )?;
            let project = commands::muster::add_project(c, "Levy")?;
            let unit = commands::muster::add_unit(
                c,
                project,
                &UnitChange {
                    name: "Pikers".into(),
                    priority: 1,
                    carrier: None,
                },
            )?;
            let model = ModelChange {
                name: "Piker".into(),
                quantity,
                base_width_mm: 25.0,
                base_depth_mm: 25.0,
                carries: 0,
            };
            let model = commands::muster::add_model(c, unit, &model)?;
            let recipe = RecipeChange {
                scale: 1.0,
                resin,
                layer,
                setup: None,
            };
            let part = PartChange {
                name: "spike".into(),
                count: 1,
                spares: 0,
                sculpt: Some(sculpt),
                option: None,
                recipe,
            };
            let part = commands::muster::add_part(c, model, &part, NOW)?;
            Ok((project, model, part))
        });
        let (project, model, part) = filled.expect("a fresh file takes an army");
        Self {
            store,
            folder,
            project,
            model,
            part,
            sculpt,
        }
    }

    /// What is wanted, part by part.
    pub(crate) fn lines(&self) -> Vec<DemandLine> {
        let army = self.store.read(|c| army::load(c, self.project));
        demand_lines(&army.expect("the army loads"))
    }

    /// What a plan for these lines is made from.
    pub(crate) fn request(&self, lines: &[DemandLine], scope: &PlanScope) -> PlanRequest {
        let facts = self
            .store
            .read(|c| demand::plan_facts(c, self.project, lines));
        plan_request(&facts.expect("the facts load"), lines, scope)
    }

    /// What a plan of everything wanted is made from.
    pub(crate) fn request_all(&self) -> PlanRequest {
        self.request(&self.lines(), &PlanScope::default())
    }

    /// A computed draft of everything wanted.
    pub(crate) fn draft(&self) -> Result<PlanId, StoreError> {
        let plan = self.store.write(|c| {
            commands::ask_plan::ask(
                c,
                self.project,
                &commands::ask_plan::PlanAsk::default(),
                NOW,
            )
        })?;
        let lines = self.store.read(|c| plans::demand_of(c, plan))?;
        let request = self.request(&lines, &PlanScope::default());
        let computed = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
        self.store
            .write(|c| commands::save_plan::set_computed(c, plan, &computed))?;
        Ok(plan)
    }

    /// Every copy of a plate that was printed fails, so that others are wanted.
    pub(crate) fn fails(&self, plate: PlateId, at_ms: i64) {
        let copies = self.store.read(|c| plates::copies_of(c, plate));
        let copies = copies.expect("its copies");
        let failed = copies.iter().filter_map(|c| c.copy.as_ref());
        let failed: Vec<Failure> = failed
            .map(|c| Failure {
                copy: c.id,
                cause: FailureCause::Warped,
                note: String::new(),
            })
            .collect();
        let judge = |c: &mut Conn| judge_plate::judge(c, plate, &failed, at_ms);
        self.store.write(judge).expect("they fail");
    }

    pub(crate) fn wanted(&self) -> u64 {
        let army = self
            .store
            .read(|c| wembrit_store::queries::army::load(c, self.project))
            .expect("the army loads");
        army.parts().map(|(_, _, p)| p.need.wanted()).sum()
    }
}
