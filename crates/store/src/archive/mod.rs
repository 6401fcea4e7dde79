//! A workshop, or one project with all it needs, as one open file: a zip of JSON and meshes. `docs/archive.md` says
//! what is in it. Which column goes out stands in `export-columns.txt`.

mod columns;
mod contents;
mod read;
mod readable;
mod table;
mod write;

pub use contents::{Contents, Held, Manifest, look};
pub(crate) use read::is_empty;
pub use read::{Brought, bring_in};
pub use table::{WholeTable, table_names, whole_table};
pub use write::write;

/// The number of the format that is written, and the highest that is read.
pub const FORMAT: u32 = 1;

/// What is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// All of it.
    Workshop,
    /// One project, with the printers, resins, recipes and sculpts it names.
    Project(wembrit_core::ids::ProjectId),
}
