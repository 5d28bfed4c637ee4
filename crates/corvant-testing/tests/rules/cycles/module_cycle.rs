//! `module-cycle`: modules that need each other through their services and entries.

use corvant_testing::expect;

#[test]
fn cycles_run_through_ids_settings_and_declared_contracts() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
settings: { a.limit: 1 }
services:
  a.one: { needs: { x: { contract: FromB } } }
                                   ^^^^^ module-cycle a > b
  a.two: { offers: [Own] }
contracts: { Own: {} }
entries:
  e: { needs: { x: { service: a.one }, t: { tag: plug-in }, o: { contract: Own } } }
//- b.wiring.yaml
corvant: 1
module: b
contracts: { FromB: {} }
services:
  b.one: { offers: [FromB], needs: { limit: { setting: a.limit } } }
//- c.wiring.yaml
corvant: 1
module: c
services:
  c.one: { tags: [plug-in], needs: { x: { contract: Own } } }
"#,
    );
}
