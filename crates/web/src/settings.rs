//! What the server is told at its start.

use crate::apart::MeasureWhere;
use crate::clock::Clock;
use crate::net::Room;
use crate::printers::Adapters;

/// Settings of one server.
#[derive(Debug, Clone)]
pub struct Settings {
    /// Where the time comes from. Default: the system's clock.
    pub clock: Clock,
    /// Largest mesh file taken in, bytes. Default: 400 MB.
    pub max_file_bytes: u64,
    /// True for the demo: pages say so.
    pub demo: bool,
    /// It listens beyond this machine: only devices that have come in get anything. Default: no.
    pub beyond: bool,
    /// Names of this machine that requests may ask for, beside those of loopback.
    pub hosts: Vec<String>,
    /// Names under which a proxy in front of it is asked. Who comes by it is believed what it forwards.
    pub proxies: Vec<String>,
    /// How many may be connected.
    pub room: Room,
    /// Addresses of this machine that a phone may reach.
    pub addresses: Vec<String>,
    /// The port it listens on.
    pub port: u16,
    /// How connected printers are spoken to. Default: the open protocol.
    pub adapters: Adapters,
    /// Where files are measured. Default: in the server itself.
    pub measure: MeasureWhere,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            clock: Clock::System,
            max_file_bytes: 400 << 20,
            demo: false,
            beyond: false,
            hosts: Vec::new(),
            proxies: Vec::new(),
            room: Room::default(),
            addresses: Vec::new(),
            port: 7411,
            adapters: Adapters::default(),
            measure: MeasureWhere::Here,
        }
    }
}
