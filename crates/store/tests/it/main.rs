//! The store on real files.

#![allow(
    clippy::unwrap_used,
    reason = "a test that cannot go on should stop there"
)]

mod archive;
mod by_hand;
mod days;
mod files;
mod flow;
mod fresh;
mod kept;
mod kits;
mod learning;
mod ledger;
mod links;
mod miniatures;
mod planning;
mod prepared;
mod runs;
mod schema;
mod sculpt_choices;
mod stores;
mod story;
mod trials;
