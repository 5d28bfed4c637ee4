//! One audit over all stages: in which of them each finding holds.

use corvant_core::audit::{Options, audit};
use corvant_core::finding::Finding;
use corvant_core::wiring::Wiring;
use corvant_testing::tangle::tangle;
use corvant_testing::{messages, wiring};
use rstest::rstest;
use std::fmt::Write;
use std::ops::Range;

/// Rule, subject and stages of every finding, `-` standing for none chosen; `all` where it holds in all of them.
fn found(body: &str) -> Vec<String> {
    let text = format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{body}\n");
    let stages = |holds: Option<Vec<String>>| holds.map_or_else(|| "all".to_owned(), |holds| holds.join("+"));
    let findings = messages(&text).into_iter();
    findings.map(|found| format!("{} {} in {}", found.rule, found.subject, stages(found.holds))).collect()
}

const ENTRY: &str = "entries:\n  e: { needs: { x: { contract: C } } }";

#[rstest]
#[case::everywhere("services:\n  a.other: { stages: [drill], offers: [D] }", &["missing-implementation C in all", "unused-service a.other in all"])]
#[case::but_in_one("services:\n  a.x: { stages: [drill], offers: [C] }\n  a.y: { stages: [drill, live], offers: [C], default: true }",
    &["missing-implementation C in -", "unused-service a.x in all"])]
#[case::two_meet_in_one_stage("services:\n  a.x: { offers: [C] }\n  a.y: { stages: [drill], offers: [C] }",
    &["ambiguous-implementation C in drill"])]
#[case::replaced_in_one_stage("services:\n  a.x: { offers: [C] }\n  a.y: { stages: [drill], replaces: a.x, offers: [C] }", &[])]
#[case::cycle_in_one_stage("services:\n  a.x: { offers: [C], needs: { y: { service: a.y, optional: true } } }\n  a.y: { stages: [drill], needs: { x: { service: a.x } } }",
    &["service-cycle a.x > a.y in drill"])]
#[case::twice_in_one_stage("services:\n  a.x: { offers: [C] }\n  a.s: { stages: [drill], offers: [S] }\n  b.s: { stages: [live], offers: [S] }\n  a.u: { stages: [drill, live], needs: { s: { contract: S } } }\ntags: {}\nexpect: [{ service: a.u }]",
    &["unmet-expectation a.u in -"])]
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
    assert_eq!(found(body), ["missing-carrier t in -"]);
}

/// All that a report says, a line each.
fn lines(wiring: &Wiring, afresh: bool) -> Vec<String> {
    let report = audit(wiring, &Options { afresh, ..Options::default() });
    let line = |finding: &Finding| {
        let stages = finding.holds.as_ref().map(|holds| {
            let stages: Vec<&str> = holds.stages.iter().map(|&stage| wiring.text(stage)).collect();
            format!("{}{}", if holds.none_chosen { "-," } else { "" }, stages.join(","))
        });
        let places: Vec<String> =
            finding.places.iter().map(|place| format!("{:?} {}", place.span, place.role)).collect();
        let (rule, severity) = (finding.rule.name, finding.severity.word());
        format!(
            "{severity} {rule} {} in {stages:?}: {} {:?} {:?} {places:?}",
            finding.subject, finding.message, finding.fixes, finding.reach
        )
    };
    report.findings.iter().map(line).collect()
}

/// What a stage changes is worked out from the wiring with none chosen: that must give what the stage gives
/// when it is worked out afresh.
#[rstest]
#[case::few(0..500)]
#[case::more(500..1000)]
#[case::many(1000..1500)]
fn a_stage_by_its_changes_is_as_the_stage_afresh(#[case] seeds: Range<u64>) {
    for seed in seeds {
        let files = tangle(seed);
        let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        let (expected, found) = (lines(&wiring, true), lines(&wiring, false));
        let missing: Vec<_> = expected.iter().filter(|line| !found.contains(line)).collect();
        let extra: Vec<_> = found.iter().filter(|line| !expected.contains(line)).collect();
        assert!(
            missing.is_empty() && extra.is_empty(),
            "{seed}: missing {missing:#?}\nextra {extra:#?}\n{files:#?}"
        );
        assert_eq!(expected, found);
    }
}

/// What is asked in one stage alone belongs to the clash behind it, though that is the same in all.
#[test]
fn a_question_of_one_stage_belongs_to_a_clash_of_all() {
    let text = "corvant: 1
module: depot
services:
  depot.east: { offers: ['Store<*>'], key: gate, needs: { tickets: { contract: 'Store<Ticket>', key: gate } } }
  depot.west: { offers: ['Store<*>'], key: gate }
  depot.night: { stages: [night], needs: { stops: { contract: 'Store<Stop>', key: gate } } }
entries: { e: { needs: { east: { service: depot.east } } } }
";
    let wiring = wiring([("depot.wiring.yaml", text)]);
    let found = lines(&wiring, false);
    assert_eq!(found, lines(&wiring, true));
    let clashes = found.iter().filter(|line| line.contains("duplicate-key")).count();
    assert_eq!(clashes, 1, "{found:#?}");
}

/// Fifty stages, in each of which one service of a thousand differs: the same report, and each fault in its own.
#[test]
fn many_stages_are_each_what_they_are_afresh() {
    let mut text = "corvant: 1\nmodule: a\nservices:\n".to_owned();
    for number in 0..1_000 {
        let before =
            if number > 0 { format!("before: {{ service: s{} }}", number - 1) } else { String::new() };
        writeln!(text, "  s{number}: {{ needs: {{ {before} }} }}").unwrap();
    }
    for stage in 0..50 {
        let number = stage * 17;
        let needs = format!("gone: {{ service: gone{stage} }}, before: {{ service: s0 }}");
        writeln!(text, "  t{stage}: {{ stages: [p{stage}], replaces: s{number}, needs: {{ {needs} }} }}")
            .unwrap();
    }
    text.push_str("entries: { e: { needs: { last: { service: s999 } } } }\n");
    let wiring = wiring([("a.wiring.yaml", text.as_str())]);
    let found = lines(&wiring, false);
    assert_eq!(found, lines(&wiring, true));
    let missing: Vec<&String> = found.iter().filter(|line| line.contains("missing-service")).collect();
    assert_eq!(missing.len(), 50);
    assert!(
        missing.iter().any(|line| line.contains("missing-service gone7 in Some(\"p7\")")),
        "{missing:#?}"
    );
    // What replaces the first service needs it: a cycle in that stage alone.
    let cycles: Vec<&String> = found.iter().filter(|line| line.contains("service-cycle")).collect();
    assert_eq!(cycles.len(), 1);
    assert!(cycles[0].contains("service-cycle t0 in Some(\"p0\")"), "{cycles:#?}");
}

#[test]
fn a_stage_that_changes_nothing_has_what_all_have() {
    let wiring = wiring([
        ("corvant.toml", "[stages.idle]\n[stages.night]\n"),
        ("a.wiring.yaml", "corvant: 1\nmodule: a\nentries: { e: { needs: { x: { service: gone } } } }\n"),
    ]);
    let found = lines(&wiring, false);
    assert_eq!(found.len(), 1);
    assert!(found[0].contains("missing-service gone in None"), "{found:#?}");
}
