//! Shapes are what they are called, at any size.

use corvant_core::audit::{Options, Report, audit};
use corvant_core::wiring::Wiring;
use corvant_testing::shapes::Shape;
use rstest::rstest;
use std::collections::BTreeMap;

fn audited(shape: Shape, size: usize) -> (Wiring, Report) {
    let files: Vec<(String, String)> = shape.files(size).collect();
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let report = audit(&wiring, &Options::default());
    (wiring, report)
}

fn by_rule(report: &Report) -> BTreeMap<&'static str, usize> {
    let mut rules = BTreeMap::new();
    for finding in &report.findings {
        *rules.entry(finding.rule.name).or_default() += 1;
    }
    rules
}

#[rstest]
#[case::chain(Shape::Chain, &[])]
#[case::cycle_group(Shape::CycleGroup, &[("service-cycle", 1)])]
#[case::tag(Shape::Tag, &[("service-cycle", 1)])]
#[case::contract(Shape::Contract, &[("ambiguous-implementation", 1), ("unused-service", 199)])]
#[case::missing(Shape::Missing, &[("missing-service", 100), ("unused-service", 99)])]
#[case::aliases(Shape::Aliases, &[])]
#[case::modules(Shape::Modules, &[])]
#[case::one_file(Shape::OneFile, &[])]
#[case::tiny_files(Shape::TinyFiles, &[])]
#[case::many_needs(Shape::ManyNeeds, &[])]
#[case::stages(Shape::Stages, &[])]
fn a_shape_has_the_findings_that_it_is_made_for(#[case] shape: Shape, #[case] expected: &[(&str, usize)]) {
    let (_, report) = audited(shape, 100);
    let expected: BTreeMap<&str, usize> = expected.iter().copied().collect();
    assert_eq!(by_rule(&report), expected);
}

#[rstest]
#[case::chain(Shape::Chain, 300, 300, 15)]
#[case::contract(Shape::Contract, 100, 200, 5)]
#[case::aliases(Shape::Aliases, 100, 101, 6)]
#[case::modules(Shape::Modules, 50, 50, 50)]
#[case::one_file(Shape::OneFile, 500, 500, 1)]
#[case::tiny_files(Shape::TinyFiles, 120, 120, 120)]
#[case::many_needs(Shape::ManyNeeds, 60, 61, 4)]
fn a_shape_is_as_large_as_asked_for(
    #[case] shape: Shape,
    #[case] size: usize,
    #[case] services: usize,
    #[case] files: usize,
) {
    let (wiring, _) = audited(shape, size);
    assert_eq!((wiring.facts.services.len(), wiring.sources.len()), (services, files));
}

#[test]
fn a_cycle_group_holds_all_and_a_chain_is_as_long_as_it_says() {
    let (_, report) = audited(Shape::CycleGroup, 60);
    assert!(report.findings[0].message.contains("60 services"), "{}", report.findings[0].message);
    let (wiring, _) = audited(Shape::Chain, 60);
    let needs: Vec<usize> = wiring.facts.services.iter().map(|service| service.needs.len()).collect();
    assert_eq!((needs.iter().sum::<usize>(), needs.iter().max()), (59, Some(&1)));
}

#[test]
fn each_missing_name_is_close_to_one_that_is_there() {
    let (_, report) = audited(Shape::Missing, 100);
    let missing = report.findings.iter().filter(|finding| finding.rule.name == "missing-service");
    let helped = missing.filter(|finding| finding.fixes[0].title.starts_with("write ")).count();
    assert_eq!(helped, 100);
}

#[test]
fn modules_say_what_they_use_and_use_all_of_it() {
    let (wiring, report) = audited(Shape::Modules, 130);
    assert_eq!(wiring.modules.len(), 130);
    // The first hundred use all before them, the rest the hundred before them.
    assert_eq!(wiring.facts.uses.len(), (0..100).sum::<usize>() + 30 * 100);
    assert!(report.findings.is_empty());
}

#[test]
fn fifty_stages_are_fifty() {
    let (wiring, _) = audited(Shape::Stages, 1_000);
    assert_eq!(wiring.stages.len(), 50);
}

#[test]
fn titles_say_the_size_and_no_two_are_the_same() {
    let titles: Vec<String> = Shape::ALL.iter().map(|&(shape, size)| shape.title(size)).collect();
    for (title, (_, size)) in titles.iter().zip(Shape::ALL) {
        assert!(title.contains(&size.to_string()), "{title}");
    }
    let distinct: std::collections::BTreeSet<&String> = titles.iter().collect();
    assert_eq!(distinct.len(), titles.len());
}

#[test]
fn the_same_size_makes_the_same_text() {
    for (shape, _) in Shape::ALL {
        assert_eq!(shape.files(80).collect::<Vec<_>>(), shape.files(80).collect::<Vec<_>>(), "{shape:?}");
    }
}
