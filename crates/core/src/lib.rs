//! The rules of the job and the computation behind Wembrit.
//!
//! Pure: numbers and bytes in, values out. No clock, no files, no database, no HTML. It owns the
//! nouns of the job: every other crate speaks of [`workshop::Printer`] and [`flow::Plate`], and has
//! no twin of its own. The rooms, from the ground up (an upper room may use the ones it names, never
//! the other way round; `cargo x layers` checks it):
//!
//! * the ground: [`units`], [`ids`], [`words`], [`numbers`], [`watch`], [`geometry`], [`pose`],
//!   `union_find`. Money, layer heights, identities, words and numbers that are kept, outlines in
//!   the plane of the build plate, directions
//! * [`mesh`]: files in, files out, and what is measured straight from the triangles
//! * [`layers`]: sections, islands, pockets, pull, silhouettes, hollows; uses mesh
//! * [`workshop`]: printers, process settings, resins, rates, practice; hours, exposure, resin
//! * [`flow`]: the states of a copy, a plate, a plan, a run, a task, and the only ways between them
//! * [`pack`]: which copies share a plate, and where they stand; its own checker and bound
//! * [`schedule`]: when plates are printed, and on which printer; its own checker and bound
//! * [`odds`]: the share of copies that comes out good
//! * [`sculpt`]: what is measured on a file, what it may cost, its pictures; uses layers, mesh,
//!   workshop, and flow's words
//! * [`recipe`]: scale, orientation, supports, a part prepared, trials, what is proven; uses sculpt
//!   and what that uses
//! * [`army`]: units, models, parts, kits, army lists, demand, progress; uses flow and recipe
//! * [`cost`]: shared costs split to the last cent, what a model costs; uses workshop, flow, army
//! * [`plan`]: joins the rooms into plates with figures; changes by hand, advice, comparisons, what
//!   stands open before it
//! * [`running`]: before the start and while a plate runs: what is checked, when to look, whether
//!   going on pays; uses flow and workshop
//! * [`link`]: what a connected printer gets, is told and says; uses workshop
//! * [`finishing`]: steps, routes, batches, who is next at which station, cautions; uses workshop
//! * [`today`]: what to do next, over all projects; nobody uses it
//!
//! ```
//! use wembrit_core::{units::layer_count, units::LayerHeight};
//!
//! let fine = LayerHeight::from_mm(0.05).expect("0.05 mm is a usual layer height");
//! assert_eq!(layer_count(32.0, fine), 640);
//! ```

pub mod army;
pub mod cases;
pub mod cost;
pub mod cost_parts;
pub mod currency;
pub mod exposure;
pub mod finishing;
pub mod flow;
pub mod geometry;
pub mod ids;
pub mod layers;
pub mod learn;
pub mod ledger;
pub mod link;
pub mod mesh;
pub mod numbers;
pub mod odds;
pub mod outward;
pub mod pack;
pub mod plan;
pub mod pose;
pub mod progress;
pub mod recipe;
mod rng;
pub mod running;
pub mod schedule;
pub mod sculpt;
pub mod stores;
pub mod today;
mod union_find;
pub mod units;
pub mod watch;
pub mod words;
pub mod workshop;
