//! What stands open before a project is printed: one list, shown wherever a decision is made.

use std::collections::{HashMap, HashSet};

use crate::army::{Army, ArmyModel, ArmyPart};
use crate::flow::Stage;
use crate::ids::{ModelId, PartId, RecipeVersionId, SculptId};
use crate::recipe::scale::to_base;
use crate::recipe::supports::{Holding, HoldingLimit};
use crate::recipe::{Proof, Proofs, Setup};
use crate::sculpt::{Foot, LayerFacts, Sculpt, SculptFacts};
use crate::words::words;
use crate::workshop::ProcessSetting;

words! {
    /// Kinds of concerns.
    ConcernKind, "kind of concern" {
        /// Air shut in for good: resin stays in it.
        SealedHollow = "sealed hollow",
        /// It is not sure in which unit a file was drawn.
        Unit = "unit unclear",
        /// It does not fit its base, or its sister parts.
        Scale = "scale",
        /// A file brings its base, and the practice prints bases apart.
        BaseAttached = "base attached",
        /// Something starts in mid-air and nothing holds it.
        MidAir = "starts in mid-air",
        /// Few or thin tips hold it against the pull.
        Holding = "held by little",
        /// Nobody knows yet whether the recipe comes out.
        Untried = "untried recipe",
        /// A wanted part has no measured sculpt.
        NoFile = "no file",
        /// More copies are on plates that wait than are wanted: the army was made smaller.
        TooMany = "more than wanted",
    }
}

/// Where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ConcernState {
    /// Nobody has answered it.
    Open,
    /// It is as it should be, with the maker's reason.
    PutAside(String),
}

/// One thing that stands open, or was put aside.
#[derive(Debug, Clone, PartialEq)]
pub struct Concern {
    /// What it is.
    pub kind: ConcernKind,
    /// The same concern has the same key as long as it stands.
    pub key: String,
    /// Accepting plates with it takes a word: it costs more than the part itself.
    pub grave: bool,
    /// Its model.
    pub model: (ModelId, String),
    /// Its part; the first where it is about several.
    pub part: PartId,
    /// All parts it is about: two models may name one sculpt.
    pub parts: Vec<PartId>,
    /// Its sculpt, where it is about one.
    pub sculpt: Option<SculptId>,
    /// Names of the parts it is about, where it is about all of them in one way.
    pub names: String,
    /// What stands open, in a sentence.
    pub words: String,
    /// The base it is larger than, mm.
    pub base_mm: Option<[f64; 2]>,
    /// Where it stands.
    pub state: ConcernState,
}

impl Concern {
    /// It is about one of some parts.
    #[must_use]
    pub fn is_about(&self, parts: &HashSet<PartId>) -> bool {
        self.parts.iter().any(|p| parts.contains(p))
    }

    /// Nobody has answered it, and it costs more than the part itself.
    #[must_use]
    pub fn is_open_and_grave(&self) -> bool {
        self.grave && self.state == ConcernState::Open
    }
}

/// Contacts and pull of the hardest layer, by sculpt and version of a recipe.
pub type Held = HashMap<(SculptId, RecipeVersionId), (usize, f64)>;

/// What concerns are drawn from.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct ConcernFacts {
    /// The sculpts its parts name.
    pub sculpts: HashMap<SculptId, Sculpt>,
    /// What was measured on them.
    pub facts: HashMap<SculptId, SculptFacts>,
    /// What their layers tell, at their own size, as the files stand.
    pub layers: HashMap<SculptId, LayerFacts>,
    /// Contacts, and pull of the hardest layer, of parts as they are prepared.
    pub held: Held,
    /// From which section of tips parts hold here.
    pub holds: HoldingLimit,
    /// How far recipes are proven.
    pub proofs: Proofs,
    /// The process settings.
    pub settings: Vec<ProcessSetting>,
    /// The practice prints bases apart.
    pub bases_apart: bool,
    /// Reasons by key.
    pub put_aside: HashMap<String, String>,
    /// Sculpts whose sealed hollow was put aside on their own page, with the reason.
    pub hollow_put_aside: HashMap<SculptId, String>,
}

impl ConcernFacts {
    /// What the figure of a sculpt stands on.
    fn foot(&self, sculpt: SculptId) -> Option<Foot> {
        let of = self.sculpts.get(&sculpt).zip(self.facts.get(&sculpt));
        of.and_then(|(s, f)| Foot::of(s, f, self.layers.get(&sculpt)))
    }
}

/// Concerns that ask for one and the same thing, model by model, are one issue: what is open of each such
/// kind together, everything else by itself. In the order in which they stand.
#[must_use]
pub fn issues<'a>(all: impl IntoIterator<Item = &'a Concern>) -> Vec<Vec<&'a Concern>> {
    let joins = |c: &Concern| {
        let kind = matches!(
            c.kind,
            ConcernKind::MidAir | ConcernKind::Untried | ConcernKind::NoFile
        );
        kind && !c.grave && c.state == ConcernState::Open
    };
    let mut issues: Vec<Vec<&Concern>> = Vec::new();
    for concern in all {
        let same = issues.iter_mut().find(|of| {
            let first = of[0];
            joins(first) && joins(concern) && first.kind == concern.kind
        });
        match same {
            Some(of) => of.push(concern),
            None => issues.push(vec![concern]),
        }
    }
    issues
}

/// Above this share of its base a part overhangs it; and stands beside it.
const OVERHANGS: f64 = 0.97;
const BESIDE: f64 = 0.7;
/// A hollow that holds less is a bubble, ml.
const LEAST_ML: f64 = 0.02;
/// Scales of parts of one model that differ by more are mixed.
const MIXED: f64 = 0.005;

/// Everything that stands open in an army, the grave first, then in the order of the army.
#[must_use]
pub fn concerns(army: &Army, facts: &ConcernFacts) -> Vec<Concern> {
    let mut found = Finding {
        facts,
        all: Vec::new(),
    };
    for unit in &army.units {
        for model in &unit.models {
            found.of_model(model);
        }
    }
    let mut all = found.all;
    all.sort_by_key(|c| (c.state != ConcernState::Open, !c.grave, c.kind));
    all
}

struct Finding<'a> {
    facts: &'a ConcernFacts,
    all: Vec<Concern>,
}

impl Finding<'_> {
    fn add(&mut self, model: &ArmyModel, part: &ArmyPart, concern: Concern) {
        // One sculpt of several parts is told once, and is about all of them.
        if let Some(told) = self.all.iter_mut().find(|c| c.key == concern.key) {
            told.parts.push(part.part.id);
            return;
        }
        let put_aside = self.facts.put_aside.get(&concern.key).cloned();
        let elsewhere = concern
            .sculpt
            .filter(|_| concern.kind == ConcernKind::SealedHollow)
            .and_then(|s| self.facts.hollow_put_aside.get(&s).cloned());
        let reason = put_aside.or(elsewhere);
        self.all.push(Concern {
            model: (model.model.id, model.model.name.clone()),
            part: part.part.id,
            parts: if concern.parts.is_empty() {
                vec![part.part.id]
            } else {
                concern.parts.clone()
            },
            state: reason.map_or(ConcernState::Open, ConcernState::PutAside),
            ..concern
        });
    }

    fn of_model(&mut self, model: &ArmyModel) {
        // Copies that are still to come: what is printed is printed.
        let to_come = |p: &&ArmyPart| {
            p.need.required() > 0 && (p.need.wanted() > 0 || p.counts.of(Stage::Planned) > 0)
        };
        let parts: Vec<&ArmyPart> = model.parts.iter().filter(to_come).collect();
        for part in &parts {
            if let Some(sculpt) = part.part.sculpt {
                self.of_file(model, part, sculpt);
                self.against_base(model, part, sculpt, model.parts.len() == 1);
            }
        }
        let facts = self.facts;
        // Without a base of its own it gets no second one.
        let has_base = model.model.base_width_mm > 0.0 || model.parts.iter().any(is_base);
        self.several(model, &parts, ConcernKind::BaseAttached, |p| {
            facts.bases_apart && has_base && brings_base(facts, p)
        });
        self.mixed_scales(model, &parts);
        // Whatever is wanted of it now: its plates were accepted when more was.
        let all: Vec<&ArmyPart> = model.parts.iter().collect();
        self.several(model, &all, ConcernKind::TooMany, |p| too_many(p) > 0);
        self.several(model, &parts, ConcernKind::NoFile, |p| {
            p.part.sculpt.is_none() && p.need.wanted() > 0
        });
        self.several(model, &parts, ConcernKind::MidAir, |p| {
            let layers = p.part.sculpt.and_then(|s| facts.layers.get(&s));
            let as_it_stands = [Setup::PLAIN, Setup::IN_FILE].contains(&p.recipe.setup);
            as_it_stands && layers.is_some_and(|l| !l.islands.is_empty())
        });
        self.several(model, &parts, ConcernKind::Holding, |p| {
            let key = p.part.sculpt.map(|s| (s, p.recipe.id));
            let held = key.and_then(|key| facts.held.get(&key));
            let holding = held.and_then(|(contacts, pull)| {
                Holding::of(&p.recipe.setup.supports, *contacts, *pull, 0.0)
            });
            holding.is_some_and(|h| h.is_doubtful(&facts.holds))
        });
        self.several(model, &parts, ConcernKind::Untried, |p| {
            p.part.sculpt.is_some()
                && p.need.wanted() > 1
                && facts.proofs.best(&p.recipe, &facts.settings) == Proof::Untried
        });
    }

    /// One concern about those parts of a model that it is about.
    fn several(
        &mut self,
        model: &ArmyModel,
        parts: &[&ArmyPart],
        kind: ConcernKind,
        holds: impl Fn(&ArmyPart) -> bool,
    ) {
        let about: Vec<&ArmyPart> = parts.iter().copied().filter(|p| holds(p)).collect();
        let Some(first) = about.first() else {
            return;
        };
        let names: Vec<&str> = about.iter().map(|p| p.part.name.as_str()).collect();
        let words = match kind {
            ConcernKind::NoFile => "without a file; on no plate until there is one",
            ConcernKind::TooMany => {
                "more copies are on accepted plates than are wanted now; release a plate that nobody started, or keep them as spares"
            }
            ConcernKind::MidAir => {
                "an area begins in mid-air with no support under it, and will be missing from the print"
            }
            ConcernKind::BaseAttached => {
                "with its base in one file, and your practice prints bases apart: more pull and height under every figure, and its own base on top of it; take a file without, or leave it joined"
            }
            ConcernKind::Holding => {
                "held by few or thin tips for how hard it pulls: it may tear off; more contacts, thicker tips, or another orientation"
            }
            _ => "untried, and several copies are wanted: print one first",
        };
        // What is about counts stands anew when they change; all else when a recipe does.
        let of = |p: &&ArmyPart| match kind {
            ConcernKind::TooMany => format!("{}:{}", p.part.id, too_many(p)),
            _ => p.recipe.id.to_string(),
        };
        let versions: Vec<String> = about.iter().map(of).collect();
        let key = format!("{kind} {} {}", model.model.id, versions.join(" "));
        let names = names.join(", ");
        let words = format!("{names}: {words}.");
        let said = Concern {
            names,
            parts: about.iter().map(|p| p.part.id).collect(),
            ..blank(kind, key, words)
        };
        self.add(model, first, said);
    }

    fn mixed_scales(&mut self, model: &ArmyModel, parts: &[&ArmyPart]) {
        // A base is cut to its own size now and then.
        let scales = || {
            let of_figure = parts
                .iter()
                .filter(|p| p.part.sculpt.is_some() && !is_base(p));
            of_figure.map(|p| (*p, p.recipe.scale))
        };
        let least = scales().min_by(|a, b| a.1.total_cmp(&b.1));
        let most = scales().max_by(|a, b| a.1.total_cmp(&b.1));
        let (Some((small, least)), Some((large, most))) = (least, most) else {
            return;
        };
        if most <= least * (1.0 + MIXED) {
            return;
        }
        let percent = |s: f64| format!("{:.0} %", s * 100.0);
        let words = format!(
            "{} is printed at {}, {} at {}: parts of one model go together at one scale.",
            small.part.name,
            percent(least),
            large.part.name,
            percent(most)
        );
        let key = format!("mixed {} {least} {most}", model.model.id);
        let said = Concern {
            parts: scales().map(|(p, _)| p.part.id).collect(),
            ..blank(ConcernKind::Scale, key, words)
        };
        self.add(model, small, said);
    }

    fn of_file(&mut self, model: &ArmyModel, part: &ArmyPart, sculpt: SculptId) {
        let name = &part.part.name;
        let of = |kind, key, words| Concern {
            sculpt: Some(sculpt),
            grave: true,
            ..blank(kind, key, words)
        };
        let asked = self.facts.sculpts.get(&sculpt);
        if let Some(unit) = asked.and_then(|s| s.unit_asked.as_ref()) {
            let words = format!("{name}: was its file drawn in {unit}? Its size is not sure.");
            self.add(
                model,
                part,
                of(ConcernKind::Unit, format!("unit {sculpt}"), words),
            );
        }
        let sealed = self.facts.layers.get(&sculpt).map_or(0.0, |l| l.sealed_mm3);
        let ml = sealed * part.recipe.scale.powi(3) / 1000.0;
        if ml >= LEAST_ML {
            let words = format!(
                "{name} shuts in {ml:.2} ml: liquid resin stays in it, swells, and splits the wall within weeks."
            );
            let key = format!("hollow {sculpt}");
            self.add(model, part, of(ConcernKind::SealedHollow, key, words));
        }
    }

    /// What stands on the ground against the base of its model.
    fn against_base(&mut self, model: &ArmyModel, part: &ArmyPart, sculpt: SculptId, alone: bool) {
        let base = [model.model.base_width_mm, model.model.base_depth_mm];
        let foot = self.facts.foot(sculpt);
        let Some(foot) = foot.filter(|_| base[0] > 0.0 && (alone || stands(&part.part.name)))
        else {
            return;
        };
        let scale = part.recipe.scale;
        let printed = foot.size_mm.map(|mm| mm * scale);
        // As if it brought its own base: feet may come closer to the rim than that.
        let Some(factor) = to_base(base, printed, true)
            .factor()
            .filter(|f| *f < OVERHANGS)
        else {
            return;
        };
        let side = |mm: [f64; 2]| {
            if (mm[0] - mm[1]).abs() < 0.5 {
                format!("{:.0} mm", mm[0])
            } else {
                format!("{:.0} × {:.0} mm", mm[0], mm[1])
            }
        };
        let said = blank(
            ConcernKind::Scale,
            format!("base {} {}", part.part.id, part.recipe.id),
            format!(
                "{} stands on {}, its base has {}: at {:.0} % it would fit.",
                part.part.name,
                side(printed),
                side(base),
                scale * factor * 100.0
            ),
        );
        let concern = Concern {
            grave: factor < BESIDE,
            sculpt: Some(sculpt),
            base_mm: Some(base),
            ..said
        };
        self.add(model, part, concern);
    }
}

fn blank(kind: ConcernKind, key: String, words: String) -> Concern {
    Concern {
        kind,
        key,
        grave: false,
        model: (ModelId(0), String::new()),
        part: PartId(0),
        parts: Vec::new(),
        sculpt: None,
        names: String::new(),
        words,
        base_mm: None,
        state: ConcernState::Open,
    }
}

/// A part that is a base, by its name.
fn is_base(part: &ArmyPart) -> bool {
    part.part.name.to_lowercase().contains("base")
}

/// The file of a part stands on a slab of its own, and is no base itself.
fn brings_base(facts: &ConcernFacts, part: &ArmyPart) -> bool {
    if is_base(part) {
        return false;
    }
    let foot = part.part.sculpt.and_then(|s| facts.foot(s));
    foot.is_some_and(|f| f.slab_mm.is_some())
}

/// Copies on plates that nobody has started, beyond what is wanted.
fn too_many(part: &ArmyPart) -> u64 {
    let most = part.need.required() + u64::from(part.need.spares);
    let over = u64::from(part.need.alive).saturating_sub(most);
    over.min(u64::from(part.counts.of(Stage::Planned)))
}

/// A part that stands on the base, by its name.
fn stands(name: &str) -> bool {
    const WORDS: [&str; 9] = [
        "body", "figure", "base", "model", "legs", "torso", "hull", "rider", "mount",
    ];
    let lower = name.to_lowercase();
    lower
        .split(|c: char| !c.is_alphabetic())
        .any(|w| WORDS.contains(&w))
}
