//! `undeclared-use`: a need into a module that `uses` does not list.

use corvant_testing::expect;

#[test]
fn services_settings_and_declared_contracts_of_others_are_uses() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: [listed]
services:
  a.one:
    needs:
      listed: { service: listed.x }
      setting: { setting: b.limit }
                          ^^^^^^^ undeclared-use a > b
      again: { service: b.x }
      contract: { contract: Declared }
                            ^^^^^^^^ undeclared-use a > c
      loose: { contract: Loose }
entries:
  e: { needs: { x: { service: a.one } } }
//- a2.wiring.yaml
corvant: 1
module: a
settings: { a.limit: 1 }
entries:
  f: { needs: { x: { service: listed.x }, l: { setting: a.limit } } }
//- b.wiring.yaml
corvant: 1
module: b
settings: { b.limit: 1 }
services: { b.x: {} }
//- c.wiring.yaml
corvant: 1
module: c
contracts: { Declared: {} }
//- d.wiring.yaml
corvant: 1
module: listed
services: { listed.x: { offers: [Declared, Loose] } }
"#,
    );
}
#[test]
fn a_use_may_be_said_in_what_could_not_be_read() {
    let of_two = |broken: &str| {
        format!(
            r#"
//- one/a.wiring.yaml
corvant: 1
module: a
uses: []
entries: {{ e: {{ needs: {{ x: {{ service: b.x }} }} }} }}
{broken}
//- b.wiring.yaml
corvant: 1
module: b
services: {{ b.x: {{}} }}
"#
        )
    };
    // Another file of the module, wherever it lies.
    expect(&of_two(
        r"//- two/a.wiring.yaml
corvant: 1
module: a
uses: { b: 1 }
      ^^^^^^^^ wrong-shape uses",
    ));
    // A file of which not even the module is known, in the same folder.
    expect(&of_two(
        r"//- one/broken.wiring.yaml
corvant: 1
module: a
uses: [b
services: {
        ^ unreadable-file one/broken.wiring.yaml",
    ));
}
