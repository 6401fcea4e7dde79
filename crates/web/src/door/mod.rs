//! Who comes in where the server listens beyond this machine: whoever knows the passphrase, or
//! carries a token that was shown once on a screen that is in already.

mod devices;
mod line;
mod passphrase;
mod tokens;

pub(crate) use devices::{Device, Devices};
pub(crate) use line::{Lines, Who};
pub(crate) use passphrase::is_passphrase;
pub use passphrase::{PassphraseError, keep_passphrase};
pub(crate) use tokens::Tokens;

/// The door: who waits at it, the tokens that are out, and who is in.
#[derive(Debug, Default)]
pub(crate) struct Door {
    /// Those who try words.
    pub(crate) lines: Lines,
    /// Those that let a device in.
    pub(crate) tokens: Tokens,
    /// Those that are in.
    pub(crate) devices: Devices,
}
