//! The same workspace gives the same bytes on any number of threads, in whatever order its folders list.

mod support;

use corvant_testing::corpus::{File, Made, Random};
use rstest::rstest;
use std::fs;
use std::path::Path;
use support::{folder, run};
use tempfile::TempDir;

/// A folder in which the files were made in an order of their own, which is the order that folders list in
/// on many file systems.
fn written(files: &[File], shuffle: u64) -> TempDir {
    let folder = TempDir::new().unwrap();
    let mut order: Vec<&File> = files.iter().collect();
    let mut random = Random::new(shuffle);
    for last in (1..order.len()).rev() {
        order.swap(last, random.below(last + 1));
    }
    for file in order {
        let path = folder.path().join(&file.path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, &file.text).unwrap();
    }
    folder
}

fn audit(folder: &Path, format: &str, threads: &str) -> String {
    let asked = ["--format", format, "--today", "2026-11-01", "--no-cache"];
    let outcome = run(&[&["audit", "--threads", threads], &asked[..]].concat(), folder);
    assert_eq!((outcome.status, outcome.stderr.as_str()), (1, ""));
    outcome.stdout
}

#[test]
fn ten_thousand_services_with_faults_and_stages_give_the_same_bytes() {
    let made = Made { services: 10_000, faults: 1, stages: 4, seed: 7 };
    let files: Vec<File> = made.files().collect();
    let (one, other) = (written(&files, 1), written(&files, 2));
    for format in ["json", "text"] {
        let expected = audit(one.path(), format, "1");
        assert!(expected.len() > 10_000, "there is something to compare");
        for (folder, threads) in [(&one, "2"), (&one, "8"), (&other, "1"), (&other, "8")] {
            assert!(
                audit(folder.path(), format, threads) == expected,
                "{format} on {threads} threads differs"
            );
        }
    }
}

#[rstest]
#[case::none("0")]
#[case::too_many("1025")]
#[case::no_number("all")]
fn a_number_of_threads_that_cannot_be_is_a_wrong_call(#[case] threads: &str) {
    let folder = folder(&[("web.wiring.yaml", support::CLEAN)]);
    let outcome = run(&["audit", "--threads", threads], folder.path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""));
    assert!(outcome.stderr.contains("--threads"), "{}", outcome.stderr);
}

#[test]
fn nothing_is_drawn_where_nobody_looks() {
    let folder = folder(&[("web.wiring.yaml", support::CLEAN)]);
    let outcome = run(&["--threads", "2", "audit"], folder.path());
    assert_eq!((outcome.status, outcome.stderr.as_str()), (0, ""));
}
