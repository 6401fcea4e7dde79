//! What stands around every page.

use wembrit_core::army::Project;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::Workshop;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{muster, plates, workshop};

/// What stands around a page.
#[derive(Debug, Clone, PartialEq)]
pub struct Frame {
    /// The workshop.
    pub workshop: Workshop,
    /// Every project.
    pub projects: Vec<Project>,
    /// The project the page is about.
    pub project: Option<Project>,
    /// Plates that need a hand: to be taken off or to be judged.
    pub plates_open: usize,
}

/// Loads what stands around a page; without a project named the newest one is meant.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such project.
pub fn load(conn: &mut Conn, project: Option<ProjectId>) -> Result<Frame, StoreError> {
    let projects = muster::projects(conn)?;
    let project = match project {
        Some(id) => Some(muster::project(conn, id)?),
        None => projects.last().cloned(),
    };
    let open = |state: PlateState| matches!(state, PlateState::Running | PlateState::Printed);
    let plates_open = match &project {
        Some(project) => plates::accepted(conn, project.id)?
            .iter()
            .filter(|p| open(p.state))
            .count(),
        None => 0,
    };
    Ok(Frame {
        workshop: workshop::load(conn)?,
        projects,
        project,
        plates_open,
    })
}
