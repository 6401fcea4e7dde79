//! What it means that a data file cannot be opened. A full disk called damage would have somebody take an older copy,
//! and lose what was written since.

use std::path::Path;

use crate::error::StoreError;

/// Less room than this is none, bytes: SQLite needs some beside the file even to read it.
const HARDLY_ANY: u64 = 1 << 20;

/// What SQLite said when the file was opened, or first read or written, as a person can act on it.
pub(crate) fn at_opening(said: &str, path: &Path) -> StoreError {
    let has = |words: &[&str]| words.iter().any(|w| said.contains(w));
    if has(&["malformed", "not a database"]) {
        return StoreError::NotOurs(if is_sqlite(path) {
            damaged(path)
        } else {
            format!(
                "{} is not a data file of Wembrit: name another file with --data",
                path.display()
            )
        });
    }
    if has(&["disk is full"]) || (has(&["disk I/O error", "unable to open"]) && no_room(path)) {
        return StoreError::NotOurs(format!(
            "the disk that holds {} is full: free some space on it, then start again. Nothing is lost",
            path.display()
        ));
    }
    if has(&["readonly", "read-only"]) || (has(&["unable to open"]) && path.is_file()) {
        return read_only(path);
    }
    if has(&["locked", "busy"]) {
        return StoreError::Busy;
    }
    StoreError::Other(format!("{}: {said}", path.display()))
}

pub(crate) fn read_only(path: &Path) -> StoreError {
    StoreError::NotOurs(format!(
        "{} can only be read: give it and its folder the right to be written, or name another file with --data",
        path.display()
    ))
}

#[cfg(unix)]
fn no_room(path: &Path) -> bool {
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty());
    let room = rustix::fs::statvfs(folder.unwrap_or(Path::new(".")));
    room.is_ok_and(|r| r.f_bavail.saturating_mul(r.f_frsize) < HARDLY_ANY)
}

#[cfg(not(unix))]
fn no_room(_: &Path) -> bool {
    false
}

/// It begins as SQLite's files do.
pub(crate) fn is_sqlite(path: &Path) -> bool {
    use std::io::Read as _;
    let mut head = [0; 16];
    let read = std::fs::File::open(path).and_then(|mut file| file.read_exact(&mut head));
    read.is_ok() && &head == b"SQLite format 3\0"
}

/// That a data file is damaged, with the copies that lie beside it.
pub(crate) fn damaged(path: &Path) -> String {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty());
    let beside = std::fs::read_dir(folder.unwrap_or(Path::new("."))).map_or_else(
        |_| Vec::new(),
        |entries| {
            let names = entries.filter_map(|e| e.ok()?.file_name().into_string().ok());
            let mut copies: Vec<String> = names
                .filter(|n| n.starts_with(&format!("{name}.before-")))
                .collect();
            copies.sort();
            copies
        },
    );
    let copies = if beside.is_empty() {
        "there is no copy beside it: take one from your backup".to_owned()
    } else {
        format!("copies beside it: {}", beside.join(", "))
    };
    format!("{} is damaged; {copies}", path.display())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// What SQLite's result codes say (sqlite3_errstr): only what is damage is called so.
    #[rstest]
    #[case::corrupt("database disk image is malformed", "is damaged; there is no copy")]
    #[case::nonsense("file is not a database", "is damaged")]
    #[case::full("database or disk is full", "is full: free some space")]
    #[case::write("attempt to write a readonly database", "can only be read")]
    #[case::open("unable to open database file", "can only be read")]
    #[case::io("disk I/O error", "w.sqlite: disk I/O error")]
    #[case::busy("database is locked", "busy; try again")]
    fn only_damage_is_called_damage(#[case] said: &str, #[case] words: &str) {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("w.sqlite");
        std::fs::write(&path, b"SQLite format 3\0 and more").expect("written");
        let told = at_opening(said, &path).to_string();
        assert!(told.contains(words), "{told}");
        assert_eq!(told.contains("damaged"), words.contains("damaged"));
    }

    #[test]
    fn another_file_is_none_of_ours() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("letter.txt");
        std::fs::write(&path, "Dear all,").expect("written");
        let told = at_opening("file is not a database", &path).to_string();
        assert!(told.contains("is not a data file of Wembrit"), "{told}");
    }
}
