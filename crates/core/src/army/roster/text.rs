//! Plain lines: "12 reed-pikers, 25 mm".

use super::{Asked, MOST_MODELS, RosterEntry, RosterLine, RosterModel, TOO_MANY, read_base};

/// Reads line by line; a heading names the unit of what follows, and what stands further in than a
/// model belongs to it.
pub(super) fn read(text: &str) -> Vec<RosterLine> {
    let written: Vec<Written<'_>> = text.lines().enumerate().map(Written::of).collect();
    let mut unit: Option<String> = None;
    // The model whose kit may follow: its name, and how far in it stands.
    let mut above: Option<(String, usize)> = None;
    let mut lines = Vec::new();
    for (at, line) in written.iter().enumerate() {
        if line.says_nothing() {
            continue;
        }
        let entry = if let Some(name) = heading(&line.text) {
            (unit, above) = (Some(name.clone()), None);
            RosterEntry::Unit(name)
        } else {
            match read_line(&line.text) {
                RosterEntry::Model(model) if is_total(&line.text) => {
                    RosterEntry::Asked(model, Asked::Total)
                }
                RosterEntry::Model(model) => {
                    let under = above.as_ref().filter(|(_, indent)| line.indent > *indent);
                    if let Some((name, _)) = under {
                        let kit = Asked::KitOf(name.clone());
                        RosterEntry::Asked(of_unit(model, &unit), kit)
                    } else if model.quantity.is_none() && heads(&written, at) {
                        (unit, above) = (Some(model.name.clone()), None);
                        RosterEntry::Asked(of_unit(model, &unit), Asked::Heading)
                    } else {
                        above = Some((model.name.clone(), line.indent));
                        RosterEntry::Model(of_unit(model, &unit))
                    }
                }
                other => other,
            }
        };
        let text = line.raw.trim().chars().take(300).collect();
        lines.push(RosterLine {
            line: at + 1,
            text,
            entry,
        });
    }
    lines
}

fn of_unit(model: RosterModel, unit: &Option<String>) -> RosterModel {
    RosterModel {
        unit: unit.clone(),
        ..model
    }
}

/// A line as it was written, and without what lists are drawn with.
struct Written<'a> {
    raw: &'a str,
    text: String,
    /// How far in it stands, a tab as four.
    indent: usize,
}

impl<'a> Written<'a> {
    fn of((_, raw): (usize, &'a str)) -> Self {
        let blanks = raw.chars().take_while(|c| c.is_whitespace());
        let indent = blanks.map(|c| if c == '\t' { 4 } else { 1 }).sum();
        let text = ascii_digits(raw);
        Self {
            raw,
            text: without_bullet(text.trim()).to_owned(),
            indent,
        }
    }

    fn says_nothing(&self) -> bool {
        let text = &self.text;
        text.is_empty() || text.starts_with("//") || !text.chars().any(char::is_alphanumeric)
    }
}

/// A line without a count heads those under it: they stand further in, or it begins a paragraph in
/// which the next line has a count.
fn heads(lines: &[Written<'_>], at: usize) -> bool {
    let line = &lines[at];
    let Some(next) = lines.get(at + 1) else {
        return false;
    };
    if next.says_nothing() {
        // The title of the whole list.
        return lines[..at].iter().all(Written::says_nothing) && at + 2 < lines.len();
    }
    let begins = at == 0 || lines[at - 1].text.is_empty();
    let counted = || matches!(read_line(&next.text), RosterEntry::Model(m) if m.quantity.is_some());
    next.indent > line.indent || next.indent == line.indent && begins && counted()
}

/// `Total: 25 models`, `Sum 500`.
fn is_total(line: &str) -> bool {
    const WORDS: [&str; 6] = ["total", "totals", "sum", "altogether", "subtotal", "итого"];
    let first = line
        .split(|c: char| !c.is_alphabetic())
        .find(|w| !w.is_empty());
    let lower = line.to_lowercase();
    first.is_some_and(|w| WORDS.contains(&w.to_lowercase().as_str()))
        || lower.ends_with(" in total")
        || lower.ends_with(" in all")
        || lower.starts_with("grand total")
}

/// Digits of other scripts as the digits they are.
fn ascii_digits(text: &str) -> String {
    const ZEROS: [char; 6] = [
        '\u{660}', '\u{6f0}', '\u{966}', '\u{9e6}', '\u{e50}', '\u{ff10}',
    ];
    let digit = |c: char| {
        let zero = ZEROS
            .iter()
            .find(|z| (**z as u32..**z as u32 + 10).contains(&(c as u32)))?;
        char::from_digit(c as u32 - *zero as u32, 10)
    };
    text.chars()
        .map(|c| digit(c).unwrap_or(if c == '×' || c == '✕' { 'x' } else { c }))
        .collect()
}

/// Without what lists begin their lines with: dashes, dots, `3.`, `3)`.
fn without_bullet(line: &str) -> &str {
    let rest = line
        .trim_start_matches(['*', '•', '·', '–', '—', '+', '>', '▪', '◦'])
        .trim_start();
    let rest = match rest.strip_prefix('-') {
        Some(after) if !after.starts_with(|c: char| c.is_ascii_digit()) => after.trim_start(),
        _ => rest,
    };
    let digits = rest.len() - rest.trim_start_matches(|c: char| c.is_ascii_digit()).len();
    let numbered = (1..=3).contains(&digits)
        && matches!(rest.as_bytes().get(digits), Some(b'.' | b')'))
        && rest.as_bytes().get(digits + 1) == Some(&b' ');
    if numbered {
        rest[digits + 1..].trim_start()
    } else {
        rest
    }
}

/// The name of a unit: `# Reed-pikers`, `Reed-pikers:`, `Unit: Reed-pikers`, `== Reed-pikers ==`.
fn heading(line: &str) -> Option<String> {
    let lower = line.to_lowercase();
    let named = lower
        .strip_prefix("unit:")
        .or_else(|| lower.strip_prefix("unit "));
    let marked = line.starts_with('#')
        || line.starts_with("==")
        || line.starts_with('[')
        || line.starts_with("**");
    let closed = line.ends_with(':');
    if named.is_none() && !marked && !closed {
        return None;
    }
    let name = match named {
        Some(rest) => &line[line.len() - rest.len()..],
        None => line,
    };
    let name = name.trim_matches(|c: char| "#=[]*: ".contains(c));
    let counted = !marked && named.is_none() && name.starts_with(|c: char| c.is_ascii_digit());
    (name.chars().any(char::is_alphabetic) && !counted).then(|| tidy(name))
}

/// A number in a line.
#[derive(Debug, Clone, Copy)]
struct Number {
    from: usize,
    to: usize,
    value: f64,
    whole: bool,
    negative: bool,
}

fn numbers(line: &str) -> Vec<Number> {
    let bytes = line.as_bytes();
    let mut found = Vec::new();
    let mut at = 0;
    while at < bytes.len() {
        if !bytes[at].is_ascii_digit() {
            at += 1;
            continue;
        }
        let from = at;
        while at < bytes.len() && bytes[at].is_ascii_digit() {
            at += 1;
        }
        let digit_at = |i: usize| bytes.get(i).is_some_and(u8::is_ascii_digit);
        let mut text = line[from..at].to_owned();
        let mut whole = true;
        // 1,000 is a thousand; 28.5 and 28,5 are not whole.
        while matches!(bytes.get(at), Some(b'.' | b',')) && digit_at(at + 1) {
            let mut end = at + 1;
            while digit_at(end) {
                end += 1;
            }
            let thousands = bytes[at] == b',' && end - at == 4 && text.len() <= 3 && whole;
            if thousands {
                text.push_str(&line[at + 1..end]);
            } else if whole {
                text = format!("{text}.{}", &line[at + 1..end]);
                whole = false;
            } else {
                break;
            }
            at = end;
        }
        let before = &line[..from];
        let negative = before.ends_with('-')
            && !before
                .trim_end_matches('-')
                .ends_with(|c: char| !c.is_whitespace());
        found.push(Number {
            from,
            to: at,
            value: text.parse().unwrap_or(f64::INFINITY),
            whole,
            negative,
        });
    }
    found
}

/// Reads a line that is no heading.
fn read_line(line: &str) -> RosterEntry {
    let mut rest = line.to_owned();
    let base_mm = cut_base(&mut rest);
    cut_points(&mut rest);
    let options = cut_options(&mut rest);
    let (quantity, doubt) = cut_count(&mut rest);
    let name = tidy(&rest);
    if !name.chars().any(char::is_alphabetic) {
        return RosterEntry::Unclear("no name: say what they are");
    }
    let given: Option<u64> = options.iter().map(|(_, n)| n.map(u64::from)).sum();
    let differs = !options.is_empty()
        && given.is_some()
        && quantity.is_some_and(|q| given != Some(u64::from(q)));
    let doubt = doubt.or(differs.then_some("the options do not add up to the count"));
    RosterEntry::Model(RosterModel {
        unit: None,
        name,
        quantity,
        base_mm,
        options,
        doubt,
    })
}

/// Words around a base that say nothing more.
const AROUND_BASE: [&str; 11] = [
    "on", "a", "an", "base", "bases", "round", "rounds", "oval", "ovals", "ø", "basis",
];

/// No base is narrower.
const NARROWEST_MM: f64 = 15.0;

fn cut_base(line: &mut String) -> Option<[f64; 2]> {
    let all = numbers(line);
    for (index, number) in all.iter().enumerate() {
        let after = line[number.to..].trim_start().to_lowercase();
        // 60x35 is an oval, 10x25 are ten of 25: no base is that narrow.
        let second = all
            .get(index + 1)
            .filter(|n| line[number.to..n.from].trim() == "x" && number.value >= NARROWEST_MM);
        let end = second.map_or(number.to, |n| n.to);
        let unit = line[end..].trim_start();
        let metric = ["mm", "мм", "MM", "Mm"].iter().find(|mm| {
            unit.starts_with(**mm) && !unit[mm.len()..].starts_with(char::is_alphabetic)
        });
        let before = line[..number.from]
            .trim_end_matches([' ', ':', '='])
            .to_lowercase();
        let named = before.ends_with("base") || before.ends_with("bases") || before.ends_with('ø');
        let oval = second.is_some_and(|n| n.value >= NARROWEST_MM);
        if metric.is_none()
            && !oval
            && !(named
                && (after.is_empty()
                    || !after.starts_with(char::is_alphabetic)
                    || second.is_some()))
        {
            continue;
        }
        let depth = second.map_or(number.value, |n| n.value);
        let text = format!("{}x{depth}", number.value);
        let Some(base) = read_base(&text) else {
            continue;
        };
        let after_unit = metric.map_or(end, |mm| line.len() - unit.len() + mm.len());
        let (from, to) = around(line, number.from, after_unit);
        line.replace_range(from..to, " , ");
        return Some(base);
    }
    None
}

/// Widens a range over the words around a base.
fn around(line: &str, mut from: usize, mut to: usize) -> (usize, usize) {
    loop {
        let before = line[..from].trim_end_matches([' ', ':', '=', '(', '[', 'ø', 'Ø']);
        let word = before
            .rsplit(|c: char| !c.is_alphabetic())
            .next()
            .unwrap_or_default();
        if !word.is_empty() && AROUND_BASE.contains(&word.to_lowercase().as_str()) {
            from = before.len() - word.len();
        } else {
            from = if before.len() < from {
                before.len()
            } else {
                from
            };
            break;
        }
    }
    loop {
        let skipped = line[to..].len() - line[to..].trim_start_matches([' ', ')', ']']).len();
        let word: String = line[to + skipped..]
            .chars()
            .take_while(|c| c.is_alphabetic())
            .collect();
        if !word.is_empty() && AROUND_BASE.contains(&word.to_lowercase().as_str()) {
            to += skipped + word.len();
        } else {
            to += line[to..].len() - line[to..].trim_start_matches([')', ']']).len();
            break;
        }
    }
    (from, to)
}

/// How much of what follows points is about them: `each`, `per model`.
fn of_points(after: &str) -> usize {
    const WORDS: [&str; 8] = [
        "each",
        "ea",
        "apiece",
        "per",
        "model",
        "models",
        "total",
        "altogether",
    ];
    let mut taken = 0;
    loop {
        let rest = after[taken..].trim_start_matches(' ');
        let word: String = rest.chars().take_while(|c| c.is_alphabetic()).collect();
        if word.is_empty() || !WORDS.contains(&word.to_lowercase().as_str()) {
            return taken;
        }
        taken = after.len() - rest.len() + word.len();
    }
}

/// Points are no counts.
fn cut_points(line: &mut String) {
    const WORDS: [&str; 5] = ["pts", "pt", "points", "point", "очков"];
    while let Some((from, to)) = numbers(line).iter().find_map(|n| {
        let after = line[n.to..].trim_start();
        let word: String = after.chars().take_while(|c| c.is_alphabetic()).collect();
        let counted = WORDS.contains(&word.to_lowercase().as_str());
        let priced = line[..n.from].ends_with('@');
        if counted {
            let end = line.len() - after.len() + word.len();
            Some((n.from, end + of_points(&line[end..])))
        } else {
            priced.then(|| (n.from - 1, n.to))
        }
    }) {
        line.replace_range(from..to, " ");
    }
    if let Some((from, to)) = bare_points(line) {
        line.replace_range(from..to, " ");
    }
}

/// A number alone in brackets at the end is points where the line begins with a smaller one:
/// `10 rangers [120]`.
fn bare_points(line: &str) -> Option<(usize, usize)> {
    let all = numbers(line);
    let (first, last) = (all.first()?, all.last()?);
    let open = line[..last.from].trim_end();
    let after = line[last.to..].trim_start();
    let bracketed = [('(', ')'), ('[', ']')].iter().any(|(opens, closes)| {
        open.ends_with(*opens)
            && after.trim_end_matches([' ', ',']).strip_prefix(*closes) == Some("")
    });
    let begins = line[..first.from]
        .trim_matches([' ', 'x', 'X', '×'])
        .is_empty();
    (bracketed && begins && first.whole && last.value > first.value)
        .then(|| (open.len() - 1, line.len()))
}

/// `with spear or axe`, `(3 spear, 2 axe)`.
fn cut_options(line: &mut String) -> Vec<(String, Option<u32>)> {
    if let Some(open) = line.find('(')
        && let Some(close) = line[open..].find(')')
    {
        let inner = line[open + 1..open + close].to_owned();
        let several = inner.contains([',', ';', '/']);
        if several
            && let Ok(options) = crate::army::kit::parse_options(&inner)
            && options.len() >= 2
        {
            line.replace_range(open..=open + close, " ");
            return options;
        }
    }
    // Lower-casing may change lengths in other scripts: only ASCII words are looked for.
    let lower = line.to_ascii_lowercase();
    let Some(with) = lower.find(" with ") else {
        return Vec::new();
    };
    let tail = &line[with + 6..];
    let pieces = split_or(tail);
    if pieces.len() < 2 {
        return Vec::new();
    }
    let joined = pieces.join(", ");
    match crate::army::kit::parse_options(&joined) {
        Ok(options) if options.len() == pieces.len() => {
            line.truncate(with);
            options
        }
        _ => Vec::new(),
    }
}

fn split_or(text: &str) -> Vec<String> {
    let lower = text.to_ascii_lowercase();
    let mut pieces = Vec::new();
    let mut from = 0;
    for (at, _) in lower.match_indices(" or ") {
        pieces.push(text[from..at].to_owned());
        from = at + 4;
    }
    pieces.push(text[from..].to_owned());
    if pieces.len() == 1 {
        pieces = text.split('/').map(str::to_owned).collect();
    }
    let cleaned = pieces.iter().map(|p| tidy(p)).filter(|p| !p.is_empty());
    cleaned.collect()
}

const SEVERAL: &str = "more than one number could be the count";

/// A number with the stretch of the line that goes with it.
type Counted = (usize, usize, Number);

/// Numbers that are marked as counts, and one at the end that may be one.
fn counts_in(line: &str, all: &[Number]) -> (Vec<Counted>, Option<Counted>) {
    let start = line.len() - line.trim_start_matches([' ', ',', '-']).len();
    let end = line.trim_end_matches([' ', ',', '.', ';']).len();
    let mut strong: Vec<Counted> = Vec::new();
    let mut weak: Option<Counted> = None;
    for n in all {
        let (before, after) = (&line[..n.from], &line[n.to..]);
        let times_before =
            before.ends_with('x') && !before[..before.len() - 1].ends_with(char::is_alphanumeric);
        let spaced = before
            .strip_suffix("x ")
            .filter(|b| b.is_empty() || b.ends_with(' '));
        let times_after = after
            .strip_prefix('x')
            .or_else(|| after.strip_prefix(" x"))
            .filter(|rest| !rest.starts_with(char::is_alphanumeric));
        let leading = n.from <= start || before.trim_matches([' ', ',', '-']).is_empty();
        let bracketed =
            before.trim_end().ends_with(['(', '[']) && after.trim_start().starts_with([')', ']']);
        let marked = before.trim_end().ends_with([':', '=', '|', '\t', ',']) && n.to >= end;
        let dashed = (before.ends_with("- ") || before.ends_with("– ")) && n.to >= end;
        let to = if let Some(rest) = times_after {
            line.len() - rest.len()
        } else {
            n.to
        };
        let from = if times_before {
            n.from - 1
        } else if let Some(rest) = spaced {
            rest.len()
        } else {
            n.from
        };
        let glued = after.starts_with(char::is_alphabetic) && times_after.is_none();
        if glued && !leading {
            continue;
        }
        if leading
            || times_before
            || spaced.is_some()
            || times_after.is_some()
            || bracketed
            || marked
            || dashed
        {
            strong.push((from, to, *n));
        } else if n.to >= end && before.ends_with(' ') {
            weak = Some((from, to, *n));
        }
    }
    (strong, weak)
}

/// Cuts the count out. Nothing with a doubt when the line does not say it, or says it twice.
fn cut_count(line: &mut String) -> (Option<u32>, Option<&'static str>) {
    let all = numbers(line);
    if let [a, b, ..] = all.as_slice()
        && matches!(line[a.to..b.from].trim(), "-" | "–" | "to")
    {
        return (None, Some("a range is no count"));
    }
    // 2x5: two groups of five, or two that carry five of something.
    if let [a, b, ..] = all.as_slice()
        && line[a.to..b.from].trim() == "x"
        && line[..a.from].trim_matches([' ', ',', '-']).is_empty()
    {
        let rest = line[b.to..].to_owned();
        *line = rest;
        return (
            None,
            Some("two numbers, one times the other: say how many models"),
        );
    }
    let (strong, weak) = counts_in(line, &all);
    if strong
        .windows(2)
        .any(|pair| pair[0].2.value != pair[1].2.value)
    {
        return (None, Some(SEVERAL));
    }
    let chosen = if strong.is_empty() {
        weak.into_iter().collect()
    } else {
        strong
    };
    let Some((_, _, n)) = chosen.first().copied() else {
        return word_count(line);
    };
    if n.negative {
        return (None, Some("a count is not negative"));
    }
    if !n.whole {
        return (None, Some("the count is no whole number"));
    }
    for (from, to, _) in chosen.iter().rev() {
        line.replace_range(*from..*to, " ");
    }
    if n.value == 0.0 {
        (None, Some("a count of 0"))
    } else if n.value > f64::from(MOST_MODELS) {
        (None, Some(TOO_MANY))
    } else {
        (Some(n.value as u32), None)
    }
}

const NUMBER_WORDS: [&str; 12] = [
    "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven",
    "twelve",
];

/// A number written as a word at the beginning.
fn word_count(line: &mut String) -> (Option<u32>, Option<&'static str>) {
    let trimmed = line.trim_start();
    let word: String = trimmed.chars().take_while(|c| c.is_alphabetic()).collect();
    let rest = &trimmed[word.len()..];
    let found = NUMBER_WORDS
        .iter()
        .position(|w| word.eq_ignore_ascii_case(w));
    match found {
        Some(index) if rest.starts_with(' ') => {
            *line = rest.to_owned();
            (Some(index as u32 + 1), None)
        }
        _ => (None, Some("no count: say how many")),
    }
}

/// One space between words, no punctuation left hanging.
fn tidy(text: &str) -> String {
    let joined = text.split_whitespace().collect::<Vec<_>>().join(" ");
    let joined = joined
        .replace("( )", "")
        .replace("()", "")
        .replace("[]", "")
        .replace("[ ]", "");
    let joined = joined.replace(" ,", ",");
    let trimmed = joined.trim_matches(|c: char| " ,;:.-–—=|@".contains(c));
    let unpaired = |open: char, close: char, t: &str| t.contains(open) != t.contains(close);
    let mut text = trimmed.to_owned();
    for (open, close) in [('(', ')'), ('[', ']')] {
        if unpaired(open, close, &text) {
            text = text.replace([open, close], "");
        }
    }
    let text = text.trim_matches(|c: char| " ,;:.-–—=|@".contains(c));
    text.chars().take(120).collect()
}
