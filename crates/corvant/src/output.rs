//! Where results go.

use crate::cli::{Color, ReportFormat, ReportWriting, Screen, To};
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
    match &to.output {
        Some(path) => write_file(path, to.screen.color, render),
        None => write_screen(&to.screen, render),
    }
}

/// Writes a result to a file, where lines are never broken.
pub(crate) fn write_file(
    path: &Path,
    color: Color,
    render: impl FnOnce(Layout, &mut Out<'_>) -> io::Result<()>,
) -> Result<(), CommandError> {
    let layout = Layout { width: None, color: color == Color::Always };
    write_own(Some(path), |out| render(layout, &mut Out::new(out)))
}

/// Writes a result to standard output, unless nothing is to be written there.
pub(crate) fn write_screen(
    screen: &Screen,
    render: impl FnOnce(Layout, &mut Out<'_>) -> io::Result<()>,
) -> Result<(), CommandError> {
    if screen.quiet {
        return Ok(());
    }
    let layout = layout(screen);
    write_own(None, |out| render(layout, &mut Out::new(out)))
}

/// The same, and gives what was written, if that is all there is and no longer than so many bytes.
pub(crate) fn write_screen_and_copy(
    screen: &Screen,
    longest: usize,
    render: impl FnOnce(Layout, &mut Out<'_>) -> io::Result<()>,
) -> Result<Option<String>, CommandError> {
    let (mut copy, mut is_whole) = (Vec::new(), screen.quiet);
    if !screen.quiet {
        let layout = layout(screen);
        // Where nobody listens any more it ends early, which is no error.
        write_own(None, |out| {
            render(layout, &mut Out::new(&mut Copying { out, copy: &mut copy, longest }))?;
            is_whole = true;
            Ok(())
        })?;
    }
    let text = String::from_utf8(copy).ok().filter(|text| text.len() <= longest);
    Ok(text.filter(|_| is_whole))
}

/// How a result looks on standard output.
pub(crate) fn layout(screen: &Screen) -> Layout {
    Layout { width: width(), color: use_color(screen.color) }
}

/// Writes a text to standard output, with what a terminal would act on written as escapes.
pub(crate) fn write_screen_text(text: &str) -> Result<(), CommandError> {
    write_own(None, |out| Out::new(out).write_all(text.as_bytes()))
}

/// Writes a report to all files that are asked for, each whole or not at all, and then to standard output. What cannot
/// be written to one place is written to the others all the same; the first failure is told.
pub(crate) fn write_report(
    writing: &ReportWriting,
    render: impl Fn(ReportFormat, Layout, &mut Out<'_>) -> io::Result<()>,
) -> Result<(), CommandError> {
    let files = writing.output.iter().map(|output| {
        let format = output.format.unwrap_or(writing.format);
        write_file(&output.path, writing.screen.color, |layout, out| render(format, layout, out))
    });
    let files: Vec<_> = files.collect();
    let screen = write_screen(&writing.screen, |layout, out| render(writing.format, layout, out));
    files.into_iter().chain([screen]).collect()
}

/// Refuses to write a result over a file that it is made from, or two results to one file. `paths` are those of what was
/// read below the root, as reports name them.
pub(crate) fn keep_inputs<'file, 'path>(
    outputs: impl IntoIterator<Item = &'file Path>,
    root: &Path,
    paths: impl Iterator<Item = &'path str>,
) -> Result<(), CommandError> {
    let outputs: Vec<&Path> = outputs.into_iter().collect();
    for (number, output) in outputs.iter().enumerate() {
        let is_same = |other: &&&Path| {
            let known = files::identity(output);
            output == *other || (known.is_some() && output.is_file() && known == files::identity(other))
        };
        if outputs[..number].iter().any(|other| is_same(&other)) {
            let message = format!("two results cannot be written to {}", output.display());
            return Err(CommandError::Usage(message));
        }
    }
    let replaced: Vec<_> = outputs
        .into_iter()
        .filter(|output| output.is_file())
        .filter_map(|output| Some((output, files::identity(output)?)))
        .collect();
    if replaced.is_empty() {
        return Ok(());
    }
    let in_files = paths.map(|path| path.split_once("!/").map_or(path, |(archive, _)| archive));
    for input in std::iter::once(workspace_file::NAME).chain(in_files) {
        let Some(read) = files::identity(&root.join(input)) else { continue };
        if let Some((output, _)) = replaced.iter().find(|(_, known)| *known == read) {
            return Err(CommandError::Usage(format!(
                "--output {} would replace {input}, which the result is made from: write it elsewhere",
                output.display()
            )));
        }
    }
    Ok(())
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

/// Writes, and keeps a copy up to a length, and of what is longer a little more than that.
struct Copying<'a> {
    out: &'a mut dyn Write,
    copy: &'a mut Vec<u8>,
    longest: usize,
}

impl Write for Copying<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let written = self.out.write(bytes)?;
        if self.copy.len() <= self.longest {
            self.copy.extend_from_slice(&bytes[..written]);
        }
        Ok(written)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
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
