//! The whole of Wembrit from outside: the real binary, a real browser.

#![allow(
    clippy::unwrap_used,
    reason = "a test that cannot go on should stop there"
)]

mod bench;
mod browser;
mod command_line;
mod findings;
mod killed;
mod muster;
mod plates;
mod recipes;
mod shots;
mod slice;
mod uploads;
mod views;
