//! What the maker's own program says that plates take: lines of plate, hours and millilitres.

/// What was said of a plate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Told {
    /// Its number in the project.
    pub number: i64,
    /// Time on the printer, s.
    pub seconds: f64,
    /// Resin, ml; nothing where nobody said.
    pub ml: Option<f64>,
}

/// Longest time that is taken, h.
const MOST_HOURS: f64 = 400.0;
/// Most resin that is taken, ml.
const MOST_ML: f64 = 20_000.0;

/// Hours as people write them: `3.5`, `3,5` (not where commas part the fields), `3:30`, `3h 30m`.
#[must_use]
pub fn read_hours(text: &str) -> Option<f64> {
    let text = text.trim().to_lowercase();
    let number = |t: &str| {
        let t = t.trim().replace(',', ".");
        let plain = !t.is_empty() && t.bytes().all(|b| b.is_ascii_digit() || b == b'.');
        plain.then(|| t.parse::<f64>().ok()).flatten()
    };
    let parted = text
        .split_once(':')
        .or_else(|| text.split_once('h'))
        .map(|(h, m)| {
            (
                h.trim(),
                m.trim().trim_end_matches("min").trim_end_matches('m'),
            )
        });
    let found = match parted {
        Some((h, m)) if m.trim().is_empty() => number(h),
        Some((h, m)) => {
            let minutes = number(m).filter(|m| *m < 60.0)?;
            Some(number(h)? + minutes / 60.0)
        }
        None => number(&text),
    };
    found.filter(|h| (0.01..=MOST_HOURS).contains(h))
}

/// Reads lines of plate, hours, ml, parted by commas, semicolons or tabs; a line of headings is
/// passed over.
///
/// # Errors
/// What is wrong, one sentence for each line; nothing is taken then.
pub fn read_told(text: &str) -> Result<Vec<Told>, Vec<String>> {
    let (mut all, mut faults): (Vec<Told>, Vec<String>) = (Vec::new(), Vec::new());
    let lines = text.lines().enumerate().map(|(i, l)| (i + 1, l.trim()));
    for (at, line) in lines.filter(|(_, l)| !l.is_empty()) {
        let part = [';', '\t', ','].into_iter().find(|c| line.contains(*c));
        let cells: Vec<&str> = match part {
            Some(c) => line.split(c).map(|c| c.trim().trim_matches('"')).collect(),
            None => line.split_whitespace().collect(),
        };
        let plate = cells[0].trim().to_lowercase();
        let plate = plate.trim_start_matches("plate").trim();
        if at == 1 && !plate.bytes().any(|b| b.is_ascii_digit()) {
            continue;
        }
        let number = plate.parse::<i64>().ok().filter(|n| *n > 0);
        let Some(number) = number else {
            faults.push(format!("line {at}: '{}' is no plate's number", cells[0]));
            continue;
        };
        let Some(h) = cells.get(1).and_then(|c| read_hours(c)) else {
            faults.push(format!("line {at}: write the hours as 3:30 or 3.5"));
            continue;
        };
        let ml = match cells.get(2).map(|c| c.trim_end_matches("ml").trim()) {
            None | Some("") => None,
            Some(cell) => match cell.replace(',', ".").parse::<f64>() {
                Ok(ml) if (0.0..=MOST_ML).contains(&ml) => Some(ml),
                _ => {
                    faults.push(format!("line {at}: '{cell}' are no millilitres"));
                    continue;
                }
            },
        };
        if all.iter().any(|t| t.number == number) {
            faults.push(format!("line {at}: plate {number} is there twice"));
            continue;
        }
        all.push(Told {
            number,
            seconds: h * 3600.0,
            ml,
        });
    }
    if all.is_empty() && faults.is_empty() {
        faults.push("nothing was said: a line for each plate, such as 7, 3:30, 46".into());
    }
    if faults.is_empty() {
        Ok(all)
    } else {
        Err(faults)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("7, 3:30, 46", 7, 12_600.0, Some(46.0))]
    #[case("plate;hours;ml\nPlate 7;3,5;46,5 ml", 7, 12_600.0, Some(46.5))]
    #[case("7\t3h 30m", 7, 12_600.0, None)]
    #[case("7 12", 7, 43_200.0, None)]
    fn lines_are_read(
        #[case] text: &str,
        #[case] number: i64,
        #[case] seconds: f64,
        #[case] ml: Option<f64>,
    ) {
        let told = Told {
            number,
            seconds,
            ml,
        };
        assert_eq!(read_told(text), Ok(vec![told]));
    }

    /// Each line that does not fit is named, and none is taken.
    #[test]
    fn faults_are_named_line_by_line() {
        let why = read_told("1, 3:30\nx, 2\n2, soon\n3, 2, much\n1, 4\n4, 3:75").unwrap_err();
        let says = |n: usize, words: &str| why[n].contains(words);
        assert_eq!(why.len(), 5, "{why:?}");
        assert!(says(0, "line 2") && says(1, "line 3") && says(2, "no millilitres"));
        assert!(says(3, "twice") && says(4, "line 6"));
        assert!(read_told(" \n").is_err());
        assert!(read_told("1, -3").is_err() && read_told("1, 1e9").is_err());
    }
}
