//! Whether every page can be read that an archive brought: one that holds words or references nobody knows is refused
//! whole, for it would take the page away for good.

use wembrit_core::ids::ProjectId;

use super::contents::refused;
use crate::commands::army_size;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{
    army, attendance, hands, miniatures, muster, pages, plates, practices, printers, resins,
    settings, trials, wears, weighings, workshop,
};

/// Reads what the pages of the workshop and of these projects are made from.
///
/// # Errors
/// [`StoreError::Refused`] with what cannot be read.
pub(super) fn readable(conn: &mut Conn, projects: &[ProjectId]) -> Result<(), StoreError> {
    let mut all = || {
        of_workshop(conn)?;
        projects.iter().try_for_each(|p| of_project(conn, *p))
    };
    all().map_err(|e| refused(format!("it holds something this Wembrit cannot read: {e}")))
}

/// That something is not there is an answer.
fn read<T>(found: Result<T, StoreError>) -> Result<(), StoreError> {
    match found {
        Ok(_) | Err(StoreError::NotFound { .. } | StoreError::Refused(_)) => Ok(()),
        Err(error) => Err(error),
    }
}

fn of_workshop(conn: &mut Conn) -> Result<(), StoreError> {
    workshop::load(conn)?;
    attendance::load(conn)?;
    practices::load(conn, None)?;
    for printer in printers::list_all(conn)? {
        read(pages::paces::load(conn, printer.id))?;
    }
    resins::list_all(conn)?;
    for setting in settings::list(conn)? {
        read(pages::exposure::load(conn, setting.id, 0))?;
    }
    wears::log(conn)?;
    wears::now_in_use(conn)?;
    weighings::weights(conn)?;
    hands::log(conn)?;
    read(pages::stores::load(conn))?;
    read(pages::workshop::load(conn))?;
    read(pages::finishing::open(conn))?;
    read(pages::schedule::load(conn))?;
    read(pages::today::load(conn, None))?;
    read(pages::projects::load(conn))?;
    read(pages::bin::of_workshop(conn))?;
    for listed in pages::sculpts::list(conn)?.sculpts {
        read(pages::sculpts::page(conn, listed.sculpt.id, None))?;
    }
    muster::projects(conn).map(drop)
}

fn of_project(conn: &mut Conn, project: ProjectId) -> Result<(), StoreError> {
    army_size::check(conn, project)?;
    practices::load(conn, Some(project))?;
    let army = army::load(conn, project)?;
    let models = army.units.iter().flat_map(|u| &u.models);
    let models: Vec<_> = models.map(|m| m.model.id).collect();
    miniatures::of_models(conn, &models)?;
    read(pages::progress::load(conn, project))?;
    read(pages::ledger::load(conn, project))?;
    read(pages::setups::page(conn, project))?;
    read(pages::waiting::load(conn, Some(project)))?;
    read(pages::today::load(conn, Some(project)))?;
    read(pages::bin::of_project(conn, project))?;
    for model in &models {
        read(pages::miniatures::load(conn, *model))?;
    }
    let parts = army
        .units
        .iter()
        .flat_map(|u| &u.models)
        .flat_map(|m| &m.parts);
    let parts: Vec<_> = parts.map(|p| p.part.id).collect();
    for part in parts {
        read(pages::recipes::page(conn, part, Some(project)))?;
        for trial in trials::of_part(conn, part)? {
            read(pages::trials::page(conn, trial.id))?;
        }
    }
    let all: Vec<_> = plates::accepted(conn, project)?
        .iter()
        .map(|p| p.id)
        .collect();
    plates::copies_on(conn, &all)?;
    plates::runs_of(conn, &all)?;
    for plate in all {
        read(pages::plates::sheet(conn, plate))?;
        read(pages::runs::load(conn, plate, 0))?;
        read(pages::hands::of_plate(conn, plate))?;
        read(pages::weighing::load(conn, plate))?;
    }
    Ok(())
}
