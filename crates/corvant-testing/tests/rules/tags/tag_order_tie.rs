//! `tag-order-tie`: two carriers of a tag that share the same place in its order.

use corvant_testing::expect;

#[test]
fn only_required_numbers_that_need_not_be_unique_are_an_order() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags:
  ordered: { attributes: { order: { kind: number, required: true }, line: { kind: text } } }
  loose: { attributes: { order: { kind: number } } }
services:
  a.one: { tags: [{ ordered: { order: 1, line: red } }, { loose: { order: 1 } }] }
  a.two: { tags: [{ ordered: { order: 1, line: blue } }, { loose: { order: 1 } }] }
                    ^^^^^^^ tag-order-tie a.two
  a.three: { tags: [{ ordered: { order: 1.5 } }] }
  a.four: { tags: [{ ordered: { order: 1 } }] }
                     ^^^^^^^ tag-order-tie a.four
entries:
  e: { needs: { o: { tag: ordered }, l: { tag: loose } } }
"#,
    );
}
