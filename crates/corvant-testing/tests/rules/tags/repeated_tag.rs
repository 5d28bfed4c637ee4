//! `repeated-tag`: the same tag with the same attributes twice on one service.

use corvant_testing::expect;

#[test]
fn attributes_in_another_order_are_the_same() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.same: { tags: [{ t: { x: 1, y: 2 } }, { t: { y: 2, x: 1 } }] }
                                            ^ repeated-tag a.same
  a.other: { tags: [{ t: { x: 1 } }, { t: { x: 2 } }, t] }
entries:
  e: { needs: { t: { tag: t } } }
"#,
    );
}
