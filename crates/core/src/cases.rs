//! Cases of the command line: one as JSON, or an array of them that is answered by an array.

use serde::de::DeserializeOwned;
use serde_json::Value;

/// A case that can be answered.
pub(crate) trait Case: DeserializeOwned {
    /// Why it has no answer.
    type Error;
    /// Its answer.
    fn answer(&self) -> Result<Value, Self::Error>;
}

/// Why a file of cases has no answer, in one line.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CaseError<E> {
    /// It cannot be read.
    #[error("it is no case: {0}")]
    Read(String),
    /// There is none for one of them.
    #[error(transparent)]
    NoAnswer(#[from] E),
}

/// Answers a case, or an array of them by an array.
///
/// # Errors
/// [`CaseError`] of the first that has no answer.
pub(crate) fn answer<C: Case>(text: &str) -> Result<Value, CaseError<C::Error>> {
    let wrong = |e: serde_json::Error| CaseError::Read(e.to_string());
    let value: Value = serde_json::from_str(text).map_err(wrong)?;
    // Told apart here: what is wrong in one of several is to be said as such.
    if !value.is_array() {
        let one: C = serde_json::from_value(value).map_err(wrong)?;
        return Ok(one.answer()?);
    }
    let all: Vec<C> = serde_json::from_value(value).map_err(wrong)?;
    let answers = all.iter().map(C::answer);
    Ok(answers.collect::<Result<Vec<Value>, _>>()?.into())
}
