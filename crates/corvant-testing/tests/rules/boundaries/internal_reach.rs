//! `internal-reach`: a need on another module's internal service.

use corvant_testing::expect;

#[test]
fn ones_own_module_and_its_aliases_may_reach_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.inner: { internal: true, offers: [Inner] }
  a.open: { alias-of: a.inner }
  a.user: { needs: { x: { service: a.inner } } }
entries:
  e: { needs: { x: { service: a.user } } }
//- b.wiring.yaml
corvant: 1
module: b
entries:
  f:
    needs:
      by-id: { service: a.inner }
                        ^^^^^^^ internal-reach a.inner
      by-alias: { service: a.open }
      by-contract: { contract: Inner }
"#,
    );
}
