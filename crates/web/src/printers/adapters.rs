//! The adapters there are, by how the address of a printer begins.

use std::sync::Arc;

use super::machine::{LinkError, Machine};
use super::open_protocol::OpenProtocol;

/// Makes the machine at an address.
pub type Connect = fn(&str) -> Result<Arc<dyn Machine>, LinkError>;

/// The adapters there are, by how an address begins.
#[derive(Debug, Clone)]
pub struct Adapters(Vec<(&'static str, Connect)>);

impl Default for Adapters {
    fn default() -> Self {
        Self(vec![("http://", OpenProtocol::connect)])
    }
}

impl Adapters {
    /// One more, for addresses that begin so.
    #[must_use]
    pub fn with(mut self, begins: &'static str, connect: Connect) -> Self {
        self.0.push((begins, connect));
        self
    }

    /// The machine at an address.
    ///
    /// # Errors
    /// [`LinkError::Address`] where no adapter knows it.
    pub fn machine(&self, address: &str) -> Result<Arc<dyn Machine>, LinkError> {
        let found = self
            .0
            .iter()
            .find(|(begins, _)| address.starts_with(begins));
        let Some((_, connect)) = found else {
            let known: Vec<&str> = self.0.iter().map(|(begins, _)| *begins).collect();
            return Err(LinkError::Address(format!(
                "'{address}' is no address of a printer: it begins with {}",
                known.join(" or ")
            )));
        };
        connect(address)
    }
}
