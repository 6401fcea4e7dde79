//! What connected printers are told and said.

use diesel::prelude::*;
use serde::{Deserialize, Serialize};
use wembrit_core::ids::{PlateId, PrinterId, RunId};
use wembrit_core::link::{
    Command, CommandKind, CommandState, JobKey, MachineRun, MachineState, Trouble,
};
use wembrit_core::running::{Answers, CheckItem};

use super::Row;
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::link_commands)]
pub(crate) struct CommandRow {
    uid: String,
    printer_id: i64,
    plate_id: i64,
    #[diesel(deserialize_as = String)]
    kind: CommandKind,
    #[diesel(deserialize_as = String)]
    state: CommandState,
    file: String,
    checksum: String,
    why: String,
    written_at_ms: i64,
    sent_at_ms: Option<i64>,
    machine: String,
    boot: String,
    number: i64,
}

impl Row for CommandRow {
    type Noun = Command;
    fn noun(self) -> Result<Command, StoreError> {
        Ok(Command {
            uid: self.uid,
            printer: PrinterId(self.printer_id),
            plate: PlateId(self.plate_id),
            kind: self.kind,
            state: self.state,
            job: JobKey {
                machine: self.machine,
                boot: self.boot,
                number: u64::try_from(self.number).unwrap_or(0),
                file: self.file,
                checksum: self.checksum,
            },
            why: self.why,
            written_at_ms: self.written_at_ms,
            sent_at_ms: self.sent_at_ms,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::machine_runs)]
pub(crate) struct MachineRunRow {
    run_id: i64,
    printer_id: i64,
    number: i64,
    #[diesel(deserialize_as = String)]
    state: MachineState,
    trouble: String,
    layer: i64,
    printed_s: f64,
    began_ml: Option<f64>,
    over_at_ms: Option<i64>,
    machine: String,
    boot: String,
    file: String,
    checksum: String,
}

/// A machine's run with its plate, whether that is over by the books, and since when it is held.
impl Row for (MachineRunRow, i64, Option<i64>, Option<i64>) {
    type Noun = MachineRun;
    fn noun(self) -> Result<MachineRun, StoreError> {
        let (row, plate, ended, held) = self;
        let trouble = match row.trouble.as_str() {
            "" => None,
            word => Some(Trouble::try_from(word.to_owned())?),
        };
        Ok(MachineRun {
            run: RunId(row.run_id),
            plate: PlateId(plate),
            printer: PrinterId(row.printer_id),
            job: JobKey {
                machine: row.machine,
                boot: row.boot,
                number: u64::try_from(row.number).unwrap_or(0),
                file: row.file,
                checksum: row.checksum,
            },
            state: row.state,
            trouble,
            layer: u32::try_from(row.layer).unwrap_or(0),
            printed_s: row.printed_s,
            began_ml: row.began_ml,
            over_at_ms: row.over_at_ms,
            is_over: ended.is_some(),
            is_held: held.is_some(),
        })
    }
}

/// What somebody said before a start, and what the printer said of itself, for as long as the start is under way.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub(crate) struct SaidText {
    pub(crate) vat_ml: Option<f64>,
    pub(crate) room_c: Option<f64>,
    ticked: Vec<String>,
    passed: Vec<(String, String)>,
}

impl SaidText {
    pub(crate) fn new(vat_ml: Option<f64>, room_c: Option<f64>, answers: &Answers) -> Self {
        let passed = answers.passed.iter();
        Self {
            vat_ml,
            room_c,
            ticked: answers.ticked.iter().map(ToString::to_string).collect(),
            passed: passed
                .map(|(i, why)| (i.to_string(), why.clone()))
                .collect(),
        }
    }

    pub(crate) fn answers(&self) -> Answers {
        let item = |word: &String| word.parse::<CheckItem>().ok();
        let passed = self.passed.iter();
        Answers {
            ticked: self.ticked.iter().filter_map(item).collect(),
            passed: passed
                .filter_map(|(word, why)| Some((item(word)?, why.clone())))
                .collect(),
        }
    }
}
