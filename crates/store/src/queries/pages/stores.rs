//! Bottles, vats, and the plates that wait for resin.

use std::collections::BTreeMap;

use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::PrinterId;
use wembrit_core::stores::{Books, Bottle, Volume, Wear, Wearing};
use wembrit_core::today::StandingVat;
use wembrit_core::workshop::{Printer, Resin};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::stores::{self, Entry};
use crate::queries::{benches, muster, plates, printers, resins, wears};

/// Everything about the stores.
#[derive(Debug, Clone, PartialEq)]
pub struct StoresPage {
    /// The printers in use.
    pub printers: Vec<Printer>,
    /// All resins, in use or not.
    pub resins: Vec<Resin>,
    /// Every bottle.
    pub bottles: Vec<Bottle>,
    /// What every place holds.
    pub books: Books,
    /// What each vat holds at least, and at most, ml.
    pub limits: BTreeMap<PrinterId, [f64; 2]>,
    /// Vats in which resin stands.
    pub standing: BTreeMap<PrinterId, StandingVat>,
    /// What wears and is in use.
    pub in_use: Vec<Wear>,
    /// What it was used for.
    pub wearing: Vec<Wearing>,
    /// Why vats were written off, and how much for each cause.
    pub written_off: Vec<(String, Volume)>,
    /// When something was first taken out of each bottle, ms since 1970.
    pub opened_ms: BTreeMap<i64, i64>,
    /// The newest moves, newest first.
    pub newest: Vec<Entry>,
    /// Accepted plates of all projects that are not printed, with the name of the project.
    pub waiting: Vec<(Plate, String)>,
}

/// Moves that are listed.
const LISTED: usize = 30;

/// Loads it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<StoresPage, StoreError> {
    let printers = printers::list(conn)?;
    let mut waiting = Vec::new();
    for project in muster::projects(conn)? {
        let open = plates::accepted(conn, project.id)?.into_iter();
        let open = open.filter(|p| matches!(p.state, PlateState::Planned | PlateState::Running));
        waiting.extend(open.map(|p| (p, project.name.clone())));
    }
    let entries = stores::entries(conn)?;
    Ok(StoresPage {
        in_use: wears::now_in_use(conn)?,
        wearing: wears::log(conn)?,
        written_off: stores::written_off(conn)?,
        opened_ms: stores::opened(conn)?,
        books: stores::books_of(&entries)?,
        newest: entries.into_iter().rev().take(LISTED).collect(),
        resins: resins::list_all(conn)?,
        bottles: stores::bottles(conn)?,
        limits: stores::vat_limits(conn, &printers)?,
        standing: benches::standing_vats(conn)?,
        printers,
        waiting,
    })
}
