//! `unused-tag`: a tag that is declared and that no service carries.

use corvant_testing::expect;

#[test]
fn carriers_of_any_stage_and_misspelt_ones_count() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags: { carried: {}, staged: {}, idle: {}, departure-rule: {}, few: { at-least: 1 } }
                                 ^^^^ unused-tag idle
                                                               ^^^ missing-carrier few
services:
  a.one: { tags: [carried] }
  a.two: { tags: [staged], stages: [drill] }
  a.three: { tags: [departure-rul] }
                    ^^^^^^^^^^^^^ unknown-tag departure-rul
entries:
  e: { needs: { a: { tag: carried }, b: { tag: staged }, c: { tag: idle }, d: { tag: departure-rule }, f: { tag: few } } }
"#,
    );
}
