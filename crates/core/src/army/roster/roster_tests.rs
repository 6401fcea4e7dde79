use proptest::prelude::*;
use rstest::rstest;

use super::*;

fn only(text: &str) -> RosterEntry {
    let lines = read_roster(text).unwrap();
    assert_eq!(lines.len(), 1, "{lines:?}");
    lines[0].entry.clone()
}

/// Name, count, base; lines as people write them.
#[rstest]
#[case("12 reed-pikers, 25 mm", "reed-pikers", Some(12), Some([25.0, 25.0]))]
#[case("12x Reed-piker", "Reed-piker", Some(12), None)]
#[case("12 x Reed-piker", "Reed-piker", Some(12), None)]
#[case("12 × Reed-piker", "Reed-piker", Some(12), None)]
#[case("Reed-piker x12", "Reed-piker", Some(12), None)]
#[case("Reed-piker x 12", "Reed-piker", Some(12), None)]
#[case("Reed-piker ×12", "Reed-piker", Some(12), None)]
#[case("Reed-piker (12)", "Reed-piker", Some(12), None)]
#[case("Reed-piker [12]", "Reed-piker", Some(12), None)]
#[case("Reed-piker: 12", "Reed-piker", Some(12), None)]
#[case("Reed-piker - 12", "Reed-piker", Some(12), None)]
#[case("Reed-piker, 12", "Reed-piker", Some(12), None)]
#[case("Reed-piker 12", "Reed-piker", Some(12), None)]
#[case("- 12 reed-pikers", "reed-pikers", Some(12), None)]
#[case("* 12 reed-pikers on 25mm bases", "reed-pikers", Some(12), Some([25.0, 25.0]))]
#[case("• 3 heron riders (40 mm base)", "heron riders", Some(3), Some([40.0, 40.0]))]
#[case("1. 6 lantern wardens", "lantern wardens", Some(6), None)]
#[case("2) Lantern warden x6", "Lantern warden", Some(6), None)]
#[case("1 siege punt, 60x35mm", "siege punt", Some(1), Some([60.0, 35.0]))]
#[case("1 siege punt on a 60 × 35 mm oval", "siege punt", Some(1), Some([60.0, 35.0]))]
#[case("2 punts, 60x35", "punts", Some(2), Some([60.0, 35.0]))]
#[case("Reed-piker 10x25mm", "Reed-piker", Some(10), Some([25.0, 25.0]))]
#[case("10 slingers 28.5mm round", "slingers", Some(10), Some([28.5, 28.5]))]
#[case("10 slingers, 28,5 mm", "slingers", Some(10), Some([28.5, 28.5]))]
#[case("4 herons base 40", "herons", Some(4), Some([40.0, 40.0]))]
#[case("4 herons, base: 60x35", "herons", Some(4), Some([60.0, 35.0]))]
#[case("5 marsh guards (120 pts)", "marsh guards", Some(5), None)]
#[case("12 Marsh wardens on 25mm bases (8 pts each)", "Marsh wardens", Some(12), Some([25.0, 25.0]))]
#[case("4 reeves [15 points per model]", "reeves", Some(4), None)]
#[case("10 Fen Rangers [120]", "Fen Rangers", Some(10), None)]
#[case(
    "10 Fen Rangers - spears [120]",
    "Fen Rangers - spears",
    Some(10),
    None
)]
#[case("3x Ox cart (30), base 60x40", "Ox cart", Some(3), Some([60.0, 40.0]))]
#[case("4 reeves, 60 pts total", "reeves", Some(4), None)]
#[case("4 ea-nasir merchants", "ea-nasir merchants", Some(4), None)]
#[case("5 marsh guards @120", "marsh guards", Some(5), None)]
#[case("Marsh guards x5, 120 points, 32mm", "Marsh guards", Some(5), Some([32.0, 32.0]))]
#[case("two wardens", "wardens", Some(2), None)]
#[case("Twelve Reed-pikers, 25mm", "Reed-pikers", Some(12), Some([25.0, 25.0]))]
#[case("1,000 mudlings", "mudlings", Some(1000), None)]
#[case("3 golem mk 2", "golem mk 2", Some(3), None)]
#[case("12 копейщиков, 25 мм", "копейщиков", Some(12), Some([25.0, 25.0]))]
#[case("芦苇枪兵 x12", "芦苇枪兵", Some(12), None)]
#[case("１２ 葦の槍兵", "葦の槍兵", Some(12), None)]
#[case("١٢ رماح القصب", "رماح القصب", Some(12), None)]
#[case("  12\treed-pikers  ", "reed-pikers", Some(12), None)]
#[case("12reed-pikers", "reed-pikers", Some(12), None)]
#[case("Captain, 1", "Captain", Some(1), None)]
#[case("12 \"reed\" pikers", "\"reed\" pikers", Some(12), None)]
fn lines_are_read_as_people_write_them(
    #[case] line: &str,
    #[case] name: &str,
    #[case] quantity: Option<u32>,
    #[case] base_mm: Option<[f64; 2]>,
) {
    let RosterEntry::Model(model) = only(line) else {
        panic!("{:?}", only(line))
    };
    assert_eq!(
        (model.name.as_str(), model.quantity, model.base_mm),
        (name, quantity, base_mm)
    );
    assert_eq!(model.doubt, None);
}

/// What cannot be counted on has no count, and says why.
#[rstest]
#[case("reed-pikers", "no count")]
#[case("a captain on foot", "no count")]
#[case("reed-pikers, 25 mm", "no count")]
#[case("99999999999999999999 pikers", "more than 5,000")]
#[case("5001 pikers", "more than 5,000")]
#[case("0 pikers", "a count of 0")]
#[case("-3 pikers", "not negative")]
#[case("2.5 pikers", "no whole number")]
#[case("10-12 pikers", "a range is no count")]
#[case("10 to 12 pikers", "a range is no count")]
#[case("3 carts x2", "more than one number")]
#[case("5 guards (3 spear, 1 axe)", "do not add up")]
#[case("twelvety pikers", "no count")]
fn what_is_not_said_is_not_invented(#[case] line: &str, #[case] doubt: &str) {
    let RosterEntry::Model(model) = only(line) else {
        panic!("{:?}", only(line))
    };
    assert!(model.doubt.is_some_and(|d| d.contains(doubt)), "{model:?}");
    if doubt != "do not add up" {
        assert_eq!(model.quantity, None);
    }
}

#[rstest]
#[case("12")]
#[case("25 mm")]
#[case("x12, 32mm base")]
fn a_line_without_a_name_is_unclear(#[case] line: &str) {
    assert!(
        matches!(only(line), RosterEntry::Unclear(_)),
        "{:?}",
        only(line)
    );
}

#[rstest]
#[case("5 guards with spear or axe", "guards", &[("spear", None), ("axe", None)])]
#[case("5 guards (3 spear, 2 axe)", "guards", &[("spear", Some(3)), ("axe", Some(2))])]
#[case("5 guards with long spear or axe or net, 25mm", "guards", &[("long spear", None), ("axe", None), ("net", None)])]
#[case("5 guards with spears", "guards with spears", &[])]
fn options_are_found(
    #[case] line: &str,
    #[case] name: &str,
    #[case] options: &[(&str, Option<u32>)],
) {
    let RosterEntry::Model(model) = only(line) else {
        panic!("{:?}", only(line))
    };
    let options: Vec<_> = options.iter().map(|(n, c)| ((*n).to_owned(), *c)).collect();
    assert_eq!(
        (model.name.as_str(), model.quantity, model.options),
        (name, Some(5), options)
    );
}

/// Unit, model and count of every model.
fn outline(text: &str) -> Vec<(String, String, Option<u32>)> {
    let model = |line: RosterLine| match line.entry {
        RosterEntry::Model(m) => Some((m.unit.unwrap_or_default(), m.name, m.quantity)),
        _ => None,
    };
    read_roster(text)
        .unwrap()
        .into_iter()
        .filter_map(model)
        .collect()
}

#[rstest]
#[case::headings("# Pikers\n12 reed-pikers\n\n== Boat ==\n1 captain\n2 banner bearers\n")]
#[case::colons(
    "Pikers:\n- 12 reed-pikers\n---\nBoat:\n- captain x1\n- banner bearers (2)\n// that is all\n"
)]
#[case::words("Unit: Pikers\n12 reed-pikers\nunit Boat\none captain\ntwo banner bearers")]
#[case::csv(
    "unit,model,quantity,base\nPikers,reed-pikers,12,25\nBoat,captain,1,\n,banner bearers,2,28.5\n"
)]
#[case::semicolons(
    "Model;Qty;Unit\nreed-pikers;12;Pikers\n\"captain\";1;Boat\nbanner bearers;2;Boat\n"
)]
#[case::tabs(
    "Unit\tName\tCount\nPikers\treed-pikers\t12\nBoat\tcaptain\t1\n\tbanner bearers\tx2\n"
)]
#[case::json_flat(r#"[{"unit":"Pikers","name":"reed-pikers","quantity":12},{"unit":"Boat","model":"captain","count":"1"},{"unit":"Boat","name":"banner bearers","quantity":2}]"#)]
#[case::json_nested(r#"{"units":[{"name":"Pikers","models":[{"name":"reed-pikers","quantity":12}]},{"name":"Boat","models":[{"name":"captain","quantity":1},{"name":"banner bearers","quantity":2}]}]}"#)]
fn every_shape_of_list_says_the_same(#[case] text: &str) {
    let expected = [
        ("Pikers", "reed-pikers", 12),
        ("Boat", "captain", 1),
        ("Boat", "banner bearers", 2),
    ];
    let expected: Vec<_> = expected
        .iter()
        .map(|(u, m, q)| ((*u).to_owned(), (*m).to_owned(), Some(*q)))
        .collect();
    assert_eq!(outline(text), expected);
}

#[rstest]
#[case::nothing(" \n\n", "nothing in the list")]
#[case::broken_json("[{\"name\": \"piker\",}]", "line 1 cannot be read")]
#[case::other_json("{\"colour\": \"green\"}", "no list of models")]
fn a_list_that_cannot_be_read_says_why(#[case] text: &str, #[case] why: &str) {
    let error = read_roster(text).unwrap_err().to_string();
    assert!(error.contains(why), "{error}");
}

#[test]
fn a_list_has_its_limits() {
    assert_eq!(
        read_roster(&"1 piker\n".repeat(1001)),
        Err(RosterError::TooLong)
    );
    assert_eq!(
        read_roster(&"piker ".repeat(200_000)),
        Err(RosterError::TooLarge)
    );
    let deep = format!("{}\"name\"{}", "[".repeat(500), "]".repeat(500));
    assert!(read_roster(&deep).is_err());
}

/// The digits of a line, in every script that is read.
fn numbers_in(text: &str) -> Vec<u64> {
    let ascii: String = text
        .chars()
        .map(|c| match c as u32 {
            n @ (0x660..=0x669
            | 0x6f0..=0x6f9
            | 0x966..=0x96f
            | 0x9e6..=0x9ef
            | 0xe50..=0xe59
            | 0xff10..=0xff19) => {
                let zero = [0x660, 0x6f0, 0x966, 0x9e6, 0xe50, 0xff10]
                    .into_iter()
                    .filter(|z| *z <= n)
                    .max()
                    .unwrap_or(n);
                char::from_digit(n - zero, 10).unwrap_or(c)
            }
            _ => c,
        })
        .filter(|c| *c != ',')
        .collect();
    ascii
        .split(|c: char| !c.is_ascii_digit())
        .filter_map(|d| d.parse().ok())
        .collect()
}

proptest! {
    #[test]
    fn whatever_is_pasted_no_count_is_invented(text in "(\\PC|\n){0,80}") {
        if let Ok(lines) = read_roster(&text) {
            for line in lines {
                if let RosterEntry::Model(RosterModel { quantity: Some(n), .. }) = line.entry {
                    let words = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
                    let spelled = line.text.to_lowercase().contains(words[(n.clamp(1, 12) - 1) as usize]) && n <= 12;
                    prop_assert!(spelled || numbers_in(&line.text).contains(&u64::from(n)), "{n} from {:?}", line.text);
                    prop_assert!((1..=MOST_MODELS).contains(&n));
                }
            }
        }
    }

    #[test]
    fn hostile_lines_are_read_or_refused(
        lines in proptest::collection::vec("[-*# ]{0,2}([0-9]{1,12}|x[0-9]{1,3}|[a-z]{2,8}|mm|with|or|\\(|\\)|[0-9]x[0-9]|pts|,|:|@|base|ø|\u{ff11}){0,7}", 0..6),
        head in "(unit,model,quantity\n|Model;Qty\n|\\{\"units\":|\\[\"|)",
    ) {
        let _ = read_roster(&format!("{head}{}", lines.join("\n")));
    }
}

/// The lists kept beside the tests.
const STORED: [&[u8]; 9] = [
    include_bytes!("../../../tests/data/lists/columns.csv"),
    include_bytes!("../../../tests/data/lists/counts.txt"),
    include_bytes!("../../../tests/data/lists/long_line.txt"),
    include_bytes!("../../../tests/data/lists/marks.txt"),
    include_bytes!("../../../tests/data/lists/nested.json"),
    include_bytes!("../../../tests/data/lists/plain.txt"),
    include_bytes!("../../../tests/data/lists/points.txt"),
    include_bytes!("../../../tests/data/lists/semicolons.csv"),
    include_bytes!("../../../tests/data/lists/units.json"),
];

proptest! {
    /// Stored lists with bytes changed or cut off: read, or refused in one line.
    #[test]
    fn hostile_bytes_in_a_list_are_read_or_refused(
        which: prop::sample::Index,
        changed in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 0..8),
        cut in prop::option::of(any::<prop::sample::Index>()),
    ) {
        let mut bytes = which.get(&STORED).to_vec();
        for (at, byte) in changed {
            let at = at.index(bytes.len());
            bytes[at] = byte;
        }
        bytes.truncate(cut.map_or(usize::MAX, |cut| cut.index(bytes.len())));
        match read_roster(&String::from_utf8_lossy(&bytes)) {
            Ok(lines) => prop_assert!(lines.len() <= bytes.len()),
            Err(why) => {
                let line = why.to_string();
                prop_assert!(!line.contains('\n') && line.len() < 1000, "{line}");
            }
        }
    }
}

fn written(quantity: u32, name: &str, base: Option<u32>, way: usize) -> String {
    let line = match way {
        0 => format!("{quantity} {name}"),
        1 => format!("{quantity}x {name}"),
        2 => format!("- {quantity} × {name}"),
        3 => format!("{name} x{quantity}"),
        _ => format!("{name} ({quantity})"),
    };
    base.map_or_else(|| line.clone(), |mm| format!("{line}, {mm} mm"))
}

proptest! {
    /// Whatever army is written down in whatever way, it is read as it was meant, line by line.
    #[test]
    fn a_list_is_read_as_it_was_meant(
        lines in prop::collection::vec(
            (1..=500u32, "[A-Z][a-z]{2,9}( [a-z]{3,9})?", prop::option::of(20..=160u32), 0..5usize),
            1..12,
        )
    ) {
        // Number words and words of the trade are read as what they say.
        let plain = |name: &str| {
            let model = |text: &str| matches!(only(text), RosterEntry::Model(m) if m.name == name && m.doubt.is_none());
            model(&format!("3 {name}"))
        };
        let lines: Vec<_> = lines.into_iter().filter(|(_, name, ..)| plain(name)).collect();
        prop_assume!(!lines.is_empty());
        let text: Vec<String> = lines.iter().map(|(n, name, base, way)| written(*n, name, *base, *way)).collect();
        let read = read_roster(&text.join("\n")).unwrap();
        prop_assert_eq!(read.len(), lines.len());
        for (line, (quantity, name, base, _)) in read.iter().zip(&lines) {
            let RosterEntry::Model(model) = &line.entry else {
                return Err(TestCaseError::fail(format!("{line:?}")));
            };
            let base_mm = base.map(|mm| [f64::from(mm); 2]);
            prop_assert_eq!((&model.name, model.quantity, model.base_mm), (name, Some(*quantity), base_mm));
        }
    }
}

/// A list as it is pasted from elsewhere: kits indented under their models, points in brackets,
/// headings without a mark, groups, a sum.
const PASTED: &str = "Fen host [1250 pts]\n\nReed walkers\n12 Reed walker, 25mm [120 pts]\n    - 8 pike\n    - 4 axe\n2x5 spearmen [90 points]\n\nBoats\nMud skiff x1 (150 pts)\n\t- 4 wheels\n\t- mast\nSkiff crew (6)\n\nTotal: 25 models\n";

#[test]
fn nothing_of_a_pasted_list_is_taken_for_a_unit_in_silence() {
    let lines = read_roster(PASTED).unwrap();
    let say = |line: &RosterLine| match &line.entry {
        RosterEntry::Unit(name) => format!("unit {name}"),
        RosterEntry::Model(m) => format!("{:?} {} of {:?}", m.quantity, m.name, m.unit),
        RosterEntry::Asked(m, asked) => format!("{asked:?}? {:?} {}", m.quantity, m.name),
        RosterEntry::Unclear(why) => (*why).to_owned(),
    };
    let said: Vec<String> = lines.iter().map(say).collect();
    assert_eq!(
        said,
        [
            "Heading? None Fen host",
            "Heading? None Reed walkers",
            "Some(12) Reed walker of Some(\"Reed walkers\")",
            "KitOf(\"Reed walker\")? Some(8) pike",
            "KitOf(\"Reed walker\")? Some(4) axe",
            "None spearmen of Some(\"Reed walkers\")",
            "Heading? None Boats",
            "Some(1) Mud skiff of Some(\"Boats\")",
            "KitOf(\"Mud skiff\")? Some(4) wheels",
            "KitOf(\"Mud skiff\")? None mast",
            "Some(6) Skiff crew of Some(\"Boats\")",
            "Total? None Total: 25 models",
        ]
    );
}

/// Models that all stand in, under a heading that does not.
#[rstest]
#[case("Boats\n  2 skiffs\n  6 crew\n")]
#[case("Boats:\n  - 2 skiffs\n  - 6 crew\n")]
#[case("# Boats\n\t2 skiffs\n\t6 crew\n")]
fn what_stands_under_a_heading_is_a_model(#[case] text: &str) {
    let models: Vec<_> = outline(text);
    let of = |name: &str, n| ("Boats".to_owned(), name.to_owned(), Some(n));
    assert_eq!(models, [of("skiffs", 2), of("crew", 6)]);
}

/// Lists as people write them, for changing.
const LISTS: [&str; 4] = [
    "# Fen guard (1,200 pts)\n12x Reed-piker on 25mm bases\n  - 4 wheels\n  - banner\nTotal: 12\n\n== Riders ==\n2x5 spearmen, 40 mm\n• 3 heron riders (60x35 oval) [120 pts]",
    "unit,model,quantity,base\nPikers,Reed-piker,12,25\nPikers,Warden,3,\"28,5\"\n",
    "[{\"unit\":\"Pikers\",\"model\":\"Reed-piker\",\"quantity\":12,\"base\":25}]",
    "Pikers\tReed-piker\t12\r\n\u{feff}1) 6 lantern wardens × 2\r\n",
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 10_000, ..ProptestConfig::default() })]

    /// Lists with pieces changed, doubled, moved or cut off: every line is taken, asked or told why
    /// not; nothing panics, and no count is beyond what an army has.
    #[test]
    fn a_changed_list_is_read_or_refused(
        which in 0..LISTS.len(),
        other in 0..LISTS.len(),
        changes in prop::collection::vec((any::<prop::sample::Index>(), any::<char>()), 0..8),
        piece in (any::<prop::sample::Index>(), any::<prop::sample::Index>()),
        digits in "[0-9]{0,12}",
    ) {
        let mut text: Vec<char> = LISTS[which].chars().collect();
        for (at, c) in changes {
            let at = at.index(text.len());
            text[at] = c;
        }
        let from: Vec<char> = LISTS[other].chars().collect();
        let (a, b) = (piece.0.index(from.len()), piece.1.index(from.len()));
        text.extend(&from[a.min(b)..a.max(b)]);
        text.extend(digits.chars());
        let text: String = text.into_iter().collect();
        match read_roster(&text) {
            Ok(lines) => {
                let most = text.lines().count().max(text.matches('{').count());
                for line in &lines {
                    prop_assert!(line.line >= 1);
                    if let RosterEntry::Model(m) | RosterEntry::Asked(m, _) = &line.entry {
                        prop_assert!(!m.name.trim().is_empty(), "{line:?}");
                        prop_assert!(m.quantity.is_none_or(|q| q <= 10_000), "{line:?}");
                    }
                }
                prop_assert!(lines.len() <= most.max(text.split(['\r', '\n']).count()));
            }
            Err(error) => prop_assert!(!error.to_string().contains('\n')),
        }
    }
}
