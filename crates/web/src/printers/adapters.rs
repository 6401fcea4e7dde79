//! The adapters there are, by how the address of a printer begins.

use std::sync::Arc;

use super::machine::{LinkError, Machine};
use super::open_protocol::OpenProtocol;
use super::reach::{Reach, host_of, is_near};

/// Makes the machine at an address, which leads no further than that.
pub type Connect = fn(&str, Reach) -> Result<Arc<dyn Machine>, LinkError>;

/// The adapters there are, by how an address begins.
#[derive(Debug, Clone)]
pub struct Adapters {
    by_begin: Vec<(&'static str, Connect)>,
    /// Hosts that may be anywhere.
    allowed: Vec<String>,
}

impl Default for Adapters {
    fn default() -> Self {
        Self {
            by_begin: vec![("http://", OpenProtocol::connect)],
            allowed: Vec::new(),
        }
    }
}

impl Adapters {
    /// One more, for addresses that begin so.
    #[must_use]
    pub fn with(mut self, begins: &'static str, connect: Connect) -> Self {
        self.by_begin.push((begins, connect));
        self
    }

    /// Hosts beyond this network at which a printer may answer.
    #[must_use]
    pub fn allowing(mut self, hosts: &[String]) -> Self {
        self.allowed.extend_from_slice(hosts);
        self
    }

    /// The machine at an address.
    ///
    /// # Errors
    /// [`LinkError::Address`] where no adapter knows it.
    pub fn machine(&self, address: &str) -> Result<Arc<dyn Machine>, LinkError> {
        let found = self
            .by_begin
            .iter()
            .find(|(begins, _)| address.starts_with(begins));
        let Some((_, connect)) = found else {
            let known: Vec<&str> = self.by_begin.iter().map(|(begins, _)| *begins).collect();
            return Err(LinkError::Address(format!(
                "'{address}' is no address of a printer: it begins with {}",
                known.join(" or ")
            )));
        };
        let host = host_of(address);
        let allowed = self.allowed.iter().any(|a| a.eq_ignore_ascii_case(&host));
        if !allowed && !host.is_empty() && !is_near(&host) {
            return Err(LinkError::Address(format!(
                "'{host}' is not in your own network. If a printer of yours really answers there, start Wembrit with --allow-host {host}"
            )));
        }
        connect(
            address,
            if allowed {
                Reach::Anywhere
            } else {
                Reach::Near
            },
        )
    }
}
