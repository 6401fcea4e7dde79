//! Files of sculpts: generated, taken in, measured.

use rayon::prelude::*;
use wembrit_core::flow::TaskKind;
use wembrit_core::sculpt::measure::{MeasureOptions, Measured, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_store::commands::sculpts::{Arrival, PackedFile};
use wembrit_store::queries::sculpts;
use wembrit_store::{Store, StoreError, commands};

use crate::fill::{DemoError, end_task};
use crate::sculpts::DemoSculpt;
use crate::units::Sculpts;

/// A sculpt as it is uploaded.
pub(super) struct SculptFile {
    name: &'static str,
    bytes: Vec<u8>,
    packed: PackedFile,
}

impl SculptFile {
    fn of(sculpt: &DemoSculpt) -> Result<Self, StoreError> {
        let bytes = sculpt.to_stl();
        Ok(Self {
            name: sculpt.file_name,
            packed: PackedFile::new(&bytes)?,
            bytes,
        })
    }
}

/// Generates files and takes them in; they wait to be measured.
pub(super) fn take_in(
    store: &Store,
    sculpts: &[&DemoSculpt],
    now_ms: i64,
) -> Result<(Vec<SculptFile>, Sculpts), StoreError> {
    let files = sculpts.par_iter().map(|s| SculptFile::of(s));
    let files: Vec<SculptFile> = files.collect::<Result<_, _>>()?;
    let ids = store.write(|c| {
        let taken = files.iter().map(|file| {
            let arrival = commands::sculpts::take_in(c, file.name, &file.packed, now_ms)?;
            let (Arrival::New(id) | Arrival::Known(id)) = arrival;
            Ok((file.name, id))
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
        .map(|file| {
            let options = MeasureOptions::at(LayerHeight::USUAL);
            let measured = measure_file(&file.bytes, file.name, options, &Unwatched);
            let measured = measured.map_err(|why| DemoError::Sculpt {
                file: file.name,
                why: why.to_string(),
            })?;
            Ok((file.name, measured))
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
