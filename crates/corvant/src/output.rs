//! Where results go.

use crate::cli::{Color, To};
use crate::exit::CommandError;
use crate::files;
use corvant_read::native::workspace_file;
use corvant_render::out::Out;
use corvant_render::text::Layout;
use std::io::{self, BufWriter, IsTerminal, Write};
use std::path::Path;

/// Narrowest text that excerpts fit into.
const NARROWEST: u16 = 40;
/// Widest text that is comfortable to read.
const WIDEST: u16 = 120;

/// Says something beside the result, on standard error. If none listens there, nothing is lost.
pub(crate) fn say(text: &str) {
    let mut error = io::stderr().lock();
    let _ = writeln!(Out::new(&mut error), "{text}");
}

/// Writes a result as the options say: `render` gets the layout and where to write.
pub(crate) fn write(
    to: &To,
    render: impl FnOnce(Layout, &mut Out<'_>) -> io::Result<()>,
) -> Result<(), CommandError> {
    let layout = if to.output.is_some() {
        Layout { width: None, color: to.color == Color::Always }
    } else if to.quiet {
        return Ok(());
    } else {
        Layout { width: width(), color: use_color(to.color) }
    };
    write_own(to.output.as_deref(), |out| render(layout, &mut Out::new(out)))
}

/// Refuses to write a result over a file that it is made from. `paths` are those of what was read below the root, as
/// reports name them.
pub(crate) fn keep_inputs<'path>(
    to: &To,
    root: &Path,
    paths: impl Iterator<Item = &'path str>,
) -> Result<(), CommandError> {
    let output = to.output.as_deref().filter(|output| output.is_file());
    let Some((output, replaced)) = output.and_then(|output| Some((output, files::identity(output)?))) else {
        return Ok(());
    };
    let in_files = paths.map(|path| path.split_once("!/").map_or(path, |(archive, _)| archive));
    let mut inputs = std::iter::once(workspace_file::NAME).chain(in_files);
    match inputs.find(|input| files::identity(&root.join(input)).as_ref() == Some(&replaced)) {
        None => Ok(()),
        Some(input) => Err(CommandError::Usage(format!(
            "--output {} would replace {input}, which the result is made from: write it elsewhere",
            output.display()
        ))),
    }
}

/// Writes what is the program's own text, with nothing of audited files in it, to a file, or to standard output. A
/// pipe that closes early is no error.
pub(crate) fn write_own(
    path: Option<&Path>,
    render: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), CommandError> {
    let (written, name) = match path {
        Some(path) => (files::replace(path, render), path.display().to_string()),
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
