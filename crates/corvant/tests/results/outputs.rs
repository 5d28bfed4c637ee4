//! Any number of files from one audit, each whole or not at all.

use crate::support::{FAULTY, folder, run};
use rstest::rstest;
use std::fs;

#[test]
fn one_audit_writes_every_format_and_standard_output_too() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let files = ["r.txt", "r.json", "r.sarif", "r.junit.xml", "r.md", "r.html", "junit:tests.xml"];
    let outputs: Vec<&str> = files.iter().flat_map(|file| ["--output", file]).collect();
    let outcome = run(&[&["audit"], outputs.as_slice()].concat(), folder.path());
    assert_eq!(outcome.status, 1, "{outcome:#?}");
    assert!(outcome.stdout.contains("missing-service: web.tiles"));
    let read = |file: &str| fs::read_to_string(folder.path().join(file)).unwrap();
    assert_eq!(read("r.txt"), run(&["audit"], folder.path()).stdout);
    assert_eq!(read("r.json"), run(&["audit", "--format", "json"], folder.path()).stdout);
    assert_eq!(read("r.sarif"), run(&["audit", "--format", "sarif"], folder.path()).stdout);
    assert_eq!(read("r.md"), run(&["audit", "--format", "markdown"], folder.path()).stdout);
    assert_eq!(read("r.junit.xml"), read("tests.xml"));
    assert_eq!(read("r.html"), run(&["audit", "--format", "html"], folder.path()).stdout);
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1 + files.len(), "nothing else is left there");
}

#[rstest]
#[case::other_ending(&["--format", "sarif", "--output", "r.log"], "r.log", "{\"$schema\"")]
#[case::format_before_the_name(&["--output", "markdown:r.log"], "r.log", "## Do not deploy this")]
#[case::colon_in_a_name(&["--output", "a:b.md"], "a:b.md", "## Do not deploy this")]
fn the_format_of_a_file_is_said_by_its_name(
    #[case] options: &[&str],
    #[case] file: &str,
    #[case] begins: &str,
) {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    run(&[&["audit"], options].concat(), folder.path());
    let text = fs::read_to_string(folder.path().join(file)).unwrap();
    assert!(text.starts_with(begins), "{text}");
}

#[rstest]
#[case::the_same_twice(&["r.json", "r.json"], 2, "two results cannot be written to r.json")]
#[case::one_by_another_way(&["old.json", "sarif:link"], 2, "two results cannot be written to link")]
#[case::what_is_read(&["r.json", "json:web.wiring.yaml"], 2, "would replace web.wiring.yaml")]
fn files_that_would_be_spoilt_are_refused(
    #[case] files: &[&str],
    #[case] status: i32,
    #[case] complaint: &str,
) {
    let folder = folder(&[("web.wiring.yaml", FAULTY), ("old.json", "old")]);
    #[cfg(unix)]
    std::os::unix::fs::symlink("old.json", folder.path().join("link")).unwrap();
    let outputs: Vec<&str> = files.iter().flat_map(|file| ["--output", file]).collect();
    let outcome = run(&[&["audit"], outputs.as_slice()].concat(), folder.path());
    assert_eq!(outcome.status, status, "{outcome:#?}");
    assert!(outcome.stderr.contains(complaint), "{}", outcome.stderr);
    assert_eq!(fs::read_to_string(folder.path().join("old.json")).unwrap(), "old");
    assert_eq!(fs::read_to_string(folder.path().join("web.wiring.yaml")).unwrap(), FAULTY);
}

#[test]
fn a_file_that_cannot_be_written_keeps_none_of_the_others_away() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let files = ["audit", "--output", "no/such/folder/r.json", "--output", "r.md"];
    let outcome = run(&files, folder.path());
    assert_eq!(outcome.status, 3, "{outcome:#?}");
    assert!(outcome.stderr.contains("no/such/folder/r.json cannot be written"), "{}", outcome.stderr);
    assert!(outcome.stdout.contains("missing-service") && folder.path().join("r.md").is_file());
}

#[test]
fn a_full_disk_leaves_the_old_file() {
    let folder = folder(&[("web.wiring.yaml", FAULTY), ("r.html", "old")]);
    // A limit of one block stands in for a disk that is full.
    let script =
        format!("ulimit -f 8; trap '' XFSZ; {} audit -q --output r.html", env!("CARGO_BIN_EXE_corvant"));
    let status = std::process::Command::new("bash").args(["-c", &script]).current_dir(folder.path()).status();
    assert_eq!(status.unwrap().code(), Some(3));
    assert_eq!(fs::read_to_string(folder.path().join("r.html")).unwrap(), "old");
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 2, "nothing half-written is left");
}

#[test]
fn what_readers_take_has_two_formats() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let outcome = run(&["audit", "--explain-readers", "--output", "r.sarif"], folder.path());
    assert_eq!(outcome.status, 2, "{outcome:#?}");
    assert!(outcome.stderr.contains("as text and as JSON only"), "{}", outcome.stderr);
    assert_eq!(run(&["audit", "--explain-readers", "--output", "r.json"], folder.path()).status, 0);
}
