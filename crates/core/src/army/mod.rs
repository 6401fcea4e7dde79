//! The army: its list comes in, kits, files for parts, what is wanted, what is finished.

pub mod demand;
pub mod kit;
mod lines;
pub mod matching;
pub mod miniatures;
mod money;
mod nouns;
pub mod progress;
pub mod roster;
#[cfg(test)]
pub(crate) mod samples;
pub mod surplus;
mod whole;
mod without_spares;

pub use lines::{demand_lines, demand_lines_in, without_sculpt};
pub use money::ProjectMoney;
pub use nouns::{Choice, ChoiceOption, Model, Part, Piece, Project, Unit};
pub use whole::{
    Army, ArmyChoice, ArmyModel, ArmyPart, ArmyUnit, LoosePart, StageCounts, copy_name, part_name,
};
pub use without_spares::only_spares;
