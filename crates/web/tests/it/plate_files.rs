//! Plates as files: read back by our own reader, and by trimesh where Python has it.

use std::io::Write as _;
use std::process::Command;

use wembrit_core::flow::PlateState;
use wembrit_core::ids::ProjectId;
use wembrit_core::mesh::{measure_mesh, read_mesh};
use wembrit_store::queries::plates;

use crate::app::TestApp;

/// The same copies, places and volume in both formats; the name follows what stands on the plate.
#[tokio::test]
async fn a_plate_comes_back_from_its_files() {
    let app = TestApp::demo();
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let fewest = all
        .iter()
        .filter(|p| p.state == PlateState::Planned)
        .min_by_key(|p| {
            let on = app.store.read(|c| plates::copies_of(c, p.id));
            on.unwrap().len()
        });
    let plate = fewest.expect("one waits");
    let copies = app.store.read(|c| plates::copies_of(c, plate.id)).unwrap();
    let path = |format: &str| format!("/plates/{}/mesh/{format}", plate.id);
    let (_, stl) = app.download(&path("stl")).await;
    let (headers, three) = app.download(&path("3mf")).await;
    let name = headers["content-disposition"].to_str().unwrap();
    assert!(name.contains(&format!("plate-{}-", plate.number)), "{name}");
    let sheet = app.get(&format!("/plates/{}", plate.id)).await;
    let code = name.rsplit('-').next().unwrap().split('.').next().unwrap();
    sheet.says(code);
    app.get(&format!("/plates/{}/run", plate.id))
        .await
        .says(&format!("plate-{}-{code}", plate.number));
    let read = |bytes: &[u8], name: &str| {
        let mesh = read_mesh(bytes, name).unwrap();
        (
            mesh.bounds(),
            measure_mesh(&mesh).volume_mm3,
            mesh.triangles().len(),
        )
    };
    let (a, b) = (read(&stl, "p.stl"), read(&three, "p.3mf"));
    assert_eq!(a.2, b.2);
    for k in 0..3 {
        assert!((a.0.0[k] - b.0.0[k]).abs() < 0.01 && (a.0.1[k] - b.0.1[k]).abs() < 0.01);
    }
    assert!((a.1 / b.1 - 1.0).abs() < 1e-3, "{} and {}", a.1, b.1);
    // As tall as the sheet says, and where the copies stand.
    assert!((a.0.1[2] - plate.height_mm).abs() < 0.05, "{}", a.0.1[2]);
    let middle = |k: usize| copies.iter().map(move |c| c.placed.at_mm[k]);
    for k in 0..2 {
        assert!(middle(k).all(|at| a.0.0[k] < at && at < a.0.1[k]));
    }
    in_python(&stl, &three, copies.len(), a.1);
    app.get(&path("obj")).await.is(404);
}

/// A general-purpose mesh library says the same (trimesh, PyPI); skipped where it is not there.
fn in_python(stl: &[u8], three: &[u8], copies: usize, volume_mm3: f64) {
    let folder = tempfile::tempdir().unwrap();
    let put = |name: &str, bytes: &[u8]| {
        let path = folder.path().join(name);
        std::fs::File::create(&path)
            .unwrap()
            .write_all(bytes)
            .unwrap();
        path
    };
    let script = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/read_plate.py");
    let python = std::env::var("WEMBRIT_PYTHON").unwrap_or_else(|_| "python3".into());
    let ran = Command::new(python)
        .arg(script)
        .args([put("p.stl", stl), put("p.3mf", three)])
        .args([copies.to_string(), volume_mm3.to_string()])
        .output();
    let Ok(ran) = ran else { return };
    let said = String::from_utf8_lossy(&ran.stdout).into_owned();
    let why = String::from_utf8_lossy(&ran.stderr).into_owned();
    assert!(ran.status.success(), "{said}{why}");
}

/// One line for each plate, every mark once; a spreadsheet runs nothing of it.
#[tokio::test]
async fn plates_are_tables() {
    let app = TestApp::demo();
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let csv = app.get("/projects/1/plates/csv").await;
    let mut reader = csv::Reader::from_reader(csv.body.as_bytes());
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    assert_eq!(rows.len(), all.len());
    for (row, plate) in rows.iter().zip(&all) {
        assert_eq!(row[0], plate.number.to_string());
        let hours: f64 = row[8].parse().unwrap();
        assert!((hours * 3600.0 - plate.seconds).abs() < 1.0);
    }
    let json = app.get("/projects/1/plates/json").await;
    let read: serde_json::Value = serde_json::from_str(&json.body).unwrap();
    let listed = read["plates"].as_array().unwrap();
    let on = |p: &serde_json::Value| p["copies"].as_array().unwrap().len();
    let copies: usize = listed.iter().map(on).sum();
    let in_csv: usize = rows.iter().map(|r| r[12].parse::<usize>().unwrap()).sum();
    assert_eq!((read["format"].as_u64(), copies), (Some(1), in_csv));
    app.get("/projects/1/plates/xml").await.is(404);
}
