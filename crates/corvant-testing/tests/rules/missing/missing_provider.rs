//! `missing-provider`: a provider on the roster that is not defined.

use corvant_testing::expect;

#[test]
fn letter_case_counts_and_a_name_is_reported_once() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
providers: { a.first: {}, a.second: {} }
roster: [a.first, A.second, a.second, a.third, A.second]
                  ^^^^^^^^ missing-provider A.second
                                      ^^^^^^^ missing-provider a.third
                                               ^^^^^^^^ duplicate-provider A.second
"#,
    );
}
