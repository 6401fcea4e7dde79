//! Orientations compared: those of the schools, and a search for better ones.
//!
//! Everything here is a quick look, alike for all poses of a part; what is chosen is measured
//! layer by layer afterwards.

use rayon::prelude::*;

use crate::geometry::convex_hull;
use crate::layers::{measure_stack, take_look};
use crate::mesh::{Mesh, Solid};
use crate::pose::{BACK_DEG, Pose};
use crate::recipe::supports::{RAFT_MM, SupportStyle, clean_up_minutes};
use crate::units::LayerHeight;
use crate::watch::Watch;
use crate::words::words;

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

/// What poses are judged for.
#[derive(Debug, Clone, PartialEq)]
pub struct OrientRequest {
    /// Layer height.
    pub layer: LayerHeight,
    /// Supports.
    pub style: SupportStyle,
    /// Time of a plate whatever hangs on it, and of one layer, s.
    pub timing_s: [f64; 2],
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

/// A part ready to be looked at from all sides.
pub struct Subject<'a> {
    solid: &'a Solid,
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
        let layers = layer_count(height, self.request.layer);
        let [constant, each] = self.request.timing_s;
        Candidate {
            pose,
            origin,
            scores: Scores([
                (constant + each * f64::from(layers)) / 3600.0,
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

fn distance(a: [f64; 3], b: [f64; 3]) -> f64 {
    (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt()
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

/// The candidates of the schools: upright, tilted, head down, on the side, flats.
#[must_use]
pub fn of_schools(solid: &Solid) -> Vec<(Pose, Origin)> {
    let mut poses = vec![
        (Pose::AS_IMPORTED, Origin::Imported),
        (Pose::new(5.0, BACK_DEG), Origin::Upright),
        (Pose::new(7.5, BACK_DEG), Origin::Upright),
        (Pose::new(10.0, BACK_DEG), Origin::Upright),
        (Pose::new(30.0, BACK_DEG), Origin::Tilted),
        (Pose::new(45.0, BACK_DEG), Origin::Tilted),
        (Pose::new(180.0, 0.0), Origin::HeadDown),
        (Pose::new(90.0, BACK_DEG), Origin::OnSide),
        (Pose::new(90.0, 0.0), Origin::OnSide),
    ];
    if let Some(flat) = largest_flat(solid) {
        let down = flat.map(|c| -c);
        poses.push((Pose::with_up(down), Origin::FlatDown));
        // Toward the upper end of the file, or its back where the flat is the sole.
        let toward = if flat[2].abs() > 0.9 {
            [0.0, 1.0, 0.0]
        } else {
            [0.0, 0.0, 1.0]
        };
        let along: f64 = (0..3).map(|k| toward[k] * flat[k]).sum();
        let side: [f64; 3] = std::array::from_fn(|k| toward[k] - along * flat[k]);
        let length = distance(side, [0.0; 3]);
        for degrees in [20.0_f64, 45.0, 70.0] {
            let (sin, cos) = degrees.to_radians().sin_cos();
            let up = std::array::from_fn(|k| down[k] * cos + side[k] / length * sin);
            poses.push((Pose::with_up(up), Origin::FlatTurned));
        }
    }
    poses
}

/// Direction of the largest flat: a tenth of the surface at least within 3°.
fn largest_flat(solid: &Solid) -> Option<[f64; 3]> {
    let directions = sphere(600);
    let mut area = vec![0.0; directions.len()];
    let mut all = 0.0;
    let near = |n: &[f64; 3]| {
        let dot = |d: &[f64; 3]| d[0] * n[0] + d[1] * n[1] + d[2] * n[2];
        (0..directions.len()).max_by(|a, b| dot(&directions[*a]).total_cmp(&dot(&directions[*b])))
    };
    let faces: Vec<(f64, [f64; 3], [f64; 3])> = solid.normals().collect();
    // Many faces are looked at in samples: the sum needs no more.
    let step = faces.len().div_ceil(20_000).max(1);
    for (a, n, _) in faces.iter().step_by(step) {
        all += a;
        if let Some(at) = near(n) {
            area[at] += a;
        }
    }
    let best = (0..area.len()).max_by(|a, b| area[*a].total_cmp(&area[*b]))?;
    let rough = directions[best];
    let cos = 8f64.to_radians().cos();
    let mut sum = [0.0; 3];
    for (a, n, _) in &faces {
        if n[0] * rough[0] + n[1] * rough[1] + n[2] * rough[2] > cos {
            sum = std::array::from_fn(|k| sum[k] + a * n[k]);
        }
    }
    let length = distance(sum, [0.0; 3]);
    let flat = sum.map(|c| c / length.max(1e-12));
    let level = 3f64.to_radians().cos();
    let share: f64 = faces
        .iter()
        .filter(|(_, n, _)| n[0] * flat[0] + n[1] * flat[1] + n[2] * flat[2] > level)
        .map(|(a, ..)| a)
        .sum();
    let whole: f64 = faces.iter().map(|(a, ..)| a).sum();
    (all > 0.0 && share >= 0.1 * whole).then_some(flat)
}

/// Height of a base joined to a figure, mm: common practice, no source.
const BASE_MM: f64 = 3.0;

/// A round base under a figure's sole, of this diameter, mm, sunk in a little.
#[must_use]
pub fn base_under(figure: &Mesh, diameter_mm: f64) -> Mesh {
    const SIDES: usize = 64;
    let (low, high) = figure.bounds();
    let middle = [0, 1].map(|k| (low[k] + high[k]) / 2.0);
    let (top, bottom) = (low[2] + 0.3, low[2] + 0.3 - BASE_MM);
    let rim = |i: usize, z: f64| {
        let (sin, cos) = (i as f64 / SIDES as f64 * std::f64::consts::TAU).sin_cos();
        let r = diameter_mm / 2.0;
        [
            (middle[0] + r * cos) as f32,
            (middle[1] + r * sin) as f32,
            z as f32,
        ]
    };
    let hub = |z: f64| [middle[0] as f32, middle[1] as f32, z as f32];
    Mesh::weld((0..SIDES).flat_map(|i| {
        let j = (i + 1) % SIDES;
        let (a, b, c, d) = (rim(i, bottom), rim(j, bottom), rim(j, top), rim(i, top));
        [[a, b, c], [a, c, d], [hub(bottom), b, a], [hub(top), d, c]]
    }))
}

/// Hardest pull of a part leaning back by 5° and by 45°, layer by layer: the two schools of
/// standing figures. Nothing when the watch says stop.
#[must_use]
pub fn leaning_pulls(mesh: &Mesh, watch: &dyn Watch) -> Option<[f64; 2]> {
    let solid = Solid::new(mesh);
    let pull = |degrees: f64| {
        let posed = solid.posed(Pose::new(degrees, BACK_DEG));
        measure_stack(&posed, LayerHeight::USUAL, 1.0, watch).map(|s| s.peak_pull().1)
    };
    Some([pull(5.0)?, pull(45.0)?])
}

/// Directions spread evenly over the sphere (the golden-angle spiral; R. Swinbank, R. Purser,
/// Q. J. R. Meteorol. Soc. 132, 2006, from memory).
#[must_use]
pub fn sphere(many: usize) -> Vec<[f64; 3]> {
    let golden = std::f64::consts::PI * (3.0 - 5f64.sqrt());
    (0..many)
        .map(|i| {
            let z = 1.0 - (2.0 * i as f64 + 1.0) / many as f64;
            let (sin, cos) = (golden * i as f64).sin_cos();
            let r = (1.0 - z * z).max(0.0).sqrt();
            [r * cos, r * sin, z]
        })
        .collect()
}

/// Directions looked at before the search narrows down.
const SPREAD: usize = 400;
/// How close each round looks around the best, degrees; and how many of the best it follows, for
/// scores that change smoothly and for those that jump.
const ROUNDS: [(f64, usize, usize); 4] = [(5.0, 3, 9), (2.5, 3, 7), (1.3, 2, 5), (0.7, 2, 4)];

/// Looks at the schools' poses and all around, follows the best of every score further, and
/// answers the schools' poses with the best of every score among all that were looked at.
///
/// Nothing when the watch says stop. Equal results whatever the number of threads.
#[must_use]
pub fn find_poses(subject: &Subject<'_>, watch: &dyn Watch) -> Option<Vec<Candidate>> {
    let mut poses = of_schools(subject.solid);
    poses.extend(
        sphere(SPREAD)
            .into_iter()
            .map(|up| (Pose::with_up(up), Origin::Search)),
    );
    let mut all: Vec<Candidate> = Vec::new();
    let mut told = 0.0;
    look_at(subject, poses, &mut all, watch, &mut told)?;
    for (apart, smooth, jumpy) in ROUNDS {
        let mut next = Vec::new();
        for score in Score::ALL {
            let many = match score {
                Score::Overhang | Score::SupportResin | Score::CleanUp => jumpy,
                _ => smooth,
            };
            let mut order: Vec<usize> = (0..all.len()).collect();
            order.sort_by(|a, b| {
                let by = |i: &usize| all[*i].scores.of(*score);
                by(a).total_cmp(&by(b)).then(a.cmp(b))
            });
            // Nothing is better than nothing.
            if all[order[0]].scores.of(*score) == 0.0 {
                continue;
            }
            // Seeds apart from each other: the best ones often lie side by side.
            let mut seeds: Vec<Pose> = Vec::new();
            for index in order.into_iter().take(many * 8) {
                let pose = all[index].pose;
                if seeds.len() < many && seeds.iter().all(|s| s.apart_deg(pose) > 1.5 * apart) {
                    seeds.push(pose);
                }
            }
            for seed in seeds {
                next.extend(around(seed, apart).map(|p| (p, Origin::Search)));
            }
        }
        look_at(subject, next, &mut all, watch, &mut told)?;
    }
    watch.report(1.0);
    Some(worth_showing(all))
}

/// Six poses around one.
fn around(pose: Pose, apart_deg: f64) -> impl Iterator<Item = Pose> {
    let up = pose.matrix().transpose() * glam::DVec3::Z;
    let side = up.any_orthonormal_vector();
    let other = up.cross(side);
    let (sin, cos) = apart_deg.to_radians().sin_cos();
    (0..6).map(move |i| {
        let (s, c) = (f64::from(i) * std::f64::consts::PI / 3.0).sin_cos();
        Pose::with_up((up * cos + (side * c + other * s) * sin).to_array())
    })
}

fn look_at(
    subject: &Subject<'_>,
    poses: Vec<(Pose, Origin)>,
    all: &mut Vec<Candidate>,
    watch: &dyn Watch,
    told: &mut f64,
) -> Option<()> {
    // Poses that look the same are looked at once; one on the plate is another.
    let near = 0.3f64.to_radians().cos();
    let up = |p: Pose| p.matrix().transpose() * glam::DVec3::Z;
    let mut known: Vec<(glam::DVec3, bool)> = all
        .iter()
        .map(|c| (up(c.pose), c.origin == Origin::FlatDown))
        .collect();
    let mut fresh: Vec<(Pose, Origin)> = Vec::new();
    for (pose, origin) in poses {
        let mine = (up(pose), origin == Origin::FlatDown);
        if !known
            .iter()
            .any(|k| k.1 == mine.1 && k.0.dot(mine.0) > near)
        {
            known.push(mine);
            fresh.push((pose, origin));
        }
    }
    for some in fresh.chunks(32) {
        if watch.stopped() {
            return None;
        }
        let looked: Vec<Candidate> = some
            .par_iter()
            .map(|(pose, origin)| subject.judge(*pose, *origin))
            .collect();
        all.extend(looked);
        *told += (1.0 - *told) * 0.05;
        watch.report(*told);
    }
    Some(())
}

fn worth_showing(all: Vec<Candidate>) -> Vec<Candidate> {
    let mut best_in: Vec<Vec<Score>> = vec![Vec::new(); all.len()];
    for score in Score::ALL {
        let by = |i: &usize| all[*i].scores.of(*score);
        // Among equals the one that is best in something else already, then the lowest.
        let best = (0..all.len()).min_by(|a, b| {
            by(a)
                .total_cmp(&by(b))
                .then((all[*a].origin == Origin::Search).cmp(&(all[*b].origin == Origin::Search)))
                .then(best_in[*b].len().cmp(&best_in[*a].len()))
                .then(all[*a].height_mm.total_cmp(&all[*b].height_mm))
        });
        if let Some(best) = best {
            best_in[best].push(*score);
        }
    }
    let mut shown: Vec<Candidate> = all
        .into_iter()
        .zip(best_in)
        .filter(|(c, best)| c.origin != Origin::Search || !best.is_empty())
        .map(|(c, best_in)| Candidate { best_in, ..c })
        .collect();
    let scores: Vec<Scores> = shown.iter().map(|c| c.scores).collect();
    for c in &mut shown {
        c.undominated = !scores.iter().any(|s| s.dominates(&c.scores));
    }
    shown
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
