//! The search for better orientations than those of the schools.

use rayon::prelude::*;

use super::directions::sphere;
use super::schools::of_schools;
use super::score::{Candidate, Origin, Score, Scores, Subject};
use crate::pose::Pose;
use crate::watch::Watch;

/// Directions looked at before the search narrows down.
const SPREAD: usize = 400;
/// How close each round looks around the best, degrees; and how many of the best it follows, for
/// scores that change smoothly and for those that jump.
const ROUNDS: [(f64, usize, usize); 4] = [(5.0, 3, 9), (2.5, 3, 7), (1.3, 2, 5), (0.7, 2, 4)];

/// Looks at the schools' poses and all around, follows the best of every score further, and
/// answers the schools' poses with the best of every score among all that were looked at.
///
/// Nothing when the watch says stop. Equal results whatever the number of threads.
#[must_use]
pub fn find_poses(subject: &Subject<'_>, watch: &dyn Watch) -> Option<Vec<Candidate>> {
    let mut poses = of_schools(subject.solid);
    poses.extend(
        sphere(SPREAD)
            .into_iter()
            .map(|up| (Pose::with_up(up), Origin::Search)),
    );
    let mut all: Vec<Candidate> = Vec::new();
    let mut done = 0.0;
    look_at(subject, poses, &mut all, watch, &mut done)?;
    for (apart, smooth, jumpy) in ROUNDS {
        let mut next = Vec::new();
        for score in Score::ALL {
            let many = match score {
                Score::Overhang | Score::SupportResin | Score::CleanUp => jumpy,
                _ => smooth,
            };
            let mut order: Vec<usize> = (0..all.len()).collect();
            order.sort_by(|a, b| {
                let by = |i: &usize| all[*i].scores.of(*score);
                by(a).total_cmp(&by(b)).then(a.cmp(b))
            });
            // Nothing is better than nothing.
            if all[order[0]].scores.of(*score) == 0.0 {
                continue;
            }
            // Seeds apart from each other: the best ones often lie side by side.
            let mut seeds: Vec<Pose> = Vec::new();
            for index in order.into_iter().take(many * 8) {
                let pose = all[index].pose;
                if seeds.len() < many && seeds.iter().all(|s| s.apart_deg(pose) > 1.5 * apart) {
                    seeds.push(pose);
                }
            }
            for seed in seeds {
                next.extend(around(seed, apart).map(|p| (p, Origin::Search)));
            }
        }
        look_at(subject, next, &mut all, watch, &mut done)?;
    }
    let solved = solve_pulls(subject, &all, watch)?;
    watch.report(1.0);
    for c in &mut all {
        if let Some((_, pull)) = solved.iter().find(|s| s.0 == c.pose) {
            c.scores.0[Score::Pull as usize] = *pull;
        }
    }
    let mut shown = worth_showing(all, |c| solved.iter().any(|s| s.0 == c.pose));
    // The gentlest is found among a few when they are measured closely.
    for (pose, pull) in solved.iter().take(GENTLEST) {
        if shown.iter().all(|c| c.pose != *pose) {
            let mut c = subject.judge(*pose, Origin::Search);
            c.scores.0[Score::Pull as usize] = *pull;
            shown.push(c);
        }
    }
    Some(shown)
}

/// Poses of the least pull that are measured closely.
const GENTLEST: usize = 3;

/// Directions all around whose pull is solved at first; and of those that look least so many, so far
/// apart in degrees.
const SOLVED: (usize, usize, f64) = (90, 16, 3.0);
/// How close each round looks around the best solved, degrees; and how many it follows.
const PULL_ROUNDS: [(f64, usize); 4] = [(5.0, 3), (2.5, 3), (1.2, 2), (0.5, 2)];

/// Solves the pull all around, of those that look least and of the schools, and follows the least
/// further: the fast form of a quick look misjudges what is no compact piece. The least first.
fn solve_pulls(
    subject: &Subject<'_>,
    all: &[Candidate],
    watch: &dyn Watch,
) -> Option<Vec<(Pose, f64)>> {
    let mut order: Vec<usize> = (0..all.len()).collect();
    let pull = |c: &Candidate| c.scores.of(Score::Pull);
    order.sort_by(|a, b| pull(&all[*a]).total_cmp(&pull(&all[*b])).then(a.cmp(b)));
    let mut first: Vec<Pose> = Vec::new();
    for index in order {
        let pose = all[index].pose;
        if first.len() < SOLVED.1 && first.iter().all(|p| p.apart_deg(pose) >= SOLVED.2) {
            first.push(pose);
        }
    }
    first.extend(sphere(SOLVED.0).into_iter().map(Pose::with_up));
    first.extend(
        all.iter()
            .filter(|c| c.origin != Origin::Search)
            .map(|c| c.pose),
    );
    let mut solved: Vec<(Pose, f64)> = Vec::new();
    let mut next = first;
    for round in 0..=PULL_ROUNDS.len() {
        next.retain(|p| !solved.iter().any(|(known, _)| known == p));
        if watch.stopped() {
            return None;
        }
        let pulls: Vec<Option<f64>> = next
            .par_iter()
            .map(|pose| subject.rough_pull(*pose, watch))
            .collect();
        for (pose, pull) in next.drain(..).zip(pulls) {
            solved.push((pose, pull?));
        }
        let Some((apart, many)) = PULL_ROUNDS.get(round) else {
            break;
        };
        let mut least: Vec<(Pose, f64)> = solved.clone();
        least.sort_by(|a, b| a.1.total_cmp(&b.1));
        next = least
            .iter()
            .take(*many)
            .flat_map(|(pose, _)| around(*pose, *apart))
            .collect();
    }
    solved.sort_by(|a, b| a.1.total_cmp(&b.1));
    Some(solved)
}

/// Six poses around one.
fn around(pose: Pose, apart_deg: f64) -> impl Iterator<Item = Pose> {
    let up = pose.matrix().transpose() * glam::DVec3::Z;
    let side = up.any_orthonormal_vector();
    let other = up.cross(side);
    let (sin, cos) = apart_deg.to_radians().sin_cos();
    (0..6).map(move |i| {
        let (s, c) = (f64::from(i) * std::f64::consts::PI / 3.0).sin_cos();
        Pose::with_up((up * cos + (side * c + other * s) * sin).to_array())
    })
}

fn look_at(
    subject: &Subject<'_>,
    poses: Vec<(Pose, Origin)>,
    all: &mut Vec<Candidate>,
    watch: &dyn Watch,
    done: &mut f64,
) -> Option<()> {
    // Poses that look the same are looked at once; one on the plate is another.
    let near = 0.3f64.to_radians().cos();
    let up = |p: Pose| p.matrix().transpose() * glam::DVec3::Z;
    let mut known: Vec<(glam::DVec3, bool)> =
        all.iter().map(|c| (up(c.pose), c.on_plate())).collect();
    let mut fresh: Vec<(Pose, Origin)> = Vec::new();
    for (pose, origin) in poses {
        let mine = (up(pose), origin == Origin::FlatDown);
        if !known
            .iter()
            .any(|k| k.1 == mine.1 && k.0.dot(mine.0) > near)
        {
            known.push(mine);
            fresh.push((pose, origin));
        }
    }
    for some in fresh.chunks(32) {
        if watch.stopped() {
            return None;
        }
        let looked: Vec<Candidate> = some
            .par_iter()
            .map(|(pose, origin)| subject.judge(*pose, *origin))
            .collect();
        all.extend(looked);
        *done += (1.0 - *done) * 0.05;
        watch.report(*done);
    }
    Some(())
}

/// The schools' poses, and those of the search that are best in something; in pull of those whose
/// pull is solved.
pub(super) fn worth_showing(
    all: Vec<Candidate>,
    solved: impl Fn(&Candidate) -> bool,
) -> Vec<Candidate> {
    let mut best_in: Vec<Vec<Score>> = vec![Vec::new(); all.len()];
    for score in Score::ALL {
        let by = |i: &usize| all[*i].scores.of(*score);
        // Among equals the one that is best in something else already, then the lowest.
        let told = |i: &usize| *score != Score::Pull || solved(&all[*i]);
        let best = (0..all.len()).filter(told).min_by(|a, b| {
            by(a)
                .total_cmp(&by(b))
                .then((all[*a].origin == Origin::Search).cmp(&(all[*b].origin == Origin::Search)))
                .then(best_in[*b].len().cmp(&best_in[*a].len()))
                .then(all[*a].height_mm.total_cmp(&all[*b].height_mm))
        });
        // One that is compared with nothing is best in nothing.
        if let Some(best) = best.filter(|_| all.len() > 1) {
            best_in[best].push(*score);
        }
    }
    let mut shown: Vec<Candidate> = all
        .into_iter()
        .zip(best_in)
        .filter(|(c, best)| c.origin != Origin::Search || !best.is_empty())
        .map(|(c, best_in)| Candidate { best_in, ..c })
        .collect();
    let scores: Vec<Scores> = shown.iter().map(|c| c.scores).collect();
    for c in &mut shown {
        c.undominated = !scores.iter().any(|s| s.dominates(&c.scores));
    }
    shown
}
