//! What is in an archive: looked through before anything is written.

use std::collections::{BTreeMap, BTreeSet};
use std::io::{Read, Seek};

use serde::{Deserialize, Serialize};
use zip::ZipArchive;

use super::FORMAT;
use crate::error::StoreError;

/// One file of an archive.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Held {
    /// Its name in the archive.
    pub name: String,
    /// Its length.
    pub bytes: u64,
    /// Of its bytes.
    pub blake3: String,
}

/// What an archive says of itself.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Manifest {
    /// Number of the format.
    pub format: u32,
    /// `workshop` or `project`.
    pub what: String,
    /// Of the workshop or the project.
    pub name: String,
    /// When it was written, ms since 1970.
    pub written_at_ms: i64,
    /// Rows by table.
    pub rows: BTreeMap<String, u64>,
    /// All its other files.
    pub files: Vec<Held>,
}

/// An archive that was looked through: every file is there as it is named, and none besides.
pub struct Contents<R: Read + Seek> {
    /// What it says of itself.
    pub manifest: Manifest,
    pub(super) zip: ZipArchive<R>,
}

impl<R: Read + Seek> std::fmt::Debug for Contents<R> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Contents")
            .field("manifest", &self.manifest)
            .finish_non_exhaustive()
    }
}

/// Largest table, and all of them, in bytes of JSON.
const MOST_TABLE: u64 = 64 << 20;
const MOST_TABLES: u64 = 160 << 20;
/// Largest mesh, and largest manifest.
const MOST_MESH: u64 = 512 << 20;
const MOST_MANIFEST: u64 = 8 << 20;
/// Nothing an archive holds shrinks to less than this part of it.
const MOST_SHRUNK: u64 = 200;
const MOST_FILES: usize = 20_000;

/// That an archive is not taken, in one line.
pub(super) fn refused(why: impl Into<String>) -> StoreError {
    StoreError::Refused(why.into())
}

/// A table or a mesh, or nothing an archive has.
fn most_of(name: &str) -> Option<u64> {
    if name == "wembrit.json" {
        return Some(MOST_MANIFEST);
    }
    let table = name
        .strip_prefix("tables/")
        .and_then(|n| n.strip_suffix(".json"));
    if table.is_some_and(|t| t.chars().all(|c| c.is_ascii_lowercase() || c == '_')) {
        return Some(MOST_TABLE);
    }
    let mesh = name.strip_prefix("meshes/")?;
    let is_hash = mesh.len() == 64 && mesh.chars().all(|c| c.is_ascii_hexdigit());
    is_hash.then_some(MOST_MESH)
}

/// Reads a file of an archive whole, and no more of it than it says it has.
pub(super) fn read_file<R: Read + Seek>(
    zip: &mut ZipArchive<R>,
    name: &str,
) -> Result<Vec<u8>, StoreError> {
    let broken = |e: &dyn std::fmt::Display| refused(format!("{name} cannot be read: {e}"));
    let file = zip.by_name(name).map_err(|e| broken(&e))?;
    let size = file.size();
    let mut bytes = Vec::new();
    file.take(size + 1)
        .read_to_end(&mut bytes)
        .map_err(|e| broken(&e))?;
    if bytes.len() as u64 != size {
        return Err(refused(format!("{name} is longer or shorter than it says")));
    }
    Ok(bytes)
}

/// Looks an archive through: its names, sizes, format and hashes. Nothing is written.
///
/// # Errors
/// [`StoreError::Refused`] in one line.
pub fn look<R: Read + Seek>(from: R) -> Result<Contents<R>, StoreError> {
    let mut zip = ZipArchive::new(from)
        .map_err(|e| refused(format!("that is no archive of Wembrit: {e}")))?;
    if zip.len() > MOST_FILES {
        return Err(refused(format!("it holds more than {MOST_FILES} files")));
    }
    let mut tables = 0_u64;
    for index in 0..zip.len() {
        let file = zip
            .by_index_raw(index)
            .map_err(|e| refused(format!("it is damaged: {e}")))?;
        let name = file
            .name()
            .map_err(|e| refused(format!("it is damaged: {e}")))?
            .into_owned();
        let most = most_of(&name).ok_or_else(|| {
            refused(format!(
                "it holds '{name}', which no archive of Wembrit does"
            ))
        })?;
        let (size, packed) = (file.size(), file.compressed_size().max(1));
        if size > most || (size > 1 << 20 && size / packed > MOST_SHRUNK) {
            return Err(refused(format!(
                "{name} would be larger than anything Wembrit writes"
            )));
        }
        if name.starts_with("tables/") {
            tables += size;
        }
    }
    if tables > MOST_TABLES {
        return Err(refused("its tables are larger than those of any workshop"));
    }
    let text = read_file(&mut zip, "wembrit.json")
        .map_err(|_| refused("that is no archive of Wembrit: it has no wembrit.json"))?;
    let format = serde_json::from_slice::<serde_json::Value>(&text).ok();
    let format = format.and_then(|v| v.get("format")?.as_u64());
    if let Some(n) = format.filter(|n| *n > u64::from(FORMAT)) {
        return Err(refused(format!(
            "it has format {n}, and this Wembrit reads up to {FORMAT}: bring this one up to date first"
        )));
    }
    let manifest: Manifest = serde_json::from_slice(&text)
        .map_err(|e| refused(format!("its wembrit.json cannot be read: {e}")))?;
    if manifest.what != "workshop" && manifest.what != "project" {
        return Err(refused(format!(
            "it is neither a workshop nor a project, but '{}'",
            manifest.what
        )));
    }
    // Before any of them is read: one that is named a thousand times would be read as often.
    let named: BTreeSet<&str> = manifest.files.iter().map(|f| f.name.as_str()).collect();
    if named.len() != manifest.files.len() || zip.len() != named.len() + 1 {
        return Err(refused(
            "it holds files its wembrit.json does not name, or names one twice",
        ));
    }
    let tables = named
        .iter()
        .filter_map(|n| n.strip_prefix("tables/")?.strip_suffix(".json"));
    if !tables.eq(manifest.rows.keys().map(String::as_str)) {
        return Err(refused("its wembrit.json names other tables than it holds"));
    }
    for held in &manifest.files {
        let bytes = read_file(&mut zip, &held.name)?;
        let hash = blake3::hash(&bytes).to_hex().to_string();
        let named = held.name.strip_prefix("meshes/").is_none_or(|n| n == hash);
        if hash != held.blake3 || bytes.len() as u64 != held.bytes || !named {
            return Err(refused(format!(
                "{} was changed or damaged: its hash is another",
                held.name
            )));
        }
    }
    Ok(Contents { manifest, zip })
}
