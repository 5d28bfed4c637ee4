//! `unused-setting`: a setting that nothing needs.

use corvant_testing::expect;

#[test]
fn references_count_and_several_declarations_are_one() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
settings:
  a.used: "${a.inner}"
  a.inner: 1
  a.staged: { stages: { drill: "${a.drill}" }, value: 1 }
  a.drill: 1
  a.idle: 1
  ^^^^^^ unused-setting a.idle
//- b.wiring.yaml
corvant: 1
module: a
settings:
  a.idle: { stages: { drill: 2 } }
entries:
  e: { needs: { x: { setting: a.used }, y: { setting: a.staged } } }
"#,
    );
}
