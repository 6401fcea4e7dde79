//! How thick a part is where it is thinnest, and where something hangs on little.
//!
//! Local thickness is twice the distance from a point of the medial axis to the surface, where its
//! two nearest surface points lie at least 120° apart, so that corners and edges do not count.
//! Such a point is found from a stretch of a line through the solid: the ball that touches the
//! planes at both its ends. For walls whose faces are parallel and for round rods that ball is
//! exact, whatever the angle of the line. Where the faces meet at an angle the ball is moved the
//! way it grows until it grows no more: an edge that tapers off is as thick as what it tapers from.
//! Only what goes on for a millimetre counts.
//!
//! Source: maximal balls of the medial axis (H. Blum, 1967), local thickness as the ball that fits
//! (T. Hildebrand, P. Rüegsegger, Journal of Microscopy 185, 1997), both from memory.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use glam::DVec3;
use rustc_hash::FxHashMap;

use super::chords::{Chord, Family, chords, spacing};
use super::near_surface::NearSurface;
use super::necks::Necks;
use crate::mesh::Solid;
use crate::watch::Watch;

/// A wall or a rod.
///
/// # Units
/// mm; a place about the middle of the box, z above the lowest point.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Thin {
    /// How thick.
    pub mm: f64,
    /// Where its middle is.
    pub at_mm: [f64; 3],
}

impl Thin {
    /// The same at another scale.
    #[must_use]
    pub fn scaled(&self, scale: f64) -> Self {
        Self {
            mm: self.mm * scale,
            at_mm: self.at_mm.map(|c| c * scale),
        }
    }
}

/// A place where a part would break in two.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Neck {
    /// The wall or rod that breaks.
    pub thin: Thin,
    /// Volume of the smaller piece, mm³.
    pub hangs_mm3: f64,
}

/// What is thin about a part.
#[derive(Debug, Clone, Copy, PartialEq, Default, serde::Serialize, serde::Deserialize)]
pub struct Thickness {
    /// The thinnest wall or rod; nothing where nothing has two sides.
    pub thinnest: Option<Thin>,
    /// The thinnest place that holds more than 5 mm³.
    pub neck: Option<Neck>,
}

/// A wall or a rod goes on for this long, mm.
const LASTING_MM: f64 = 1.0;
/// Thinner than a pixel of any printer is not drawn, mm.
const PIXEL_MM: f64 = 0.05;
/// Cosine of the least angle between the two nearest surface points.
const OPPOSITE: f64 = -0.5;
/// Sine of half the angle between two faces that count as parallel.
const PARALLEL: f64 = 0.03;
/// The least share of a line's direction in the normals at its ends.
const STEEP: f64 = 0.45;
/// What a ball may overlap of the surface, as a share of its radius.
const OVERLAP: (f64, f64) = (0.015, 0.05);
/// Balls of fewer distances of lines are small.
const SMALL: f64 = 4.0;
/// Balls of one size tried in one place, at most: those between the most parallel faces.
const MOST_IN_CUBE: usize = 3;
/// How often a ball is moved out of the way of what it overlaps.
const SLIDES: usize = 8;
/// How far it is moved for that at most, in radii: further off it may leave the solid.
const NEAR: f64 = 0.6;
/// Side of the cubes in which the smallest balls are counted, mm; of others half their radius.
const CUBE_MM: f64 = 0.2;
/// Thicker than this nothing breaks off by itself, mm.
const NECK_MM: f64 = 8.0;
/// Places looked at for a neck, at most; once one is found, this many more.
const MOST_CUTS: (usize, usize) = (60, 10);
/// Places this much thicker than the thinnest neck are as thin: the one that holds most is told.
const AS_THIN: (f64, f64) = (1.03, 0.02);
/// Balls that are tried before the search ends without a run.
const MOST_TRIED: usize = 60_000;

/// A ball between two faces.
#[derive(Debug, Clone, Copy)]
struct Ball {
    at: DVec3,
    radius: f64,
    /// Across the wall.
    across: DVec3,
    /// The way it would grow, as steep as it grows; nothing between parallel faces.
    grows: DVec3,
}

/// The ball that touches the planes at both ends of a stretch, as the mean of the two that touch
/// at its ends.
fn ball(family: &Family, chord: &Chord) -> Option<Ball> {
    let [p, q] = chord
        .ends
        .map(|along| DVec3::from_array(family.place(chord, along)));
    let [n, m] = chord.normals.map(DVec3::from_array);
    let angle = n.dot(m);
    let along = family.axis;
    if angle > OPPOSITE || n[along].abs() < STEEP || m[along].abs() < STEEP {
        return None;
    }
    let length = chord.ends[1] - chord.ends[0];
    let (from_p, from_q) = (
        length * m[along].abs() / (1.0 - angle),
        length * n[along].abs() / (1.0 - angle),
    );
    let radius = (from_p + from_q) / 2.0;
    let half = ((1.0 + angle) / 2.0).max(0.0).sqrt();
    (2.0 * radius >= PIXEL_MM).then(|| Ball {
        at: (p - n * from_p + q - m * from_q) / 2.0,
        radius,
        across: (m - n).normalize_or_zero(),
        grows: if half > PARALLEL {
            -(n + m).normalize_or_zero() * half
        } else {
            DVec3::ZERO
        },
    })
}

/// What is thin about a solid at a scale, whose triangles cover its box so many times. Nothing
/// when the watch says stop.
#[must_use]
pub fn measure_thickness(
    solid: &Solid,
    scale: f64,
    covered: f64,
    watch: &dyn Watch,
) -> Option<Thickness> {
    let size = solid.facts.size_mm().map(|s| s * scale);
    let step = spacing(size, covered);
    let (low, high) = (solid.facts.low_mm, solid.facts.high_mm);
    let middle = [0, 1].map(|k| (low[k] + high[k]) / 2.0);
    let foot = DVec3::new(middle[0], middle[1], low[2]) * scale;
    let families = chords(solid, scale, step);
    if watch.stopped() {
        return None;
    }
    let surface = NearSurface::of(&families, step);
    let balls = families.iter().flat_map(|f| {
        let balls = f.chords.iter().filter_map(|c| ball(f, c));
        balls.collect::<Vec<_>>()
    });
    let mut search = Search::new(thinned(balls), &surface, step);
    let mut runs = Runs::new(step);
    let mut necks = Necks::of(&families[2], step);
    let mut found = Thickness::default();
    let mut widest: Option<Thin> = None;
    let mut cuts = MOST_CUTS.0;
    while let Some((ball, fits)) = search.next() {
        if search.tried.is_multiple_of(1024) && watch.stopped() {
            return None;
        }
        if search.tried > MOST_TRIED {
            break;
        }
        let told = Thin {
            mm: 2.0 * ball.radius,
            at_mm: (ball.at - foot).to_array(),
        };
        let most = found
            .neck
            .map_or(NECK_MM, |n| n.thin.mm * AS_THIN.0 + AS_THIN.1);
        let wants_neck = told.mm <= most && necks.tried < cuts;
        if found.thinnest.is_some() && !wants_neck {
            break;
        }
        // Once the thinnest is known, one ball of each place is enough.
        if found.thinnest.is_some() && necks.knows(ball.at) {
            continue;
        }
        if !fits {
            search.settle(ball);
            continue;
        }
        if widest.is_none_or(|w| told.mm > w.mm) {
            widest = Some(told);
        }
        if found.thinnest.is_none() && runs.add(ball.at, ball.radius) {
            found.thinnest = Some(told);
        }
        if wants_neck
            && let Some(hangs_mm3) = necks.cut(ball.at, ball.across, told.mm)
            && found.neck.is_none_or(|n| hangs_mm3 > n.hangs_mm3)
        {
            if found.neck.is_none() {
                cuts = cuts.min(necks.tried + MOST_CUTS.1);
            }
            found.neck = Some(Neck {
                thin: told,
                hangs_mm3,
            });
        }
    }
    // A ball has no run of its own: its middle is a point.
    found.thinnest = found.thinnest.or(widest);
    Some(found)
}

/// How coarsely balls of a radius are told apart: each step twice as coarse.
fn coarseness(radius: f64) -> i32 {
    (radius * 0.5 / CUBE_MM).log2().ceil().max(0.0) as i32
}

/// Of balls of about one size in one place those between the most parallel faces.
fn thinned(balls: impl Iterator<Item = Ball>) -> Vec<Ball> {
    let mut places: FxHashMap<(i32, [i32; 3]), Vec<u32>> = FxHashMap::default();
    let mut all: Vec<Ball> = Vec::new();
    for ball in balls {
        let coarse = coarseness(ball.radius);
        let cube = CUBE_MM * f64::from(1 << coarse);
        let cell = (ball.at / cube).floor().to_array().map(|c| c as i32);
        let here = places.entry((coarse, cell)).or_default();
        let steep = |b: &Ball| b.grows.length_squared();
        if here.len() < MOST_IN_CUBE {
            here.push(all.len() as u32);
            all.push(ball);
        } else {
            let steepest = here.iter().map(|i| *i as usize);
            let worst = steepest.max_by(|a, b| steep(&all[*a]).total_cmp(&steep(&all[*b])));
            if let Some(worst) = worst.filter(|w| steep(&all[*w]) > steep(&ball)) {
                all[worst] = ball;
            }
        }
    }
    all
}

/// Balls in order of their size, the smallest first; those that were moved to where they fit come
/// again with the size they have there.
struct Search<'a> {
    surface: &'a NearSurface<'a>,
    /// Size in millionths of a millimetre, whether it does not fit yet, number.
    open: BinaryHeap<Reverse<(u64, bool, u32)>>,
    balls: Vec<Ball>,
    step: f64,
    last: u32,
    tried: usize,
}

impl<'a> Search<'a> {
    fn new(balls: Vec<Ball>, surface: &'a NearSurface<'a>, step: f64) -> Self {
        let open = (0..balls.len() as u32).map(|i| {
            let ball = &balls[i as usize];
            Reverse((order(ball.radius), true, i))
        });
        Self {
            surface,
            open: open.collect(),
            balls,
            step,
            last: 0,
            tried: 0,
        }
    }

    /// The smallest that is left, and whether it fits where it is.
    fn next(&mut self) -> Option<(Ball, bool)> {
        let Reverse((_, loose, i)) = self.open.pop()?;
        self.last = i;
        Some((self.balls[i as usize], !loose))
    }

    /// Moves the ball that came last to where it fits; it comes again when its turn is there.
    fn settle(&mut self, mut ball: Ball) {
        self.tried += 1;
        let fits = if ball.grows == DVec3::ZERO {
            self.slide(&mut ball)
        } else {
            self.grow(&mut ball)
        };
        if fits {
            self.balls[self.last as usize] = ball;
            self.open
                .push(Reverse((order(ball.radius), false, self.last)));
        }
    }

    /// What a ball may overlap of the surface: small ones are seen less closely.
    fn overlap(&self, radius: f64) -> f64 {
        if radius < SMALL * self.step {
            OVERLAP.1
        } else {
            OVERLAP.0
        }
    }

    /// Between parallel faces; whether the ball fits anywhere near.
    fn slide(&self, ball: &mut Ball) -> bool {
        let begin = ball.at;
        (0..SLIDES).any(|_| {
            let fits = self.is_free(ball, ball.radius);
            fits && ball.at.distance(begin) <= NEAR * ball.radius
        })
    }

    /// Whether a ball of a radius fits where it is; else it is moved along the faces, out of the way
    /// of what it overlaps.
    fn is_free(&self, ball: &mut Ball, radius: f64) -> bool {
        let (clear, off) = self.surface.nearest(ball.at, radius);
        if clear >= radius * (1.0 - self.overlap(radius)) {
            return true;
        }
        let along = off - ball.across * off.dot(ball.across);
        if along.length_squared() > 0.04 {
            ball.at += along * ((radius - clear) * 1.05 / along.length_squared());
        }
        false
    }

    /// Midway between both faces: a ball on either side of the middle touches one of them, and
    /// both together tell where the middle is. Answers the radius there.
    fn centre(&self, ball: &mut Ball) -> f64 {
        let aside = ball.radius * 0.4;
        let [left, right] = [-aside, aside].map(|by| {
            let at = ball.at + ball.across * by;
            self.surface.distance(at, ball.radius * 1.5)
        });
        // Across the middle each face comes nearer by the cosine of half their angle.
        let rate = (1.0 - ball.grows.length_squared()).max(0.25).sqrt();
        ball.at += ball.across * ((right - left) / (2.0 * rate));
        (left + right) / 2.0 + aside * rate
    }

    /// Midway between both faces, then the way it grows until it grows no more; whether it fits at
    /// all.
    fn grow(&self, ball: &mut Ball) -> bool {
        let clear = |at: DVec3, limit: f64| self.surface.distance(at, limit);
        let begin = ball.at;
        let fits = (0..SLIDES).find_map(|_| {
            let between = self.centre(ball);
            let fits = self.is_free(ball, between) && ball.at.distance(begin) <= NEAR * ball.radius;
            fits.then_some(between)
        });
        let Some(between) = fits else {
            return false;
        };
        let mut radius = clear(ball.at, between);
        let rate = ball.grows.length();
        let along = ball.grows / rate;
        let beside = along.cross(ball.across);
        let begin = ball.at;
        let mut step = (radius * 0.5).max(0.1).max(self.step);
        while step > 0.04 {
            let ways = [
                along,
                (along + beside).normalize_or_zero(),
                (along - beside).normalize_or_zero(),
            ];
            let further = ways.into_iter().find_map(|way| {
                let next = ball.at + way * step;
                let there = clear(next, radius + step);
                let lasting = next.distance(begin) <= LASTING_MM + 3.0 * there;
                (lasting && there > radius + 0.4 * rate * step).then_some((next, there))
            });
            match further {
                Some((next, there)) => {
                    (ball.at, radius) = (next, there);
                    step *= 1.4;
                }
                None => step /= 3.0,
            }
        }
        ball.radius = self.rise(ball.at, radius);
        true
    }

    /// Off the nearest face to where the ball touches another one as well: the last step may have gone
    /// past the middle between them. Answers the radius there.
    fn rise(&self, mut at: DVec3, mut radius: f64) -> f64 {
        let mut step = radius * 0.2;
        while step > 0.01 * radius {
            let (_, off) = self.surface.nearest(at, radius * 1.5);
            let next = at + off * step;
            let there = self.surface.distance(next, radius * 1.5);
            if there > radius + 0.4 * step {
                (at, radius) = (next, there);
            } else {
                step /= 2.0;
            }
        }
        radius
    }
}

fn order(radius: f64) -> u64 {
    (radius * 1e6).max(0.0) as u64
}

/// Balls that lie close to each other, and how far each such run reaches.
struct Runs {
    step: f64,
    /// By how coarsely they are told apart, then by place.
    cells: FxHashMap<(i32, [i32; 3]), Vec<u32>>,
    at: Vec<DVec3>,
    root: Vec<u32>,
    /// Of a run, by the one that stands for it.
    low: Vec<DVec3>,
    high: Vec<DVec3>,
}

impl Runs {
    fn new(step: f64) -> Self {
        Self {
            step,
            cells: FxHashMap::default(),
            at: Vec::new(),
            root: Vec::new(),
            low: Vec::new(),
            high: Vec::new(),
        }
    }

    /// Adds a ball; whether its run is long enough now.
    fn add(&mut self, at: DVec3, radius: f64) -> bool {
        use crate::union_find::{find, join};
        let coarse = coarseness(radius);
        let cube = CUBE_MM * f64::from(1 << coarse);
        let link = (2.2 * cube).max(3.0 * self.step);
        let cell = (at / link).floor().to_array().map(|c| c as i32);
        let index = self.at.len() as u32;
        self.at.push(at);
        self.root.push(index);
        self.low.push(at);
        self.high.push(at);
        let mut near = Vec::new();
        for x in -1..=1 {
            for y in -1..=1 {
                for z in -1..=1 {
                    let beside = (coarse, [cell[0] + x, cell[1] + y, cell[2] + z]);
                    near.extend(self.cells.get(&beside).into_iter().flatten().copied());
                }
            }
        }
        for other in near {
            if self.at[other as usize].distance(at) > link {
                continue;
            }
            let (a, b) = (find(&mut self.root, index), find(&mut self.root, other));
            if a != b {
                let low = self.low[a as usize].min(self.low[b as usize]);
                let high = self.high[a as usize].max(self.high[b as usize]);
                join(&mut self.root, a, b);
                let both = find(&mut self.root, a) as usize;
                (self.low[both], self.high[both]) = (low, high);
            }
        }
        self.cells.entry((coarse, cell)).or_default().push(index);
        let run = find(&mut self.root, index) as usize;
        self.low[run].distance(self.high[run]) >= LASTING_MM
    }
}
