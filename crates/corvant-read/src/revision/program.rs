//! The version-control program, asked for what is stored.

use super::RevisionError;
use std::io::{BufRead, BufReader, ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::process::{ChildStdout, Command, Stdio};
use std::thread;

/// The program, in a folder.
#[derive(Debug)]
pub(super) struct Program {
    folder: PathBuf,
}

impl Program {
    pub(super) fn at(folder: &Path) -> Self {
        Self { folder: folder.to_owned() }
    }

    pub(super) fn folder(&self) -> &Path {
        &self.folder
    }

    /// A call that changes nothing, asks nobody and fetches nothing: whatever the repository is set up to do.
    fn command(&self, arguments: &[&str]) -> Command {
        let mut command = Command::new("git");
        command.arg("--no-replace-objects").args([
            "-c",
            "core.fsmonitor=false",
            "-c",
            "core.quotePath=false",
        ]);
        command.args(arguments).current_dir(&self.folder);
        for (name, value) in [
            ("GIT_OPTIONAL_LOCKS", "0"),
            ("GIT_NO_LAZY_FETCH", "1"),
            ("GIT_TERMINAL_PROMPT", "0"),
            ("GIT_PAGER", ""),
            ("LC_ALL", "C"),
        ] {
            command.env(name, value);
        }
        command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
        command
    }

    /// What it prints; otherwise what it complains of.
    pub(super) fn bytes(&self, arguments: &[&str]) -> Result<Result<Vec<u8>, String>, RevisionError> {
        let output = self.command(arguments).output().map_err(started)?;
        if output.status.success() {
            return Ok(Ok(output.stdout));
        }
        let complaint = String::from_utf8_lossy(&output.stderr);
        let first = complaint.lines().next().unwrap_or("it says nothing");
        Ok(Err(first.trim_start_matches("fatal: ").trim_start_matches("error: ").to_owned()))
    }

    /// The same as text.
    pub(super) fn say(&self, arguments: &[&str]) -> Result<Result<String, String>, RevisionError> {
        let bytes = self.bytes(arguments)?;
        Ok(bytes.and_then(|bytes| String::from_utf8(bytes).map_err(|_| "its answer is no text".to_owned())))
    }

    /// How many bytes blobs have, by their ids, in order; `None`: one is not there.
    pub(super) fn sizes(&self, ids: &[&str]) -> Result<Vec<Option<u64>>, RevisionError> {
        let mut sizes = Vec::with_capacity(ids.len());
        self.ask("--batch-check", ids, |output, _| {
            sizes.push(head(output)?.ok());
            Ok(())
        })?;
        Ok(sizes)
    }

    /// Hands over blobs by their ids, in order, each with its number; one that is not there with what the program says.
    pub(super) fn blobs(
        &self,
        ids: &[&str],
        mut take: impl FnMut(usize, Result<Vec<u8>, String>) -> Result<(), RevisionError>,
    ) -> Result<(), RevisionError> {
        self.ask("--batch", ids, |output, number| take(number, next_blob(output)?))
    }

    /// Asks for blobs by their ids, and has each answer read in turn.
    fn ask(
        &self,
        how: &str,
        ids: &[&str],
        mut read: impl FnMut(&mut BufReader<ChildStdout>, usize) -> Result<(), RevisionError>,
    ) -> Result<(), RevisionError> {
        if ids.is_empty() {
            return Ok(());
        }
        let mut command = self.command(&["cat-file", how, "--buffer"]);
        // What it complains of stands in its answers too.
        let mut child = command.stdin(Stdio::piped()).stderr(Stdio::null()).spawn().map_err(started)?;
        let (mut input, output) = (child.stdin.take(), child.stdout.take());
        let asked: String = ids.iter().map(|id| format!("{id}\n")).collect();
        // It answers while it is asked: both ends have to be served.
        let asking = thread::spawn(move || input.as_mut().map(|input| input.write_all(asked.as_bytes())));
        let mut taken = Ok(());
        if let Some(output) = output {
            let mut output = BufReader::with_capacity(1 << 16, output);
            for number in 0..ids.len() {
                taken = read(&mut output, number);
                if taken.is_err() {
                    break;
                }
            }
        }
        // One that is not listened to any more ends at once.
        if taken.is_err() {
            let _ = child.kill();
        }
        let _ = asking.join();
        child.wait()?;
        taken
    }
}

fn started(error: std::io::Error) -> RevisionError {
    if error.kind() == ErrorKind::NotFound { RevisionError::NoProgram } else { error.into() }
}

/// `ID blob SIZE`, the bytes and a line break; or what [`head`] says of one that is not there.
fn next_blob(output: &mut impl BufRead) -> Result<Result<Vec<u8>, String>, RevisionError> {
    let size = match head(output)? {
        Ok(size) => usize::try_from(size).map_err(|error| RevisionError::Failed(error.to_string()))?,
        Err(why) => return Ok(Err(why)),
    };
    let mut bytes = vec![0; size];
    output.read_exact(&mut bytes)?;
    output.read_exact(&mut [0])?;
    Ok(Ok(bytes))
}

/// The size of a blob: `ID blob SIZE`; or why it is not there: `ID missing`.
fn head(output: &mut impl BufRead) -> Result<Result<u64, String>, RevisionError> {
    let mut head = String::new();
    output.read_line(&mut head)?;
    let words: Vec<&str> = head.split_ascii_whitespace().collect();
    match words.as_slice() {
        [_, "blob", size] => Ok(Ok(size.parse().map_err(|_| RevisionError::Failed(head.clone()))?)),
        [_, why @ ("missing" | "ambiguous")] => Ok(Err((*why).to_owned())),
        [] => Err(RevisionError::Failed("the program ended early".to_owned())),
        _ => Err(RevisionError::Failed(head.trim().to_owned())),
    }
}
