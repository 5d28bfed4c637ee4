//! A year of the demo workspace as a repository: what it was like before the corrected network, and the faults last.

use super::files;
use crate::exit::CommandError;
use crate::files as users_files;
use std::path::Path;
use std::process::Command;

/// A change to the network, with the texts that it found; what it makes of them stands in the corrected network.
struct Step {
    day: &'static str,
    message: &'static str,
    /// The end of a path, the text there now, and what stood there before.
    edits: &'static [(&'static str, &'static str, &'static str)],
}

/// All changes, the oldest first; the corrected network is what the last leaves behind.
const STEPS: [Step; 4] = [
    Step { day: "2026-01-12", message: "The network as it opens", edits: &[] },
    Step {
        day: "2026-03-29",
        message: "The spring timetable looks further ahead",
        edits: &[("timetable.wiring.yaml", "timetable.horizon_minutes: 90", "timetable.horizon_minutes: 60")],
    },
    Step {
        day: "2026-06-15",
        message: "Call the washing hall what everybody calls it",
        edits: &[("depot.wiring.yaml", "  depot.washing:", "  depot.car-wash:")],
    },
    Step {
        day: "2026-09-21",
        message: "Wash before sanding: leaves are falling",
        edits: &[
            ("depot.wiring.yaml", "{ order: 1,", "{ order: 9,"),
            ("depot.wiring.yaml", "{ order: 3 }", "{ order: 1 }"),
            ("depot.wiring.yaml", "{ order: 9,", "{ order: 3,"),
        ],
    },
];
const FAULTS: Step =
    Step { day: "2026-11-28", message: "Everything for the night of the long trams", edits: &[] };

/// Writes the workspace as a repository with a history, the faults in its last commit.
pub(crate) fn write(folder: &Path) -> Result<(), CommandError> {
    version_control(folder, &["init", "--quiet", "--template=", "--initial-branch=main", "."], None)?;
    for (number, step) in STEPS.iter().enumerate() {
        commit(folder, &older(number + 1), step)?;
    }
    commit(folder, &files(false), &FAULTS)
}

/// The network as the first so many steps left it.
fn older(steps: usize) -> Vec<(&'static str, String)> {
    let mut files = files(true);
    for step in STEPS[steps..].iter().rev() {
        for (end, now, before) in step.edits {
            for (_, text) in files.iter_mut().filter(|(path, _)| path.ends_with(end)) {
                *text = text.replacen(now, before, 1);
            }
        }
    }
    files
}

fn commit(folder: &Path, files: &[(&str, String)], step: &Step) -> Result<(), CommandError> {
    for (path, text) in files {
        let path = folder.join(path);
        let failed = |reason| CommandError::Output { path: path.display().to_string(), reason };
        std::fs::create_dir_all(path.parent().unwrap_or(folder)).map_err(failed)?;
        users_files::replace(&path, |out| out.write_all(text.as_bytes())).map_err(failed)?;
    }
    version_control(folder, &["add", "--all", "."], None)?;
    version_control(folder, &["commit", "--quiet", "--message", step.message], Some(step.day))
}

/// Calls the version-control program, with nothing of the user's own settings.
fn version_control(folder: &Path, arguments: &[&str], day: Option<&str>) -> Result<(), CommandError> {
    let mut command = Command::new("git");
    command.args([
        "-c",
        "commit.gpgSign=false",
        "-c",
        "core.hooksPath=/dev/null",
        "-c",
        "core.autocrlf=false",
    ]);
    command.args(arguments).current_dir(folder);
    command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1").env_remove("GIT_DIR");
    for who in ["AUTHOR", "COMMITTER"] {
        command.env(format!("GIT_{who}_NAME"), "Wiring desk of Velmora");
        command.env(format!("GIT_{who}_EMAIL"), "wiring@velmora.example");
        command.env(format!("GIT_{who}_DATE"), format!("{}T06:00:00Z", day.unwrap_or("2026-01-01")));
    }
    let failed = |why: String| CommandError::Usage(format!("the history cannot be written: {why}"));
    let output = command.output().map_err(|error| failed(format!("`git` does not start: {error}")))?;
    if output.status.success() {
        return Ok(());
    }
    let complaint = String::from_utf8_lossy(&output.stderr);
    Err(failed(complaint.lines().next().unwrap_or("it says nothing").to_owned()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_step_changes_what_it_says() {
        for (number, step) in STEPS.iter().enumerate().skip(1) {
            assert_ne!(older(number), older(number + 1), "{}", step.message);
        }
        assert_eq!(older(STEPS.len()), files(true));
    }
}
