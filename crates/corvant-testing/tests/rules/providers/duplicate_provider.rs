//! `duplicate-provider`: a provider that stands on the roster twice.

use corvant_testing::expect;

#[test]
fn each_repetition_has_its_place_and_two_rosters_are_two_lists() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
providers: { a.one: {}, a.two: {} }
roster: [a.one, a.two, a.one]
                       ^^^^^ duplicate-provider a.one
//- b.wiring.yaml
corvant: 1
module: b
roster: [a.two]
"#,
    );
}
