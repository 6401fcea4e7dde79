//! What holds a part to its supports against what pulls at it.

use super::{SupportStyle, Supports};

/// Tips under a part, and what they have to hold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Holding {
    /// Tips.
    pub contacts: usize,
    /// Their sections together, mm².
    pub tips_mm2: f64,
    /// Pull of the hardest layer, as an index.
    pub pull: f64,
    /// What hangs on them, g.
    pub grams: f64,
}

/// Section of tips for one disc of pull below which a part may tear off, mm². Common practice, no
/// source: figures of 30 to 60 mm hold on tips of half a millimetre 2 to 3 mm apart, which is 1.5
/// to 8 mm² for a disc; a slab of 50 × 40 mm that lies along the film tears off them, which is 1.1.
const LEAST_MM2: f64 = 1.3;

impl Holding {
    /// What holds a part of a mass; nothing where it stands without supports. What a file brings, or
    /// was supported elsewhere, is taken to have the usual tips.
    #[must_use]
    pub fn of(supports: &Supports, contacts: usize, pull: f64, grams: f64) -> Option<Self> {
        if *supports == Supports::None || contacts == 0 {
            return None;
        }
        let tip_mm = match supports {
            Supports::Planned(style) => style.tip_mm,
            _ => SupportStyle::USUAL.tip_mm,
        };
        Some(Self {
            contacts,
            tips_mm2: contacts as f64 * std::f64::consts::PI * tip_mm * tip_mm / 4.0,
            pull,
            grams,
        })
    }

    /// Section of tips for each disc of pull, mm².
    #[must_use]
    pub fn mm2_per_disc(&self) -> f64 {
        self.tips_mm2 / self.pull.max(1e-6)
    }

    /// Under three it can tip, however thick they are.
    #[must_use]
    pub fn can_tip(&self) -> bool {
        self.contacts < 3
    }

    /// Tips this thin and few may let go.
    #[must_use]
    pub fn is_doubtful(&self) -> bool {
        self.can_tip() || self.mm2_per_disc() < LEAST_MM2
    }

    /// How much tip there is against the least that is enough.
    #[must_use]
    pub fn times_enough(&self) -> f64 {
        self.mm2_per_disc() / LEAST_MM2
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Worked by hand: a tip of 0.5 mm has 0.19635 mm². The slab of 50 × 40 mm pulls with
    /// 0.199·50·40³ mm⁴ (torsion of a rectangle at 1.25, handbook table, from memory) against
    /// π/2·10⁴ of the disc: 40.5, on 222 tips 3 mm apart.
    #[rstest]
    #[case::a_figure(15, 0.034, 86.6, false)]
    #[case::a_cloaked_figure(22, 1.6, 2.7, false)]
    #[case::a_hem_of_28_mm(68, 3.84, 3.48, false)]
    #[case::a_slab_along_the_film(222, 40.5, 1.076, true)]
    #[case::on_two_tips(2, 0.001, 392.7, true)]
    fn tips_hold_what_pulls(
        #[case] contacts: usize,
        #[case] pull: f64,
        #[case] per_disc: f64,
        #[case] doubtful: bool,
    ) {
        let planned = Supports::Planned(SupportStyle::USUAL);
        let holding = Holding::of(&planned, contacts, pull, 3.0).unwrap();
        assert!((holding.mm2_per_disc() / per_disc - 1.0).abs() < 0.005);
        assert_eq!(holding.is_doubtful(), doubtful);
        assert_eq!(Holding::of(&Supports::None, contacts, pull, 3.0), None);
    }

    /// Thinner tips hold less, by the square.
    #[test]
    fn half_the_tip_holds_a_quarter() {
        let with = |tip_mm: f64| {
            let style = SupportStyle {
                tip_mm,
                ..SupportStyle::USUAL
            };
            Holding::of(&Supports::Planned(style), 10, 0.1, 3.0)
                .unwrap()
                .mm2_per_disc()
        };
        assert!((with(0.5) / with(0.25) - 4.0).abs() < 1e-9);
    }
}
