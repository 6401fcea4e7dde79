//! Units, models, their choices, pieces and parts.

use std::collections::HashMap;

use wembrit_core::ids::{ModelId, OptionId, ProjectId, ResinId, SculptId};
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::Setup;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_store::commands::kits::{ChoiceChange, OptionChange, PieceChange};
use wembrit_store::commands::muster::{ModelChange, PartChange, UnitChange};
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::kits;
use wembrit_store::{Conn, Store, StoreError, commands};

use crate::army::{DemoModel, DemoUnit};

/// Sculpts of the data file by the name of their file.
pub(super) type Sculpts = HashMap<&'static str, SculptId>;

/// Musters units with everything in them.
pub(super) fn add_units(
    store: &Store,
    project: ProjectId,
    units: &[DemoUnit],
    sculpts: &Sculpts,
    resins: &[ResinId],
    now_ms: i64,
) -> Result<(), StoreError> {
    store.write(|c| {
        for unit in units {
            let change = UnitChange {
                name: unit.name.into(),
                priority: unit.priority,
                carrier: None,
            };
            let unit_id = commands::muster::add_unit(c, project, &change)?;
            for model in &unit.models {
                let change = ModelChange {
                    name: model.name.into(),
                    quantity: model.quantity,
                    base_width_mm: model.base_mm,
                    base_depth_mm: model.base_mm,
                    carries: model.carries,
                };
                let model_id = commands::muster::add_model(c, unit_id, &change)?;
                let options = add_choice(c, model_id, model, now_ms)?;
                add_pieces(c, model_id, model)?;
                for part in &model.parts {
                    let layer = LayerHeight::from_mm(part.layer_mm)
                        .map_err(|e| StoreError::BadRow(e.to_string()))?;
                    let recipe = RecipeChange {
                        scale: part.scale,
                        resin: resins[part.resin],
                        layer,
                        setup: part.leans_deg.map(|degrees| Setup {
                            pose: Pose::new(degrees, BACK_DEG),
                            supports: Supports::Planned(SupportStyle::USUAL),
                        }),
                    };
                    let sculpt = sculpts.get(part.file).copied();
                    let change = PartChange {
                        name: part.name.into(),
                        count: part.count,
                        spares: 0,
                        sculpt,
                        option: part.option.and_then(|o| options.get(o).copied()),
                        recipe,
                    };
                    commands::muster::add_part(c, model_id, &change, now_ms)?;
                }
            }
        }
        Ok(())
    })
}

fn add_choice(
    c: &mut Conn,
    id: ModelId,
    model: &DemoModel,
    now_ms: i64,
) -> Result<HashMap<&'static str, OptionId>, StoreError> {
    if model.options.is_empty() {
        return Ok(HashMap::new());
    }
    let option = |(name, models): &(&str, u32)| OptionChange {
        id: None,
        name: (*name).into(),
        models: *models,
    };
    let options = model.options.iter().map(option).collect();
    let choice = ChoiceChange {
        name: "Weapon".into(),
        may_go_without: false,
        options,
    };
    let choice = commands::kits::add_choice(c, id, &choice, now_ms)?;
    let fresh = kits::options_of(c, &[choice])?;
    Ok(model
        .options
        .iter()
        .zip(fresh)
        .map(|((name, _), o)| (*name, o.id))
        .collect())
}

fn add_pieces(c: &mut Conn, id: ModelId, model: &DemoModel) -> Result<(), StoreError> {
    for piece in &model.pieces {
        let change = PieceChange {
            name: piece.name.into(),
            option: None,
            source: piece.source,
            count: 1,
            at_hand: piece.at_hand,
            cost_each: Money(piece.cost_minor),
            minutes_each: piece.minutes,
        };
        commands::kits::add_piece(c, id, &change)?;
    }
    Ok(())
}
