//! `corvant start`, and the first day with it.

mod support;

use std::fs;
use std::path::Path;
use support::{folder, run, write};

/// The house that nobody taught, as it lies in the examples.
fn house() -> tempfile::TempDir {
    let folder = folder(&[]);
    let plans = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples/first-day/plans");
    for entry in fs::read_dir(plans).unwrap() {
        let path = entry.unwrap().path();
        let name = format!("plans/{}", path.file_name().unwrap().to_str().unwrap());
        write(folder.path(), &name, &fs::read(&path).unwrap()).unwrap();
    }
    folder
}

#[test]
fn what_is_there_is_told_and_nothing_is_written() {
    let house = house();
    let outcome = run(&["start"], house.path());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/start.txt"]);
    assert!(!house.path().join("corvant.toml").exists());
}

/// What an audit finds with the draft is what was said.
#[test]
fn the_draft_that_is_shown_is_the_one_that_is_written_and_used() {
    let house = house();
    let shown = run(&["start", "--output", "-"], house.path());
    let said = run(&["start", "--write"], house.path());
    assert_eq!((shown.status, said.status), (0, 0));
    let written = fs::read_to_string(house.path().join("corvant.toml")).unwrap();
    assert_eq!(written, shown.stdout);
    let report = run(&["audit", "--format", "json"], house.path()).json();
    let summary = &report["summary"];
    let counts = format!("finds {} errors, {} warnings", summary["errors"], summary["warnings"]);
    assert!(said.stdout.contains(&counts), "{counts}: {}", said.stdout);
}

#[test]
fn a_workspace_file_is_never_written_over() {
    let house = house();
    write(house.path(), "corvant.toml", b"# ours\n").unwrap();
    let outcome = run(&["start", "--write"], house.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains("corvant.toml is there already"), "{outcome:?}");
    assert_eq!(fs::read_to_string(house.path().join("corvant.toml")).unwrap(), "# ours\n");
    assert_eq!(run(&["start", "--output", "draft.toml"], house.path()).status, 0);
    assert!(fs::read_to_string(house.path().join("draft.toml")).unwrap().contains("[[reader]]"));
    assert_eq!(run(&["start", "--output", "draft.toml"], house.path()).status, 2);
}

#[test]
fn what_is_read_already_is_not_drafted_again() {
    let house = house();
    assert_eq!(run(&["start", "--write"], house.path()).status, 0);
    let again = run(&["start"], house.path());
    assert_eq!(again.status, 0);
    assert!(again.stdout.starts_with("5 files are read already\n"), "{again:?}");
    assert!(again.stderr.contains("there is nothing to draft"), "{again:?}");
}

#[test]
fn where_nothing_looks_like_definitions_that_is_said() {
    let folder = folder(&[("notes.yaml", "a: 1\n"), ("broken.json", "{")]);
    let outcome = run(&["start"], folder.path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""));
    assert!(outcome.stderr.contains("nothing in . looks like definitions: 2 files"), "{outcome:?}");
}

#[test]
fn files_that_cannot_be_read_are_named() {
    let house = house();
    write(house.path(), "plans/broken.json", b"{ \"area\":").unwrap();
    let outcome = run(&["start"], house.path());
    assert!(outcome.stdout.contains("not read: plans/broken.json: it is not well-formed"), "{outcome:?}");
}

/// The tutorial: every command in it is run, in its order, and says what stands below it.
#[test]
fn the_first_day_is_as_it_is_told() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/first-day.md");
    let text = fs::read_to_string(&path).unwrap();
    let house = house();
    let mut told = String::new();
    let mut parts = text.split("```console\n");
    told.push_str(parts.next().unwrap());
    for part in parts {
        let (block, rest) = part.split_once("```\n").unwrap();
        told.push_str("```console\n");
        for line in block.lines().filter(|line| line.starts_with("$ ")) {
            told.push_str(line);
            told.push('\n');
            told.push_str(&said(&line[2..], house.path()));
        }
        told.push_str("```\n");
        told.push_str(rest);
    }
    // Backslashes have to stay: the page is no list of paths.
    if std::env::var("SNAPSHOTS").is_ok_and(|mode| mode == "overwrite") {
        fs::write(&path, told).unwrap();
    } else {
        assert_eq!(told, text, "SNAPSHOTS=overwrite writes the page anew");
    }
}

/// What a command of the tutorial says: first what goes to standard output, then the rest.
fn said(command: &str, folder: &Path) -> String {
    // What stands in quotes is one word.
    let parts = command.split('\'').enumerate();
    let words = parts.flat_map(
        |(number, part)| if number % 2 == 1 { vec![part] } else { part.split_whitespace().collect() },
    );
    let words: Vec<&str> = words.collect();
    match words.as_slice() {
        ["corvant", arguments @ ..] => {
            let outcome = run(arguments, folder);
            let status = if outcome.status == 0 {
                String::new()
            } else {
                format!("[exit status {}]\n", outcome.status)
            };
            [outcome.stdout, outcome.stderr, status].concat()
        }
        ["head", number, file] => {
            let text = fs::read_to_string(folder.join(file)).unwrap();
            let number: usize = number.trim_start_matches('-').parse().unwrap();
            text.lines().take(number).map(|line| format!("{line}\n")).collect()
        }
        _ => panic!("nobody knows {command}"),
    }
}
