//! The built program, driven on files in a temporary folder.
#![allow(dead_code, reason = "each test program uses a part")]

use assert_cmd::Command;
use std::path::Path;
use std::{fs, io};
use tempfile::TempDir;

/// What the program did.
#[derive(Debug)]
pub(crate) struct Outcome {
    pub(crate) status: i32,
    pub(crate) stdout: String,
    pub(crate) stderr: String,
}

impl Outcome {
    /// The JSON report on standard output.
    pub(crate) fn json(&self) -> serde_json::Value {
        serde_json::from_str(&self.stdout).unwrap_or_else(|error| panic!("{error}: {self:#?}"))
    }

    /// Rule and subject of every finding of the text report.
    pub(crate) fn subjects_of_text(&self) -> Vec<&str> {
        let heads = self.stdout.lines().filter_map(|line| line.split_once("  "));
        heads.filter(|(head, _)| head.contains(" of ")).map(|(_, subject)| subject).collect()
    }

    /// Rule and subject of every finding of the JSON report.
    pub(crate) fn subjects(&self) -> Vec<(String, String)> {
        let report = self.json();
        let text = |value: &serde_json::Value| value.as_str().unwrap().to_owned();
        let findings = report["findings"].as_array().unwrap();
        findings.iter().map(|finding| (text(&finding["rule"]), text(&finding["subject"]))).collect()
    }
}

/// A command that runs the program, with nothing of the environment that changes what it writes.
pub(crate) fn program() -> Command {
    let mut command = Command::cargo_bin("corvant").unwrap();
    for name in ["NO_COLOR", "CLICOLOR", "CLICOLOR_FORCE", "COLORTERM", "COLUMNS"] {
        command.env_remove(name);
    }
    command.env("XDG_CACHE_HOME", env!("CARGO_TARGET_TMPDIR"));
    command
}

/// Runs the program to its end.
pub(crate) fn run(arguments: &[&str], folder: &Path) -> Outcome {
    outcome(program().args(arguments).current_dir(folder))
}

/// Runs a command to its end.
pub(crate) fn outcome(command: &mut Command) -> Outcome {
    let output = command.output().unwrap();
    Outcome {
        status: output.status.code().expect("the program ends by itself"),
        stdout: String::from_utf8(output.stdout).unwrap(),
        stderr: String::from_utf8(output.stderr).unwrap(),
    }
}

/// A temporary folder with the given files.
pub(crate) fn folder(files: &[(&str, &str)]) -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (path, text) in files {
        write(folder.path(), path, text.as_bytes()).unwrap();
    }
    folder
}

/// Writes a file below a folder, with the folders it needs.
pub(crate) fn write(folder: &Path, path: &str, content: &[u8]) -> io::Result<()> {
    let path = folder.join(path);
    fs::create_dir_all(path.parent().unwrap())?;
    fs::write(path, content)
}

/// A manifest with one fault of its own: a need on a service that is not defined.
pub(crate) const FAULTY: &str =
    "corvant: 1\nmodule: web\nentries:\n  map: { needs: { tiles: { service: web.tiles } } }\n";

/// A manifest without faults.
pub(crate) const CLEAN: &str = "corvant: 1\nmodule: web\nservices:\n  web.tiles: {}\nentries:\n  map: { needs: { tiles: { service: web.tiles } } }\n";
