//! What an adapter of a printer has to bring.

use async_trait::async_trait;
use wembrit_core::link::says::FileSaid;
use wembrit_core::link::{Answer, Job, Says, Told};

/// Why there is no answer.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum LinkError {
    /// Nothing came back: whether it heard is not known.
    #[error("it does not answer: {0}")]
    Silent(String),
    /// It will not, and says why.
    #[error("{0}")]
    Refused(String),
    /// What came back is no answer of a printer; nothing of it is shown.
    #[error("its answer cannot be read: it does not speak the protocol of a printer")]
    Unread,
    /// What answers is another printer of the workshop.
    #[error("what answers there is another printer of this workshop: one machine is one printer")]
    Twin,
    /// No adapter knows such an address.
    #[error("{0}")]
    Address(String),
}

/// A printer at the end of a link. Adapters of printers that speak otherwise bring the same answers:
/// `docs/printer-protocol.md` says what each of them promises.
#[async_trait]
pub trait Machine: Send + Sync {
    /// What it says of itself.
    ///
    /// # Errors
    /// [`LinkError`].
    async fn says(&self) -> Result<Says, LinkError>;

    /// Keeps a plate's file under a name, in place of what had it before, and says what it kept.
    ///
    /// # Errors
    /// [`LinkError::Silent`] where it may have been kept or not: it is sent again then.
    async fn keep(&self, name: &str, file: Vec<u8>) -> Result<FileSaid, LinkError>;

    /// Tells it something. The same identity is answered the same for ever, and done once.
    ///
    /// # Errors
    /// [`LinkError::Silent`] where it may have heard or not: it is told again then.
    async fn tell(&self, id: &str, told: &Told) -> Result<Answer, LinkError>;

    /// A plate's file as this printer reads it.
    fn file(&self, job: &Job) -> Vec<u8> {
        job.bytes()
    }

    /// Goes so many times as fast as the clock; only a simulated printer does.
    ///
    /// # Errors
    /// [`LinkError::Refused`] of every other one.
    async fn goes(&self, _speed: f64) -> Result<(), LinkError> {
        Err(LinkError::Refused(
            "only a simulated printer has a speed".into(),
        ))
    }
}
