//! How shared costs are split.

use crate::units::Money;

/// Splits an amount by weights so that the shares add up to it to the last minor unit; what
/// rounding leaves goes to the largest remainders (Hamilton's method), earlier ones first.
///
/// # Shape
/// One share per weight. Weights that are negative or no number count as 0; when all are 0 the
/// amount is split evenly. Nothing for no weights.
#[must_use]
pub fn split(amount: Money, weights: &[f64]) -> Vec<Money> {
    let clean = |w: &f64| if w.is_finite() && *w > 0.0 { *w } else { 0.0 };
    let mut weights: Vec<f64> = weights.iter().map(clean).collect();
    let mut total: f64 = weights.iter().sum();
    if total == 0.0 {
        weights.fill(1.0);
        total = weights.len() as f64;
    }
    let exact: Vec<f64> = weights
        .iter()
        .map(|w| amount.0 as f64 * (w / total))
        .collect();
    let mut shares: Vec<i64> = exact.iter().map(|e| e.floor() as i64).collect();
    let mut order: Vec<usize> = (0..shares.len()).collect();
    order.sort_by(|a, b| {
        (exact[*b] - exact[*b].floor()).total_cmp(&(exact[*a] - exact[*a].floor()))
    });
    let left = amount.0 - shares.iter().sum::<i64>();
    for index in order.iter().cycle().take(left.unsigned_abs() as usize) {
        shares[*index] += left.signum();
    }
    shares.into_iter().map(Money).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case::even(100, &[1.0, 1.0, 1.0], &[34, 33, 33])]
    #[case::by_weight(1000, &[3.0, 1.0], &[750, 250])]
    #[case::no_weight_at_all(10, &[0.0, f64::NAN], &[5, 5])]
    #[case::nobody(10, &[], &[])]
    fn an_amount_is_split_by_weight(
        #[case] amount: i64,
        #[case] weights: &[f64],
        #[case] shares: &[i64],
    ) {
        let expected: Vec<Money> = shares.iter().map(|s| Money(*s)).collect();
        assert_eq!(split(Money(amount), weights), expected);
    }

    proptest! {
        #[test]
        fn shares_always_add_up(amount in 0i64..10_000_000, weights in proptest::collection::vec(0.0f64..1e6, 1..60)) {
            let shares = split(Money(amount), &weights);
            prop_assert_eq!(shares.iter().copied().sum::<Money>(), Money(amount));
            let total: f64 = weights.iter().sum();
            if total > 0.0 {
                for (share, weight) in shares.iter().zip(&weights) {
                    prop_assert!((share.0 as f64 - amount as f64 * weight / total).abs() <= 1.0 + 1e-6);
                }
            }
        }
    }
}
