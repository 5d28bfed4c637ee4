//! `unknown-field`: a field that the format does not have.

use corvant_testing::{expect, messages};
use rstest::rstest;

#[test]
fn what_a_misspelt_section_holds_is_neither_missing_nor_unused() {
    expect(
        r#"
//- clock.wiring.yaml
corvant: 1
module: clock
service:
^^^^^^^ unknown-field service
  clock.system: { type: velmora.clock.SystemClock, needs: { source: { contract: Quartz } } }
services:
  clock.quartz: { type: velmora.clock.Quartz, offers: [Quartz] }
entries:
  station-clock: { needs: { clock: { service: clock.system } } }
"#,
    );
}

#[rstest]
#[case::singular("service: {}", "write `services`")]
#[case::underscore("services: { a.b: { alias_of: c.d } }", "write `alias-of`")]
#[case::deep("entries: { a: { needs: { b: { servise: c.d } } } }", "write `service`")]
#[case::nothing_near("colour: red", "take it out, or use one of corvant, module, about")]
fn the_field_that_was_meant_is_named(#[case] line: &str, #[case] help: &str) {
    let text = format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{line}\n");
    let found = messages(&text);
    let corrected =
        found.iter().any(|finding| finding.rule == "unknown-field" && finding.text.contains(help));
    assert!(corrected, "{found:#?}");
}
