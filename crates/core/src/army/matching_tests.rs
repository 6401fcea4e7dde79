//! Names of files as makers write them, and the parts they belong to.

use proptest::prelude::*;
use rstest::rstest;

use super::*;

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
#[case("Reeve Captain head (1).stl", "reeve captain head", None, None)]
#[case("Arm (left).stl", "arm", Some("left"), None)]
#[case("(12).stl", "12", None, None)]
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

fn model(name: &str, quantity: u32, options: &[(&str, u32)]) -> WantedModel {
    let owned = |(name, models): &(&str, u32)| ((*name).to_owned(), *models);
    WantedModel {
        name: name.into(),
        quantity,
        options: options.iter().map(owned).collect(),
    }
}

fn army() -> (Vec<Wanted>, Vec<WantedModel>) {
    let wanted = |model: &str, part: &str, count| Wanted {
        model: model.into(),
        part: part.into(),
        count,
        models: 12,
    };
    let parts = vec![
        wanted("Reed-piker", "Body", 1),
        wanted("Reed-piker", "Arm left", 1),
        wanted("Reed-piker", "Arm right", 1),
        wanted("Lantern warden", "Body", 1),
        wanted("Lantern warden", "Lantern", 1),
        wanted("Bog slinger", "Figure", 1),
        wanted("Rafts (all of them, by the weekend)", "Hull", 1),
    ];
    let models = ["Reed-piker", "Lantern warden", "Bog slinger", "Heron rider"];
    (parts, models.map(|name| model(name, 5, &[])).to_vec())
}

#[rstest]
#[case("reed_piker_body.stl", Some(0))]
#[case("ReedPikers_Arm_L.stl", Some(1))]
#[case("piker_arm_R_x2.stl", Some(2))]
#[case("warden_body.stl", Some(3))]
#[case("lantern_warden_lantern.stl", Some(4))]
#[case("bog_slinger.stl", Some(5))]
#[case("raft hull.stl", Some(6))]
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
    let files = ["heron_rider_wing_L_x2.stl", "heron rider.stl", "teapot.stl"].map(read_file_name);
    let new = |name: &str, count| Proposal::NewPart {
        model: 3,
        option: None,
        name: name.into(),
        count,
        of_army: false,
    };
    let expected = [new("Wing left", 2), new("Figure", 1), Proposal::Nothing];
    assert_eq!(propose(&files, &wanted, &models), expected);
}

/// A remark behind the name of a model hides it from no file, and what tells two models apart still does.
#[rstest]
#[case("Peg  TOKEN (final).stl", Some((0, "Figure")))]
#[case("piker bow body.stl", Some((2, "Body")))]
#[case("piker sword body.stl", Some((1, "Body")))]
#[case("piker body.stl", Some((1, "Body")))]
#[case("whole table.stl", None)]
#[case("rim.stl", Some((3, "Figure")))]
fn brackets_behind_a_name_are_a_remark(
    #[case] file: &str,
    #[case] expected: Option<(usize, &str)>,
) {
    let names = [
        "peg tokens (for the whole table)",
        "Piker (sword)",
        "Piker (bow)",
        "(rim)",
    ];
    let models = names.map(|name| model(name, 5, &[]));
    let found = match &propose(&[read_file_name(file)], &[], &models)[0] {
        Proposal::NewPart { model, name, .. } => Some((*model, name.clone())),
        _ => None,
    };
    assert_eq!(
        found,
        expected.map(|(model, name)| (model, name.to_owned()))
    );
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

/// Twelve spearmen, eight with pikes and four with axes: counts of the whole army are one in each,
/// and options find the files that are named after them.
#[rstest]
#[case("marsh_spearman_body_x12.stl", "Body", 1, None, true)]
#[case("marsh_spearman_arm_L_x24.stl", "Arm left", 2, None, true)]
#[case("marsh_spearman_head_x3.stl", "Head", 3, None, false)]
#[case("marsh_spearman_pike_x8.stl", "Pike", 1, Some(0), true)]
#[case("pikes_x8.stl", "Pikes", 1, Some(0), true)]
#[case("axe.stl", "Axe", 1, Some(1), false)]
#[case("axes_x4.stl", "Axes", 1, Some(1), true)]
#[case("spearmen_bodies.stl", "Bodies", 1, None, false)]
fn counts_of_the_army_are_told_from_counts_of_a_model(
    #[case] file: &str,
    #[case] name: &str,
    #[case] count: u32,
    #[case] option: Option<usize>,
    #[case] of_army: bool,
) {
    let models = [
        model("Lantern warden", 6, &[]),
        model("Marsh spearman", 12, &[("pike", 8), ("axe", 4)]),
    ];
    let proposals = propose(&[read_file_name(file)], &[], &models);
    let expected = Proposal::NewPart {
        model: 1,
        option,
        name: name.into(),
        count,
        of_army,
    };
    assert_eq!(proposals[0], expected);
}

/// What all files of a folder carry and no model is called says nothing.
#[test]
fn the_name_of_the_folder_says_nothing() {
    let models = [model("Heron rider", 3, &[])];
    let files = [
        "fenlords_rider_wing_L.stl",
        "fenlords_rider_body.stl",
        "fenlords_rider_beaks_x3.stl",
    ]
    .map(read_file_name);
    let names: Vec<String> = propose(&files, &[], &models)
        .into_iter()
        .map(|p| match p {
            Proposal::NewPart { name, count, .. } => format!("{count} {name}"),
            other => format!("{other:?}"),
        })
        .collect();
    assert_eq!(names, ["1 Wing left", "1 Body", "1 Beaks"]);
}

#[rstest]
#[case("bodies", "body", true)]
#[case("axes", "axe", true)]
#[case("torches", "torch", true)]
#[case("knives", "knife", true)]
#[case("shields", "shield", true)]
#[case("boxes", "box", true)]
#[case("bowmen", "bowman", true)]
#[case("oxen", "ox", true)]
#[case("men", "man", true)]
#[case("arm", "army", false)]
#[case("bow", "boy", false)]
#[case("staff", "stays", false)]
fn plurals_are_the_same_word(#[case] a: &str, #[case] b: &str, #[case] alike: bool) {
    assert_eq!((same(a, b), same(b, a)), (alike, alike));
}

proptest! {
    #[test]
    fn no_part_is_proposed_twice(names in proptest::collection::vec("\\PC{0,24}", 0..8), parts in proptest::collection::vec(("[a-z ]{0,12}", "[a-z ]{0,9}"), 0..8)) {
        let files: Vec<FileName> = names.iter().map(|n| read_file_name(n)).collect();
        let wanted: Vec<Wanted> = parts.iter().map(|(m, p)| Wanted { model: m.clone(), part: p.clone(), count: 1, models: 3 }).collect();
        let models: Vec<WantedModel> = parts.iter().map(|(m, p)| model(m, 3, &[(p, 2)])).collect();
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
