//! The currency of the workshop, at hand wherever a page is made or a form is read.
//!
//! It belongs to the data file, and every amount on every page is written in it: it is carried with each request, and
//! onto the thread that makes the page, in place of being handed through every view.

use std::cell::Cell;

use wembrit_core::currency::{Currency, MoneyError};
use wembrit_core::units::Money;

thread_local! {
    static HERE: Cell<Option<Currency>> = const { Cell::new(None) };
}
tokio::task_local! {
    static REQUEST: Currency;
}

/// The currency of this request; the usual two decimals outside of one.
pub(crate) fn here() -> Currency {
    let of_thread = || HERE.get().unwrap_or(Currency { decimals: 2 });
    REQUEST.try_with(|c| *c).unwrap_or_else(|_| of_thread())
}

/// Work that is done on another thread, with the currency of this request.
pub(crate) fn carried<T>(work: impl FnOnce() -> T) -> impl FnOnce() -> T {
    let currency = here();
    move || {
        HERE.set(Some(currency));
        let done = work();
        HERE.set(None);
        done
    }
}

/// A request, answered in this currency.
pub(crate) async fn within<T>(currency: Currency, answer: impl Future<Output = T>) -> T {
    REQUEST.scope(currency, answer).await
}

/// An amount that somebody typed.
pub(crate) fn read(text: &str) -> Result<Money, MoneyError> {
    here().read(text)
}

/// Amounts as pages write them.
pub(crate) trait Amount {
    /// In the workshop's currency.
    fn written(&self) -> String;
}

impl Amount for Money {
    fn written(&self) -> String {
        here().write(*self)
    }
}
