//! `hidden-need`: a need that is found by look-up at run time instead of declared.

use corvant_testing::expect;

#[test]
fn all_look_ups_of_a_service_are_one_finding_and_entries_are_not_meant() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.x: {}
  a.looks:
    needs:
      one: { service: a.x, via: look-up }
                      ^^^ hidden-need a.looks
      two: { contract: C, via: look-up, optional: true }
      three: { service: a.x }
entries:
  e: { needs: { x: { service: a.looks }, y: { service: a.x, via: look-up } } }
"#,
    );
}
