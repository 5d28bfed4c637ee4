//! `duplicate-key`: two services under one key of one contract.

use corvant_testing::expect;

#[test]
fn choices_defaults_wrappers_and_stages_settle() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
choices: { Chosen: { keys: { k: a.one } } }
services:
  a.one: { offers: [Chosen, Clash], key: k }
                                         ^ duplicate-key Clash#k
  a.two: { offers: [Chosen, Clash], key: k }
  b.one: { offers: [Defaulted], key: k, default: true }
  b.two: { offers: [Defaulted], key: k }
  c.one: { offers: [Wrapped], key: k }
  c.two: { offers: [Wrapped], key: k, wraps: c.one, needs: { inner: { wrapped: true } } }
  d.one: { offers: [Staged], key: k, stages: [drill] }
  d.two: { offers: [Staged], key: k, stages: [live] }
entries:
  e:
    needs:
      a: { contract: Chosen, key: k }
      b: { contract: Clash, key: k }
      c: { contract: Defaulted, key: k }
      d: { contract: Wrapped, key: k }
      e: { contract: Staged, key: k, optional: true }
      f: { service: b.two }
      g: { service: a.two }
"#,
    );
}
