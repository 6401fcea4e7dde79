//! All projects side by side.

use std::sync::Arc;

use wembrit_core::army::{Army, Project};
use wembrit_core::flow::{Plate, PlateState};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, muster, plates};

/// One project with its accepted plates.
#[derive(Debug, Clone, PartialEq)]
pub struct Compared {
    /// Its army.
    pub army: Arc<Army>,
    /// Its plates that were printed, lost ones among them.
    pub printed: Vec<Plate>,
    /// It was put away.
    pub is_away: bool,
}

/// Loads them, those that are worked on first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<Vec<Compared>, StoreError> {
    let worked = muster::projects(conn)?.into_iter().map(|p| (p, false));
    let away = muster::put_away(conn)?.into_iter().map(|p| (p, true));
    let mut all = Vec::new();
    for (Project { id, .. }, is_away) in worked.chain(away) {
        let mut printed = plates::accepted(conn, id)?;
        printed.retain(|p| {
            matches!(
                p.state,
                PlateState::Printed | PlateState::Done | PlateState::Lost
            )
        });
        all.push(Compared {
            army: army::load(conn, id)?,
            printed,
            is_away,
        });
    }
    Ok(all)
}
