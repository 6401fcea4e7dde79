//! Orientations compared: those of the schools, and a search for better ones.
//!
//! Everything here is a quick look, alike for all poses of a part; what is chosen is measured
//! layer by layer afterwards.

mod directions;
mod schools;
mod score;
mod search;

pub use directions::sphere;
pub use schools::{base_under, of_schools, tilted_pulls};
pub use score::{
    Candidate, FineZone, OrientRequest, Origin, PoseTiming, Score, Scores, Subject, rank,
};
pub use search::find_poses;
