//! How a sculpt is printed: scale, orientation, supports, in versions; what a plate needs to know of
//! it then; trials.

mod by_practice;
mod by_surface;
mod nouns;
pub mod orient;
mod part_setup;
pub mod prepare;
mod prepared;
mod proof;
pub mod register;
pub mod scale;
mod setup;
mod similarity;
pub mod supports;
pub mod trial;
mod version;

pub use by_practice::{AsItStands, Proposed, by_practice};
pub use nouns::{MeshFound, PrintMesh, PrintMeshState, RecipeVersion, Trial, Variant};
pub use part_setup::PartSetup;
pub use prepared::{HeldFigures, KeptPart, PreparedPart, SetupDrawing};
pub use proof::Proofs;
pub use setup::Setup;
pub use version::{BLADE_MM, Character, Proof, Recipe, suits, what_changed};
