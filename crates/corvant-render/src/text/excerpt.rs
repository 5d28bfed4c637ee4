//! A place with the line it is on, and the blamed text marked.

use super::{DIM, Page, severity_style};
use crate::out::{Out, is_unsafe, safe};
use corvant_core::finding::Severity;
use corvant_core::source::{Place, Source, boundary};
use std::io::{self, Write};
use unicode_width::UnicodeWidthStr;

/// Columns taken by what stands before a source line, line number of four digits included.
const MARGIN: usize = 14;
/// Columns of source that are shown where the width is not limited.
const WIDEST: usize = 160;
/// Columns of source that are kept before the blamed text when a line is cut.
const BEFORE: usize = 24;

impl Page<'_> {
    pub(super) fn excerpt(&self, place: &Place, severity: Severity, out: &mut Out<'_>) -> io::Result<()> {
        let source = &self.wiring.sources[place.source.index()];
        let start = source.position(place.span.start);
        let address = format!("{}:{}:{}", safe(&source.path), start.line, start.column);
        write!(out, "    ")?;
        self.layout.paint(out, DIM, &address)?;
        writeln!(out, "  {}", safe(&place.role))?;
        if source.text.is_empty() {
            return Ok(());
        }
        let width = self.layout.width.map_or(WIDEST, |width| width.saturating_sub(MARGIN).max(30));
        let shown = Shown::new(source, place, start.line, width);
        let number = start.line.to_string();
        write!(out, "    ")?;
        self.layout.paint(out, DIM, &format!("{number:>6} ┊"))?;
        write!(out, " {}\n    ", shown.text)?;
        self.layout.paint(out, DIM, &format!("{:>6} ┊", ""))?;
        write!(out, " {}", " ".repeat(shown.before))?;
        self.layout.paint(out, severity_style(severity), &"▔".repeat(shown.length))?;
        writeln!(out)
    }
}

/// The part of a source line that is shown, in columns of a terminal.
struct Shown {
    text: String,
    before: usize,
    length: usize,
}

impl Shown {
    fn new(source: &Source, place: &Place, line: u32, width: usize) -> Self {
        let Parts { before, marked, after } = Parts::new(source, place, line, width);
        let (columns, length) = (before.width(), marked.width().clamp(1, width));
        Self { text: format!("{before}{marked}{after}"), before: columns, length }
    }
}

/// The blamed text of a line, and what stands before and after it; tabs are widened, and nothing is in it that what
/// shows text would act on.
pub(crate) struct Parts {
    pub(crate) before: String,
    pub(crate) marked: String,
    pub(crate) after: String,
}

impl Parts {
    /// The part of a line of about `width` characters that a place is on.
    pub(crate) fn new(source: &Source, place: &Place, line: u32, width: usize) -> Self {
        let (text, line_start) = source.line(line);
        let from = boundary(text, place.span.start.saturating_sub(line_start) as usize);
        let to = boundary(text, place.span.end.saturating_sub(line_start) as usize).max(from);
        // Only what can be shown is measured: a line may be as long as a file.
        let (text, from, to) = window(text, from, to, width);
        let indent = text.len() - text.trim_start().len();
        let indent = indent.min(from);
        Self {
            before: safe_source(&text[indent..from]),
            marked: safe_source(&text[from..to]),
            after: safe_source(&text[to..]),
        }
    }
}

/// A window of about `width` characters on a line that holds the start of the blamed text, and where that
/// text is in it; cut ends are marked.
fn window(line: &str, from: usize, to: usize, width: usize) -> (String, usize, usize) {
    if line.len() <= width {
        return (line.to_owned(), from, to);
    }
    let back = line[..from].char_indices().rev().nth(BEFORE).map_or(0, |(at, _)| at);
    let start = if line[..from].chars().take(width).count() < width / 2 { 0 } else { back };
    let end = line[start..].char_indices().nth(width).map_or(line.len(), |(at, _)| start + at);
    let cut_before = if start > 0 { "…" } else { "" };
    let cut_after = if end < line.len() { "…" } else { "" };
    let text = format!("{cut_before}{}{cut_after}", &line[start..end]);
    let moved = |at: usize| at.clamp(start, end) - start + cut_before.len();
    let (from, to) = (moved(from), moved(to));
    (text, from, to)
}

const TAB: &str = "    ";

/// Source text with tabs widened and nothing that a terminal would act on.
fn safe_source(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '\t' => safe.push_str(TAB),
            _ if is_unsafe(character) => safe.push('␦'),
            _ => safe.push(character),
        }
    }
    safe
}
