use rstest::rstest;

use super::*;
use crate::learn::simulated::Truth;
use crate::rng::Rng;

/// Linear regression "Norris" of the Statistical Reference Datasets of NIST (response, predictor),
/// with its certified values.
const NORRIS: [[f64; 2]; 36] = [
    [0.1, 0.2],
    [338.8, 337.4],
    [118.1, 118.2],
    [888.0, 884.6],
    [9.2, 10.1],
    [228.1, 226.5],
    [668.5, 666.3],
    [998.5, 996.3],
    [449.1, 448.6],
    [778.9, 777.0],
    [559.2, 558.2],
    [0.3, 0.4],
    [0.1, 0.6],
    [778.1, 775.5],
    [668.8, 666.9],
    [339.3, 338.0],
    [448.9, 447.5],
    [10.8, 11.6],
    [557.7, 556.0],
    [228.3, 228.1],
    [998.0, 995.8],
    [888.8, 887.6],
    [119.6, 120.2],
    [0.3, 0.3],
    [0.6, 0.3],
    [557.6, 556.8],
    [339.3, 339.1],
    [888.0, 887.2],
    [998.5, 999.0],
    [778.9, 779.0],
    [10.2, 11.1],
    [117.6, 118.3],
    [228.9, 229.2],
    [668.4, 669.1],
    [449.2, 448.9],
    [0.2, 0.5],
];
const NORRIS_INTERCEPT: f64 = -0.262_323_073_774_029;
const NORRIS_SLOPE: f64 = 1.002_116_818_020_45;
const NORRIS_RESIDUAL: f64 = 0.884_796_396_144_373;
const NORRIS_SLOPE_DEVIATION: f64 = 0.429_796_848_199_937e-3;

fn run([actual_s, reckoned_s]: [f64; 2]) -> TimedRun {
    TimedRun {
        reckoned_s,
        actual_s,
    }
}

#[test]
fn least_squares_has_the_certified_values() {
    let runs = NORRIS.map(run);
    let line = TimeLine::least_squares(&runs).expect("a line");
    let near = |found: f64, known: f64| (found / known - 1.0).abs() < 1e-10;
    assert!(near(line.intercept_s(), NORRIS_INTERCEPT));
    assert!(near(line.slope(), NORRIS_SLOPE));
    assert!(near(line.residual_s(), NORRIS_RESIDUAL));
    // How far off the slope may be: its deviation times the quantile of t at 34 degrees, 1.6909
    // for nine of ten (tables of Student's t, from memory).
    let around = line.0.around_slope(0.9);
    assert!((around / NORRIS_SLOPE_DEVIATION - 1.6909).abs() < 1e-4);
}

/// With twenty runs the belief is next to nothing, without any it is all there is, and the range is
/// widest outside what was logged.
#[test]
fn the_belief_gives_way_to_the_log() {
    let truth = Truth {
        intercept_s: 840.0,
        slope: 1.07,
        spread_s: 200.0,
    };
    let mut rng = Rng(5);
    let runs: Vec<TimedRun> = (0..20).map(|_| truth.run(&mut rng)).collect();
    let plain = TimeLine::least_squares(&runs).expect("a line");
    let learned = TimeLine::learned(&runs).expect("a line");
    for hours in [1.0, 4.0, 9.0, 14.0] {
        let ask = hours * 3600.0;
        let [a, b] = [plain, learned].map(|l| l.predict(ask, 0.9).seconds);
        assert!((a / b - 1.0).abs() < 0.01, "{a} and {b} at {hours} h");
    }
    let none = TimeLine::learned(&[]).expect("a line");
    let wide = |l: &TimeLine, hours: f64| {
        let p = l.predict(hours * 3600.0, 0.9);
        p.high_s - p.low_s
    };
    assert!((none.intercept_s(), none.slope()) == (0.0, 1.0));
    assert!(wide(&none, 6.0) > 4.0 * wide(&learned, 6.0));
    assert!(wide(&learned, 20.0) > wide(&learned, 6.0));
    let few = TimeLine::learned(&runs[..2]).expect("a line");
    assert!(wide(&few, 6.0) < wide(&none, 6.0));
}

#[rstest]
#[case(&[], LearnError::TooFew { found: 0, least: 3 })]
#[case(&[[1.0, 2.0], [2.0, 3.0]], LearnError::TooFew { found: 2, least: 3 })]
#[case(&[[1.0, 2.0], [2.0, 2.0], [3.0, 2.0]], LearnError::OnePlace)]
#[case(&[[1.0, f64::NAN], [2.0, 2.0], [3.0, 2.0]], LearnError::NoNumber("a time that was reckoned"))]
#[case(&[[1e300, 1.0], [2.0, 2.0], [3.0, 3.0]], LearnError::NoNumber("a time that a run took"))]
#[case(&[[-5.0, 1.0], [2.0, 2.0], [3.0, 3.0]], LearnError::NoNumber("a time that a run took"))]
fn what_gives_no_line_is_said(#[case] runs: &[[f64; 2]], #[case] why: LearnError) {
    let runs: Vec<TimedRun> = runs.iter().map(|r| run(*r)).collect();
    assert_eq!(TimeLine::least_squares(&runs), Err(why));
}
