//! `unused-contract`: a contract that is declared and that nothing needs.

use corvant_testing::expect;

#[test]
fn needs_tags_expectations_and_narrower_contracts_use_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts:
  Needed: {}
  Asked: {}
  Expected: {}
  Wide: {}
  Narrow: { extends: [Wide] }
  Idle: {}
  ^^^^ unused-contract Idle
tags: { t: { contract: Asked } }
services:
  a.x: { offers: [Needed, Asked, Narrow, Expected], tags: [t] }
expect: [{ contract: Expected, met-by: a.x }]
entries:
  e: { needs: { n: { contract: Needed }, w: { contract: Wide }, t: { tag: t } } }
"#,
    );
}
