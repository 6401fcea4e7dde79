//! The judge of every packing: plain f64 geometry, edge against edge, sharing nothing with the
//! packers but the outlines themselves.

use super::{PackJob, PackedPlate, Packing};
use crate::geometry::{Outline, Point};

/// What may be missing through rounding, mm.
const TOLERANCE_MM: f64 = 1e-6;

/// Something a packing must not have.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PackFault {
    /// Two copies nearer than the clearance, or one on the other.
    #[error("plate {plate}: placements {first} and {second} are {distance_mm:.3} mm apart")]
    TooNear {
        /// Index of the plate.
        plate: usize,
        /// Index of the one placement.
        first: usize,
        /// Index of the other.
        second: usize,
        /// Distance; 0 when they overlap.
        distance_mm: f64,
    },
    /// A copy reaches over the margin, or stands nowhere.
    #[error("plate {plate}: placement {placement} is outside the margin")]
    Outside {
        /// Index of the plate.
        plate: usize,
        /// Index of the placement.
        placement: usize,
    },
    /// A copy is taller than the printer takes.
    #[error("plate {plate}: placement {placement} is taller than the printer takes")]
    TooTall {
        /// Index of the plate.
        plate: usize,
        /// Index of the placement.
        placement: usize,
    },
    /// One part, or all of a plate, pulls harder than the printer may.
    #[error("plate {plate} pulls too hard {slab} mm above the plate")]
    PullsTooHard {
        /// Index of the plate.
        plate: usize,
        /// Whole millimetres above the plate.
        slab: usize,
    },
    /// More of a unit on one plate than may be lost with it.
    #[error("plate {plate} takes {found} copies of unit {unit}, {most} may be on it")]
    TooMuchOfUnit {
        /// Index of the plate.
        plate: usize,
        /// The unit.
        unit: i64,
        /// How many are on it.
        found: u64,
        /// How many may be.
        most: u64,
    },
    /// Copies lost or doubled.
    #[error("item {item}: {asked} copies asked, {found} found")]
    Miscounted {
        /// Index of the item.
        item: usize,
        /// Copies of the job.
        asked: u64,
        /// Copies placed and left over.
        found: u64,
    },
    /// An index that names nothing.
    #[error("plate {plate} names a printer or part that is not there")]
    Unknown {
        /// Index of the plate.
        plate: usize,
    },
}

/// Looks at every pair of copies on every plate and returns every fault found.
#[must_use]
pub fn check_packing(job: &PackJob, packing: &Packing) -> Vec<PackFault> {
    let mut faults = Vec::new();
    let mut found = vec![0_u64; job.items.len()];
    for (index, plate) in packing.plates.iter().enumerate() {
        let known = plate.build_area < job.build_areas.len()
            && plate.placements.iter().all(|s| s.item < job.items.len());
        if !known {
            faults.push(PackFault::Unknown { plate: index });
            continue;
        }
        for placement in &plate.placements {
            found[placement.item] += 1;
        }
        check_plate(job, index, plate, &mut faults);
        check_limits(job, index, plate, &mut faults);
    }
    for left in packing
        .left_over
        .iter()
        .filter(|l| l.item < job.items.len())
    {
        found[left.item] += left.copies;
    }
    for (item, (wanted, found)) in job.items.iter().zip(found).enumerate() {
        if wanted.copies != found {
            faults.push(PackFault::Miscounted {
                item,
                asked: wanted.copies,
                found,
            });
        }
    }
    faults
}

fn check_plate(job: &PackJob, plate: usize, packed: &PackedPlate, faults: &mut Vec<PackFault>) {
    let build_area = &job.build_areas[packed.build_area];
    let shapes: Vec<Vec<Point>> = packed
        .placements
        .iter()
        .map(|s| turned(job.items[s.item].outline.corners(), s.rotation_deg, s.at_mm))
        .collect();
    for (placement, shape) in shapes.iter().enumerate() {
        let rim = build_area.margin_mm - TOLERANCE_MM;
        let inside = shape.iter().all(|p| {
            p[0] >= rim
                && p[1] >= rim
                && p[0] <= build_area.width_mm - rim
                && p[1] <= build_area.depth_mm - rim
        });
        if !inside {
            faults.push(PackFault::Outside { plate, placement });
        }
        if job.items[packed.placements[placement].item].height_mm
            > build_area.height_mm + TOLERANCE_MM
        {
            faults.push(PackFault::TooTall { plate, placement });
        }
        for (other, with) in shapes.iter().enumerate().skip(placement + 1) {
            if boxes_apart(shape, with, job.clearance_mm) {
                continue;
            }
            let distance_mm = gap(shape, with);
            if distance_mm < job.clearance_mm - TOLERANCE_MM || distance_mm == 0.0 {
                faults.push(PackFault::TooNear {
                    plate,
                    first: placement,
                    second: other,
                    distance_mm,
                });
            }
        }
    }
}

/// Which of some shapes are nearer to one than the clearance, or meet it.
#[must_use]
pub fn in_the_way(shape: &Outline, others: &[&Outline], clearance_mm: f64) -> Vec<usize> {
    let meets = |other: &Outline| {
        let distance_mm = gap(shape.corners(), other.corners());
        distance_mm < clearance_mm - TOLERANCE_MM || distance_mm == 0.0
    };
    let near = |other: &Outline| !boxes_apart(shape.corners(), other.corners(), clearance_mm);
    (0..others.len())
        .filter(|i| near(others[*i]) && meets(others[*i]))
        .collect()
}

/// Boxes further apart than the clearance: what is in them is too, whatever its shape.
fn boxes_apart(a: &[Point], b: &[Point], clearance_mm: f64) -> bool {
    let ends = |shape: &[Point], k: usize| {
        let along = shape.iter().map(|p| p[k]);
        let low = along.clone().fold(f64::INFINITY, f64::min);
        (low, along.fold(f64::NEG_INFINITY, f64::max))
    };
    (0..2).any(|k| {
        let ((a_low, a_high), (b_low, b_high)) = (ends(a, k), ends(b, k));
        (b_low - a_high).max(a_low - b_high) > clearance_mm.max(0.0) + TOLERANCE_MM
    })
}

fn check_limits(job: &PackJob, plate: usize, packed: &PackedPlate, faults: &mut Vec<PackFault>) {
    let build_area = &job.build_areas[packed.build_area];
    let on_it = || packed.placements.iter().map(|s| &job.items[s.item]);
    let slabs = on_it().map(|i| i.pull.len()).max().unwrap_or(0);
    for slab in 0..slabs {
        let pulls = || on_it().filter_map(|i| i.pull.get(slab).copied());
        let over = |cap: Option<f64>, pull: f64| cap.is_some_and(|cap| pull > cap + TOLERANCE_MM);
        if over(build_area.plate_pull, pulls().sum())
            || pulls().any(|p| over(build_area.part_pull, p))
        {
            faults.push(PackFault::PullsTooHard { plate, slab });
        }
    }
    if job.wishes.apart {
        let mut units: Vec<i64> = on_it().map(|i| i.unit).collect();
        units.sort_unstable();
        units.dedup();
        for unit in units {
            let of_unit = job.items.iter().filter(|i| i.unit == unit);
            let all: u64 = of_unit.map(|i| i.copies).sum();
            let most = all / 2 + all % 2;
            let found = on_it().filter(|i| i.unit == unit).count() as u64;
            if found > most {
                faults.push(PackFault::TooMuchOfUnit {
                    plate,
                    unit,
                    found,
                    most,
                });
            }
        }
    }
}

fn turned(corners: &[Point], degrees: f64, at: Point) -> Vec<Point> {
    let angle = degrees * std::f64::consts::PI / 180.0;
    corners
        .iter()
        .map(|p| {
            [
                at[0] + p[0] * angle.cos() - p[1] * angle.sin(),
                at[1] + p[0] * angle.sin() + p[1] * angle.cos(),
            ]
        })
        .collect()
}

/// Distance of two shapes; 0 when they meet or one holds the other.
fn gap(a: &[Point], b: &[Point]) -> f64 {
    if holds(a, b[0]) || holds(b, a[0]) {
        return 0.0;
    }
    let mut least = f64::INFINITY;
    for i in 0..a.len() {
        for j in 0..b.len() {
            let one = (a[i], a[(i + 1) % a.len()]);
            let two = (b[j], b[(j + 1) % b.len()]);
            if cross_over(one, two) {
                return 0.0;
            }
            least = least
                .min(to_edge(one.0, two))
                .min(to_edge(one.1, two))
                .min(to_edge(two.0, one))
                .min(to_edge(two.1, one));
        }
    }
    least
}

/// Winding by the sum of angles would be slow; the crossing rule does.
fn holds(shape: &[Point], p: Point) -> bool {
    let mut inside = false;
    let mut previous = shape[shape.len() - 1];
    for &corner in shape {
        if (corner[1] > p[1]) != (previous[1] > p[1]) {
            let x = (previous[0] - corner[0]) * (p[1] - corner[1]) / (previous[1] - corner[1])
                + corner[0];
            if p[0] < x {
                inside = !inside;
            }
        }
        previous = corner;
    }
    inside
}

fn cross_over(one: (Point, Point), two: (Point, Point)) -> bool {
    let turn = |a: Point, b: Point, c: Point| {
        (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
    };
    let apart =
        |s: (Point, Point), t: (Point, Point)| turn(s.0, s.1, t.0) * turn(s.0, s.1, t.1) >= 0.0;
    !apart(one, two) && !apart(two, one)
}

fn to_edge(p: Point, edge: (Point, Point)) -> f64 {
    let way = [edge.1[0] - edge.0[0], edge.1[1] - edge.0[1]];
    let to = [p[0] - edge.0[0], p[1] - edge.0[1]];
    let length2 = way[0].powi(2) + way[1].powi(2);
    let share = if length2 > 0.0 {
        ((to[0] * way[0] + to[1] * way[1]) / length2).clamp(0.0, 1.0)
    } else {
        0.0
    };
    ((to[0] - share * way[0]).powi(2) + (to[1] - share * way[1]).powi(2)).sqrt()
}
