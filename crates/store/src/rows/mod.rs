//! Rows as the tables keep them, private to this crate, and how they become core's nouns.

mod attendance;
mod exposure;
mod hollow;
mod kept;
mod link;
mod muster;
mod plate;
mod prepared;
mod recipe;
mod run;
mod sculpt;
mod task;
mod trial;
mod workshop;

pub(crate) use attendance::AttendanceRow;
pub(crate) use exposure::ExposureTestRow;
pub(crate) use hollow::{HollowRow, drains_text, hollows_text};
pub(crate) use link::{CommandRow, MachineRunRow, SaidText};
pub(crate) use muster::{ChoiceRow, ModelRow, OptionRow, PartRow, PieceRow, ProjectRow, UnitRow};
pub(crate) use plate::{
    CopyRow, PlacementRow, PlanRow, PlateFiguresRow, PlateResinRow, PlateRow, scope_text,
};
pub(crate) use prepared::{
    HeldRow, LayerFactsRow, PoseRow, PreparedRow, best_text, cups_text, curve_text, islands_text,
    raised_text, scores_text, thickness_text,
};
pub(crate) use recipe::{PrintMeshRow, RecipeVersionRow};
pub(crate) use run::{BatchRow, BatchStepRow, PrintTimeRow, RunRow};
pub(crate) use sculpt::{SculptFactsRow, SculptRow};
pub(crate) use task::TaskRow;
pub(crate) use trial::{TrialRow, VariantRow};
pub(crate) use workshop::{PrinterRow, ResinRow, SettingRow, SettingVersionRow, WorkshopRow};

use diesel::helper_types::Limit;
use diesel::prelude::*;
use diesel::query_dsl::methods::{LimitDsl, LoadQuery};

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};

/// A row that becomes a noun of core's.
pub(crate) trait Row {
    /// What it becomes.
    type Noun;
    /// Reads it; a row that cannot be right is named.
    fn noun(self) -> Result<Self::Noun, StoreError>;
}

impl<R: Row> Row for Option<R> {
    type Noun = Option<R::Noun>;
    fn noun(self) -> Result<Self::Noun, StoreError> {
        self.map(Row::noun).transpose()
    }
}

impl<A: Row, B: Row> Row for (A, B) {
    type Noun = (A::Noun, B::Noun);
    fn noun(self) -> Result<Self::Noun, StoreError> {
        Ok((self.0.noun()?, self.1.noun()?))
    }
}

/// Queries whose rows come out as nouns.
pub(crate) trait Nouns: RunQueryDsl<Conn> + Sized {
    /// All of them.
    fn nouns<'q, R>(self, conn: &mut Conn) -> Result<Vec<R::Noun>, StoreError>
    where
        R: Row,
        Self: LoadQuery<'q, Conn, R>,
    {
        self.load::<R>(conn)?.into_iter().map(Row::noun).collect()
    }

    /// The first one, named where it is not there.
    fn noun<'q, R>(self, conn: &mut Conn, what: &'static str) -> Result<R::Noun, StoreError>
    where
        R: Row,
        Self: LimitDsl,
        Limit<Self>: LoadQuery<'q, Conn, R>,
    {
        let row = self.first::<R>(conn).or_not_found(what)?;
        row.noun().map_err(|error| match error {
            StoreError::BadRow(why) if !why.starts_with(what) => {
                StoreError::BadRow(format!("{what}: {why}"))
            }
            other => other,
        })
    }

    /// The first one, if there is one.
    fn maybe<'q, R>(self, conn: &mut Conn) -> Result<Option<R::Noun>, StoreError>
    where
        R: Row,
        Self: LimitDsl,
        Limit<Self>: LoadQuery<'q, Conn, R>,
    {
        self.first::<R>(conn).optional()?.noun()
    }
}

impl<Q: RunQueryDsl<Conn>> Nouns for Q {}

/// Reads what is kept as JSON.
pub(crate) fn read<T: serde::de::DeserializeOwned>(text: &str) -> Result<T, StoreError> {
    serde_json::from_str(text).map_err(|e| StoreError::BadRow(e.to_string()))
}

/// Reads what has a text of its own.
pub(crate) fn parsed<T: std::str::FromStr<Err: ToString>>(text: &str) -> Result<T, StoreError> {
    text.parse()
        .map_err(|e: T::Err| StoreError::BadRow(e.to_string()))
}

/// Writes what is kept as JSON.
pub(crate) fn written(value: &impl serde::Serialize) -> String {
    serde_json::to_string(value).expect("numbers and words always serialise")
}

/// A count as the rules take it; a negative one is none.
pub(crate) fn count(n: i64) -> u32 {
    u32::try_from(n.max(0)).unwrap_or(u32::MAX)
}
