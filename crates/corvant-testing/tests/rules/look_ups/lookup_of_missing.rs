//! `lookup-of-missing`: a look-up by a constant name that nothing defines.

use corvant_testing::expect;

#[test]
fn needed_in_another_way_as_well_it_is_simply_missing() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { services: [host.x] }
entries:
  e:
    needs:
      supplied: { service: host.x, via: look-up }
      optional: { service: a.none, via: look-up, optional: true }
      only: { service: a.gone, via: look-up }
                       ^^^^^^ lookup-of-missing a.gone
      both: { service: a.lost, via: look-up }
                       ^^^^^^ missing-service a.lost
      plain: { service: a.lost }
"#,
    );
}
