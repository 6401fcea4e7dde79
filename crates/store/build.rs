//! Rebuilds when a migration is added: the macro that embeds them does not notice new folders.

fn main() {
    println!("cargo:rerun-if-changed=migrations");
}
