//! `empty-promise`: a provider that registers an id that has no definition.

use corvant_testing::{expect, messages};
use rstest::rstest;

#[rstest]
#[case::defined("a.sensr", "write a.sensor (a.wiring.yaml:5)")]
#[case::supplied("host.lgo", "write host.log, supplied by the host platform")]
#[case::like_nothing("b.gate", "define b.gate, or take it out of `registers`")]
fn what_was_probably_meant_is_named_with_where_it_is(#[case] registered: &str, #[case] help: &str) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nsupplied: {{ services: [host.log] }}\nservices:\n  a.sensor: {{}}\nproviders: {{ a.provider: {{ registers: [{registered}] }} }}\nentries: {{ e: {{ needs: {{ s: {{ service: a.sensor }} }} }} }}\n"
    );
    let found = messages(&text);
    assert!(found[0].text.contains(help), "{found:#?}");
}

#[test]
fn supplied_staged_and_hidden_definitions_keep_the_promise() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { services: [host.x] }
providers:
  a.provider: { registers: [a.staged, host.x, b.hidden, a.alias, a.gone] }
                                                                 ^^^^^^ empty-promise a.provider > a.gone
services:
  a.staged: { stages: [drill] }
  a.alias: { alias-of: host.x }
entries:
  e: { needs: { s: { service: a.staged, optional: true }, a: { service: a.alias } } }
//- b.wiring.yaml
corvant: 1
module: b
services: { b.hidden: { }
 unreadable-file b.wiring.yaml
"#,
    );
}
