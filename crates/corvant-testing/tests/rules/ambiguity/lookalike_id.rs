//! `lookalike-id`: ids apart only in letter case, separators or a pair that looks alike.

use corvant_testing::expect;

#[test]
fn each_way_of_looking_alike_is_seen() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.Case: {}
  ^^^^^^ lookalike-id a.Case ~ a.case
  a.case: {}
  b.line1: {}
  ^^^^^^^ lookalike-id b.line1 ~ b.linel
  b.linel: {}
  c.modern: {}
  c.modem: {}
  ^^^^^^^ lookalike-id c.modem ~ c.modern
  d.l0: {}
  d.l1: {}
  e.ab: {}
  e.a.b: {}
"#,
    );
}
