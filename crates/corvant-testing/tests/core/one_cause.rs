//! One cause, one finding: faults that hide, cause or meet one another.

use corvant_testing::{expect, messages};
use rstest::rstest;

#[rstest]
#[case::misspelt_need_and_what_it_meant("services:\n  a.clock: {}\nentries:\n  e: { needs: { x: { service: a.clok } } }", &["missing-service"])]
#[case::misspelt_contract_and_its_candidates("services:\n  a.clock: { offers: [Clock] }\nentries:\n  e: { needs: { x: { contract: Clok } } }", &["missing-implementation"])]
#[case::misspelt_key_and_its_candidate("services:\n  a.clock: { offers: [Clock], key: street }\nentries:\n  e: { needs: { x: { contract: Clock, key: steet } } }", &["missing-key"])]
#[case::misspelt_setting_and_what_it_meant("settings: { a.limit: 1 }\nentries:\n  e: { needs: { x: { setting: a.limt } } }", &["missing-setting"])]
#[case::misspelt_tag_and_its_declaration("tags: { layer: {} }\nservices:\n  a.x: { tags: [layr] }\nentries:\n  e: { needs: { x: { tag: layer } } }", &["unknown-tag"])]
#[case::misspelt_alias("services:\n  a.x: {}\n  a.other: { alias-of: a.x }\nentries:\n  e: { needs: { x: { service: a.othr } } }", &["missing-service"])]
#[case::misspelt_on_the_roster("providers: { a.start: {} }\nroster: [a.strat]", &["missing-provider"])]
#[case::misspelt_choice("choices: { C: { default: a.on } }\nservices:\n  a.one: { offers: [C] }\n  a.two: { offers: [C] }\nentries:\n  e: { needs: { c: { contract: C } } }", &["choice-mismatch"])]
#[case::alias_of_nothing_and_who_needs_it("services:\n  a.x: { alias-of: a.gone }\nentries:\n  e: { needs: { x: { service: a.x } } }", &["missing-service"])]
#[case::aliases_in_a_cycle_and_who_needs_them("services:\n  a.x: { alias-of: a.y }\n  a.y: { alias-of: a.x }\nentries:\n  e: { needs: { x: { service: a.x } } }", &["definition-cycle"])]
#[case::two_defaults_and_the_question("services:\n  a.x: { offers: [C], default: true }\n  a.y: { offers: [C], default: true }\nentries:\n  e: { needs: { c: { contract: C } } }", &["duplicate-default"])]
#[case::two_under_a_key_and_the_question("services:\n  a.x: { offers: [C], key: k }\n  a.y: { offers: [C], key: k }\nentries:\n  e: { needs: { c: { contract: C, key: k } } }", &["duplicate-key"])]
#[case::untagged_and_unused("tags: { t: { contract: C, carried-by-all: true } }\nservices:\n  a.x: { offers: [C] }\n  a.y: { offers: [C], tags: [t] }\nentries:\n  e: { needs: { t: { tag: t } } }", &["untagged-service"])]
#[case::uncollected_and_unused("tags: { t: {} }\nservices:\n  a.x: { tags: [t] }\nentries:\n  e: {}", &["uncollected-tag"])]
#[case::unlisted_and_what_it_starts("providers: { a.p: { start: { needs: { x: { service: a.x } } } }, a.q: {} }\nroster: [a.q]\nservices: { a.x: {} }\nentries: { e: {} }", &["unlisted-provider"])]
#[case::declared_without_value("settings: { a.s: { about: none } }\nentries:\n  e: { needs: { s: { setting: a.s } } }", &["missing-setting"])]
#[case::wrapping_itself_in_a_cycle("services:\n  a.x: { wraps: a.y }\n  a.y: { wraps: a.x }\nentries:\n  e: { needs: { x: { service: a.x } } }", &["definition-cycle"])]
#[case::ambiguous_in_a_would_be_cycle("services:\n  a.x: { offers: [C], needs: { c: { contract: C } } }\n  a.y: { offers: [C] }\nentries:\n  e: { needs: { x: { service: a.x } } }", &["ambiguous-implementation"])]
fn a_fault_does_not_show_twice(#[case] body: &str, #[case] rules: &[&str]) {
    let found = messages(&format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{body}\n"));
    let names: Vec<&str> = found.iter().map(|found| found.rule).collect();
    assert_eq!(names, rules, "{found:#?}");
}

#[rstest]
#[case::misspelt_section("service:\n  a.clock: { offers: [Clock] }", "unknown-field")]
#[case::section_of_the_wrong_shape("services:\n  - a.clock: { offers: [Clock] }", "wrong-shape")]
#[case::section_twice("services: {}\nservices:\n  a.clock: { offers: [Clock] }", "repeated-field")]
#[case::broken_file("services:\n  a.clock: { offers: [Clock] ", "unreadable-file")]
fn what_text_that_is_not_read_may_hold_is_not_missing(#[case] body: &str, #[case] rule: &str) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{body}\n//- b.wiring.yaml\ncorvant: 1\nmodule: b\nentries:\n  e: {{ needs: {{ s: {{ service: a.clock }}, c: {{ contract: Clock }}, k: {{ contract: Clock, key: k }} }} }}\n"
    );
    let found = messages(&text);
    let rules: Vec<&str> = found.iter().map(|found| found.rule).collect();
    assert_eq!(rules, [rule], "{found:#?}");
    assert!(found[0].text.contains("perhaps in what was not read: a.clock, Clock"), "{}", found[0].text);
}

#[rstest]
#[case::misspelt_needs(
    "need: { x: { service: a.x }, s: { setting: a.s }, c: { contract: C }, t: { tag: t } }"
)]
#[case::needs_of_the_wrong_shape("needs: [{ service: a.x, setting: a.s, contract: C, tag: t }]")]
fn what_text_that_is_not_read_may_use_is_not_unused(#[case] field: &str) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nsettings: {{ a.s: 1 }}\ncontracts: {{ C: {{}} }}\ntags: {{ t: {{}} }}\nservices:\n  a.x: {{}}\n  a.c: {{ offers: [C] }}\n  a.t: {{ tags: [t] }}\n  a.user: {{ {field} }}\nentries:\n  e: {{ needs: {{ u: {{ service: a.user }} }} }}\n"
    );
    assert_eq!(messages(&text).len(), 1, "{:#?}", messages(&text));
}

#[test]
fn several_faults_of_one_service_are_each_found() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags: { t: { attributes: { order: { kind: integer, required: true } } } }
services:
  a.many:
    type: velmora.Many
    lifetime: process
    tags: [t, unknown]
           ^ tag-attribute a.many
              ^^^^^^^ unknown-tag unknown
    needs:
      gone: { service: a.gone }
                       ^^^^^^ missing-service a.gone
      short: { service: a.short }
                        ^^^^^^^ short-lived-need a.many > a.short
      setting: { setting: a.none }
                          ^^^^^^ missing-setting a.none
  a.short: { lifetime: request }
  a.other: { tags: [{ t: { order: 1 } }] }
entries:
  e: { needs: { t: { tag: t } } }
"#,
    );
}
