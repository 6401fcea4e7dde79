//! A large army goes out in leaves, and files are brought to its parts by typing.

use wembrit_core::ids::{ProjectId, SculptId};
use wembrit_store::commands::muster::{ModelChange, UnitChange};
use wembrit_store::commands::sculpts::{Arrival, PackedFile};
use wembrit_store::queries::{army, sculpts};
use wembrit_store::{Store, commands};

use crate::app::{NOW, TestApp};

const UNITS: usize = 24;
const MODELS: usize = 16;
const MOST_BYTES: usize = 300_000;

/// Units of models that have no parts yet; every second model is called as one of another unit.
fn levy(store: &Store) -> ProjectId {
    let made = store.write(|c| {
        let project = commands::muster::add_project(c, "Great levy")?;
        for unit in 0..UNITS {
            let change = UnitChange {
                name: format!("Company {unit}"),
                priority: 1,
                carrier: None,
            };
            let id = commands::muster::add_unit(c, project, &change)?;
            for model in 0..MODELS {
                let of = if model % 2 == 0 { unit } else { 0 };
                let change = ModelChange {
                    name: format!("Levy {of}.{model}"),
                    quantity: 12,
                    base_width_mm: 25.0,
                    base_depth_mm: 25.0,
                    carries: 0,
                };
                commands::muster::add_model(c, id, &change)?;
            }
        }
        Ok::<_, wembrit_store::StoreError>(project)
    });
    made.unwrap()
}

/// Files that no part names: a tetrahedron each, with another head.
fn files(store: &Store, many: u8) -> Vec<SculptId> {
    let corner = |v: [f32; 3]| v.map(f32::to_le_bytes).concat();
    let (a, b, c, d) = ([0.0; 3], [9.0, 0.0, 0.0], [0.0, 9.0, 0.0], [0.0, 0.0, 9.0]);
    let faces = [[a, c, b], [a, b, d], [a, d, c], [b, c, d]];
    let one = |n: u8| {
        let mut bytes = vec![n; 80];
        bytes.extend(4_u32.to_le_bytes());
        for face in faces {
            bytes.extend([0; 12]);
            bytes.extend(face.iter().flat_map(|v| corner(*v)));
            bytes.extend([0; 2]);
        }
        let packed = PackedFile::new(&bytes).unwrap();
        let name = format!("odd thing {n}.stl");
        let taken = store.write(|c| commands::sculpts::take_in(c, &name, &packed, NOW));
        let (Arrival::New(id) | Arrival::Known(id)) = taken.unwrap();
        id
    };
    (1..=many).map(one).collect()
}

#[tokio::test]
async fn a_large_army_is_sent_in_leaves() {
    let app = TestApp::demo();
    let project = levy(&app.store);
    for page in ["muster", "progress"] {
        let path = format!("/projects/{project}/{page}");
        let first = app.get(&path).await;
        first
            .is(200)
            .says("Units 1 to")
            .says("The next")
            .says("Levy 0.0");
        assert!(first.body.len() < MOST_BYTES, "{}", first.body.len());
        assert!(!first.body.contains("Levy 23.0"));
        let last = app.get(&format!("{path}?from=23")).await;
        last.says("to 24 of 24").says("Before").says("Levy 23.0");
        assert!(!last.body.contains("Levy 0.0"));
        // What is counted is counted over all of it, on every leaf.
        last.says(&format!("/{}</dd>", UNITS * MODELS * 12));
        app.get(&format!("{path}?from=x")).await.says("Units 1 to");
    }
    // A small one is sent whole.
    assert!(
        !app.get("/projects/1/muster")
            .await
            .body
            .contains("The next")
    );
}

#[tokio::test]
async fn files_are_brought_to_many_models_by_typing() {
    let app = TestApp::demo();
    let before = app.store.read(sculpts::without_part).unwrap().len();
    let project = levy(&app.store);
    let files = files(&app.store, 45);
    let path = format!("/projects/{project}/match");
    let page = app.get(&path).await;
    page.is(200)
        .says("list=\"places\"")
        .says(&format!("Files 1 to 40 of {}", before + 45))
        .says("value=\"Levy 0.1, Company 7\"");
    assert!(page.body.len() < MOST_BYTES, "{}", page.body.len());
    let rest = app.get(&format!("{path}?from=40")).await;
    rest.says("Files 41 to ").says("From the first");
    let form = |to: &str| {
        let id = files[0];
        format!("sculpt={id}&to_{id}={to}&name_{id}=Body&count_{id}=1")
    };
    app.post(&path, &form("Levy+nobody"))
        .await
        .is(400)
        .says("pick one from the list");
    app.post(&path, &form("Levy+0.1,+Company+7")).await.is(303);
    let whole = app.store.read(|c| army::load(c, project)).unwrap();
    let unit = whole
        .units
        .iter()
        .find(|u| u.unit.name == "Company 7")
        .unwrap();
    let model = unit
        .models
        .iter()
        .find(|m| m.model.name == "Levy 0.1")
        .unwrap();
    assert_eq!(model.parts.len(), 1);
    assert_eq!(model.parts[0].part.sculpt, Some(files[0]));
}
