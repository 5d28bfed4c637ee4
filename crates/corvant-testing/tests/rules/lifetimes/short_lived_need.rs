//! `short-lived-need`: something that lives longer holds something that lives shorter.

use corvant_testing::expect;

#[test]
fn what_is_caught_through_use_is_caught() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.process: { lifetime: process, needs: { x: { service: a.use } } }
                                                         ^^^^^ short-lived-need a.process > a.request
  a.use: { lifetime: use, needs: { x: { service: a.request } } }
  a.request: { lifetime: request, needs: { x: { service: b.process } } }
  b.process: { lifetime: process, needs: { x: { service: a.request, via: look-up } } }
                                                         ^^^^^^^^^ hidden-need b.process
  c.process: { lifetime: process, built-by: { service: a.request, method: make } }
  d.process: { lifetime: process, needs: { x: { service: d.unknown } } }
  d.unknown: { needs: { x: { service: a.request } } }
  e.process: { lifetime: process, needs: { x: { service: a.request, via: property } } }
                                                         ^^^^^^^^^ short-lived-need e.process > a.request
entries:
  job:
    lifetime: process
    needs:
      a: { service: a.process }
      b: { contract: Caught }
                     ^^^^^^ short-lived-need job > f.request
      c: { service: c.process }
      d: { service: d.process }
      e: { service: e.process }
//- b.wiring.yaml
corvant: 1
module: b
services:
  f.request: { lifetime: request, offers: [Caught] }
"#,
    );
}
