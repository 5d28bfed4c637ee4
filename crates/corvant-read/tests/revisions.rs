//! What is laid out of a revision beside a state that was read before.

#![cfg(unix)]

use corvant_read::revision::{Repository, Twin};
use corvant_read::workspace;
use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;

fn git(root: &Path, arguments: &[&str]) {
    let who = ["-c", "user.name=Velmora", "-c", "user.email=depot@velmora.example"];
    let status = Command::new("git").args(who).args(arguments).current_dir(root).status().unwrap();
    assert!(status.success(), "{arguments:?}");
}

fn manifest(module: &str) -> String {
    format!("corvant: 1\nmodule: {module}\nservices: {{ {module}.one: {{}} }}\n")
}

/// Of what both have there is but the name, and the text in its stead; not where a link leads to it.
#[test]
fn what_another_state_has_is_not_taken_out_again() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    for module in ["depot", "track"] {
        fs::write(root.join(format!("{module}.wiring.yaml")), manifest(module)).unwrap();
    }
    git(root, &["init", "--quiet"]);
    git(root, &["add", "--all"]);
    git(root, &["commit", "--quiet", "-m", "first"]);
    symlink("depot.wiring.yaml", root.join("also.yaml")).unwrap();
    git(root, &["add", "--all"]);
    git(root, &["commit", "--quiet", "-m", "a link"]);
    fs::write(root.join("track.wiring.yaml"), manifest("rails")).unwrap();
    let now = workspace::read(root).unwrap();
    let repository = Repository::of(root).unwrap();
    let sizes = |name: &str| {
        let revision = repository.revision(name).unwrap();
        let twin = Twin { workspace: &now, laid_out: None };
        let laid_out = repository.check_out(&revision, Some(twin)).unwrap();
        let size = |module: &str| {
            let path = laid_out.root.join(format!("{module}.wiring.yaml"));
            fs::metadata(path).unwrap().len() as usize
        };
        (size("depot"), size("track"), laid_out.instead)
    };
    let whole = (manifest("depot").len(), manifest("track").len());
    let (depot, track, instead) = sizes("HEAD~1");
    assert_eq!((depot, track), (0, whole.1));
    assert_eq!(
        instead.into_iter().collect::<Vec<_>>(),
        [("depot.wiring.yaml".to_owned(), manifest("depot"))]
    );
    let (depot, track, instead) = sizes("HEAD");
    assert_eq!((depot, track, instead.len()), (whole.0, whole.1, 0));
}
