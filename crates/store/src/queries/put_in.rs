//! What wears, as it was put in.

use diesel::prelude::*;
use wembrit_core::ids::PrinterId;
use wembrit_core::stores::Wear;
use wembrit_core::units::Money;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::wears as w;

/// Everything that was put in, oldest first.
///
/// # Errors
/// [`StoreError::BadRow`] for a kind nobody knows.
pub fn load(conn: &mut Conn) -> Result<Vec<Wear>, StoreError> {
    type Row = (String, Option<i64>, f64, f64, i64, i64);
    let rows: Vec<Row> = w::table
        .order(w::id)
        .select((
            w::kind,
            w::printer_id,
            w::life,
            w::second,
            w::since_ms,
            w::price_minor,
        ))
        .load(conn)?;
    let wear = |(kind, printer, life, second, since, price): Row| {
        Ok(Wear {
            kind: kind
                .parse()
                .map_err(|_| StoreError::BadRow(format!("nothing that wears is {kind}")))?,
            printer: printer.map(PrinterId),
            life,
            second,
            // From nothing on: it was said how long one lasts, not that it is new.
            since_ms: (since > 0).then_some(since),
            said: true,
            price: Money(price),
        })
    };
    rows.into_iter().map(wear).collect()
}
