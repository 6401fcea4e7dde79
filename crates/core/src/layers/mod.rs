//! What a part is, layer by layer: how many layers, its silhouette on the plate, its skyline; and
//! everything that is read off the stack of its sections: volume, areas, islands, pockets, pull.

mod chords;
mod coarse;
mod contacts;
mod free_space;
mod height_profile;
mod hollow;
mod islands;
mod loads;
mod near_surface;
mod necks;
mod pockets;
mod pull;
mod raised;
mod regions;
mod silhouette;
mod slice;
mod stack;
mod thickness;
mod undersides;
mod voxels;

pub use coarse::{Look, Touch, look_closely, take_look};
pub use contacts::count_contacts;
pub use free_space::FreeSpace;
pub use height_profile::{HeightProfile, ProfileBand, measure_height_profile};
pub use hollow::{Drain, Hollow, Hollowing, WayOut, find_hollows, is_worth_it, measure_hollowing};
pub use islands::Island;
pub use loads::Loads;
pub use pockets::{Cup, CupEnd};
pub use pull::PULL_OF_DISC;
pub use raised::Raised;
pub use silhouette::measure_silhouette;
pub use slice::Effort;
pub use stack::{StackFigures, measure_stack, peak_pull_roughly};
pub use thickness::{Neck, Thickness, Thin, measure_thickness};
pub use undersides::undersides;
pub use voxels::Voxels;
