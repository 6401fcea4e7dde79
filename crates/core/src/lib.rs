//! The rules of the job and the computation behind Wembrit.
//!
//! Pure: numbers and bytes in, values out. No clock, no files, no database, no HTML. The rooms,
//! from the ground up (an upper room may use a lower one, never the other way round):
//!
//! * [`units`], [`ids`], [`words`]: money, layer heights, identities, the words states are kept as
//! * [`geometry`]: outlines in the plane of the build plate
//! * [`pose`]: how a part hangs
//! * [`supports`]: how parts are held, and what it takes
//! * [`scale`]: one division, and what it breaks
//! * [`register`]: a mesh supported elsewhere is laid over its design
//! * [`hang`]: a part as it hangs, with everything a plate needs to know of it
//! * [`recipe`], [`trial`]: what a recipe says, and variants of it judged
//! * [`orient`]: poses compared, and the search for better ones
//! * [`mesh`]: files in, files out, and what is measured straight from the triangles
//! * [`layers`]: layer counts, the silhouette and the skyline of a part
//! * [`findings`]: what a sculpt may cost, in words, dearest first
//! * [`candidate`]: figures by which files for one part are compared
//! * [`measure`]: all that is measured on a file, in one go
//! * [`print_time`], [`resin`], [`cost`]: hours, millilitres, money
//! * [`picture`]: a sculpt from its four sides
//! * [`pack`]: which copies share a plate, and where they stand; its own checker
//! * [`flow`]: the states a copy, a plate and a plan pass through
//! * [`demand`], [`progress`]: what is still wanted, what is finished
//! * [`roster`], [`kit`], [`matching`]: the army list comes in, kits, files for parts
//! * [`practice`]: the schools a maker chooses among
//! * [`task`]: rules of background work
//! * [`plan`]: joins the rooms into plates with figures
//!
//! ```
//! use wembrit_core::{units::layer_count, units::LayerHeight};
//!
//! let fine = LayerHeight::from_mm(0.05).expect("0.05 mm is a usual layer height");
//! assert_eq!(layer_count(32.0, fine), 640);
//! ```

pub mod army;
pub mod cost;
pub mod flow;
pub mod geometry;
pub mod ids;
pub mod layers;
pub mod mesh;
pub mod pack;
pub mod plan;
pub mod pose;
pub mod recipe;
pub mod sculpt;
mod union_find;
pub mod units;
pub mod watch;
pub mod words;
pub mod workshop;
