//! CSV: a head line that names its columns.

use super::{RosterEntry, RosterLine, RosterModel, read_base, read_count};

/// What a column holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Column {
    Unit,
    Name,
    Quantity,
    Base,
    Options,
}

fn column(head: &str) -> Option<Column> {
    match head.trim().trim_matches('"').to_lowercase().as_str() {
        "unit" | "squad" | "group" => Some(Column::Unit),
        "model" | "name" | "miniature" | "figure" => Some(Column::Name),
        "quantity" | "count" | "qty" | "number" | "models" | "copies" | "how many" => {
            Some(Column::Quantity)
        }
        "base" | "base_mm" | "base mm" | "base size" => Some(Column::Base),
        "options" | "choice" | "with" => Some(Column::Options),
        _ => None,
    }
}

/// Nothing when the first line is no head of a table of models.
pub(super) fn read(text: &str) -> Option<Vec<RosterLine>> {
    let head = text.lines().find(|l| !l.trim().is_empty())?;
    let delimiter = [b'\t', b';', b',']
        .into_iter()
        .find(|d| head.contains(char::from(*d)))?;
    let columns: Vec<Option<Column>> = head.split(char::from(delimiter)).map(column).collect();
    if !columns.contains(&Some(Column::Name)) || !columns.contains(&Some(Column::Quantity)) {
        return None;
    }
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.trim_start().as_bytes());
    let mut unit: Option<String> = None;
    let mut lines = Vec::new();
    for (index, record) in reader.records().enumerate() {
        let Ok(record) = record else {
            lines.push(RosterLine {
                line: index + 2,
                text: String::new(),
                entry: RosterEntry::Unclear("this record cannot be read"),
            });
            continue;
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        let cell = |wanted: Column| {
            let at = columns.iter().position(|c| *c == Some(wanted))?;
            record.get(at).filter(|c| !c.is_empty())
        };
        // An empty cell under a unit means the unit above.
        unit = cell(Column::Unit).map(str::to_owned).or(unit);
        let line = record.position().map_or(index + 2, |p| p.line() as usize);
        let text: String = record
            .iter()
            .collect::<Vec<_>>()
            .join(", ")
            .chars()
            .take(300)
            .collect();
        let entry = match cell(Column::Name) {
            None => RosterEntry::Unclear("no name: say what they are"),
            Some(name) => RosterEntry::Model(model(name, unit.clone(), &cell)),
        };
        lines.push(RosterLine { line, text, entry });
    }
    Some(lines)
}

fn model<'a>(
    name: &str,
    unit: Option<String>,
    cell: &dyn Fn(Column) -> Option<&'a str>,
) -> RosterModel {
    let count = read_count(cell(Column::Quantity).unwrap_or_default());
    let base = cell(Column::Base).map(read_base);
    let options = cell(Column::Options).map(crate::army::kit::parse_options);
    let doubt = match (&count, &base, &options) {
        (Err(why), _, _) => Some(*why),
        (_, Some(None), _) => Some("the base is unclear"),
        (_, _, Some(Err(_))) => Some("the options are unclear"),
        _ => None,
    };
    RosterModel {
        unit,
        name: name.chars().take(120).collect(),
        quantity: count.ok(),
        base_mm: base.flatten(),
        options: options.and_then(Result::ok).unwrap_or_default(),
        doubt,
    }
}
