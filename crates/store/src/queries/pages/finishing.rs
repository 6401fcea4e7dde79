//! Finishing: the batches on their way, and what each of them is.

use wembrit_core::finishing::Batch;
use wembrit_core::finishing::cure::{Felt, UnderLamp};
use wembrit_core::flow::Plate;
use wembrit_core::ids::BatchId;
use wembrit_core::workshop::practice::Practice;
use wembrit_core::workshop::resin::Resin;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{batches, plates, practices, printers, resins};

/// A batch with what it came from.
#[derive(Debug, Clone, PartialEq)]
pub struct OnItsWay {
    /// The batch.
    pub batch: Batch,
    /// Its plate.
    pub plate: Plate,
    /// Name of the printer.
    pub printer: String,
    /// Its resin.
    pub resin: Resin,
    /// Copies that came off, judged or not.
    pub came_off: i64,
    /// The practice of its project.
    pub practice: Practice,
    /// What was felt of its resin after the lamp, the newest last.
    pub felt: Vec<Felt>,
    /// What its copies are to the lamp.
    pub under_lamp: UnderLamp,
}

fn on_its_way(conn: &mut Conn, batch: Batch) -> Result<OnItsWay, StoreError> {
    let plate = plates::load(conn, batch.plate)?;
    let of = batches::finishing_of(conn, batch.plate)?;
    Ok(OnItsWay {
        printer: printers::load(conn, plate.printer)?.name,
        resin: resins::load(conn, plate.resin)?,
        felt: batches::felt(conn, plate.resin)?,
        under_lamp: UnderLamp::of(of.hollow, of.jointed),
        came_off: plates::copies_of(conn, batch.plate)?.len() as i64,
        practice: practices::load(conn, Some(plate.project))?,
        plate,
        batch,
    })
}

/// Every batch that is not done.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open(conn: &mut Conn) -> Result<Vec<OnItsWay>, StoreError> {
    let all = batches::open(conn)?;
    all.into_iter().map(|b| on_its_way(conn, b)).collect()
}

/// One batch.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn one(conn: &mut Conn, id: BatchId) -> Result<OnItsWay, StoreError> {
    let batch = batches::load(conn, id)?;
    on_its_way(conn, batch)
}
