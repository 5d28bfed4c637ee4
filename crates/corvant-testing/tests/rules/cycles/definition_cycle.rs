//! `definition-cycle`: aliases, templates, wrappers, settings or provider order that run in a cycle.

use corvant_testing::expect;

#[test]
fn each_kind_of_cycle_is_found_and_lines_are_not() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
settings:
  a.one: "${a.two}"
            ^^^^^ definition-cycle a.one > a.two
  a.two: "${a.one}/${a.three}"
  a.three: plain
services:
  b.alias: { alias-of: b.alias }
                       ^^^^^^^ definition-cycle b.alias
  c.one: { like: c.two }
                 ^^^^^ definition-cycle c.one > c.two
  c.two: { like: c.one }
  d.one: { wraps: d.two }
                  ^^^^^ definition-cycle d.one > d.two
  d.two: { wraps: d.one }
  e.one: { alias-of: e.two }
  e.two: { alias-of: e.three }
  e.three: {}
providers:
  f.one: { after: [f.two] }
                   ^^^^^ definition-cycle f.one > f.two
  f.two: { after: [f.one] }
entries:
  e:
    needs:
      a: { setting: a.one }
      b: { service: b.alias }
      c: { service: c.one }
      d: { service: c.two }
      e: { service: d.one }
      f: { service: e.one }
      g: { service: d.two }
"#,
    );
}
