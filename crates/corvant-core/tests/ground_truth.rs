//! Made workspaces as ground truth: a clean one is silent, and of a faulty one each fault is found and
//! nothing else.

use corvant_core::audit::{Options, audit};
use corvant_testing::corpus::{File, corpus};
use rstest::rstest;

fn found(files: &[File]) -> Vec<(&'static str, String)> {
    let wiring = corvant_testing::wiring(files.iter().map(|file| (file.path.as_str(), file.text.as_str())));
    let findings = audit(&wiring, &Options::default()).findings;
    let mut found: Vec<_> =
        findings.into_iter().map(|finding| (finding.rule.name, finding.subject)).collect();
    found.sort();
    found
}

#[rstest]
#[case(20, 1)]
#[case(200, 2)]
#[case(2_000, 3)]
fn a_clean_workspace_is_silent(#[case] services: usize, #[case] seed: u64) {
    let files: Vec<File> = corpus(services, false, seed).collect();
    assert_eq!(found(&files), []);
}

#[test]
fn every_fault_is_found_and_nothing_else() {
    let mut kinds = std::collections::BTreeSet::new();
    for seed in 0..200 {
        let files: Vec<File> = corpus(400, true, seed).collect();
        let mut expected: Vec<_> = files.iter().filter_map(|file| file.expected.clone()).collect();
        expected.sort();
        kinds.extend(expected.iter().map(|(rule, _)| *rule));
        assert_eq!(found(&files), expected, "seed {seed}");
    }
    assert!(kinds.len() >= 34, "{}: {kinds:?}", kinds.len());
}
