//! Changes that nobody has made.

use super::{assert_refused, contents};
use crate::support::{folder, run};
use rstest::rstest;
use serde_json::Value;
use std::fs;
use std::path::Path;
use tempfile::TempDir;

fn demo() -> TempDir {
    let folder = folder(&[]);
    assert_eq!(run(&["demo", "--fixed", "--write", "velmora"], folder.path()).status, 0);
    folder
}

/// What is told of a comparison, without where it stands and what the states are called.
fn essence(mut comparison: Value) -> Value {
    fn strip(value: &mut Value) {
        match value {
            Value::Object(fields) => {
                for name in [
                    "before_place",
                    "after_place",
                    "places",
                    "line",
                    "column",
                    "end_line",
                    "end_column",
                    "file",
                    "fixes",
                ] {
                    fields.remove(name);
                }
                fields.values_mut().for_each(strip);
            }
            Value::Array(items) => items.iter_mut().for_each(strip),
            _ => {}
        }
    }
    let fields = comparison.as_object_mut().unwrap();
    fields.remove("old");
    fields.remove("new");
    fields.remove("supposed");
    strip(&mut comparison);
    comparison
}

fn edit(root: &Path, file: &str, from: &str, to: &str) {
    let path = root.join(file);
    let text = fs::read_to_string(&path).unwrap();
    assert!(text.contains(from), "{from} in {file}");
    fs::write(path, text.replacen(from, to, 1)).unwrap();
}

#[rstest]
#[case::lifetime(
    &["--lifetime", "timetable.request-log=process"],
    "modules/timetable/timetable.wiring.yaml", "lifetime: request", "lifetime: process"
)]
#[case::lazy(
    &["--lazy", "depot.gate.open"],
    "modules/depot/depot.wiring.yaml",
    "open: { setting: depot.gate_seconds }", "open: { setting: depot.gate_seconds, lazy: true }"
)]
#[case::remove(
    &["--remove", "vehicles.archive"],
    "modules/vehicles/vehicles.wiring.yaml", "  vehicles.archive: { alias-of: vehicles.store }\n", ""
)]
#[case::choose(
    &["--choose", "PassengerChannel=passenger.channel.displays"],
    "modules/passenger/channels.wiring.yaml",
    "services:\n", "choices:\n  PassengerChannel: { default: passenger.channel.displays }\nservices:\n"
)]
fn what_is_supposed_is_as_if_it_had_been_made(
    #[case] options: &[&str],
    #[case] file: &str,
    #[case] from: &str,
    #[case] to: &str,
) {
    let folder = demo();
    assert_eq!(run(&["demo", "--fixed", "--write", "other"], folder.path()).status, 0);
    let other = folder.path().join("other");
    edit(&other, file, from, to);
    let format = ["--format", "json"];
    let supposed = run(&[&["suppose", "--root", "velmora"], options, &format].concat(), folder.path());
    let made = run(&[&["compare", "velmora", "other"][..], &format].concat(), folder.path());
    assert_eq!(supposed.status, made.status, "{supposed:#?}");
    assert_eq!(essence(supposed.json()), essence(made.json()));
}

#[test]
fn several_changes_are_supposed_together_and_nothing_is_written() {
    let folder = demo();
    let before = contents(folder.path());
    let options = [
        "suppose",
        "--root",
        "velmora",
        "--remove",
        "vehicles.store",
        "--lazy",
        "depot.gate.open",
        "--disable",
        "incidents",
        "--load",
        "vehicles.provider,signals.provider",
        "--enable",
        "museum",
        "--replace",
        "signals.lamps=signals.detector",
    ];
    let outcome = run(&options, folder.path());
    assert_eq!(outcome.status, 1, "{outcome:#?}");
    for told in [
        "gone     service vehicles.store",
        "changed  service depot.gate",
        "gone     module incidents",
        "new      service museum.line",
        "roster: ",
        "now has replaces: signals.lamps",
    ] {
        assert!(outcome.stdout.contains(told), "{told} is not in {}", outcome.stdout);
    }
    assert_eq!(contents(folder.path()), before);
}

#[test]
fn the_edits_are_shown_as_a_diff_where_they_are_certain() {
    let folder = demo();
    let call = |options: &[&str]| run(&[&["suppose", "--root", "velmora"], options].concat(), folder.path());
    let outcome = call(&["--lazy", "depot.gate.open"]);
    let diff = "-    needs: { open: { setting: depot.gate_seconds } }\n+    needs: { open: { setting: depot.gate_seconds, lazy: true } }\n";
    assert!(
        outcome
            .stdout
            .contains("--- a/modules/depot/depot.wiring.yaml\n+++ b/modules/depot/depot.wiring.yaml\n")
    );
    assert!(outcome.stdout.contains(diff), "{}", outcome.stdout);
    let outcome = call(&["--choose", "Clock=signals.clock"]);
    assert!(
        outcome.stdout.contains("--choose Clock=signals.clock: no certain edit is known"),
        "{}",
        outcome.stdout
    );
    assert!(!call(&["--lazy", "depot.gate.open", "--quiet"]).stdout.contains("---"));
}

/// Wherever the comparison goes, the edits go with it.
#[rstest]
#[case::text(
    "text",
    "\nthe edits that would make it so:\n--- a/modules/depot",
    "  --choose Clock=signals.clock: no certain edit"
)]
#[case::markdown(
    "markdown",
    "</summary>\n\n```diff\n--- a/modules/depot",
    "- `--choose Clock=signals.clock`: no certain edit"
)]
fn the_edits_go_where_the_comparison_goes(#[case] format: &str, #[case] edits: &str, #[case] without: &str) {
    let folder = demo();
    let options = ["--lazy", "depot.gate.open", "--choose", "Clock=signals.clock", "--format", format];
    let call =
        |more: &[&str]| run(&[&["suppose", "--root", "velmora"], &options[..], more].concat(), folder.path());
    let shown = call(&[]).stdout;
    assert!(shown.contains(edits) && shown.contains(without), "{shown}");
    assert!(!shown.contains("\n\n\n"), "{shown}");
    call(&["--output", "changes.txt"]);
    assert_eq!(fs::read_to_string(folder.path().join("changes.txt")).unwrap(), shown);
}

/// What the workspace file says already is edited where it says so; programs get the edits too.
#[rstest]
#[case::disable(&["--disable", "incidents"], "disable incidents", "[\"museum\", \"incidents\"]")]
#[case::enable(&["--enable", "museum"], "enable museum", "disabled = []")]
#[case::load(
    &["--load", "vehicles.provider,signals.provider"],
    "load these providers in this order",
    "roster = [\"vehicles.provider\", \"signals.provider\"]"
)]
#[case::choose(&["--choose", "Announcer=passenger.announcer.cabin"], "choose passenger.announcer.cabin for Announcer", "default: passenger.announcer.cabin }")]
fn decisions_are_edited_where_they_stand(#[case] options: &[&str], #[case] title: &str, #[case] line: &str) {
    let folder = demo();
    let call =
        |more: &[&str]| run(&[&["suppose", "--root", "velmora"], options, more].concat(), folder.path());
    let told = call(&[]).stdout;
    let added = told.lines().filter(|text| text.starts_with('+')).any(|text| text.contains(line));
    assert!(added, "{line} is not in {told}");
    let document = call(&["--format", "json"]).json();
    assert_eq!(document["supposed"][0]["change"], options.join(" "));
    assert_eq!(document["supposed"][0]["fix"]["title"], title);
    assert!(!document["supposed"][0]["fix"]["edits"].as_array().unwrap().is_empty());
    let unknown = run(
        &["suppose", "--root", "velmora", "--choose", "Clock=signals.clock", "--format", "json"],
        folder.path(),
    );
    assert_eq!(unknown.json()["supposed"][0]["fix"], Value::Null);
}

#[rstest]
#[case::no_such_service(&["--remove", "vehicles.stor"], "nothing here is called vehicles.stor; did you mean vehicles.store?")]
#[case::no_such_slot(&["--lazy", "depot.gate.opn"], "no need here is called depot.gate.opn: write HOLDER.SLOT")]
#[case::not_disabled(&["--enable", "depot"], "--enable depot: there is nothing that this would change")]
#[case::no_pair(&["--choose", "Clock"], "write it as NAME=NAME")]
#[case::nothing(&[], "required arguments were not provided")]
fn what_there_is_nothing_for_is_refused(#[case] options: &[&str], #[case] complaint: &str) {
    let folder = demo();
    let outcome = run(&[&["suppose", "--root", "velmora"], options].concat(), folder.path());
    assert_refused(&outcome, complaint);
}
