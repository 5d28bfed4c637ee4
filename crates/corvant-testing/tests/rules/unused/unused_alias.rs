//! `unused-alias`: an alias that nothing asks for.

use corvant_testing::expect;

#[test]
fn whoever_calls_it_uses_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
choices: { C: { default: a.chosen } }
services:
  a.x: { offers: [C] }
  a.needed: { alias-of: a.x }
  a.chosen: { alias-of: a.x }
  a.expected: { alias-of: a.x }
  a.middle: { alias-of: a.x }
  a.outer: { alias-of: a.middle }
  ^^^^^^^ unused-alias a.outer
  a.misspelt: { alias-of: a.x }
expect: [{ contract: C, met-by: a.expected }]
entries:
  e: { needs: { x: { service: a.needed }, c: { contract: C }, m: { service: a.misspel } } }
                                                                            ^^^^^^^^^ missing-service a.misspel
"#,
    );
}
