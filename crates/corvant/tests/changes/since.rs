//! Audits that tell what is new only.

use super::{CLEAN, FAULTY, commit, repository, write};
use crate::support::run;
use serde_json::{Value, json};

const SECOND: &str =
    "corvant: 1\nmodule: depot\nentries:\n  open: { needs: { gate: { service: depot.gate } } }\n";

#[test]
fn only_findings_that_were_not_there_fail() {
    let repository = repository(&[("web.wiring.yaml", FAULTY)]);
    let root = repository.path();
    let same = run(&["audit", "--since", "HEAD"], root);
    assert_eq!(same.status, 0, "{same:#?}");
    assert!(
        same.stdout.starts_with("nothing new is wrong\n1 finding was there at HEAD already"),
        "{}",
        same.stdout
    );
    write(root, "depot.wiring.yaml", SECOND);
    let more = run(&["audit", "--since", "HEAD"], root);
    assert_eq!(more.status, 1);
    assert_eq!(more.subjects_of_text(), ["missing-service: depot.gate"]);
    let json = run(&["audit", "--since", "HEAD", "--format", "json"], root).json();
    assert_eq!(json["since"], json!({ "revision": "HEAD", "there_before": 1 }));
    assert_eq!(json["summary"]["errors"], 1);
    commit(root, "more");
    assert_eq!(run(&["audit", "--since", "HEAD"], root).status, 0);
    assert_eq!(run(&["audit", "--since", "HEAD~1"], root).status, 1);
}

#[test]
fn every_format_tells_what_is_new_only() {
    let repository = repository(&[("web.wiring.yaml", FAULTY)]);
    let root = repository.path();
    write(root, "depot.wiring.yaml", SECOND);
    for format in ["text", "json", "sarif", "junit", "markdown"] {
        let written = run(&["audit", "--since", "HEAD", "--format", format], root).stdout;
        assert!(written.contains("depot.gate") && !written.contains("web.tiles"), "{format}: {written}");
    }
    let sarif: Value =
        serde_json::from_str(&run(&["audit", "--since", "HEAD", "--format", "sarif"], root).stdout).unwrap();
    assert_eq!(sarif["runs"][0]["results"][0]["baselineState"], "new");
    let whole: Value = serde_json::from_str(&run(&["audit", "--format", "sarif"], root).stdout).unwrap();
    assert!(whole["runs"][0]["results"][0]["baselineState"].is_null());
}

#[test]
fn what_is_worse_than_it_was_is_new() {
    let manifest = CLEAN.replace("web.tiles: {}", "web.tiles: {}\n  web.idle: {}");
    let repository = repository(&[("web.wiring.yaml", &manifest)]);
    let root = repository.path();
    let gate = ["audit", "--since", "HEAD", "--fail-on", "warning"];
    assert_eq!(run(&gate, root).status, 0);
    write(root, "corvant.toml", "[rules]\nunused-service = \"error\"\n");
    let worse = run(&gate, root);
    assert_eq!((worse.status, worse.subjects_of_text()), (1, vec!["unused-service: web.idle"]), "{worse:#?}");
}

#[test]
fn it_stands_beside_what_is_accepted() {
    let repository = repository(&[("web.wiring.yaml", FAULTY)]);
    let root = repository.path();
    assert_eq!(run(&["accept", "--reason", "before the audit was"], root).status, 0);
    let audit = run(&["audit", "--since", "HEAD"], root);
    assert_eq!(audit.status, 0);
    assert!(audit.stdout.contains("1 finding is accepted by allowances"), "{}", audit.stdout);
}
