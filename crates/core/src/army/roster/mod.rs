//! Army lists as people write them: plain lines, CSV or JSON. What is not said is never invented:
//! a line without a count has none, and the maker fills it in.

mod json;
mod table;
mod text;

/// Models of one line at most.
pub const MOST_MODELS: u32 = 5000;

/// Lines read at most.
pub const MOST_LINES: usize = 1000;

/// Bytes read at most.
pub const MOST_BYTES: usize = 1_000_000;

/// One line of a list that says something.
#[derive(Debug, Clone, PartialEq)]
pub struct RosterLine {
    /// Which line or record, from 1.
    pub line: usize,
    /// As it was written.
    pub text: String,
    /// What it says.
    pub entry: RosterEntry,
}

/// What a line says.
#[derive(Debug, Clone, PartialEq)]
pub enum RosterEntry {
    /// The lines after it belong to this unit.
    Unit(String),
    /// Some models.
    Model(RosterModel),
    /// It may be models or something else: the maker says which.
    Asked(RosterModel, Asked),
    /// Nothing that could be taken; the sentence says why.
    Unclear(&'static str),
}

/// What a line was taken for that may be models as well.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Asked {
    /// The heading of the lines under it.
    Heading,
    /// What belongs to the model of this name, under which it stands.
    KitOf(String),
    /// The sum of the lines above.
    Total,
}

/// Some models of one kind.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct RosterModel {
    /// Their unit, where a line names it or stands under it.
    pub unit: Option<String>,
    /// Their name.
    pub name: String,
    /// How many; nothing when the line does not say, or says it twice.
    pub quantity: Option<u32>,
    /// Width and depth of their base, mm.
    pub base_mm: Option<[f64; 2]>,
    /// Options with the models that take each, where the line says so.
    pub options: Vec<(String, Option<u32>)>,
    /// What the maker should look at.
    pub doubt: Option<&'static str>,
}

/// Why a list was not read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum RosterError {
    /// More than can be a list.
    #[error("the list has more than {MOST_LINES} lines: paste it in pieces")]
    TooLong,
    /// Larger than can be a list.
    #[error("the list is larger than {} kB: paste it in pieces", MOST_BYTES / 1000)]
    TooLarge,
    /// It begins like JSON and is none.
    #[error("the list begins like JSON, but line {line} cannot be read: {why}")]
    Json {
        /// Line of the fault.
        line: usize,
        /// What is wrong there.
        why: String,
    },
    /// JSON in which no list of models was found.
    #[error(
        "the JSON holds no list of models: write [{{\"name\": \"Reed-piker\", \"quantity\": 12}}]"
    )]
    NoModels,
    /// Nothing at all.
    #[error("there is nothing in the list")]
    Empty,
}

/// Reads a list. JSON begins with a bracket; CSV has a head line that names a column for the
/// model and one for the quantity; everything else is read line by line.
///
/// # Shape
/// In the order written; blank lines, rules and comments are left out.
///
/// # Errors
/// [`RosterError`] when the whole cannot be read; a single line that cannot is in the answer.
pub fn read_roster(text: &str) -> Result<Vec<RosterLine>, RosterError> {
    if text.len() > MOST_BYTES {
        return Err(RosterError::TooLarge);
    }
    if text.lines().count() > MOST_LINES {
        return Err(RosterError::TooLong);
    }
    let text = text.trim_start_matches('\u{feff}');
    let lines = if text.trim_start().starts_with(['[', '{']) && text.contains('"') {
        json::read(text)?
    } else if let Some(lines) = table::read(text) {
        lines
    } else {
        text::read(text)
    };
    if lines.len() > MOST_LINES {
        return Err(RosterError::TooLong);
    }
    if lines.is_empty() {
        return Err(RosterError::Empty);
    }
    Ok(lines)
}

/// A base size as it is written: `25`, `60x35`, `28.5 mm`.
#[must_use]
pub fn read_base(text: &str) -> Option<[f64; 2]> {
    let text = text.to_lowercase().replace('×', "x").replace(',', ".");
    let text = text.trim().trim_end_matches("mm").trim();
    let (width, depth) = text.split_once('x').unwrap_or((text, text));
    let side = |side: &str| {
        let mm: f64 = side.trim().trim_end_matches("mm").trim().parse().ok()?;
        (0.0..=MOST_BASE_MM).contains(&mm).then_some(mm)
    };
    Some([side(width)?, side(depth)?])
}

/// The largest base.
const MOST_BASE_MM: f64 = 500.0;

/// A count as a cell of a table or a value of JSON.
fn read_count(text: &str) -> Result<u32, &'static str> {
    let text = text.trim();
    let text = text
        .trim_start_matches(['x', '×'])
        .trim_end_matches(['x', '×'])
        .trim();
    if text.is_empty() {
        return Err("no count: say how many");
    }
    match text.parse::<u64>() {
        Ok(0) => Err("a count of 0"),
        Ok(n) if n <= u64::from(MOST_MODELS) => Ok(n as u32),
        Ok(_) => Err(TOO_MANY),
        Err(_) if text.len() > 4 && text.bytes().all(|b| b.is_ascii_digit()) => Err(TOO_MANY),
        Err(_) => Err("the count is no whole number"),
    }
}

const TOO_MANY: &str = "more than 5,000 models in one line";

#[cfg(test)]
#[path = "roster_tests.rs"]
mod roster_tests;
