//! JUnit XML: what is in it, and that others read the same.

use crate::support::{folder, run};
use crate::{HOSTILE, demo, findings, written};
use corvant_testing::validators;
use rstest::rstest;
use serde_json::{Value, json};
use std::collections::BTreeSet;
use std::process::Command;
use tempfile::TempDir;

/// Reads a file with a library that pipelines use, and says what it sees.
const READ: &str = r#"
import json, sys
from junitparser import JUnitXml, Failure, Skipped
suites = JUnitXml.fromfile(sys.argv[1])
def kind(case):
    kinds = [type(result).__name__.lower() for result in case.result]
    return kinds[0] if kinds else "passed"
cases = [[suite.name, case.name, kind(case), case.result[0].message if case.result else "", case.system_out or ""] for suite in suites for case in suite]
print(json.dumps({"tests": suites.tests, "failures": suites.failures, "skipped": suites.skipped, "cases": cases}))
"#;

fn read(folder: &TempDir, file: &str) -> Option<Value> {
    let validators = validators::folder("JUnit XML by a parser of it")?;
    let mut parser = Command::new(validators.join("python/bin/python"));
    let said = validators::accepts(parser.args(["-c", READ]), &folder.path().join(file));
    Some(serde_json::from_str(&said).unwrap())
}

#[test]
fn a_suite_a_module_and_a_case_a_rule() {
    let folder = demo();
    let text = written(folder.path(), "velmora", "r.junit.xml");
    let modules = text.matches("<testsuite name=").count();
    assert_eq!(modules, 11, "ten modules, and what is in none");
    let rules = run(&["rules", "--format", "json"], folder.path()).json();
    let rules = rules["checks"].as_array().unwrap().len();
    assert_eq!(text.matches("<testcase ").count(), modules * rules);
    let Some(seen) = read(&folder, "r.junit.xml") else { return };
    assert_eq!(seen["tests"], json!(modules * rules));
    let failing: BTreeSet<(String, String)> = seen["cases"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|case| case[2] == "failure")
        .map(|case| (case[0].as_str().unwrap().to_owned(), case[1].as_str().unwrap().to_owned()))
        .collect();
    let rules_of_errors: BTreeSet<String> = findings(folder.path(), "velmora")
        .iter()
        .filter(|finding| finding["severity"] == "error")
        .map(|finding| finding["rule"].as_str().unwrap().to_owned())
        .collect();
    let of_failing: BTreeSet<String> = failing.iter().map(|(_, rule)| rule.clone()).collect();
    assert_eq!(of_failing, rules_of_errors);
    assert_eq!(seen["failures"], json!(failing.len()));
    assert!(failing.contains(&("timetable".to_owned(), "short-lived-need".to_owned())));
}

#[rstest]
#[case::errors_fail(&[], "passed", true)]
#[case::warnings_fail(&["--fail-on", "warning"], "failure", false)]
#[case::nothing_fails(&["--fail-on", "never"], "passed", true)]
fn cases_fail_where_the_audit_does(#[case] options: &[&str], #[case] kind: &str, #[case] is_output: bool) {
    // Nothing needs the second service: that is a warning.
    let manifest = "corvant: 1\nmodule: web\nservices:\n  web.tiles: {}\n  web.idle: {}\nentries:\n  map: { needs: { t: { service: web.tiles } } }\n";
    let folder = folder(&[("web.wiring.yaml", manifest)]);
    let outcome = run(&[&["audit", "-q", "--output", "r.junit.xml"], options].concat(), folder.path());
    assert_eq!(outcome.status, i32::from(kind == "failure"));
    let Some(seen) = read(&folder, "r.junit.xml") else { return };
    let cases = seen["cases"].as_array().unwrap();
    let case = cases.iter().find(|case| case[1] == "unused-service").unwrap();
    assert_eq!(case[2], kind, "{case}");
    assert_eq!(case[4].as_str().unwrap().contains("web.idle"), is_output, "{case}");
}

#[test]
fn what_is_accepted_is_skipped_with_the_reason() {
    let folder = demo();
    run(&["accept", "velmora", "--reason", "before the <spring> timetable"], folder.path());
    written(folder.path(), "velmora", "r.junit.xml");
    let Some(seen) = read(&folder, "r.junit.xml") else { return };
    let cases = seen["cases"].as_array().unwrap();
    let skipped: Vec<&Value> = cases.iter().filter(|case| case[2] == "skipped").collect();
    assert!(!skipped.is_empty());
    assert_eq!(seen["skipped"], json!(skipped.len()));
    assert!(skipped[0][3].as_str().unwrap().ends_with("before the <spring> timetable"), "{}", skipped[0]);
}

#[test]
fn hostile_names_stay_names() {
    let folder = folder(&[("a.wiring.yaml", HOSTILE)]);
    let text = written(folder.path(), ".", "r.junit.xml");
    assert!(!text.contains("<script") && !text.contains("<img") && !text.contains('\u{7}'), "{text}");
    let Some(seen) = read(&folder, "r.junit.xml") else { return };
    assert_eq!(seen["cases"][0][0], "depot<script>alert(1)</script>");
    assert_eq!(seen["failures"], json!(1));
}
