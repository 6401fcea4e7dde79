//! Errors of the command line: one line, exit code 2, never a panic.

use std::process::Command;

use rstest::rstest;

#[rstest]
#[case::elsewhere(&["serve", "--data", "w.sqlite", "--listen", "0.0.0.0:0"], "passphrase")]
#[case::not_ours(&["serve", "--data", "notes.txt"], "no data file|not a data file")]
#[case::no_such_folder(&["serve", "--data", "nowhere/w.sqlite"], "nowhere/w.sqlite")]
fn a_command_that_cannot_be_done_says_why(#[case] args: &[&str], #[case] words: &str) {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(
        folder.path().join("notes.txt"),
        "a shopping list, long enough to be a file of its own kind",
    )
    .unwrap();
    let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args(args)
        .current_dir(folder.path())
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&out.stderr);
    assert_eq!(out.status.code(), Some(2), "{said}");
    assert_eq!(said.trim_end().lines().count(), 1, "{said}");
    assert!(words.split('|').any(|w| said.contains(w)), "{said}");
}
