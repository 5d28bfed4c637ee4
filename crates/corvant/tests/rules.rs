//! `corvant rules`, and the pages of the documentation that are made from the same texts.

mod support;

use corvant_core::rules::TEXTS;
use corvant_render::rules::{families, page};
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
}
