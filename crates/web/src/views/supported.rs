//! The supports that a file brings, in words.

use wembrit_core::sculpt::{BringsSupports, LayerFacts, Sculpt, brings_supports};

use super::show::count;
use crate::forms::plain;

/// What a page says of the supports of a file, where it brings them; tips at a scale other than the
/// file's are told at both.
pub(super) fn supported_words(
    sculpt: &Sculpt,
    of_file: Option<&LayerFacts>,
    scale: f64,
) -> Option<String> {
    let why = match brings_supports(sculpt, of_file)? {
        BringsSupports::Said => "You said that this file brings its supports".to_owned(),
        BringsSupports::Named => "By its name this file brings its supports".to_owned(),
        BringsSupports::Columns(n) => {
            let carry = count(
                n.unsigned_abs(),
                "thin column carries",
                "thin columns carry",
            );
            format!("This file brings its supports: {carry} the part")
        }
    };
    let tips = of_file.and_then(LayerFacts::thinnest_mm).map(|mm| {
        let here = format!("its tips are {mm:.2} mm");
        if (scale - 1.0).abs() < 1e-9 {
            return here;
        }
        format!("{here}, at {} % {:.2} mm", plain(scale * 100.0), mm * scale)
    });
    let tips = tips.map_or_else(String::new, |t| format!("; {t}"));
    Some(format!("{why}{tips}."))
}
