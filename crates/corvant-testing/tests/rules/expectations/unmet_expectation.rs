//! `unmet-expectation`: wiring that is not what an expectation says.

use corvant_testing::expect;

#[test]
fn absent_other_service_type_and_lifetime_are_told_apart() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { services: [host.s], contracts: [Host] }
services:
  a.x: { type: velmora.X, lifetime: process, offers: [C] }
  a.y: { offers: [D], key: k, wraps: a.x }
  a.z: { alias-of: a.x }
  a.p: { offers: [Two] }
  a.q: { offers: [Two] }
expect:
  - { contract: C, met-by: a.z }
  - { contract: D, key: k, met-by: a.y, type: velmora.Other }
  - { service: a.gone }
               ^^^^^^ unmet-expectation a.gone
  - { contract: D, key: other }
                ^ unmet-expectation D#other
  - { contract: None }
                ^^^^ unmet-expectation None
  - { contract: Two }
                ^^^ unmet-expectation Two
  - { contract: C, met-by: a.p }
                           ^^^ unmet-expectation C
  - { service: host.s, type: any }
  - { contract: Host, lifetime: process }
entries:
  e: { needs: { x: { service: a.x }, p: { service: a.p }, q: { service: a.q } } }
"#,
    );
}
