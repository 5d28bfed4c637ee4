//! A workspace is the same from a folder, where threads read a few files at a time, as from texts in memory.

use corvant_core::audit::{Options, audit};
use corvant_core::wiring::Wiring;
use corvant_read::workspace::{self, Workspace};
use corvant_testing::corpus::Made;
use corvant_testing::house::house;
use corvant_testing::tangle::tangle;
use rstest::rstest;
use std::fmt::Write;
use std::fs;

fn linked(workspace: Workspace) -> Wiring {
    workspace.link().0
}

/// All that a report says, with every name by its text.
fn said(wiring: &Wiring) -> String {
    let report = audit(wiring, &Options::default());
    let mut said = format!("{:?} {:?}\n", report.summary, report.blind_spots);
    for finding in &report.findings {
        let stages = finding.holds.iter().flat_map(|holds| &holds.stages).map(|&stage| wiring.text(stage));
        let stages: Vec<&str> = stages.collect();
        writeln!(said, "{} {} {stages:?} {}", finding.rule.name, finding.subject, finding.message).unwrap();
        writeln!(said, "{:?} {:?} {:?}", finding.fixes, finding.places, finding.reach).unwrap();
    }
    for (header, source) in wiring.headers.iter().zip(wiring.sources.iter()) {
        let names = [header.module.map(|module| module.name), header.reader];
        let names: Vec<&str> = names.into_iter().flatten().map(|name| wiring.text(name)).collect();
        writeln!(said, "{} {names:?}", source.path).unwrap();
    }
    said
}

fn is_the_same_from_a_folder(files: &[(String, String)]) {
    let folder = tempfile::tempdir().unwrap();
    for (path, text) in files {
        let path = folder.path().join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let expected = said(&linked(workspace::from_texts(texts).unwrap()));
    for threads in [1, 3] {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        let read = pool.install(|| workspace::read(folder.path())).unwrap();
        assert_eq!(said(&linked(read)), expected);
    }
}

#[test]
fn whatever_can_be_said() {
    (0..60).for_each(|seed| is_the_same_from_a_folder(&tangle(seed)));
}

#[rstest]
#[case::clean(Made { services: 4_000, faults: 0, stages: 0, seed: 1 })]
#[case::faulty(Made { services: 4_000, faults: 2, stages: 3, seed: 2 })]
fn many_files(#[case] made: Made) {
    let mut files: Vec<_> = made.files().map(|file| (file.path, file.text)).collect();
    // Names in what cannot be read are names too.
    files.push(("broken.wiring.yaml".to_owned(), files[0].1.replace("services:", "services: {")));
    is_the_same_from_a_folder(&files);
}

#[test]
fn a_house_format() {
    let files = house(Made { services: 400, faults: 0, stages: 0, seed: 1 });
    is_the_same_from_a_folder(&files.map(|file| (file.path, file.text)).collect::<Vec<_>>());
}
