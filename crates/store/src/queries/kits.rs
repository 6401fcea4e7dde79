//! Kits: choices with their options, pieces that are not printed, a kit taken over from another
//! model.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::army::{Choice, ChoiceOption, Part, Piece};
use wembrit_core::ids::{ChoiceId, ModelId, OptionId, PieceId};

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{ChoiceRow, Nouns, OptionRow, PartRow, PieceRow};
use crate::schema::{choices, options, parts, pieces};

/// The choices of these models.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn choices_of(conn: &mut Conn, models: &[ModelId]) -> Result<Vec<Choice>, StoreError> {
    let ids: Vec<i64> = models.iter().map(|m| m.0).collect();
    choices::table
        .filter(
            choices::model_id
                .eq_any(ids)
                .and(choices::removed_at_ms.is_null()),
        )
        .order((choices::position, choices::id))
        .select(ChoiceRow::as_select())
        .nouns::<ChoiceRow>(conn)
}

/// The options of these choices.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn options_of(conn: &mut Conn, of: &[ChoiceId]) -> Result<Vec<ChoiceOption>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|c| c.0).collect();
    options::table
        .filter(
            options::choice_id
                .eq_any(ids)
                .and(options::removed_at_ms.is_null()),
        )
        .order((options::position, options::id))
        .select(OptionRow::as_select())
        .nouns::<OptionRow>(conn)
}

/// The model whose choice an option belongs to.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn model_of_option(conn: &mut Conn, id: OptionId) -> Result<ModelId, StoreError> {
    options::table
        .inner_join(choices::table)
        .filter(options::id.eq(id.0).and(options::removed_at_ms.is_null()))
        .select(choices::model_id)
        .first(conn)
        .map(ModelId)
        .or_not_found("option")
}

/// The pieces of these models.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn pieces_of(conn: &mut Conn, models: &[ModelId]) -> Result<Vec<Piece>, StoreError> {
    let ids: Vec<i64> = models.iter().map(|m| m.0).collect();
    pieces::table
        .filter(
            pieces::model_id
                .eq_any(ids)
                .and(pieces::removed_at_ms.is_null()),
        )
        .order((pieces::position, pieces::id))
        .select(PieceRow::as_select())
        .nouns::<PieceRow>(conn)
}

/// How many models take each option of these models; removed options have none.
pub(crate) fn takers(
    conn: &mut Conn,
    models: &[ModelId],
) -> Result<HashMap<OptionId, u32>, StoreError> {
    let of: Vec<ChoiceId> = choices_of(conn, models)?.iter().map(|c| c.id).collect();
    Ok(options_of(conn, &of)?
        .into_iter()
        .map(|o| (o.id, o.models))
        .collect())
}

/// One choice.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn choice(conn: &mut Conn, id: ChoiceId) -> Result<Choice, StoreError> {
    choices::table
        .find(id.0)
        .select(ChoiceRow::as_select())
        .noun::<ChoiceRow>(conn, "choice")
}

/// One piece.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn piece(conn: &mut Conn, id: PieceId) -> Result<Piece, StoreError> {
    pieces::table
        .find(id.0)
        .select(PieceRow::as_select())
        .noun::<PieceRow>(conn, "piece")
}

/// The parts of a model.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn parts_of(conn: &mut Conn, model: ModelId) -> Result<Vec<Part>, StoreError> {
    parts::table
        .filter(
            parts::model_id
                .eq(model.0)
                .and(parts::removed_at_ms.is_null()),
        )
        .order((parts::position, parts::id))
        .select(PartRow::as_select())
        .nouns::<PartRow>(conn)
}
