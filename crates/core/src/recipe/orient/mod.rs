//! Orientations compared: those of the schools, and a search for better ones.
//!
//! The search takes quick looks, alike for all poses of a part. What is shown is then measured as
//! the recipe would print it: the maker picks by the figures that stand there afterwards.

mod directions;
mod schools;
mod score;
mod search;
mod settle;

pub use directions::sphere;
pub use schools::{base_under, of_schools, tilted_pulls};
pub use score::{
    Candidate, FineZone, OrientRequest, Origin, PoseTiming, Score, Scores, Subject, rank,
};
pub use search::find_poses;
pub use settle::settle_poses;
