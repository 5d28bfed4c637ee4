//! The made workspaces are what they say they are.

use corvant_testing::corpus::{File, Random, SERVICES, corpus};
use std::collections::BTreeSet;

#[test]
fn the_same_seed_makes_the_same_text_and_another_makes_another() {
    let texts = |seed| corpus(400, true, seed).map(|file| file.text).collect::<Vec<_>>();
    assert_eq!(texts(1), texts(1));
    assert_ne!(texts(1), texts(2));
}

#[test]
fn a_clean_workspace_expects_nothing_and_a_faulty_one_does() {
    assert!(corpus(2_000, false, 5).all(|file| file.expected.is_empty()));
    let faulty: Vec<File> = corpus(2_000, true, 5).collect();
    let expected = faulty.iter().filter(|file| !file.expected.is_empty()).count();
    assert!((4..30).contains(&expected), "{expected} of {} files", faulty.len());
}

#[test]
fn it_has_about_as_many_services_as_asked_for_and_no_path_twice() {
    let files: Vec<File> = corpus(1_000, false, 1).collect();
    assert_eq!(files.len(), 1_000 / SERVICES);
    let services: usize = files.iter().map(|file| file.text.matches("    type: ").count()).sum();
    assert_eq!(services, 1_000);
    let paths: BTreeSet<&str> = files.iter().map(|file| file.path.as_str()).collect();
    assert_eq!(paths.len(), files.len());
}

#[test]
fn random_numbers_stay_below_their_bound_and_reach_all_of_it() {
    let mut random = Random::new(3);
    let seen: BTreeSet<usize> = (0..500).map(|_| random.below(10)).collect();
    assert_eq!(seen, (0..10).collect());
}

#[test]
#[should_panic(expected = "found and not expected")]
fn a_finding_without_a_mark_fails() {
    corvant_testing::expect(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries:\n  e: { needs: { x: { service: gone } } }\n",
    );
}

#[test]
#[should_panic(expected = "expected and not found")]
fn a_mark_without_a_finding_fails() {
    corvant_testing::expect("//- a.wiring.yaml\ncorvant: 1\nmodule: a\nabout: x\n missing-service gone\n");
}

#[test]
#[should_panic(expected = "found and not expected")]
fn a_mark_under_other_text_fails() {
    corvant_testing::expect(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries:\n  e: { needs: { x: { service: gone } } }\n       ^^^^^ missing-service gone\n",
    );
}
