//! A straight line through points, by least squares, with or without something known before.

use statrs::distribution::{ContinuousCDF, Normal, StudentsT};

/// What is known of a line before any point is seen: the conjugate prior of a regression with
/// unknown spread (A. Gelman and others, Bayesian Data Analysis, 3rd edition, chapter 14, from
/// memory).
#[derive(Debug, Clone, Copy)]
pub(super) struct Before {
    /// Where it lies: value at nothing, and slope.
    pub(super) at: [f64; 2],
    /// How sure that is: one over the variances, in units of the spread's.
    pub(super) sure: [f64; 2],
    /// Degrees of freedom of what is known of the spread.
    pub(super) freedom: f64,
    /// The spread.
    pub(super) spread: f64,
}

/// A line through points.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Through {
    /// Value at nothing.
    pub(super) intercept: f64,
    /// Slope.
    pub(super) slope: f64,
    /// How far points lie from it.
    pub(super) residual: f64,
    /// Degrees of freedom of that.
    freedom: f64,
    /// Where the points lie in the middle.
    middle: f64,
    /// One over the weight of all points, about their middle, and of the slope; and what both share.
    about: [f64; 3],
}

/// The quantile of Student's t that leaves out equal shares at both ends.
pub(super) fn student(freedom: f64, level: f64) -> f64 {
    StudentsT::new(0.0, 1.0, freedom).map_or(f64::INFINITY, |t| t.inverse_cdf(0.5 + level / 2.0))
}

/// How many deviations of a normal law lie as far out as this share.
pub(super) fn deviations(share: f64) -> f64 {
    let share = share.clamp(1e-6, 1.0 - 1e-6);
    Normal::standard().inverse_cdf(share)
}

impl Through {
    /// What is, is.
    pub(super) const EXACT: Self = Self {
        intercept: 0.0,
        slope: 1.0,
        residual: 0.0,
        freedom: 1.0,
        middle: 0.0,
        about: [0.0; 3],
    };

    /// Least squares; at least three points, not all at one place. Sums are taken about the middle,
    /// so that little is lost where points are far from nothing.
    pub(super) fn points(points: &[[f64; 2]]) -> Option<Self> {
        let many = points.len() as f64;
        let mean = |k: usize| points.iter().map(|p| p[k]).sum::<f64>() / many;
        let [mx, my] = [mean(0), mean(1)];
        let sum = |of: &dyn Fn(f64, f64) -> f64| -> f64 {
            points.iter().map(|p| of(p[0] - mx, p[1] - my)).sum()
        };
        let wide = sum(&|x, _| x * x);
        if points.len() < 3 || wide <= 0.0 {
            return None;
        }
        let slope = sum(&|x, y| x * y) / wide;
        let off = sum(&|x, y| (y - slope * x).powi(2));
        let freedom = many - 2.0;
        Some(Self {
            intercept: my - slope * mx,
            slope,
            residual: (off / freedom).sqrt(),
            freedom,
            middle: mx,
            about: [1.0 / many, 1.0 / wide, 0.0],
        })
    }

    /// With something known before: any number of points.
    pub(super) fn with(before: &Before, points: &[[f64; 2]]) -> Self {
        let many = points.len() as f64;
        let sum =
            |of: &dyn Fn(f64, f64) -> f64| -> f64 { points.iter().map(|p| of(p[0], p[1])).sum() };
        let [a0, b0] = before.at;
        let [sa, sb] = before.sure;
        // What is wanted is the change against what was known: small numbers.
        let rest = |x: f64, y: f64| y - a0 - b0 * x;
        let (xx, x1) = (sum(&|x, _| x * x) + sb, sum(&|x, _| x));
        let ones = many + sa;
        let (rx, r1) = (sum(&|x, y| x * rest(x, y)), sum(&rest));
        let det = ones * xx - x1 * x1;
        let [da, db] = [(xx * r1 - x1 * rx) / det, (ones * rx - x1 * r1) / det];
        let off = sum(&|x, y| (rest(x, y) - da - db * x).powi(2));
        let off = off + sa * da * da + sb * db * db;
        let freedom = before.freedom + many;
        let spread = (before.freedom * before.spread.powi(2) + off) / freedom;
        Self {
            intercept: a0 + da,
            slope: b0 + db,
            residual: spread.sqrt(),
            freedom,
            middle: 0.0,
            about: [xx / det, ones / det, -x1 / det],
        }
    }

    /// Its value at a place.
    pub(super) fn at(&self, x: f64) -> f64 {
        self.intercept + self.slope * x
    }

    /// How far a further point may lie from it at this level, to each side.
    pub(super) fn around(&self, x: f64, level: f64) -> f64 {
        self.around_sum(1.0, x, level)
    }

    /// How far the sum of so many further points may lie from theirs on the line, when their places
    /// add up to this.
    pub(super) fn around_sum(&self, many: f64, sum: f64, level: f64) -> f64 {
        student(self.freedom, level) * self.deviation(many, sum)
    }

    fn deviation(&self, many: f64, sum: f64) -> f64 {
        let d = sum - many * self.middle;
        let [one, slope, both] = self.about;
        let wide = many + many * many * one + slope * d * d + 2.0 * both * many * d;
        self.residual * wide.max(0.0).sqrt()
    }

    /// Which share of further points at a place lies below a value.
    pub(super) fn share_below(&self, x: f64, y: f64) -> f64 {
        let off = (y - self.at(x)) / self.deviation(1.0, x);
        StudentsT::new(0.0, 1.0, self.freedom).map_or(0.5, |t| t.cdf(off))
    }

    /// How far off the slope may be at this level, to each side.
    pub(super) fn around_slope(&self, level: f64) -> f64 {
        student(self.freedom, level) * self.residual * self.about[1].sqrt()
    }
}
