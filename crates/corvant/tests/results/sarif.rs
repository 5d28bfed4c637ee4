//! SARIF: what is in it, and that others take it.

use crate::support::{folder, run, write};
use crate::{HOSTILE, demo, findings, written};
use corvant_testing::validators;
use rstest::rstest;
use serde_json::{Value, json};
use std::path::Path;
use std::process::Command;
use tempfile::TempDir;

fn log(folder: &Path, root: &str) -> Value {
    serde_json::from_str(&written(folder, root, "r.sarif")).unwrap()
}

fn results(log: &Value) -> &[Value] {
    log["runs"][0]["results"].as_array().unwrap()
}

fn hostile() -> TempDir {
    folder(&[("depot of 50% č:1/a b.wiring.yaml", HOSTILE)])
}

#[test]
fn every_finding_is_a_result_with_its_places() {
    let folder = demo();
    let (log, findings) = (log(folder.path(), "velmora"), findings(folder.path(), "velmora"));
    assert_eq!(results(&log).len(), findings.len());
    let rules = log["runs"][0]["tool"]["driver"]["rules"].as_array().unwrap();
    for (result, finding) in results(&log).iter().zip(&findings) {
        assert_eq!(result["ruleId"], finding["rule"]);
        assert_eq!(rules[result["ruleIndex"].as_u64().unwrap() as usize]["id"], finding["rule"]);
        assert_eq!(result["level"], finding["severity"]);
        assert_eq!(result["message"]["text"], finding["message"]);
        assert_eq!(result["partialFingerprints"]["ruleAndSubject/v1"], finding["fingerprint"]);
        let places = [&result["locations"], &result["relatedLocations"]];
        let places: Vec<&Value> = places.iter().filter_map(|list| list.as_array()).flatten().collect();
        let expected = finding["places"].as_array().unwrap();
        assert_eq!(places.len(), expected.len());
        for (place, expected) in places.iter().zip(expected) {
            let physical = &place["physicalLocation"];
            assert_eq!(place["message"]["text"], expected["role"]);
            assert_eq!(physical["artifactLocation"]["uri"], expected["file"]);
            assert_eq!(physical["region"]["startLine"], expected["line"]);
            assert_eq!(physical["region"]["startColumn"], expected["column"], "the demo is all ASCII");
        }
        let certain = finding["fixes"].as_array().unwrap().iter().filter(|fix| fix["certainty"] == "certain");
        let fixes = result["fixes"].as_array().map_or(0, Vec::len);
        assert_eq!(fixes, certain.count());
    }
    let about =
        |subject: &str| results(&log).iter().find(|one| one["properties"]["subject"] == subject).unwrap();
    let logical = &about("timetable.board > timetable.request-log")["locations"][0]["logicalLocations"];
    assert_eq!(
        logical[0],
        json!({ "name": "timetable.board", "fullyQualifiedName": "timetable.board", "kind": "service" })
    );
    assert_eq!(logical[2]["kind"], "module");
    let staged = results(&log).iter().filter(|one| one["properties"]["stages"].is_array()).count();
    assert_eq!(staged, findings.iter().filter(|one| one["holds"].is_object()).count());
    assert!(staged > 0);
}

#[test]
fn a_fix_that_is_certain_is_a_replacement() {
    let manifest = "corvant: 1\nmodule: web\nservices:\n  # 𝄞𝄞\n  web.tiles: { need: {} }\nentries:\n  map: { needs: { tiles: { service: web.tiles } } }\n";
    let folder = folder(&[("web.wiring.yaml", manifest)]);
    let log = log(folder.path(), ".");
    let result = results(&log).iter().find(|one| one["ruleId"] == "unknown-field").unwrap();
    let change = &result["fixes"][0]["artifactChanges"][0];
    assert_eq!(change["artifactLocation"]["uri"], "web.wiring.yaml");
    let region = json!({ "startLine": 5, "startColumn": 16, "endLine": 5, "endColumn": 20 });
    assert_eq!(change["replacements"][0]["deletedRegion"], region);
    assert_eq!(change["replacements"][0]["insertedContent"]["text"], "needs");
}

#[test]
fn columns_are_units_of_utf_16_and_paths_are_references() {
    let manifest = "corvant: 1\nmodule: web\nentries: { \"𝄞𝄞\": { needs: { x: { service: gone } } } }\n";
    let folder = folder(&[("a b/50%.wiring.yaml", manifest)]);
    let log = log(folder.path(), ".");
    let place = &results(&log)[0]["locations"][0]["physicalLocation"];
    assert_eq!(place["artifactLocation"], json!({ "uri": "a%20b/50%25.wiring.yaml", "uriBaseId": "ROOT" }));
    let line = manifest.lines().nth(2).unwrap();
    let units = line.split("{ service").next().unwrap().encode_utf16().count() as u64;
    let start = place["region"]["startColumn"].as_u64().unwrap();
    assert!((units..units + 14).contains(&(start - 1)), "{place}");
    assert_eq!(log["runs"][0]["columnKind"], "utf16CodeUnits");
}

#[test]
fn what_is_accepted_is_suppressed_with_the_reason() {
    let folder = demo();
    let all = findings(folder.path(), "velmora").len();
    let accept = run(&["accept", "velmora", "--reason", "before the spring timetable"], folder.path());
    assert_eq!(accept.status, 0, "{accept:#?}");
    let log = log(folder.path(), "velmora");
    let accepted: Vec<&Value> = results(&log).iter().filter(|one| one["suppressions"].is_array()).collect();
    let left = findings(folder.path(), "velmora").len();
    assert_eq!(accepted.len(), all - left);
    let suppression = &accepted[0]["suppressions"][0];
    assert_eq!(suppression["justification"], "before the spring timetable");
    assert_eq!(suppression["status"], "accepted");
}

#[test]
fn what_could_not_be_seen_is_a_notification() {
    let folder = folder(&[("web.wiring.yaml", "corvant: 1\nmodule: web\nservices:\n  a: {}\n")]);
    let log = log(folder.path(), ".");
    let told = &log["runs"][0]["invocations"][0]["toolExecutionNotifications"];
    assert_eq!(told[0]["descriptor"]["id"], "not-seen");
    assert_eq!(told[0]["level"], "note");
}

#[test]
fn a_limit_says_what_is_left_out() {
    let folder = demo();
    let outcome = run(&["audit", "velmora", "--format", "sarif", "--limit", "3"], folder.path());
    let log: Value = serde_json::from_str(&outcome.stdout).unwrap();
    assert_eq!(results(&log).len(), 3);
    let told = log["runs"][0]["invocations"][0]["toolExecutionNotifications"].as_array().unwrap();
    let left = told.iter().find(|one| one["descriptor"]["id"] == "left-out").unwrap();
    let all = findings(folder.path(), "velmora").len();
    assert!(left["message"]["text"].as_str().unwrap().starts_with(&format!("{} findings more", all - 3)));
}

#[test]
fn what_is_in_an_archive_is_told_as_a_name() {
    let folder = folder(&[]);
    let mut jar = Vec::new();
    {
        use std::io::Write;
        let mut archive = zip::ZipWriter::new(std::io::Cursor::new(&mut jar));
        let options = zip::write::SimpleFileOptions::default();
        archive.start_file("META-INF/services/velmora.Clock", options).unwrap();
        archive.write_all(b"velmora.Quartz\nvelmora.Quartz\nnot a name!\n").unwrap();
        archive.finish().unwrap();
    }
    write(folder.path(), "lib/clock.jar", &jar).unwrap();
    let log = log(folder.path(), ".");
    let places = results(&log).iter().map(|one| &one["locations"][0]);
    let mut inside =
        places.filter(|one| one["physicalLocation"]["artifactLocation"]["uri"] == "lib/clock.jar");
    let place = inside.next().expect("something is wrong in the archive");
    assert!(place["physicalLocation"]["region"].is_null(), "{place}");
    let name = place["logicalLocations"][0]["fullyQualifiedName"].as_str().unwrap();
    assert!(name.starts_with("lib/clock.jar!/META-INF/services/velmora.Clock:"), "{name}");
}

#[rstest]
#[case::demo(demo(), "velmora")]
#[case::hostile(hostile(), ".")]
fn the_schema_of_the_standard_takes_it(#[case] folder: TempDir, #[case] root: &str) {
    written(folder.path(), root, "r.sarif");
    let Some(validators) = validators::folder("SARIF by its schema and by its validator") else { return };
    let package = validators.join("npm/node_modules/@microsoft/sarif-multitool-linux");
    let file = folder.path().join("r.sarif");
    let mut by_schema = Command::new(validators.join("python/bin/check-jsonschema"));
    validators::accepts(by_schema.arg("--schemafile").arg(package.join("sarif-2.1.0.json")), &file);
    let (tool, found) =
        (validators.join("npm/node_modules/.bin/sarif-multitool"), folder.path().join("found.sarif"));
    let mut by_tool = Command::new(tool);
    by_tool.args(["validate", "--log", "ForceOverwrite", "--output"]).arg(&found);
    validators::accepts(&mut by_tool, &file);
    let found: Value = serde_json::from_str(&std::fs::read_to_string(found).unwrap()).unwrap();
    // That there is no page of its own for the program to point at is known.
    let known = ["SARIF2005"];
    let wrong: Vec<&Value> =
        results(&found).iter().filter(|one| !known.contains(&one["ruleId"].as_str().unwrap())).collect();
    assert!(wrong.is_empty(), "{wrong:#?}");
}
