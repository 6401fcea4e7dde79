//! Forms with anything in them: read, or told what is wrong with which field.

use axum::body::Bytes;
use proptest::prelude::*;

use super::*;

/// Names that forms look for.
const NAMES: [&str; 24] = [
    "name",
    "quantity",
    "base",
    "priority",
    "carrier",
    "count",
    "spares",
    "sculpt",
    "option",
    "scale_percent",
    "resin",
    "layer_mm",
    "width_mm",
    "depth_mm",
    "height_mm",
    "price_per_kg",
    "time_zone",
    "row_version",
    "confirm_all",
    "model",
    "options",
    "source",
    "at_hand",
    "cost_each",
];

/// What people and scripts put into a field.
const VALUES: [&str; 22] = [
    "",
    " ",
    "0",
    "-1",
    "12",
    "3,5",
    "1e308",
    "-1e-308",
    "NaN",
    "inf",
    "99999999999999999999",
    "25x35",
    "×",
    "\u{0}",
    "<b>",
    "%00",
    "\u{202e}abc",
    "١٢",
    "0.05",
    "Europe/Nowhere",
    "9223372036854775807",
    "-9223372036854775808",
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 10_000, ..ProptestConfig::default() })]

    #[test]
    fn any_form_is_read_or_told(
        fields in prop::collection::vec((0..NAMES.len(), 0..VALUES.len(), ".{0,6}"), 0..14),
        tail in prop::collection::vec(any::<u8>(), 0..20),
    ) {
        let mut body: Vec<u8> = Vec::new();
        for (name, value, more) in &fields {
            let pair = form_urlencoded::Serializer::new(String::new())
                .append_pair(NAMES[*name], &format!("{}{more}", VALUES[*value]))
                .finish();
            body.extend(pair.bytes());
            body.push(b'&');
        }
        body.extend(tail);
        let input = Input::parse(&Bytes::from(body));
        let faults = [
            parts::read(&input).err(),
            units::read(&input).err(),
            models::read(&input).err(),
            start::read(&input).err(),
            many::read(&input).err(),
            kits::read_piece(&input).err(),
            printers::read(&input, String::new()).err(),
            resins::read(&input, String::new()).err(),
            workshop::read(&input, String::new()).err(),
        ];
        let _ = rosters::read(&input);
        for faults in faults.into_iter().flatten() {
            prop_assert!(!faults.is_empty());
            prop_assert!(faults.values().all(|words| !words.is_empty()));
        }
    }
}
