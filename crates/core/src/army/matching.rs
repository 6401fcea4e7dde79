//! Which file belongs to which part, by their names. Proposals only: the maker confirms.

use std::collections::BTreeSet;

/// What the name of a file says.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct FileName {
    /// Its words, in order, in lower case, without what says nothing about the part.
    pub words: Vec<String>,
    /// `left` or `right`, where it says so.
    pub side: Option<&'static str>,
    /// Copies in each model: `x3`.
    pub count: Option<u32>,
}

/// Words of file names that say nothing about the part.
const SAY_NOTHING: [&str; 14] = [
    "stl",
    "obj",
    "3mf",
    "supported",
    "presupported",
    "unsupported",
    "sup",
    "final",
    "fixed",
    "repaired",
    "copy",
    "export",
    "print",
    "mm",
];

/// Reads `reed_piker_arm_L_x3.stl`, `ReedPikerArmLeft.stl`, `3x piker arm (left).stl`.
#[must_use]
pub fn read_file_name(name: &str) -> FileName {
    let name = without_copy_mark(name.rsplit(['/', '\\']).next().unwrap_or(name));
    let mut read = FileName::default();
    for word in split_words(name) {
        let digits = |text: &str| text.parse::<u32>().ok().filter(|n| (1..=99).contains(n));
        let count = word
            .strip_prefix('x')
            .or_else(|| word.strip_suffix('x'))
            .and_then(digits);
        let version = word
            .strip_prefix('v')
            .is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit()));
        let millimetres = word
            .strip_suffix("mm")
            .is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit()));
        match word.as_str() {
            "l" | "left" | "lft" | "lh" | "lefthand" => read.side = Some("left"),
            "r" | "right" | "rgt" | "rh" | "righthand" => read.side = Some("right"),
            _ if count.is_some() && read.count.is_none() => read.count = count,
            _ if version || millimetres || SAY_NOTHING.contains(&word.as_str()) => {}
            _ => read.words.push(word),
        }
    }
    read
}

/// Without the `(1)` that a browser puts behind the name of a file it has fetched before.
fn without_copy_mark(name: &str) -> &str {
    let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
    let mark = stem.strip_suffix(')').and_then(|s| s.rsplit_once('('));
    match mark {
        Some((before, digits))
            if !before.trim().is_empty()
                && (1..=2).contains(&digits.len())
                && digits.bytes().all(|b| b.is_ascii_digit()) =>
        {
            before.trim_end()
        }
        _ => name,
    }
}

/// Words in lower case: parted by anything but letters and digits, and where small letters or
/// digits are followed by a capital.
fn split_words(text: &str) -> Vec<String> {
    let mut words = vec![String::new()];
    let mut before = ' ';
    for c in text.chars() {
        let starts = c.is_uppercase() && (before.is_lowercase() || before.is_ascii_digit());
        if !c.is_alphanumeric() || starts {
            words.push(String::new());
        }
        if c.is_alphanumeric()
            && let Some(word) = words.last_mut()
        {
            word.extend(c.to_lowercase());
        }
        before = c;
    }
    words.retain(|w| !w.is_empty());
    words
}

/// A part that a file may belong to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wanted {
    /// Name of its model.
    pub model: String,
    /// Name of the part.
    pub part: String,
    /// Copies in each model.
    pub count: u32,
    /// Models that take it.
    pub models: u32,
}

/// A model that a file may be a new part of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WantedModel {
    /// Its name.
    pub name: String,
    /// How many are wanted.
    pub quantity: u32,
    /// Options of its choices: name, and the models that take each.
    pub options: Vec<(String, u32)>,
}

/// Copies in each model when a file names a count: where it is that of all the models together, or
/// some times as many, it says what the army needs.
fn in_each(count: u32, models: u32) -> u32 {
    if models > 1 && count.is_multiple_of(models) {
        count / models
    } else {
        count
    }
}

/// Where a file may belong.
#[derive(Debug, Clone, PartialEq)]
pub enum Proposal {
    /// To a part that has no file yet.
    Part {
        /// Index into the wanted parts.
        part: usize,
        /// Copies in each model by the file, where they differ from the part's.
        other_count: Option<u32>,
    },
    /// To a new part of a model.
    NewPart {
        /// Index into the models.
        model: usize,
        /// Index into the options of that model, where it goes with one.
        option: Option<usize>,
        /// Its name.
        name: String,
        /// Copies in each model.
        count: u32,
        /// The file's count is that of the whole army.
        of_army: bool,
    },
    /// The name tells nothing.
    Nothing,
}

/// Below this a likeness is chance.
const LIKE: f64 = 0.4;

/// One proposal for each file. A part is proposed to one file only: the one most like it.
#[must_use]
pub fn propose(files: &[FileName], wanted: &[Wanted], models: &[WantedModel]) -> Vec<Proposal> {
    let files = &without_common(files, wanted, models);
    let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
    for (f, file) in files.iter().enumerate() {
        for (w, part) in wanted.iter().enumerate() {
            let like = likeness(file, part);
            if like >= LIKE {
                pairs.push((like, f, w));
            }
        }
    }
    pairs.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let mut proposals = vec![Proposal::Nothing; files.len()];
    let mut taken = BTreeSet::new();
    for (_, f, w) in pairs {
        if proposals[f] == Proposal::Nothing && taken.insert(w) {
            let count = files[f].count.map(|c| in_each(c, wanted[w].models));
            let other_count = count.filter(|c| *c != wanted[w].count);
            proposals[f] = Proposal::Part {
                part: w,
                other_count,
            };
        }
    }
    for (file, proposal) in files.iter().zip(&mut proposals) {
        if *proposal == Proposal::Nothing {
            *proposal = new_part(file, models);
        }
    }
    proposals
}

/// Files that share a word every one of them carries.
const FOLDER: usize = 3;

/// The files without words that all of them carry and that name no part or model: the name of the
/// folder, of the set, of who made it.
fn without_common(files: &[FileName], wanted: &[Wanted], models: &[WantedModel]) -> Vec<FileName> {
    let Some((first, rest)) = files.split_first().filter(|_| files.len() >= FOLDER) else {
        return files.to_vec();
    };
    let named: Vec<String> = (wanted.iter())
        .flat_map(|w| {
            split_words(&w.part)
                .into_iter()
                .chain(split_words(&w.model))
        })
        .chain(models.iter().flat_map(|m| {
            let options = m.options.iter().flat_map(|(name, _)| split_words(name));
            split_words(&m.name).into_iter().chain(options)
        }))
        .collect();
    let common: Vec<&String> = (first.words.iter())
        .filter(|w| rest.iter().all(|f| f.words.contains(w)))
        .filter(|w| !named.iter().any(|n| same(n, w)))
        .collect();
    let stripped = |file: &FileName| FileName {
        words: (file.words.iter())
            .filter(|w| !common.contains(w))
            .cloned()
            .collect(),
        ..*file
    };
    files.iter().map(stripped).collect()
}

/// What a word may be the plural of.
fn singulars(word: &str) -> impl Iterator<Item = String> + '_ {
    const ENDS: [(&str, &str); 5] = [
        ("s", ""),
        ("es", ""),
        ("ies", "y"),
        ("ves", "f"),
        ("ves", "fe"),
    ];
    // These stand alone too.
    const OTHERS: [(&str, &str); 3] = [("men", "man"), ("oxen", "ox"), ("feet", "foot")];
    let one = |(many, one): &(&str, &str), least: usize| {
        let stem = word.strip_suffix(many).filter(|stem| stem.len() >= least)?;
        Some(format!("{stem}{one}"))
    };
    let regular = ENDS.iter().filter_map(move |end| one(end, 2));
    regular.chain(OTHERS.iter().filter_map(move |end| one(end, 0)))
}

fn same(a: &str, b: &str) -> bool {
    a == b || singulars(a).any(|one| one == b) || singulars(b).any(|one| one == a)
}

/// How alike file and part are, from 0 to 1: shared words against all words, a part word at
/// least. Opposite sides are never alike; a remark behind the name of the model makes nothing less alike.
fn likeness(file: &FileName, part: &Wanted) -> f64 {
    let model = part.model.as_str();
    let by = |model| likeness_by(file, model, &part.part);
    by(model).max(by(without_remark(model)))
}

fn likeness_by(file: &FileName, model: &str, part: &str) -> f64 {
    let part_name = read_file_name(part);
    if let (Some(a), Some(b)) = (file.side, part_name.side)
        && a != b
    {
        return 0.0;
    }
    let model_words = split_words(model);
    let has = |word: &str| file.words.iter().any(|w| same(w, word));
    let part_hits = part_name.words.iter().filter(|w| has(w)).count();
    let model_hits = model_words.iter().filter(|w| has(w)).count();
    let side_hit = usize::from(file.side.is_some() && file.side == part_name.side);
    let side_words = usize::from(file.side.is_some() || part_name.side.is_some());
    let figure = part_name
        .words
        .iter()
        .any(|w| matches!(w.as_str(), "figure" | "body" | "model"));
    let whole_model =
        model_hits == model_words.len() && file.words.len() == model_hits && file.side.is_none();
    if part_hits == 0 && !(figure && whole_model) {
        return 0.0;
    }
    let known = |word: &String| {
        part_name
            .words
            .iter()
            .chain(&model_words)
            .any(|w| same(w, word))
    };
    let strange = file.words.iter().filter(|w| !known(w)).count();
    let all = part_name.words.len() + model_words.len() + side_words + strange;
    let hits = part_hits + model_hits + side_hit + usize::from(part_hits == 0 && figure);
    hits as f64 / all.max(1) as f64
}

/// A name without what stands in brackets behind it.
fn without_remark(name: &str) -> &str {
    let bare = name.split('(').next().unwrap_or(name).trim();
    if bare.is_empty() { name } else { bare }
}

/// A new part of the model whose name the file carries, or whose option it names.
fn new_part(file: &FileName, models: &[WantedModel]) -> Proposal {
    let share = |name: &str| {
        let words = split_words(name);
        let hits = words
            .iter()
            .filter(|w| file.words.iter().any(|f| same(f, w)))
            .count();
        hits as f64 / words.len().max(1) as f64
    };
    // The option named whole, the longest first: "long spear" before "spear".
    let option_of = |model: &WantedModel| {
        let named = model.options.iter().enumerate();
        named
            .filter(|(_, (name, _))| share(name) >= 1.0)
            .max_by_key(|(index, (name, _))| (split_words(name).len(), usize::MAX - index))
            .map(|(index, _)| index)
    };
    // What stands in brackets behind a name is often a remark; where it is not, it tells two models apart.
    let by_name = models
        .iter()
        .enumerate()
        .map(|(index, m)| (share(without_remark(&m.name)), share(&m.name), index))
        .map(|(bare, whole, index)| (bare.max(whole), whole, index))
        .filter(|(most, _, _)| *most >= 0.5)
        .max_by(|a, b| {
            (a.0.total_cmp(&b.0))
                .then(a.1.total_cmp(&b.1))
                .then(b.2.cmp(&a.2))
        })
        .map(|(_, _, model)| model);
    // Without the name of a model: the only one that has such an option.
    let by_option = || {
        let mut having = (0..models.len()).filter(|m| option_of(&models[*m]).is_some());
        having.next().filter(|_| having.next().is_none())
    };
    let Some(index) = by_name.or_else(by_option) else {
        return Proposal::Nothing;
    };
    let model = &models[index];
    let option = option_of(model);
    let model_words = split_words(&model.name);
    let rest: Vec<&str> = file
        .words
        .iter()
        .filter(|w| !model_words.iter().any(|m| same(m, w)))
        .map(String::as_str)
        .chain(file.side)
        .collect();
    let mut name = if rest.is_empty() {
        "figure".to_owned()
    } else {
        rest.join(" ")
    };
    if let Some(first) = name.chars().next() {
        name = first.to_uppercase().chain(name.chars().skip(1)).collect();
    }
    let takers = option.map_or(model.quantity, |o| model.options[o].1);
    let written = file.count.unwrap_or(1);
    // The count of all models serves too where the part goes with an option.
    let by_takers = in_each(written, takers);
    let count = if by_takers == written {
        in_each(written, model.quantity)
    } else {
        by_takers
    };
    Proposal::NewPart {
        model: index,
        option,
        name,
        count,
        of_army: count != written,
    }
}

#[cfg(test)]
#[path = "matching_tests.rs"]
mod tests;
