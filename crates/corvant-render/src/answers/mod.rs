//! Answers as text, one module a question.

pub mod find;
pub mod impact;
pub mod order;
pub mod show;
pub mod why;
pub mod words;

use crate::out::{Out, safe};
use crate::text::{BOLD, DIM, LABELS, Layout};
use corvant_core::source::{Place, SourceIndex, Span};
use corvant_core::wiring::Wiring;
use std::io::{self, Write};
use unicode_width::UnicodeWidthStr;

/// Facts of one kind that text shows; JSON has all.
const SHOWN: usize = 40;

/// Where answers are written to, and how.
struct Page<'a, 'w> {
    wiring: &'a Wiring,
    layout: Layout,
    out: &'a mut Out<'w>,
}

impl Page<'_, '_> {
    /// A heading: what it is in plain letters, its name in bold ones.
    fn title(&mut self, what: &str, name: &str) -> io::Result<()> {
        write!(self.out, "{} ", safe(what))?;
        self.layout.paint(self.out, BOLD, &safe(name))?;
        writeln!(self.out)
    }

    /// A paragraph.
    fn line(&mut self, text: &str) -> io::Result<()> {
        for line in self.layout.lines(&safe(text), 0) {
            writeln!(self.out, "{line}")?;
        }
        Ok(())
    }

    /// A row: a label of a column of its own (empty: as above), a text, and where it is written. The address is never
    /// broken, and goes to the next line where it does not fit on the text's last.
    fn row(&mut self, label: &str, column: usize, text: &str, place: Option<&Place>) -> io::Result<()> {
        let text = safe(text);
        let indent = column + 4;
        let lines = self.layout.lines(&text, indent);
        let label = safe(label);
        for (number, line) in lines.iter().enumerate() {
            let label = if number == 0 { label.as_ref() } else { "" };
            write!(self.out, "{}  ", if number > 0 { "\n" } else { "" })?;
            self.layout.paint(self.out, LABELS, &format!("{label:column$}"))?;
            write!(self.out, "  {line}")?;
        }
        let Some(place) = place else { return writeln!(self.out) };
        let address = address(self.wiring, place.source, place.span);
        let address = safe(&address);
        let taken = indent + lines.last().map_or(0, |line| line.width()) + 2 + address.width();
        if self.layout.width.is_some_and(|width| taken > width) {
            write!(self.out, "\n{}", " ".repeat(indent))?;
        }
        write!(self.out, "  ")?;
        self.layout.paint(self.out, DIM, &address)?;
        writeln!(self.out)
    }

    /// Rows under one label; past some they are only counted.
    fn rows<'t>(
        &mut self,
        label: &str,
        column: usize,
        rows: impl ExactSizeIterator<Item = (String, Option<&'t Place>)>,
    ) -> io::Result<()> {
        let count = rows.len();
        for (number, (text, place)) in rows.take(SHOWN).enumerate() {
            self.row(if number == 0 { label } else { "" }, column, &text, place)?;
        }
        if count > SHOWN {
            let more = format!("… and {} more; JSON has all", count - SHOWN);
            self.row("", column, &more, None)?;
        }
        Ok(())
    }
}

/// A place as `file:line:column`, which editors jump to.
pub(crate) fn address(wiring: &Wiring, source: SourceIndex, span: Span) -> String {
    let source = &wiring.sources[source.index()];
    let position = source.position(span.start);
    format!("{}:{}:{}", source.path, position.line, position.column)
}
