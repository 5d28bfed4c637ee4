//! One audit over all stages: in which of them each finding holds.

use corvant_testing::messages;
use rstest::rstest;

/// Rule, subject and stages of every finding; `all` where it holds in every one, `none` where only no stage does.
fn found(body: &str) -> Vec<String> {
    let text = format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{body}\n");
    let stages = |stages: Option<Vec<String>>| match stages {
        None => "all".to_owned(),
        Some(stages) if stages.is_empty() => "none".to_owned(),
        Some(stages) => stages.join("+"),
    };
    let findings = messages(&text).into_iter();
    findings.map(|found| format!("{} {} in {}", found.rule, found.subject, stages(found.stages))).collect()
}

const ENTRY: &str = "entries:\n  e: { needs: { x: { contract: C } } }";

#[rstest]
#[case::everywhere("services:\n  a.other: { stages: [drill], offers: [D] }", &["missing-implementation C in all", "unused-service a.other in all"])]
#[case::but_in_one("services:\n  a.x: { stages: [drill], offers: [C] }\n  a.y: { stages: [drill, live], offers: [C], default: true }",
    &["missing-implementation C in none", "unused-service a.x in all"])]
#[case::two_meet_in_one_stage("services:\n  a.x: { offers: [C] }\n  a.y: { stages: [drill], offers: [C] }",
    &["ambiguous-implementation C in drill"])]
#[case::replaced_in_one_stage("services:\n  a.x: { offers: [C] }\n  a.y: { stages: [drill], replaces: a.x, offers: [C] }", &[])]
#[case::ring_in_one_stage("services:\n  a.x: { offers: [C], needs: { y: { service: a.y, optional: true } } }\n  a.y: { stages: [drill], needs: { x: { service: a.x } } }",
    &["service-cycle a.x > a.y in drill"])]
#[case::twice_in_one_stage("services:\n  a.x: { offers: [C] }\n  a.s: { stages: [drill], offers: [S] }\n  b.s: { stages: [live], offers: [S] }\n  a.u: { stages: [drill, live], needs: { s: { contract: S } } }\ntags: {}\nexpect: [{ service: a.u }]",
    &["unmet-expectation a.u in none"])]
fn a_finding_says_in_which_stages_it_holds(#[case] body: &str, #[case] expected: &[&str]) {
    assert_eq!(found(&format!("{body}\n{ENTRY}")), expected);
}

#[rstest]
#[case::every_stage_gives_it("a.s: { stages: { drill: 1, live: 2 } }", &[])]
#[case::one_does_not("a.s: { stages: { drill: 1 } }\n  a.t: { value: 1, stages: { live: 2 } }", &["missing-setting a.s in live"])]
#[case::required_and_given("a.s: { required: true, stages: { drill: 1, live: 1 } }", &[])]
#[case::referring_to_what_one_stage_lacks("a.s: \"${a.t}\"\n  a.t: { stages: { drill: 1 } }\n  a.u: { value: 1, stages: { live: 1 } }",
    &["missing-setting a.t in live"])]
#[case::a_stage_refers_to_nothing("a.s: { value: 1, stages: { drill: \"${a.none}\", live: 1 } }", &["missing-setting a.none in drill"])]
fn settings_are_asked_for_in_every_stage(#[case] settings: &str, #[case] expected: &[&str]) {
    let needs = ["a.s", "a.t", "a.u"].iter().filter(|name| settings.contains(&format!("{name}: ")));
    let needs: String = needs.map(|name| format!("      {name}: {{ setting: {name} }}\n")).collect();
    let body = format!("settings:\n  {settings}\nentries:\n  e:\n    needs:\n{needs}");
    assert_eq!(found(&body), expected);
}

#[test]
fn a_tag_may_lack_carriers_in_one_stage_only() {
    let body = "tags: { t: { at-least: 2 } }\nservices:\n  a.x: { tags: [t] }\n  a.y: { tags: [t], stages: [live] }\nentries:\n  e: { needs: { t: { tag: t } } }";
    // In `live` there are two; where no stage is chosen, one.
    assert_eq!(found(body), ["missing-carrier t in none"]);
}
