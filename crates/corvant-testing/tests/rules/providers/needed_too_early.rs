//! `needed-too-early`: a provider that uses a service before the provider that registers it has run.

use corvant_testing::expect;

#[test]
fn what_registering_really_needs_is_followed() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: start
roster: [p.one, p.two, p.three]
providers:
  p.one:
    register:
      needs:
        direct: { service: three.x }
                           ^^^^^^^ needed-too-early p.one > three.x
        through: { service: loose.x }
                            ^^^^^^^ needed-too-early p.one > two.y
        lazy: { service: two.z, lazy: true }
        own: { service: one.x }
    registers: [one.x]
    start: { needs: { later: { service: three.x } } }
    after: [p.two]
            ^^^^^ needed-too-early p.one > p.two
  p.two: { registers: [two.y, two.z], register: { needs: { x: { service: one.x } } } }
services:
  one.x: {}
  two.z: {}
//- b.wiring.yaml
corvant: 1
module: three
providers: { p.three: {} }
services: { three.x: { needs: { y: { service: three.y } } }, three.y: {} }
//- c.wiring.yaml
corvant: 1
module: loose
services: { loose.x: { needs: { y: { service: two.y }, l: { service: three.y, lazy: true } } }, two.y: {} }
"#,
    );
}

/// What code registers it registers in the order in which it is written; own methods where they are called.
#[test]
fn in_code_the_order_inside_one_provider_counts() {
    expect(
        r#"
//- corvant.toml
roster = ["v.DepotProvider"]
[[reader]]
name = "stock"
files = ["**/*.java"]
syntax = "code"
language = "java"
module = "depot"
[[reader.take]]
what = "service"
each = { code = "stock.keep($ID)" }
within = { method = "register" }
id = "$.ID"
provider = "$['@class']"
[[reader.take]]
what = "provider"
each = "$.types[*]"
within = { class-extends = "Provider" }
id = "$.name"
[[reader.take.register]]
code = "stock.take($ID)"
within = { method = "register" }
service = "$.ID"
//- depot/DepotProvider.java
package v;
class DepotProvider extends Provider {
    void register(Stock stock) {
        stock.take("gate");
                    ^^^^ needed-too-early v.DepotProvider > gate
        stock.keep("gate");
        stock.take("gate");
        lamps(stock);
        stock.keep("lamp");
    }
    private void lamps(Stock stock) {
        stock.take("lamp");
                    ^^^^ needed-too-early v.DepotProvider > lamp
    }
}
"#,
    );
}
