//! Cases of `wembrit odds`, as JSON. The format is that of `../shared/bench/learn/README.md`.

use std::collections::{BTreeMap, HashMap};

use serde::Deserialize;
use serde_json::{Value, json};

use super::spares::{KitPart, by_money, kit, over_plates, spares};
use super::{Differ, Judged, OddsError, OnPlate, Posterior, Verdict};
use crate::cases::{Case, CaseError, answer};

#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
enum OddsCase {
    Spares {
        #[serde(flatten)]
        judged: Counts,
        want: u64,
        chance: f64,
        prior: Option<[f64; 2]>,
        workshop: Option<Counts>,
        strength: Option<f64>,
    },
    Kit {
        models: u64,
        chance: f64,
        parts: Vec<Part>,
    },
    Money {
        #[serde(flatten)]
        judged: Counts,
        want: u64,
        spare_minor: f64,
        reprint_minor: f64,
    },
    Plates {
        plate_loss: f64,
        copy_good: f64,
        want: u64,
        plates: Vec<u64>,
    },
    Better {
        before: [u64; 2],
        after: [u64; 2],
    },
    Groups {
        judged: Vec<JudgedOn>,
        level: f64,
    },
}

/// Copies of one group on one plate.
#[derive(Debug, Clone, PartialEq, Deserialize)]
struct JudgedOn {
    group: String,
    plate: Value,
    #[serde(flatten)]
    counts: Counts,
}

#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
struct Counts {
    good: u64,
    failed: u64,
}

#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
struct Part {
    good: u64,
    failed: u64,
    per_model: u64,
    copy_minor: f64,
}

/// Answers a case, or an array of them by an array.
///
/// # Errors
/// [`CaseError`] of the first that has no answer.
pub fn answer_odds(text: &str) -> Result<Value, CaseError<OddsError>> {
    answer::<OddsCase>(text)
}

/// Groups, each with what is believed of it against all of them.
fn groups(judged: &[JudgedOn], level: f64) -> Result<Value, OddsError> {
    if !(level > 0.0 && level < 1.0) {
        return Err(OddsError::NoNumber("a level"));
    }
    let mut names: Vec<&str> = Vec::new();
    let mut numbers: HashMap<&str, usize> = HashMap::new();
    let mut plates: BTreeMap<(usize, String), Judged> = BTreeMap::new();
    for entry in judged {
        let group = *numbers.entry(&entry.group).or_insert_with(|| {
            names.push(&entry.group);
            names.len() - 1
        });
        let of = plates.entry((group, entry.plate.to_string())).or_default();
        *of = Judged::sum([*of, entry.counts.judged()?]);
    }
    let on = |((group, _), judged)| OnPlate { group, judged };
    let on: Vec<OnPlate> = plates.into_iter().map(on).collect();
    let found = Differ::fitted(names.len(), &on, level);
    let told = names.iter().zip(&found.groups).map(|(name, share)| {
        let verdict = match share.verdict() {
            Verdict::Better => "better",
            Verdict::Worse => "worse",
            Verdict::NotProven | Verdict::Alone => "none",
        };
        json!({
            "group": name, "mean": share.mean, "low": share.low, "high": share.high,
            "verdict": verdict,
        })
    });
    Ok(json!({ "groups": told.collect::<Vec<Value>>() }))
}

/// Nobody has judged more copies than that.
const MOST: u64 = 1_000_000;

impl Counts {
    fn judged(self) -> Result<Judged, OddsError> {
        if self.good > MOST || self.failed > MOST {
            return Err(OddsError::TooMany);
        }
        Ok(Judged {
            good: self.good,
            failed: self.failed,
        })
    }
}

impl Case for OddsCase {
    type Error = OddsError;

    fn answer(&self) -> Result<Value, OddsError> {
        let uniform = |of: &Counts| Posterior::new(of.judged()?, [1.0, 1.0]);
        Ok(match self {
            Self::Spares {
                judged,
                want,
                chance,
                prior,
                workshop,
                strength,
            } => {
                let prior = match (prior, workshop) {
                    (Some(prior), _) => *prior,
                    (None, Some(workshop)) => {
                        Posterior::shrunk(workshop.judged()?, strength.unwrap_or(10.0))?
                    }
                    (None, None) => [1.0, 1.0],
                };
                let of = Posterior::new(judged.judged()?, prior)?;
                let print = spares(&of, *want, *chance)?;
                json!({
                    "a": of.a, "b": of.b, "mean": of.mean(), "low": of.quantile(0.05),
                    "high": of.quantile(0.95), "print": print, "reached": of.at_least(print, *want),
                })
            }
            Self::Kit {
                models,
                chance,
                parts,
            } => {
                let part = |p: &Part| {
                    let counts = Counts {
                        good: p.good,
                        failed: p.failed,
                    };
                    Ok(KitPart {
                        judged: counts.judged()?,
                        per_model: p.per_model,
                        copy_minor: p.copy_minor,
                    })
                };
                let parts: Result<Vec<KitPart>, OddsError> = parts.iter().map(part).collect();
                let found = kit(*models, *chance, &parts?)?;
                json!({
                    "print": found.print, "reached": found.reached,
                    "cost_minor": found.cost_minor.round() as i64,
                })
            }
            Self::Money {
                judged,
                want,
                spare_minor,
                reprint_minor,
            } => {
                let of = uniform(judged)?;
                let (print, expected) = by_money(&of, *want, *spare_minor, *reprint_minor)?;
                json!({ "print": print, "expected_minor": expected })
            }
            Self::Plates {
                plate_loss,
                copy_good,
                want,
                plates,
            } => json!({ "reached": over_plates(*plate_loss, *copy_good, *want, plates)? }),
            Self::Groups { judged, level } => groups(judged, *level)?,
            Self::Better { before, after } => {
                let of = |[good, failed]: [u64; 2]| Counts { good, failed }.judged();
                json!({ "chance_better": Posterior::better(of(*before)?, of(*after)?) })
            }
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("", "it is no case")]
    #[case("{}", "kind")]
    #[case(r#"{"kind":"tide"}"#, "unknown variant")]
    #[case(
        r#"{"kind":"spares","good":-1,"failed":0,"want":1,"chance":0.9}"#,
        "it is no case"
    )]
    #[case(
        r#"{"kind":"spares","good":1,"failed":0,"want":1,"chance":1.5}"#,
        "a chance"
    )]
    #[case(
        r#"{"kind":"spares","good":1,"failed":0,"want":1,"chance":0.5,"prior":[-1,1]}"#,
        "a prior"
    )]
    #[case(
        r#"{"kind":"spares","good":9999999999,"failed":0,"want":1,"chance":0.5}"#,
        "more than"
    )]
    #[case(
        r#"{"kind":"kit","models":1,"chance":0.5,"parts":[]}"#,
        "a number of parts"
    )]
    #[case(r#"{"kind":"kit","models":1,"chance":0.5,"parts":[{"good":1,"failed":1,"per_model":1,"copy_minor":0}]}"#, "the cost of a copy")]
    #[case(
        r#"{"kind":"money","good":1,"failed":1,"want":3,"spare_minor":0,"reprint_minor":1}"#,
        "the cost of a spare"
    )]
    #[case(
        r#"{"kind":"plates","plate_loss":2,"copy_good":0.5,"want":1,"plates":[1]}"#,
        "a plate's loss"
    )]
    #[case(
        r#"{"kind":"plates","plate_loss":0,"copy_good":0.5,"want":1,"plates":[99999999]}"#,
        "more than"
    )]
    fn what_has_no_answer_is_said_in_one_line(#[case] text: &str, #[case] why: &str) {
        let said = answer_odds(text).expect_err("no answer").to_string();
        assert!(said.contains(why) && !said.contains('\n'), "{said}");
    }

    /// The workshop's 190 of 200, worth ten copies, and three of five of its own: Beta(12.5, 2.5).
    #[test]
    fn a_part_is_shrunk_to_the_workshop() {
        let text = r#"[{"kind":"spares","good":3,"failed":2,"workshop":{"good":190,"failed":10},"strength":10,"want":10,"chance":0.9}]"#;
        let found = &answer_odds(text).expect("an answer")[0];
        assert_eq!((&found["a"], &found["print"]), (&json!(12.5), &json!(15)));
    }
}
