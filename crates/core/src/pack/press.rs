//! Copies pressed onto a plate that looks full: they may overlap at first and are pushed apart.
//!
//! A copy is moved by Gauss-Newton steps on its depths, or jumps to the best of some places that
//! were drawn; pairs that stay in each other's way weigh more and more (guided local search after
//! C. Voudouris and E. Tsang, Eur. J. Oper. Res. 113, 1999; on outlines J. Egeblad, B. Nielsen, A. Odgaard,
//! Eur. J. Oper. Res. 183, 2007; both from memory). Weights are bounded: else parts fly off.

use super::nest::{Put, clear};
use super::overlap::{NOTHING_MM, Pose, Pressed, Push, SPARE_MM, Seen, round_pair, through};
use super::shape::Shape;
use super::work::{Filled, Work, inner};
use crate::geometry::Point;
use crate::rng::Rng;

/// Places that are drawn for a copy that comes.
const DRAWN: usize = 150;
/// Most a pair may weigh.
const HEAVIEST: f64 = 400.0;

/// A plate on which copies are pushed apart.
pub(super) struct Press<'a> {
    pub(super) shapes: &'a [Shape],
    /// Free width and depth, mm.
    pub(super) size: Point,
    pub(super) clearance: f64,
    pub(super) care: Care,
}

/// How much is tried before it is given up.
#[derive(Debug, Clone, Copy)]
pub(super) struct Care {
    /// Copies that are moved to make room for one.
    pub(super) movers: usize,
    /// Rounds without getting better.
    pub(super) patience: usize,
}

impl Care {
    /// For many small changes.
    pub(super) const QUICK: Self = Self {
        movers: 28,
        patience: 60,
    };
    /// For changes that are worth the wait: the whole plate makes room.
    pub(super) const WHOLE: Self = Self {
        movers: 96,
        patience: 200,
    };
}

struct Pairs {
    many: usize,
    weight: Vec<f64>,
    /// Of every copy against the rim.
    rim: Vec<f64>,
    /// What a pair keeps apart beyond the clearance, mm: fields are a little coarse.
    more: Vec<f64>,
}

impl Pairs {
    fn new(many: usize) -> Self {
        Self {
            many,
            weight: vec![1.0; many * many],
            rim: vec![1.0; many],
            more: vec![0.0; many * many],
        }
    }

    fn at(&self, i: usize, j: usize) -> usize {
        i * self.many + j
    }
    fn set(&mut self, i: usize, j: usize, weight: f64) {
        let (a, b) = (self.at(i, j), self.at(j, i));
        self.weight[a] = weight;
        self.weight[b] = weight;
    }
}

impl Press<'_> {
    /// Pushes copies apart until none is in another's way, moving only some of them; false, with the
    /// copies somewhere, where that was not found with so much work, which is counted off.
    pub(super) fn part(
        &self,
        copies: &mut [Pressed],
        movers: &[usize],
        budget: &mut usize,
        rng: &mut Rng,
        is_clear: &dyn Fn(&[Pressed], usize, usize) -> bool,
    ) -> bool {
        let many = copies.len();
        let mut pairs = Pairs::new(many);
        let still: Vec<usize> = (0..many).filter(|i| !movers.contains(i)).collect();
        // Each pair once.
        let others = |place: usize| movers[..place].iter().chain(&still).copied();
        let window = self.window(copies, movers);
        let mut least = f64::INFINITY;
        let mut since = 0;
        loop {
            // Who is in whose way.
            let mut overlaps: Vec<(usize, usize, f64)> = Vec::new();
            let mut own = vec![0.0; many];
            let mut total = 0.0;
            for (place, i) in movers.iter().copied().enumerate() {
                let off = self.rim(copies[i]).energy;
                if off > 0.0 {
                    own[i] += off;
                    total += off;
                    pairs.rim[i] = (pairs.rim[i] * 1.5).min(HEAVIEST);
                }
                for j in others(place) {
                    let mut push = Push::default();
                    self.pair(
                        copies[i],
                        copies[j],
                        pairs.more[i * many + j],
                        1.0,
                        &mut push,
                    );
                    if push.energy > 0.0 {
                        own[i] += push.energy;
                        own[j] += push.energy;
                        total += push.energy;
                        overlaps.push((i, j, push.energy));
                    } else {
                        let w = pairs.weight[i * many + j];
                        if w > 1.0 {
                            pairs.set(i, j, (w * 0.95).max(1.0));
                        }
                    }
                }
            }
            if total <= 0.0 {
                let mut good = true;
                for (place, i) in movers.iter().copied().enumerate() {
                    for j in others(place) {
                        if self.near(copies[i], copies[j]) && !is_clear(copies, i, j) {
                            good = false;
                            let (a, b) = (pairs.at(i, j), pairs.at(j, i));
                            pairs.more[a] += 0.02;
                            pairs.more[b] = pairs.more[a];
                        }
                    }
                }
                if good {
                    return true;
                }
                continue;
            }
            if total < 0.98 * least {
                least = total;
                since = 0;
            } else {
                since += 1;
                if since > self.care.patience || *budget == 0 {
                    return false;
                }
            }
            let most = overlaps.iter().map(|o| o.2).fold(0.0, f64::max);
            for (i, j, e) in &overlaps {
                let w = pairs.weight[i * many + j] * (1.2 + 0.8 * e / most);
                pairs.set(*i, *j, w.min(HEAVIEST));
            }
            // What is all but free waits until the rest is.
            let worth = 1e-4 * total;
            let mut order: Vec<usize> =
                movers.iter().copied().filter(|i| own[*i] > worth).collect();
            rng.shuffle(&mut order);
            for i in order {
                *budget = budget.saturating_sub(self.shapes[copies[i].item].effort());
                self.shift(copies, i, &pairs, window, rng);
            }
        }
    }

    fn near(&self, a: Pressed, b: Pressed) -> bool {
        let r = self.shapes[a.item].radius + self.shapes[b.item].radius + self.clearance + 0.1;
        let (x, y) = (a.pose.at[0] - b.pose.at[0], a.pose.at[1] - b.pose.at[1]);
        x * x + y * y < r * r
    }

    /// Where the middles of some copies are, with a little more around.
    fn window(&self, copies: &[Pressed], movers: &[usize]) -> [Point; 2] {
        let (mut low, mut high) = (self.size, [0.0; 2]);
        for i in movers {
            let r = self.shapes[copies[*i].item].radius;
            for k in 0..2 {
                low[k] = f64::min(low[k], copies[*i].pose.at[k] - r);
                high[k] = f64::max(high[k], copies[*i].pose.at[k] + r);
            }
        }
        [low, high]
    }

    /// Some place and turn within a window, not much over the rim.
    fn somewhere(&self, shape: &Shape, window: [Point; 2], rng: &mut Rng) -> Pose {
        let at = [0, 1].map(|k| {
            let r = shape.radius.min(self.size[k] / 2.0) * 0.6;
            let (low, high) = (window[0][k].max(r), window[1][k].min(self.size[k] - r));
            low + (high - low) * rng.share()
        });
        Pose::new(at, rng.share() * std::f64::consts::TAU)
    }

    /// A place for one more copy where it is least in the way, among some that are drawn; and the
    /// copies nearest to it, which may move.
    pub(super) fn place(
        &self,
        copies: &mut Vec<Pressed>,
        item: usize,
        drawn: usize,
        rng: &mut Rng,
    ) -> Vec<usize> {
        let i = copies.len();
        let shape = &self.shapes[item];
        let middle = self.size.map(|s| s / 2.0);
        copies.push(Pressed {
            item,
            pose: Pose::new(middle, 0.0),
        });
        let pairs = Pairs::new(i + 1);
        let mut best = (f64::INFINITY, copies[i].pose);
        for _ in 0..drawn {
            let pose = self.somewhere(shape, [[0.0; 2], self.size], rng);
            let energy = self.energy(copies, i, pose, &pairs, best.0);
            if energy < best.0 {
                best = (energy, pose);
            }
        }
        copies[i].pose = best.1;
        let start = self.push(copies, i, best.1, &pairs, f64::INFINITY);
        copies[i].pose = self.settle(copies, i, best.1, start, &pairs, 6).0;
        let here = copies[i].pose.at;
        let mut near: Vec<(f64, usize)> = (0..=i)
            .map(|j| {
                let p = copies[j].pose.at;
                let off = (p[0] - here[0]).hypot(p[1] - here[1]);
                (off - self.shapes[copies[j].item].radius, j)
            })
            .collect();
        near.sort_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)));
        near.truncate(self.care.movers);
        near.into_iter().map(|n| n.1).collect()
    }

    /// Moves one copy to where it is less in the way.
    fn shift(
        &self,
        copies: &mut [Pressed],
        i: usize,
        pairs: &Pairs,
        window: [Point; 2],
        rng: &mut Rng,
    ) {
        let item = copies[i].item;
        let now = self.push(copies, i, copies[i].pose, pairs, f64::INFINITY);
        if now.energy <= 0.0 {
            return;
        }
        let (mut best, mut energy) = self.settle(copies, i, copies[i].pose, now, pairs, 3);
        if energy > 0.25 * now.energy && rng.below(3) == 0 {
            const JUMPS: usize = 18;
            let mut top: [(f64, Option<Pose>); 2] = [(f64::INFINITY, None); 2];
            let shape = &self.shapes[item];
            for k in 0..JUMPS {
                let pose = if k % 3 == 0 {
                    let from = copies[i].pose;
                    let spread = 1.2 * shape.radius;
                    let dx = spread * (rng.share() - 0.5);
                    let dy = spread * (rng.share() - 0.5);
                    let turn = from.turn + 1.5 * (rng.share() - 0.5);
                    Pose::new([from.at[0] + dx, from.at[1] + dy], turn)
                } else {
                    self.somewhere(shape, window, rng)
                };
                let e = self.energy(copies, i, pose, pairs, top[1].0);
                if e < top[0].0 {
                    top[1] = top[0];
                    top[0] = (e, Some(pose));
                } else if e < top[1].0 {
                    top[1] = (e, Some(pose));
                }
            }
            for (_, pose) in top {
                let Some(pose) = pose else { continue };
                let there = self.push(copies, i, pose, pairs, f64::INFINITY);
                let (to, e) = self.settle(copies, i, pose, there, pairs, 4);
                if e < energy {
                    (best, energy) = (to, e);
                }
            }
        }
        copies[i].pose = best;
    }

    /// Gauss-Newton steps from a place.
    fn settle(
        &self,
        copies: &[Pressed],
        i: usize,
        from: Pose,
        start: Push,
        pairs: &Pairs,
        steps: usize,
    ) -> (Pose, f64) {
        let radius = self.shapes[copies[i].item].radius;
        let (mut pose, mut push) = (from, start);
        let mut damping = 0.01;
        for _ in 0..steps {
            if push.energy <= 0.0 {
                break;
            }
            let mut step = push.step(damping);
            let longest = step.iter().map(|s| s.abs()).fold(0.0, f64::max);
            let most = 0.5 * radius;
            if longest > most {
                step = step.map(|s| s * most / longest);
            }
            let to = Pose::new(
                [pose.at[0] + step[0], pose.at[1] + step[1]],
                pose.turn + step[2] / radius,
            );
            let there = self.push(copies, i, to, pairs, push.energy);
            if there.energy < push.energy {
                (pose, push) = (to, there);
                damping = (damping * 0.3).max(1e-4);
            } else {
                damping *= 10.0;
            }
        }
        (pose, push.energy)
    }

    /// Only how much a copy overlaps at a place; given up above a limit.
    fn energy(&self, copies: &[Pressed], i: usize, pose: Pose, pairs: &Pairs, limit: f64) -> f64 {
        let item = copies[i].item;
        let me = Pressed { item, pose };
        let mut energy = pairs.rim[i] * self.rim(me).energy;
        let of = &self.shapes[item];
        for (j, other) in copies.iter().enumerate() {
            if j == i {
                continue;
            }
            if energy >= limit {
                return energy;
            }
            let on = &self.shapes[other.item];
            let at = pairs.at(i, j);
            let apart = self.clearance + pairs.more[at] + SPARE_MM;
            let Some(seen) = Seen::new(of, on, pose, other.pose, apart) else {
                continue;
            };
            let half = 0.5 * pairs.weight[at];
            if of.round || on.round {
                let mut depths = |depth: f64, weight: f64, _: Point, _: Point| {
                    energy += half * weight * depth * depth;
                };
                round_pair(me, *other, of, on, apart, &mut depths);
                continue;
            }
            let goes_on = through(of, on, seen.turn, seen.shift, apart, |depth, p, _| {
                energy += half * f64::from(p.weight) * depth * depth;
                energy < limit
            });
            if !goes_on {
                return energy;
            }
            through(
                on,
                of,
                seen.turn_back(),
                seen.shift_back,
                apart,
                |depth, p, _| {
                    energy += half * f64::from(p.weight) * depth * depth;
                    energy < limit
                },
            );
        }
        energy
    }

    /// Overlap of a copy at a place; given up above a limit.
    fn push(&self, copies: &[Pressed], i: usize, pose: Pose, pairs: &Pairs, limit: f64) -> Push {
        let me = Pressed {
            item: copies[i].item,
            pose,
        };
        let mut push = self.rim(me);
        let rim = pairs.rim[i];
        push.energy *= rim;
        push.slope = push.slope.map(|s| s * rim);
        push.bend = push.bend.map(|s| s * rim);
        for (j, other) in copies.iter().enumerate() {
            if push.energy >= limit {
                return push;
            }
            if j != i {
                let at = pairs.at(i, j);
                self.pair(me, *other, pairs.more[at], pairs.weight[at], &mut push);
            }
        }
        push
    }

    fn rim(&self, a: Pressed) -> Push {
        let shape = &self.shapes[a.item];
        let mut push = Push::default();
        let inner =
            |k: usize| a.pose.at[k] >= shape.radius && a.pose.at[k] + shape.radius <= self.size[k];
        if inner(0) && inner(1) {
            return push;
        }
        if shape.round {
            for k in 0..2 {
                let reach = shape.radius + SPARE_MM;
                for (depth, sign) in [
                    (reach - a.pose.at[k], -1.0),
                    (a.pose.at[k] + reach - self.size[k], 1.0),
                ] {
                    if depth > NOTHING_MM {
                        let mut j = [0.0; 3];
                        j[k] = sign;
                        push.add(depth, shape.around, j);
                    }
                }
            }
            return push;
        }
        for p in &shape.points {
            let t = a.pose.turned(p.at.map(f64::from));
            for k in 0..2 {
                let v = a.pose.at[k] + t[k];
                let (depth, sign) = if v < self.size[k] / 2.0 {
                    (SPARE_MM - v, -1.0)
                } else {
                    (v - self.size[k] + SPARE_MM, 1.0)
                };
                if depth > NOTHING_MM {
                    let mut j = [0.0; 3];
                    j[k] = sign;
                    // Turning moves x by −y, y by x.
                    j[2] = sign * if k == 0 { -t[1] } else { t[0] } / shape.radius;
                    push.add(depth, 2.0 * f64::from(p.weight), j);
                }
            }
        }
        push
    }

    fn pair(&self, a: Pressed, b: Pressed, more: f64, weight: f64, push: &mut Push) {
        let (of, on) = (&self.shapes[a.item], &self.shapes[b.item]);
        let apart = self.clearance + more + SPARE_MM;
        let Some(seen) = Seen::new(of, on, a.pose, b.pose, apart) else {
            return;
        };
        let by = 1.0 / of.radius;
        if of.round || on.round {
            round_pair(a, b, of, on, apart, &mut |depth, each, off, r| {
                // It is pushed along `off`; the point that is pushed lies at `r` about its middle.
                let turning = -(off[1] * r[0] - off[0] * r[1]);
                push.add(depth, weight * each, [-off[0], -off[1], turning * by]);
            });
            return;
        }
        through(of, on, seen.turn, seen.shift, apart, |depth, p, q| {
            let g = on.field.slope(q);
            let g = b.pose.turned([f64::from(g[0]), f64::from(g[1])]);
            let r = a.pose.turned(p.at.map(f64::from));
            let turning = -(g[1] * r[0] - g[0] * r[1]);
            push.add(
                depth,
                weight * f64::from(p.weight),
                [-g[0], -g[1], turning * by],
            );
            true
        });
        through(
            on,
            of,
            seen.turn_back(),
            seen.shift_back,
            apart,
            |depth, p, q| {
                let l = of.field.slope(q);
                let g = a.pose.turned([f64::from(l[0]), f64::from(l[1])]);
                let turning = -f64::from(l[0] * q[1] - l[1] * q[0]);
                push.add(
                    depth,
                    weight * f64::from(p.weight),
                    [g[0], g[1], turning * by],
                );
                true
            },
        );
    }
}

impl Work<'_> {
    /// The copies of a plate with one more pressed in; nothing where that was not found with so
    /// much work, which is counted off.
    pub(super) fn press(
        &self,
        build_area: usize,
        standing: &[Put],
        more: usize,
        care: Care,
        budget: &mut usize,
        rng: &mut Rng,
    ) -> Option<Filled> {
        let shapes = &self.shapes;
        let press = Press {
            shapes,
            size: inner(&self.job.build_areas[build_area]),
            clearance: self.job.clearance_mm,
            care,
        };
        let mut copies: Vec<Pressed> = standing
            .iter()
            .map(|p| Pressed {
                item: p.item,
                pose: Pose::of(&shapes[p.item], p.at_mm, p.rotation_deg),
            })
            .collect();
        let movers = press.place(&mut copies, more, DRAWN, rng);
        let is_clear = |copies: &[Pressed], i: usize, j: usize| {
            let corners = |c: Pressed| {
                let (at, turn) = c.pose.origin(&shapes[c.item]);
                self.job.items[c.item].outline.placed(turn, at)
            };
            let (a, b) = (corners(copies[i]), corners(copies[j]));
            clear(
                a.corners(),
                [0.0, 0.0],
                b.corners(),
                (self.job.clearance_mm).max(1e-6),
            )
        };
        if !press.part(&mut copies, &movers, budget, rng, &is_clear) {
            return None;
        }
        let puts: Vec<Put> = copies
            .iter()
            .map(|c| {
                let (at_mm, rotation_deg) = c.pose.origin(&shapes[c.item]);
                Put {
                    item: c.item,
                    at_mm,
                    rotation_deg,
                }
            })
            .collect();
        self.standing(build_area, &puts)
    }
}

#[cfg(test)]
#[path = "press_tests.rs"]
mod press_tests;
