//! JSON: a list of models, or units with their models.

use serde_json::Value;

use super::{MOST_LINES, RosterEntry, RosterError, RosterLine, RosterModel, read_base, read_count};

pub(super) fn read(text: &str) -> Result<Vec<RosterLine>, RosterError> {
    let value: Value = serde_json::from_str(text).map_err(|error| RosterError::Json {
        line: error.line(),
        why: error
            .to_string()
            .split(" at line")
            .next()
            .unwrap_or_default()
            .to_owned(),
    })?;
    let mut lines = Vec::new();
    collect(&value, None, 0, &mut lines);
    if lines.is_empty() {
        Err(RosterError::NoModels)
    } else {
        Ok(lines)
    }
}

fn text_of<'a>(value: &'a Value, names: &[&str]) -> Option<&'a str> {
    names
        .iter()
        .find_map(|n| value.get(n)?.as_str())
        .map(str::trim)
        .filter(|t| !t.is_empty())
}

/// Walks lists and objects: what has a list of models is a unit, what has a name is a model.
fn collect(value: &Value, unit: Option<&str>, depth: usize, lines: &mut Vec<RosterLine>) {
    if depth > 8 || lines.len() > MOST_LINES {
        return;
    }
    match value {
        Value::Array(all) => all.iter().for_each(|v| collect(v, unit, depth + 1, lines)),
        Value::Object(fields) => {
            let name = text_of(value, &["name", "model", "unit"]);
            let nested = ["units", "models", "miniatures", "army", "list"];
            let inner: Vec<(&str, &Value)> = nested
                .iter()
                .filter_map(|n| Some((*n, fields.get(*n)?)))
                .filter(|(_, v)| !v.is_number())
                .collect();
            if inner.is_empty() {
                if let Some(name) = text_of(value, &["name", "model"]) {
                    let unit = text_of(value, &["unit"]).or(unit);
                    lines.push(model(value, name, unit, lines.len() + 1));
                }
                return;
            }
            for (field, inner) in inner {
                let unit = if field == "models" || field == "miniatures" {
                    name.or(unit)
                } else {
                    unit
                };
                collect(inner, unit, depth + 1, lines);
            }
        }
        _ => {}
    }
}

fn model(value: &Value, name: &str, unit: Option<&str>, line: usize) -> RosterLine {
    let as_text = |names: &[&str]| {
        let found = names.iter().find_map(|n| value.get(n));
        found.map(|v| v.as_str().map_or_else(|| v.to_string(), str::to_owned))
    };
    let count =
        read_count(&as_text(&["quantity", "count", "number", "models"]).unwrap_or_default());
    let base = as_text(&["base_mm", "base"]).map(|b| read_base(&b));
    let doubt = match (&count, &base) {
        (Err(why), _) => Some(*why),
        (_, Some(None)) => Some("the base is unclear"),
        _ => None,
    };
    let entry = RosterModel {
        unit: unit.map(|u| u.chars().take(120).collect()),
        name: name.chars().take(120).collect(),
        quantity: count.ok(),
        base_mm: base.flatten(),
        options: Vec::new(),
        doubt,
    };
    let text = value.to_string().chars().take(300).collect();
    RosterLine {
        line,
        text,
        entry: RosterEntry::Model(entry),
    }
}
