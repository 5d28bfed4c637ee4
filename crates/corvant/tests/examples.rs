//! The example houses, of formats and of code: each reader finds in its small workspace exactly what `findings.txt` beside it says.
//!
//! `SNAPSHOTS=overwrite` writes those files anew.

mod support;

use rstest::rstest;
use serde_json::Value;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use support::run;

fn example(name: &str) -> PathBuf {
    let examples = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples");
    let all = ["readers", "types", "code"].map(|kind| examples.join(kind).join(name));
    all.into_iter().find(|folder| folder.exists()).expect("an example of that name")
}

/// A line for each finding: severity, rule, subject and place.
fn findings(report: &str) -> String {
    let report: Value = serde_json::from_str(report).expect("a report is JSON");
    let mut lines = String::new();
    for finding in report["findings"].as_array().expect("a report has findings") {
        let text = |field: &str| finding[field].as_str().unwrap_or_default();
        let place = &finding["places"][0];
        let file = place["file"].as_str().unwrap_or_default();
        let (rule, subject) = (text("rule"), text("subject"));
        writeln!(
            lines,
            "{} {rule}: {subject} at {file}:{}:{}",
            text("severity"),
            place["line"],
            place["column"]
        )
        .unwrap();
    }
    lines
}

#[rstest]
#[case("objects-yaml")]
#[case("parts-xml")]
#[case("builders-json")]
#[case("sections-ini")]
#[case("records")]
#[case("calls-yaml")]
#[case("definitions-xml")]
#[case("startup-lines")]
#[case("names-properties")]
#[case("stages-yaml")]
#[case("mixed")]
#[case("marked-java")]
#[case("records-php")]
#[case("wired-csharp")]
#[case("yard-java")]
#[case("shelf-kotlin")]
#[case("posts-csharp")]
#[case("plans-php")]
#[case("pins-typescript")]
#[case("ledger-python")]
fn each_example_has_its_findings_and_no_others(#[case] name: &str) {
    let folder = example(name);
    let outcome = run(&["audit", "--format", "json"], &folder);
    assert_eq!(outcome.status, 1, "{}", outcome.stderr);
    let expected = snapbox::Data::read_from(&folder.join("findings.txt"), None);
    snapbox::Assert::new().action_env("SNAPSHOTS").eq(findings(&outcome.stdout), expected);
}

#[rstest]
#[case::taken_away("stages-yaml", "took     1 service, 1 need, 1 removal\n")]
#[case::imports("startup-lines", "1 roster, 3 imports\n")]
fn the_account_of_readers_tells_of_all_that_is_taken(#[case] name: &str, #[case] part: &str) {
    let outcome = run(&["audit", "--explain-readers"], &example(name));
    assert!(outcome.stdout.contains(part), "{}", outcome.stdout);
}

#[test]
fn the_account_of_readers_says_what_is_left_over() {
    let outcome = run(&["audit", "--explain-readers"], &example("objects-yaml"));
    assert_eq!(outcome.status, 0);
    snapbox::Assert::new()
        .action_env("SNAPSHOTS")
        .eq(outcome.stdout, snapbox::file!["expected/explain-readers.txt"]);
    let outcome = run(&["audit", "--explain-readers", "--format", "json"], &example("mixed"));
    let accounts: Value = serde_json::from_str(&outcome.stdout).unwrap();
    let readers: Vec<&Value> =
        accounts["files"].as_array().unwrap().iter().map(|account| &account["reader"]).collect();
    assert!(readers.contains(&&Value::Null) && readers.contains(&&Value::from("components")), "{readers:?}");
    assert_eq!(accounts["files"][0]["file"], "bundles/display/META-INF/MANIFEST.MF");
}

#[test]
fn the_account_of_one_reader_tells_of_its_files_alone() {
    let of = |reader: &str| run(&["audit", "--explain-readers", "--reader", reader], &example("mixed"));
    let objects = of("objects");
    assert_eq!(objects.status, 0, "{}", objects.stderr);
    let files: Vec<&str> = objects.stdout.lines().filter(|line| line.contains("  read by  ")).collect();
    assert_eq!(files, ["  read by  objects, module depot"]);
    let unknown = of("objekts");
    assert_eq!(unknown.status, 2);
    assert!(
        unknown.stderr.contains("no file is read by objekts; files are read by builders, components"),
        "{}",
        unknown.stderr
    );
    // Without what it is about the option means nothing.
    assert_eq!(run(&["audit", "--reader", "objects"], &example("mixed")).status, 2);
}

#[test]
fn a_reader_for_no_file_is_named_and_one_with_a_mistake_ends_the_audit() {
    let reader = "[[reader]]\nname = \"house\"\nfiles = [\"gone.ini\"]\nsyntax = \"ini\"\nmodule = \"m\"\n";
    let own = "corvant: 1\nmodule: a\nservices: { a.b: {} }\n";
    let folder = support::folder(&[("corvant.toml", reader), ("a.wiring.yaml", own)]);
    let outcome = run(&["audit", "--explain-readers"], folder.path());
    assert!(outcome.stdout.contains("house: no file is called gone.ini"), "{}", outcome.stdout);
    let audit = run(&["audit"], folder.path());
    assert!(audit.stdout.contains("house: no file is called gone.ini"), "{}", audit.stdout);
    let only = support::folder(&[("corvant.toml", reader)]);
    let outcome = run(&["audit"], only.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains("for readers' gone.ini"), "{}", outcome.stderr);
    let mistaken = format!("{reader}colour = 1\n");
    let mistaken = support::folder(&[("corvant.toml", &mistaken), ("a.wiring.yaml", own)]);
    let outcome = run(&["audit"], mistaken.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains("corvant.toml:6:1: reader house: colour"), "{}", outcome.stderr);
}

/// A file as its reader sees it, of code and of a house's format, from wherever it is asked.
#[rstest]
#[case::of_code("shelf-kotlin", "src/boards.kt", "expected/tree-of-code.txt")]
#[case::of_a_format("objects-yaml", "modules/depot/objects.yaml", "expected/tree-of-format.txt")]
fn the_tree_of_a_file_is_shown(#[case] name: &str, #[case] file: &str, #[case] expected: &str) {
    let folder = example(name);
    let path = folder.join(file);
    let whole = path.to_str().expect("a path in UTF-8");
    let outcome = run(&["audit", "--explain-readers", "--tree", whole], Path::new("."));
    assert_eq!(outcome.status, 0, "{}", outcome.stderr);
    let inner = path.file_name().and_then(|name| name.to_str()).expect("a file");
    let from_there = run(&["audit", "--explain-readers", "--tree", inner], path.parent().expect("a folder"));
    assert_eq!(from_there.stdout, outcome.stdout);
    let expected =
        snapbox::Data::read_from(&Path::new(env!("CARGO_MANIFEST_DIR")).join("tests").join(expected), None);
    snapbox::Assert::new().action_env("SNAPSHOTS").eq(&outcome.stdout, expected);
    let json = run(&["audit", "--explain-readers", "--tree", whole, "--format", "json"], Path::new("."));
    let json: Value = serde_json::from_str(&json.stdout).expect("it is JSON");
    let lines = json["files"][0]["tree"].as_array().expect("a tree");
    let items = lines.iter().filter(|line| line["is_item"] == true).count();
    assert_eq!(items, outcome.stdout.lines().filter(|line| line.get(7..8) == Some(">")).count());
}

#[rstest]
#[case::a_folder("modules", "is not a file")]
#[case::no_file("none.yaml", "is not a file")]
#[case::of_nobody("corvant.toml", "no custom reader of")]
fn a_tree_is_of_a_file_that_a_reader_reads(#[case] file: &str, #[case] expected: &str) {
    let outcome = run(&["audit", "--explain-readers", "--tree", file], &example("objects-yaml"));
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains(expected), "{}", outcome.stderr);
}
