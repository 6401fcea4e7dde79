//! What a pose is judged by, and a quick look at it, alike for all poses of a part.

use super::directions::distance;
use crate::geometry::convex_hull;
use crate::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use crate::layers::{peak_pull_roughly, take_look};
use crate::mesh::Solid;
use crate::pose::Pose;
use crate::recipe::Setup;
use crate::recipe::supports::{RAFT_MM, SupportStyle, Supports, clean_up_minutes};
use crate::units::LayerHeight;
use crate::watch::{Silent, Watch};
use crate::words::words;
use crate::workshop::print_time::{Drawn, LayerTiming};
use crate::workshop::{Printer, ProcessSetting};

words! {
    /// What a pose is judged by; less is better throughout.
    Score, "score" {
        /// Hours on the printer.
        Hours = "hours",
        /// The hardest layer's pull index.
        Pull = "peak pull",
        /// Regions that start in mid-air.
        Islands = "starts in mid-air",
        /// Overhanging area, mm².
        Overhang = "overhang",
        /// Resin of supports and raft, ml.
        SupportResin = "support resin",
        /// Minutes to cut it free.
        CleanUp = "clean-up",
        /// Contacts in zones marked fine.
        FineContacts = "contacts on fine zones",
        /// Mean step of the layers on fine zones, mm.
        LinesMean = "mean step",
        /// Worst step of the layers on fine zones, mm; 0 without a zone.
        LinesWorst = "worst step",
        /// Share of the sides on which a tall column stands.
        Caged = "caged in",
        /// Area of the shadow on the plate, mm².
        Footprint = "footprint",
    }
}

impl Score {
    /// Its unit.
    #[must_use]
    pub const fn unit(self) -> &'static str {
        match self {
            Score::Hours => "h",
            Score::Pull | Score::Islands | Score::FineContacts => "",
            Score::Overhang | Score::Footprint => "mm²",
            Score::SupportResin => "ml",
            Score::CleanUp => "min",
            Score::LinesMean | Score::LinesWorst => "mm",
            Score::Caged => "%",
        }
    }
}

/// The scores of a pose, in the order of [`Score::ALL`].
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Scores(pub [f64; 11]);

impl Scores {
    /// One of them.
    #[must_use]
    pub fn of(&self, score: Score) -> f64 {
        self.0[score as usize]
    }

    /// As good in everything and better in something.
    #[must_use]
    pub fn dominates(&self, other: &Self) -> bool {
        let pairs = || self.0.iter().zip(other.0);
        pairs().all(|(a, b)| *a <= b) && pairs().any(|(a, b)| *a < b)
    }
}

words! {
    /// Where a candidate comes from.
    Origin, "origin of a pose" {
        /// As its file stands.
        Imported = "as imported",
        /// Standing, leaning back a little.
        Upright = "upright",
        /// Leaning back by 30 to 45°.
        Tilted = "tilted",
        /// Its largest flat turned against the film.
        FlatTurned = "flat turned",
        /// Its largest flat on the plate.
        FlatDown = "flat on the plate",
        /// Upside down.
        HeadDown = "head down",
        /// Lying on its side or back.
        OnSide = "on the side",
        /// Upright, printed on its base.
        BaseJoined = "on its base",
        /// Found by the search.
        Search = "found",
    }
}

/// A place marked fine: marks and lines show there.
///
/// # Units
/// mm, in the coordinates of the file at print scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FineZone {
    /// Its middle.
    pub at_mm: [f64; 3],
    /// How far it reaches.
    pub radius_mm: f64,
}

/// What the hours of a pose are told from: the same reckoning as everywhere else.
#[derive(Debug, Clone, PartialEq)]
pub struct PoseTiming {
    printer: Printer,
    setting: ProcessSetting,
}

impl PoseTiming {
    /// With the first printer that fits a recipe; an assumed one while there is none.
    #[must_use]
    pub fn of(first: Option<(&Printer, &ProcessSetting)>, layer: LayerHeight) -> Self {
        let (printer, setting) = first.map_or_else(
            || {
                let printer = Printer::assumed(PrinterId(0), "", [130.0, 80.0, 150.0]);
                let setting = ProcessSetting {
                    id: ProcessSettingId(0),
                    printer: printer.id,
                    resin: ResinId(0),
                    layer,
                    version: SettingVersionId(0),
                    number: 1,
                    timing: LayerTiming::assumed(layer),
                    assumed: String::new(),
                };
                (printer, setting)
            },
            |(printer, setting)| (printer.clone(), setting.clone()),
        );
        Self { printer, setting }
    }

    pub(super) fn hours(&self, height_mm: f64, drawn: Drawn) -> f64 {
        self.printer.plate_seconds(&self.setting, height_mm, drawn) / 3600.0
    }
}

/// What poses are judged for.
#[derive(Debug, Clone, PartialEq)]
pub struct OrientRequest {
    /// Layer height.
    pub layer: LayerHeight,
    /// Supports.
    pub style: SupportStyle,
    /// What hours are told from.
    pub timing: PoseTiming,
    /// Zones marked fine; without one the whole surface counts.
    pub zones: Vec<FineZone>,
}

/// A pose with its scores.
#[derive(Debug, Clone, PartialEq)]
pub struct Candidate {
    /// The pose.
    pub pose: Pose,
    /// Where it comes from.
    pub origin: Origin,
    /// Its scores.
    pub scores: Scores,
    /// Its height with supports, mm.
    pub height_mm: f64,
    /// Contacts of supports.
    pub contacts: usize,
    /// Scores in which it is the best of all that were looked at.
    pub best_in: Vec<Score>,
    /// None shown is as good in everything and better in something.
    pub undominated: bool,
}

impl Candidate {
    /// It lies on the plate itself and needs no supports below.
    #[must_use]
    pub fn on_plate(&self) -> bool {
        self.origin == Origin::FlatDown
    }

    /// A part that is set up so is what was judged here: in that pose, and lifted or not.
    #[must_use]
    pub fn is_setup(&self, setup: Setup) -> bool {
        let on_plate = matches!(setup.supports, Supports::None | Supports::InFile);
        self.pose == setup.pose
            && self.on_plate() == on_plate
            // The base is another mesh: it is shown beside the part, never chosen.
            && self.origin != Origin::BaseJoined
    }
}

/// A part ready to be looked at from all sides.
pub struct Subject<'a> {
    pub(super) solid: &'a Solid,
    /// The same without what a quick look does not see.
    plain: Solid,
    request: &'a OrientRequest,
    diagonal_mm: f64,
    /// Area and unit normal of the faces in fine zones, or of all.
    skin: Vec<(f64, [f64; 3])>,
}

impl<'a> Subject<'a> {
    /// A part at print scale.
    #[must_use]
    pub fn new(solid: &'a Solid, request: &'a OrientRequest) -> Self {
        let size = solid.facts.size_mm();
        let faces: Vec<(f64, [f64; 3], [f64; 3])> = solid.normals().collect();
        let within = |at: &[f64; 3]| {
            let near = |z: &FineZone| distance(z.at_mm, *at) <= z.radius_mm;
            request.zones.is_empty() || request.zones.iter().any(near)
        };
        let diagonal_mm = size.iter().map(|s| s * s).sum::<f64>().sqrt();
        Self {
            solid,
            plain: solid.clustered((diagonal_mm / 130.0).max(0.01)),
            request,
            diagonal_mm,
            skin: faces
                .into_iter()
                .filter(|(_, _, at)| within(at))
                .map(|(area, normal, _)| (area, normal))
                .collect(),
        }
    }

    /// The hardest pull of a pose, solved on thick layers without what a quick look does not see;
    /// nothing when the watch says stop.
    pub(super) fn rough_pull(&self, pose: Pose, watch: &dyn Watch) -> Option<f64> {
        let thick_mm = (self.diagonal_mm / 100.0).max(0.1);
        peak_pull_roughly(&self.plain.posed(pose), thick_mm, &Silent(watch))
    }

    /// Looks at one pose.
    #[must_use]
    pub fn judge(&self, pose: Pose, origin: Origin) -> Candidate {
        let posed = self.plain.posed(pose);
        let style = self.request.style;
        let look = take_look(&posed, self.diagonal_mm, style.spacing_mm);
        let low = posed.facts.low_mm;
        // What lies flat on the plate needs no supports below, and no lift.
        let on_plate = origin == Origin::FlatDown;
        let floor = low[2] + self.diagonal_mm / 100.0;
        let contacts: Vec<[f64; 3]> = look
            .contacts
            .iter()
            .map(|c| c.at_mm)
            .filter(|c| !on_plate || c[2] > floor)
            .collect();
        let lift = if on_plate {
            0.0
        } else {
            style.lift_mm + RAFT_MM
        };
        let columns = contacts
            .iter()
            .map(|c| style.column_mm3(c[2] - low[2] + lift));
        let feet: Vec<[f64; 2]> = contacts.iter().map(|c| [c[0], c[1]]).collect();
        let raft = if on_plate {
            0.0
        } else {
            hull_area(&feet) * RAFT_MM
        };
        let support_mm3 = columns.sum::<f64>() + raft;
        let zones: Vec<FineZone> = self
            .request
            .zones
            .iter()
            .map(|z| FineZone {
                at_mm: pose.turn(z.at_mm),
                ..*z
            })
            .collect();
        let fine = contacts
            .iter()
            .filter(|c| zones.iter().any(|z| distance(z.at_mm, **c) <= z.radius_mm))
            .count();
        let (mean, worst) = self.steps(pose);
        let height = look.height_mm + lift;
        let facts = &self.solid.facts;
        let drawn = Drawn {
            volume_mm3: facts.volume_mm3 + support_mm3,
            surface_mm2: facts.surface_mm2,
        };
        Candidate {
            pose,
            origin,
            scores: Scores([
                self.request.timing.hours(height, drawn),
                look.peak_pull,
                look.islands as f64,
                look.overhang_mm2,
                support_mm3 / 1000.0,
                clean_up_minutes(contacts.len(), fine),
                fine as f64,
                mean,
                worst,
                caged(&contacts, low, look.height_mm),
                look.shadow_mm2,
            ]),
            height_mm: height,
            contacts: contacts.len(),
            best_in: Vec::new(),
            undominated: false,
        }
    }

    /// Mean and worst step that layers leave on the fine zones, mm: layer height × |n·z|.
    fn steps(&self, pose: Pose) -> (f64, f64) {
        let up = pose.matrix().transpose() * glam::DVec3::Z;
        let (mut area, mut sum, mut worst) = (0.0, 0.0, 0.0_f64);
        for (a, n) in &self.skin {
            let lean = (n[0] * up.x + n[1] * up.y + n[2] * up.z).abs();
            area += a;
            sum += a * lean;
            // Level faces have no steps; the worst are those next to level.
            if lean < 0.999 {
                worst = worst.max(lean);
            }
        }
        let layer = self.request.layer.mm();
        // On a whole figure something always lies next to level: that tells nothing.
        if self.request.zones.is_empty() {
            worst = 0.0;
        }
        (
            if area > 0.0 { sum / area * layer } else { 0.0 },
            worst * layer,
        )
    }
}

fn hull_area(points: &[[f64; 2]]) -> f64 {
    let hull = convex_hull(points);
    let cross = |i: usize| {
        let (a, b) = (hull[i], hull[(i + 1) % hull.len()]);
        a[0] * b[1] - a[1] * b[0]
    };
    (0..hull.len()).map(cross).sum::<f64>().abs() / 2.0
}

/// Percent of 24 sides on which a column taller than a third of the part stands.
fn caged(contacts: &[[f64; 3]], low: [f64; 3], height_mm: f64) -> f64 {
    const SIDES: f64 = 24.0;
    let many = contacts.len().max(1) as f64;
    let middle = [0, 1].map(|k| contacts.iter().map(|c| c[k]).sum::<f64>() / many);
    let mut sides = [false; SIDES as usize];
    for c in contacts.iter().filter(|c| c[2] - low[2] > height_mm / 3.0) {
        let turn = (c[1] - middle[1]).atan2(c[0] - middle[0]) / std::f64::consts::TAU;
        sides[((turn.rem_euclid(1.0)) * SIDES) as usize % SIDES as usize] = true;
    }
    sides.iter().filter(|s| **s).count() as f64 / SIDES * 100.0
}

/// How good candidates are for somebody to whom scores matter by these weights: 0 is the best of
/// those shown in everything, 1 the worst.
#[must_use]
pub fn rank(candidates: &[Scores], weights: &[f64; 11]) -> Vec<f64> {
    let all: f64 = weights.iter().sum();
    let span = |k: usize| {
        let values = || candidates.iter().map(|c| c.0[k]);
        let low = values().fold(f64::INFINITY, f64::min);
        (low, values().fold(low, f64::max) - low)
    };
    let spans: Vec<(f64, f64)> = (0..weights.len()).map(span).collect();
    let one = |c: &Scores| {
        (0..weights.len())
            .filter(|k| spans[*k].1 > 0.0)
            .map(|k| weights[k] * (c.0[k] - spans[k].0) / spans[k].1)
            .sum::<f64>()
            / all.max(1e-12)
    };
    candidates.iter().map(one).collect()
}
