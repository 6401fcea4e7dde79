//! Files that attack end with one line, whatever they hold.

use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::hostile_files::all;

#[test]
fn hostile_files_are_refused_in_one_line_or_measured() {
    let files = all();
    assert!(files.len() >= 60, "{}", files.len());
    for file in files {
        assert!(file.bytes.len() <= 1_000_000, "{} is large", file.what);
        let options = MeasureOptions::at(LayerHeight::USUAL);
        match measure_file(&file.bytes, file.name, options, &Unwatched) {
            Ok(m) => assert!(!file.refused, "{}: {:?}", file.what, m.facts),
            Err(why) => {
                let line = why.to_string();
                let fits = !line.contains('\n') && line.len() < 400;
                assert!(fits, "{}: {line}", file.what);
            }
        }
    }
}
