//! `unused-choice`: a choice that no need asks for.

use corvant_testing::expect;

#[test]
fn needs_and_expectations_ask() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
choices:
  Asked: { default: a.x, keys: { k: a.x, other: a.x } }
                                         ^^^^^ unused-choice Asked#other
  Expected: { default: a.x }
  Idle: { default: a.x }
  ^^^^ unused-choice Idle
services:
  a.x: { offers: [Asked, Expected, Idle], key: k }
expect: [{ contract: Expected, met-by: a.x }]
entries:
  e: { needs: { a: { contract: Asked }, k: { contract: Asked, key: k } } }
"#,
    );
}
