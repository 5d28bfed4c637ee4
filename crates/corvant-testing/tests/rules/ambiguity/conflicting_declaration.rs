//! `conflicting-declaration`: one setting, tag or contract of which two declarations say different things.

use corvant_testing::expect;

#[test]
fn what_differs_is_found_and_what_adds_up_is_not() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
settings:
  s.same: "1"
  s.other: 1
  s.list: [a, b]
  s.staged: { stages: { drill: 1 } }
contracts: { Same: { meant-for: key, keys: [k, l] }, Meant: { meant-for: one }, Keys: { keys: [k] } }
tags:
  same: { contract: Same, attributes: { at: { kind: integer } } }
  contract: { contract: Same }
  attributes: { attributes: { at: { kind: integer } } }
  least: { at-least: 1 }
services:
  a.x: { offers: [Same, Meant, Keys], tags: [same, contract, { attributes: { at: 1 } }, least] }
entries:
  e:
    needs:
      a: { setting: s.same }
      b: { setting: s.other }
      c: { setting: s.list }
      d: { setting: s.staged }
      e: { contract: Same }
      f: { contract: Meant }
      g: { contract: Keys }
      h: { tag: same }
      i: { tag: contract }
      j: { tag: attributes }
      k: { tag: least }
//- b.wiring.yaml
corvant: 1
module: b
settings:
  s.same: 1
  s.other: 2
           ^ conflicting-declaration setting s.other
  s.list: ["a", b]
  s.staged: { stages: { drill: 2 } }
                               ^ conflicting-declaration setting s.staged
contracts: { Same: { keys: [l, k], extends: [Wide] }, Meant: { meant-for: all }, Keys: { keys: [l] } }
                                                                          ^^^ conflicting-declaration contract Meant
                                                                                 ^^^^ conflicting-declaration contract Keys
tags:
  same: { contract: Same, carried-by-all: true, attributes: { at: { kind: integer } } }
  contract: { contract: Meant }
                        ^^^^^ conflicting-declaration tag contract
  attributes: { attributes: { at: { kind: integer, required: true } } }
  ^^^^^^^^^^ conflicting-declaration tag attributes
  least: { at-least: 2 }
  ^^^^^ conflicting-declaration tag least
"#,
    );
}
