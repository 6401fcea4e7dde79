//! Routes by `oneshot`: rules of the pages that need no browser.

#![allow(
    clippy::unwrap_used,
    reason = "a test that cannot go on should stop there"
)]

mod app;
mod archive;
mod bin;
mod boxes;
mod concerns;
mod door;
mod finishing;
mod forms;
mod guard;
mod jobs;
mod large;
mod ledger;
mod links;
mod muster;
mod net;
mod pages;
mod planning;
mod plate_files;
mod progress;
mod recipes;
mod runs;
mod schedule;
mod sculpts;
mod setups;
mod stores;
mod two_pages;
mod waiting;
mod walks;
