//! What stands around every page.

use wembrit_core::army::Project;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::Workshop;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{batches, muster, plates, workshop};

/// What stands around a page.
#[derive(Debug, Clone, PartialEq)]
pub struct Frame {
    /// The workshop.
    pub workshop: Workshop,
    /// Every project.
    pub projects: Vec<Project>,
    /// The project the page is about.
    pub project: Option<Project>,
    /// Plates of all projects that need a hand: to be taken off or to be judged.
    pub plates_open: u64,
    /// Batches on their way through finishing.
    pub batches_open: u64,
}

/// Loads what stands around a page; without a project named the one looked at last is meant, where
/// it is still there, else the newest.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such project.
pub fn load(
    conn: &mut Conn,
    project: Option<ProjectId>,
    last: Option<ProjectId>,
) -> Result<Frame, StoreError> {
    let projects = muster::projects(conn)?;
    let project = match project {
        Some(id) => Some(muster::project(conn, id)?),
        None => {
            let known = projects.iter().find(|p| Some(p.id) == last);
            known.or(projects.last()).cloned()
        }
    };
    Ok(Frame {
        workshop: workshop::load(conn)?,
        projects,
        project,
        plates_open: plates::need_a_hand(conn)?,
        batches_open: batches::open(conn)?.len() as u64,
    })
}
