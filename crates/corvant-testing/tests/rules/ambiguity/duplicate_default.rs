//! `duplicate-default`: two defaults, or two choices, for one contract.

use corvant_testing::expect;

#[test]
fn choices_clash_unless_they_agree() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
choices: { Clash: { default: a.one }, Same: { default: a.one }, Keyed: { keys: { k: a.one } } }
                             ^^^^^ duplicate-default Clash
                                                                                    ^^^^^ duplicate-default Keyed#k
services:
  a.one: { offers: [Clash, Same, Keyed] }
  a.two: { offers: [Clash, Keyed] }
entries:
  e: { needs: { c: { contract: Clash }, s: { contract: Same }, k: { contract: Keyed, key: k }, t: { service: a.two } } }
//- b.wiring.yaml
corvant: 1
module: b
choices: { Clash: { default: a.two }, Same: { default: a.one }, Keyed: { keys: { k: a.two } } }
"#,
    );
}
