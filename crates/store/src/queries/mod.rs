//! What is asked: a file for each subject, SQL in, core's nouns out. All functions take the connection
//! of one transaction, see [`crate::Store::read`].

pub mod army;
pub mod attendance;
pub mod batches;
pub mod benches;
pub mod bundles;
pub mod charges;
pub mod concerns;
pub mod demand;
pub mod dismissals;
pub mod edits;
pub mod exposures;
pub mod hands;
pub mod holding;
pub mod hollows;
pub mod judged;
pub mod kits;
pub mod layer_facts;
pub mod ledger;
pub mod links;
pub mod miniatures;
pub mod muster;
pub mod paces;
pub mod pages;
pub mod photos;
pub mod picks;
pub mod plans;
pub mod plates;
pub mod poses;
pub mod practices;
pub mod preflights;
pub mod prepared_parts;
pub mod print_meshes;
pub mod printers;
pub mod put_in;
pub mod recipes;
pub mod remedies;
pub mod resins;
pub mod scales;
pub mod sculpts;
pub mod settings;
pub mod spent;
pub mod stores;
pub mod surplus;
pub mod task_inputs;
pub mod tasks;
pub mod took;
pub mod trials;
pub mod wears;
pub mod weighings;
pub mod workshop;
pub mod zones;

use crate::conn::Conn;
use crate::error::StoreError;
use diesel::prelude::*;
use diesel::sql_types::BigInt;

/// A fresh random identity for exports.
pub(crate) fn new_uid() -> String {
    uuid::Uuid::new_v4().simple().to_string()
}

#[derive(QueryableByName)]
struct RowId {
    #[diesel(sql_type = BigInt)]
    id: i64,
}

/// The row the last insert of this transaction made.
pub(crate) fn last_id(conn: &mut Conn) -> Result<i64, StoreError> {
    Ok(diesel::sql_query("SELECT last_insert_rowid() AS id")
        .get_result::<RowId>(conn)?
        .id)
}

/// One changed row is as it should be; none means that it is gone or was changed before.
pub(crate) fn one_row(changed: usize, what: &'static str) -> Result<(), StoreError> {
    if changed == 1 {
        Ok(())
    } else {
        Err(StoreError::Conflict { what })
    }
}
