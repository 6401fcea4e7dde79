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
    let name = name.rsplit(['/', '\\']).next().unwrap_or(name);
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
            "l" | "left" => read.side = Some("left"),
            "r" | "right" => read.side = Some("right"),
            _ if count.is_some() && read.count.is_none() => read.count = count,
            _ if version || millimetres || SAY_NOTHING.contains(&word.as_str()) => {}
            _ => read.words.push(word),
        }
    }
    read
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
}

/// Where a file may belong.
#[derive(Debug, Clone, PartialEq)]
pub enum Proposal {
    /// To a part that has no file yet.
    Part {
        /// Index into the wanted parts.
        part: usize,
        /// The file's count, where it differs from the part's.
        other_count: Option<u32>,
    },
    /// To a new part of a model.
    NewPart {
        /// Index into the models.
        model: usize,
        /// Its name.
        name: String,
        /// Copies in each model.
        count: u32,
    },
    /// The name tells nothing.
    Nothing,
}

/// Below this a likeness is chance.
const LIKE: f64 = 0.4;

/// One proposal for each file. A part is proposed to one file only: the one most like it.
#[must_use]
pub fn propose(files: &[FileName], wanted: &[Wanted], models: &[String]) -> Vec<Proposal> {
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
            let other_count = files[f].count.filter(|c| *c != wanted[w].count);
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

/// A word without its plural.
fn stem(word: &str) -> &str {
    if word.len() > 3 {
        word.trim_end_matches('s')
    } else {
        word
    }
}

fn same(a: &str, b: &str) -> bool {
    stem(a) == stem(b)
}

/// How alike file and part are, from 0 to 1: shared words against all words, a part word at
/// least. Opposite sides are never alike.
fn likeness(file: &FileName, part: &Wanted) -> f64 {
    let part_name = read_file_name(&part.part);
    if let (Some(a), Some(b)) = (file.side, part_name.side)
        && a != b
    {
        return 0.0;
    }
    let model_words = split_words(&part.model);
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

/// A new part of the model whose name the file carries.
fn new_part(file: &FileName, models: &[String]) -> Proposal {
    let words_of = |m: &String| split_words(m);
    let share = |model: &[String]| {
        let hits = model
            .iter()
            .filter(|w| file.words.iter().any(|f| same(f, w)))
            .count();
        hits as f64 / model.len().max(1) as f64
    };
    let best = models
        .iter()
        .enumerate()
        .map(|(index, m)| (share(&words_of(m)), index))
        .filter(|(share, _)| *share >= 0.5)
        .max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)));
    let Some((_, model)) = best else {
        return Proposal::Nothing;
    };
    let model_words = words_of(&models[model]);
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
    if let Some(first) = name.get(..1) {
        name = first.to_uppercase() + &name[1..];
    }
    Proposal::NewPart {
        model,
        name,
        count: file.count.unwrap_or(1),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case("piker_arm_L_x3.stl", "piker arm", Some("left"), Some(3))]
    #[case("ReedPikerArmRight.stl", "reed piker arm", Some("right"), None)]
    #[case(
        "minis/levy/3x Piker Arm (left).STL",
        "piker arm",
        Some("left"),
        Some(3)
    )]
    #[case("C:\\levy\\piker-body_v2_supported.stl", "piker body", None, None)]
    #[case("heron_32mm_FINAL_fixed.stl", "heron", None, None)]
    #[case("arm_01.stl", "arm 01", None, None)]
    #[case("копейщик_рука.stl", "копейщик рука", None, None)]
    #[case(".stl", "", None, None)]
    fn file_names_are_read(
        #[case] name: &str,
        #[case] words: &str,
        #[case] side: Option<&str>,
        #[case] count: Option<u32>,
    ) {
        let read = read_file_name(name);
        assert_eq!(
            (read.words.join(" ").as_str(), read.side, read.count),
            (words, side, count)
        );
    }

    fn army() -> (Vec<Wanted>, Vec<String>) {
        let wanted = |model: &str, part: &str, count| Wanted {
            model: model.into(),
            part: part.into(),
            count,
        };
        let parts = vec![
            wanted("Reed-piker", "Body", 1),
            wanted("Reed-piker", "Arm left", 1),
            wanted("Reed-piker", "Arm right", 1),
            wanted("Lantern warden", "Body", 1),
            wanted("Lantern warden", "Lantern", 1),
            wanted("Bog slinger", "Figure", 1),
        ];
        let models = ["Reed-piker", "Lantern warden", "Bog slinger", "Heron rider"];
        (parts, models.map(str::to_owned).to_vec())
    }

    #[rstest]
    #[case("reed_piker_body.stl", Some(0))]
    #[case("ReedPikers_Arm_L.stl", Some(1))]
    #[case("piker_arm_R_x2.stl", Some(2))]
    #[case("warden_body.stl", Some(3))]
    #[case("lantern_warden_lantern.stl", Some(4))]
    #[case("bog_slinger.stl", Some(5))]
    #[case("teapot.stl", None)]
    #[case("heron_rider_wing.stl", None)]
    fn files_find_their_parts(#[case] file: &str, #[case] expected: Option<usize>) {
        let (wanted, models) = army();
        let proposals = propose(&[read_file_name(file)], &wanted, &models);
        let part = match &proposals[0] {
            Proposal::Part { part, .. } => Some(*part),
            _ => None,
        };
        assert_eq!(part, expected, "{:?}", proposals[0]);
    }

    #[test]
    fn a_file_of_a_known_model_proposes_a_new_part() {
        let (wanted, models) = army();
        let files =
            ["heron_rider_wing_L_x2.stl", "heron rider.stl", "teapot.stl"].map(read_file_name);
        let new = |name: &str, count| Proposal::NewPart {
            model: 3,
            name: name.into(),
            count,
        };
        let expected = [new("Wing left", 2), new("Figure", 1), Proposal::Nothing];
        assert_eq!(propose(&files, &wanted, &models), expected);
    }

    #[test]
    fn a_part_goes_to_the_file_most_like_it_and_a_count_that_differs_is_told() {
        let (wanted, models) = army();
        let files = ["piker_arm_left_old.stl", "reed_piker_arm_left_x2.stl"].map(read_file_name);
        let proposals = propose(&files, &wanted, &models);
        assert_eq!(
            proposals[1],
            Proposal::Part {
                part: 1,
                other_count: Some(2)
            }
        );
        assert!(!matches!(proposals[0], Proposal::Part { part: 1, .. }));
    }

    proptest! {
        #[test]
        fn no_part_is_proposed_twice(names in proptest::collection::vec("\\PC{0,24}", 0..8), parts in proptest::collection::vec(("[a-z ]{0,12}", "[a-z ]{0,9}"), 0..8)) {
            let files: Vec<FileName> = names.iter().map(|n| read_file_name(n)).collect();
            let wanted: Vec<Wanted> = parts.iter().map(|(m, p)| Wanted { model: m.clone(), part: p.clone(), count: 1 }).collect();
            let models: Vec<String> = parts.iter().map(|(m, _)| m.clone()).collect();
            let proposals = propose(&files, &wanted, &models);
            prop_assert_eq!(proposals.len(), files.len());
            let mut seen = BTreeSet::new();
            for proposal in proposals {
                if let Proposal::Part { part, .. } = proposal {
                    prop_assert!(seen.insert(part) && part < wanted.len());
                }
            }
        }
    }
}
