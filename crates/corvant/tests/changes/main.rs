//! Changes: folders and revisions compared, audits since a revision, and changes that are supposed.
#![cfg(unix)]

mod compare;
mod revisions;
mod since;
#[path = "../support/mod.rs"]
mod support;
mod suppose;

use serde_json::Value;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use std::process::Command;
use support::{Outcome, folder, run};
use tempfile::TempDir;

/// Runs the version-control program with nothing of whoever runs the tests.
fn git(folder: &Path, arguments: &[&str]) -> String {
    let mut command = Command::new("git");
    command.args([
        "-c",
        "user.name=Desk",
        "-c",
        "user.email=desk@velmora.example",
        "-c",
        "commit.gpgSign=false",
    ]);
    command.args(["-c", "protocol.file.allow=always", "-c", "init.defaultBranch=main"]);
    command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1");
    let output = command.args(arguments).current_dir(folder).output().unwrap();
    assert!(output.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap().trim().to_owned()
}

/// A repository with one commit.
fn repository(files: &[(&str, &str)]) -> TempDir {
    let folder = folder(files);
    git(folder.path(), &["init", "--quiet"]);
    commit(folder.path(), "first");
    folder
}

fn commit(folder: &Path, message: &str) {
    git(folder, &["add", "--all"]);
    git(folder, &["commit", "--quiet", "--allow-empty", "-m", message]);
}

fn write(folder: &Path, path: &str, text: &str) {
    support::write(folder, path, text.as_bytes()).unwrap();
}

/// What `compare` says, as JSON; it has to succeed or find faults.
fn compared(folder: &Path, arguments: &[&str]) -> Value {
    let outcome = run(&[&["compare"], arguments, &["--format", "json"]].concat(), folder);
    assert!(outcome.status < 2, "{outcome:#?}");
    outcome.json()
}

/// Kind, name and change of each definition that is another.
fn turns(comparison: &Value) -> Vec<String> {
    let changes = comparison["definitions"].as_array().unwrap();
    let text = |value: &Value| value.as_str().unwrap().to_owned();
    let turn = |change: &Value| {
        format!("{} {} {}", text(&change["change"]), text(&change["kind"]), text(&change["name"]))
    };
    changes.iter().map(turn).collect()
}

/// Every file below a folder, with its bytes.
fn contents(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let mut all = BTreeMap::new();
    let mut waiting = vec![folder.to_owned()];
    while let Some(folder) = waiting.pop() {
        for entry in fs::read_dir(&folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() && !path.is_symlink() {
                waiting.push(path);
            } else {
                all.insert(path.display().to_string(), fs::read(&path).unwrap_or_default());
            }
        }
    }
    all
}

fn assert_refused(outcome: &Outcome, complaint: &str) {
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""), "{outcome:#?}");
    assert!(outcome.stderr.contains(complaint), "{}", outcome.stderr);
}

const CLEAN: &str = support::CLEAN;
const FAULTY: &str = support::FAULTY;
