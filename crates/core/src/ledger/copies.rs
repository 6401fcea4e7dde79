//! Printed copies, and ways to look at them.

use std::collections::{BTreeMap, HashMap};

use crate::cost_parts::CostParts;
use crate::flow::{FailedAt, Stage};
use crate::ids::{CopyId, PartId, PlateId, PrinterId, RecipeId};
use crate::odds::{Group, Judged, Share, StepLoss, Stood, by_steps, since};
use crate::pose::Pose;
use crate::recipe::supports::Supports;
use crate::units::Money;
use crate::words::words;

words! {
    /// What copies may have in common.
    Look, "way to look at copies" {
        /// Their printer.
        Printer = "printer",
        /// Their resin.
        Resin = "resin",
        /// The version of their recipe.
        Recipe = "recipe",
        /// Who made their supports.
        Supports = "supports",
        /// Whether supports came off before the cure or after it.
        SupportsOff = "supports off",
        /// How they hung.
        Pose = "orientation",
        /// Hollow or solid.
        Hollow = "hollow",
        /// Their layer height.
        Layer = "layer height",
    }
}

impl Look {
    /// Who made supports.
    #[must_use]
    pub const fn of_supports(supports: Supports) -> &'static str {
        match supports {
            Supports::None => "none",
            Supports::InFile => "the sculptor's, in the file",
            Supports::Planned(_) => "ours, as planned here",
            Supports::PrintMesh(_) => "ours, on the print mesh",
        }
    }

    /// How a part hung.
    #[must_use]
    pub fn of_pose(pose: Pose) -> &'static str {
        match pose.tilt_deg() {
            deg if deg < 5.0 => "upright",
            deg if deg < 35.0 => "tilted under 35°",
            deg if deg <= 60.0 => "tilted 35 to 60°",
            _ => "laid back over 60°",
        }
    }

    /// Whether supports came off when it was cured already.
    #[must_use]
    pub const fn of_supports_off(cured: bool) -> &'static str {
        if cured {
            "after the cure"
        } else {
            "before the cure"
        }
    }

    /// Whether there is a hollow in it.
    #[must_use]
    pub const fn of_hollow(hollow: bool) -> &'static str {
        if hollow { "hollow" } else { "solid" }
    }
}

/// A copy that was printed, with everything the ledger asks of it.
#[derive(Debug, Clone, PartialEq)]
pub struct LedgerCopy {
    /// Which one.
    pub copy: CopyId,
    /// Its number in the workshop.
    pub mark: i64,
    /// Its plate, and that one's number.
    pub plate: (PlateId, i64),
    /// Its part, and the name of it with its model's.
    pub part: (PartId, String),
    /// Its recipe, and the number of its version.
    pub recipe: (RecipeId, i64),
    /// Its printer.
    pub printer: PrinterId,
    /// What it has in common with others, by the way to look; nothing where that is not known.
    pub alike: BTreeMap<Look, String>,
    /// Where and how it stood.
    pub stood: Stood,
    /// Where it stands.
    pub stage: Stage,
    /// Why it failed.
    pub cause: Option<String>,
    /// Where on its way.
    pub failed_at: Option<FailedAt>,
    /// Its plate was lost whole.
    pub plate_lost: bool,
    /// What it cost, as it was planned, and mending it.
    pub cost: CostParts,
    /// Resin of it with its share of waste, ml.
    pub resin_ml: f64,
}

impl LedgerCopy {
    /// It failed.
    #[must_use]
    pub fn failed(&self) -> bool {
        self.stage == Stage::Failed
    }

    /// Says of each how far its nearest neighbour stood from it, middle to middle, by where the copies of each plate
    /// stand, mm.
    pub fn find_neighbours(copies: &mut [Self], at: &HashMap<PlateId, Vec<[f64; 2]>>) {
        let mut seen: HashMap<PlateId, usize> = HashMap::new();
        for copy in copies {
            let on_it = at.get(&copy.plate.0).map_or(&[][..], Vec::as_slice);
            let mine = seen.entry(copy.plate.0).or_default();
            if let Some(here) = on_it.get(*mine) {
                let others = on_it.iter().enumerate().filter(|(i, _)| i != mine);
                let far = others.map(|(_, o)| (o[0] - here[0]).hypot(o[1] - here[1]));
                copy.stood.neighbour_mm = far.min_by(f64::total_cmp);
            }
            *mine += 1;
        }
    }

    /// It was judged on a plate that held, so that it says something of copies.
    #[must_use]
    pub fn counts(&self) -> bool {
        !self.plate_lost && matches!(self.stage, Stage::Good | Stage::Failed | Stage::Surplus)
    }
}

/// How some copies came out, those of plates lost whole left out.
#[must_use]
pub fn judged<'a>(copies: impl IntoIterator<Item = &'a LedgerCopy>) -> Judged {
    let mut all = Judged::default();
    for copy in copies.into_iter().filter(|c| c.counts()) {
        all.add(copy.failed());
    }
    all
}

/// What each step of the way costs, of copies on plates that held, in the order of [`FailedAt::ALL`].
#[must_use]
pub fn steps(copies: &[LedgerCopy]) -> Vec<StepLoss> {
    let counted: Vec<&LedgerCopy> = copies.iter().filter(|c| c.counts()).collect();
    let at = |step: FailedAt| {
        let here =
            |c: &&&LedgerCopy| c.failed() && c.failed_at.unwrap_or(FailedAt::Printing) == step;
        counted.iter().filter(here).count() as u64
    };
    let failed: Vec<u64> = FailedAt::ALL.iter().map(|s| at(*s)).collect();
    by_steps(counted.len() as u64, &failed)
}

/// A recipe before and since its last change that copies were judged on both sides of.
#[derive(Debug, Clone, PartialEq)]
pub struct Since {
    /// The part, with its model.
    pub part: String,
    /// Its recipe.
    pub recipe: RecipeId,
    /// The version that was new.
    pub version: i64,
    /// How copies came out before it.
    pub before: Judged,
    /// How they did since.
    pub after: Judged,
    /// What is believed of both.
    pub shares: [Share; 2],
}

/// How copies came out, plate by plate.
fn by_plate(copies: &[&LedgerCopy]) -> Vec<Judged> {
    let mut plates: BTreeMap<PlateId, Judged> = BTreeMap::new();
    for copy in copies {
        plates.entry(copy.plate.0).or_default().add(copy.failed());
    }
    plates.into_values().collect()
}

impl Since {
    /// Recipes that were changed between judged copies: before the newest version that was judged, and since.
    #[must_use]
    pub fn of(copies: &[LedgerCopy]) -> Vec<Self> {
        let mut recipes: BTreeMap<RecipeId, Vec<&LedgerCopy>> = BTreeMap::new();
        for copy in copies.iter().filter(|c| c.counts()) {
            recipes.entry(copy.recipe.0).or_default().push(copy);
        }
        let since = |(recipe, of): (RecipeId, Vec<&LedgerCopy>)| {
            let version = of.iter().map(|c| c.recipe.1).max()?;
            let sides = of
                .into_iter()
                .partition::<Vec<_>, _>(|c| c.recipe.1 < version);
            let [before, after] = [&sides.0, &sides.1].map(|side| by_plate(side));
            Some(Self {
                part: sides.1.first()?.part.1.clone(),
                recipe,
                version,
                shares: since(&before, &after)?,
                before: Judged::sum(before),
                after: Judged::sum(after),
            })
        };
        let mut all: Vec<Self> = recipes.into_iter().filter_map(since).collect();
        let sure = |s: &Self| s.shares[1].better.max(s.shares[1].worse);
        all.sort_by(|a, b| sure(b).total_cmp(&sure(a)));
        all
    }
}

/// Copies that are alike, how they came out and what they cost.
#[derive(Debug, Clone, PartialEq)]
pub struct LookRow {
    /// How they came out.
    pub group: Group,
    /// What all of them cost, those of lost plates too.
    pub cost: Money,
    /// Of that those that failed.
    pub lost: Money,
}

impl LookRow {
    /// Copies by what they have in common, the most copies first.
    #[must_use]
    pub fn by(copies: &[LedgerCopy], look: Look) -> Vec<Self> {
        let named = |c: &'_ LedgerCopy| c.alike.get(&look).cloned();
        let judged = copies.iter().filter(|c| c.counts());
        let groups = Group::by(judged.filter_map(|c| Some((named(c)?, c.plate.0, c.failed()))));
        // One look at the copies, however many groups there are.
        let mut costs: BTreeMap<&String, (Money, Money)> = BTreeMap::new();
        for copy in copies.iter().filter(|c| c.counts() || c.failed()) {
            let Some(name) = copy.alike.get(&look) else {
                continue;
            };
            let of = costs.entry(name).or_default();
            of.0 += copy.cost.total();
            if copy.failed() {
                of.1 += copy.cost.total();
            }
        }
        let row = |group: Group| {
            let (cost, lost) = costs.get(&group.name).copied().unwrap_or_default();
            Self { group, cost, lost }
        };
        groups.into_iter().map(row).collect()
    }

    /// What each good copy of them cost, failures with it.
    #[must_use]
    pub fn each_good(&self) -> Option<Money> {
        let good = self.group.judged.good;
        (good > 0).then(|| Money::from_minor_f64(self.cost.0 as f64 / good as f64))
    }
}

/// Copies by each way to look at them: what is fitted for it takes a moment, and is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Looks(pub Vec<(Look, Vec<LookRow>)>);

impl Looks {
    /// Of these copies.
    #[must_use]
    pub fn of(copies: &[LedgerCopy]) -> Self {
        let by = |look: &Look| (*look, LookRow::by(copies, *look));
        Self(Look::ALL.iter().map(by).collect())
    }
}
