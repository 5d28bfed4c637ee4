//! Hostile workspaces, made anew from a number, and what the program must do with each of them.
//!
//! Whatever lies in a folder, the program ends by itself, within limits of time and memory and with a status of its own;
//! it says nothing that a terminal acts on, writes JSON that can be read, still finds a fault in a file that was not touched,
//! and changes no file. [`attack`] makes the workspace of a round, drives the program over it and says what is wrong.

mod inputs;
mod shown;

pub use shown::harmful;

use crate::corpus::Random;
use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

/// Seconds of processor time that one call may take, and of the clock.
const PROCESSOR_SECONDS: u64 = 30;
const CLOCK: Duration = Duration::from_secs(60);
/// Memory that one call may ask for, in KiB of addresses.
const MEMORY: u64 = 4 << 20;

/// A fault in a file that is never touched: it must be found whatever else lies there.
const KNOWN: (&str, &str) = (
    "known.wiring.yaml",
    "corvant: 1\nmodule: known\nentries:\n  known-entry: { needs: { known: { service: known.missing-one } } }\n",
);

/// What is asked of the program; of some it depends on the workspace whether there is an answer.
const CALLS: [&[&str]; 29] = [
    &["audit", "--format", "json"],
    &["audit", "--format", "json", "--threads", "1"],
    &["audit"],
    &["audit", "--color", "always"],
    &["audit", "--explain-readers"],
    &["audit", "--explain-readers", "--format", "json"],
    &["audit", "--format", "sarif"],
    &["audit", "--format", "junit"],
    &["audit", "--format", "markdown"],
    &["audit", "--format", "html"],
    &["audit", "--by", "module", "--limit", "1000000"],
    &["accept", "--dry-run"],
    &["fix"],
    &["fix", "--likely"],
    &["start"],
    &["start", "--output", "-"],
    &["show", "known-entry"],
    &["show", "s0", "--format", "json"],
    &["find", "e"],
    &["find", "e", "--format", "json"],
    &["why", "known-entry", "s0"],
    &["order", "--format", "json"],
    &["impact", "s0"],
    &["graph", "--format", "json"],
    &["graph", "--format", "svg"],
    &["graph", "--format", "dot"],
    &["graph", "--format", "mermaid"],
    &["graph", "--format", "graphml"],
    &["graph", "--by", "module"],
];

/// Makes the workspace of a round below `folder`, which is empty, drives the program over it and gives what it did wrong.
pub fn attack(program: &Path, folder: &Path, round: u64) -> io::Result<Vec<String>> {
    let mut random = Random::new(round);
    let root = folder.join("root");
    let outside = folder.join("outside");
    fs::create_dir_all(&root)?;
    fs::create_dir_all(&outside)?;
    fs::write(outside.join("secret.txt"), "the word of the day is velvet\n")?;
    fs::write(root.join(KNOWN.0), KNOWN.1)?;
    let kind = inputs::make(&root, &mut random, round)?;
    let before = contents(folder);
    let mut wrong = Vec::new();
    // The audit each time, and one of all other calls.
    for call in [CALLS[0], CALLS[1 + random.below(CALLS.len() - 1)]] {
        let said = run(program, &root, call)?;
        let complaints = said.complaints(call);
        wrong.extend(complaints.into_iter().map(|what| format!("round {round}, {kind}, {call:?}: {what}")));
    }
    if contents(folder) != before {
        wrong.push(format!("round {round}, {kind}: a file was changed"));
    }
    Ok(wrong)
}

/// What the program did.
struct Said {
    output: Output,
    took: Duration,
    was_stopped: bool,
}

/// Runs the program, within its limits.
fn run(program: &Path, root: &Path, call: &[&str]) -> io::Result<Said> {
    let begun = Instant::now();
    let limits = format!("ulimit -t {PROCESSOR_SECONDS}; ulimit -v {MEMORY}; exec \"$0\" \"$@\"");
    let out = tempfile::tempfile()?;
    let errors = tempfile::tempfile()?;
    let mut child = Command::new("sh")
        .args(["-c", &limits])
        .arg(program)
        .args(call)
        .current_dir(root)
        .env_remove("NO_COLOR")
        .stdin(Stdio::null())
        .stdout(out.try_clone()?)
        .stderr(errors.try_clone()?)
        .spawn()?;
    let mut was_stopped = false;
    let status = loop {
        if let Some(status) = child.try_wait()? {
            break status;
        }
        if begun.elapsed() > CLOCK {
            child.kill()?;
            was_stopped = true;
            break child.wait()?;
        }
        std::thread::sleep(Duration::from_millis(2));
    };
    let output = Output { status, stdout: whole(out)?, stderr: whole(errors)? };
    Ok(Said { output, took: begun.elapsed(), was_stopped })
}

fn whole(mut file: fs::File) -> io::Result<Vec<u8>> {
    use std::io::{Read, Seek};
    file.rewind()?;
    let mut bytes = Vec::new();
    file.read_to_end(&mut bytes)?;
    Ok(bytes)
}

impl Said {
    fn complaints(&self, call: &[&str]) -> Vec<String> {
        let mut wrong = Vec::new();
        let (stdout, stderr) =
            (String::from_utf8_lossy(&self.output.stdout), String::from_utf8_lossy(&self.output.stderr));
        let status = self.output.status.code();
        if self.was_stopped || !matches!(status, Some(0..=2)) {
            let beginning: String = stderr.chars().take(400).collect();
            wrong.push(format!("it ended with {} after {:?}: {beginning}", self.output.status, self.took));
        }
        if stderr.contains("panicked") || stdout.contains("which is its own fault") {
            wrong.push(format!("it failed: {stderr}{stdout}"));
        }
        let is_colored = call.contains(&"always");
        for (name, text) in [("output", &stdout), ("errors", &stderr)] {
            if let Some(character) = harmful(text, is_colored && name == "output") {
                wrong.push(format!("its {name} hold {character:?}"));
            }
            if text.contains("velvet") {
                wrong.push(format!("its {name} hold what lies outside"));
            }
        }
        let is_json = call.iter().any(|word| ["json", "sarif"].contains(word));
        let is_json = is_json && matches!(status, Some(0 | 1)) && !stdout.is_empty();
        if is_json && serde_json::from_str::<serde::de::IgnoredAny>(&stdout).is_err() {
            wrong.push("its JSON cannot be read".to_owned());
        }
        // Where the workspace file cannot be used, that is all it says.
        if call[0] == "audit" && status != Some(2) && !call.contains(&"--explain-readers") {
            if status != Some(1) {
                wrong.push(format!("the known fault did not fail it: {:?}", self.output.status));
            }
            // A page is packed, and Markdown shows what fits.
            let is_whole = !call.iter().any(|word| ["html", "markdown"].contains(word));
            if is_whole && !stdout.contains("known.missing-one") {
                wrong.push("the known fault was not found".to_owned());
            }
        }
        wrong
    }
}

/// Every file below a folder and what is in it; of what is no regular file that it is there.
fn contents(folder: &Path) -> BTreeMap<PathBuf, Option<Vec<u8>>> {
    let mut all = BTreeMap::new();
    let mut waiting = vec![folder.to_owned()];
    while let Some(folder) = waiting.pop() {
        for entry in fs::read_dir(&folder).into_iter().flatten().flatten() {
            let path = entry.path();
            match entry.file_type() {
                Ok(kind) if kind.is_dir() => waiting.push(path),
                Ok(kind) if kind.is_file() && entry.metadata().is_ok_and(|known| known.len() < 1 << 26) => {
                    all.insert(path.clone(), fs::read(path).ok());
                }
                _ => _ = all.insert(path, None),
            }
        }
    }
    all
}
