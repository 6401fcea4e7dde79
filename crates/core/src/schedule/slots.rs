//! What a plate keeps a printer for, by how long it prints: loadings are the scarce thing.

use super::lay::{Layer, Turn};
use super::shop::{Job, Machine, Minute, Shop};
use super::timetable::Work;

/// The printing times that are looked at lie so far apart.
const APART: Minute = 5;
/// The longest printing time that is looked at; longer ones keep a printer longer by what they
/// print longer.
const LONGEST: Minute = 36 * 60;
/// So long one plate is printed after the other: every day of the week comes twice.
const FORTNIGHT: Minute = 14 * 24 * 60;

impl Shop {
    /// Printing times, and for how long a plate of that time keeps a printer: the average over a
    /// fortnight in which one such plate after the other is put on as soon as somebody is there.
    /// Nothing where nobody ever is.
    ///
    /// # Units
    /// min; handwork as in a job: putting on, staying, taking off.
    #[must_use]
    pub fn slots(&self, [load, stay, unload]: [Minute; 3]) -> Vec<(Minute, Minute)> {
        let all = (1..=LONGEST / APART).map(|n| n * APART);
        all.map_while(|print| Some((print, self.slot(print, [load, stay, unload])?)))
            .collect()
    }

    fn slot(&self, print: Minute, [load, stay, unload]: [Minute; 3]) -> Option<Minute> {
        let job = Job {
            print: vec![Some(print)],
            load,
            stay,
            unload,
            weight: 1,
            ..Job::default()
        };
        let alone = Shop {
            machines: vec![Machine::default()],
            jobs: vec![job],
            attended: self.attended.clone(),
            quiet: self.quiet.clone(),
        };
        let turn = Turn {
            job: 0,
            machine: 0,
            wait: 0,
        };
        let mut layer = Layer::new(&alone);
        layer.place(turn).ok()?;
        let first = layer.laid.slots[0];
        let (mut end, mut many) = (first.end, 1);
        while layer.place(turn).is_ok() {
            let next = layer.laid.slots[layer.laid.slots.len() - 1];
            if next.end > first.load + FORTNIGHT {
                break;
            }
            (end, many) = (next.end, many + 1);
        }
        Some((end - first.load).div_ceil(many))
    }
}

impl Work {
    /// Printing times up to which a step holds, and for how long such a plate keeps a printer, s.
    #[must_use]
    pub fn slots(&self) -> Vec<(f64, f64)> {
        let [load, unload, look] = self.minutes.map(|m| m.max(0.0).ceil() as Minute);
        let seconds = |minutes: Minute| f64::from(minutes) * 60.0;
        let steps = self.shop().slots([load, look, unload]);
        steps
            .into_iter()
            .map(|(print, kept)| (seconds(print), seconds(kept)))
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::schedule::Window;
    use rstest::rstest;

    /// Windows 07-08 and 18-22 on fifteen days, ten minutes to put on and to take off: worked by
    /// hand. Plates of two hours: 07:10 to 09:10, off at 18:00; 18:20 to 20:20, off at 20:30; 20:40
    /// to 22:40, off at seven: three a day. From then on two a day, as long as what is put on at
    /// 07:20 is printed by 18:00: ten hours are. Fourteen from 18:10 are printed at 08:10, when
    /// nobody is there before 18:00: one a day.
    #[rstest]
    #[case::an_hour(60, 360)]
    #[case::two_hours(120, 480)]
    #[case::four_and_a_half(270, 720)]
    #[case::ten(600, 720)]
    #[case::fourteen(840, 1440)]
    fn loadings_are_the_scarce_thing(#[case] print: Minute, #[case] kept: Minute) {
        let day = |d: u32| {
            let at = |hour: u32| d * 1440 + hour * 60;
            [(at(7), at(8)), (at(18), at(22))].map(|(from, to)| Window { from, to })
        };
        let shop = Shop {
            attended: (0..16).flat_map(day).collect(),
            ..Shop::default()
        };
        let slots = shop.slots([10, 0, 10]);
        let found = slots.iter().find(|s| s.0 == print).unwrap().1;
        // The last plate of the fortnight comes off some hours before it is over.
        assert!(found.abs_diff(kept) * 20 <= kept, "{found} for {kept}");
        assert!(slots.windows(2).all(|w| w[0].1 <= w[1].1 + 20), "it rises");
        assert_eq!(Shop::default().slots([10, 0, 10]), []);
    }
}
