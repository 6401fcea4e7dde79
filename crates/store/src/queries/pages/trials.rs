//! A trial: variants side by side.

use std::collections::HashMap;

use wembrit_core::ids::{TrialId, VariantId};
use wembrit_core::plan::TrialFacts;
use wembrit_core::pose::Pose;
use wembrit_core::recipe::orient::Origin;
use wembrit_core::recipe::{Proof, Recipe};
use wembrit_core::workshop::Printer;

use super::recipes::RecipePart;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::trials::Whereabouts;
use crate::queries::{poses, printers, recipes, trials};

/// Everything on the page of a trial.
#[derive(Debug, Clone, PartialEq)]
pub struct TrialPage {
    /// The part with the newest version of its recipe.
    pub of: RecipePart,
    /// The trial with its variants.
    pub facts: TrialFacts,
    /// What each variant says, in the words of the rules.
    pub words: Vec<Recipe>,
    /// Marks, by variant and what they are for.
    pub grades: HashMap<(VariantId, String), i64>,
    /// Where the copy of each variant is.
    pub whereabouts: HashMap<VariantId, Whereabouts>,
    /// The version that took the winner over, and how far it is proven.
    pub won: Option<(i64, Proof)>,
    /// Poses that were compared and could be tried.
    pub poses: Vec<Pose>,
    /// All printers, those out of use among them.
    pub printers: Vec<Printer>,
}

/// Loads a trial.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn page(conn: &mut Conn, id: TrialId) -> Result<TrialPage, StoreError> {
    let facts = trials::facts(conn, id)?;
    let of = super::recipes::part(conn, facts.trial.part)?;
    let mut words = Vec::new();
    for (_, version, _) in &facts.variants {
        words.push(recipes::in_words(conn, version)?);
    }
    let won = match facts.trial.won_version {
        Some(id) => {
            let version = recipes::version(conn, id)?;
            let proofs = recipes::proofs(conn, &[id])?;
            let proof = proofs.best(&version, &facts.facts.settings);
            Some((version.version, proof))
        }
        None => None,
    };
    let compared = poses::of_sculpt(conn, facts.sculpt)?;
    let could = compared
        .into_iter()
        .filter(|(_, _, c)| c.origin != Origin::BaseJoined);
    Ok(TrialPage {
        words,
        grades: trials::grades(conn, id)?,
        whereabouts: trials::whereabouts(conn, &facts.trial)?,
        won,
        poses: could.map(|(_, _, c)| c.pose).collect(),
        printers: printers::list_all(conn)?,
        of,
        facts,
    })
}
