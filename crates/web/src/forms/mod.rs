//! Input from forms: typed text becomes values at the door, and what was typed is never lost.

pub(crate) mod attendance;
pub(crate) mod kits;
pub(crate) mod many;
pub(crate) mod models;
pub(crate) mod parts;
pub(crate) mod printers;
pub(crate) mod resins;
pub(crate) mod rosters;
pub(crate) mod settings;
pub(crate) mod start;
pub(crate) mod units;
pub(crate) mod workshop;

use crate::currency;
use std::collections::BTreeMap;
use std::str::FromStr;

use axum::body::Bytes;
use wembrit_core::army::roster::read_base;
use wembrit_core::units::{LayerHeight, Money};

/// What a form sent: every name with its values, trimmed.
#[derive(Debug, Clone, Default)]
pub(crate) struct Input(Vec<(String, String)>);

impl Input {
    pub(crate) fn parse(body: &Bytes) -> Self {
        Self(
            form_urlencoded::parse(body)
                .map(|(k, v)| (k.into_owned(), v.trim().to_owned()))
                .collect(),
        )
    }

    /// From an address instead of a form.
    pub(crate) fn of(pairs: &[(&str, &str)]) -> Self {
        let owned = |(k, v): &(&str, &str)| ((*k).to_owned(), v.trim().to_owned());
        Self(pairs.iter().map(owned).collect())
    }

    pub(crate) fn get(&self, name: &str) -> &str {
        self.0
            .iter()
            .find(|(k, _)| k == name)
            .map_or("", |(_, v)| v.as_str())
    }

    /// What is typed as a decimal, with a point or a comma.
    pub(crate) fn decimal(&self, name: &str) -> Option<f64> {
        self.get(name).replace(',', ".").parse().ok()
    }

    /// A figure within bounds, or nothing where nothing is typed.
    pub(crate) fn within(&self, name: &str, least: f64, most: f64) -> Result<Option<f64>, String> {
        let text = self.get(name);
        let fits = self.decimal(name).filter(|n| (least..=most).contains(n));
        if text.is_empty() || fits.is_some() {
            return Ok(fits);
        }
        Err(format!("'{text}' is no figure from {least} to {most}"))
    }

    pub(crate) fn all<'a>(&'a self, name: &'a str) -> impl Iterator<Item = &'a str> {
        self.0
            .iter()
            .filter(move |(k, _)| k == name)
            .map(|(_, v)| v.as_str())
    }

    pub(crate) fn has(&self, name: &str) -> bool {
        self.0.iter().any(|(k, _)| k == name)
    }

    /// The row version the form was filled in from: 0, which no row has, where it says none that is counted to.
    pub(crate) fn row_version(&self) -> i64 {
        let said: i64 = self.get("row_version").parse().unwrap_or(0);
        if (0..MOST_COUNTED).contains(&said) {
            said
        } else {
            0
        }
    }
}

/// Row versions are counted to here at most, as in archives.
const MOST_COUNTED: i64 = 1_000_000_000;

/// One sentence for each field that cannot be taken.
pub(crate) type Faults = BTreeMap<&'static str, String>;

/// Reads typed values and collects every fault, not the first alone.
pub(crate) struct Reader<'a> {
    input: &'a Input,
    faults: Faults,
}

impl<'a> Reader<'a> {
    pub(crate) fn new(input: &'a Input) -> Self {
        Self {
            input,
            faults: Faults::new(),
        }
    }

    fn fault(&mut self, name: &'static str, why: impl Into<String>) {
        self.faults.entry(name).or_insert_with(|| why.into());
    }

    pub(crate) fn name(&mut self, name: &'static str) -> String {
        let text = self.input.get(name);
        if text.is_empty() {
            self.fault(name, "give it a name");
        } else if text.chars().count() > 120 {
            self.fault(name, "use at most 120 characters");
        }
        text.to_owned()
    }

    pub(crate) fn number(&mut self, name: &'static str, least: f64, most: f64) -> f64 {
        match self.input.decimal(name) {
            Some(number) if (least..=most).contains(&number) => number,
            Some(_) => {
                self.fault(name, format!("must be from {least} to {most}"));
                least
            }
            None => {
                self.fault(name, "write a number, such as 12 or 0.5");
                least
            }
        }
    }

    pub(crate) fn whole(&mut self, name: &'static str, least: u32, most: u32) -> u32 {
        match self.input.get(name).parse::<u32>() {
            Ok(number) if (least..=most).contains(&number) => number,
            Ok(_) => {
                self.fault(name, format!("must be from {least} to {most}"));
                least
            }
            Err(_) => {
                self.fault(name, format!("write a whole number from {least} to {most}"));
                least
            }
        }
    }

    pub(crate) fn money(&mut self, name: &'static str) -> Money {
        currency::read(self.input.get(name)).unwrap_or_else(|error| {
            self.fault(name, error.to_string());
            Money(0)
        })
    }

    pub(crate) fn layer(&mut self, name: &'static str) -> LayerHeight {
        let mm = self.number(name, LayerHeight::MIN.mm(), LayerHeight::MAX.mm());
        LayerHeight::from_mm(mm).unwrap_or(LayerHeight::MIN)
    }

    /// Width and depth of a base.
    pub(crate) fn base(&mut self, name: &'static str) -> [f64; 2] {
        read_base(self.input.get(name)).unwrap_or_else(|| {
            self.fault(
                name,
                "write a diameter such as 25, an oval such as 60x35, or 0 for none",
            );
            [0.0, 0.0]
        })
    }

    /// One of fixed words or identities.
    pub(crate) fn choice<T: FromStr>(&mut self, name: &'static str, or: T) -> T {
        self.input.get(name).parse().unwrap_or_else(|_| {
            self.fault(name, "choose one of these");
            or
        })
    }

    pub(crate) fn refuse(&mut self, name: &'static str, why: &str) {
        self.fault(name, why);
    }

    pub(crate) fn done<T>(self, value: T) -> Result<T, Faults> {
        if self.faults.is_empty() {
            Ok(value)
        } else {
            Err(self.faults)
        }
    }
}

/// How a field is filled in.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Kind {
    /// Words.
    Text,
    /// Lines.
    Lines,
    /// A number.
    Number,
    /// One of these: value and what a person reads.
    Choice(Vec<(String, String)>),
    /// Any of these; the value is a list parted by commas.
    Ticks(Vec<(String, String)>),
}

/// One field of a form.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Field {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) unit: &'static str,
    pub(crate) hint: &'static str,
    pub(crate) kind: Kind,
    pub(crate) value: String,
    pub(crate) fault: String,
    pub(crate) assumed: bool,
    /// It stands folded away among what few machines have; not while it is typed wrong.
    pub(crate) folded: bool,
    /// What stands there now, when somebody else changed it meanwhile.
    pub(crate) now: Option<String>,
}

impl Field {
    pub(crate) fn new(
        name: &'static str,
        label: &'static str,
        kind: Kind,
        value: impl ToString,
    ) -> Self {
        Self {
            name,
            label,
            unit: "",
            hint: "",
            kind,
            value: value.to_string(),
            fault: String::new(),
            assumed: false,
            folded: false,
            now: None,
        }
    }

    pub(crate) fn text(name: &'static str, label: &'static str, value: impl ToString) -> Self {
        Self::new(name, label, Kind::Text, value)
    }

    pub(crate) fn lines(name: &'static str, label: &'static str, value: impl ToString) -> Self {
        Self::new(name, label, Kind::Lines, value)
    }

    pub(crate) fn number(
        name: &'static str,
        label: &'static str,
        unit: &'static str,
        value: impl ToString,
    ) -> Self {
        Self {
            unit,
            ..Self::new(name, label, Kind::Number, value)
        }
    }

    /// Folded away where that is so.
    pub(crate) fn folded(self, folded: bool) -> Self {
        Self { folded, ..self }
    }

    pub(crate) fn hint(self, hint: &'static str) -> Self {
        Self { hint, ..self }
    }

    /// Its value as a person reads it: the name of a choice, not its identity.
    pub(crate) fn reading(&self) -> String {
        let (Kind::Choice(all) | Kind::Ticks(all)) = &self.kind else {
            return self.value.clone();
        };
        let chosen = all.iter().filter(|(value, _)| self.ticked(value));
        chosen
            .map(|(_, name)| name.as_str())
            .collect::<Vec<_>>()
            .join(", ")
    }

    /// Ticked, for one of several.
    pub(crate) fn ticked(&self, value: &str) -> bool {
        self.value.split(',').any(|v| v == value)
    }
}

/// The fields as they were typed, with their faults.
pub(crate) fn refill(mut fields: Vec<Field>, input: &Input, faults: &Faults) -> Vec<Field> {
    for field in &mut fields {
        field.value = typed(field, input);
        field.fault = faults.get(field.name).cloned().unwrap_or_default();
    }
    fields
}

fn typed(field: &Field, input: &Input) -> String {
    match field.kind {
        Kind::Ticks(_) => input.all(field.name).collect::<Vec<_>>().join(","),
        _ => input.get(field.name).to_owned(),
    }
}

/// Marks the fields nobody has confirmed.
pub(crate) fn mark_assumed(mut fields: Vec<Field>, assumed: &str) -> Vec<Field> {
    for field in &mut fields {
        field.assumed = assumed.split(',').any(|name| name == field.name);
    }
    fields
}

/// What stays assumed after saving: fields that were, were not changed, and not confirmed.
pub(crate) fn still_assumed(before: &[Field], input: &Input) -> String {
    if input.has("confirm_all") {
        return String::new();
    }
    let stays = before
        .iter()
        .filter(|f| f.assumed && typed(f, input) == f.value);
    stays.map(|f| f.name).collect::<Vec<_>>().join(",")
}

/// A number as a person would write it.
pub(crate) fn plain(number: f64) -> String {
    let text = format!("{number:.4}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// Choices from words.
pub(crate) fn words<T: ToString>(all: &[T]) -> Kind {
    Kind::Choice(all.iter().map(|w| (w.to_string(), w.to_string())).collect())
}

#[cfg(test)]
mod forms_tests;
