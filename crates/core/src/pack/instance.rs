//! Packing alone, as a JSON file: one kind of plate, parts with outlines and heights. The format
//! is that of `../shared/bench/pack/README.md`.

use serde_json::{Value, json};

use super::{BuildArea, Item, PackJob, Packing, Wishes, lower_bound};
use crate::geometry::Outline;

/// An instance that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Instance {
    /// Its name.
    pub name: String,
    /// Names of the parts, in the order of the job's items.
    pub parts: Vec<String>,
    /// What is to be packed. Only heights count: a plate costs a second a millimetre and, so that
    /// fewer plates win among equals, a thousandth.
    pub job: PackJob,
}

/// Why an instance cannot be read, in one line.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum InstanceError {
    /// No JSON.
    #[error("it is no JSON: {0}")]
    Json(String),
    /// Something is missing or no number.
    #[error("{0} is missing or no sensible value")]
    Missing(String),
}

/// Parts of an instance at most.
const MOST_PARTS: usize = 10_000;
/// Largest length that is taken, mm.
const LONGEST_MM: f64 = 10_000.0;

impl Instance {
    /// Reads an instance.
    ///
    /// # Errors
    /// [`InstanceError`], one line.
    pub fn read(text: &str) -> Result<Self, InstanceError> {
        let all: Value =
            serde_json::from_str(text).map_err(|e| InstanceError::Json(e.to_string()))?;
        let missing = |what: &str| InstanceError::Missing(what.to_owned());
        let number = |of: &Value, name: &str, what: &str, least: f64| {
            of.get(name)
                .and_then(Value::as_f64)
                .filter(|n| n.is_finite() && (least..=LONGEST_MM).contains(n))
                .ok_or_else(|| missing(&format!("'{name}' of {what}")))
        };
        let plate = all.get("plate").ok_or_else(|| missing("'plate'"))?;
        let build_area = BuildArea {
            width_mm: number(plate, "width_mm", "the plate", 1.0)?,
            depth_mm: number(plate, "depth_mm", "the plate", 1.0)?,
            height_mm: number(plate, "height_mm", "the plate", 0.1)?,
            margin_mm: number(plate, "margin_mm", "the plate", 0.0)?,
            busy_s: 0.0,
            part_pull: None,
            plate_pull: None,
            constant_s: 0.001,
            per_mm_s: 1.0,
            low: Vec::new(),
            slots: super::Slots::default(),
        };
        let listed = all
            .get("parts")
            .and_then(Value::as_array)
            .filter(|p| p.len() <= MOST_PARTS)
            .ok_or_else(|| missing("'parts'"))?;
        let (mut parts, mut items) = (Vec::new(), Vec::new());
        for (index, part) in listed.iter().enumerate() {
            let id = part
                .get("id")
                .and_then(Value::as_str)
                .ok_or_else(|| missing(&format!("'id' of part {}", index + 1)))?;
            let of = format!("part '{id}'");
            let corners = part
                .get("outline")
                .and_then(Value::as_array)
                .ok_or_else(|| missing(&format!("'outline' of {of}")))?
                .iter()
                .map(|c| {
                    let at = |k: usize| {
                        c.get(k)
                            .and_then(Value::as_f64)
                            .filter(|n| n.is_finite() && n.abs() <= LONGEST_MM)
                    };
                    Some([at(0)?, at(1)?])
                })
                .collect::<Option<Vec<_>>>()
                .ok_or_else(|| missing(&format!("a corner of {of}")))?;
            let outline = Outline::try_new(corners)
                .map_err(|e| missing(&format!("'outline' of {of} ({e})")))?;
            let copies = part.get("copies").and_then(Value::as_u64);
            items.push(Item::new(
                outline,
                number(part, "height_mm", &of, 0.0)?,
                copies.ok_or_else(|| missing(&format!("'copies' of {of}")))?,
            ));
            parts.push(id.to_owned());
        }
        let name = all.get("name").and_then(Value::as_str).unwrap_or("");
        Ok(Self {
            name: name.to_owned(),
            parts,
            job: PackJob {
                wishes: Wishes::default(),
                build_areas: vec![build_area],
                clearance_mm: number(&all, "clearance_mm", "the instance", 0.0)?,
                items,
            },
        })
    }

    /// A packing as JSON, with the bound.
    #[must_use]
    pub fn answer(&self, packing: &Packing) -> Value {
        let plates: Vec<Value> = packing
            .plates
            .iter()
            .map(|plate| {
                let placements: Vec<Value> = plate
                    .placements
                    .iter()
                    .map(|s| {
                        json!({
                            "part": self.parts[s.item],
                            "x_mm": s.at_mm[0],
                            "y_mm": s.at_mm[1],
                            "rotation_deg": s.rotation_deg,
                        })
                    })
                    .collect();
                let tallest = plate
                    .placements
                    .iter()
                    .map(|s| self.job.items[s.item].height_mm)
                    .fold(0.0, f64::max);
                json!({ "placements": placements, "height_mm": tallest })
            })
            .collect();
        let bound = lower_bound(&self.job);
        let left: Vec<Value> = packing
            .left_over
            .iter()
            .map(|l| json!({ "part": self.parts[l.item], "copies": l.copies }))
            .collect();
        let mut answer = json!({
            "plates": plates,
            "bound": { "sum_height_mm": bound.sum_height_mm, "plates": bound.plates },
        });
        if !left.is_empty() {
            answer["left_over"] = Value::Array(left);
        }
        answer
    }
}
