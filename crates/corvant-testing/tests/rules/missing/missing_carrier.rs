//! `missing-carrier`: a tag that fewer services carry than its declaration asks for.

use corvant_testing::expect;

#[test]
fn carriers_are_counted() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags:
  none: { at-least: 1 }
  ^^^^ missing-carrier none
  enough: { at-least: 1 }
  any: { at-least: 0 }
services:
  a.one: { tags: [enough, any] }
  a.common: { tags: [none], template: true }
entries:
  e: { needs: { n: { tag: none }, o: { tag: enough }, a: { tag: any } } }
"#,
    );
}
