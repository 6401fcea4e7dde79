//! Scheduling alone, as a JSON file. The format is that of `../shared/bench/schedule/README.md`.

use std::collections::HashMap;

use serde_json::{Value, json};

use super::bound::{Because, ScheduleBound};
use super::deadline::{Possible, possible};
use super::shop::{Busy, Job, LATEST, Machine, Minute, Schedule, Shop, Window};

/// An instance that was read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ShopInstance {
    /// Names of the machines, in order.
    pub printers: Vec<String>,
    /// Names of the jobs, in order.
    pub plates: Vec<String>,
    /// What is to be scheduled.
    pub shop: Shop,
    /// The end that is asked about.
    pub deadline: Option<Minute>,
}

/// Why an instance cannot be read, in one line.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ShopInstanceError {
    /// No JSON.
    #[error("it is no JSON: {0}")]
    Json(String),
    /// Something is missing, or no sensible value.
    #[error("{0} is missing or no sensible value")]
    Missing(String),
}

/// Plates of an instance at most.
const MOST_PLATES: usize = 5_000;
/// Printers of an instance at most.
const MOST_PRINTERS: usize = 500;
/// Windows of an instance at most.
const MOST_WINDOWS: usize = 50_000;

fn missing(what: impl Into<String>) -> ShopInstanceError {
    ShopInstanceError::Missing(what.into())
}

fn whole(of: &Value, name: &str, what: &str) -> Result<Minute, ShopInstanceError> {
    let found = of.get(name).and_then(Value::as_u64);
    found
        .filter(|n| *n <= u64::from(LATEST))
        .map(|n| n as Minute)
        .ok_or_else(|| missing(format!("'{name}' of {what}")))
}

fn whole_or(of: &Value, name: &str, what: &str, or: Minute) -> Result<Minute, ShopInstanceError> {
    match of.get(name) {
        None | Some(Value::Null) => Ok(or),
        Some(_) => whole(of, name, what),
    }
}

fn list<'v>(of: &'v Value, name: &str, most: usize) -> Result<&'v Vec<Value>, ShopInstanceError> {
    of.get(name)
        .and_then(Value::as_array)
        .filter(|all| all.len() <= most)
        .ok_or_else(|| missing(format!("'{name}'")))
}

fn id(of: &Value, what: &str, known: &mut Vec<String>) -> Result<String, ShopInstanceError> {
    let found = of.get("id").and_then(Value::as_str).map(str::to_owned);
    let found = found.ok_or_else(|| missing(format!("'id' of {what} {}", known.len() + 1)))?;
    if known.contains(&found) {
        return Err(missing(format!("an 'id' of its own of {what} '{found}'")));
    }
    known.push(found.clone());
    Ok(found)
}

impl ShopInstance {
    /// Reads an instance.
    ///
    /// # Errors
    /// [`ShopInstanceError`], one line.
    pub fn read(text: &str) -> Result<Self, ShopInstanceError> {
        let all: Value =
            serde_json::from_str(text).map_err(|e| ShopInstanceError::Json(e.to_string()))?;
        let (mut printers, mut machines) = (Vec::new(), Vec::new());
        for printer in list(&all, "printers", MOST_PRINTERS)? {
            let name = id(printer, "printer", &mut printers)?;
            let of = format!("printer '{name}'");
            let busy = match printer.get("busy_until_min") {
                None | Some(Value::Null) => None,
                Some(_) => Some(Busy {
                    until: whole(printer, "busy_until_min", &of)?,
                    unload: whole(printer, "unload_min", &of)?,
                }),
            };
            machines.push(Machine {
                busy,
                ..Machine::default()
            });
        }
        let at: HashMap<&str, usize> = printers
            .iter()
            .enumerate()
            .map(|(i, name)| (name.as_str(), i))
            .collect();
        let look = whole_or(&all, "look_min", "the instance", 0)?;
        let (mut plates, mut jobs) = (Vec::new(), Vec::new());
        for plate in list(&all, "plates", MOST_PLATES)? {
            let name = id(plate, "plate", &mut plates)?;
            let of = format!("plate '{name}'");
            let mut print = vec![None; machines.len()];
            let on = plate.get("print_min").and_then(Value::as_object);
            let on = on.ok_or_else(|| missing(format!("'print_min' of {of}")))?;
            for printer in on.keys() {
                let minutes = whole(
                    &plate["print_min"],
                    printer,
                    &format!("'print_min' of {of}"),
                )?;
                if let Some(machine) = at.get(printer.as_str()) {
                    print[*machine] = Some(minutes);
                }
            }
            jobs.push(Job {
                print,
                load: whole(plate, "load_min", &of)?,
                stay: look,
                unload: whole(plate, "unload_min", &of)?,
                weight: whole_or(plate, "weight", &of, 1)?.min(1_000_000),
                ..Job::default()
            });
        }
        let mut attended = Vec::new();
        for window in list(&all, "attended_min", MOST_WINDOWS)? {
            let end = |k: usize| {
                let found = window.get(k).and_then(Value::as_u64);
                found
                    .filter(|n| *n <= u64::from(LATEST))
                    .map(|n| n as Minute)
            };
            let (from, to) = end(0)
                .zip(end(1))
                .ok_or_else(|| missing("a window of 'attended_min'"))?;
            attended.push(Window { from, to });
        }
        let deadline = match all.get("deadline_min") {
            None | Some(Value::Null) => None,
            Some(_) => Some(whole(&all, "deadline_min", "the instance")?),
        };
        Ok(Self {
            printers,
            plates,
            shop: Shop {
                machines,
                jobs,
                attended: Shop::ordered(attended),
                quiet: Vec::new(),
            },
            deadline,
        })
    }

    /// A schedule as JSON, with the bound and what is to be said of the deadline.
    #[must_use]
    pub fn answer(&self, schedule: &Schedule, bound: ScheduleBound) -> Value {
        let jobs: Vec<Value> = schedule
            .slots
            .iter()
            .map(|s| {
                json!({
                    "plate": self.plates[s.job],
                    "printer": self.printers[s.machine],
                    "load_start_min": s.load,
                    "unload_start_min": s.unload,
                })
            })
            .collect();
        let first: Vec<Value> = schedule
            .first_unloads
            .iter()
            .map(|(m, at)| json!({ "printer": self.printers[*m], "unload_start_min": at }))
            .collect();
        let mut answer = json!({ "jobs": jobs, "first_unloads": first, "bound_min": bound.at });
        if let Some(deadline) = self.deadline {
            let end = schedule.ends(&self.shop).last;
            let found = possible(end, bound.at, deadline);
            let over = end.saturating_sub(deadline);
            answer["deadline"] = json!({
                "possible": match found {
                    Possible::Yes => Some(true),
                    Possible::No => Some(false),
                    Possible::Open => None,
                },
                "over_min": over,
                "why": self.why(found, bound, end),
            });
        }
        answer
    }

    fn why(&self, found: Possible, bound: ScheduleBound, end: Minute) -> String {
        let at = bound.at;
        let reason = match bound.because {
            Because::Nothing => "there is nothing to do".to_owned(),
            Because::Longest { job } => {
                let plate = &self.plates[job];
                format!("{plate} is not off before {at}, wherever it is printed")
            }
            Because::Hands => format!("loading and taking off alone take the hands until {at}"),
            Because::Machine { machine } => {
                let printer = &self.printers[machine];
                format!("what only {printer} can print is not off before {at}")
            }
            Because::Machines => format!("all printers together are not done before {at}"),
        };
        match found {
            Possible::Yes => format!("a schedule that ends at {end} is here"),
            Possible::No => reason,
            Possible::Open => {
                format!(
                    "the best schedule found ends at {end}; that none is shorter is not proven: {reason}"
                )
            }
        }
    }
}
