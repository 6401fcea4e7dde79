//! An army of somebody who has never been here: a list as it was written, a folder of files, bases of
//! the wrong size, a sealed hollow. By keyboard alone, to a plan in which nothing stands open.

use std::path::{Path, PathBuf};

use wembrit_core::mesh::{Mesh, write_stl};

use crate::browser::{Browser, ENTER, Served, TAB};

const LIST: &str = "The Saltmarsh Watch (1,450 pts)

Wardens
  12 Marsh wardens on 25mm bases (8 pts each)
    - 12 lanterns
  4 Reeve bowmen, 25 mm [60 pts]
  Reeve captain, 25mm
Beasts
  1 Mud ox, 60x35 mm oval - 120 pts
    - yoke
Total: 18 models, 1450 pts";

type Faces = Vec<[[f32; 3]; 3]>;

/// An upright post of many sides, wide and deep, standing at a height.
fn post(sides: usize, [wide, deep]: [f32; 2], z: [f32; 2]) -> Faces {
    let rim = |i: usize, z: f32| {
        let (sin, cos) = (i as f32 / sides as f32 * std::f32::consts::TAU).sin_cos();
        [wide / 2.0 * cos, deep / 2.0 * sin, z]
    };
    let side = |i: usize| {
        let (a, b, c, d) = (
            rim(i, z[0]),
            rim(i + 1, z[0]),
            rim(i + 1, z[1]),
            rim(i, z[1]),
        );
        [
            [a, b, c],
            [a, c, d],
            [[0.0, 0.0, z[0]], b, a],
            [[0.0, 0.0, z[1]], d, c],
        ]
    };
    (0..sides).flat_map(side).collect()
}

/// A figure: a foot, a body that is wider, a head.
fn figure(tall: f32) -> Faces {
    [
        post(12, [5.0, 5.0], [0.0, tall * 0.4]),
        post(16, [11.0, 8.0], [tall * 0.38, tall * 0.8]),
        post(12, [6.0, 6.0], [tall * 0.78, tall]),
    ]
    .concat()
}

/// Twenty-four files as they lie in a folder.
fn folder(of: &Path) -> Vec<PathBuf> {
    let mut files: Vec<(String, Faces)> = Vec::new();
    for (name, many, size) in [("Marsh_Warden", 12, 0.0), ("Reeve_Bowman", 4, 0.4)] {
        let parts = [
            ("body", figure(26.0 + size)),
            ("head", post(14, [6.0, 6.0], [0.0, 7.0 + size])),
            ("arm_L", post(8, [3.0, 2.5], [0.0, 11.0 + size])),
            ("arm_R", post(8, [3.0, 2.6], [0.0, 11.2 + size])),
            ("base", post(48, [30.0 + size, 30.0 + size], [0.0, 3.0])),
            ("weapon", post(6, [2.0, 2.0], [0.0, 22.0 + size])),
        ];
        let named = |(part, faces): (&str, Faces)| (format!("{name}_{part}_x{many}"), faces);
        files.extend(parts.map(named));
    }
    let captain = [
        ("body", figure(30.0)),
        ("head", post(14, [6.4, 6.2], [0.0, 7.8])),
        ("cloak", post(16, [14.0, 3.0], [0.0, 24.0])),
        ("sword", post(4, [2.0, 1.4], [0.0, 25.0])),
    ];
    files.extend(captain.map(|(part, faces)| (format!("Reeve Captain {part} (1)"), faces)));
    // Air shut in: the inner walls look inward.
    let inner: Faces = post(24, [26.0, 12.0], [5.0, 19.0]);
    let hollow = inner.into_iter().map(|[a, b, c]| [a, c, b]);
    let ox = [
        (
            "body",
            [post(24, [40.0, 22.0], [0.0, 24.0]), hollow.collect()].concat(),
        ),
        ("head", post(16, [12.0, 10.0], [0.0, 14.0])),
        ("horn-left", post(8, [3.0, 3.0], [0.0, 12.0])),
        ("horn-right", post(8, [3.0, 3.0], [0.0, 12.4])),
        ("yoke", post(8, [30.0, 4.0], [0.0, 3.0])),
        ("tail", post(8, [2.4, 2.4], [0.0, 16.0])),
        ("saddle", post(12, [16.0, 14.0], [0.0, 5.0])),
        ("base", post(48, [60.0, 35.0], [0.0, 3.0])),
    ];
    files.extend(ox.map(|(part, faces)| (format!("mud-ox-{part}"), faces)));
    let write = |(name, faces): (String, Faces)| {
        let path = of.join(format!("{name}.stl"));
        std::fs::write(&path, write_stl(&Mesh::weld(faces))).unwrap();
        path
    };
    files.into_iter().map(write).collect()
}

/// Goes through what stands open: a base too wide is divided, all else is as it should be.
async fn answer_all(b: &Browser) {
    const NOTHING: &str = "Nothing stands open";
    for _ in 0..24 {
        b.key('2').await;
        b.read(".concerns > summary", "").await;
        if b.text(".concerns > summary").await.contains(NOTHING) {
            return;
        }
        if b.count(".concerns[open]").await == 0 {
            b.enter(".concerns > summary").await;
        }
        if b.count(".concerns > ul > li a[href*='/scale']").await > 0 {
            b.enter(".concerns > ul > li a[href*='/scale']").await;
            b.read(".division", "25.00 ÷ 30.").await;
            b.enter(".proposal .button.main").await;
            b.read(".heading", "now 8").await;
            continue;
        }
        b.enter(".concerns > ul > li:first-child summary").await;
        b.key(TAB).await;
        b.keys("seen").await;
        b.key(ENTER).await;
        b.read("h1", "Saltmarsh").await;
    }
    panic!("{} still", b.text(".concerns").await);
}

#[tokio::test(flavor = "multi_thread")]
async fn an_army_of_a_newcomer_ends_in_a_plan_with_every_warning_answered() {
    let folder_of = tempfile::tempdir().unwrap();
    let file = folder_of.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    b.three_answers("30").await;
    b.enter(".button.main").await;
    b.read("h1", "Project").await;
    b.walk_to("[name=name]").await;
    b.keys("Saltmarsh").await;
    b.enter(".button.main").await;

    // The list as it is: what may be a heading, a kit or a sum is asked, never taken.
    b.enter("a[href$='/roster']").await;
    b.see("textarea").await.send_keys(LIST).await.unwrap();
    b.enter(".button.main").await;
    b.read("h1", "Army list").await;
    assert_eq!(b.count("[name^='take_']:checked").await, 4);
    b.walk_to("[name='quantity_5']").await;
    b.keys("1").await;
    b.enter(".button.main").await;
    b.read(".titleblock", "0/18").await;
    assert_eq!(b.count(".unit").await, 2);

    // The folder: every file finds its model, one of each in every model.
    b.enter("a[href$='/match']").await;
    b.read("h1", "Files for parts").await;
    b.choose_files(&folder(folder_of.path())).await;
    b.enter(".drop .button").await;
    b.read(".notice", "24 new files arrived").await;
    b.enter(".button.main").await;
    b.read("main", "Every file has a part").await;
    b.goto_until("/projects/1/muster", "shuts in").await;
    b.read(".titleblock", "108").await;

    // Parts hang by the practice and are measured so; then everything that stands open is answered.
    until_drawn(&b).await;
    answer_all(&b).await;

    // One head in each model, and no word is asked before the plan is accepted.
    for (model, heads) in [("1", "12"), ("2", "4"), ("3", "1"), ("4", "1")] {
        b.goto(&format!("/models/{model}")).await;
        let row = "//main//table//tr[td[1][contains(., 'Head')]]";
        let row = b
            .client
            .find(fantoccini::Locator::XPath(row))
            .await
            .unwrap();
        let row = row.text().await.unwrap();
        let figures: Vec<&str> = row.split_whitespace().collect();
        assert!(figures.contains(&"1") && figures.contains(&heads), "{row}");
    }
    b.key('4').await;
    b.read("main", "108 copies are wanted").await;
    b.enter(".button.main").await;
    b.read("main", "Accept this plan").await;
    assert_eq!(b.count(".concerns li form[action$='/aside']").await, 0);
    b.enter("form[action$='/accept'] .button").await;
    b.read("main", "waits for its run").await;
    b.read("main", "Nothing is waiting to be planned").await;
    b.close().await;
}

/// Waits until every part has the picture of how it hangs.
async fn until_drawn(b: &Browser) {
    for _ in 0..200 {
        b.goto("/projects/1/setups").await;
        let words = b.text("main").await;
        if !["being measured", "not drawn yet", "no measured sculpt"]
            .iter()
            .any(|open| words.contains(open))
        {
            return;
        }
        tokio::time::sleep(std::time::Duration::from_millis(250)).await;
    }
    panic!("{}", b.text("main").await);
}
