//! Tests that hold for every rule alike. What their examples give is tested where there are readers.

use super::{FILES, RULES, TEXTS};
use crate::finding::Scope;
use crate::views::Check;
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
fn every_check_looks_at_what_its_rule_says() {
    for rule in RULES {
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
