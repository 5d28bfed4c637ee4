//! `repeated-field`: one key twice in one map.

use corvant_testing::expect;

#[test]
fn a_second_definition_in_one_map_is_a_repeated_field_and_nothing_else() {
    expect(
        r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock }
  clock.other: { type: velmora.clock.Other }
  clock.system: { type: velmora.clock.Other, needs: { other: { service: clock.other } } }
  ^^^^^^^^^^^^ repeated-field services.clock.system
entries:
  tick: { needs: { clock: { service: clock.system } } }
"#,
    );
}

#[test]
fn repetitions_are_seen_among_many_fields() {
    let lines: String = (0..40).map(|number| format!("  clock.c{number}: {{}}\n")).collect();
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n{lines}  clock.c33: {{}}\n  ^^^^^^^^^ repeated-field services.clock.c33\n"
    );
    expect(&text);
}
