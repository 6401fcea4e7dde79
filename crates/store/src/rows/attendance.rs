//! When somebody is there.

use diesel::prelude::*;
use wembrit_core::workshop::attendance::{Attendance, DayWindow, read_otherwise};

use super::Row;
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::attendance)]
pub(crate) struct AttendanceRow {
    row_version: i64,
    weekly: String,
    otherwise: String,
    quiet: String,
    load_minutes: f64,
    unload_minutes: f64,
    look_minutes: f64,
    assumed: String,
}

impl Row for AttendanceRow {
    type Noun = Attendance;
    fn noun(self) -> Result<Attendance, StoreError> {
        let unread = |why: &dyn std::fmt::Display| StoreError::BadRow(format!("attendance: {why}"));
        Ok(Attendance {
            row_version: self.row_version,
            weekly: Attendance::read_week(&self.weekly).map_err(|e| unread(&e))?,
            otherwise: read_otherwise(&self.otherwise).map_err(|e| unread(&e))?,
            quiet: Some(self.quiet)
                .filter(|q| !q.is_empty())
                .map(|q| DayWindow::read(&q))
                .transpose()
                .map_err(|e| unread(&e))?,
            load_minutes: self.load_minutes,
            unload_minutes: self.unload_minutes,
            look_minutes: self.look_minutes,
            assumed: self.assumed,
        })
    }
}

impl AttendanceRow {
    /// What of it can be read; for the rest what a new workshop begins with, which nobody has confirmed.
    pub(crate) fn into_what_can_be_read(self) -> Attendance {
        let every_day = [(); 7].map(|()| vec![USUAL_DAY]);
        let week = Attendance::read_week(&self.weekly).ok();
        let names = week.is_none().then_some("weekly");
        let assumed = names
            .into_iter()
            .chain(self.assumed.split(',').filter(|n| !n.is_empty()));
        Attendance {
            row_version: self.row_version,
            assumed: assumed.collect::<Vec<_>>().join(","),
            weekly: week.unwrap_or(every_day),
            otherwise: read_otherwise(&self.otherwise).unwrap_or_default(),
            quiet: DayWindow::read(&self.quiet).ok(),
            load_minutes: self.load_minutes,
            unload_minutes: self.unload_minutes,
            look_minutes: self.look_minutes,
        }
    }
}

/// When somebody is there in a new workshop.
const USUAL_DAY: DayWindow = DayWindow {
    from: 8 * 60,
    to: 22 * 60,
};
