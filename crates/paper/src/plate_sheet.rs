//! A plate as a workshop drawing: the plan, and the elevation under it on the same x axis.

use std::collections::BTreeMap;
use std::sync::Arc;

use svg::Document;
use svg::node::element::{Circle, Group, Rectangle, Title, Use};
use wembrit_core::army::copy_name;
use wembrit_core::geometry::{Outline, Point};
use wembrit_core::layers::HeightProfile;

use crate::ink::{RAMP, line, ramp_class, round, ruler_step, shape, words};
use crate::shared::{SharedOutlines, SharedSkylines};

/// One copy on the plate.
#[derive(Debug, Clone)]
pub struct DrawnCopy {
    /// What the page knows it by.
    pub key: String,
    /// The name of its part.
    pub name: String,
    /// Its mark, once it has one.
    pub mark: Option<i64>,
    /// Outline about its own origin at print scale, mm.
    pub outline: Arc<Outline>,
    /// Skyline at file scale.
    pub profile: Arc<HeightProfile>,
    /// Its scale.
    pub scale: f64,
    /// Where its origin stands on the plate, mm.
    pub at_mm: Point,
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// Its height, mm.
    pub height_mm: f64,
    /// It was judged failed.
    pub failed: bool,
    /// It stays where it stands.
    pub pinned: bool,
}

/// What a plate does to the film in each slab above it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct DrawnLoad {
    /// Height of a slab, mm.
    pub slab_mm: f64,
    /// Section area, mm².
    pub area_mm2: Vec<f64>,
    /// Pull, as an index.
    pub pull: Vec<f64>,
    /// Most it may pull.
    pub cap: Option<f64>,
}

/// A plate with what stands on it.
#[derive(Debug, Clone)]
pub struct PlateDrawing {
    /// Width of the plate, mm.
    pub width_mm: f64,
    /// Depth of the plate, mm.
    pub depth_mm: f64,
    /// Rim that stays free, mm.
    pub margin_mm: f64,
    /// The copies.
    pub copies: Vec<DrawnCopy>,
    /// Its load, where it is known of every copy.
    pub load: Option<DrawnLoad>,
    /// Copies may be moved by hand.
    pub by_hand: bool,
}

impl PlateDrawing {
    pub(crate) fn tallest(&self) -> Option<&DrawnCopy> {
        self.copies
            .iter()
            .max_by(|a, b| a.height_mm.total_cmp(&b.height_mm))
    }

    /// The copies, each with how it is inked: by its height, and by what sets it apart from others of its part.
    pub(crate) fn inked(&self) -> Vec<Inked<'_>> {
        let tallest = self.tallest();
        let most = tallest.map_or(0.0, |t| t.height_mm);
        let inked = |copy| {
            let DrawnCopy {
                key,
                height_mm,
                pinned,
                failed,
                ..
            }: &DrawnCopy = copy;
            let apart = [
                (tallest.is_some_and(|t| t.key == *key), "is-tallest"),
                (*pinned, "is-pinned"),
                (*failed, "is-failed"),
            ];
            let apart = apart.iter().filter(|(is, _)| *is).map(|(_, class)| *class);
            Inked {
                copy,
                class: format!("copy {}", ramp_class(*height_mm, most)),
                apart: apart.collect::<Vec<_>>().join(" "),
            }
        };
        self.copies.iter().map(inked).collect()
    }
}

/// A copy with its classes.
pub(crate) struct Inked<'a> {
    pub(crate) copy: &'a DrawnCopy,
    /// What all as tall as it share.
    pub(crate) class: String,
    /// What is its own; often nothing.
    pub(crate) apart: String,
}

impl Inked<'_> {
    /// All its classes, where it stands in no group.
    pub(crate) fn classes(&self) -> String {
        if self.apart.is_empty() {
            return self.class.clone();
        }
        format!("{} {}", self.class, self.apart)
    }

    /// What stands for it in a drawing, within a group that has its class.
    fn own(&self, shape: Use) -> Use {
        let shape = shape.set("data-copy", self.copy.key.as_str());
        if self.apart.is_empty() {
            return shape;
        }
        shape.set("class", self.apart.as_str())
    }
}

const LEFT: f64 = 44.0;
const RIGHT: f64 = 12.0;
const TOP: f64 = 26.0;
const PLAN_WIDTH: f64 = 700.0;
const PLAN_HEIGHT: f64 = 400.0;
/// Width of the load curve, and the gap before it.
const LOAD: f64 = 168.0;
const LOAD_GAP: f64 = 26.0;
const BETWEEN: f64 = 52.0;
const ELEVATION: f64 = 150.0;
const FOOT: f64 = 10.0;
/// A shape may be off by so much: a quarter of a pixel is not seen.
const TOLERANCE: f64 = 0.25;
/// Copies up to which an elevation is drawn as finely as that.
const MANY: f64 = 120.0;
/// So many times coarser at most: a pixel.
const COARSEST: f64 = 4.0;

/// The whole sheet: plan seen from the film, elevation turned upright under it.
#[must_use]
pub fn draw_plate_sheet(plate: &PlateDrawing) -> String {
    let scale = (PLAN_WIDTH / plate.width_mm).min(PLAN_HEIGHT / plate.depth_mm);
    let (width, depth) = (plate.width_mm * scale, plate.depth_mm * scale);
    let floor = TOP + depth + BETWEEN + ELEVATION;
    let document = Document::new()
        .set(
            "viewBox",
            (
                0,
                0,
                round(LEFT + width + LOAD_GAP + LOAD + RIGHT),
                round(floor + FOOT),
            ),
        )
        .set("data-scale", round(scale * 1000.0) / 1000.0)
        .set("class", "plate-sheet")
        .set("role", "group")
        .set("aria-label", "Plan, elevation and load of the plate")
        .add(draw_plan(plate, scale))
        .add(draw_elevation(plate, scale, floor))
        .add(draw_load(plate, scale, LEFT + width + LOAD_GAP, floor));
    document.to_string()
}

fn draw_plan(plate: &PlateDrawing, scale: f64) -> Group {
    let place = |p: Point| [LEFT + p[0] * scale, TOP + (plate.depth_mm - p[1]) * scale];
    let edge = |inset: f64, class: &str| {
        let from = place([inset, plate.depth_mm - inset]);
        Rectangle::new()
            .set("class", class)
            .set("x", round(from[0]))
            .set("y", round(from[1]))
            .set("width", round((plate.width_mm - 2.0 * inset) * scale))
            .set("height", round((plate.depth_mm - 2.0 * inset) * scale))
    };
    let mut group = Group::new()
        .set("class", "plan")
        .add(words("PLAN", [LEFT, TOP - 10.0], "caption"))
        .add(words(
            "seen from the film, mm",
            [LEFT + 38.0, TOP - 10.0],
            "caption-soft",
        ))
        .add(draw_ramp(plate, LEFT + plate.width_mm * scale))
        .add(edge(0.0, "plate-edge"))
        .add(edge(plate.margin_mm, "plate-margin"));
    let step = ruler_step(plate.width_mm, 12.0);
    for mark in 0..=(plate.width_mm / step).floor() as usize {
        let x = mark as f64 * step;
        let at = place([x, 0.0]);
        group = group.add(line(at, [at[0], at[1] + 5.0], "tick")).add(words(
            &format!("{x:.0}"),
            [at[0], at[1] + 17.0],
            "ruler middle",
        ));
    }
    for mark in 0..=(plate.depth_mm / step).floor() as usize {
        let y = mark as f64 * step;
        let at = place([0.0, y]);
        group = group.add(line([at[0] - 5.0, at[1]], at, "tick")).add(words(
            &format!("{y:.0}"),
            [at[0] - 9.0, at[1] + 4.0],
            "ruler end",
        ));
    }
    let mut outlines = SharedOutlines::new("outline-", scale, TOLERANCE);
    // Copies of a part share their name: a page of hundreds stays small. A script adds each one's mark to it.
    let mut parts: BTreeMap<String, Group> = BTreeMap::new();
    for inked in plate.inked() {
        let copy = inked.copy;
        let name = format!("{}, {:.1} mm tall", copy.name, copy.height_mm);
        let at = place(copy.at_mm);
        let mut shape = inked.own(outlines.set_down(&copy.outline, copy.rotation_deg, at));
        if let Some(mark) = copy.mark {
            shape = shape.set("data-mark", mark);
        }
        if plate.by_hand {
            shape = shape
                .set("data-x", round(copy.at_mm[0] * 1000.0) / 1000.0)
                .set("data-y", round(copy.at_mm[1] * 1000.0) / 1000.0)
                .set("data-turn", round(copy.rotation_deg * 1000.0) / 1000.0);
        }
        let part = parts.remove(&name).unwrap_or_else(|| {
            let part = Group::new().set("class", inked.class);
            part.add(Title::new(name.as_str()))
        });
        parts.insert(name, part.add(shape));
    }
    group = group.add(outlines.definitions());
    group = parts.into_values().fold(group, Group::add);
    for copy in plate.copies.iter().filter(|c| c.pinned) {
        let [x, y] = place(copy.at_mm);
        let head = Circle::new()
            .set("class", "pin")
            .set("cx", round(x))
            .set("cy", round(y - 7.0))
            .set("r", 4);
        group = group.add(line([x, y - 4.0], [x, y + 4.0], "pin")).add(head);
    }
    group
}

/// Area and pull over the height, on the elevation's own scale of heights.
fn draw_load(plate: &PlateDrawing, scale: f64, left: f64, floor: f64) -> Group {
    let tallest = plate.tallest().map_or(10.0, |t| t.height_mm);
    let up = upward(scale, tallest);
    let caption = floor - ELEVATION - 4.0;
    let mut group =
        Group::new()
            .set("class", "load")
            .add(words("LOAD", [left, caption], "caption"));
    let Some(load) = plate.load.as_ref().filter(|l| !l.pull.is_empty()) else {
        return group.add(words(
            "not measured yet",
            [left + 42.0, caption],
            "caption-soft",
        ));
    };
    group = group
        .add(words(
            "area, and pull in discs",
            [left + 42.0, caption],
            "caption-soft",
        ))
        .add(line([left, floor], [left, floor - tallest * up], "floor"));
    let across = LOAD - 34.0;
    let largest = |values: &[f64]| values.iter().copied().fold(0.0, f64::max);
    let (most_area, most_pull) = (largest(&load.area_mm2), largest(&load.pull));
    let wide = most_pull.max(load.cap.unwrap_or(0.0)).max(1e-9);
    let z = |slab: usize| floor - (slab as f64 * load.slab_mm).min(tallest) * up;
    let steps = |values: &[f64], most: f64| {
        let mut points = vec![[left, floor]];
        for (slab, value) in values.iter().enumerate() {
            let x = left + value / most.max(1e-9) * across;
            points.extend([[x, z(slab)], [x, z(slab + 1)]]);
        }
        points.push([left, z(values.len())]);
        points
    };
    group = group
        .add(shape(&steps(&load.area_mm2, most_area), "load-area"))
        .add(shape(&steps(&load.pull, wide), "load-pull"));
    if let Some(cap) = load.cap {
        let x = left + cap / wide * across;
        group = group
            .add(line([x, floor], [x, floor - tallest * up], "load-cap"))
            .add(words(
                &format!("may pull {cap:.0}"),
                [x, floor - tallest * up - 4.0],
                "ruler middle",
            ));
    }
    let (slab, peak) = peak(&load.pull);
    let at = [left + peak / wide * across, (z(slab) + z(slab + 1)) / 2.0];
    let dot = Circle::new()
        .set("class", "load-peak")
        .set("cx", round(at[0]))
        .set("cy", round(at[1]))
        .set("r", 4);
    group
        .add(dot)
        .add(words(
            &format!("peak pull {peak:.1}"),
            [at[0] + 6.0, (at[1] - 8.0).max(caption + 14.0)],
            "note end",
        ))
        .add(words(
            &format!("{most_area:.0} mm²"),
            [left + across, floor - tallest * up - 4.0],
            "ruler end",
        ))
}

/// The slab that pulls hardest, and how hard.
fn peak(pull: &[f64]) -> (usize, f64) {
    let all = pull.iter().copied().enumerate();
    all.fold(
        (0, 0.0),
        |best, (slab, pull)| {
            if pull > best.1 { (slab, pull) } else { best }
        },
    )
}

/// Pixels to a millimetre upward in the elevation.
fn upward(scale: f64, tallest_mm: f64) -> f64 {
    scale.min((ELEVATION - 26.0) / tallest_mm.max(1.0))
}

/// What the tints mean: pale is low, deep is the tallest part of this plate.
fn draw_ramp(plate: &PlateDrawing, right: f64) -> Group {
    let tallest = plate.tallest().map_or(0.0, |t| t.height_mm);
    let (step, y) = (14.0, TOP - 19.0);
    let left = right - 92.0 - step * RAMP as f64;
    let mut group =
        Group::new()
            .set("class", "key")
            .add(words("0", [left - 6.0, y + 9.0], "ruler end"));
    for index in 0..RAMP {
        let patch = Rectangle::new()
            .set("class", format!("h{index} key-edge"))
            .set("x", round(left + step * index as f64))
            .set("y", y)
            .set("width", step)
            .set("height", 10);
        group = group.add(patch);
    }
    group.add(words(
        &format!("{tallest:.0} mm tall"),
        [right, y + 9.0],
        "ruler end",
    ))
}

fn draw_elevation(plate: &PlateDrawing, scale: f64, floor: f64) -> Group {
    let width = plate.width_mm * scale;
    let tallest = plate.tallest();
    let height = tallest.map_or(10.0, |t| t.height_mm);
    let up = upward(scale, height);
    let caption = floor - ELEVATION - 4.0;
    let mut group = Group::new()
        .set("class", "elevation")
        .add(words("ELEVATION", [LEFT, caption], "caption"))
        .add(words(
            "as it hangs, turned upright",
            [LEFT + 78.0, caption],
            "caption-soft",
        ));
    let step = ruler_step(height, 6.0);
    for mark in 0..=((ELEVATION - 12.0) / up / step).floor() as usize {
        let z = mark as f64 * step;
        let y = floor - z * up;
        group = group
            .add(line(
                [LEFT, y],
                [LEFT + width, y],
                if mark == 0 { "floor" } else { "grid" },
            ))
            .add(words(
                &format!("{z:.0}"),
                [LEFT - 9.0, y + 4.0],
                "ruler end",
            ));
    }
    let mut copies = plate.inked();
    copies.sort_by(|a, b| b.copy.height_mm.total_cmp(&a.copy.height_mm));
    // Hundreds of copies hide each other on so low a strip: nobody sees how their edges run.
    let coarser = (copies.len() as f64 / MANY).clamp(1.0, COARSEST);
    let mut skylines = SharedSkylines::new("side-", [scale, up], TOLERANCE * coarser);
    let mut drawn = Group::new().set("transform", format!("translate({LEFT} {})", round(floor)));
    // The tallest stand behind; those that are tinted alike, one after the other, are one group.
    for alike in copies.chunk_by(|a, b| a.class == b.class) {
        let mut tint = Group::new().set("class", alike[0].class.as_str());
        for inked in alike {
            let shape = skylines.set_down(inked.copy, inked.copy.at_mm[0] * scale);
            tint = tint.add(inked.own(shape));
        }
        drawn = drawn.add(tint);
    }
    group = group.add(skylines.definitions()).add(drawn);
    if let Some(copy) = tallest {
        let y = floor - copy.height_mm * up;
        let left = copy.at_mm[0] > plate.width_mm / 2.0;
        let (x, class) = if left {
            (LEFT + 4.0, "note")
        } else {
            (LEFT + width - 4.0, "note end")
        };
        group = group
            .add(line([LEFT, y], [LEFT + width, y], "sets-hours"))
            .add(words(
                &format!(
                    "{:.1} mm sets the hours: {}",
                    copy.height_mm,
                    copy_name(&copy.name, copy.mark)
                ),
                [x, y - 6.0],
                class,
            ));
    }
    group
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use wembrit_core::layers::{HeightProfile, ProfileBand};

    pub(crate) fn copy(key: &str, at_mm: Point, height_mm: f64, failed: bool) -> DrawnCopy {
        let corners = vec![
            [0.0, 0.0],
            [20.0, 0.0],
            [20.0, 6.0],
            [6.0, 6.0],
            [6.0, 24.0],
            [0.0, 24.0],
        ];
        let band = ProfileBand {
            from_mm: 0.0,
            to_mm: height_mm,
            reach_mm: vec![5.0; 36],
        };
        DrawnCopy {
            key: key.into(),
            name: format!("ell & <{key}>"),
            mark: Some(17),
            outline: Arc::new(Outline::try_new(corners).unwrap()),
            profile: Arc::new(HeightProfile(vec![band].into())),
            scale: 1.0,
            at_mm,
            rotation_deg: 0.0,
            height_mm,
            failed,
            pinned: false,
        }
    }

    pub(crate) fn plate() -> PlateDrawing {
        PlateDrawing {
            width_mm: 100.0,
            depth_mm: 50.0,
            margin_mm: 3.0,
            by_hand: false,
            load: Some(DrawnLoad {
                slab_mm: 1.0,
                area_mm2: vec![40.0; 31],
                pull: [vec![1.5; 4], vec![6.25], vec![0.5; 26]].concat(),
                cap: None,
            }),
            copies: vec![
                copy("1", [10.0, 10.0], 12.0, false),
                copy("2", [50.0, 10.0], 31.0, true),
            ],
        }
    }

    #[test]
    fn every_copy_stands_in_plan_and_elevation_and_names_are_escaped() {
        let drawing = draw_plate_sheet(&plate());
        for key in ["1", "2"] {
            assert_eq!(drawing.matches(&format!("data-copy=\"{key}\"")).count(), 2);
        }
        assert!(drawing.contains("31.0 mm sets the hours"));
        assert!(!drawing.contains("<2>"), "names are text, not markup");
        assert!(
            !drawing.contains("style="),
            "inline styles are blocked by the page's policy"
        );
    }

    /// Copies that look alike are drawn once, from above and from the side; one that is turned looks otherwise.
    #[test]
    fn copies_that_look_alike_share_their_shapes() {
        let mut plate = plate();
        let one = plate.copies[0].clone();
        let again = |i: i32| DrawnCopy {
            key: format!("again {i}"),
            at_mm: [f64::from(i), 20.0],
            ..one.clone()
        };
        plate.copies = (0..300).map(again).collect();
        let drawing = draw_plate_sheet(&plate);
        for shape in ["outline-", "side-"] {
            assert_eq!(drawing.matches(&format!("id=\"{shape}")).count(), 1);
            assert_eq!(drawing.matches(&format!("#{shape}0\"")).count(), 300);
        }
        assert!(drawing.len() < 50_000, "{}", drawing.len());
        assert_eq!(drawing.matches("<title>").count(), 1, "of one part");
        plate.copies[7].rotation_deg = 90.0;
        let drawing = draw_plate_sheet(&plate);
        assert_eq!(drawing.matches("id=\"side-").count(), 2);
    }

    #[test]
    fn the_load_names_its_peak_and_copies_moved_by_hand_know_where_they_stand() {
        let mut plate = plate();
        let drawing = draw_plate_sheet(&plate);
        assert!(drawing.contains("peak pull 6.2") && drawing.contains("40 mm²"));
        assert!(!drawing.contains("data-turn"));
        plate.by_hand = true;
        plate.copies[0].pinned = true;
        let drawing = draw_plate_sheet(&plate);
        assert_eq!(drawing.matches("data-turn=\"0\"").count(), 2);
        assert!(drawing.contains("class=\"pin\"") && drawing.contains("is-pinned"));
    }

    #[test]
    fn the_tallest_and_the_lost_are_marked() {
        let drawing = draw_plate_sheet(&plate());
        assert!(drawing.contains("copy h7\"") && drawing.contains("copy h3\""));
        let own = r#"class="is-tallest is-failed""#;
        assert_eq!(drawing.matches(own).count(), 2, "in plan and elevation");
    }
}
