//! Keys of forms: each is carried out once.

use diesel::prelude::*;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::form_keys as k;

/// For how long a key is kept, ms: nobody sends a form of the week before again.
const KEPT_MS: i64 = 7 * 86_400_000;

/// Spends the key of a form with what it does, in one transaction.
///
/// # Errors
/// [`StoreError::Sent`] where it was spent before.
pub fn spend(conn: &mut Conn, key: &str, now_ms: i64) -> Result<(), StoreError> {
    let old = now_ms.saturating_sub(KEPT_MS);
    diesel::delete(k::table.filter(k::spent_at_ms.lt(old))).execute(conn)?;
    let spent = diesel::insert_or_ignore_into(k::table)
        .values((k::form_key.eq(key), k::spent_at_ms.eq(now_ms)))
        .execute(conn)?;
    if spent == 0 {
        return Err(StoreError::Sent);
    }
    Ok(())
}
