//! Plates of nothing but rectangles, filled along their skyline: so quick that thousands of orders
//! can be tried.
//!
//! The lowest stretch of the skyline takes the copy that fits it best, the earlier one in an order
//! among equals (best fit on a skyline after E. Burke, G. Kendall, G. Whitwell, Oper. Res. 52,
//! 2004, from memory); the order is changed a little again and again.

use crate::geometry::Point;
use crate::rng::Rng;

/// Widths that differ by less are alike, mm.
const ALIKE_MM: f64 = 1e-9;
/// Orders tried for a plate, where few copies are left.
pub(super) const ORDERS: usize = 6000;
/// Copies that are looked at for a plate.
const MOST: usize = 160;

/// How much more an order may lose than the one it comes from.
const MORE_LOST: f64 = 1.1;

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
    let mut filling = Filling::new(size, &bricks);
    filling.fill(&order, ahead, f64::INFINITY, rng);
    let mut now = steep(&filling.laid);
    let mut best = (filling.laid.clone(), rest(&filling.laid));
    let (mut front, mut lost) = (filling.laid.len(), filling.lost);
    let mut before = order.clone();
    for _ in 0..orders {
        before.clone_from(&order);
        match rng.below(3) {
            0 => order.swap(rng.below(many), rng.below(many)),
            1 => {
                let taken = order.remove(rng.below(many));
                order.insert(rng.below(many), taken);
            }
            _ => {
                // One far back comes to the front part.
                let front = front.min(many - 1).max(1);
                let taken = order.remove(rng.below(many));
                order.insert(rng.below(front), taken);
            }
        }
        // What loses much more than the order it comes from is not followed to its end.
        let all = filling.fill(
            &order,
            ahead,
            MORE_LOST * lost + 0.005 * size[0] * size[1],
            rng,
        );
        let there = if all {
            steep(&filling.laid)
        } else {
            f64::INFINITY
        };
        if there <= now * 1.002 {
            let whole = rest(&filling.laid);
            if whole < best.1 {
                best = (filling.laid.clone(), whole);
            }
            (front, lost, now) = (filling.laid.len(), filling.lost, there);
        } else {
            std::mem::swap(&mut order, &mut before);
        }
    }
    best.0
}

/// A copy that waits, with what is asked about it first.
#[derive(Debug, Clone, Copy)]
struct Waiting {
    narrowest: f64,
    sizes: [Point; 2],
    /// One size does for both turns.
    square: bool,
    brick: usize,
}

/// A plate that is being filled; it is filled again and again.
struct Filling<'a> {
    size: Point,
    bricks: &'a [Brick],
    waiting: Vec<Waiting>,
    sky: Vec<Stretch>,
    laid: Vec<Laid>,
    /// Area below the skyline that nothing will cover, mm².
    lost: f64,
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() < ALIKE_MM
}

impl<'a> Filling<'a> {
    fn new(size: Point, bricks: &'a [Brick]) -> Self {
        Self {
            size,
            bricks,
            waiting: Vec::with_capacity(bricks.len()),
            sky: Vec::new(),
            laid: Vec::new(),
            lost: 0.0,
        }
    }

    /// Fills by an order; false, and not to the end, where more is lost than allowed.
    fn fill(&mut self, order: &[usize], ahead: u32, most_lost: f64, rng: &mut Rng) -> bool {
        let [width, depth] = self.size;
        self.sky.clear();
        self.sky.push(Stretch {
            x: 0.0,
            y: 0.0,
            width,
        });
        self.laid.clear();
        self.lost = 0.0;
        self.waiting.clear();
        self.waiting.extend(order.iter().map(|brick| {
            let sizes = self.bricks[*brick].sizes;
            let [a, b] = sizes;
            Waiting {
                narrowest: a[0].min(b[0]),
                sizes,
                square: near(a[0], b[0]) && near(a[1], b[1]),
                brick: *brick,
            }
        }));
        while !self.waiting.is_empty() {
            let Some(low) =
                (0..self.sky.len()).min_by(|a, b| self.sky[*a].y.total_cmp(&self.sky[*b].y))
            else {
                break;
            };
            let here = self.sky[low];
            if here.y >= depth - ALIKE_MM {
                break;
            }
            let left = if low > 0 { self.sky[low - 1].y } else { depth };
            let right = self.sky.get(low + 1).map_or(depth, |s| s.y);
            let Some((place, turned)) = self.best(here, depth, left, right, ahead) else {
                // Nothing goes here: it is level with its lower neighbour.
                let level = left.min(right);
                self.lost += (level - here.y) * here.width;
                if self.lost > most_lost {
                    return false;
                }
                self.sky[low].y = level;
                join(&mut self.sky);
                continue;
            };
            let Waiting { brick, sizes, .. } = self.waiting.remove(place);
            // Beside the higher neighbour, so that what stays is open to the lower one.
            let at_left = if near(left, right) {
                rng.below(8) > 0
            } else {
                left > right
            };
            self.put(low, brick, turned, sizes[turned], at_left);
        }
        true
    }

    /// The copy that goes best onto a stretch and how it is turned.
    fn best(
        &self,
        here: Stretch,
        depth: f64,
        left: f64,
        right: f64,
        ahead: u32,
    ) -> Option<(usize, usize)> {
        let (wide, deep) = (here.width + ALIKE_MM, depth + ALIKE_MM - here.y);
        let mut best: Option<(u32, usize, usize)> = None;
        for (place, waiting) in self.waiting.iter().enumerate() {
            if waiting.narrowest <= wide {
                let turns = if waiting.square { 1 } else { 2 };
                for (turned, [w, d]) in waiting.sizes[..turns].iter().copied().enumerate() {
                    if w > wide || d > deep {
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
            }
            if best.is_some_and(|b| b.1 + 3 * ahead as usize <= place) {
                break;
            }
        }
        best.map(|(_, place, turned)| (place, turned))
    }

    /// Lays a copy onto a stretch, at its left or right end.
    fn put(&mut self, low: usize, brick: usize, turned: usize, [w, d]: Point, at_left: bool) {
        let here = self.sky[low];
        let x = if at_left {
            here.x
        } else {
            (here.x + here.width - w).max(here.x)
        };
        self.laid.push(Laid {
            item: self.bricks[brick].item,
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
            self.sky[low] = Stretch {
                x: here.x,
                width: here.width,
                ..top
            };
        } else if at_left {
            self.sky[low] = top;
            self.sky.insert(
                low + 1,
                Stretch {
                    x: here.x + w,
                    y: here.y,
                    width: rest,
                },
            );
        } else {
            self.sky[low].width = rest;
            self.sky.insert(low + 1, top);
        }
        join(&mut self.sky);
    }
}

/// Makes one of neighbouring stretches at the same height.
fn join(sky: &mut Vec<Stretch>) {
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

#[cfg(test)]
#[path = "boxes_tests.rs"]
mod boxes_tests;
