//! What is laid out of a revision beside a state that was read before.

#![cfg(unix)]

use corvant_read::revision::{Repository, Twin};
use corvant_read::workspace::{self, Beside};
use rstest::rstest;
use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;

fn git(root: &Path, arguments: &[&str]) {
    let who = ["-c", "user.name=Velmora", "-c", "user.email=depot@velmora.example"];
    let status = Command::new("git").args(who).args(arguments).current_dir(root).status().unwrap();
    assert!(status.success(), "{arguments:?}");
}

fn commit(root: &Path, message: &str) {
    git(root, &["init", "--quiet"]);
    git(root, &["add", "--all"]);
    git(root, &["commit", "--quiet", "-m", message]);
}

fn manifest(module: &str) -> String {
    format!("corvant: 1\nmodule: {module}\nservices: {{ {module}.one: {{}} }}\n")
}

/// The sizes of what is laid out, by module, and the texts that stand in its stead.
fn laid_out(
    repository: &Repository,
    name: &str,
    twin: Option<Twin<'_>>,
) -> ([u64; 3], Vec<(String, String)>) {
    let revision = repository.revision(name).unwrap();
    let laid_out = repository.check_out(&repository.list(&revision).unwrap(), twin).unwrap();
    let size = |module: &str| {
        fs::metadata(laid_out.root.join(format!("{module}.wiring.yaml"))).map_or(0, |file| file.len())
    };
    let instead = laid_out.instead.iter().map(|(path, source)| (path.clone(), source.text.clone()));
    (MODULES.map(size), instead.collect())
}

const MODULES: [&str; 3] = ["depot", "signals", "track"];

/// Of what both have there is but the name, and the text in its stead; not where a link leads to it. Where no state was read
/// before it is what lies in the folder.
#[rstest]
#[case::beside_a_state(true)]
#[case::beside_a_folder(false)]
fn what_another_state_has_is_not_taken_out_again(#[case] is_read: bool) {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    for module in MODULES {
        fs::write(root.join(format!("{module}.wiring.yaml")), manifest(module)).unwrap();
    }
    commit(root, "first");
    symlink("signals.wiring.yaml", root.join("also.yaml")).unwrap();
    commit(root, "a link");
    symlink("also.yaml/../signals.wiring.yaml", root.join("round.yaml")).unwrap();
    commit(root, "a link that turns round");
    fs::write(root.join("track.wiring.yaml"), manifest("rails")).unwrap();
    let now = workspace::read(root).unwrap();
    let repository = Repository::of(root).unwrap();
    let twin = is_read.then_some(Twin { workspace: &now, laid_out: None });
    let known = |module: &str| (format!("{module}.wiring.yaml"), manifest(module));
    let [depot, signals, track] = MODULES.map(|module| manifest(module).len() as u64);
    let (sizes, mut instead) = laid_out(&repository, "HEAD~2", twin);
    instead.sort();
    assert_eq!((sizes, instead), ([0, 0, track], vec![known("depot"), known("signals")]));
    assert_eq!(laid_out(&repository, "HEAD~1", twin), ([0, signals, track], vec![known("depot")]));
    assert_eq!(laid_out(&repository, "HEAD", twin), ([depot, signals, track], vec![]));
}

/// What lies in the folder and is stored otherwise, or is no text, is taken out.
#[test]
fn what_lies_in_the_folder_is_known_by_its_bytes() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    let path = |module: &str| root.join(format!("{module}.wiring.yaml"));
    fs::write(path("depot"), format!("\u{feff}{}", manifest("depot"))).unwrap();
    fs::write(path("signals"), manifest("signals")).unwrap();
    fs::write(path("track"), b"corvant: 1 # \xff\n").unwrap();
    commit(root, "first");
    fs::remove_file(path("signals")).unwrap();
    // A pipe that nobody writes to would be waited for without end.
    assert!(Command::new("mkfifo").arg(path("signals")).status().unwrap().success());
    let repository = Repository::of(root).unwrap();
    let sizes = [manifest("depot").len() as u64 + 3, manifest("signals").len() as u64, 15];
    assert_eq!(laid_out(&repository, "HEAD", None), (sizes, vec![]));
}

/// The workspace file may be a link; what it leads to says who reads what, wherever it lies.
#[test]
fn a_workspace_file_that_is_a_link_counts() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    fs::create_dir(root.join("settings")).unwrap();
    fs::write(root.join("settings/network.toml"), "[workspace]\nexclude = [\"track.wiring.yaml\"]\n")
        .unwrap();
    symlink("settings/network.toml", root.join("corvant.toml")).unwrap();
    for module in MODULES {
        fs::write(root.join(format!("{module}.wiring.yaml")), manifest(module)).unwrap();
    }
    commit(root, "first");
    let repository = Repository::of(root).unwrap();
    let listed = repository.list(&repository.revision("HEAD").unwrap()).unwrap();
    let laid_out = repository.check_out(&listed, None).unwrap();
    let beside = Beside { instead: Some(&laid_out.instead), ..Beside::default() };
    let read = workspace::read_beside(&laid_out.root, beside).unwrap();
    let paths: Vec<&str> = read.manifests.iter().map(|manifest| manifest.source.path.as_str()).collect();
    assert_eq!(paths, ["depot.wiring.yaml", "signals.wiring.yaml", "corvant.toml"]);
}
