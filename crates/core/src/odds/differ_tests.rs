//! Do ranges and verdicts come true? Workshops drawn by chance, as `calibrate.py` of the bench draws them.

use rstest::rstest;

use super::*;
use crate::rng::Rng;

fn on(group: usize, good: u64, failed: u64) -> OnPlate {
    let judged = Judged { good, failed };
    OnPlate { group, judged }
}

/// Copies of groups with these shares, two to six on a plate; where plates share their luck, half of them are
/// printed well, and half not so well.
fn drawn(rng: &mut Rng, shares: &[f64], copies: u64, clumped: bool) -> Vec<OnPlate> {
    let mut all = Vec::new();
    for (group, share) in shares.iter().enumerate() {
        let mut left = copies;
        while left > 0 {
            let here = left.min(2 + (rng.share() * 5.0) as u64);
            let luck = if clumped { (1.0 - share) * 0.9 } else { 0.0 };
            let share = if rng.share() < 0.5 {
                share + luck
            } else {
                share - luck
            };
            let good = (0..here).filter(|_| rng.share() < share).count() as u64;
            all.push(on(group, good, here - good));
            left -= here;
        }
    }
    all
}

/// Of forty workshops whose groups are all alike two at most call one different; of those with one bad group among
/// good ones, nine in ten find it.
#[rstest]
#[case::alike(vec![0.9; 8], 15, false, 0..=2)]
#[case::alike_and_plates_share_their_luck(vec![0.85; 8], 15, true, 0..=2)]
#[case::one_is_worse([vec![0.55], vec![0.95; 7]].concat(), 30, false, 36..=40)]
fn verdicts_hold_over_all_groups(
    #[case] shares: Vec<f64>,
    #[case] copies: u64,
    #[case] clumped: bool,
    #[case] called: std::ops::RangeInclusive<usize>,
) {
    let calls = |seed: &u64| {
        let judged = drawn(&mut Rng(seed * 97 + 5), &shares, copies, clumped);
        let found = Differ::fitted(shares.len(), &judged, 0.9).groups;
        let different = shares[0] < shares[1];
        found
            .iter()
            .enumerate()
            .any(|(at, share)| match share.verdict() {
                Verdict::NotProven | Verdict::Alone => false,
                said => !different || (at == 0 && said == Verdict::Worse),
            })
    };
    let found = (0..40).filter(calls).count();
    assert!(called.contains(&found), "{found} of 40");
}

/// Groups as they may be: nine in ten true shares lie in their ranges, give or take what 480 draws leave open.
#[test]
fn ranges_hold_what_they_say() {
    let mut held = 0;
    for seed in 0..40 {
        let mut rng = Rng(seed * 131 + 7);
        let shares: Vec<f64> = (0..12)
            .map(|_| if rng.share() < 0.8 { 0.95 } else { 0.5 })
            .collect();
        let judged = drawn(&mut rng, &shares, 12, false);
        let found = Differ::fitted(12, &judged, 0.9).groups;
        held += found
            .iter()
            .zip(&shares)
            .filter(|(f, s)| (f.low..=f.high).contains(*s))
            .count();
    }
    assert!((403..=470).contains(&held), "{held} of 480");
}

/// Fifteen that failed on one plate are nearer one failure than fifteen.
#[test]
fn copies_of_one_plate_share_their_luck() {
    let good: Vec<OnPlate> = (0..20).map(|i| on(i % 5, 6, 0)).collect();
    let one = [good.clone(), vec![on(5, 15, 0), on(5, 0, 15)]].concat();
    let many = [good, (0..15).map(|_| on(5, 1, 1)).collect()].concat();
    let of = |all: &[OnPlate]| Differ::fitted(6, all, 0.9).groups[5];
    let (one, many) = (of(&one), of(&many));
    assert!(
        one.high - one.low > 1.3 * (many.high - many.low),
        "{one:?} {many:?}"
    );
    assert!(one.mean > many.mean, "{one:?} {many:?}");
    assert_eq!(many.verdict(), Verdict::Worse);
    // On a further plate the share lies further apart than the group's.
    assert!(one.on_a_plate.a + one.on_a_plate.b < one.odds.a + one.odds.b);
}

/// A group of which nothing was judged is believed to be as the others are; without any log nine of ten come out.
#[test]
fn what_was_not_judged_is_as_the_others() {
    let none = Differ::fitted(2, &[], 0.9);
    assert!((none.another.mean - 0.9).abs() < 0.02, "{:?}", none.another);
    assert_eq!(none.groups[0].verdict(), Verdict::NotProven);
    let judged: Vec<OnPlate> = (0..30).map(|i| on(i % 6, 3, 3)).collect();
    let half = Differ::fitted(7, &judged, 0.9);
    assert!((half.another.mean - 0.5).abs() < 0.05, "{:?}", half.another);
    assert!((half.groups[6].mean - half.another.mean).abs() < 1e-9);
    assert!(half.alike > 0.5);
}

/// A large log and a small one beside it: the large one's share is told as closely as it is known.
#[test]
fn a_large_log_is_told_closely() {
    let mut judged: Vec<OnPlate> = (0..400)
        .map(|i| on(0, 9 + u64::from(i % 2 == 0), 1))
        .collect();
    judged.push(on(1, 1, 7));
    let found = Differ::fitted(2, &judged, 0.9);
    let [large, small] = &found.groups[..] else {
        panic!("two groups");
    };
    // 3,800 of 4,200; by the normal law 1.645 · √(0.905 · 0.095 / 4200) = 0.0074 to each side.
    assert!(
        (large.mean - 0.905).abs() < 0.002 && (large.high - large.low - 0.0149).abs() < 0.003,
        "{large:?}"
    );
    assert!(
        small.mean < 0.5 && small.verdict() == Verdict::Worse,
        "{small:?}"
    );
}
