//! Meshes that were supported elsewhere and came back.

use diesel::prelude::*;
use wembrit_core::ids::{PrintMeshId, RecipeId};
use wembrit_core::recipe::PrintMesh;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, PrintMeshRow};
use crate::schema::print_meshes::dsl;

/// One of them.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PrintMeshId) -> Result<PrintMesh, StoreError> {
    dsl::print_meshes
        .find(id.0)
        .select(PrintMeshRow::as_select())
        .noun::<PrintMeshRow>(conn, "supported mesh")
}

/// Those of a recipe, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_recipe(conn: &mut Conn, id: RecipeId) -> Result<Vec<PrintMesh>, StoreError> {
    dsl::print_meshes
        .filter(dsl::recipe_id.eq(id.0))
        .order(dsl::id.desc())
        .select(PrintMeshRow::as_select())
        .nouns::<PrintMeshRow>(conn)
}
