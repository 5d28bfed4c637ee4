//! The demo as ground truth: every fault is found, alone and with the others, and nothing else is.

use super::faults::{FAULTS, Fault};
use super::{corrected_files, files};
use corvant_core::audit::{Options, audit};

fn found(files: &[(&str, String)]) -> Vec<(&'static str, String)> {
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (*path, text.as_str())));
    let findings = audit(&wiring, &Options::default()).findings;
    let mut found: Vec<_> =
        findings.into_iter().map(|finding| (finding.rule.name, finding.subject)).collect();
    found.sort();
    found
}

fn with(fault: &Fault) -> Vec<(&'static str, String)> {
    let edit = |(path, text): (&'static str, &str)| {
        let is_here = path.ends_with(fault.file);
        (path, if is_here { text.replacen(fault.corrected, fault.faulty, 1) } else { text.to_owned() })
    };
    corrected_files().map(edit).collect()
}

#[test]
fn the_corrected_network_is_silent() {
    assert_eq!(found(&files(true)), []);
}

#[test]
fn every_fault_is_one_edit_and_found_alone() {
    for fault in FAULTS {
        let (_, text) = corrected_files().find(|(path, _)| path.ends_with(fault.file)).unwrap();
        assert_eq!(text.matches(fault.corrected).count(), 1, "{}", fault.corrected);
        assert_eq!(found(&with(fault)), [(fault.found.0, fault.found.1.to_owned())]);
    }
}

#[test]
fn all_faults_together_are_found_and_nothing_else() {
    let mut expected: Vec<_> = FAULTS.iter().map(|fault| (fault.found.0, fault.found.1.to_owned())).collect();
    expected.sort();
    assert_eq!(found(&files(false)), expected);
}

#[test]
fn the_network_is_large_enough_to_be_real() {
    let files = files(true);
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (*path, text.as_str())));
    assert_eq!(wiring.modules.len(), 10);
    assert!(wiring.facts.services.len() >= 60, "{}", wiring.facts.services.len());
}
