//! Made workspaces as ground truth: a clean one is silent, and of a faulty one each fault is found and
//! nothing else, in the stages in which it holds.

use corvant_core::audit::{Options, audit};
use corvant_testing::corpus::{Expected, File, Made};
use rstest::rstest;
use std::collections::BTreeSet;

fn found(files: &[File]) -> Vec<Expected> {
    let wiring = corvant_testing::wiring(files.iter().map(|file| (file.path.as_str(), file.text.as_str())));
    let findings = audit(&wiring, &Options::default()).findings;
    let found = findings.into_iter().map(|finding| Expected {
        rule: finding.rule.name,
        subject: finding.subject,
        holds: finding.holds.map(|holds| {
            let none = holds.none_chosen.then(|| "-".to_owned());
            let stages = holds.stages.iter().map(|&stage| wiring.text(stage).to_owned());
            none.into_iter().chain(stages).collect()
        }),
    });
    let mut found: Vec<_> = found.collect();
    found.sort();
    found
}

#[rstest]
#[case(20, 0, 1)]
#[case(200, 3, 2)]
#[case(2_000, 0, 3)]
#[case(2_000, 20, 4)]
fn a_clean_workspace_is_silent(#[case] services: usize, #[case] stages: usize, #[case] seed: u64) {
    let files: Vec<File> = Made { services, stages, seed, faults: 0 }.files().collect();
    assert_eq!(found(&files), []);
}

/// One fault in a file; then up to five, that meet in one service, one module or one stage.
#[rstest]
#[case::single(0..200, 1, 0, 52)]
#[case::met(200..500, 5, 3, 52)]
#[case::crowded(500..600, 12, 2, 52)]
fn every_fault_is_found_and_nothing_else(
    #[case] seeds: std::ops::Range<u64>,
    #[case] faults: usize,
    #[case] stages: usize,
    #[case] rules: usize,
) {
    let (mut seen, mut met) = (BTreeSet::new(), 0);
    for seed in seeds {
        let files: Vec<File> = Made { services: 400, faults, stages, seed }.files().collect();
        let mut expected: Vec<Expected> = files.iter().flat_map(|file| file.expected.clone()).collect();
        expected.sort();
        seen.extend(expected.iter().map(|expected| expected.rule));
        met += files.iter().filter(|file| file.expected.len() > 1).count();
        let found = found(&files);
        let missing: Vec<_> = expected.iter().filter(|expected| !found.contains(expected)).collect();
        let extra: Vec<_> = found.iter().filter(|found| !expected.contains(found)).collect();
        assert!(
            missing.is_empty() && extra.is_empty(),
            "seed {seed}: missing {missing:#?}, extra {extra:#?}"
        );
        assert_eq!(found, expected, "seed {seed}");
    }
    assert!(seen.len() >= rules, "{}: {seen:?}", seen.len());
    assert!(faults == 1 || met > 100, "{met}");
}
