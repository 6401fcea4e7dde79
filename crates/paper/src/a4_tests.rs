use std::sync::Arc;

use rstest::rstest;
use wembrit_core::geometry::Outline;

use super::*;
use crate::ruler::{RulerBar, RulerRow};
use crate::write_pdf;

/// Letters of a PDF with one page of this size, mm, without the gaps between them; read by a
/// library of its own.
fn read(pdf: &[u8], size_mm: [f64; 2]) -> String {
    let document = lopdf::Document::load_mem(pdf).expect("a PDF");
    let pages = document.get_pages();
    assert_eq!(pages.len(), 1);
    let page = document.get_dictionary(pages[&1]).expect("a page");
    let sides = page.get(b"MediaBox").and_then(lopdf::Object::as_array);
    let sides: Vec<f64> = sides
        .expect("its size")
        .iter()
        .map(|s| f64::from(s.as_float().expect("a number")))
        .collect();
    for (side, mm) in sides[2..].iter().zip(size_mm) {
        // ISO 216 in points of a 72nd of an inch.
        assert!((side - mm / 25.4 * 72.0).abs() < 0.1, "{sides:?}");
    }
    let words = document.extract_text(&[1]).expect("its words");
    words.replace('\u{fb01}', "fi").split_whitespace().collect()
}

fn plate(copies: i64) -> PlatePage {
    let numbered = |number: i64| NumberedCopy {
        number: 100 + number,
        outline: Arc::new(Outline::rectangle(9.0, 7.0)),
        rotation_deg: 0.0,
        at_mm: [
            6.0 + (number % 12) as f64 * 9.5,
            6.0 + (number / 12) as f64 * 7.5,
        ],
    };
    PlatePage {
        title: "Plate 7, Dunlin".into(),
        code: "K4T9".into(),
        figures: vec![
            ("Resin".into(), "Grey, 0.05 mm".into()),
            ("Prints".into(), "4:30".into()),
        ],
        size_mm: [120.0, 68.0],
        copies: (0..copies).map(numbered).collect(),
        units: vec![(
            "Reed-pikers".into(),
            (0..(copies + 5) / 6)
                .map(|part| SheetPart {
                    name: format!("piker {part}"),
                    marks: (part * 6..copies.min(part * 6 + 6))
                        .map(|n| 100 + n)
                        .collect(),
                })
                .collect(),
        )],
        notes: vec!["a first copy of an untried recipe".into()],
    }
}

/// One page of A4, with the number of every copy on it, however many they are.
#[rstest]
#[case::nothing(0)]
#[case::one(1)]
#[case::a_full_plate(96)]
#[case::more_parts_than_lines(600)]
fn a_plate_is_one_page_with_every_mark(#[case] copies: i64) {
    let drawing = write_plate_page(&plate(copies));
    let words = read(&write_pdf(&drawing).expect("a PDF"), [210.0, 297.0]);
    // On the plan one after the other, and again in the list of parts where that has room.
    let marks: String = (0..copies).map(|n| (100 + n).to_string()).collect();
    let once = if copies > 400 { 1 } else { 2 };
    let begins = marks.get(..18).unwrap_or(&marks);
    assert!(words.contains(&marks), "{marks} in {words}");
    assert!(
        marks.is_empty() || words.matches(begins).count() >= once,
        "{words}"
    );
    assert!(words.contains("K4T9") && words.contains("4:30"), "{words}");
}

#[test]
fn times_are_one_page() {
    let hour = 3_600_000;
    let ruler = Ruler {
        span_ms: (0, 48 * hour),
        rows: vec![RulerRow {
            name: "Dunlin".into(),
            printer: 1,
            bars: vec![RulerBar {
                label: "7".into(),
                plate: 7,
                title: String::new(),
                load_ms: hour,
                prints_ms: hour,
                printed_ms: 6 * hour,
                end_ms: 8 * hour,
                runs: false,
            }],
        }],
        ..Ruler::default()
    };
    let act = |n: i32| (format!("{n:02}:10"), format!("Take off plate {n}, Dunlin"));
    let days = (0..30).map(|day| (format!("Day {day}"), (0..12).map(act).collect()));
    let page = SchedulePage {
        title: "Schedule".into(),
        ruler,
        days: days.collect(),
    };
    let drawing = write_schedule_page(&page);
    assert!(!drawing.contains("href="));
    let words = read(&write_pdf(&drawing).expect("a PDF"), [297.0, 210.0]);
    for piece in ["Schedule", "Dunlin", "Day0", "Takeoffplate3", "morelines"] {
        assert!(words.contains(piece), "{piece} in {words}");
    }
    let nothing = write_schedule_page(&SchedulePage::default());
    read(&write_pdf(&nothing).expect("a PDF"), [297.0, 210.0]);
}

#[rstest]
#[case(&[], 10.0, &[""])]
#[case(&[1, 22, 333], 10.0, &["1 22 333"])]
#[case(&[1, 22, 333], 6.0, &["1 22", "333"])]
#[case(&[123_456_789], 4.0, &["123456789"])]
fn numbers_go_into_lines(#[case] marks: &[i64], #[case] letters: f64, #[case] lines: &[&str]) {
    assert_eq!(in_lines(marks, letters), lines);
}
