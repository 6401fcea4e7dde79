//! How long hands are on a plate: something for the plate, for each copy, for each contact.

use glam::{DMat3, DVec3};

use super::through::student;

/// The work of hands on a plate that was timed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HandsSpent {
    /// Copies on it.
    pub copies: f64,
    /// Contacts of their supports.
    pub contacts: f64,
    /// Minutes of hands, all steps together.
    pub minutes: f64,
}

/// Minutes that hands take.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HandsExpected {
    /// What is expected.
    pub minutes: f64,
    /// Nine of ten such plates take so many more or less at most.
    pub around: f64,
}

/// What hands take, from what was timed: the regression of [`crate::learn::TimeLine`], with three things
/// that take time in place of one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hands {
    each: DVec3,
    about: DMat3,
    spread: f64,
    freedom: f64,
    /// Plates it was learned from.
    pub plates: usize,
}

/// What is believed before: half a minute for a copy and six seconds for a contact, give or take as much;
/// the plate as the workshop says, give or take ten minutes; six minutes apart from one to the next (common
/// practice, no source).
const EACH: [f64; 2] = [0.5, 0.1];
const SURE: [f64; 3] = [10.0, 0.5, 0.08];
const SPREAD: f64 = 6.0;
const FREEDOM: f64 = 4.0;
/// Of all plates so many come out within the range.
const LEVEL: f64 = 0.9;

fn row(copies: f64, contacts: f64) -> DVec3 {
    DVec3::new(1.0, copies, contacts)
}

/// A column times a row.
fn outer(a: DVec3) -> DMat3 {
    DMat3::from_cols(a * a.x, a * a.y, a * a.z)
}

impl Hands {
    /// Copies and contacts of a plate for which what the workshop counts is meant.
    pub const USUAL_PLATE: [f64; 2] = [10.0, 80.0];

    /// From plates that were timed; `plate_minutes` is what the workshop counts for [`Self::USUAL_PLATE`], all told.
    #[must_use]
    pub fn learned(plate_minutes: f64, log: &[HandsSpent]) -> Self {
        let rest = EACH[0] * Self::USUAL_PLATE[0] + EACH[1] * Self::USUAL_PLATE[1];
        let believed = DVec3::new((plate_minutes - rest).max(0.0), EACH[0], EACH[1]);
        let sure = DVec3::from_array(SURE.map(|s| (SPREAD / s).powi(2)));
        let sensible = |h: &&HandsSpent| {
            h.minutes.is_finite() && h.minutes > 0.0 && h.copies >= 0.0 && h.contacts >= 0.0
        };
        let log: Vec<&HandsSpent> = log.iter().filter(sensible).collect();
        let mut sums = DMat3::from_diagonal(sure);
        let mut far = DVec3::ZERO;
        let rest = |h: &HandsSpent, each: DVec3| h.minutes - row(h.copies, h.contacts).dot(each);
        for spent in &log {
            let x = row(spent.copies, spent.contacts);
            sums += outer(x);
            far += x * rest(spent, believed);
        }
        let about = sums.inverse();
        let moved = about * far;
        let each = believed + moved;
        let off: f64 = log.iter().map(|h| rest(h, each).powi(2)).sum();
        let off = off + (moved * moved * sure).element_sum();
        let freedom = FREEDOM + log.len() as f64;
        let spread = (FREEDOM * SPREAD * SPREAD + off) / freedom;
        Self {
            each,
            about,
            spread: spread.sqrt(),
            freedom,
            plates: log.len(),
        }
    }

    /// Minutes for the plate, for a copy, for a contact.
    #[must_use]
    pub fn each(&self) -> [f64; 3] {
        self.each.to_array()
    }

    /// What a plate takes.
    #[must_use]
    pub fn expect(&self, copies: f64, contacts: f64) -> HandsExpected {
        let x = row(copies, contacts);
        let wide = 1.0 + x.dot(self.about * x);
        HandsExpected {
            minutes: x.dot(self.each).max(0.0),
            around: student(self.freedom, LEVEL) * self.spread * wide.max(0.0).sqrt(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::simulated::normal;
    use crate::rng::Rng;

    fn spent(copies: f64, contacts: f64, minutes: f64) -> HandsSpent {
        HandsSpent {
            copies,
            contacts,
            minutes,
        }
    }

    /// Forty plates of 20 min, 1.2 a copy and 0.05 a contact, to the minute: that comes out. Without any
    /// it is what the workshop says.
    #[test]
    fn what_hands_take_comes_out() {
        let log: Vec<HandsSpent> = (0..40)
            .map(|n| {
                let (copies, contacts) = (f64::from(n % 7 * 4 + 1), f64::from(n * 53 % 311));
                spent(copies, contacts, 20.0 + 1.2 * copies + 0.05 * contacts)
            })
            .collect();
        let [plate, copy, contact] = Hands::learned(48.0, &log).each();
        // What is believed of the plate still weighs a twelfth of what is known.
        assert!((plate - 20.0).abs() < 1.5, "{plate}");
        assert!(
            (copy - 1.2).abs() < 0.1 && (contact - 0.05).abs() < 0.006,
            "{copy} {contact}"
        );
        let none = Hands::learned(48.0, &[]);
        assert_eq!(none.each(), [35.0, 0.5, 0.1]);
        assert!((none.expect(10.0, 80.0).minutes - 48.0).abs() < 1e-9);
    }

    /// Drawn from what is believed, nine of ten further plates come out within the range.
    #[test]
    fn the_range_of_hands_holds() {
        for logged in [0, 5, 30] {
            let within = (0..1000_u64).filter(|seed| {
                let mut rng = Rng(seed * 6007 + 3);
                let draw = |rng: &mut Rng| -2.0 * (1.0 - rng.share()).ln();
                let spread = SPREAD * (FREEDOM / (draw(&mut rng) + draw(&mut rng))).sqrt();
                let at = [30.0, EACH[0], EACH[1]];
                let truth: [f64; 3] =
                    std::array::from_fn(|k| at[k] + SURE[k] * spread / SPREAD * normal(&mut rng));
                let mut plate = || {
                    let (copies, contacts) = (1.0 + 20.0 * rng.share(), 300.0 * rng.share());
                    let minutes = truth[0] + truth[1] * copies + truth[2] * contacts;
                    spent(copies, contacts, minutes + spread * normal(&mut rng))
                };
                let mut log: Vec<HandsSpent> = (0..=logged).map(|_| plate()).collect();
                let Some(next) = log.pop() else { return false };
                // Fewer minutes than none are no log; draws of them are too rare to count.
                log.retain(|h| h.minutes > 0.0);
                let told = Hands::learned(43.0, &log).expect(next.copies, next.contacts);
                (told.minutes - next.minutes).abs() <= told.around
            });
            let share = within.count();
            assert!(
                (860..=940).contains(&share),
                "{share} of 1000 with {logged}"
            );
        }
    }
}
