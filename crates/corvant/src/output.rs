//! Where results go.

use crate::cli::{AuditOptions, Color, Format};
use crate::exit::CommandError;
use corvant_core::audit::Report;
use corvant_core::wiring::Wiring;
use corvant_render::{json, text};
use std::fs::File;
use std::io::{self, BufWriter, IsTerminal, Write};

/// Narrowest text that excerpts fit into.
const NARROWEST: u16 = 40;
/// Widest text that is comfortable to read.
const WIDEST: u16 = 120;

/// Writes a report as the options say. A pipe that closes early is no error.
pub(crate) fn write(
    report: &Report,
    wiring: &Wiring,
    root: &str,
    options: &AuditOptions,
) -> Result<(), CommandError> {
    if let Some(path) = &options.output {
        let layout = text::Layout { width: None, color: options.color == Color::Always };
        let written = File::create(path)
            .and_then(|file| render(report, wiring, root, options.format, layout, BufWriter::new(file)));
        return written.map_err(|reason| CommandError::Output { path: path.display().to_string(), reason });
    }
    if options.quiet {
        return Ok(());
    }
    let stdout = io::stdout();
    let layout = text::Layout { width: width(), color: use_color(options.color) };
    match render(report, wiring, root, options.format, layout, BufWriter::new(stdout.lock())) {
        Err(error) if error.kind() != io::ErrorKind::BrokenPipe => {
            Err(CommandError::Output { path: "standard output".to_owned(), reason: error })
        }
        _ => Ok(()),
    }
}

fn render(
    report: &Report,
    wiring: &Wiring,
    root: &str,
    format: Format,
    layout: text::Layout,
    mut out: impl Write,
) -> io::Result<()> {
    match format {
        Format::Text => text::write(report, wiring, layout, &mut out)?,
        Format::Json => json::write(report, wiring, env!("CARGO_PKG_VERSION"), root, &mut out)?,
    }
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
