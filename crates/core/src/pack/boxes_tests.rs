//! What is laid along a skyline: inside, apart, and no copy twice.

use proptest::prelude::*;

use super::*;

proptest! {
    #[test]
    fn bricks_are_laid_inside_and_apart(
        sides in proptest::collection::vec((2.0_f64..40.0, 2.0_f64..40.0), 1..40),
        width in 30.0_f64..120.0, depth in 30.0_f64..90.0, seed in 0_u64..1000,
    ) {
        let bricks: Vec<Brick> = sides
            .iter()
            .enumerate()
            .map(|(item, (w, d))| Brick { item, sizes: [[*w, *d], [*d, *w]], worth: w * d })
            .collect();
        let area = |laid: &[Laid]| laid.iter().map(|l| sides[l.item].0 * sides[l.item].1).sum::<f64>();
        let all: f64 = sides.iter().map(|s| s.0 * s.1).sum();
        let laid = lay([width, depth], bricks, 30, &mut Rng(seed), |l| all - area(l), |l| all - area(l));
        let boxes: Vec<[Point; 2]> = laid
            .iter()
            .map(|l| {
                let (w, d) = sides[l.item];
                let size = if l.turned == 1 { [d, w] } else { [w, d] };
                [l.at, [l.at[0] + size[0], l.at[1] + size[1]]]
            })
            .collect();
        for (i, [low, high]) in boxes.iter().enumerate() {
            prop_assert!(low[0] >= 0.0 && low[1] >= 0.0, "{low:?}");
            prop_assert!(high[0] <= width + 1e-6 && high[1] <= depth + 1e-6, "{high:?}");
            for (j, [l, h]) in boxes.iter().enumerate().skip(i + 1) {
                prop_assert!(laid[i].item != laid[j].item, "one copy twice");
                let apart = (0..2).any(|k| l[k] >= high[k] - 1e-6 || low[k] >= h[k] - 1e-6);
                prop_assert!(apart, "{:?} on {:?}", boxes[i], boxes[j]);
            }
        }
        // What fits an empty plate is not left out while nothing at all was laid.
        let fits = |(w, d): &(f64, f64)| (w.min(*d) <= width.min(depth)) && (w.max(*d) <= width.max(depth));
        prop_assert!(!laid.is_empty() || !sides.iter().any(fits));
    }
}
