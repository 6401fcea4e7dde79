//! Cases of the command line: one as JSON, or an array of them that is answered by an array.

use serde::de::DeserializeOwned;
use serde_json::Value;

/// The cases of a file.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Cases<T> {
    several: bool,
    all: Vec<T>,
}

impl<T: DeserializeOwned> Cases<T> {
    /// Reads a case, or an array of them.
    ///
    /// # Errors
    /// What is wrong, in one line.
    pub(crate) fn read(text: &str) -> Result<Self, String> {
        let wrong = |e: serde_json::Error| e.to_string();
        let value: Value = serde_json::from_str(text).map_err(wrong)?;
        let several = value.is_array();
        // Told apart here: what is wrong in one of several is to be said as such.
        let all = if several {
            serde_json::from_value(value).map_err(wrong)?
        } else {
            vec![serde_json::from_value(value).map_err(wrong)?]
        };
        Ok(Self { several, all })
    }
}

impl<T> Cases<T> {
    /// The answer, an array where there were several.
    ///
    /// # Errors
    /// That of the first that has none.
    pub(crate) fn answer<E>(&self, of: impl Fn(&T) -> Result<Value, E>) -> Result<Value, E> {
        let mut answers = self.all.iter().map(of).collect::<Result<Vec<Value>, E>>()?;
        match (self.several, answers.pop()) {
            (false, Some(only)) => Ok(only),
            (_, last) => {
                answers.extend(last);
                Ok(Value::from(answers))
            }
        }
    }
}
