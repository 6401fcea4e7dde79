//! What the templates are given: words and figures ready to be read.

pub(crate) mod advice;
pub(crate) mod archive;
pub(crate) mod beside;
pub(crate) mod bin;
pub(crate) mod build_sheet;
pub(crate) mod chance;
pub(crate) mod compare;
pub(crate) mod concerns;
mod day_lines;
pub(crate) mod door;
mod error;
pub(crate) mod exposure;
pub(crate) mod finishing;
pub(crate) mod hands;
pub(crate) mod holding;
pub(crate) mod judging;
pub(crate) mod lasts;
pub(crate) mod ledger;
pub(crate) mod links;
pub(crate) mod live;
pub(crate) mod matching;
pub(crate) mod miniatures;
pub(crate) mod model_cost;
pub(crate) mod muster;
pub(crate) mod odds;
pub(crate) mod opened;
mod orphans;
pub(crate) mod paces;
pub(crate) mod pages_out;
pub(crate) mod per_copy;
pub(crate) mod plans;
pub(crate) mod plates;
pub(crate) mod poses;
pub(crate) mod practice;
pub(crate) mod progress;
pub(crate) mod projects;
pub(crate) mod recipes;
pub(crate) mod rosters;
pub(crate) mod runs;
pub(crate) mod scale;
pub(crate) mod schedule;
pub(crate) mod sculpts;
pub(crate) mod search;
pub(crate) mod setups;
mod shapes;
pub(crate) mod show;
pub(crate) mod slip;
pub(crate) mod sorting;
pub(crate) mod stale;
pub(crate) mod stores;
mod supported;
pub(crate) mod thumbs;
pub(crate) mod today;
pub(crate) mod trials;
pub(crate) mod unit_leaf;
pub(crate) mod waiting;
pub(crate) mod wears;
pub(crate) mod weighing;
pub(crate) mod which_copy;
pub(crate) mod workshop;

use askama::Template;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use jiff::tz::TimeZone;
use wembrit_core::army::Project;
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::pages::frame::Frame;

use crate::assets;
use crate::error::WebError;
use crate::forms::{Faults, Field, Input, refill};
use crate::once::with_keys;
use crate::state::App;

/// The page of the row at the top that is open.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Tab {
    Today,
    Muster,
    Sculpts,
    Plates,
    Finishing,
    Ledger,
    Workshop,
    None,
}

/// What every page shows around its own content.
#[derive(Debug, Clone)]
pub(crate) struct Page {
    pub(crate) title: String,
    tab: Tab,
    pub(crate) workshop: String,
    pub(crate) currency: String,
    pub(crate) zone: TimeZone,
    pub(crate) project: Option<Project>,
    pub(crate) projects: Vec<Project>,
    /// Plates of all projects that need a hand: to be taken off or to be judged.
    pub(crate) plates_open: u64,
    /// Batches on their way.
    pub(crate) batches_open: u64,
    pub(crate) notice: Option<Notice>,
    pub(crate) demo: bool,
    /// How many times as fast as outside the time passes; of the demo, where that can be set.
    pub(crate) speed: Option<u32>,
}

/// One line under the masthead, with a way back when there is one.
#[derive(Debug, Clone)]
pub(crate) struct Notice {
    pub(crate) text: String,
    /// Where to post to undo it.
    pub(crate) undo: Option<String>,
}

impl Page {
    /// Around an error: shows nothing that has to be read from the data file.
    pub(crate) fn bare(title: &str) -> Self {
        Self {
            title: title.into(),
            tab: Tab::None,
            workshop: String::new(),
            currency: String::new(),
            zone: TimeZone::UTC,
            project: None,
            projects: Vec::new(),
            plates_open: 0,
            batches_open: 0,
            notice: None,
            demo: false,
            speed: None,
        }
    }

    /// What is around a page.
    pub(crate) fn new(app: &App, tab: Tab, title: &str, frame: Frame) -> Self {
        Self {
            title: title.into(),
            tab,
            workshop: frame.workshop.name,
            currency: frame.workshop.currency,
            zone: show::zone(&frame.workshop.time_zone),
            project: frame.project,
            projects: frame.projects,
            plates_open: frame.plates_open,
            batches_open: frame.batches_open,
            notice: None,
            demo: app.settings.demo,
            speed: app.settings.demo.then(|| app.clock().speed()).flatten(),
        }
    }

    /// How fast time passes, where that can be set.
    pub(crate) fn speed_words(&self) -> Option<String> {
        self.speed.map(speed_words)
    }

    /// What else can be set, and how it is called.
    pub(crate) fn other_speeds(&self) -> Vec<(u32, String)> {
        let others = [1, 60, 600, 3600].into_iter();
        let others = others.filter(|s| Some(*s) != self.speed);
        others.map(|s| (s, speed_words(s))).collect()
    }

    /// The project that is open.
    pub(crate) fn project_id(&self) -> Option<ProjectId> {
        self.project.as_ref().map(|p| p.id)
    }

    /// With a line under the masthead.
    pub(crate) fn noticed(self, notice: Option<Notice>) -> Self {
        Self { notice, ..self }
    }

    /// The address of a style, script or font.
    pub(crate) fn asset(&self, path: &str) -> String {
        format!("/assets/{}/{path}", *assets::HASH)
    }

    /// The other projects, on the page that is open where they have one: address and name.
    pub(crate) fn other_projects(&self) -> Vec<(String, &str)> {
        let open = self.project_id();
        let others = self.projects.iter().filter(|p| Some(p.id) != open);
        let place = match self.tab {
            Tab::Plates => "plates",
            Tab::Ledger => "ledger",
            _ => "muster",
        };
        let to = |p: &Project| format!("/projects/{}/{place}", p.id);
        others.map(|p| (to(p), p.name.as_str())).collect()
    }

    /// The row of pages: address, name, key, open, tally.
    pub(crate) fn tabs(&self) -> Vec<(String, &'static str, &'static str, bool, u64)> {
        let to = |what: &str| match &self.project {
            Some(p) => format!("/projects/{}/{what}", p.id),
            None => format!("/{what}"),
        };
        let (muster, plates, ledger) = (to("muster"), to("plates"), to("ledger"));
        let tab = |to: String, name, key, tab, tally| (to, name, key, self.tab == tab, tally);
        vec![
            tab("/".into(), "Today", "1", Tab::Today, 0),
            tab(muster, "Muster", "2", Tab::Muster, 0),
            tab("/sculpts".into(), "Sculpts", "3", Tab::Sculpts, 0),
            tab(plates, "Plates", "4", Tab::Plates, self.plates_open),
            tab(
                "/finishing".into(),
                "Finishing",
                "5",
                Tab::Finishing,
                self.batches_open,
            ),
            tab(ledger, "Ledger", "6", Tab::Ledger, 0),
            tab("/workshop".into(), "Workshop", "7", Tab::Workshop, 0),
        ]
    }
}

fn speed_words(times: u32) -> String {
    match times {
        1 => "by the clock".into(),
        60 => "an hour in a minute".into(),
        3600 => "an hour in a second".into(),
        times => format!("{times} times the clock"),
    }
}

/// A page ready to be sent.
pub(crate) fn html(view: &impl Template) -> Result<Html<String>, WebError> {
    Ok(Html(with_keys(view.render()?)))
}

/// Something went wrong: what, why, what to do.
#[derive(Template)]
#[template(path = "error.html")]
pub(crate) struct ErrorView {
    pub(crate) page: Page,
    pub(crate) what: String,
    pub(crate) then: String,
    /// Address and words of the way on.
    pub(crate) way: (&'static str, &'static str),
}

/// A form on a page of its own.
#[derive(Template)]
#[template(path = "form.html")]
pub(crate) struct FormView {
    pub(crate) page: Page,
    pub(crate) heading: String,
    pub(crate) lead: String,
    pub(crate) action: String,
    pub(crate) save: &'static str,
    pub(crate) back: String,
    pub(crate) row_version: i64,
    pub(crate) fields: Vec<Field>,
    /// Where to post to take the thing away.
    pub(crate) remove: Option<String>,
    pub(crate) conflict: bool,
    /// The three questions of the first run, with what comes after them.
    pub(crate) first_run: bool,
    /// Pages about the thing: address and words.
    pub(crate) about: Vec<(String, String)>,
    /// What it can begin from: where to post the name, the names, and what each suits.
    pub(crate) begins: Option<(String, Vec<(&'static str, &'static str)>)>,
}

impl FormView {
    pub(crate) fn new(page: Page, heading: impl Into<String>, action: impl Into<String>) -> Self {
        Self {
            page,
            heading: heading.into(),
            lead: String::new(),
            action: action.into(),
            save: "Save",
            back: "/".into(),
            row_version: 0,
            fields: Vec::new(),
            remove: None,
            conflict: false,
            first_run: false,
            about: Vec::new(),
            begins: None,
        }
    }

    /// With a page about the thing.
    pub(crate) fn about(mut self, to: String, words: &str) -> Self {
        self.about.push((to, words.to_owned()));
        self
    }

    /// With the fields a maker fills in.
    pub(crate) fn fields(self, fields: Vec<Field>) -> Self {
        Self { fields, ..self }
    }

    /// For changing a thing that is there.
    pub(crate) fn editing(self, row_version: i64, remove: Option<String>) -> Self {
        Self {
            row_version,
            remove,
            ..self
        }
    }

    /// Where "Back" leads, and what the button says.
    pub(crate) fn leads(self, back: impl Into<String>, save: &'static str) -> Self {
        Self {
            back: back.into(),
            save,
            ..self
        }
    }

    /// As the three questions of the first run.
    pub(crate) fn first_run(self) -> Self {
        Self {
            first_run: true,
            ..self
        }
    }

    pub(crate) fn lead(self, lead: &str) -> Self {
        Self {
            lead: lead.into(),
            ..self
        }
    }

    pub(crate) fn faults(&self) -> usize {
        self.fields.iter().filter(|f| !f.fault.is_empty()).count()
    }

    pub(crate) fn any_folded(&self) -> bool {
        self.fields.iter().any(Self::is_folded)
    }

    /// Folded away: a fault, or what somebody else typed, is shown.
    pub(crate) fn is_folded(field: &Field) -> bool {
        field.folded && field.fault.is_empty() && field.now.is_none()
    }

    pub(crate) fn any_assumed(&self) -> bool {
        self.fields.iter().any(|f| f.assumed)
    }

    /// Again, with what was typed and what is wrong with it.
    pub(crate) fn refused(mut self, input: &Input, faults: &Faults) -> Result<Response, WebError> {
        self.fields = refill(self.fields, input, faults);
        self.row_version = input.row_version();
        Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&self)?).into_response())
    }

    /// Somebody else saved first: what was typed, and beside it what stands there now.
    pub(crate) fn conflicted(mut self, input: &Input) -> Result<Response, WebError> {
        let now: Vec<String> = self.fields.iter().map(Field::reading).collect();
        self.fields = refill(self.fields, input, &Faults::new());
        for (field, now) in self.fields.iter_mut().zip(now) {
            if field.reading() != now {
                field.now = Some(now);
            }
        }
        self.conflict = true;
        Ok((StatusCode::CONFLICT, html(&self)?).into_response())
    }
}
