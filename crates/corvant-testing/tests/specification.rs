//! The audit held to the executable specification, finding by finding, on small workspaces in which everything
//! meets.

use corvant_core::audit::{Options, audit};
use corvant_core::rules::RULES;
use corvant_core::wiring::link;
use corvant_read::native::schema;
use corvant_read::workspace;
use corvant_testing::spec::{Found, Model, findings};
use corvant_testing::tangle::tangle;
use rstest::rstest;
use serde_json::Value;
use std::collections::BTreeSet;

/// Rules that the specification leaves to others: on files, types and allowances.
const LEFT_OUT: [&str; 7] = [
    "unreadable-file",
    "unknown-field",
    "wrong-shape",
    "repeated-field",
    "empty-file",
    "missing-type",
    "stale-allowance",
];

type Files = [(String, String)];

/// What the audit finds, by what stages change or with each worked out afresh, and what the specification does.
fn both(files: &Files, afresh: bool) -> (Found, Found) {
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let workspace = workspace::from_texts(texts).expect("the workspace file can be read");
    let model = Model::new(&workspace);
    let wiring = link(workspace.manifests, workspace.names, workspace.policy);
    assert!(wiring.facts.troubles.is_empty(), "{:?}", wiring.facts.troubles);
    let views: BTreeSet<String> =
        model.views().into_iter().map(|stage| stage.unwrap_or_else(|| "-".to_owned())).collect();
    let report = audit(&wiring, &Options { afresh, ..Options::default() });
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
    (found.collect(), findings(&model))
}

fn differences(files: &Files, afresh: bool) -> Vec<String> {
    let (found, expected) = both(files, afresh);
    let missing = expected.iter().filter(|(key, holds)| found.get(*key) != Some(*holds));
    let missing = missing.map(|(key, holds)| format!("the specification has {key:?} in {holds:?}"));
    let extra = found.iter().filter(|(key, holds)| expected.get(*key) != Some(*holds));
    missing.chain(extra.map(|(key, holds)| format!("the audit has {key:?} in {holds:?}"))).collect()
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
            let differences = differences(&files, afresh);
            let text: String = files.iter().map(|(path, text)| format!("//- {path}\n{text}")).collect();
            assert!(differences.is_empty(), "{seed}, afresh {afresh}: {differences:#?}\n{text}");
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
    let all = RULES.iter().filter(|rule| !LEFT_OUT.contains(&rule.name));
    let missing: Vec<&str> = all.clone().map(|rule| rule.name).filter(|rule| !seen.contains(rule)).collect();
    assert_eq!(missing, [""; 0]);
    let staged = all.filter(|rule| rule.is_staged()).map(|rule| rule.name);
    let nowhere: Vec<&str> = staged.filter(|rule| !in_some.contains(rule)).collect();
    assert_eq!(nowhere, [""; 0], "never in one stage alone");
}

/// Every field of both formats is written by some tangle; readers of the house and standards have tests of their own.
#[rstest]
#[case::manifest(schema::manifest(), &[])]
#[case::workspace_file(schema::workspace_file(), &["standards", "reader"])]
fn tangles_have_every_field(#[case] schema: Value, #[case] without: &[&str]) {
    let texts: Vec<String> = (0..1_000).flat_map(tangle).map(|(_, text)| text).collect();
    let mut waiting = vec![&schema];
    while let Some(part) = waiting.pop() {
        let fields = part.get("properties").and_then(Value::as_object).into_iter().flatten();
        for (field, shape) in fields.filter(|(field, _)| !without.contains(&field.as_str())) {
            // Of the rules any will do.
            let is_rule = RULES.iter().any(|rule| rule.name == *field);
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
