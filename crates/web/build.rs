//! Rebuilds when a static file is added: embedding does not notice new ones.

fn main() {
    println!("cargo:rerun-if-changed=static");
}
