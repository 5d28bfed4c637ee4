//! What comparing two revisions costs, beside one audit.

use crate::bench::{audit_of, build, median, process};
use crate::corpus;
use corvant_testing::corpus::Made;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::{fs, io};

/// One file in so many is another in the second revision.
const CHANGED: usize = 100;

/// Audits, compares two revisions, and audits what is new since the first, in turn.
pub(crate) fn run(services: usize, runs: usize) -> io::Result<()> {
    build()?;
    let folder = PathBuf::from(format!("target/corpora/{services}-history"));
    if !folder.join(".git").exists() {
        history(&folder, services)?;
    }
    let program = Path::new("target/release/corvant").canonicalize()?;
    let call = |arguments: &[&str]| {
        let mut command = Command::new(&program);
        process(command.args(arguments).args(["--quiet", "--fail-on", "never"]).current_dir(&folder))
    };
    let kept = std::path::absolute("target/corpora/kept")?.display().to_string();
    let asked: [(&str, &[&str]); 4] = [
        ("compare of two revisions", &["compare", "HEAD~1", "HEAD", "--no-cache"]),
        ("compare with a revision", &["compare", "HEAD~1", "--no-cache"]),
        ("--since", &["audit", "--since", "HEAD~1", "--no-cache"]),
        ("--since once more", &["audit", "--since", "HEAD~1", "--cache", &kept]),
    ];
    let (mut audits, mut ratios) = (Vec::new(), vec![Vec::new(); asked.len()]);
    for number in 0..=runs {
        let audit = process(audit_of(&folder).arg("--quiet"))?.time.as_secs_f64();
        let times: Vec<f64> = asked
            .iter()
            .map(|(_, call_it)| Ok(call(call_it)?.time.as_secs_f64()))
            .collect::<io::Result<_>>()?;
        // The first run of each warms the cache.
        if number > 0 {
            audits.push(audit);
            ratios.iter_mut().zip(times).for_each(|(ratios, time)| ratios.push(time / audit));
        }
    }
    let audit = median(audits.into_iter());
    println!("{services} services, one file in {CHANGED} changed: audit {audit:.2} s; in audits:");
    for ((what, _), ratios) in asked.iter().zip(ratios) {
        println!("  {what:26} {:.2}", median(ratios.into_iter()));
    }
    Ok(())
}

/// A repository with two revisions.
fn history(folder: &Path, services: usize) -> io::Result<()> {
    corpus::write(folder, Made { services, faults: 0, stages: 0, seed: 1 }.files())?;
    git(folder, &["init", "--quiet", "."])?;
    commit(folder, "before")?;
    let mut manifests: Vec<PathBuf> = Vec::new();
    for module in fs::read_dir(folder.join("modules"))? {
        for file in fs::read_dir(module?.path())? {
            manifests.push(file?.path());
        }
    }
    manifests.sort();
    for path in manifests.iter().step_by(CHANGED) {
        let text = fs::read_to_string(path)?;
        fs::write(path, text.replacen("type: velmora", "type: velmora.other", 1))?;
    }
    commit(folder, "after")
}

fn commit(folder: &Path, message: &str) -> io::Result<()> {
    git(folder, &["add", "--all"])?;
    git(
        folder,
        &[
            "-c",
            "user.name=desk",
            "-c",
            "user.email=desk@velmora.example",
            "commit",
            "--quiet",
            "-m",
            message,
        ],
    )
}

fn git(folder: &Path, arguments: &[&str]) -> io::Result<()> {
    let status = Command::new("git").args(arguments).current_dir(folder).status()?;
    if status.success() { Ok(()) } else { Err(io::Error::other("the history is not made")) }
}
