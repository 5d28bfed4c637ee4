//! What is told of changes, in every format.

use super::{CLEAN, FAULTY, commit, compared, git, repository, turns, write};
use crate::support::{folder, run};
use rstest::rstest;
use serde_json::json;
use std::fs;

#[test]
fn a_branch_is_held_against_where_it_parted() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    git(root, &["checkout", "--quiet", "-b", "tiles"]);
    write(root, "depot.wiring.yaml", "corvant: 1\nmodule: depot\nservices:\n  depot.gate: {}\n");
    commit(root, "a gate");
    git(root, &["checkout", "--quiet", "main"]);
    write(root, "crew.wiring.yaml", "corvant: 1\nmodule: crew\nservices:\n  crew.shifts: {}\n");
    commit(root, "shifts");
    assert_eq!(turns(&compared(root, &["main...tiles"])), ["new service depot.gate", "new module depot"]);
    assert_eq!(turns(&compared(root, &["...tiles"])), ["new service depot.gate", "new module depot"]);
    let against = turns(&compared(root, &["main", "tiles"]));
    assert!(against.contains(&"gone service crew.shifts".to_owned()), "{against:?}");
    git(root, &["merge", "--quiet", "--no-edit", "tiles"]);
    assert_eq!(turns(&compared(root, &["HEAD^1", "HEAD"])), ["new service depot.gate", "new module depot"]);
}

#[test]
fn what_is_not_committed_counts_as_what_lies_there() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    write(repository.path(), "web.wiring.yaml", FAULTY);
    let comparison = compared(repository.path(), &["HEAD"]);
    assert_eq!(turns(&comparison), ["gone service web.tiles"]);
    assert_eq!(comparison["findings"]["new"][0]["finding"]["subject"], "web.tiles");
    assert_eq!(comparison["summary"]["new_findings"], 1);
    let effects = comparison["effects"].as_array().unwrap();
    assert_eq!(effects[0]["kind"], "uses");
    assert_eq!(effects[0]["before"], json!({ "names": ["web.tiles"] }));
}

#[test]
fn folders_are_compared_without_any_repository() {
    let folder = folder(&[("old/web.wiring.yaml", FAULTY), ("new/web.wiring.yaml", CLEAN)]);
    let comparison = compared(folder.path(), &["old", "new"]);
    assert_eq!(turns(&comparison), ["new service web.tiles"]);
    assert_eq!(comparison["findings"]["gone"].as_array().unwrap().len(), 1);
    let text = run(&["compare", "old", "new"], folder.path());
    assert_eq!(text.status, 0);
    assert!(
        text.stdout.contains("1 finding is gone") && text.stdout.contains("new against old"),
        "{}",
        text.stdout
    );
}

#[test]
fn the_status_says_whether_something_new_fails() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    assert_eq!(run(&["compare", "HEAD", "--exit-on-change"], root).status, 0);
    write(root, "web.wiring.yaml", &CLEAN.replace("web.tiles: {}", "web.tiles: { lifetime: process }"));
    assert_eq!(run(&["compare", "HEAD"], root).status, 0);
    assert_eq!(run(&["compare", "HEAD", "--exit-on-change"], root).status, 1);
    write(root, "web.wiring.yaml", FAULTY);
    assert_eq!(run(&["compare", "HEAD"], root).status, 1);
    assert_eq!(run(&["compare", "HEAD", "--fail-on", "never"], root).status, 0);
    commit(root, "faulty");
    // What was there before fails nothing.
    write(root, "crew.wiring.yaml", "corvant: 1\nmodule: crew\nsettings: { crew.room: 1 }\n");
    assert_eq!(run(&["compare", "HEAD"], root).status, 0);
}

/// A stage that only one of both has is none in the other; one that neither has is a slip.
#[rstest]
#[case::of_the_new("night", 0)]
#[case::of_none("web", 2)]
#[case::unheard_of("dusk", 2)]
fn a_stage_is_one_of_either(#[case] stage: &str, #[case] status: i32) {
    let staged = CLEAN.replace("web.tiles: {}", "web.tiles: { stages: [night] }");
    let folder = folder(&[("old/web.wiring.yaml", CLEAN), ("new/web.wiring.yaml", &staged)]);
    let outcome = run(&["compare", "old", "new", "--stage", stage], folder.path());
    assert_eq!(outcome.status, status, "{outcome:#?}");
    assert_eq!(outcome.stderr.contains(&format!("there is no stage {stage}")), status == 2);
    let outcome = run(&["compare", "new", "old", "--stage", stage, "--fail-on", "never"], folder.path());
    assert_eq!(outcome.status, status, "{outcome:#?}");
}

#[test]
fn values_of_settings_are_told_on_demand_only() {
    let manifest = "corvant: 1\nmodule: web\nsettings: { web.word: velvet }\nentries:\n  map: { needs: { w: { setting: web.word } } }\n";
    let repository = repository(&[("web.wiring.yaml", manifest)]);
    let root = repository.path();
    write(root, "web.wiring.yaml", &manifest.replace("velvet", "corduroy"));
    for format in ["text", "json", "markdown"] {
        let hidden = run(&["compare", "HEAD", "--format", format], root).stdout;
        assert!(
            hidden.contains("web.word") && !hidden.contains("corduroy") && !hidden.contains("velvet"),
            "{hidden}"
        );
        let shown = run(&["compare", "HEAD", "--format", format, "--values"], root).stdout;
        assert!(shown.contains("corduroy") && shown.contains("velvet"), "{shown}");
    }
}

#[test]
fn the_json_is_as_its_schema_says() {
    let folder = folder(&[]);
    assert_eq!(run(&["demo", "--write", "velmora", "--history"], folder.path()).status, 0);
    let root = folder.path().join("velmora");
    let schema = run(&["schema", "compare"], &root).json();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for revisions in [["HEAD~4", "HEAD"], ["HEAD", "HEAD~4"], ["HEAD~3", "HEAD~2"], ["HEAD", "HEAD"]] {
        let comparison = compared(&root, &revisions);
        let mistakes: Vec<String> =
            validator.iter_errors(&comparison).map(|error| error.to_string()).collect();
        assert!(mistakes.is_empty(), "{mistakes:#?}");
    }
}

#[test]
fn the_demos_history_says_what_each_change_does() {
    let folder = folder(&[]);
    run(&["demo", "--write", "velmora", "--history"], folder.path());
    let root = folder.path().join("velmora");
    assert_eq!(turns(&compared(&root, &["HEAD~4", "HEAD~3"])), ["changed setting timetable.horizon_minutes"]);
    let renamed = compared(&root, &["HEAD~3", "HEAD~2"]);
    assert_eq!(turns(&renamed), ["renamed service depot.washing"]);
    assert_eq!(renamed["definitions"][0]["formerly"], "depot.car-wash");
    assert_eq!(renamed["effects"], json!([]), "a name alone changes nothing");
    let reordered = compared(&root, &["HEAD~2", "HEAD~1"]);
    assert_eq!(reordered["effects"][0]["subject"], "depot-task");
    let last = compared(&root, &["HEAD~1"]);
    assert_eq!(last["summary"]["new_findings"], 38);
    assert_eq!(last["summary"]["same_findings"], 0);
    assert_eq!(git(&root, &["status", "--porcelain"]), "");
}

#[test]
fn markdown_fits_a_comment_and_begins_with_the_verdict() {
    let folder = folder(&[]);
    run(&["demo", "--write", "velmora", "--history"], folder.path());
    let root = folder.path().join("velmora");
    let outcome = run(&["compare", "HEAD~1", "--format", "markdown", "--output", "comment.md"], &root);
    assert_eq!((outcome.status, outcome.stdout.as_str()), (1, ""));
    let text = fs::read_to_string(root.join("comment.md")).unwrap();
    assert!(text.starts_with("## This change brings faults into the wiring\n"), "{text}");
    assert!(text.contains("What follows") && text.contains("Definitions that changed"));
    assert!(text.chars().count() < 60_000);
    assert_eq!(text.matches("<details>").count(), text.matches("</details>").count());
}
