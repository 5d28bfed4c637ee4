//! `unlisted-provider`: a provider that is defined and not on the roster.

use corvant_testing::expect;

#[test]
fn without_a_roster_nobody_says_what_is_loaded() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
providers: { a.one: {}, a.two: {} }
"#,
    );
}

#[test]
fn the_provider_that_a_misspelt_name_means_is_listed() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
providers: { a.first: {}, a.second: {}, a.other: {} }
                                        ^^^^^^^ unlisted-provider a.other
roster: [a.frist, a.second]
         ^^^^^^^ missing-provider a.frist
"#,
    );
}
