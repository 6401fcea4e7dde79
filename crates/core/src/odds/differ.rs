//! How much groups of copies differ, and how much the copies of one plate share their luck: both are
//! fitted from the log, so that a group is judged by as much as the log can tell.
//!
//! The model: of group g a share p_g comes out good. Either all groups have one share, or p_g follows
//! Beta(μ s, (1 − μ) s). Of the copies of g on one plate good ones follow a beta-binomial with mean p_g
//! and concentration κ, binomial where κ is endless. μ, s, κ and whether all are alike have priors and
//! are summed over on a grid (A. Gelman and others, Bayesian Data Analysis, 3rd edition, chapter 5, from
//! memory).

use std::collections::HashMap;

use statrs::function::beta::ln_beta;

use super::{Judged, Posterior};

/// Copies of one group on one plate.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OnPlate {
    /// Which group.
    pub group: usize,
    /// How they came out.
    pub judged: Judged,
}

/// What is believed of the share of a group that comes out good.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Share {
    /// The beta law with the same mean and spread.
    pub odds: Posterior,
    /// The same for the share of its copies on one plate, which lies further apart where copies of a plate
    /// share their luck.
    pub on_a_plate: Posterior,
    /// It is expected.
    pub mean: f64,
    /// It is under this only so often,
    pub low: f64,
    /// and over this as often.
    pub high: f64,
    /// The chance that it lies under what groups have in the middle.
    pub worse: f64,
    /// The chance that it lies over that.
    pub better: f64,
}

/// All groups that were looked at together.
#[derive(Debug, Clone, PartialEq)]
pub struct Differ {
    /// What is believed of each.
    pub groups: Vec<Share>,
    /// Of one of which nothing was judged yet.
    pub another: Share,
    /// The chance that all of them are alike.
    pub alike: f64,
}

/// Concentrations of the groups about their middle: from as different as can be to next to alike.
const GROUPS: [f64; 8] = [1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 64.0, 128.0];
/// Concentrations of plates about their group; the last is endless.
const PLATES: [f64; 8] = [1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 64.0, f64::INFINITY];
/// How likely it is, before anything was judged, that all groups are alike,
const ALIKE: f64 = 0.2;
/// and that plates of a group are.
const ALIKE_PLATES: f64 = 0.3;
/// Of the middle before anything was judged: nine of ten come out (common practice, no source).
const MIDDLE: [f64; 2] = [9.0, 1.0];
/// Log odds of shares that are looked at: from one in two hundred to all but one in two thousand.
const FROM: f64 = -5.5;
const TO: f64 = 7.6;
/// Places of the middle in one pass, and passes: each looks closer than the one before.
const PLACES: usize = 13;
const PASSES: usize = 3;
/// What weighs less than this is left out.
const NOTHING: f64 = 1e-4;

/// Log odds with their shares.
struct Grid {
    odds: Vec<f64>,
    share: Vec<f64>,
    step: f64,
}

fn share_of(odds: f64) -> f64 {
    1.0 / (1.0 + (-odds).exp())
}

impl Grid {
    /// As close as the largest group asks for.
    fn of(all: impl IntoIterator<Item = Judged>) -> Self {
        let sharpest = all.into_iter().fold(1.0_f64, |most, j| {
            let (good, failed) = (j.good as f64 + 0.5, j.failed as f64 + 0.5);
            most.max(good * failed / (good + failed))
        });
        let points = ((TO - FROM) * sharpest.sqrt() / 0.7).clamp(100.0, 500.0) as usize;
        let step = (TO - FROM) / points as f64;
        let odds: Vec<f64> = (0..points)
            .map(|i| FROM + (i as f64 + 0.5) * step)
            .collect();
        Self {
            share: odds.iter().map(|z| share_of(*z)).collect(),
            odds,
            step,
        }
    }
}

/// The logarithm of how likely so many good and failed ones of one plate are, by the share, up to what is
/// the same for all.
fn of_plate(judged: Judged, grid: &Grid, plates: f64) -> Vec<f64> {
    let (good, failed) = (judged.good as f64, judged.failed as f64);
    let at = |p: &f64| {
        if plates.is_infinite() {
            return good * p.ln() + failed * (1.0 - p).ln();
        }
        let (a, b) = (p * plates, (1.0 - p) * plates);
        ln_beta(a + good, b + failed) - ln_beta(a, b)
    };
    grid.share.iter().map(at).collect()
}

/// How likely what was judged of a group is, by the share: for each concentration of plates the logarithm of
/// its highest value, and the values as parts of that.
#[derive(Clone)]
struct Likely {
    highest: Vec<f64>,
    parts: Vec<Vec<f64>>,
}

fn likely(groups: &[Vec<Judged>], grid: &Grid) -> Vec<Likely> {
    // Most plates are alike: each is looked at once.
    let mut known: HashMap<(u64, u64), Vec<Vec<f64>>> = HashMap::new();
    let mut whole: HashMap<Vec<(u64, u64)>, Likely> = HashMap::new();
    let one = |plates: &Vec<Judged>| {
        let mut key: Vec<(u64, u64)> = plates.iter().map(|j| (j.good, j.failed)).collect();
        key.sort_unstable();
        if let Some(of) = whole.get(&key) {
            return of.clone();
        }
        let mut sums = vec![vec![0.0; grid.share.len()]; PLATES.len()];
        for judged in plates {
            let of = known
                .entry((judged.good, judged.failed))
                .or_insert_with(|| PLATES.iter().map(|k| of_plate(*judged, grid, *k)).collect());
            for (sum, of) in sums.iter_mut().zip(of.iter()) {
                sum.iter_mut().zip(of).for_each(|(sum, of)| *sum += of);
            }
        }
        let highest: Vec<f64> = sums
            .iter()
            .map(|s| s.iter().copied().fold(f64::NEG_INFINITY, f64::max))
            .collect();
        let parts = sums
            .iter()
            .zip(&highest)
            .map(|(s, top)| s.iter().map(|v| (v - top).exp()).collect())
            .collect();
        let of = Likely { highest, parts };
        whole.insert(key, of.clone());
        of
    };
    groups.iter().map(one).collect()
}

/// Products summed, four sums side by side.
fn dot(a: &[f64], b: &[f64]) -> f64 {
    let (four_a, rest_a) = a.as_chunks::<4>();
    let (four_b, rest_b) = b.as_chunks::<4>();
    let mut sums = [0.0; 4];
    for (a, b) in four_a.iter().zip(four_b) {
        for i in 0..4 {
            sums[i] += a[i] * b[i];
        }
    }
    let rest: f64 = rest_a.iter().zip(rest_b).map(|(a, b)| a * b).sum();
    sums.iter().sum::<f64>() + rest
}

/// How shares of groups are spread where their middle and concentration are so: the law over the grid.
fn spread(grid: &Grid, middle: f64, groups: f64) -> Vec<f64> {
    let (a, b) = (middle * groups, (1.0 - middle) * groups);
    let at = |p: &f64| a * p.ln() + b * (1.0 - p).ln();
    let logs: Vec<f64> = grid.share.iter().map(at).collect();
    let top = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let parts: Vec<f64> = logs.iter().map(|l| (l - top).exp()).collect();
    let sum: f64 = parts.iter().sum();
    parts.into_iter().map(|p| p / sum).collect()
}

fn before_middle(odds: f64) -> f64 {
    let p = share_of(odds);
    MIDDLE[0] * p.ln() + MIDDLE[1] * (1.0 - p).ln() - ln_beta(MIDDLE[0], MIDDLE[1])
}

fn before_plates(at: usize) -> f64 {
    if PLATES[at].is_infinite() {
        ALIKE_PLATES.ln()
    } else {
        ((1.0 - ALIKE_PLATES) / (PLATES.len() - 1) as f64).ln()
    }
}

/// One way it may be: groups differ so, with their middle there, and plates so.
struct Way {
    plates: usize,
    middle: f64,
    spread: usize,
    log: f64,
    /// How likely each group is, as a part of its highest.
    each: Vec<f64>,
}

/// Ways in which groups differ, with the middle at these places.
fn ways(
    all: &[Likely],
    grid: &Grid,
    places: &[f64],
    plates: &[usize],
) -> (Vec<Vec<f64>>, Vec<Way>) {
    let step = places[1] - places[0];
    let mut spreads = Vec::new();
    let mut ways = Vec::new();
    for middle in places {
        for groups in GROUPS {
            let law = spread(grid, share_of(*middle), groups);
            for k in plates {
                let each: Vec<f64> = all
                    .iter()
                    .map(|g| dot(&law, &g.parts[*k]).max(1e-300))
                    .collect();
                let log: f64 = each
                    .iter()
                    .zip(all)
                    .map(|(e, g)| e.ln() + g.highest[*k])
                    .sum();
                let before = before_middle(*middle)
                    + before_plates(*k)
                    + ((1.0 - ALIKE) / GROUPS.len() as f64).ln();
                ways.push(Way {
                    plates: *k,
                    middle: *middle,
                    spread: spreads.len(),
                    log: log + before + step.ln(),
                    each,
                });
            }
            spreads.push(law);
        }
    }
    (spreads, ways)
}

/// How likely it is, by the products of their parts with the same law, that the second group's share lies over
/// the first one's; those at the same place for one half.
fn over(law: &[f64], first: &[f64], second: &[f64]) -> f64 {
    let (mut below, mut over) = (0.0, 0.0);
    for ((law, first), second) in law.iter().zip(first).zip(second) {
        let here = law * first;
        over += law * second * (below + 0.5 * here);
        below += here;
    }
    over
}

fn highest(logs: impl Iterator<Item = f64>) -> f64 {
    logs.fold(f64::NEG_INFINITY, f64::max)
}

/// A law over the grid that is filled piece by piece.
#[derive(Clone)]
struct Law {
    parts: Vec<f64>,
    worse: f64,
    better: f64,
    /// The mean share of p (1 − p) / (κ + 1): how far plates lie about their group.
    plates: f64,
}

impl Law {
    fn empty(grid: &Grid) -> Self {
        Self {
            parts: vec![0.0; grid.share.len()],
            worse: 0.0,
            better: 0.0,
            plates: 0.0,
        }
    }

    /// With a further piece, whose weights are products of two laws.
    fn add(
        &mut self,
        grid: &Grid,
        weight: f64,
        law: [&[f64]; 2],
        middle: Option<f64>,
        plates: f64,
    ) {
        let apart = 1.0 / (plates + 1.0);
        let [a, b] = law;
        for (i, (a, b)) in a.iter().zip(b).enumerate() {
            let piece = weight * a * b;
            self.parts[i] += piece;
            self.plates += piece * grid.share[i] * (1.0 - grid.share[i]) * apart;
            if let Some(middle) = middle {
                if grid.odds[i] < middle {
                    self.worse += piece;
                } else {
                    self.better += piece;
                }
            }
        }
    }

    fn share(&self, grid: &Grid, level: f64) -> Share {
        let sum: f64 = self.parts.iter().sum();
        let mean = dot(&self.parts, &grid.share) / sum;
        let apart: f64 = self
            .parts
            .iter()
            .zip(&grid.share)
            .map(|(w, p)| w * (p - mean).powi(2))
            .sum();
        let (apart, plates) = (apart / sum, self.plates / sum);
        let quantile = |chance: f64| {
            let mut below = 0.0;
            for (i, part) in self.parts.iter().enumerate() {
                let next = below + part / sum;
                if next >= chance {
                    let at = (chance - below) / (next - below).max(1e-300);
                    return share_of(grid.odds[i] + (at - 0.5) * grid.step);
                }
                below = next;
            }
            1.0
        };
        let tail = (1.0 - level) / 2.0;
        Share {
            odds: with(mean, apart),
            on_a_plate: with(mean, apart + plates),
            mean,
            low: quantile(tail),
            high: quantile(1.0 - tail),
            worse: self.worse / sum,
            better: self.better / sum,
        }
    }
}

/// The beta law of this mean and variance.
fn with(mean: f64, variance: f64) -> Posterior {
    let strength = (mean * (1.0 - mean) / variance.max(1e-12) - 1.0).max(1e-3);
    Posterior {
        a: mean * strength,
        b: (1.0 - mean) * strength,
    }
}

/// What can be said of a group against the others.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Verdict {
    /// It is better, with a chance of 95 % or more.
    Better,
    /// It is worse, with a chance of 95 % or more.
    Worse,
    /// Neither is proven.
    NotProven,
    /// There are no others.
    Alone,
}

/// From this chance on something is called proven.
const PROOF: f64 = 0.95;

impl Share {
    /// What can be said of it against all of its table. Those that are said to differ do with a chance of
    /// 95 % each, that all are alike counted in: of all that is said so, no more than one in twenty is wrong.
    #[must_use]
    pub fn verdict(&self) -> Verdict {
        match self {
            s if s.worse >= PROOF => Verdict::Worse,
            s if s.better >= PROOF => Verdict::Better,
            _ => Verdict::NotProven,
        }
    }
}

impl Differ {
    /// From what was judged of so many groups, plate by plate; `level` of the shares lie in their ranges.
    #[must_use]
    pub fn fitted(groups: usize, judged: &[OnPlate], level: f64) -> Self {
        let mut by_group = vec![Vec::new(); groups];
        for entry in judged.iter().filter(|e| e.judged.all() > 0) {
            if let Some(of) = by_group.get_mut(entry.group) {
                of.push(entry.judged);
            }
        }
        let sums: Vec<Judged> = by_group
            .iter()
            .map(|g| Judged::sum(g.iter().copied()))
            .collect();
        let pooled = Judged::sum(sums.iter().copied());
        let grid = Grid::of([pooled]);
        let all = likely(&by_group, &grid);
        Self::summed(&grid, &all, pooled, level)
    }

    fn summed(grid: &Grid, all: &[Likely], pooled: Judged, level: f64) -> Self {
        // All alike: one share for every group, a place on the grid.
        let mut alike: Vec<Vec<f64>> = Vec::new();
        for k in 0..PLATES.len() {
            let top: f64 = all.iter().map(|g| g.highest[k]).sum();
            let at = |i: usize| {
                let each: f64 = all.iter().map(|g| g.parts[k][i].max(1e-300).ln()).sum();
                top + each
                    + before_middle(grid.odds[i])
                    + before_plates(k)
                    + ALIKE.ln()
                    + grid.step.ln()
            };
            alike.push((0..grid.share.len()).map(at).collect());
        }
        let mut plates: Vec<usize> = (0..PLATES.len()).collect();
        let [good, failed] = [pooled.good, pooled.failed].map(|n| n as f64 + 1.0);
        let (mut at, mut wide) = ((good / failed).ln(), 3.0);
        let (mut laws, mut differ) = (Vec::new(), Vec::new());
        for pass in 0..PASSES {
            let step = 2.0 * wide / (PLACES - 1) as f64;
            let places: Vec<f64> = (0..PLACES).map(|i| at - wide + i as f64 * step).collect();
            (laws, differ) = ways(all, grid, &places, &plates);
            if pass + 1 == PASSES {
                break;
            }
            let top = highest(differ.iter().map(|w| w.log));
            let weight = |w: &Way| (w.log - top).exp();
            let sum: f64 = differ.iter().map(weight).sum();
            at = differ.iter().map(|w| weight(w) * w.middle).sum::<f64>() / sum;
            let apart = differ
                .iter()
                .map(|w| weight(w) * (w.middle - at).powi(2))
                .sum::<f64>()
                / sum;
            wide = (3.5 * apart.sqrt()).max(1.2 * step).min(wide);
            // Plates that are not so, whether groups differ or not, are not looked at again.
            let flat = |k: usize| highest(alike[k].iter().copied());
            let best = highest((0..PLATES.len()).map(flat)).max(top);
            plates.retain(|k| {
                let of = differ.iter().filter(|w| w.plates == *k).map(|w| w.log);
                highest(of).max(flat(*k)) > best + NOTHING.ln()
            });
        }
        let top = highest(differ.iter().map(|w| w.log))
            .max(highest(alike.iter().flat_map(|k| k.iter().copied())));
        let mut found = vec![Law::empty(grid); all.len()];
        let mut another = Law::empty(grid);
        let ones = vec![1.0; grid.share.len()];
        let (mut sum, mut pair) = ([0.0; 2], [0.0; 2]);
        for way in &differ {
            let weight = (way.log - top).exp();
            sum[1] += weight;
            if weight < NOTHING * 0.01 {
                continue;
            }
            let (law, plates) = (&laws[way.spread], PLATES[way.plates]);
            another.add(grid, weight, [law, &ones], Some(way.middle), plates);
            if let ([a, b], [each_a, each_b]) = (all, &way.each[..]) {
                let (a, b) = (&a.parts[way.plates], &b.parts[way.plates]);
                let over = over(law, a, b) / (each_a * each_b);
                pair[0] += weight * (1.0 - over);
                pair[1] += weight * over;
            }
            for ((of, group), each) in found.iter_mut().zip(all).zip(&way.each) {
                let parts = &group.parts[way.plates];
                of.add(grid, weight / each, [law, parts], Some(way.middle), plates);
            }
        }
        for (k, logs) in alike.iter().enumerate() {
            let weights: Vec<f64> = logs.iter().map(|l| (l - top).exp()).collect();
            sum[0] += weights.iter().sum::<f64>();
            for of in found.iter_mut().chain([&mut another]) {
                of.add(grid, 1.0, [&weights, &ones], None, PLATES[k]);
            }
        }
        let mut groups: Vec<Share> = found.iter().map(|f| f.share(grid, level)).collect();
        // Two groups have each other for their middle.
        if let [first, second] = &mut groups[..] {
            let [down, up] = pair.map(|p| p / (sum[0] + sum[1]));
            (first.worse, first.better) = (up, down);
            (second.worse, second.better) = (down, up);
        }
        Self {
            groups,
            another: another.share(grid, level),
            alike: sum[0] / (sum[0] + sum[1]),
        }
    }
}

#[cfg(test)]
#[path = "differ_tests.rs"]
mod differ_tests;
