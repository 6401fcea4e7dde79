//! The store on real files.

mod files;
mod flow;
mod fresh;
mod schema;
