//! Plates as tables: CSV (RFC 4180) and JSON (RFC 8259), mm, s, ml, minor units of the currency.

use serde_json::{Value, json};
use wembrit_core::cost_parts::CostKind;
use wembrit_core::flow::Plate;

/// A plate of a table.
#[derive(Debug, Clone, PartialEq)]
pub struct ListedPlate {
    /// The plate.
    pub plate: Plate,
    /// What its file is called by.
    pub code: String,
    /// Name of its printer.
    pub printer: String,
    /// Name of its resin.
    pub resin: String,
    /// What stands on it.
    pub copies: Vec<ListedCopy>,
}

/// A copy of a table.
#[derive(Debug, Clone, PartialEq)]
pub struct ListedCopy {
    /// Its number in the workshop.
    pub mark: i64,
    /// Name of its part.
    pub part: String,
    /// Name of its model.
    pub model: String,
    /// Name of its unit.
    pub unit: String,
    /// Where its middle stands, mm.
    pub at_mm: [f64; 2],
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// Its resin, ml.
    pub resin_ml: f64,
}

/// The format of the JSON; a higher number may hold what this one does not know.
pub const FORMAT: u32 = 1;

/// Words of a CSV: what a table program would take for a formula is written as words.
fn field(text: &str) -> String {
    if text.starts_with(['=', '+', '-', '@', '\t', '\r']) {
        format!("'{text}")
    } else {
        text.to_owned()
    }
}

/// Columns of the CSV.
const COLUMNS: [&str; 17] = [
    "plate",
    "code",
    "state",
    "printer",
    "resin",
    "layer_mm",
    "height_mm",
    "layers",
    "hours",
    "ml",
    "resin_cost_minor",
    "consumables_cost_minor",
    "power_cost_minor",
    "wear_cost_minor",
    "hands_on_cost_minor",
    "copies",
    "marks",
];

/// One line for each plate.
///
/// # Panics
/// Never: memory takes every line.
#[must_use]
pub fn write_plates_csv(plates: &[ListedPlate]) -> String {
    let mut all = csv::WriterBuilder::new()
        .terminator(csv::Terminator::CRLF)
        .from_writer(Vec::new());
    all.write_record(COLUMNS).expect("memory takes it");
    for of in plates {
        let p = &of.plate;
        let [resin, consumables, power, wear, hands] = p.costs.planned();
        let marks: Vec<String> = of.copies.iter().map(|c| c.mark.to_string()).collect();
        all.write_record([
            p.number.to_string(),
            of.code.clone(),
            p.state.to_string(),
            field(&of.printer),
            field(&of.resin),
            format!("{:.3}", p.layer.mm()),
            format!("{:.2}", p.height_mm),
            p.layers.to_string(),
            format!("{:.4}", p.seconds / 3600.0),
            format!("{:.2}", p.resin_ml),
            resin.to_string(),
            consumables.to_string(),
            power.to_string(),
            wear.to_string(),
            hands.to_string(),
            of.copies.len().to_string(),
            marks.join(" "),
        ])
        .expect("memory takes it");
    }
    let bytes = all.into_inner().expect("memory takes it");
    String::from_utf8(bytes).expect("it was text")
}

/// Any table: its columns, and its rows; what would be a formula in a spreadsheet is defused.
///
/// # Panics
/// Never: memory takes every line.
#[must_use]
pub fn write_table_csv(columns: &[&str], rows: &[Vec<String>]) -> String {
    let mut all = csv::WriterBuilder::new()
        .terminator(csv::Terminator::CRLF)
        .from_writer(Vec::new());
    all.write_record(columns).expect("memory takes it");
    for row in rows {
        all.write_record(row.iter().map(|cell| match cell.parse::<f64>() {
            // A negative number is one, not a formula.
            Ok(_) => cell.clone(),
            Err(_) => field(cell),
        }))
        .expect("memory takes it");
    }
    let bytes = all.into_inner().expect("memory takes it");
    String::from_utf8(bytes).expect("it was text")
}

/// Every plate with what stands on it.
#[must_use]
pub fn write_plates_json(project: &str, plates: &[ListedPlate]) -> String {
    let copy = |c: &ListedCopy| {
        json!({
            "mark": c.mark, "part": c.part, "model": c.model, "unit": c.unit,
            "x_mm": c.at_mm[0], "y_mm": c.at_mm[1], "rotation_deg": c.rotation_deg,
            "resin_ml": c.resin_ml,
        })
    };
    let plate = |of: &ListedPlate| {
        let p = &of.plate;
        let cost = |kind| p.costs.get(kind).0;
        json!({
            "plate": p.number, "code": of.code, "state": p.state.as_str(),
            "printer": of.printer, "resin": of.resin, "layer_mm": p.layer.mm(),
            "height_mm": p.height_mm, "layers": p.layers, "seconds": p.seconds,
            "resin_ml": p.resin_ml, "resin_cost_minor": cost(CostKind::Resin),
            "consumables_cost_minor": cost(CostKind::Consumables),
            "power_cost_minor": cost(CostKind::Power), "wear_cost_minor": cost(CostKind::Wear),
            "hands_on_cost_minor": cost(CostKind::Hands),
            "copies": of.copies.iter().map(copy).collect::<Vec<Value>>(),
        })
    };
    let all = json!({
        "format": FORMAT,
        "project": project,
        "plates": plates.iter().map(plate).collect::<Vec<Value>>(),
    });
    format!("{all:#}\n")
}
