//! The preview of an army list: every line as it was read, to be agreed, changed or skipped.

use wembrit_core::army::kit::{check_choice, parse_options};
use wembrit_core::army::roster::{
    Asked, MOST_LINES, MOST_MODELS, RosterEntry, RosterLine, RosterModel, read_base,
};
use wembrit_core::ids::ModelId;
use wembrit_store::commands::rosters::RosterRow;

use super::{Input, plain};

/// One line of the preview, as typed.
#[derive(Debug, Clone, Default, PartialEq)]
pub(crate) struct PreviewRow {
    pub(crate) written: String,
    pub(crate) take: bool,
    pub(crate) unit: String,
    pub(crate) name: String,
    pub(crate) quantity: String,
    pub(crate) base: String,
    pub(crate) options: String,
    pub(crate) kit_of: String,
    pub(crate) doubt: String,
}

/// The lines of a list, ready to be looked at. Headings only name units and need no row.
pub(crate) fn preview(lines: &[RosterLine]) -> Vec<PreviewRow> {
    let row = |line: &RosterLine| match &line.entry {
        RosterEntry::Unit(_) => None,
        RosterEntry::Unclear(why) => Some(PreviewRow {
            written: line.text.clone(),
            doubt: (*why).to_owned(),
            ..PreviewRow::default()
        }),
        RosterEntry::Model(model) => Some(of_model(line, model)),
        RosterEntry::Asked(model, asked) => Some(PreviewRow {
            take: false,
            doubt: asked_words(asked),
            ..of_model(line, model)
        }),
    };
    lines.iter().filter_map(row).collect()
}

/// What a line that may be models was taken for.
fn asked_words(asked: &Asked) -> String {
    match asked {
        Asked::Heading => {
            "read as the heading of the lines under it; tick it if these are models".to_owned()
        }
        Asked::KitOf(model) => {
            format!("stands under {model}: read as what belongs to it; tick it if these are models")
        }
        Asked::Total => "read as the sum of the list; tick it if these are models".to_owned(),
    }
}

fn of_model(line: &RosterLine, model: &RosterModel) -> PreviewRow {
    let base = |[w, d]: [f64; 2]| {
        if w == d {
            plain(w)
        } else {
            format!("{}x{}", plain(w), plain(d))
        }
    };
    let option = |(name, count): &(String, Option<u32>)| {
        count.map_or_else(|| name.clone(), |n| format!("{n} {name}"))
    };
    PreviewRow {
        written: line.text.clone(),
        take: true,
        unit: model.unit.clone().unwrap_or_else(|| model.name.clone()),
        name: model.name.clone(),
        quantity: model.quantity.map_or_else(String::new, |q| q.to_string()),
        base: model.base_mm.map_or_else(String::new, base),
        options: model
            .options
            .iter()
            .map(option)
            .collect::<Vec<_>>()
            .join(", "),
        kit_of: String::new(),
        doubt: model.doubt.unwrap_or_default().to_owned(),
    }
}

/// The rows as they were sent back, and what is agreed; rows that cannot be taken carry a doubt.
pub(crate) fn read(input: &Input) -> (Vec<PreviewRow>, Option<Vec<RosterRow>>) {
    let many = input
        .get("rows")
        .parse::<usize>()
        .unwrap_or(0)
        .min(MOST_LINES);
    let get = |name: &str, i: usize| input.get(&format!("{name}_{i}")).to_owned();
    let mut rows = Vec::new();
    let mut agreed = Vec::new();
    let mut faults = 0;
    for i in 0..many {
        let mut row = PreviewRow {
            written: get("written", i),
            take: input.has(&format!("take_{i}")),
            unit: get("unit", i),
            name: get("name", i),
            quantity: get("quantity", i),
            base: get("base", i),
            options: get("options", i),
            kit_of: get("kit_of", i),
            doubt: String::new(),
        };
        if row.take {
            match agree(&row) {
                Ok(line) => agreed.push(line),
                Err(why) => {
                    row.doubt = why;
                    faults += 1;
                }
            }
        }
        rows.push(row);
    }
    (rows, (faults == 0).then_some(agreed))
}

fn agree(row: &PreviewRow) -> Result<RosterRow, String> {
    let named = |text: &str, what: &str| match text.chars().count() {
        0 => Err(format!("{what} has no name")),
        1..=120 => Ok(text.to_owned()),
        _ => Err(format!("the name of {what} is longer than 120 characters")),
    };
    let (unit, name) = (
        named(&row.unit, "the unit")?,
        named(&row.name, "the model")?,
    );
    let quantity: u32 = row
        .quantity
        .parse()
        .map_err(|_| "say how many".to_owned())?;
    if quantity == 0 || quantity > MOST_MODELS {
        return Err(format!("from 1 to {MOST_MODELS} models"));
    }
    let base_mm = if row.base.is_empty() {
        [0.0; 2]
    } else {
        read_base(&row.base).ok_or("the base is unclear: 25, or 60x35")?
    };
    let read = parse_options(&row.options).map_err(|fault| fault.to_string())?;
    let mut options = Vec::new();
    for (option, count) in read {
        let count = count.ok_or_else(|| format!("say how many take '{option}': 3 spear, 2 axe"))?;
        options.push((option, count));
    }
    let models: Vec<u32> = options.iter().map(|(_, n)| *n).collect();
    if !options.is_empty() {
        check_choice(quantity, &models, false).map_err(|fault| fault.to_string())?;
    }
    let kit_of: Option<ModelId> = if row.kit_of.is_empty() {
        None
    } else {
        row.kit_of.parse().ok()
    };
    Ok(RosterRow {
        unit,
        name,
        quantity,
        base_mm,
        options,
        kit_of,
    })
}
