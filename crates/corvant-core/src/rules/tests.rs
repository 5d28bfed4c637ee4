//! Tests that hold for every rule alike.

use super::{FILES, TEXTS};
use crate::finding::Scope;
use crate::views::Check;
use corvant_testing::messages;
use std::collections::BTreeSet;

#[test]
fn names_are_unique_and_match_their_files() {
    let names: BTreeSet<&str> = TEXTS.iter().map(|rule| rule.name).collect();
    assert_eq!(names.len(), TEXTS.len());
    for (rule, (family, file)) in TEXTS.iter().zip(FILES) {
        assert_eq!(rule.name, file.replace('_', "-"));
        assert_eq!(rule.family.word(), *family);
    }
}

#[test]
fn texts_say_something() {
    for rule in TEXTS {
        for (what, text) in [("summary", rule.summary), ("why", rule.why), ("limits", rule.limits)] {
            assert!(text.len() > 20, "{}: {what} is too short", rule.name);
            assert!(!text.contains("  "), "{}: {what} has runs of spaces", rule.name);
        }
        assert!(rule.summary.len() < 100 && !rule.summary.ends_with('.'), "{}: summary", rule.name);
        assert!(rule.why.ends_with('.') && rule.limits.ends_with('.'), "{}: sentences", rule.name);
    }
}

#[test]
fn the_faulty_example_fires_its_rule_and_nothing_else() {
    for rule in TEXTS {
        let found = messages(rule.faulty);
        let rules: Vec<&str> = found.iter().map(|found| found.rule).collect();
        assert_eq!(rules, [rule.name], "{found:#?}");
        assert_eq!(found[0].severity, rule.severity.word());
    }
}

#[test]
fn the_corrected_example_fires_nothing() {
    for rule in TEXTS {
        assert_eq!(messages(rule.corrected), [], "{}", rule.name);
    }
}

#[test]
fn every_check_looks_at_what_its_rule_says() {
    for rule in super::RULES {
        let scope = match rule.check {
            Check::Files(_) => Scope::Files,
            Check::Stage(_) => Scope::Stage,
            Check::WholeStage(_) => Scope::WholeStage,
            Check::Workspace(_) => Scope::Workspace,
            Check::Allowances(_) => Scope::Allowances,
        };
        assert_eq!(scope, rule.text.scope, "{}", rule.text.name);
    }
}
