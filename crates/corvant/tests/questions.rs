//! `show`, `find`, `why`, `order`, `impact` and `graph`, asked of the demo and of small workspaces.

mod support;

use corvant_read::syntax::xml;
use rstest::rstest;
use serde_json::Value;
use std::fs;
use std::path::Path;
use support::{folder, outcome, program, run};
use tempfile::TempDir;

/// The demo on disk.
fn demo() -> TempDir {
    let folder = TempDir::new().unwrap();
    let written = run(&["demo", "--write", "velmora"], folder.path());
    assert_eq!(written.status, 0, "{written:#?}");
    folder
}

fn ask(folder: &Path, question: &[&str]) -> support::Outcome {
    run(&[question, &["--root", "velmora"]].concat(), folder)
}

#[rstest]
#[case::show_service("show-service", &["show", "timetable.board"])]
#[case::show_contract("show-contract", &["show", "VehicleLocator"])]
#[case::show_tag("show-tag", &["show", "departure-rule"])]
#[case::show_module("show-module", &["show", "depot"])]
#[case::show_provider("show-provider", &["show", "vehicles.provider"])]
#[case::show_a_typed_service("show-typed-service", &["show", "lifts.desk"])]
#[case::show_type("show-type", &["show", "velmora.lifts.Board", "--kind", "type"])]
#[case::find("find", &["find", "fleet"])]
#[case::find_type("find-type", &["find", "velmora.lifts.Lift", "--whole"])]
#[case::why_a_type("why-type", &["why", "lift-desk", "velmora.lifts.Desk"])]
#[case::impact_of_a_type("impact-type", &["impact", "velmora.lifts.NorthLift"])]
#[case::why("why", &["why", "open-gate", "signals.clock", "--limit", "2"])]
#[case::order("order", &["order", "open-gate"])]
#[case::order_of_all("order-of-all", &["order"])]
#[case::impact("impact", &["impact", "vehicles.fleet"])]
#[case::impact_of_several("impact-of-several", &["impact", "passenger.texts", "crew.shifts"])]
#[case::graph("graph", &["graph", "depot.yard"])]
#[case::graph_dot("graph-dot", &["graph", "depot.yard", "--format", "dot"])]
#[case::graph_mermaid("graph-mermaid", &["graph", "signals.routes", "--format", "mermaid"])]
#[case::graph_cycle_groups("graph-cycles", &["graph", "--only-cycles"])]
fn the_answer_is_whole_and_plain_in_a_pipe(#[case] name: &str, #[case] question: &[&str]) {
    let outcome = ask(demo().path(), question);
    assert_eq!((outcome.status, outcome.stderr.as_str()), (0, ""), "{outcome:#?}");
    let expected = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/expected/questions/{name}.txt"));
    snapbox::assert_data_eq!(outcome.stdout, snapbox::Data::read_from(&expected, None));
}

#[rstest]
#[case(&["show", "timetable.board"], "/sections/needs/3/gets/service", "signals.clock")]
#[case(&["show", "Clock"], "/kind", "contract")]
#[case(&["show", "velmora.lifts.Desk"], "/sections/built_with/0/parameters/0/type", "velmora.lifts.Board")]
#[case(&["find", "vehicles.fleet", "--whole"], "/mentions/0/act", "needed")]
#[case(&["why", "open-gate", "vehicles.fleet"], "/chains/0/0/to/name", "depot.yard")]
#[case(&["order"], "/registering/0/provider", "vehicles.provider")]
#[case(&["impact", "vehicles.fleet"], "/fails_at_start_up/0/name", "vehicles.provider")]
#[case(&["graph", "--only-cycles"], "/nodes/0/name", "signals.interlocking")]
fn every_answer_is_json_too(#[case] question: &[&str], #[case] pointer: &str, #[case] expected: &str) {
    let outcome = ask(demo().path(), &[question, &["--format", "json"]].concat());
    let value: Value = serde_json::from_str(&outcome.stdout).unwrap();
    assert_eq!(value.pointer(pointer).and_then(Value::as_str), Some(expected), "{value:#}");
}

/// Each document with commands that write it: all kinds of things, and what is wrong with some of them.
#[rstest]
#[case::report("report", &["demo", "demo --fixed", "demo --stage drill"])]
#[case::show("show", &[
    "show timetable.board", "show VehicleLocator", "show departure-rule", "show depot",
    "show vehicles.provider", "show open-gate", "show depot.gate_seconds",
    "show passenger.channel.app", "show signals.clock", "show PassengerChannel",
    "show lifts.desk", "show velmora.lifts.Desk", "show velmora.lifts.Lift",
])]
#[case::find("find", &["find e", "find nothing-has-this"])]
#[case::why("why", &[
    "why open-gate signals.clock --limit 3", "why signals.clock open-gate",
    "why signals.clock crew.shifts", "why timetable vehicles",
])]
#[case::order("order", &["order", "order open-gate"])]
#[case::impact("impact", &[
    "impact vehicles.fleet", "impact signals.clock", "impact departure-rule", "impact depot",
])]
#[case::graph("graph", &["graph depot.yard", "graph --only-cycles", "graph --by module"])]
#[case::readers("readers", &["audit --explain-readers"])]
#[case::rules("rules", &["rules", "rules missing-service"])]
fn every_document_is_as_its_schema_says(#[case] name: &str, #[case] commands: &[&str]) {
    let demo = demo();
    let schema = run(&["schema", name], demo.path()).json();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for command in commands {
        let command: Vec<&str> = command.split(' ').collect();
        let place: &[&str] = match command[0] {
            "audit" => &["velmora"],
            "demo" | "rules" => &[],
            _ => &["--root", "velmora"],
        };
        let outcome = run(&[&command, place, &["--format", "json"]].concat(), demo.path());
        let document: Value = serde_json::from_str(&outcome.stdout)
            .unwrap_or_else(|error| panic!("{command:?}: {error}: {outcome:#?}"));
        let errors: Vec<String> =
            validator.iter_errors(&document).map(|error| format!("{error:?}")).collect();
        assert_eq!(errors, [""; 0], "{command:?}: {document:#}");
        for (number, spoilt) in spoilt(&document).into_iter().enumerate() {
            assert!(
                !validator.is_valid(&spoilt),
                "{command:?}: object {number} may have any field: {spoilt:#}"
            );
        }
    }
}

/// A document with a field too many: in the whole, and in the first object of each of its lists, however deep.
fn spoilt(document: &Value) -> Vec<Value> {
    fn pointers(value: &Value, at: &str, found: &mut Vec<String>) {
        match value {
            Value::Object(fields) => {
                // What an attribute or a kind of thing is called is up to the files.
                if !at.ends_with("/attributes") && !at.ends_with("/taken") {
                    found.push(at.to_owned());
                }
                fields.iter().for_each(|(field, value)| pointers(value, &format!("{at}/{field}"), found));
            }
            Value::Array(items) => {
                items.iter().take(1).for_each(|item| pointers(item, &format!("{at}/0"), found));
            }
            _ => {}
        }
    }
    let mut found = Vec::new();
    pointers(document, "", &mut found);
    let with = |pointer: &String| {
        let mut spoilt = document.clone();
        spoilt.pointer_mut(pointer).expect("it was found")["colour"] = "red".into();
        spoilt
    };
    found.iter().map(with).collect()
}

#[rstest]
#[case::unknown(&["show", "vehicles.flet"], 2, "nothing here is called vehicles.flet; did you mean the service vehicles.fleet?\n  1 need names it all the same")]
#[case::unknown_of_a_kind(&["show", "Clock", "--kind", "tag"], 2, "no tag here is called Clock")]
#[case::a_type(&["show", "velmora.vehicles.Fleet"], 2, "it is the type of vehicles.fleet")]
#[case::unknown_stage(&["order", "--stage", "nowhere"], 2, "there is no stage nowhere")]
#[case::no_kind(&["show", "Clock", "--kind", "gadget"], 2, "possible values: ")]
#[case::no_entry(&["order", "vehicles.fleet"], 2, "no entry here is called vehicles.fleet")]
#[case::nothing_found(&["find", "nobody"], 1, "no name here has that in it")]
#[case::no_pattern(&["find", "(", "--regex"], 2, "unclosed group")]
#[case::no_chain(&["why", "vehicles.fleet", "depot.yard"], 1, "")]
#[case::no_depth_without_a_name(&["graph", "--depth", "2"], 2, "<NAME>")]
fn what_cannot_be_answered_is_said(#[case] question: &[&str], #[case] status: i32, #[case] message: &str) {
    let outcome = ask(demo().path(), question);
    assert_eq!(outcome.status, status, "{outcome:#?}");
    assert!(outcome.stderr.contains(message), "{}", outcome.stderr);
}

#[test]
fn an_answer_is_that_of_the_stage() {
    let text = "corvant: 1\nmodule: m\nchoices: { C: { default: one, stages: { drill: { default: two } } } }\nservices:\n  one: { offers: [C] }\n  two: { offers: [C] }\nentries: { e: { needs: { c: { contract: C } } } }\n";
    let folder = folder(&[("m.wiring.yaml", text)]);
    for (stage, expected) in [(None, "one"), (Some("drill"), "two")] {
        let stage: Vec<&str> = stage.map(|stage| ["--stage", stage]).into_iter().flatten().collect();
        let order = run(&[&["order", "e"], stage.as_slice()].concat(), folder.path());
        assert!(order.stdout.contains(&format!("1  {expected}  m.wiring.yaml")), "{}", order.stdout);
        let why = run(&[&["why", "e", expected], stage.as_slice()].concat(), folder.path());
        assert_eq!(why.status, 0);
        let shown = run(&[&["show", "e"], stage.as_slice()].concat(), folder.path());
        assert!(shown.stdout.contains(&format!("contract C → {expected}, chosen in")), "{}", shown.stdout);
    }
}

#[test]
fn find_leaves_out_what_is_said_of_other_stages() {
    let text =
        "corvant: 1\nmodule: m\nservices:\n  one: { stages: [drill] }\n  one.more: { stages: [prod] }\n";
    let folder = folder(&[("m.wiring.yaml", text)]);
    let found = |stage: &str| run(&["find", "one", "--stage", stage], folder.path()).stdout;
    assert!(found("drill").contains("m.wiring.yaml:4:") && !found("drill").contains("one.more"));
    assert!(!found("prod").contains("m.wiring.yaml:4:") && found("prod").contains("one.more"));
    let nothing = run(&["find", "one", "--whole", "--stage", "prod"], folder.path());
    assert_eq!((nothing.status, nothing.stdout.as_str()), (1, ""), "{nothing:#?}");
}

#[test]
fn a_name_of_several_kinds_is_told_apart_by_its_kind() {
    let text = "corvant: 1\nmodule: m\nservices:\n  gate: { needs: { s: { service: sensor } } }\n  sensor: {}\nentries:\n  gate: { needs: { s: { service: sensor, lazy: true } } }\n";
    let folder = folder(&[("m.wiring.yaml", text)]);
    for (name, expected) in [("service:gate", "m.wiring.yaml:4:"), ("entry:gate", "m.wiring.yaml:7:")] {
        let outcome = run(&["why", name, "sensor"], folder.path());
        assert_eq!((outcome.status, outcome.stderr.as_str()), (0, ""));
        assert!(outcome.stdout.contains(expected), "{}", outcome.stdout);
    }
}

#[test]
fn lines_fit_into_the_terminal_and_lose_nothing() {
    let demo = demo();
    for question in [
        &["show", "timetable.board"][..],
        &["impact", "signals.clock"],
        &["why", "open-gate", "signals.clock"],
    ] {
        let wide = ask(demo.path(), question).stdout;
        let narrow = outcome(
            program()
                .args(question)
                .args(["--root", "velmora"])
                .env("COLUMNS", "72")
                .current_dir(demo.path()),
        );
        let words = |text: &str| text.split_whitespace().map(str::to_owned).collect::<Vec<_>>();
        assert_eq!(words(&narrow.stdout), words(&wide));
        let longest = narrow
            .stdout
            .lines()
            .filter(|line| !line.trim().contains(".yaml:"))
            .map(|line| line.chars().count());
        assert!(longest.max().unwrap() <= 72, "{}", narrow.stdout);
    }
}

#[rstest]
#[case::svg("svg")]
#[case::graphml("graphml")]
fn pictures_are_well_formed_whatever_the_names(#[case] format: &str) {
    let text = r#"
corvant: 1
module: "<m & 'n'>"
services:
  "a\"]--><script>": { needs: { "x\u0007": { service: "b\\\n]]>" } } }
  "b\\\n]]>": { needs: { back: { service: "a\"]--><script>" }, gone: { service: "%nowhere;" } } }
entries: { "e\u202e": { needs: { a: { service: "a\"]--><script>", lazy: true } } } }
"#;
    let folder = folder(&[("m.wiring.yaml", text)]);
    let outcome = run(&["graph", "--format", format], folder.path());
    assert_eq!((outcome.status, outcome.stderr.as_str()), (0, ""));
    let tree = xml::parse(&outcome.stdout).unwrap_or_else(|error| panic!("{error:?}\n{}", outcome.stdout));
    assert!(tree.len() > 20);
    assert!(!outcome.stdout.contains("<script>"));
}

#[rstest]
#[case::dot("dot", "label=\"a\\\"]--><script>\\nm\"")]
#[case::mermaid("mermaid", "(\"a#quot;]--#gt;#lt;script#gt;\")")]
fn quotes_in_names_do_not_end_a_string(#[case] format: &str, #[case] expected: &str) {
    let text = "corvant: 1\nmodule: m\nservices:\n  'a\"]--><script>': {}\n";
    let folder = folder(&[("m.wiring.yaml", text)]);
    let outcome = run(&["graph", "--format", format], folder.path());
    assert!(outcome.stdout.contains(expected), "{}", outcome.stdout);
}

#[test]
fn the_ending_of_the_file_says_the_format() {
    let demo = demo();
    for (file, start) in [
        ("g.svg", "<svg "),
        ("g.dot", "digraph "),
        ("g.mmd", "flowchart "),
        ("g.graphml", "<?xml "),
        ("g.json", "{\n"),
        ("g.txt", "Announcer  question"),
    ] {
        let outcome = ask(demo.path(), &["graph", "--output", file]);
        assert_eq!((outcome.status, outcome.stdout.as_str()), (0, ""));
        let text = fs::read_to_string(demo.path().join(file)).unwrap();
        assert!(text.starts_with(start), "{file}: {}", &text[..60]);
    }
}

#[test]
fn too_many_services_are_drawn_as_modules_and_too_many_edges_as_a_matrix() {
    let module = |number: usize| {
        let services: Vec<String> = (0..5)
            .map(|service| {
                let needs = (0..number.min(9))
                    .map(|other| format!("n{other}: {{ service: m{}.s{service} }}", number - other - 1));
                format!(
                    "  m{number}.s{service}: {{ needs: {{ {} }} }}\n",
                    needs.collect::<Vec<_>>().join(", ")
                )
            })
            .collect();
        (
            format!("m{number}.wiring.yaml"),
            format!("corvant: 1\nmodule: m{number}\nservices:\n{}", services.concat()),
        )
    };
    let files: Vec<(String, String)> = (0..50).map(module).collect();
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
    let folder = folder(&files);
    let outcome = run(&["graph", "--format", "dot"], folder.path());
    assert!(outcome.stderr.contains("250 services, entries and tags are too many"), "{}", outcome.stderr);
    assert_eq!(outcome.stdout.matches("shape=tab").count(), 50);
    let matrix = run(&["graph", "--format", "svg"], folder.path());
    assert!(matrix.stdout.contains("who needs ↓, who is needed →"));
    // What programs read is never cut down.
    let json = run(&["graph", "--format", "json"], folder.path());
    assert_eq!(json.json()["nodes"].as_array().map(Vec::len), Some(250));
}

#[rstest]
#[case::names(&["show", "vehicles.fl"], "vehicles.fleet")]
#[case::entries(&["order", "open"], "open-gate")]
#[case::kinds(&["show", "x", "--kind", "pro"], "provider")]
#[case::stages(&["order", "--stage", "dr"], "drill")]
#[case::elsewhere(&["show", "--root", "../velmora", "vehicles.fl"], "vehicles.fleet")]
fn shells_are_offered_the_names_of_the_workspace(#[case] words: &[&str], #[case] expected: &str) {
    let demo = demo();
    let mut command = program();
    command.env("CORVANT_COMPLETE", "bash").env("_CLAP_COMPLETE_INDEX", words.len().to_string());
    command.env("_CLAP_IFS", "\n").args(["--", "corvant"]).args(words);
    let outcome = outcome(command.current_dir(demo.path().join("velmora")));
    assert_eq!(outcome.stdout.lines().collect::<Vec<_>>(), [expected], "{outcome:#?}");
}

#[test]
fn where_some_stage_is_always_chosen_the_first_is_asked() {
    let manifest = "corvant: 1\nmodule: a\nservices:\n  a.d: { stages: [drill], offers: [C] }\n  a.l: { stages: [live], offers: [C] }\nentries: { e: { needs: { c: { contract: C } } } }\n";
    let folder = folder(&[("a.wiring.yaml", manifest), ("corvant.toml", "policy.stage-required = true\n")]);
    let first = run(&["why", "e", "a.d"], folder.path());
    assert_eq!((first.status, first.stderr.contains("this is drill")), (0, true), "{}", first.stderr);
    assert!(first.stdout.contains("a.d"), "{}", first.stdout);
    let live = run(&["why", "e", "a.l", "--stage", "live"], folder.path());
    assert_eq!((live.status, live.stderr.as_str()), (0, ""));
}
