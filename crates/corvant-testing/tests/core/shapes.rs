//! Shapes that break naive code, at sizes where quadratic work would not end.

use corvant_core::audit::{Options, Report, audit};
use corvant_core::wiring::Wiring;
use rstest::rstest;
use std::fmt::Write;

const MANY: usize = 20_000;

fn audited(body: &str) -> (Wiring, Report) {
    let text = format!("corvant: 1\nmodule: m\n{body}");
    let wiring = corvant_testing::wiring([("m.wiring.yaml", text.as_str())]);
    let report = audit(&wiring, &Options::default());
    (wiring, report)
}

/// Lines made from the numbers below `MANY`.
fn lines(each: impl Fn(usize) -> String) -> String {
    (0..MANY).fold(String::new(), |mut text, number| {
        writeln!(text, "{}", each(number)).expect("writing to a String");
        text
    })
}

#[rstest]
#[case::one_tag_with_many_carriers_and_collectors(
    format!("services:\n{}", lines(|n| if n % 20 == 0 {
        format!("  s{n}: {{ needs: {{ all: {{ tag: t }} }} }}")
    } else {
        format!("  s{n}: {{ tags: [t] }}")
    })), &format!("entries:\n  e:\n    needs:\n{}", lines(|n| format!("      n{n}: {{ service: s{} }}", n / 20 * 20))))]
#[case::one_contract_with_many_keys_each_needed(
    format!("services:\n{}", lines(|n| format!("  s{n}: {{ offers: [C], key: k{n} }}"))),
    &format!("entries:\n  e:\n    needs:\n{}", lines(|n| format!("      n{n}: {{ contract: C, key: k{n} }}"))))]
#[case::one_contract_with_many_candidates_needed_by_many(
    format!("choices: {{ C: {{ default: s7 }} }}\nservices:\n{}", lines(|n| format!("  s{n}: {{ offers: [C] }}"))),
    &format!("entries:\n  e:\n    needs:\n{}{}", lines(|n| format!("      n{n}: {{ contract: C }}")), lines(|n| format!("      m{n}: {{ service: s{n} }}"))))]
#[case::a_chain(
    format!("services:\n{}", lines(|n| format!("  s{n}: {{ needs: {{ next: {{ service: s{}, optional: true }} }} }}", n + 1))),
    "entries:\n  e: { needs: { x: { service: s0 } } }\n")]
#[case::aliases_in_a_row(
    format!("services:\n{}  s{MANY}: {{}}\n", lines(|n| format!("  s{n}: {{ alias-of: s{} }}", n + 1))),
    "entries:\n  e: { needs: { x: { service: s0 } } }\n")]
#[case::settings_in_a_row(
    format!("settings:\n{}  s{MANY}: 1\n", lines(|n| format!("  s{n}: \"${{s{}}}\"", n + 1))),
    "entries:\n  e: { needs: { x: { setting: s0 } } }\n")]
#[case::wrappers_in_a_row(
    format!("services:\n  s: {{}}\n{}", lines(|n| format!("  w{n}: {{ wraps: s, needs: {{ inner: {{ wrapped: true }} }} }}"))),
    "entries:\n  e: { needs: { x: { service: s } } }\n")]
#[case::lifetimes_through_a_long_way(
    format!("services:\n{}  s{MANY}: {{ lifetime: process }}\n", lines(|n| format!("  s{n}: {{ lifetime: use, needs: {{ next: {{ service: s{} }} }} }}", n + 1))),
    "entries:\n  e: { lifetime: process, needs: { x: { service: s0 } } }\n")]
fn a_large_shape_without_faults_is_silent(#[case] body: String, #[case] entries: &str) {
    let (_, report) = audited(&(body + entries));
    let found: Vec<_> = report.findings.iter().take(3).map(|finding| &finding.message).collect();
    assert!(found.is_empty(), "{found:#?}");
}

#[test]
fn many_missing_names_are_many_findings_with_their_near_misses() {
    let services = lines(|number| format!("  module{number}.gateway-{number}: {{}}"));
    let needs = lines(|number| format!("      n{number}: {{ service: module{number}.gatewy-{number} }}"));
    let (_, report) = audited(&format!("services:\n{services}entries:\n  e:\n    needs:\n{needs}"));
    assert_eq!(report.findings.len(), MANY);
    let helped =
        report.findings.iter().filter(|finding| finding.fixes[0].title.starts_with("write module")).count();
    // Names apart in their numbers alone crowd one another out here and there.
    assert!(helped > MANY / 2, "{helped}");
}

#[test]
fn many_needs_on_one_missing_name_are_one_finding() {
    let services = lines(|number| format!("  s{number}: {{ needs: {{ x: {{ service: gone }} }} }}"));
    let needs = lines(|number| format!("      n{number}: {{ service: s{number} }}"));
    let (_, report) = audited(&format!("services:\n{services}entries:\n  e:\n    needs:\n{needs}"));
    assert_eq!(report.findings.len(), 1);
    assert_eq!((report.findings[0].reach.services as usize, report.findings[0].reach.entries), (MANY, 1));
    assert_eq!(report.findings[0].places.len(), MANY);
}

#[test]
fn a_cycle_group_is_one_finding_whatever_its_size() {
    let services = lines(|number| {
        let (next, far) = ((number + 1) % MANY, number * 7 % MANY);
        format!("  s{number}: {{ needs: {{ a: {{ service: s{next} }}, b: {{ service: s{far} }} }} }}")
    });
    let (_, report) =
        audited(&format!("services:\n{services}entries:\n  e: {{ needs: {{ x: {{ service: s0 }} }} }}\n"));
    assert_eq!(report.findings.len(), 1);
    assert_eq!(report.findings[0].rule.name, "service-cycle");
    assert_eq!(report.findings[0].reach.services as usize, MANY);
}

#[test]
fn what_each_of_many_faults_takes_down_stays_within_a_budget() {
    // Every service of a long chain has a fault of its own: exact numbers would be quadratic work.
    let services = lines(|number| {
        format!(
            "  s{number}: {{ needs: {{ next: {{ service: s{}, optional: true }}, x: {{ service: gone.{number} }} }} }}",
            number + 1
        )
    });
    let (_, report) =
        audited(&format!("services:\n{services}entries:\n  e: {{ needs: {{ x: {{ service: s0 }} }} }}\n"));
    assert_eq!(report.findings.len(), MANY);
    let exact = report.findings.iter().filter(|finding| !finding.reach.at_least);
    assert!(exact.clone().count() > 100);
    for finding in exact {
        let number: u32 = finding.subject["gone.".len()..].parse().unwrap();
        assert_eq!((finding.reach.services, finding.reach.entries), (number + 1, 1), "{}", finding.subject);
    }
}
