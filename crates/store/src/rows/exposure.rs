//! Tests of exposures.

use diesel::prelude::*;
use wembrit_core::exposure::{ExposureTest, Tested};
use wembrit_core::learn::{JudgedTest, Verdict};

use super::Row;
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::exposure_tests)]
pub(crate) struct ExposureTestRow {
    #[diesel(deserialize_as = String)]
    of: Tested,
    exposure_s: f64,
    #[diesel(deserialize_as = String)]
    verdict: Verdict,
    room_c: Option<f64>,
    tested_at_ms: i64,
    note: String,
}

impl Row for ExposureTestRow {
    /// With what was noted beside it.
    type Noun = (ExposureTest, String);
    fn noun(self) -> Result<Self::Noun, StoreError> {
        let test = ExposureTest {
            of: self.of,
            judged: JudgedTest {
                exposure_s: self.exposure_s,
                verdict: self.verdict,
            },
            room_c: self.room_c,
            at_ms: self.tested_at_ms,
        };
        Ok((test, self.note))
    }
}
