//! Files of sculpts: generated, taken in, measured.

use rayon::prelude::*;
use wembrit_core::flow::TaskKind;
use wembrit_core::sculpt::measure::{MeasureOptions, Measured, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::queries::sculpts;
use wembrit_store::{Store, StoreError, commands};

use crate::fill::{DemoError, end_task};
use crate::sculpts::DemoSculpt;
use crate::units::Sculpts;

/// A sculpt as it is uploaded: its name and its bytes.
pub(super) type SculptFile = (&'static str, Vec<u8>);

/// Generates files and takes them in; they wait to be measured.
pub(super) fn take_in(
    store: &Store,
    sculpts: &[&DemoSculpt],
    now_ms: i64,
) -> Result<(Vec<SculptFile>, Sculpts), StoreError> {
    let files: Vec<SculptFile> = sculpts
        .par_iter()
        .map(|s| (s.file_name, s.to_stl()))
        .collect();
    let ids = store.write(|c| {
        let taken = files.iter().map(|(name, bytes)| {
            let arrival = commands::sculpts::take_in(c, name, bytes, now_ms)?;
            let (Arrival::New(id) | Arrival::Known(id)) = arrival;
            Ok((*name, id))
        });
        taken.collect::<Result<_, StoreError>>()
    })?;
    Ok((files, ids))
}

/// Measures files that were taken in, all at a time.
pub(super) fn measure(
    store: &Store,
    files: &[SculptFile],
    ids: &Sculpts,
    now_ms: i64,
) -> Result<(), DemoError> {
    let measured: Result<Vec<(&str, Measured)>, DemoError> = files
        .par_iter()
        .map(|(file, bytes)| {
            let options = MeasureOptions::at(LayerHeight::USUAL);
            let measured = measure_file(bytes, file, options, &Unwatched);
            let measured = measured.map_err(|why| DemoError::Sculpt {
                file,
                why: why.to_string(),
            })?;
            Ok((*file, measured))
        })
        .collect();
    let measured = measured?;
    store.write(|c| {
        for (file, measured) in &measured {
            let id = ids[file];
            commands::sculpts::set_measured(c, id, LayerHeight::USUAL, measured, now_ms)?;
            let key = sculpts::task_key(&sculpts::load(c, id)?);
            end_task(c, TaskKind::Measure, &key, now_ms)?;
        }
        Ok::<(), StoreError>(())
    })?;
    Ok(())
}
