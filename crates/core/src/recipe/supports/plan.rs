//! Where supports go: contacts from starts and overhangs, columns around the part to the raft.

use super::shape::{column, raft, solid_of};
use super::{Holding, RAFT_MM, SupportStyle, Supports, clean_up_minutes};
use crate::geometry::Point;
use crate::layers::{FreeSpace, StackFigures, Touch, look_closely, measure_stack, undersides};
use crate::mesh::{Mesh, Solid};
use crate::units::LayerHeight;
use crate::watch::{Share, Watch};

/// A planned column.
#[derive(Debug, Clone, PartialEq)]
pub struct Column {
    /// Where it touches.
    pub touch: Touch,
    /// From the contact to its foot, above the plate.
    pub way: Vec<[f64; 3]>,
    /// It stands on the part itself: the plate is out of reach.
    pub on_part: bool,
}

/// Supports of a part as it hangs.
///
/// # Units
/// mm, mm³. Everything is lifted: heights are above the plate; x and y are the part's own.
#[derive(Debug, Clone, PartialEq)]
pub struct SupportPlan {
    /// The columns.
    pub columns: Vec<Column>,
    /// Corners of the raft.
    pub raft: Vec<Point>,
    /// Height of the part's lowest point above the plate.
    pub lifted_mm: f64,
    /// The supports as a mesh.
    pub mesh: Mesh,
    /// Resin of supports and raft.
    pub support_mm3: f64,
    /// What the layers of part and supports together tell.
    pub stack: StackFigures,
    /// Columns that carry most, the riskiest first: look at these.
    pub riskiest: Vec<usize>,
}

impl SupportPlan {
    /// Places where supports touch the part.
    #[must_use]
    pub fn contacts(&self) -> usize {
        self.columns.len() + self.columns.iter().filter(|c| c.on_part).count()
    }

    /// Minutes to cut it free.
    #[must_use]
    pub fn minutes(&self, fine: usize) -> f64 {
        clean_up_minutes(self.contacts(), fine)
    }
}

/// Rounds of adding contacts where something still starts in mid-air.
const ROUNDS: usize = 4;
/// Columns named as riskiest.
const NAMED: usize = 3;

/// Plans supports for a part as it hangs, at print scale.
///
/// Nothing when the watch says stop.
#[must_use]
pub fn plan_supports(
    part: &Mesh,
    layer: LayerHeight,
    style: &SupportStyle,
    watch: &dyn Watch,
) -> Option<SupportPlan> {
    let (low, _) = part.bounds();
    let lifted_mm = RAFT_MM + style.lift_mm;
    let part = part.shifted([0.0, 0.0, lifted_mm - low[2]]);
    let solid = Solid::new(&part);
    let room = FreeSpace::around(&solid, style.column_mm());
    if watch.stopped() {
        return None;
    }
    watch.report(0.2);
    let alone = measure_stack(&solid, layer, 1.0, &Share(watch, 0.3, 0.2))?;
    let mut touches = enough_contacts(&solid, layer, style, alone.peak_pull().1);
    let mut round = 0;
    loop {
        let columns: Vec<Column> = touches
            .iter()
            .filter_map(|t| lead(&room, *t, style))
            .collect();
        let mut faces = Vec::new();
        for (index, c) in columns.iter().enumerate() {
            column(&mut faces, index, &c.way, c.on_part, style);
        }
        let standing = columns.iter().filter(|c| !c.on_part);
        let feet: Vec<Point> = standing
            .filter_map(|c| c.way.last().map(|f| [f[0], f[1]]))
            .collect();
        let corners = raft(&mut faces, &feet, style);
        let mesh = solid_of(faces);
        let whole = Solid::new(&part.with(&mesh));
        let begin = 0.5 + 0.1 * round as f64;
        let stack = measure_stack(&whole, layer, 1.0, &Share(watch, begin, 0.1))?;
        round += 1;
        if stack.islands.is_empty() || round >= ROUNDS {
            let support_mm3 = (stack.volume_mm3 - alone.volume_mm3).max(0.0);
            return Some(SupportPlan {
                riskiest: riskiest(&columns, style),
                columns,
                raft: corners,
                lifted_mm,
                mesh,
                support_mm3,
                stack,
            });
        }
        let middle = [0, 1].map(|k| (whole.facts.low_mm[k] + whole.facts.high_mm[k]) / 2.0);
        touches.extend(stack.islands.iter().map(|i| Touch {
            at_mm: [i.at_mm[0] + middle[0], i.at_mm[1] + middle[1], i.z_mm],
            grown_mm2: i.grown_mm2,
        }));
    }
}

/// Contacts closer than this many tips, or than this, leave no way between their columns, mm.
const CLOSEST: (f64, f64) = (2.5, 1.2);

/// Contacts as close as asked, or closer where the hardest layer of the part pulls harder than so many
/// tips hold; as close as columns can stand at most, where that is not enough either.
fn enough_contacts(
    solid: &Solid,
    layer: LayerHeight,
    style: &SupportStyle,
    pull: f64,
) -> Vec<Touch> {
    let closest = (CLOSEST.0 * style.tip_mm)
        .max(CLOSEST.1)
        .min(style.spacing_mm);
    let mut spacing_mm = style.spacing_mm;
    loop {
        let mut touches = look_closely(solid, layer, spacing_mm).contacts;
        touches.extend(steadying(solid, &touches));
        let times = |touches: &[Touch]| {
            let holding = Holding::of(&Supports::Planned(*style), touches.len(), pull, 0.0);
            holding.map_or(1.0, |h| h.times_planned())
        };
        // What grows from layer to layer by little needs no tip to be printed, and some to be held.
        if times(&touches) < 1.0 {
            let more = undersides(solid, spacing_mm);
            let far = |at: &[f64; 3], from: &Touch| {
                let apart = |k: usize| (at[k] - from.at_mm[k]).powi(2);
                (0..3).map(apart).sum::<f64>() >= spacing_mm * spacing_mm
            };
            let free = more
                .into_iter()
                .filter(|at| touches.iter().all(|t| far(at, t)));
            let free = free.map(|at_mm| Touch {
                at_mm,
                grown_mm2: 0.0,
            });
            touches.extend(free.collect::<Vec<_>>());
        }
        let times = times(&touches);
        if times >= 1.0 || spacing_mm <= closest {
            return touches;
        }
        // Contacts on a face go with the square of how close they are.
        spacing_mm = (spacing_mm * times.sqrt().clamp(0.5, 0.95)).max(closest);
    }
}

/// Contacts that keep a part from tipping.
const STEADY: usize = 3;
/// Share of its height from below in which they are looked for.
const LOW: f64 = 0.25;
/// Least share of a face's normal that looks down.
const DOWN: f64 = 0.35;
/// Least distance of two of them, mm.
const APART_MM: f64 = 1.0;

/// Further contacts for a part that hangs on one or two: low on it, facing down, each as far from the
/// others as can be. A round head starts in one point only, and would tip on it.
fn steadying(solid: &Solid, touches: &[Touch]) -> Vec<Touch> {
    if touches.is_empty() || touches.len() >= STEADY {
        return Vec::new();
    }
    let (low, high) = (solid.facts.low_mm[2], solid.facts.high_mm[2]);
    let top = low + LOW * (high - low);
    let places: Vec<[f64; 3]> = solid
        .normals()
        .filter(|(_, normal, at)| normal[2] < -DOWN && at[2] <= top)
        .map(|(_, _, at)| at)
        .collect();
    let mut taken: Vec<[f64; 3]> = touches.iter().map(|t| t.at_mm).collect();
    let mut more = Vec::new();
    while taken.len() < STEADY {
        let free = |p: &[f64; 3]| {
            let far = |q: &[f64; 3]| (p[0] - q[0]).hypot(p[1] - q[1]);
            taken.iter().map(far).fold(f64::INFINITY, f64::min)
        };
        let best = places.iter().map(|p| (free(p), p));
        let Some((apart, at)) = best.max_by(|a, b| a.0.total_cmp(&b.0)) else {
            break;
        };
        if apart < APART_MM {
            break;
        }
        taken.push(*at);
        more.push(Touch {
            at_mm: *at,
            grown_mm2: 0.0,
        });
    }
    more
}

/// A column for a contact: to the plate where it can, else to the part below.
fn lead(room: &FreeSpace, touch: Touch, style: &SupportStyle) -> Option<Column> {
    let to_plate = |mut way: Vec<[f64; 3]>| {
        let [x, y, _] = *way.last()?;
        // A bend this low would reach below the plate: the column leans to its foot instead.
        let lowest = style.column_mm();
        while way.len() > 1 && way.last().is_some_and(|bend| bend[2] < lowest) {
            way.pop();
        }
        way.push([x, y, 0.0]);
        Some(Column {
            touch,
            way,
            on_part: false,
        })
    };
    if let Some(way) = room.way_down(touch.at_mm) {
        return to_plate(way);
    }
    match room.ground_below(touch.at_mm) {
        Some(ground) => Some(Column {
            touch,
            way: vec![touch.at_mm, ground],
            on_part: true,
        }),
        // Too low for a column to find its way, and nothing in between.
        None => to_plate(vec![touch.at_mm]),
    }
}

/// Starts by what hangs on each of their contacts.
fn riskiest(columns: &[Column], style: &SupportStyle) -> Vec<usize> {
    let near = |a: [f64; 3], b: [f64; 3]| {
        (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt() < 1.5 * style.spacing_mm
    };
    let load = |i: usize| {
        let t = columns[i].touch;
        let shared = columns.iter().filter(|c| near(c.touch.at_mm, t.at_mm));
        t.grown_mm2 / shared.count().max(1) as f64
    };
    let mut starts: Vec<usize> = (0..columns.len())
        .filter(|i| columns[*i].touch.grown_mm2 > 0.0)
        .collect();
    starts.sort_by(|a, b| load(*b).total_cmp(&load(*a)).then(a.cmp(b)));
    starts.truncate(NAMED);
    starts
}
