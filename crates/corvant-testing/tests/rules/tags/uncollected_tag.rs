//! `uncollected-tag`: a tag that services carry and that nothing collects.

use corvant_testing::expect;

#[test]
fn needs_collectors_and_the_platform_collect() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { tags: [host] }
tags: { needed: {}, collected: { collected-by: a.collector }, host: {}, idle: {} }
                                                                        ^^^^ uncollected-tag idle
services:
  a.collector: {}
  a.one: { tags: [needed, collected, host, idle] }
  a.two: { tags: [idle] }
entries:
  e: { needs: { n: { tag: needed }, c: { service: a.collector } } }
"#,
    );
}
