//! The workshop on one page.

use std::collections::BTreeSet;

use wembrit_core::exposure::ExposureState;
use wembrit_core::ids::PrinterId;
use wembrit_core::workshop::{Printer, ProcessSetting, Resin, Workshop};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{exposures, links, printers, resins, settings, workshop};

/// Everything about the workshop.
#[derive(Debug, Clone, PartialEq)]
pub struct WorkshopPage {
    /// Its own figures.
    pub workshop: Workshop,
    /// The printers in use.
    pub printers: Vec<Printer>,
    /// The resins in use.
    pub resins: Vec<Resin>,
    /// The newest process settings.
    pub settings: Vec<ProcessSetting>,
    /// The printers that are connected.
    pub connected: BTreeSet<PrinterId>,
}

/// How sure the exposure of each of these settings is.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn exposure_states(
    conn: &mut Conn,
    of: &[ProcessSetting],
    now_ms: i64,
) -> Result<Vec<ExposureState>, StoreError> {
    of.iter()
        .map(|s| exposures::state(conn, s, now_ms))
        .collect()
}

/// Loads the workshop.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<WorkshopPage, StoreError> {
    Ok(WorkshopPage {
        workshop: workshop::load(conn)?,
        printers: printers::list(conn)?,
        resins: resins::list(conn)?,
        settings: settings::list(conn)?,
        connected: links::list(conn)?.into_iter().map(|l| l.0).collect(),
    })
}
