//! Audits that tell what is new only.

use super::{CLEAN, FAULTY, commit, git, repository, write};
use crate::support::{folder, run};
use rstest::rstest;
use serde_json::{Value, json};
use std::fs;

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

/// A module whose entry needs what is not there, with a service of one stage.
const STAGED: &str = "corvant: 1\nmodule: depot\nservices: { depot.gate: {}, depot.idle: { stages: [night] } }\nentries:\n  \
    open: { needs: { gate: { service: depot.gat } } }\n";

/// What was found at a revision is known when the same is asked again, whatever is asked of it: nothing of the revision is
/// read then.
#[rstest]
#[case::the_same(&[], "HEAD", true)]
#[case::by_another_name(&[], "main", true)]
#[case::in_another_format(&["--format", "json"], "HEAD", true)]
#[case::in_a_stage(&["--stage", "night"], "HEAD", false)]
#[case::by_other_rules(&["--rule", "unused-service=error"], "HEAD", false)]
#[case::on_another_day(&["--today", "2031-02-03"], "HEAD", false)]
#[case::another_revision(&[], "HEAD~1", false)]
#[case::another_folder(&["depot"], "HEAD", false)]
#[case::with_nothing_kept(&["--no-cache"], "HEAD", false)]
fn what_was_found_at_a_revision_is_kept(
    #[case] more: &[&str],
    #[case] revision: &str,
    #[case] is_kept: bool,
) {
    let repository = repository(&[("depot/depot.wiring.yaml", CLEAN)]);
    let (root, kept) = (repository.path(), folder(&[]));
    git(
        root,
        &["update-index", "--add", "--cacheinfo", "160000,3f1c0de5a17e3f1c0de5a17e3f1c0de5a17e3f1c,rails"],
    );
    write(root, "depot/depot.wiring.yaml", STAGED);
    git(root, &["add", "depot"]);
    git(root, &["commit", "--quiet", "-m", "staged"]);
    write(root, "depot/depot.wiring.yaml", &STAGED.replace("depot.gat }", "depot.gates }"));
    let cache = kept.path().display().to_string();
    let audit = |revision: &str, more: &[&str]| {
        let cache: &[&str] = if more.contains(&"--no-cache") { &[] } else { &["--cache", &cache] };
        let today: &[&str] = if more.contains(&"--today") { &[] } else { &["--today", "2030-01-01"] };
        run(&[&["audit", "--since", revision], today, cache, more].concat(), root)
    };
    audit("HEAD", &[]);
    let first = audit(revision, more);
    assert_eq!(first.status, 1, "{first:#?}");
    // Another repository is nothing that can be seen.
    assert_eq!(
        first.stdout.contains(&format!("rails at {revision}")),
        !revision.ends_with("~1") && more != ["depot"]
    );
    fs::remove_dir_all(kept.path()).unwrap();
    audit("HEAD", &[]);
    // The texts of all revisions are gone; the commits are not.
    for object in ["HEAD:depot/depot.wiring.yaml", "HEAD~1:depot/depot.wiring.yaml"] {
        let id = git(root, &["rev-parse", object]);
        fs::remove_file(root.join(".git/objects").join(&id[..2]).join(&id[2..])).unwrap();
    }
    let second = audit(revision, more);
    if is_kept {
        assert_eq!((second.status, second.stdout), (first.status, first.stdout));
    } else {
        assert!(second.stderr.contains("not in this clone"), "{second:#?}");
    }
}
