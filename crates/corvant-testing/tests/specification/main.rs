//! The audit held to the executable specification, finding by finding, on small workspaces in which everything
//! meets.

mod spec;

use corvant_core::answers::impact::impact;
use corvant_core::answers::order::order;
use corvant_core::answers::why::why;
use corvant_core::answers::{Kind, Subject, View};
use corvant_core::audit::{Options, audit};
use corvant_core::facts::Trouble;
use corvant_core::rules::TEXTS;
use corvant_core::wiring::Wiring;
use corvant_read::native::schema;
use corvant_read::workspace;
use corvant_testing::tangle::{smallest, tangle};
use rstest::rstest;
use serde_json::Value;
use spec::{Found, Model, Node, failing, findings};
use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

/// Rules that the specification leaves to others: on how files are written.
const LEFT_OUT: [&str; 12] = [
    "unreadable-file",
    "unknown-field",
    "wrong-shape",
    "repeated-field",
    "empty-file",
    "missing-import",
    // There is no code in tangles.
    "missing-method",
    "unscanned-mark",
    "contract-not-implemented",
    "argument-mismatch",
    "abstract-type",
    "repeated-lookup",
];

/// A day on which some of a tangle's allowances have run out.
const TODAY: &str = "2027-05-01";

type Files = [(String, String)];

fn read(files: &Files) -> (Model, Wiring) {
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let texts = texts.filter(|(_, text)| !text.is_empty());
    let mut workspace = workspace::from_texts(texts).expect("the workspace file can be read");
    // What a file says of which not even the words are known.
    for manifest in workspace.manifests.iter_mut().filter(|one| one.source.path.contains("opaque")) {
        manifest.facts.troubles.iter_mut().for_each(|trouble| trouble.unread.opaque = true);
    }
    let model = Model::new(&workspace);
    let wiring = workspace.link().0;
    let is_meant = |trouble: &&Trouble| wiring.path(trouble.source).contains("broken");
    let others: Vec<&Trouble> = wiring.facts.troubles.iter().filter(|trouble| !is_meant(trouble)).collect();
    assert!(others.is_empty(), "{others:?}");
    (model, wiring)
}

fn text(files: &Files) -> String {
    files.iter().map(|(path, text)| format!("//- {path}\n{text}")).collect()
}

/// What the audit finds, by what stages change or with each worked out afresh, and what the specification does.
fn both(files: &Files, afresh: bool) -> (Found, Found) {
    let (model, wiring) = read(files);
    let views: BTreeSet<String> =
        model.views().into_iter().map(|stage| stage.unwrap_or_else(|| "-".to_owned())).collect();
    let report = audit(&wiring, &Options { afresh, today: Some(TODAY.to_owned()), stage: None });
    let found = report.findings.into_iter().filter(|finding| !LEFT_OUT.contains(&finding.rule.name));
    let found = found.map(|finding| {
        let holds = finding.rule.is_staged().then(|| match finding.holds {
            None => views.clone(),
            Some(holds) => {
                let stages = holds.stages.iter().map(|&stage| wiring.text(stage).to_owned());
                stages.chain(holds.none_chosen.then(|| "-".to_owned())).collect()
            }
        });
        ((finding.rule.name, finding.subject), holds)
    });
    (found.collect(), findings(&model, TODAY))
}

fn differences(files: &Files, afresh: bool) -> Vec<String> {
    let (found, expected) = both(files, afresh);
    let missing = expected.iter().filter(|(key, holds)| found.get(*key) != Some(*holds));
    let missing = missing.map(|(key, holds)| format!("the specification has {key:?} in {holds:?}"));
    let extra = found.iter().filter(|(key, holds)| expected.get(*key) != Some(*holds));
    missing.chain(extra.map(|(key, holds)| format!("the audit has {key:?} in {holds:?}"))).collect()
}

/// Who fails without a service is who fails in the workspace without it; who depends on whom, and what is built
/// before what, is what needs are resolved to.
#[rstest]
#[case::first(0)]
#[case::second(1)]
fn answers_are_what_the_specification_resolves(#[case] start: u64) {
    let mut fell = 0;
    for seed in (start..count() / 5).step_by(2) {
        let files = tangle(seed);
        let (model, wiring) = read(&files);
        for stage in [None, model.stages.first().cloned()] {
            let view = spec::View::new(&model, stage.clone());
            let name = stage.as_ref().and_then(|stage| wiring.names.find(stage));
            let here = View::new(&wiring, name);
            let ids: BTreeSet<&String> = model.definitions.iter().map(|one| &one.id).collect();
            for id in ids {
                let (found, expected) = without(&files, stage.as_deref(), id).expect("the id is defined");
                if found != expected {
                    let differs = |files: &Files| {
                        without(files, stage.as_deref(), id)
                            .is_some_and(|(found, expected)| found != expected)
                    };
                    let files = smallest(files.clone(), differs);
                    let found = without(&files, stage.as_deref(), id);
                    panic!("{seed} in {stage:?} without {id}: {found:#?}\n{}", text(&files));
                }
                fell += found.len();
            }
            chains(&view, &here, seed);
            building(&view, &here, seed);
        }
    }
    assert!(fell > 50, "only {fell} things fell");
}

type Failing = BTreeSet<(&'static str, String)>;

/// What fails without an id and not with it: as the answer says, and as the specification does.
fn without(files: &Files, stage: Option<&str>, id: &str) -> Option<(Failing, Failing)> {
    let (model, wiring) = read(files);
    model.definitions.iter().find(|one| one.id == *id)?;
    let was_failing = failing(&spec::View::new(&model, stage.map(str::to_owned)));
    let expected = failing(&spec::View::new(&model.without(id), stage.map(str::to_owned)));
    let name = stage.and_then(|stage| wiring.names.find(stage));
    let subject = Subject { kind: Kind::Service, name: wiring.names.find(id)? };
    let impact = impact(&View::new(&wiring, name), &[subject]);
    let kinds = [("service", impact.services), ("entry", impact.entries), ("provider", impact.start_up)];
    let found = kinds.into_iter().flat_map(|(kind, all)| all.into_iter().map(move |one| (kind, one.name)));
    // Of several of one name one may fail already.
    let found = found.filter(|one| !was_failing.contains(one)).collect();
    Some((found, expected.difference(&was_failing).cloned().collect()))
}

/// From each entry to each service there is a chain where needs lead there, and nowhere else.
fn chains(view: &spec::View<'_>, here: &View<'_>, seed: u64) {
    for (at, (_, entry)) in view.model.entries.iter().enumerate() {
        let mut reached = BTreeSet::new();
        let mut waiting = vec![Node::Entry(at)];
        while let Some(node) = waiting.pop() {
            if reached.insert(node.clone()) {
                waiting.extend(view.edges(&node, false).into_iter().map(|edge| edge.to));
            }
        }
        let subject =
            |kind, name: &str| Subject { kind, name: here.wiring.names.find(name).expect("it has a name") };
        for service in (0..view.standing.len()).filter(|&service| view.is_built(service)) {
            let id = &view.definition(service).id;
            if view.stand_in(service) != service || view.first(id) != Some(service) {
                continue;
            }
            let answer = why(here, subject(Kind::Entry, &entry.id), subject(Kind::Service, id), 0);
            let is_reached = reached.contains(&Node::Service(service));
            assert_eq!(!answer.chains.is_empty(), is_reached, "{seed}: {} to {id}", entry.id);
        }
    }
}

/// All that is built is built once, after what it needs for that, unless they need one another.
fn building(view: &spec::View<'_>, here: &View<'_>, seed: u64) {
    let order = order(here, None);
    let step = |id: &String| order.building.iter().position(|step| step.services.contains(id));
    let built: BTreeSet<&String> = order.building.iter().flat_map(|step| &step.services).collect();
    let services = (0..view.standing.len()).filter(|&service| view.is_built(service));
    let expected: BTreeSet<&String> = services.clone().map(|service| &view.definition(service).id).collect();
    assert_eq!(built, expected, "{seed}");
    for service in services {
        let id = &view.definition(service).id;
        for edge in view.edges(&Node::Service(service), false).into_iter().filter(spec::Edge::is_for_building)
        {
            if let Node::Service(needed) = edge.to {
                let needed = &view.definition(needed).id;
                assert!(step(needed) <= step(id), "{seed}: {id} comes before {needed}");
            }
        }
    }
}

/// How many tangles are looked at; `TANGLES=100000 cargo test --release -p corvant-testing` looks at more.
fn count() -> u64 {
    std::env::var("TANGLES").ok().and_then(|count| count.parse().ok()).unwrap_or(1_500)
}

#[rstest]
#[case::first(0)]
#[case::second(1)]
#[case::third(2)]
fn the_audit_finds_what_the_specification_does(#[case] start: u64) {
    for seed in (start..count()).step_by(3) {
        let files = tangle(seed);
        for afresh in [true, false] {
            if !differences(&files, afresh).is_empty() {
                let files = smallest(files, |files| !differences(files, afresh).is_empty());
                let differences = differences(&files, afresh);
                panic!("{seed}, afresh {afresh}: {differences:#?}\n{}", text(&files));
            }
        }
    }
}

/// Whatever the specification knows of comes up in tangles, and in single stages too.
#[test]
fn tangles_have_faults_of_every_rule() {
    let mut seen: BTreeSet<&str> = BTreeSet::new();
    let mut in_some: BTreeSet<&str> = BTreeSet::new();
    for seed in 0..600 {
        let (found, _) = both(&tangle(seed), false);
        for ((rule, _), holds) in found {
            seen.insert(rule);
            in_some.extend(holds.filter(|holds| holds.len() == 1).map(|_| rule));
        }
    }
    let all = TEXTS.iter().filter(|rule| !LEFT_OUT.contains(&rule.name));
    let missing: Vec<&str> = all.clone().map(|rule| rule.name).filter(|rule| !seen.contains(rule)).collect();
    assert_eq!(missing, [""; 0]);
    let staged = all.filter(|rule| rule.is_staged()).map(|rule| rule.name);
    let nowhere: Vec<&str> = staged.filter(|rule| !in_some.contains(rule)).collect();
    assert_eq!(nowhere, [""; 0], "never in one stage alone");
}

/// Every field of both formats is written by some tangle; readers of the house and standards have tests of their own.
#[rstest]
#[case::manifest(schema::manifest(), &[])]
#[case::workspace_file(schema::workspace_file(), &["standards", "types", "wire", "reader"])]
fn tangles_have_every_field(#[case] schema: Value, #[case] without: &[&str]) {
    let texts: Vec<String> = (0..1_000).flat_map(tangle).map(|(_, text)| text).collect();
    let mut waiting = vec![&schema];
    while let Some(part) = waiting.pop() {
        let fields = part.get("properties").and_then(Value::as_object).into_iter().flatten();
        for (field, shape) in fields.filter(|(field, _)| !without.contains(&field.as_str())) {
            // Of the rules any will do.
            let is_rule = TEXTS.iter().any(|rule| rule.name == *field);
            let is_written = |text: &String| {
                let ends = [": ", ":\n", ".", " = "].map(|end| format!("{field}{end}"));
                ends.iter().any(|written| text.contains(written))
            };
            assert!(is_rule || texts.iter().any(is_written), "{field} is never written");
            waiting.push(shape);
        }
        waiting.extend(part.as_object().into_iter().flatten().filter_map(|(name, inner)| {
            (name != "properties" && !without.contains(&name.as_str())).then_some(inner)
        }));
        waiting.extend(part.as_array().into_iter().flatten());
    }
}

/// Every test that docs/semantics.md names is there.
#[test]
fn what_is_decided_has_its_tests() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let page = fs::read_to_string(root.join("docs/semantics.md")).expect("the page is there");
    let mut named: BTreeSet<String> = BTreeSet::new();
    for part in page.split("*Test").skip(1) {
        let list = part.split_once("*\n").map_or(part, |(list, _)| list);
        named.extend(list.split('`').skip(1).step_by(2).map(str::to_owned));
    }
    assert!(named.len() > 40, "{named:?}");
    let mut folders = vec![root.join("crates")];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(folder).expect("it is a folder").flatten() {
            let path = entry.path();
            if path.is_dir() {
                folders.push(path);
            } else if path.extension().is_some_and(|end| end == "rs") {
                let code = fs::read_to_string(path).expect("code is text");
                named.retain(|name| !code.contains(&format!("fn {name}(")));
            }
        }
    }
    assert_eq!(named, BTreeSet::new());
}
