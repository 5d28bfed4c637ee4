//! `corvant rules`, and the pages of the documentation that are made from the same texts.

mod support;

use corvant_core::finding::Certainty;
use corvant_core::rules::TEXTS;
use corvant_render::rules::{families, fixes_page, page};
use corvant_testing::corpus::Made;
use std::collections::BTreeMap;
use std::path::Path;
use support::{folder, run};

#[test]
fn every_rule_is_listed_on_a_line() {
    let outcome = run(&["rules"], folder(&[]).path());
    assert_eq!(outcome.status, 0);
    for rule in TEXTS {
        let line =
            outcome.stdout.lines().find(|line| line.trim_start().starts_with(&format!("{} ", rule.name)));
        assert!(line.is_some_and(|line| line.ends_with(rule.summary)), "{}", rule.name);
    }
}

#[test]
fn one_rule_is_told_whole() {
    let outcome = run(&["rules", "missing-key"], folder(&[]).path());
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/rule.txt"]);
}

#[test]
fn a_misspelt_rule_is_a_wrong_call_that_names_the_right_one() {
    let outcome = run(&["rules", "mising-key"], folder(&[]).path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""));
    assert_eq!(outcome.stderr, "corvant: there is no rule mising-key; did you mean missing-key?\n");
}

#[test]
fn json_has_every_text() {
    let rules = run(&["rules", "--format", "json"], folder(&[]).path()).json();
    let rules = &rules["checks"];
    assert_eq!(rules.as_array().unwrap().len(), TEXTS.len());
    assert_eq!(rules[0]["name"], TEXTS[0].name);
    assert_eq!(rules[0]["why"], TEXTS[0].why);
}

#[test]
fn the_pages_are_fresh() {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/rules");
    for family in families() {
        let path = docs.join(format!("{}.md", family.word().replace('_', "-")));
        snapbox::assert_data_eq!(page(family), snapbox::Data::read_from(&path, None));
    }
    snapbox::assert_data_eq!(fixes_page(), snapbox::Data::read_from(&docs.join("fixes.md"), None));
}

/// Faults of which a rule knows more than in its own example.
const NEAR_MISSES: [&str; 2] = [
    r"
//- a.wiring.yaml
corvant: 1
module: a
tags:
  rule: { attributes: { line: { one-of: [red, blue] } } }
services:
  a.one: { tags: [rule: { line: bleu }] }
entries:
  e: { needs: { r: { tag: rule } } }
",
    r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.spare: { type: velmora.Spare, offers: [velmora.Lift] }
entries:
  e: { needs: { r: { contract: velmora.Lift } } }
//- src/Spare.java
package velmora;
public class Spare implements velmora.tools.Lift { }
//- src/Lift.java
package velmora;
public interface Lift { }
//- src/tools/Lift.java
package velmora.tools;
public interface Lift { }
"#,
];

/// Each rule says how sure its fixes can be: in its example, in the demo, or in made workspaces one is, and none is surer.
#[test]
fn fixes_are_as_sure_as_the_rules_say() {
    let mut surest: BTreeMap<String, Certainty> = BTreeMap::new();
    let demo = folder(&[]);
    run(&["demo", "--write", "velmora"], demo.path());
    let mut workspaces = vec![(demo, "velmora")];
    let examples = TEXTS.iter().map(|rule| rule.faulty).chain(NEAR_MISSES);
    workspaces.extend(examples.map(|text| (written(corvant_testing::files(text)), ".")));
    workspaces.extend((0..12).map(|seed| {
        let made = Made { services: 3_000, faults: 4, stages: 2, seed };
        (written(made.files().map(|file| (file.path, file.text))), ".")
    }));
    for (folder, root) in &workspaces {
        let report = run(&["audit", root, "--format", "json", "--no-cache"], folder.path()).json();
        for finding in report["findings"].as_array().unwrap() {
            for fix in finding["fixes"].as_array().unwrap() {
                let certainty = Certainty::of(fix["certainty"].as_str().unwrap()).unwrap();
                let rule = finding["rule"].as_str().unwrap().to_owned();
                let known = surest.entry(rule).or_insert(Certainty::Advice);
                *known = certainty.min(*known);
            }
        }
    }
    let said = TEXTS.iter().map(|rule| (rule.name, rule.fixes));
    let differ: Vec<_> = said
        .map(|(rule, said)| (rule, said, surest.get(rule).copied().unwrap_or(Certainty::Advice)))
        .filter(|(_, said, seen)| said != seen)
        .collect();
    assert!(differ.is_empty(), "rule, said, seen: {differ:#?}");
}

fn written(files: impl IntoIterator<Item = (String, String)>) -> tempfile::TempDir {
    let files: Vec<(String, String)> = files.into_iter().collect();
    folder(&files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect::<Vec<_>>())
}
