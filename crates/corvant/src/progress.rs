//! What a terminal shows while long work goes on: one line on standard error, gone when the work is done.

use crate::{exit, files};
use corvant_read::progress::Progress;
use std::io::{self, IsTerminal, Write};
use std::sync::Arc;
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::thread::{self, JoinHandle};
use std::time::Duration;

/// Shorter work shows nothing.
const PATIENCE: Duration = Duration::from_secs(1);
const BETWEEN: Duration = Duration::from_millis(100);
/// Back to the start of the line, and all of it away.
const CLEAR: &str = "\r\x1b[K";

/// The line on the terminal. It goes away with this value.
pub(crate) struct Shown {
    progress: Arc<Progress>,
    drawing: Option<(Sender<()>, JoinHandle<()>)>,
}

impl Shown {
    /// Shows the progress of work that begins now, if anybody could see it.
    pub(crate) fn begin(quiet: bool) -> Self {
        let progress = Arc::new(Progress::default());
        let watched = progress.clone();
        let is_seen = !quiet && io::stderr().is_terminal();
        let drawing = is_seen.then(|| {
            let (stop, stopped) = channel();
            let draw = move || draw(&mut io::stderr(), &stopped, PATIENCE, || line(watched.files()));
            (stop, thread::spawn(draw))
        });
        Self { progress, drawing }
    }

    /// Where the work says how far it has come.
    pub(crate) fn progress(&self) -> &Progress {
        &self.progress
    }
}

impl Drop for Shown {
    fn drop(&mut self) {
        if let Some((stop, drawing)) = self.drawing.take() {
            drop(stop);
            let _ = drawing.join();
        }
    }
}

/// Draws the line again and again until the work is done, and takes it away then. It does not matter if it cannot be
/// drawn.
fn draw(out: &mut impl Write, stopped: &Receiver<()>, patience: Duration, line: impl Fn() -> String) {
    let (mut wait, mut is_drawn) = (patience, false);
    // Nothing is ever sent: the other end goes away when the work is done.
    while stopped.recv_timeout(wait) == Err(RecvTimeoutError::Timeout) {
        wait = BETWEEN;
        is_drawn = true;
        let _ = write!(out, "{CLEAR}{}", line());
    }
    if is_drawn {
        let _ = write!(out, "{CLEAR}");
    }
}

fn line(files: Option<(usize, usize)>) -> String {
    match files {
        None => "looking for manifests …".to_owned(),
        Some((read, all)) if read < all => format!("reading: {read} of {all} files"),
        Some((_, all)) => format!("auditing what {all} files define …"),
    }
}

/// An interrupt leaves neither half a line nor half a file behind, and has a status of its own.
pub(crate) fn end_cleanly_when_interrupted() {
    // Without a handler an interrupt still ends the program, if less tidily.
    let _ = ctrlc::set_handler(|| {
        // Held to the end, so that nothing is drawn again.
        let mut terminal = io::stderr().lock();
        if terminal.is_terminal() {
            let _ = write!(terminal, "{CLEAR}");
        }
        files::give_up();
        std::process::exit(exit::INTERRUPTED.into());
    });
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn short_work_draws_nothing_and_long_work_leaves_nothing_behind() {
        let (stop, stopped) = channel();
        drop(stop);
        let mut out = Vec::new();
        draw(&mut out, &stopped, Duration::from_secs(60), || "here".to_owned());
        assert!(out.is_empty());

        let (stop, stopped) = channel();
        let work = thread::spawn(move || {
            thread::sleep(Duration::from_millis(50));
            drop(stop);
        });
        draw(&mut out, &stopped, Duration::ZERO, || "here".to_owned());
        work.join().expect("the work ends");
        let drawn = String::from_utf8(out).expect("it is text");
        assert!(drawn.starts_with("\r\u{1b}[Khere") && drawn.ends_with(CLEAR), "{drawn:?}");
    }

    #[rstest]
    #[case::at_first(None, "looking for manifests …")]
    #[case::reading(Some((7, 50_000)), "reading: 7 of 50000 files")]
    #[case::all_read(Some((9, 9)), "auditing what 9 files define …")]
    fn the_line_says_what_goes_on(#[case] files: Option<(usize, usize)>, #[case] expected: &str) {
        assert_eq!(line(files), expected);
    }
}
