//! What people see who call the program in a terminal.
#![cfg(unix)]

mod support;

use corvant_testing::corpus::Made;
use pty_process::blocking::{Command, Pty, open};
use std::fs;
use std::io::{Read, Write};
use std::path::Path;
use std::process::ExitStatus;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, channel};
use std::thread;
use std::time::{Duration, Instant};
use support::folder;
use tempfile::TempDir;

/// Back to the start of the line, and all of it away.
const CLEAR: &str = "\r\u{1b}[K";

/// Everything that a terminal shows, as it comes.
fn shown(terminal: Arc<Pty>) -> Receiver<String> {
    let (sender, receiver) = channel();
    thread::spawn(move || {
        let mut buffer = [0; 4096];
        // A terminal that nobody writes to any more is an error on some systems, and the end on others.
        while let Ok(count @ 1..) = (&*terminal).read(&mut buffer) {
            let _ = sender.send(String::from_utf8_lossy(&buffer[..count]).into_owned());
        }
    });
    receiver
}

/// Runs the program in a terminal; once it shows `until`, `keys` are pressed.
fn in_terminal(
    arguments: &[&str],
    folder: &Path,
    until: &str,
    keys: &[u8],
) -> (String, ExitStatus, Duration) {
    let (terminal, side) = open().unwrap();
    let command = Command::new(env!("CARGO_BIN_EXE_corvant")).args(arguments).current_dir(folder);
    let mut program = command.env_remove("NO_COLOR").spawn(side).unwrap();
    let terminal = Arc::new(terminal);
    let read = shown(terminal.clone());
    let mut text = String::new();
    let mut pressed = None;
    while let Ok(more) = read.recv_timeout(Duration::from_secs(120)) {
        text += &more;
        if pressed.is_none() && text.contains(until) && !keys.is_empty() {
            (&*terminal).write_all(keys).unwrap();
            pressed = Some(Instant::now());
        }
    }
    let status = program.wait().unwrap();
    (text, status, pressed.map_or(Duration::ZERO, |pressed| pressed.elapsed()))
}

/// A workspace that takes seconds to audit on one thread.
fn large() -> TempDir {
    let folder = TempDir::new().unwrap();
    for file in (Made { services: 400_000, faults: 0, stages: 0, seed: 1 }).files() {
        let path = folder.path().join(&file.path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, &file.text).unwrap();
    }
    folder
}

#[test]
fn long_work_says_how_far_it_is_and_an_interrupt_ends_it_at_once_and_cleanly() {
    let folder = large();
    let audit = ["audit", "--threads", "1"];
    let (text, status, _) = in_terminal(&audit, folder.path(), "", b"");
    assert_eq!(status.code(), Some(0), "{text}");
    assert!(text.contains(" 20000 files"), "{text:?}");
    let (_, result) = text.rsplit_once(CLEAR).unwrap();
    assert!(result.contains("nothing is wrong"), "the line is gone before the result: {result:?}");

    let (text, status, after) = in_terminal(&audit, folder.path(), " files", b"\x03");
    assert_eq!(status.code(), Some(130), "{text:?}");
    assert!(text.ends_with(CLEAR), "{text:?}");
    assert!(!text.contains("nothing is wrong"));
    assert!(after < Duration::from_secs(5), "it took {after:?}");
}

#[test]
fn short_work_shows_the_result_alone_in_colour() {
    let folder = folder(&[("web.wiring.yaml", support::FAULTY)]);
    let (text, status, _) = in_terminal(&["audit"], folder.path(), "", b"");
    assert_eq!(status.code(), Some(1));
    assert!(!text.contains(CLEAR) && text.contains("\u{1b}[1m"), "{text:?}");
}

#[test]
fn quiet_is_quiet_in_a_terminal_too() {
    let folder = folder(&[("web.wiring.yaml", support::FAULTY)]);
    let (text, status, _) = in_terminal(&["audit", "--quiet"], folder.path(), "", b"");
    assert_eq!((text.as_str(), status.code()), ("", Some(1)));
}
