//! The report in every format that others take, checked by what they wrote.

mod counts;
mod junit;
mod markdown;
mod outputs;
mod sarif;
#[path = "../support/mod.rs"]
mod support;

use serde_json::Value;
use std::path::Path;
use support::{folder, run};
use tempfile::TempDir;

/// Names that mean something to every format that they are written in.
const HOSTILE: &str = r#"corvant: 1
module: "depot<script>alert(1)</script>"
services:
  "a`b ``c": { needs: { x: { service: "<img src=x onerror=alert(2)>" } } }
  "[click](http://x.example) ![i](y) *bold* _em_ ~~s~~ | cell": {}
  "]]> --> &amp; \u0007\u202e\ufffe": { needs: { y: { service: "https://x.example/?a=1&b='\"" } } }
  "@crew #12 www.x.example": {}
entries:
  "e & <b>": { needs: { z: { service: "%s%n ${x} {{y}}" } } }
"#;

/// The demo on disk.
fn demo() -> TempDir {
    let folder = folder(&[]);
    assert_eq!(run(&["demo", "--write", "velmora"], folder.path()).status, 0);
    folder
}

/// What `audit` finds in a folder, as JSON.
fn findings(folder: &Path, root: &str) -> Vec<Value> {
    let report = run(&["audit", root, "--format", "json"], folder).json();
    report["findings"].as_array().unwrap().clone()
}

/// Audits a folder into a file, and gives the file's text.
fn written(folder: &Path, root: &str, file: &str) -> String {
    let outcome = run(&["audit", root, "--quiet", "--output", file], folder);
    assert!(outcome.status < 2 && outcome.stdout.is_empty(), "{outcome:#?}");
    std::fs::read_to_string(folder.join(file)).unwrap()
}
