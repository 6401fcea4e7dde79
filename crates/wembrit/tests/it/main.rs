//! The whole of Wembrit from outside: the real binary, a real browser.

#![allow(
    clippy::unwrap_used,
    reason = "a test that cannot go on should stop there"
)]

mod bench;
mod browser;
mod command_line;
mod day;
mod findings;
mod hostile;
#[path = "../../../core/tests/it/hostile_files.rs"]
mod hostile_files;
mod killed;
mod learning;
mod ledger;
mod link_killed;
mod muster;
mod newcomer;
mod plates;
mod printers;
mod progress;
mod recipes;
mod schedule;
mod shots;
mod sim;
mod slice;
mod stores;
mod uploads;
mod views;
