//! `untagged-service`: a service that offers a contract whose every provider must carry a tag, and lacks the tag.

use corvant_testing::expect;

#[test]
fn wrappers_aliases_templates_and_misspelt_tags_are_left_alone() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts: { Narrow: { extends: [Rule] } }
tags:
  rule: { contract: Rule, carried-by-all: true }
  free: { contract: Other }
services:
  a.tagged: { offers: [Rule], tags: [rule] }
  a.plain: { offers: [Rule] }
  ^^^^^^^ untagged-service a.plain
  a.narrow: { offers: [Narrow] }
  ^^^^^^^^ untagged-service a.narrow
  a.common: { template: true, offers: [Rule] }
  a.like: { like: a.common, tags: [rule] }
  a.wrapped: { offers: [Rule], tags: [rule] }
  a.wrapper: { wraps: a.wrapped, offers: [Rule], needs: { inner: { wrapped: true } } }
  a.misspelt: { offers: [Rule], tags: [rul] }
                                       ^^^ unknown-tag rul
  a.other: { offers: [Other], tags: [free] }
entries:
  e: { needs: { r: { tag: rule }, f: { tag: free } } }
"#,
    );
}
