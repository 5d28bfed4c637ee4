//! Cycles and chains as the audit tells them.

use corvant_core::audit::{Options, audit};
use corvant_core::finding::Finding;
use corvant_core::wiring::Wiring;
use std::fmt::Write;

#[test]
fn a_chain_of_a_hundred_thousand_is_no_matter_of_depth() {
    let count = 100_000;
    let edges: Vec<(usize, usize)> = (1..count).map(|from| (from - 1, from)).collect();
    let wiring = wired_fast(count, &edges);
    let report = audit(&wiring, &Options::default());
    assert_eq!(report.findings.len(), 0);
}
#[test]
fn a_cycle_of_a_hundred_thousand_is_one_finding() {
    let count = 100_000;
    let edges: Vec<(usize, usize)> = (0..count).map(|from| (from, (from + 1) % count)).collect();
    let wiring = wired_fast(count, &edges);
    let report = audit(&wiring, &Options::default());
    assert_eq!(report.findings.len(), 1);
    assert!(report.findings[0].message.starts_with("100000 services need one another in a cycle"));
}
/// As `wired`, for edges that leave each service at most once and in order.
fn wired_fast(count: usize, edges: &[(usize, usize)]) -> Wiring {
    let mut text = "corvant: 1\nmodule: m\nservices:\n".to_owned();
    let mut edges = edges.iter().peekable();
    for from in 0..count {
        match edges.next_if(|(start, _)| *start == from) {
            Some((_, to)) => {
                writeln!(text, "  s{from:03}: {{ needs: {{ n: {{ service: s{to:03} }} }} }}").unwrap();
            }
            None => writeln!(text, "  s{from:03}: {{}}").unwrap(),
        }
    }
    text.push_str("entries:\n  e: { needs: { x: { service: s000 } } }\n");
    corvant_testing::wiring([("m.wiring.yaml", text.as_str())])
}
#[test]
fn lazy_needs_part_start_up_from_first_use() {
    let text = "corvant: 1\nmodule: m\nservices:\n  now: { needs: { x: { service: gone } } }\n  later: { needs: { x: { service: gone-too, lazy: true } } }\n\
                providers:\n  p: { start: { needs: { a: { service: now }, b: { service: later } } } }\n";
    let wiring = corvant_testing::wiring([("m.wiring.yaml", text)]);
    let report = audit(&wiring, &Options::default());
    let starts: Vec<(&str, bool)> = report
        .findings
        .iter()
        .map(|finding| (finding.subject.as_str(), !finding.reach.start_up.is_empty()))
        .collect();
    assert_eq!(starts, [("gone", true), ("gone-too", false)]);
}
#[test]
fn a_cycle_through_a_tag_is_opened_by_the_need_on_the_tag() {
    let text = "corvant: 1\nmodule: m\nservices:\n  board: { needs: { rules: { tag: rule } } }\n  one: { tags: [rule], needs: { b: { service: board } } }\n  \
                two: { tags: [rule], needs: { b: { service: board } } }\nentries: { e: { needs: { b: { service: board } } } }\n";
    let wiring = corvant_testing::wiring([("m.wiring.yaml", text)]);
    let report = audit(&wiring, &Options::default());
    let finding = &report.findings[0];
    assert!(
        finding.message.ends_with("the shortest cycle in a group of 3 services with 2 cycles"),
        "{}",
        finding.message
    );
    assert_eq!(
        titles(finding),
        ["make `rules` of board (m.wiring.yaml:4) `lazy: true`: that opens all of it"]
    );
}
#[test]
fn a_factory_is_not_made_lazy() {
    let text = "corvant: 1\nmodule: m\nservices:\n  factory: { needs: { made: { service: made } } }\n  \
                made: { built-by: { service: factory, method: make } }\nentries: { e: { needs: { m: { service: made } } } }\n";
    let wiring = corvant_testing::wiring([("m.wiring.yaml", text)]);
    let report = audit(&wiring, &Options::default());
    assert_eq!(
        titles(&report.findings[0]),
        ["make `made` of factory (m.wiring.yaml:4) `lazy: true`: that opens all of it"]
    );
}
fn titles(finding: &Finding) -> Vec<&str> {
    finding.fixes.iter().map(|fix| fix.title.as_str()).collect()
}
