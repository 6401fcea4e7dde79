//! Plates of nothing but rectangles, filled along their skyline: so quick that thousands of orders
//! can be tried.
//!
//! The lowest stretch of the skyline takes the copy that fits it best, the earlier one in an order
//! among equals (best fit on a skyline after E. Burke, G. Kendall, G. Whitwell, Oper. Res. 52,
//! 2004, from memory); the order is changed a little again and again.

use super::rng::Rng;
use crate::geometry::Point;

/// Widths that differ by less are alike, mm.
const ALIKE_MM: f64 = 1e-9;
/// Orders tried for a plate, where few copies are left.
pub(super) const ORDERS: usize = 3000;
/// Copies that are looked at for a plate.
const MOST: usize = 160;

/// A copy of some item.
#[derive(Debug, Clone, Copy)]
pub(super) struct Brick {
    pub(super) item: usize,
    /// Its width and depth in one turn and, where that differs, in the other, each with the
    /// clearance, mm.
    pub(super) sizes: [Point; 2],
    /// What it is worth to have it here, in whatever unit.
    pub(super) worth: f64,
}

/// A copy that was laid.
#[derive(Debug, Clone, Copy)]
pub(super) struct Laid {
    pub(super) item: usize,
    /// Which of its sizes.
    pub(super) turned: usize,
    /// Its lower left corner, mm.
    pub(super) at: Point,
}

#[derive(Debug, Clone, Copy)]
struct Stretch {
    x: f64,
    y: f64,
    width: f64,
}

/// The best filling found of a plate of this size, clearance included: the one after which the
/// least is left by `rest`. On the way there `steep` leads, which must tell small steps apart.
pub(super) fn lay<R: PartialOrd>(
    size: Point,
    mut bricks: Vec<Brick>,
    orders: usize,
    rng: &mut Rng,
    rest: impl Fn(&[Laid]) -> R,
    steep: impl Fn(&[Laid]) -> f64,
) -> Vec<Laid> {
    bricks.truncate(MOST);
    let many = bricks.len();
    let mut order: Vec<usize> = (0..many).collect();
    let key: Vec<f64> = bricks
        .iter()
        .map(|b| b.worth * (0.9 + 0.2 * rng.share()))
        .collect();
    order.sort_by(|a, b| key[*b].total_cmp(&key[*a]));
    // How many places a copy may come earlier for each side that fits.
    let ahead = [2, 5, 10, 20][rng.below(4)];
    let mut laid = fill(size, &bricks, &order, ahead, rng);
    let mut now = steep(&laid);
    let mut best = (laid.clone(), rest(&laid));
    for _ in 0..orders {
        let before = order.clone();
        match rng.below(3) {
            0 => order.swap(rng.below(many), rng.below(many)),
            1 => {
                let taken = order.remove(rng.below(many));
                order.insert(rng.below(many), taken);
            }
            _ => {
                // One far back comes to the front part.
                let front = laid.len().min(many - 1).max(1);
                let taken = order.remove(rng.below(many));
                order.insert(rng.below(front), taken);
            }
        }
        let next = fill(size, &bricks, &order, ahead, rng);
        let there = steep(&next);
        if there <= now * 1.002 {
            let whole = rest(&next);
            if whole < best.1 {
                best = (next.clone(), whole);
            }
            (laid, now) = (next, there);
        } else {
            order = before;
        }
    }
    best.0
}

/// One filling by an order.
fn fill(
    [width, depth]: Point,
    bricks: &[Brick],
    order: &[usize],
    ahead: u32,
    rng: &mut Rng,
) -> Vec<Laid> {
    let mut sky = vec![Stretch {
        x: 0.0,
        y: 0.0,
        width,
    }];
    let mut waiting: Vec<usize> = order.to_vec();
    let mut laid = Vec::new();
    let near = |a: f64, b: f64| (a - b).abs() < ALIKE_MM;
    while !waiting.is_empty() {
        let Some(low) = (0..sky.len()).min_by(|a, b| sky[*a].y.total_cmp(&sky[*b].y)) else {
            break;
        };
        let here = sky[low];
        if here.y >= depth - ALIKE_MM {
            break;
        }
        let left = if low > 0 { sky[low - 1].y } else { depth };
        let right = sky.get(low + 1).map_or(depth, |s| s.y);
        let mut best: Option<(u32, usize, usize)> = None;
        for (place, index) in waiting.iter().enumerate() {
            let brick = &bricks[*index];
            for (turned, [w, d]) in brick.sizes.iter().copied().enumerate() {
                if turned == 1 && near(brick.sizes[0][0], w) && near(brick.sizes[0][1], d) {
                    continue;
                }
                if w > here.width + ALIKE_MM || here.y + d > depth + ALIKE_MM {
                    continue;
                }
                let top = here.y + d;
                let mut fit = u32::from(near(top, left));
                if near(w, here.width) {
                    fit += 1 + u32::from(near(top, right));
                }
                // What fits without a rest may come a little earlier than its turn.
                let score = 1000 + ahead * fit - (place as u32).min(900);
                if best.is_none_or(|b| score > b.0) {
                    best = Some((score, place, turned));
                }
            }
            if best.is_some_and(|b| b.1 + 3 * ahead as usize <= place) {
                break;
            }
        }
        let Some((_, place, turned)) = best else {
            // Nothing goes here: it is level with its lower neighbour.
            let level = left.min(right);
            sky[low].y = level;
            join(&mut sky, near);
            continue;
        };
        let index = waiting.remove(place);
        let brick = &bricks[index];
        let [w, d] = brick.sizes[turned];
        // Beside the higher neighbour, so that what stays is open to the lower one.
        let at_left = if near(left, right) {
            rng.below(8) > 0
        } else {
            left > right
        };
        let x = if at_left {
            here.x
        } else {
            (here.x + here.width - w).max(here.x)
        };
        laid.push(Laid {
            item: brick.item,
            turned,
            at: [x, here.y],
        });
        let top = Stretch {
            x,
            y: here.y + d,
            width: w.min(here.width),
        };
        let rest = here.width - w;
        if rest < ALIKE_MM {
            sky[low] = Stretch {
                x: here.x,
                width: here.width,
                ..top
            };
        } else if at_left {
            sky[low] = top;
            sky.insert(
                low + 1,
                Stretch {
                    x: here.x + w,
                    y: here.y,
                    width: rest,
                },
            );
        } else {
            sky[low].width = rest;
            sky.insert(low + 1, top);
        }
        join(&mut sky, near);
    }
    laid
}

/// Makes one of neighbouring stretches at the same height.
fn join(sky: &mut Vec<Stretch>, near: impl Fn(f64, f64) -> bool) {
    let mut i = 0;
    while i + 1 < sky.len() {
        if near(sky[i].y, sky[i + 1].y) {
            sky[i].width += sky[i + 1].width;
            sky[i].y = sky[i].y.max(sky[i + 1].y);
            sky.remove(i + 1);
        } else {
            i += 1;
        }
    }
}
