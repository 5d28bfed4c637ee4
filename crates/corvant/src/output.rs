//! Where results go.

use crate::cli::{Color, Writing};
use crate::exit::CommandError;
use corvant_render::text::Layout;
use std::fs::File;
use std::io::{self, BufWriter, IsTerminal, Write};

/// Narrowest text that excerpts fit into.
const NARROWEST: u16 = 40;
/// Widest text that is comfortable to read.
const WIDEST: u16 = 120;

/// Says something beside the result, on standard error. If nobody listens there, nothing is lost.
pub(crate) fn say(text: &str) {
    let _ = writeln!(io::stderr(), "{text}");
}

/// Writes a result as the options say: `render` gets the layout and where to write. A pipe that closes early
/// is no error.
pub(crate) fn write(
    writing: &Writing,
    render: impl FnOnce(Layout, &mut dyn Write) -> io::Result<()>,
) -> Result<(), CommandError> {
    if let Some(path) = &writing.output {
        let layout = Layout { width: None, color: writing.color == Color::Always };
        let written = File::create(path).and_then(|file| {
            let mut out = BufWriter::new(file);
            render(layout, &mut out)?;
            out.flush()
        });
        return written.map_err(|reason| CommandError::Output { path: path.display().to_string(), reason });
    }
    if writing.quiet {
        return Ok(());
    }
    let stdout = io::stdout();
    let layout = Layout { width: width(), color: use_color(writing.color) };
    let mut out = BufWriter::new(stdout.lock());
    match render(layout, &mut out).and_then(|()| out.flush()) {
        Err(error) if error.kind() != io::ErrorKind::BrokenPipe => {
            Err(CommandError::Output { path: "standard output".to_owned(), reason: error })
        }
        _ => Ok(()),
    }
}

/// Columns to fit into: what COLUMNS says, else the terminal; none in a pipe, where lines are never broken.
fn width() -> Option<usize> {
    let said = std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok());
    let is_terminal = io::stdout().is_terminal();
    let size = || terminal_size::terminal_size().filter(|_| is_terminal).map(|(width, _)| width.0);
    said.or_else(size).map(|width: u16| width.clamp(NARROWEST, WIDEST).into())
}

fn use_color(color: Color) -> bool {
    match color {
        Color::Always => true,
        Color::Never => false,
        Color::Auto => anstream::AutoStream::choice(&io::stdout()) != anstream::ColorChoice::Never,
    }
}
