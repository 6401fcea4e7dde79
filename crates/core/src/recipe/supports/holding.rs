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

/// Section of tips for one disc of pull below which a part may tear off, mm², until copies tell.
/// Common practice, no source: figures of 30 to 60 mm hold on tips of half a millimetre 2 to 3 mm
/// apart, which is 1.5 to 8 mm² for a disc; a slab of 50 × 40 mm that lies along the film tears off
/// them, which is 1.1.
const LEAST_MM2: f64 = 1.3;
/// Pull at which the film gives way to no forest of tips, as an index: a flat face of 40 × 40 mm along
/// the film has 17, one of 50 × 40 mm has 40. Common practice, no source.
const HARDEST: f64 = 20.0;
/// Supports that are planned here get more than the least by so much.
const PLANNED_TIMES: f64 = 1.25;

/// How copies on these tips came off: what each plate says of one recipe, as copies of a plate share
/// their luck.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CameOff {
    /// Section of tips for each disc of pull, mm².
    pub mm2_per_disc: f64,
    /// One of them tore off its supports.
    pub torn: bool,
}

/// From which section of tips a part holds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HoldingLimit {
    /// For each disc of pull, mm².
    pub least_mm2: f64,
    /// Plates that tell; none while it is what usually holds.
    pub plates: usize,
}

impl Default for HoldingLimit {
    fn default() -> Self {
        Self {
            least_mm2: LEAST_MM2,
            plates: 0,
        }
    }
}

/// How far the limit may be off before anything was printed, as a factor of e.
const PRIOR: f64 = 0.5;
/// From a section that holds to one that tears it is about so far, as a factor of e.
const BLUR: f64 = 0.3;
/// Share of plates on which parts tear, or hold, for another reason.
const OTHERWISE: f64 = 0.03;

impl HoldingLimit {
    /// Learned from plates: the mean of where the limit lies, by Bayes' rule on a grid over the logarithm
    /// of the section, from a mild prior about what usually holds. Tearing is a logistic curve of that
    /// logarithm, with a share of plates that say nothing about tips.
    #[must_use]
    pub fn learned(plates: &[CameOff]) -> Self {
        let usual = LEAST_MM2.ln();
        let told = || plates.iter().filter(|p| p.mm2_per_disc > 0.0);
        let log_of = |at: f64| {
            let prior = -0.5 * ((at - usual) / PRIOR).powi(2);
            let told = told().map(|p| {
                let curve = 1.0 / (1.0 + ((p.mm2_per_disc.ln() - at) / BLUR).exp());
                let tears = OTHERWISE + (1.0 - 2.0 * OTHERWISE) * curve;
                if p.torn { tears.ln() } else { (-tears).ln_1p() }
            });
            prior + told.sum::<f64>()
        };
        // Four of the prior's spreads to each side.
        let grid: Vec<(f64, f64)> = (-200..=200)
            .map(|i| usual + f64::from(i) / 50.0 * PRIOR)
            .map(|at| (at, log_of(at)))
            .collect();
        let top = grid.iter().map(|g| g.1).fold(f64::NEG_INFINITY, f64::max);
        let (mut sum, mut weight) = (0.0, 0.0);
        for (at, log) in grid {
            let w = (log - top).exp();
            (sum, weight) = (sum + w * at, weight + w);
        }
        Self {
            least_mm2: (sum / weight).exp(),
            plates: told().count(),
        }
    }
}

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

    /// It pulls harder than supports can be expected to hold, however many there are.
    #[must_use]
    pub fn pulls_too_hard(&self) -> bool {
        self.pull >= HARDEST
    }

    /// Tips this thin and few may let go.
    #[must_use]
    pub fn is_doubtful(&self, limit: &HoldingLimit) -> bool {
        self.can_tip() || self.pulls_too_hard() || self.times_enough(limit) < 1.0
    }

    /// How much tip there is against the least that is enough.
    #[must_use]
    pub fn times_enough(&self, limit: &HoldingLimit) -> f64 {
        self.mm2_per_disc() / limit.least_mm2
    }

    /// Contacts against those that supports planned here have to have, so that they pass what parts are
    /// judged by, whatever a few plates say of it later.
    #[must_use]
    pub(super) fn times_planned(&self) -> f64 {
        self.mm2_per_disc() / (LEAST_MM2 * PLANNED_TIMES)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// Worked by hand: a tip of 0.5 mm has 0.19635 mm². The slab of 50 × 40 mm pulls with
    /// 0.199·50·40³ mm⁴ (torsion of a rectangle at 1.25, handbook table, from memory) against
    /// π/2·10⁴ of the disc: 40.5, on 222 tips 3 mm apart and on 500 of 2 mm.
    #[rstest]
    #[case::a_figure(15, 0.034, 86.6, false)]
    #[case::a_cloaked_figure(22, 1.6, 2.7, false)]
    #[case::a_hem_of_28_mm(68, 3.84, 3.48, false)]
    #[case::a_slab_along_the_film(222, 40.5, 1.076, true)]
    #[case::on_twice_as_many(500, 40.5, 2.424, true)]
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
        assert_eq!(holding.is_doubtful(&HoldingLimit::default()), doubtful);
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

    fn plates(mm2_per_disc: f64, torn: bool, many: usize) -> Vec<CameOff> {
        vec![CameOff { mm2_per_disc, torn }; many]
    }

    /// What held at 0.7 mm² a dozen times is not warned of any more; what tore at 3 mm² is. One plate that
    /// tore at thirty times the limit says little about tips.
    #[rstest]
    #[case::nothing_printed(vec![], 1.29..1.31)]
    #[case::far_more_held(plates(40.0, false, 60), 1.1..1.31)]
    #[case::less_held(plates(0.7, false, 12), 0.3..0.7)]
    #[case::more_tore(plates(3.0, true, 6), 3.0..6.0)]
    #[case::one_odd_plate(plates(40.0, true, 1), 1.2..1.5)]
    #[case::both([plates(1.0, true, 8), plates(2.0, false, 8)].concat(), 1.0..2.0)]
    fn the_limit_is_learned(#[case] of: Vec<CameOff>, #[case] lies_in: std::ops::Range<f64>) {
        let limit = HoldingLimit::learned(&of);
        assert!(lies_in.contains(&limit.least_mm2), "{limit:?}");
        assert_eq!(limit.plates, of.len());
    }

    proptest! {
        /// A plate that held never raises the limit, and one that tore never lowers it.
        #[test]
        fn plates_move_it_their_way(
            of in prop::collection::vec((0.1..30.0f64, any::<bool>()), 0..20),
            at in 0.1..30.0f64,
            torn: bool,
        ) {
            let of = of.into_iter().map(|(mm2_per_disc, torn)| CameOff { mm2_per_disc, torn });
            let mut of: Vec<CameOff> = of.collect();
            let before = HoldingLimit::learned(&of).least_mm2;
            of.push(CameOff { mm2_per_disc: at, torn });
            let after = HoldingLimit::learned(&of).least_mm2;
            let way = if torn { after - before } else { before - after };
            prop_assert!(way >= -1e-12);
        }
    }
}
