//! An agreed army list becomes units and models.

use std::collections::HashMap;

use wembrit_core::ids::{ModelId, ProjectId, UnitId};

use super::kits::{self, ChoiceChange, OptionChange};
use super::muster::{self, ModelChange, UnitChange};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::army;

/// One agreed line.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct RosterRow {
    pub unit: String,
    pub name: String,
    pub quantity: u32,
    pub base_mm: [f64; 2],
    pub options: Vec<(String, u32)>,
    /// A model whose kit it takes over.
    pub kit_of: Option<ModelId>,
}

/// Adds every line; units of the same name are one, and one that is there already is used.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn take_in(
    conn: &mut Conn,
    project: ProjectId,
    rows: &[RosterRow],
    now_ms: i64,
) -> Result<Vec<ModelId>, StoreError> {
    let army = army::load(conn, project)?;
    let key = |name: &str| name.to_lowercase();
    let mut units: HashMap<String, UnitId> = army
        .units
        .iter()
        .map(|u| (key(&u.unit.name), u.unit.id))
        .collect();
    let mut priority = army
        .units
        .iter()
        .map(|u| u.unit.priority)
        .max()
        .unwrap_or(0);
    let mut added = Vec::new();
    for row in rows {
        let unit = match units.get(&key(&row.unit)) {
            Some(unit) => *unit,
            None => {
                priority += 1;
                let new = UnitChange {
                    name: row.unit.clone(),
                    priority,
                    carrier: None,
                };
                let id = muster::add_unit(conn, project, &new)?;
                units.insert(key(&row.unit), id);
                id
            }
        };
        let model = ModelChange {
            name: row.name.clone(),
            quantity: row.quantity,
            base_width_mm: row.base_mm[0],
            base_depth_mm: row.base_mm[1],
            carries: 0,
        };
        let id = muster::add_model(conn, unit, &model)?;
        if let Some(from) = row.kit_of {
            kits::copy_kit(conn, from, id, now_ms)?;
        }
        if !row.options.is_empty() {
            let option = |(name, models): &(String, u32)| OptionChange {
                id: None,
                name: name.clone(),
                models: *models,
            };
            let choice = ChoiceChange {
                name: row
                    .options
                    .iter()
                    .map(|(n, _)| n.as_str())
                    .collect::<Vec<_>>()
                    .join(" or "),
                may_go_without: false,
                options: row.options.iter().map(option).collect(),
            };
            kits::add_choice(conn, id, &choice, now_ms)?;
        }
        added.push(id);
    }
    Ok(added)
}
