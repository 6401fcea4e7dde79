//! Changes by hand as the pages make them: looked at, then saved.

use wembrit_core::flow::PlacedCopy;
use wembrit_core::ids::{PartId, PlateId};
use wembrit_core::plan::layout::{Blocked, Change};
use wembrit_core::plan::{PlateEdit, TiltAdvice};
use wembrit_store::queries::edits::{self, Beside};
use wembrit_store::queries::plates;
use wembrit_store::{Store, StoreError, commands};

use crate::fresh::NOW;

/// A plate with everything that may be put on it.
pub(crate) fn edit(store: &Store, plate: PlateId) -> PlateEdit {
    store
        .read(|c| edits::load(c, plate, Beside::All))
        .expect("it loads")
}

/// What stands on a plate.
pub(crate) fn copies(store: &Store, plate: PlateId) -> Vec<PlacedCopy> {
    edit(store, plate).copies
}

/// Changes a plate; pages load no more for it than the change needs.
pub(crate) fn change(store: &Store, plate: PlateId, what: &Change) -> Result<(), Blocked> {
    let beside = match what {
        Change::Add { .. } => Beside::All,
        _ => Beside::Nothing,
    };
    let edit = store
        .read(|c| edits::load(c, plate, beside))
        .expect("it loads");
    let after = edit.change(what)?;
    store
        .write(|c| commands::edit_plate::save(c, &edit, &after, "a change", NOW))
        .expect("the data file takes it");
    Ok(())
}

/// Prints more copies of a part than are wanted.
pub(crate) fn spares(store: &Store, plate: PlateId, part: PartId, copies: u64) {
    let edit = edit(store, plate).with_spares(part, copies);
    let after = edit
        .change(&Change::Add { part, copies })
        .expect("there is room");
    store
        .write(|c| {
            commands::edit_plate::save_spares(c, &edit, (part, copies), &after, "spares", NOW)
        })
        .expect("the data file takes it");
}

/// The way to hold the tallest part that saves most.
pub(crate) fn tilt(store: &Store, plate: PlateId) -> Option<(PlateEdit, TiltAdvice)> {
    let edit = edit(store, plate);
    let ways = store
        .read(|c| {
            let placed = plates::placed_on_plan(c, edit.plate.plan)?;
            edits::other_setups(c, &edit, &placed)
        })
        .expect("they load");
    let found = ways.and_then(|(part, ways)| edit.tilt(part, &ways))?;
    Some((edit, found))
}

/// Holds the tallest part so.
pub(crate) fn save_tilt(
    store: &Store,
    edit: &PlateEdit,
    found: &TiltAdvice,
) -> Result<(), StoreError> {
    store.write(|c| commands::edit_plate::save_tilt(c, edit, found, NOW))
}
