//! What is found by a word, a mark or a number: one box over everything that has a name.

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Nullable, Text};

use crate::conn::Conn;
use crate::error::StoreError;

/// What something that was found is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Found {
    /// A project.
    Project,
    /// A unit.
    Unit,
    /// A model.
    Model,
    /// A part.
    Part,
    /// A sculpt.
    Sculpt,
    /// A plate by its number.
    Plate,
    /// A copy by its mark, its cause or its note: where it lies.
    Copy,
    /// A copy that came from elsewhere, by its mark or its note: its model's miniatures.
    Came,
    /// A run by its note.
    Run,
    /// A printer.
    Printer,
    /// A resin.
    Resin,
}

/// One line.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hit {
    /// What it is.
    pub what: Found,
    /// Its own id, or that of the page it is on.
    pub id: i64,
    /// Its name.
    pub name: String,
    /// Where it belongs.
    pub of: String,
}

#[derive(QueryableByName)]
struct Row {
    #[diesel(sql_type = BigInt)]
    id: i64,
    #[diesel(sql_type = Text)]
    name: String,
    #[diesel(sql_type = Nullable<Text>)]
    place: Option<String>,
}

/// Lines of each kind at most.
const MOST: i64 = 20;

/// Kind and query; `?1` is the pattern, `?2` the number or −1.
const ASKED: [(Found, &str); 11] = [
    (
        Found::Copy,
        "SELECT c.plate_id AS id, m.name || ', ' || lower(p.name) || ', mark ' || c.mark AS name, \
         'plate ' || l.number || ', ' || c.stage || CASE WHEN c.cause IS NULL THEN '' ELSE ': ' || c.cause END \
         || CASE WHEN c.note = '' THEN '' ELSE ', ' || c.note END AS place \
         FROM copies c JOIN parts p ON p.id = c.part_id JOIN models m ON m.id = p.model_id \
         JOIN plates l ON l.id = c.plate_id \
         WHERE c.mark = ?2 OR c.cause LIKE ?1 ESCAPE '\\' OR c.note LIKE ?1 ESCAPE '\\' ORDER BY c.mark = ?2 DESC, c.mark DESC",
    ),
    (
        Found::Came,
        "SELECT m.id, m.name || ', ' || lower(p.name) || ', mark ' || a.mark AS name, \
         a.how || CASE WHEN a.note = '' THEN '' ELSE ', ' || a.note END AS place \
         FROM arrivals a JOIN parts p ON p.id = a.part_id JOIN models m ON m.id = p.model_id \
         WHERE a.removed_at_ms IS NULL AND (a.mark = ?2 OR a.note LIKE ?1 ESCAPE '\\') ORDER BY a.mark",
    ),
    (
        Found::Plate,
        "SELECT l.id, 'Plate ' || l.number AS name, r.name || ', ' || l.state AS place FROM plates l \
         JOIN projects r ON r.id = l.project_id WHERE l.number = ?2 AND l.state NOT IN ('draft', 'released') AND ?1 <> ''",
    ),
    (
        Found::Project,
        "SELECT id, name, NULL AS place FROM projects WHERE name LIKE ?1 ESCAPE '\\' AND removed_at_ms IS NULL AND ?2 >= -1",
    ),
    (
        Found::Unit,
        "SELECT u.id, u.name, r.name AS place FROM units u JOIN projects r ON r.id = u.project_id \
         WHERE u.name LIKE ?1 ESCAPE '\\' AND u.removed_at_ms IS NULL AND r.removed_at_ms IS NULL AND ?2 >= -1",
    ),
    (
        Found::Model,
        "SELECT m.id, m.name, u.name AS place FROM models m JOIN units u ON u.id = m.unit_id \
         WHERE m.name LIKE ?1 ESCAPE '\\' AND m.removed_at_ms IS NULL AND u.removed_at_ms IS NULL AND ?2 >= -1",
    ),
    (
        Found::Part,
        "SELECT p.id, p.name, m.name AS place FROM parts p JOIN models m ON m.id = p.model_id \
         WHERE p.name LIKE ?1 ESCAPE '\\' AND p.removed_at_ms IS NULL AND m.removed_at_ms IS NULL AND ?2 >= -1",
    ),
    (
        Found::Sculpt,
        "SELECT id, name, file_name AS place FROM sculpts \
         WHERE (name LIKE ?1 ESCAPE '\\' OR file_name LIKE ?1 ESCAPE '\\') AND removed_at_ms IS NULL AND ?2 >= -1",
    ),
    (
        Found::Run,
        "SELECT n.plate_id AS id, 'Plate ' || l.number AS name, n.note AS place FROM runs n \
         JOIN plates l ON l.id = n.plate_id WHERE n.note LIKE ?1 ESCAPE '\\' AND ?2 >= -1",
    ),
    (
        Found::Printer,
        "SELECT id, name, NULL AS place FROM printers WHERE name LIKE ?1 ESCAPE '\\' AND removed_at_ms IS NULL AND ?2 >= -1",
    ),
    (
        Found::Resin,
        "SELECT id, name, NULL AS place FROM resins WHERE name LIKE ?1 ESCAPE '\\' AND removed_at_ms IS NULL AND ?2 >= -1",
    ),
];

/// A number that is asked for, as pages write it: `22`, `#22`, `mark 22`, `plate 3`.
struct Number {
    number: i64,
    /// Of these alone; of whatever has one where no word says it.
    of: &'static [Found],
}

impl Number {
    fn asked(words: &str) -> Self {
        let words = words.to_lowercase();
        let told = [
            ("mark", &[Found::Copy, Found::Came][..]),
            ("plate", &[Found::Plate][..]),
        ];
        let told = told
            .into_iter()
            .find_map(|(word, of)| Some((words.strip_prefix(word)?, of)));
        let (rest, of) = told.unwrap_or((&words, &[]));
        let number = rest.trim().trim_start_matches('#').trim().parse();
        Self {
            number: number.unwrap_or(-1),
            of,
        }
    }

    /// As it is asked for of this; -1 for none.
    fn of(&self, what: Found) -> i64 {
        if self.of.is_empty() || self.of.contains(&what) {
            self.number
        } else {
            -1
        }
    }
}

/// Everything that holds these words, whatever their case; for a number the plate and the copy with it first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn search(conn: &mut Conn, words: &str) -> Result<Vec<Hit>, StoreError> {
    let words = words.trim();
    if words.is_empty() {
        return Ok(Vec::new());
    }
    let number = Number::asked(words);
    let plain = words
        .replace('\\', "\\\\")
        .replace('%', "\\%")
        .replace('_', "\\_");
    let pattern = format!("%{plain}%");
    let mut all = Vec::new();
    for (what, sql) in ASKED {
        let rows: Vec<Row> = diesel::sql_query(format!("{sql} LIMIT {MOST}"))
            .bind::<Text, _>(&pattern)
            .bind::<BigInt, _>(number.of(what))
            .load(conn)?;
        all.extend(rows.into_iter().map(|row| Hit {
            what,
            id: row.id,
            name: row.name,
            of: row.place.unwrap_or_default(),
        }));
    }
    Ok(all)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// As it stands on pages and labels: by its word, or alone.
    #[rstest]
    #[case("22", 22, 22)]
    #[case("#22", 22, 22)]
    #[case("Mark 22", 22, -1)]
    #[case("mark #22", 22, -1)]
    #[case("plate 3", -1, 3)]
    #[case("Plate3", -1, 3)]
    #[case("market", -1, -1)]
    #[case("plates", -1, -1)]
    fn a_number_is_asked_for(#[case] words: &str, #[case] copy: i64, #[case] plate: i64) {
        let asked = Number::asked(words);
        assert_eq!(
            (asked.of(Found::Copy), asked.of(Found::Plate)),
            (copy, plate)
        );
    }
}
