//! How many copies to print: for a chance, for money, for whole models, over plates that may be lost.

use super::{Judged, OddsError, Posterior};

/// Nobody prints more copies than that of one part.
const MOST: u64 = 1_000_000;
/// Chances this close are the same.
const SAME: f64 = 1e-12;

fn chance_in(chance: f64) -> Result<f64, OddsError> {
    let sensible = chance > 0.0 && chance < 1.0;
    sensible
        .then_some(chance)
        .ok_or(OddsError::NoNumber("a chance"))
}

/// The fewest copies with at least so many good ones at a chance.
///
/// # Errors
/// [`OddsError::TooMany`] where no number anybody prints reaches it.
pub fn spares(of: &Posterior, wanted: u64, chance: f64) -> Result<u64, OddsError> {
    let chance = chance_in(chance)?;
    if wanted > MOST {
        return Err(OddsError::TooMany);
    }
    let enough = |n: u64| of.at_least(n, wanted) >= chance - SAME;
    // Doubled until it is enough, then halved.
    let mut high = wanted;
    while !enough(high) {
        if high > MOST {
            return Err(OddsError::TooMany);
        }
        high = (high * 2).max(1);
    }
    let mut low = wanted;
    while low < high {
        let middle = low + (high - low) / 2;
        if enough(middle) {
            high = middle;
        } else {
            low = middle + 1;
        }
    }
    Ok(high)
}

/// The number of copies that costs least: spares, and a reprint with the chance that it comes to that. The fewest
/// among equals. What it costs beside the wanted ones is its second figure, minor units.
///
/// # Errors
/// [`OddsError::NoNumber`] for money that is none, or spares that cost nothing.
pub fn by_money(
    of: &Posterior,
    wanted: u64,
    spare_minor: f64,
    reprint_minor: f64,
) -> Result<(u64, f64), OddsError> {
    let sensible = |m: f64| (0.0..=1e12).contains(&m);
    if !sensible(reprint_minor) {
        return Err(OddsError::NoNumber("the cost of a reprint"));
    }
    if !sensible(spare_minor) || spare_minor <= 0.0 {
        return Err(OddsError::NoNumber("the cost of a spare"));
    }
    let mut best = (wanted, f64::INFINITY);
    for spare in 0..=MOST {
        let paid = spare as f64 * spare_minor;
        // From here on the spares alone cost more.
        if paid > best.1 {
            break;
        }
        let n = wanted + spare;
        let expected = paid + (1.0 - of.at_least(n, wanted)) * reprint_minor;
        if expected < best.1 - SAME * best.1.min(1e12) {
            best = (n, expected);
        }
    }
    Ok(best)
}

/// The chance that so many good copies come off plates with these copies on them, each of which is lost whole
/// with one chance, and of each copy on one that held comes out good with another: what each plate gives, added up
/// plate by plate.
///
/// # Errors
/// [`OddsError::NoNumber`] for chances that are none; [`OddsError::TooMany`].
pub fn over_plates(
    plate_loss: f64,
    copy_good: f64,
    wanted: u64,
    plates: &[u64],
) -> Result<f64, OddsError> {
    let share = |p: f64| (0.0..=1.0).contains(&p);
    if !share(plate_loss) {
        return Err(OddsError::NoNumber("a plate's loss"));
    }
    if !share(copy_good) {
        return Err(OddsError::NoNumber("a copy's chance"));
    }
    let all = plates.iter().try_fold(0_u64, |sum, n| sum.checked_add(*n));
    let most = all
        .filter(|n| *n <= MOST_ON_PLATES)
        .ok_or(OddsError::TooMany)?;
    if wanted > most {
        return Ok(0.0);
    }
    let top = wanted as usize;
    // How likely so many good ones are so far; the last stands for as many as are wanted, or more.
    let mut so_far = vec![0.0; top + 1];
    so_far[0] = 1.0;
    for copies in plates {
        let gives = binomial(*copies, copy_good);
        let mut next: Vec<f64> = so_far.iter().map(|p| p * plate_loss).collect();
        for (have, chance) in so_far.iter().enumerate().filter(|(_, p)| **p > 0.0) {
            for (more, p) in gives.iter().enumerate() {
                next[(have + more).min(top)] += chance * p * (1.0 - plate_loss);
            }
        }
        so_far = next;
    }
    Ok(so_far[top].clamp(0.0, 1.0))
}

/// More copies than that are not told plate by plate.
const MOST_ON_PLATES: u64 = 20_000;

/// The binomial chances of 0 to n good ones.
fn binomial(copies: u64, good: f64) -> Vec<f64> {
    let n = copies as usize;
    let mut chances = vec![0.0; n + 1];
    if good >= 1.0 {
        chances[n] = 1.0;
    } else if good <= 0.0 {
        chances[0] = 1.0;
    } else {
        let (of, ln_good, ln_bad) = (copies as f64, good.ln(), (1.0 - good).ln());
        let mut ways = 0.0;
        for (k, chance) in chances.iter_mut().enumerate() {
            let k = k as f64;
            *chance = (ways + k * ln_good + (of - k) * ln_bad).exp();
            ways += ((of - k) / (k + 1.0)).ln();
        }
    }
    chances
}

/// A part of a model, as far as its number is asked for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct KitPart {
    /// What was judged of it.
    pub judged: Judged,
    /// How many a model takes.
    pub per_model: u64,
    /// What one copy costs, minor units.
    pub copy_minor: f64,
}

/// How many of each part to print.
#[derive(Debug, Clone, PartialEq)]
pub struct Kit {
    /// Copies of each part.
    pub print: Vec<u64>,
    /// The chance that so many models are complete.
    pub reached: f64,
    /// What all copies cost, minor units.
    pub cost_minor: f64,
}

/// The cheapest numbers of all parts with which so many models are complete at a chance, the most likely among
/// those that cost the same. Parts come out independently, each from a uniform prior.
///
/// Branch and bound, exact: part by part, each number from the least that is enough alone upward; what the other
/// parts cost at least is told by what each of them needs alone, and by a price on the logarithm of the chance
/// (weak duality, for several prices).
///
/// # Errors
/// [`OddsError::NoNumber`] for a chance, a number or a cost that is none; [`OddsError::TooMany`].
pub fn kit(models: u64, chance: f64, parts: &[KitPart]) -> Result<Kit, OddsError> {
    let chance = chance_in(chance)?;
    if parts.is_empty() || parts.len() > 12 {
        return Err(OddsError::NoNumber("a number of parts, from 1 to 12"));
    }
    let mut sides = Vec::new();
    for part in parts {
        let cost = part.copy_minor;
        if !(cost > 0.0 && cost <= 1e12) {
            return Err(OddsError::NoNumber("the cost of a copy"));
        }
        let wanted = models
            .checked_mul(part.per_model)
            .filter(|n| *n <= MOST)
            .ok_or(OddsError::TooMany)?;
        let of = Posterior::new(part.judged, [1.0, 1.0])?;
        sides.push(Side::new(&of, wanted, cost, chance)?);
    }
    let mut search = KitSearch::new(&sides, chance);
    search.go(0, 0.0, 0.0);
    search.best.ok_or(OddsError::TooMany)
}

/// A part with its chances from the least number that is enough alone.
struct Side {
    cost: f64,
    least: u64,
    /// Logarithms of the chance, from the least number on.
    ln: Vec<f64>,
}

/// Chances above this one are as good as sure: more copies do not matter to anybody.
const SURE: f64 = 1.0 - 1e-9;

impl Side {
    fn new(of: &Posterior, wanted: u64, cost: f64, chance: f64) -> Result<Self, OddsError> {
        let least = spares(of, wanted, chance)?;
        // Of a part that was hardly judged no number is sure: so far as it can be told in a moment.
        let most = (400_000 / (wanted as usize + 1)).clamp(200, 20_000);
        let mut ln = Vec::new();
        for n in least.. {
            let p = of.at_least(n, wanted);
            ln.push(p.ln());
            if p >= SURE || ln.len() > most {
                break;
            }
        }
        Ok(Self { cost, least, ln })
    }

    /// The fewest copies over the least with this logarithm of a chance.
    fn needs(&self, ln: f64) -> Option<usize> {
        let n = self.ln.partition_point(|l| *l < ln - SAME);
        (n < self.ln.len()).then_some(n)
    }

    fn cost_of(&self, more: usize) -> f64 {
        (self.least as f64 + more as f64) * self.cost
    }
}

struct KitSearch<'a> {
    sides: &'a [Side],
    need: f64,
    /// Prices of the logarithm, and what the parts from each on cost at least by them.
    prices: Vec<(f64, Vec<f64>)>,
    now: Vec<usize>,
    best: Option<Kit>,
}

impl<'a> KitSearch<'a> {
    fn new(sides: &'a [Side], chance: f64) -> Self {
        let highest = sides.iter().map(|s| s.cost).fold(0.0, f64::max);
        let mut prices = Vec::new();
        for step in 0..60 {
            let price = highest * 0.1 * 1.25_f64.powi(step);
            // From the last part to the first.
            let mut from = vec![0.0; sides.len() + 1];
            for (i, side) in sides.iter().enumerate().rev() {
                let ways = side.ln.iter().enumerate();
                let least = ways
                    .map(|(n, ln)| side.cost_of(n) - price * ln)
                    .fold(f64::INFINITY, f64::min);
                from[i] = from[i + 1] + least;
            }
            prices.push((price, from));
        }
        Self {
            sides,
            need: chance.ln(),
            prices,
            now: Vec::new(),
            best: None,
        }
    }

    /// What the parts from one on cost at least where their logarithms have to add up to so much.
    fn at_least(&self, from: usize, ln: f64) -> f64 {
        let alone: Option<f64> = self.sides[from..]
            .iter()
            .map(|s| s.needs(ln).map(|n| s.cost_of(n)))
            .sum();
        let Some(alone) = alone else {
            return f64::INFINITY;
        };
        let priced = self
            .prices
            .iter()
            .map(|(price, all)| all[from] + price * ln);
        priced.fold(alone, f64::max)
    }

    fn go(&mut self, at: usize, cost: f64, ln: f64) {
        let sides = self.sides;
        let Some(side) = sides.get(at) else {
            self.found(cost, ln);
            return;
        };
        let Some(first) = side.needs(self.need - ln) else {
            return;
        };
        let last = at + 1 == sides.len();
        for more in first..side.ln.len() {
            let now = cost + side.cost_of(more);
            let rest = self.at_least(at + 1, self.need - ln - side.ln[more]);
            let best = self.best.as_ref().map_or(f64::INFINITY, |b| b.cost_minor);
            // What this part alone costs more only grows.
            if now > best {
                break;
            }
            if now + rest <= best * (1.0 + SAME) {
                self.now.push(more);
                self.go(at + 1, now, ln + side.ln[more]);
                self.now.pop();
            }
            if last {
                break;
            }
        }
    }

    fn found(&mut self, cost: f64, ln: f64) {
        let better = match &self.best {
            None => true,
            Some(best) => {
                let same = (cost - best.cost_minor).abs() <= SAME * cost;
                cost < best.cost_minor && !same || same && ln.exp() > best.reached + SAME
            }
        };
        if better {
            let counts = self.sides.iter().zip(&self.now);
            self.best = Some(Kit {
                print: counts.map(|(s, n)| s.least + *n as u64).collect(),
                reached: ln.exp(),
                cost_minor: cost,
            });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn judged(good: u64, failed: u64) -> Judged {
        Judged { good, failed }
    }

    fn posterior(good: u64, failed: u64) -> Posterior {
        Posterior::new(judged(good, failed), [1.0, 1.0]).expect("a posterior")
    }

    /// Six of ten, ten wanted at 90 %: 27 copies, not the 22 of the mean (0.911 by scipy 1.17, `betabinom`).
    #[test]
    fn spares_come_from_the_predictive() {
        assert_eq!(spares(&posterior(6, 4), 10, 0.9), Ok(27));
        assert_eq!(spares(&posterior(0, 0), 5, 0.8), Ok(24));
        assert_eq!(spares(&posterior(6, 4), 0, 0.9), Ok(0));
        assert!(spares(&posterior(6, 4), 10, 1.0).is_err());
        assert_eq!(
            spares(&posterior(0, 0), 9_000, 0.999_999),
            Err(OddsError::TooMany)
        );
        let money = by_money(&posterior(28, 2), 12, 60.0, 900.0).expect("an answer");
        assert!(
            money.0 == 15 && (money.1 - 250.412_452_7).abs() < 1e-6,
            "{money:?}"
        );
        assert!(by_money(&posterior(28, 2), 12, 0.0, 900.0).is_err());
    }

    /// Twelve on one plate, or six and six: 0.92 · 0.98043 = 0.90200, and both plates have to hold.
    #[rstest]
    #[case::one(&[12], 0.901_997_199)]
    #[case::two(&[6, 6], 0.829_837_423)]
    #[case::too_few(&[9], 0.0)]
    fn plates_may_be_lost_whole(#[case] plates: &[u64], #[case] reached: f64) {
        let found = over_plates(0.08, 0.95, 10, plates).expect("an answer");
        assert!((found - reached).abs() < 1e-8, "{found}");
        assert_eq!(over_plates(0.0, 1.0, 10, &[5, 5]), Ok(1.0));
        assert!(over_plates(1.5, 1.0, 1, &[5]).is_err());
    }

    fn part(good: u64, failed: u64, per_model: u64, copy_minor: f64) -> KitPart {
        KitPart {
            judged: judged(good, failed),
            per_model,
            copy_minor,
        }
    }

    /// 13 bodies and 28 arms are 90 % each, and 86.9 % together; 13 and 30 are 91.8 %.
    #[test]
    fn whole_models_need_more_than_their_parts() {
        let parts = [part(28, 2, 1, 40.0), part(50, 10, 2, 10.0)];
        let alone: Vec<u64> = [(28, 2, 10), (50, 10, 20)]
            .iter()
            .map(|(g, f, w)| spares(&posterior(*g, *f), *w, 0.9).unwrap())
            .collect();
        assert_eq!(alone, [13, 28]);
        let found = kit(10, 0.9, &parts).expect("an answer");
        assert_eq!((found.print, found.cost_minor), (vec![13, 30], 820.0));
        assert!((found.reached - 0.917_634_469).abs() < 1e-8);
    }

    /// Every combination tried.
    fn by_hand(models: u64, chance: f64, parts: &[KitPart]) -> Option<(f64, f64)> {
        let reach = 40;
        let mut best: Option<(f64, f64)> = None;
        let mut counts = vec![0_u64; parts.len()];
        loop {
            let (mut cost, mut reached) = (0.0, 1.0);
            for (part, more) in parts.iter().zip(&counts) {
                let wanted = models * part.per_model;
                cost += (wanted + more) as f64 * part.copy_minor;
                let of = posterior(part.judged.good, part.judged.failed);
                reached *= of.at_least(wanted + more, wanted);
            }
            if reached >= chance - SAME {
                let better = best.is_none_or(|(c, r)| cost < c || cost == c && reached > r);
                if better {
                    best = Some((cost, reached));
                }
            }
            let Some(at) = counts.iter().position(|n| *n < reach) else {
                return best;
            };
            counts[at] += 1;
            counts[..at].fill(0);
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        /// As cheap and as likely as the best of all combinations.
        #[test]
        fn the_cheapest_kit_is_found(
            models in 1..4_u64,
            chance in 0.5..0.9_f64,
            many in proptest::collection::vec((5..40_u64, 0..4_u64, 1..3_u64, 1..9_i32), 1..4)
        ) {
            let parts: Vec<KitPart> = many
                .iter()
                .map(|(g, f, per, cost)| part(*g, *f, *per, f64::from(*cost)))
                .collect();
            let found = kit(models, chance, &parts).expect("an answer");
            if let Some((cost, reached)) = by_hand(models, chance, &parts) {
                prop_assert!((found.cost_minor - cost).abs() < 1e-9, "{found:?} for {cost}");
                prop_assert!((found.reached - reached).abs() < 1e-9);
            }
        }
    }
}
