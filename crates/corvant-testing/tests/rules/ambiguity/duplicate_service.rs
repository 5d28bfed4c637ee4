//! `duplicate-service`: one id, two definitions.

use corvant_testing::{expect, messages};
use rstest::rstest;

#[test]
fn one_id_is_one_finding_unless_stages_or_an_override_part_them() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.thrice: {}
  a.staged: { stages: [drill] }
  a.overridden: {}
//- b.wiring.yaml
corvant: 1
module: b
services:
  a.thrice: {}
  ^^^^^^^^ duplicate-service a.thrice
  a.staged: { stages: [production] }
  a.overridden: { replaces: a.overridden }
//- c.wiring.yaml
corvant: 1
module: c
services:
  a.thrice: { needs: { x: { service: c.only } } }
  c.only: {}
entries:
  e:
    needs: { a: { service: a.thrice }, b: { service: a.staged, optional: true }, c: { service: a.overridden } }
"#,
    );
}

#[test]
fn two_replacements_of_one_id_are_two_definitions_of_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.x: {}
  a.one: { replaces: a.x }
  a.two: { replaces: a.x, needs: { n: { service: a.only } } }
                     ^^^ duplicate-service a.x
  a.only: {}
  b.x: {}
  b.one: { replaces: b.x }
  b.two: { replaces: b.one }
entries:
  e: { needs: { x: { service: a.x }, b: { service: b.x } } }
"#,
    );
}

#[test]
fn what_either_definition_needs_is_audited() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.x: { needs: { n: { service: a.gone } } }
                                ^^^^^^ missing-service a.gone
//- b.wiring.yaml
corvant: 1
module: b
services:
  a.x: { needs: { n: { service: b.gone }, c: { contract: Gone }, s: { setting: s.gone } } }
  ^^^ duplicate-service a.x
                                ^^^^^^ missing-service b.gone
                                                         ^^^^ missing-implementation Gone
                                                                               ^^^^^^ missing-setting s.gone
entries:
  e: { needs: { x: { service: a.x } } }
"#,
    );
}

#[rstest]
#[case::first("first", "")]
#[case::last("last", "b.gone")]
fn what_does_not_count_by_decision_is_not_judged(#[case] policy: &str, #[case] missing: &str) {
    let text = format!(
        "//- corvant.toml\npolicy.same-id = '{policy}'\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.x: {{}}\n//- b.wiring.yaml\ncorvant: 1\nmodule: b\nuses: []\nservices:\n  a.x: {{ needs: {{ n: {{ service: b.gone }}, o: {{ service: a.y, via: look-up, optional: true }} }}, tags: [t] }}\ntags: {{ t: {{}} }}\nentries: {{ e: {{ needs: {{ x: {{ service: a.x }} }} }} }}\n"
    );
    let found = messages(&text);
    let found: Vec<&str> = found
        .iter()
        .filter(|found| found.rule == "missing-service")
        .map(|found| found.subject.as_str())
        .collect();
    assert_eq!(found, missing.split_terminator(' ').collect::<Vec<_>>());
}
