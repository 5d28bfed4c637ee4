//! `unused-use`: a module that another says it uses and never needs.

use corvant_testing::expect;

#[test]
fn any_mention_is_a_need() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: [by-id, by-contract, by-tag, by-setting, by-alias, a, nothing]
                                                         ^ unused-use a > a
                                                            ^^^^^^^ unused-use a > nothing
services:
  a.one: { needs: { x: { service: id.x }, c: { contract: C }, s: { setting: setting.x } } }
  a.two: { tags: [tag] }
  a.three: { alias-of: alias.x }
entries:
  e: { needs: { x: { service: a.one }, y: { service: a.two }, z: { service: a.three } } }
//- b.wiring.yaml
corvant: 1
module: by-id
services: { id.x: {} }
//- c.wiring.yaml
corvant: 1
module: by-contract
services: { contract.x: { offers: [C] } }
//- d.wiring.yaml
corvant: 1
module: by-tag
tags: { tag: {} }
entries: { t: { needs: { t: { tag: tag } } } }
//- e.wiring.yaml
corvant: 1
module: by-setting
settings: { setting.x: 1 }
//- f.wiring.yaml
corvant: 1
module: by-alias
services: { alias.x: {} }
//- g.wiring.yaml
corvant: 1
module: nothing
about: x
"#,
    );
}
