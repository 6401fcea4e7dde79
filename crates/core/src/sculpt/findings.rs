//! What a maker should know about a sculpt before it costs a print, in words, dearest first.

use crate::layers::{Cup, CupEnd, Hollow, Island, Thickness};
use crate::sculpt::brings_supports;
use crate::sculpt::facts::{HollowFacts, LayerFacts, Sculpt, SculptFacts};
use crate::units::Money;
use crate::words::words;
use crate::workshop::Resin;
use crate::workshop::resin::{ResinFacts, safe_mm};
use crate::workshop::resin_use::{Body, resin_use, worth_minor};

words! {
    /// Kinds of findings.
    FindingKind, "kind of finding" {
        /// Air shut in for good.
        SealedHollow = "sealed hollow",
        /// A hollow with a single way out.
        OneWayOut = "one way out",
        /// A pocket that holds suction.
        Cup = "suction cup",
        /// A region that starts in mid-air.
        Island = "starts in mid-air",
        /// Thinner than survives.
        Thin = "thin",
        /// Something hangs on less than survives.
        Neck = "thin neck",
        /// The supports of its file hold it by less than holds.
        Tips = "thin tips",
        /// Faces are missing.
        OpenMesh = "open mesh",
        /// Shells turned inside out.
        Inverted = "inside out",
        /// It does not stand by itself.
        TipsOver = "tips over",
    }
}

/// One finding.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// What it is.
    pub kind: FindingKind,
    /// The same finding has the same key whenever the sculpt is measured: its kind, and its
    /// height to half a millimetre.
    pub key: String,
    /// Height above the lowest point, mm; nothing for the sculpt as a whole.
    pub at_mm: Option<f64>,
    /// Where it is about the middle of the box and above the lowest point, mm, where that is known.
    pub place_mm: Option<[f64; 3]>,
    /// What was found.
    pub words: String,
    /// What to do about it.
    pub todo: String,
    /// Loud: it hurts or destroys more than the part itself.
    pub loud: bool,
    /// What it would cost if nothing is done: resin of the part, by how often such parts are
    /// lost.
    pub cost: Money,
}

/// What is at stake with a file: by this files that ask for a look are ordered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub struct Stake {
    /// Something is found that destroys more than the part.
    pub loud: bool,
    /// What all of it would cost if nothing is done.
    pub cost: Money,
}

impl Stake {
    /// Of what was found on a file and nobody has put aside.
    #[must_use]
    pub fn of(found: &[Finding], is_aside: impl Fn(&Finding) -> bool) -> Self {
        let open = || found.iter().filter(|f| !is_aside(f));
        Self {
            loud: open().any(|f| f.loud),
            cost: open().map(|f| f.cost).sum(),
        }
    }
}

/// What findings are drawn from.
#[derive(Debug, Clone, PartialEq)]
pub struct Evidence<'a> {
    /// Volume of the part, mm³.
    pub volume_mm3: f64,
    /// Its resin.
    pub resin: ResinFacts,
    /// Thinnest width that survives in it, mm.
    pub least_width_mm: f64,
    /// Regions that start in mid-air.
    pub islands: &'a [Island],
    /// Pockets that hold suction.
    pub cups: &'a [Cup],
    /// Hollows of the file.
    pub hollows: &'a [Hollow],
    /// What is thin about it.
    pub thickness: Thickness,
    /// Open edges, mm.
    pub open_edge_mm: f64,
    /// Shells turned inside out.
    pub inverted_shells: i64,
    /// How far it may lean, degrees.
    pub tips_at_deg: f64,
    /// Its file brings supports: what is thinnest about it are their tips, and they carry it.
    pub supported: bool,
}

/// What is found on a file at its own size: with its hollows, in the resin it is printed in; a
/// middling one while it has none.
#[must_use]
pub fn of_file(
    sculpt: &Sculpt,
    (facts, layers): (&SculptFacts, &LayerFacts),
    hollow: Option<&HollowFacts>,
    resin: Option<&Resin>,
) -> Vec<Finding> {
    let hollows = hollow.map_or_else(Vec::new, |h| h.hollows_told(layers));
    find(&Evidence {
        volume_mm3: layers.volume_mm3,
        resin: resin.map_or(ResinFacts::ASSUMED, |r| r.facts),
        least_width_mm: safe_mm(resin),
        islands: &layers.islands,
        cups: &layers.cups,
        hollows: &hollows,
        thickness: layers.thickness,
        open_edge_mm: facts.open_edge_mm,
        inverted_shells: facts.inverted_shells,
        tips_at_deg: layers.tips_at_deg,
        supported: brings_supports(sculpt, Some(layers)).is_some(),
    })
}

/// What is found on a part as its recipe turns it; what supports hold is no finding. Where its file
/// brings them, `supported` is what the layers of that tell at its own size: its tips are told by it.
#[must_use]
pub fn of_setup(
    layers: &LayerFacts,
    resin: &Resin,
    held: bool,
    supported: Option<&LayerFacts>,
) -> Vec<Finding> {
    // Tips are too thin for the pixels of the part's own layers before they are too thin to hold.
    let thickness = supported.map_or(layers.thickness, |file| Thickness {
        thinnest: file.thickness.thinnest.map(|t| t.scaled(layers.scale)),
        neck: None,
    });
    find(&Evidence {
        volume_mm3: layers.volume_mm3,
        resin: resin.facts,
        least_width_mm: safe_mm(Some(resin)),
        islands: if held { &[] } else { &layers.islands },
        cups: &layers.cups,
        hollows: &[],
        thickness,
        open_edge_mm: 0.0,
        inverted_shells: 0,
        tips_at_deg: 90.0,
        supported: supported.is_some(),
    })
}

/// Everything found, the dearest first.
///
/// How often a part is lost to a finding is judgement (common practice, no source): a missing
/// start loses it almost always, suction now and then.
#[must_use]
pub fn find(e: &Evidence<'_>) -> Vec<Finding> {
    let mut finds = Finds::default();
    finds.hollows(e);
    finds.layers(e);
    finds.mesh(e);
    let mut found = finds.0;
    found.sort_by(|a, b| {
        b.loud
            .cmp(&a.loud)
            .then(b.cost.cmp(&a.cost))
            .then(a.key.cmp(&b.key))
    });
    // Several of a kind at one height are one finding.
    found.dedup_by(|a, b| a.key == b.key);
    found
}

impl Evidence<'_> {
    /// What a share of its resin costs, with more than its own volume where it holds some.
    fn lost(&self, share: f64, extra_mm3: f64) -> Money {
        let body = Body {
            part_mm3: self.volume_mm3 + extra_mm3,
            ..Body::default()
        };
        let ml = resin_use(&body, 0.0, &self.resin).ml();
        Money::from_minor_f64(worth_minor(ml, &self.resin) * share.min(1.0))
    }
}

/// Tips of supports that are thinner let go, mm. Common practice, no source: tips of miniatures have
/// 0.25 to 0.5 mm.
const LEAST_TIP_MM: f64 = 0.2;

/// What was found so far.
#[derive(Default)]
struct Finds(Vec<Finding>);

impl Finds {
    fn add(
        &mut self,
        kind: FindingKind,
        at_mm: Option<f64>,
        words: String,
        todo: &str,
        loud: bool,
        cost: Money,
    ) {
        let place = at_mm.map_or_else(String::new, |z| {
            format!(" at {:.1}", (z * 2.0).round() / 2.0)
        });
        self.0.push(Finding {
            kind,
            key: format!("{kind}{place}"),
            at_mm,
            place_mm: None,
            words,
            todo: todo.to_owned(),
            loud,
            cost,
        });
    }

    /// Where what was added last is.
    fn mark(&mut self, place_mm: [f64; 3]) {
        if let Some(last) = self.0.last_mut() {
            last.place_mm = Some(place_mm);
        }
    }

    /// Resin that stays inside.
    fn hollows(&mut self, e: &Evidence<'_>) {
        for hollow in e.hollows {
            let ml = hollow.volume_mm3 / 1000.0;
            match hollow.ways_out.len() {
                0 => self.add(
                    FindingKind::SealedHollow,
                    Some(hollow.from_mm),
                    format!(
                        "A hollow of {ml:.2} ml has no way out: liquid resin stays in it, swells, and splits the wall within weeks."
                    ),
                    "Give it two drains at least, air in and resin out, or fill it. What leaks is uncured resin: gloves.",
                    true,
                    e.lost(1.0, hollow.volume_mm3),
                ),
                1 => self.add(
                    FindingKind::OneWayOut,
                    Some(hollow.from_mm),
                    format!(
                        "A hollow of {ml:.2} ml has a single way out: without air behind it the resin stays in."
                    ),
                    "Give it a second hole at its other end, and wash it inside.",
                    true,
                    e.lost(0.7, hollow.volume_mm3),
                ),
                _ => {}
            }
        }
    }

    /// What its layers tell: suction, starts in mid-air, what is too thin.
    fn layers(&mut self, e: &Evidence<'_>) {
        for cup in e.cups {
            let end = match cup.end {
                CupEnd::Vented => "until it is vented",
                CupEnd::Roofed => "until it is roofed over",
                CupEnd::Open => "to the end",
            };
            self.add(
                FindingKind::Cup,
                Some(cup.from_mm),
                format!(
                    "A pocket opens toward the film from {:.1} to {:.1} mm and shuts in {:.0} mm²: it holds suction {end}.",
                    cup.from_mm, cup.to_mm, cup.area_mm2
                ),
                "Turn it over, or give it a drain at its deepest point.",
                false,
                e.lost(0.15 + cup.area_mm2 / 2000.0, 0.0),
            );
        }
        for island in e.islands {
            self.add(
                FindingKind::Island,
                Some(island.z_mm),
                format!(
                    "Something starts in mid-air at {:.2} mm and grows to {:.1} mm² within a millimetre.",
                    island.z_mm, island.grown_mm2
                ),
                "Support it, or it will be missing, and its debris floats in the vat.",
                false,
                e.lost(0.4 + island.grown_mm2 / 20.0, 0.0),
            );
        }
        if e.supported {
            self.tips(e);
            return;
        }
        let least = e.least_width_mm;
        let neck = e.thickness.neck.filter(|n| n.thin.mm < least);
        if let Some(neck) = neck {
            self.add(
                FindingKind::Neck,
                Some(neck.thin.at_mm[2]),
                format!(
                    "A neck of {:.2} mm carries {:.0} mm³ of the part: it is likely to break there.",
                    neck.thin.mm, neck.hangs_mm3
                ),
                "Print it in a tough resin or larger, and cut its supports off one by one.",
                false,
                e.lost(0.35, 0.0),
            );
            self.mark(neck.thin.at_mm);
        }
        // Where the neck is the thinnest place, one finding says so.
        let thinner = |mm: f64| neck.is_none_or(|n| mm < n.thin.mm * 0.9);
        let thinnest = e.thickness.thinnest;
        if let Some(thin) = thinnest.filter(|t| t.mm < least && thinner(t.mm)) {
            self.add(
                FindingKind::Thin,
                Some(thin.at_mm[2]),
                format!("The thinnest wall or rod is only {:.2} mm thick.", thin.mm),
                "Print it in a tough resin or larger, and cut its supports off one by one.",
                false,
                e.lost(0.25, 0.0),
            );
            self.mark(thin.at_mm);
        }
    }

    /// The tips of the supports that a file brings.
    fn tips(&mut self, e: &Evidence<'_>) {
        let Some(tip) = e.thickness.thinnest.filter(|t| t.mm < LEAST_TIP_MM) else {
            return;
        };
        self.add(
            FindingKind::Tips,
            Some(tip.at_mm[2]),
            format!(
                "The tips of its supports are only {:.2} mm thick at this size, so they may let go of the part.",
                tip.mm
            ),
            "Print it larger, or take the file without supports and have them planned here.",
            false,
            e.lost(0.35, 0.0),
        );
        self.mark(tip.at_mm);
    }

    /// What is wrong with the mesh, and whether it stands.
    fn mesh(&mut self, e: &Evidence<'_>) {
        if e.open_edge_mm > 0.0 {
            self.add(
                FindingKind::OpenMesh,
                None,
                format!(
                    "Faces are missing along {:.1} mm of edges: the volume is an estimate, and others may fill it differently.",
                    e.open_edge_mm
                ),
                "Close the mesh where it was made.",
                false,
                e.lost(0.05, 0.0),
            );
        }
        if e.inverted_shells > 0 {
            self.add(
                FindingKind::Inverted,
                None,
                format!(
                    "Shells turned inside out: {}; counted as solid here, others may leave them hollow.",
                    e.inverted_shells
                ),
                "Turn their faces outward where it was made.",
                false,
                e.lost(0.05, 0.0),
            );
        }
        if e.tips_at_deg < 3.0 && !e.supported {
            let words = if e.tips_at_deg > 0.0 {
                format!(
                    "It stands on little: leaning by {:.1}° it tips over.",
                    e.tips_at_deg
                )
            } else {
                "It does not stand by itself: what touches the ground does not carry its middle."
                    .into()
            };
            self.add(
                FindingKind::TipsOver,
                None,
                words,
                "Glue it to a base, or weigh the base down.",
                false,
                Money(0),
            );
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layers::{Neck, Thin, WayOut};
    use rstest::rstest;

    fn evidence() -> Evidence<'static> {
        Evidence {
            volume_mm3: 5000.0,
            resin: ResinFacts {
                price_per_kg: Money(4000),
                density_g_per_ml: 1.0,
                cured_g_per_ml: 1.0,
                ..ResinFacts::ASSUMED
            },
            least_width_mm: 0.6,
            islands: &[],
            cups: &[],
            hollows: &[],
            thickness: thin(1.2, 10.0),
            open_edge_mm: 0.0,
            inverted_shells: 0,
            tips_at_deg: 20.0,
            supported: false,
        }
    }

    fn thin(mm: f64, z_mm: f64) -> Thickness {
        let at_mm = [0.0, 0.0, z_mm];
        Thickness {
            thinnest: Some(Thin { mm, at_mm }),
            neck: None,
        }
    }

    /// What hangs on a neck is told with it; a wall elsewhere that is thinner still beside it.
    #[rstest]
    #[case::neck_alone(0.4, 0.4, &["thin neck at 8.0"])]
    #[case::and_a_thinner_wall(0.2, 0.4, &["thin neck at 8.0", "thin at 12.0"])]
    #[case::both_survive(0.9, 0.9, &[])]
    fn necks_are_told_once(#[case] wall: f64, #[case] neck: f64, #[case] keys: &[&str]) {
        let at_mm = [0.0, 0.0, 8.0];
        let found = find(&Evidence {
            thickness: Thickness {
                neck: Some(Neck {
                    thin: Thin { mm: neck, at_mm },
                    hangs_mm3: 590.0,
                }),
                ..thin(wall, 12.0)
            },
            ..evidence()
        });
        let told: Vec<&str> = found.iter().map(|f| f.key.as_str()).collect();
        assert_eq!(told, keys);
    }

    /// What is thinnest about a file with supports are their tips: they are told where they are too thin
    /// to hold, and neither they nor its stand say anything of the figure.
    #[rstest]
    #[case::usual(0.36, &[])]
    #[case::at_half_the_size(0.18, &["thin tips at 10.0"])]
    fn tips_of_its_own_supports_are_no_walls(#[case] mm: f64, #[case] keys: &[&str]) {
        let found = find(&Evidence {
            thickness: thin(mm, 10.0),
            tips_at_deg: 0.5,
            supported: true,
            ..evidence()
        });
        let told: Vec<&str> = found.iter().map(|f| f.key.as_str()).collect();
        assert_eq!(told, keys);
    }

    fn hollow(ways_out: usize) -> Hollow {
        Hollow {
            volume_mm3: 2000.0,
            ways_out: vec![
                WayOut {
                    at_mm: [0.0, 0.0, 2.2],
                    wide_mm: 2.5,
                };
                ways_out
            ],
            from_mm: 2.2,
            to_mm: 30.0,
        }
    }

    fn island(z_mm: f64, grown_mm2: f64) -> Island {
        Island {
            z_mm,
            area_mm2: 0.1,
            grown_mm2,
            at_mm: [0.0, 0.0],
            joins_mm: None,
        }
    }

    #[test]
    fn a_sound_sculpt_has_no_findings() {
        assert_eq!(find(&evidence()), []);
        assert_eq!(
            find(&Evidence {
                hollows: &[hollow(2)],
                ..evidence()
            }),
            []
        );
    }

    #[test]
    fn the_loud_come_first_and_then_the_dearest() {
        let found = find(&Evidence {
            hollows: &[hollow(1), hollow(0)],
            islands: &[island(5.0, 0.5), island(18.35, 3.1)],
            cups: &[Cup {
                from_mm: 3.0,
                to_mm: 25.0,
                area_mm2: 314.0,
                volume_mm3: 6909.0,
                end: CupEnd::Open,
            }],
            thickness: thin(0.4, 12.0),
            open_edge_mm: 8.9,
            inverted_shells: 1,
            tips_at_deg: 0.0,
            ..evidence()
        });
        let keys: Vec<&str> = found.iter().map(|f| f.key.as_str()).collect();
        assert_eq!(
            keys,
            [
                "sealed hollow at 2.0",
                "one way out at 2.0",
                "starts in mid-air at 18.5",
                "starts in mid-air at 5.0",
                "suction cup at 3.0",
                "thin at 12.0",
                "inside out",
                "open mesh",
                "tips over"
            ]
        );
        assert!(found[0].loud && found[1].loud && found.iter().skip(2).all(|f| !f.loud));
        // By hand: 5 ml and 2 ml trapped at 40.00 a litre.
        assert_eq!(found[0].cost, Money(28));
    }

    #[rstest]
    #[case::never_stands(0.0, "does not stand by itself")]
    #[case::barely_stands(1.4, "leaning by 1.4°")]
    fn standing_badly_and_not_at_all_are_two_things(#[case] tips_at_deg: f64, #[case] words: &str) {
        let found = find(&Evidence {
            tips_at_deg,
            ..evidence()
        });
        assert!(found[0].words.contains(words), "{}", found[0].words);
    }

    /// The same place keeps its key when it is measured a little differently.
    #[rstest]
    #[case(18.3, 18.4, true)]
    #[case(18.3, 19.4, false)]
    fn keys_stay_with_the_place(#[case] one: f64, #[case] other: f64, #[case] same: bool) {
        let key = |z| {
            find(&Evidence {
                islands: &[island(z, 3.0)],
                ..evidence()
            })[0]
                .key
                .clone()
        };
        assert_eq!(key(one) == key(other), same);
    }
}
