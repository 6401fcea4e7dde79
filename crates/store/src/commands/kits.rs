//! Kits: choices with their options, pieces that are not printed, a kit taken over from another
//! model.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::army::kit::Source;
use wembrit_core::ids::{ChoiceId, ModelId, OptionId, PartId, PieceId};
use wembrit_core::units::Money;

use super::muster::{self, PartChange};
use super::recipes::RecipeChange;
use super::{army_size, settle_copies};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::kits::{choice, choices_of, options_of, parts_of, pieces_of};
use crate::queries::{last_id, new_uid, one_row};
use crate::schema::{choices, options, pieces};

/// One option as it should be: an option that is there, or a new one.
#[derive(Debug, Clone, PartialEq, Eq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct OptionChange {
    pub id: Option<OptionId>,
    pub name: String,
    pub models: u32,
}

/// Everything about a choice, its options included.
#[derive(Debug, Clone, PartialEq, Eq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct ChoiceChange {
    pub name: String,
    pub may_go_without: bool,
    pub options: Vec<OptionChange>,
}

/// Everything about a piece.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct PieceChange {
    pub name: String,
    pub option: Option<OptionId>,
    pub source: Source,
    pub count: u32,
    pub at_hand: u32,
    pub cost_each: Money,
    pub minutes_each: f64,
}

/// Adds a choice with its options.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_choice(
    conn: &mut Conn,
    model: ModelId,
    new: &ChoiceChange,
    now_ms: i64,
) -> Result<ChoiceId, StoreError> {
    let siblings: i64 = choices::table
        .filter(choices::model_id.eq(model.0))
        .count()
        .get_result(conn)?;
    diesel::insert_into(choices::table)
        .values((
            choices::uid.eq(new_uid()),
            choices::model_id.eq(model.0),
            choices::name.eq(&new.name),
            choices::may_go_without.eq(i64::from(new.may_go_without)),
            choices::position.eq(siblings),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(ChoiceId)?;
    set_options(conn, id, &new.options, now_ms)?;
    Ok(id)
}

/// Changes a choice and its options; options left out are taken away.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change_choice(
    conn: &mut Conn,
    id: ChoiceId,
    row_version: i64,
    to: &ChoiceChange,
    now_ms: i64,
) -> Result<(), StoreError> {
    let known = choices::table
        .find(id.0)
        .filter(choices::row_version.eq(row_version));
    let changed = diesel::update(known)
        .set((
            choices::name.eq(&to.name),
            choices::may_go_without.eq(i64::from(to.may_go_without)),
            choices::row_version.eq(row_version + 1),
        ))
        .execute(conn)?;
    one_row(changed, "choice")?;
    set_options(conn, id, &to.options, now_ms)?;
    let model = choice(conn, id)?.model;
    army_size::check_of_model(conn, model)?;
    settle_copies::settle_model(conn, model, now_ms)
}

fn set_options(
    conn: &mut Conn,
    id: ChoiceId,
    to: &[OptionChange],
    now_ms: i64,
) -> Result<(), StoreError> {
    let kept: Vec<i64> = to.iter().filter_map(|o| o.id).map(|o| o.0).collect();
    let gone = options::table.filter(options::choice_id.eq(id.0).and(options::id.ne_all(kept)));
    diesel::update(gone)
        .set(options::removed_at_ms.eq(now_ms))
        .execute(conn)?;
    for (position, option) in to.iter().enumerate() {
        let position = position as i64;
        let models = i64::from(option.models);
        match option.id {
            Some(known) => {
                let here = options::table
                    .find(known.0)
                    .filter(options::choice_id.eq(id.0));
                let changed = diesel::update(here)
                    .set((
                        options::name.eq(&option.name),
                        options::models.eq(models),
                        options::position.eq(position),
                        options::removed_at_ms.eq(None::<i64>),
                    ))
                    .execute(conn)?;
                one_row(changed, "option")?;
            }
            None => {
                diesel::insert_into(options::table)
                    .values((
                        options::uid.eq(new_uid()),
                        options::choice_id.eq(id.0),
                        options::name.eq(&option.name),
                        options::models.eq(models),
                        options::position.eq(position),
                    ))
                    .execute(conn)?;
            }
        }
    }
    Ok(())
}

/// Adds a piece.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_piece(
    conn: &mut Conn,
    model: ModelId,
    new: &PieceChange,
) -> Result<PieceId, StoreError> {
    let siblings: i64 = pieces::table
        .filter(pieces::model_id.eq(model.0))
        .count()
        .get_result(conn)?;
    diesel::insert_into(pieces::table)
        .values((
            pieces::uid.eq(new_uid()),
            pieces::model_id.eq(model.0),
            pieces::option_id.eq(new.option.map(|o| o.0)),
            pieces::name.eq(&new.name),
            pieces::source.eq(new.source.as_str()),
            pieces::count.eq(i64::from(new.count)),
            pieces::at_hand.eq(i64::from(new.at_hand)),
            pieces::cost_each_minor.eq(new.cost_each.0),
            pieces::minutes_each.eq(new.minutes_each),
            pieces::position.eq(siblings),
        ))
        .execute(conn)?;
    last_id(conn).map(PieceId)
}

/// Changes a piece.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change_piece(
    conn: &mut Conn,
    id: PieceId,
    row_version: i64,
    to: &PieceChange,
) -> Result<(), StoreError> {
    let known = pieces::table
        .find(id.0)
        .filter(pieces::row_version.eq(row_version));
    let changed = diesel::update(known)
        .set((
            pieces::option_id.eq(to.option.map(|o| o.0)),
            pieces::name.eq(&to.name),
            pieces::source.eq(to.source.as_str()),
            pieces::count.eq(i64::from(to.count)),
            pieces::at_hand.eq(i64::from(to.at_hand)),
            pieces::cost_each_minor.eq(to.cost_each.0),
            pieces::minutes_each.eq(to.minutes_each),
            pieces::row_version.eq(row_version + 1),
        ))
        .execute(conn)?;
    one_row(changed, "piece")
}

/// Gives a model the kit of another: parts with their sculpts and newest recipes as version 1,
/// choices, pieces. Answers which part became which.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn copy_kit(
    conn: &mut Conn,
    from: ModelId,
    to: ModelId,
    now_ms: i64,
) -> Result<HashMap<PartId, PartId>, StoreError> {
    let mut option_of: HashMap<OptionId, OptionId> = HashMap::new();
    for choice in choices_of(conn, &[from])? {
        let old = options_of(conn, &[choice.id])?;
        let new = ChoiceChange {
            name: choice.name.clone(),
            may_go_without: choice.may_go_without,
            options: old
                .iter()
                .map(|o| OptionChange {
                    id: None,
                    name: o.name.clone(),
                    models: o.models,
                })
                .collect(),
        };
        let id = add_choice(conn, to, &new, now_ms)?;
        let fresh = options_of(conn, &[id])?;
        option_of.extend(old.iter().zip(&fresh).map(|(a, b)| (a.id, b.id)));
    }
    let mut part_of = HashMap::new();
    for part in parts_of(conn, from)? {
        let recipe = queries::recipes::newest(conn, part.recipe)?;
        let change = PartChange {
            name: part.name.clone(),
            count: part.count,
            spares: 0,
            sculpt: part.sculpt,
            option: part.option.and_then(|o| option_of.get(&o).copied()),
            recipe: RecipeChange {
                setup: Some(recipe.setup),
                ..RecipeChange::of(&recipe)
            },
        };
        part_of.insert(part.id, muster::add_part(conn, to, &change, now_ms)?);
    }
    for piece in pieces_of(conn, &[from])? {
        let change = PieceChange {
            name: piece.name.clone(),
            option: piece.option.and_then(|o| option_of.get(&o).copied()),
            source: piece.source,
            count: piece.count,
            at_hand: 0,
            cost_each: piece.cost_each,
            minutes_each: piece.minutes_each,
        };
        add_piece(conn, to, &change)?;
    }
    Ok(part_of)
}
