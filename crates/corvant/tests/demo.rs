//! `corvant demo`

mod support;

use std::fs;
use support::{folder, run};

#[test]
fn the_demo_report_is_whole() {
    let folder = folder(&[]);
    let outcome = run(&["demo"], folder.path());
    assert_eq!(outcome.status, 0);
    assert_eq!(outcome.stderr, "this is a demonstration: `corvant audit` would exit with status 1 here\n");
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/demo.txt"]);
}

#[test]
fn the_corrected_demo_has_no_finding() {
    let folder = folder(&[]);
    let outcome = run(&["demo", "--fixed", "--fail-on", "note", "--format", "json"], folder.path());
    assert_eq!((outcome.status, outcome.stderr.as_str()), (0, ""));
    assert_eq!(outcome.subjects(), []);
}

#[test]
fn a_pipe_that_takes_both_outputs_may_close_early() {
    let script = format!("{} demo 2>&1 | head -n 1; echo ${{PIPESTATUS[0]}}", env!("CARGO_BIN_EXE_corvant"));
    let output = std::process::Command::new("bash").args(["-c", &script]).output().unwrap();
    let text = String::from_utf8(output.stdout).unwrap();
    assert!(text.ends_with("\n0\n"), "{text}");
    assert_eq!(String::from_utf8(output.stderr).unwrap(), "");
}

#[test]
fn the_demo_fails_only_on_demand() {
    let folder = folder(&[]);
    assert_eq!(run(&["demo", "--fail-on", "error", "--quiet"], folder.path()).status, 1);
}

#[test]
fn the_demo_on_disk_is_the_demo() {
    let folder = folder(&[]);
    let written = run(&["demo", "--write", "velmora"], folder.path());
    assert_eq!((written.status, written.stdout.as_str()), (0, ""), "{written:#?}");
    let on_disk = run(&["audit", "velmora", "--format", "json"], folder.path());
    assert_eq!(on_disk.status, 1);
    assert_eq!(on_disk.stdout, run(&["demo", "--format", "json"], folder.path()).stdout);
    let again = run(&["demo", "--write", "velmora"], folder.path());
    assert_eq!(again.status, 2, "{again:#?}");
    assert!(fs::read_dir(folder.path().join("velmora/modules")).unwrap().count() == 11);
}
