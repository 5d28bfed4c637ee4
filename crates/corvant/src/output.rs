//! Where results go.

use crate::cli::{Color, To};
use crate::exit::CommandError;
use corvant_render::text::Layout;
use std::fs::File;
use std::io::{self, BufWriter, IsTerminal, Write};
use std::path::Path;

/// Narrowest text that excerpts fit into.
const NARROWEST: u16 = 40;
/// Widest text that is comfortable to read.
const WIDEST: u16 = 120;

/// Says something beside the result, on standard error. If nobody listens there, nothing is lost.
pub(crate) fn say(text: &str) {
    let _ = writeln!(io::stderr(), "{text}");
}

/// Writes a result as the options say: `render` gets the layout and where to write.
pub(crate) fn write(
    to: &To,
    render: impl FnOnce(Layout, &mut dyn Write) -> io::Result<()>,
) -> Result<(), CommandError> {
    let layout = if to.output.is_some() {
        Layout { width: None, color: to.color == Color::Always }
    } else if to.quiet {
        return Ok(());
    } else {
        Layout { width: width(), color: use_color(to.color) }
    };
    write_to(to.output.as_deref(), |out| render(layout, out))
}

/// Writes a result to a file, or to standard output. A pipe that closes early is no error.
pub(crate) fn write_to(
    path: Option<&Path>,
    render: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), CommandError> {
    let (written, name) = match path {
        Some(path) => {
            let written = File::create(path).and_then(|file| finish(BufWriter::new(file), render));
            (written, path.display().to_string())
        }
        None => (finish(BufWriter::new(io::stdout().lock()), render), "standard output".to_owned()),
    };
    match written {
        Err(error) if path.is_none() && error.kind() == io::ErrorKind::BrokenPipe => Ok(()),
        written => written.map_err(|reason| CommandError::Output { path: name, reason }),
    }
}

fn finish(mut out: impl Write, render: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<()> {
    render(&mut out)?;
    out.flush()
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
