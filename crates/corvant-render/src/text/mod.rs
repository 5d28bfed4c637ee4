//! The report as text for a terminal or a pipe.

mod counts;
pub(crate) mod excerpt;
mod summary;
pub(crate) mod words;

pub use counts::By;
pub use words::{counted, severities};

use crate::out::{Out, safe};
use anstyle::{AnsiColor, Style};
use corvant_core::audit::Report;
use corvant_core::finding::{Certainty, Finding, Severity};
use corvant_core::wiring::Wiring;
use std::borrow::Cow;
use std::io::{self, Write};

/// How text is laid out. Decided once, by the program.
#[derive(Clone, Copy, Debug)]
pub struct Layout {
    /// Columns to fit into; `None`: lines are never broken.
    pub width: Option<usize>,
    /// Whether to use colour.
    pub color: bool,
}

impl Layout {
    /// A text as lines that leave room for an indent; as one line where lines are never broken.
    pub(crate) fn lines(self, text: &str, indent: usize) -> Vec<Cow<'_, str>> {
        match self.width {
            None => vec![text.into()],
            Some(width) => textwrap::wrap(text, width.saturating_sub(indent).max(20)),
        }
    }

    /// Writes a text in a style, if there is colour at all.
    pub(crate) fn paint(self, out: &mut Out<'_>, style: Style, text: &str) -> io::Result<()> {
        if self.color && !text.trim().is_empty() {
            out.styled(style, text)
        } else {
            out.write_all(text.as_bytes())
        }
    }
}

/// How many places of a finding are shown; the JSON report has all.
const PLACES: usize = 8;
/// Where the text of a labelled line begins.
const LABEL: usize = 8;

/// How much of a report is shown.
#[derive(Clone, Copy, Debug, Default)]
pub struct Extent {
    /// What findings are counted by, in a table that stands first.
    pub by: Option<By>,
    /// How many findings are shown, the worst first; `None`: all, or none below a table.
    pub limit: Option<usize>,
}

/// Writes a report as text.
pub fn write(
    report: &Report,
    wiring: &Wiring,
    extent: Extent,
    layout: Layout,
    out: &mut Out<'_>,
) -> io::Result<()> {
    let page = Page { wiring, layout };
    if let Some(by) = extent.by {
        page.counts(report, by, out)?;
    }
    let findings: Vec<&Finding> = report.findings.iter().collect();
    write_findings(&findings, wiring, extent, layout, out)?;
    page.summary(report, out)
}

/// Writes findings one after another, and how many are not shown.
pub(crate) fn write_findings(
    findings: &[&Finding],
    wiring: &Wiring,
    extent: Extent,
    layout: Layout,
    out: &mut Out<'_>,
) -> io::Result<()> {
    let page = Page { wiring, layout };
    let total = findings.len();
    let limit = extent.limit.unwrap_or(if extent.by.is_some() { 0 } else { total });
    for (number, finding) in findings.iter().take(limit).enumerate() {
        page.finding(finding, number + 1, total, out)?;
        writeln!(out)?;
    }
    let more = total.saturating_sub(limit);
    if more > 0 && extent.limit.is_some() {
        writeln!(out, "… and {}\n", words::counted(more, "finding more", "findings more"))?;
    }
    Ok(())
}

struct Page<'a> {
    wiring: &'a Wiring,
    layout: Layout,
}

impl Page<'_> {
    fn finding(&self, finding: &Finding, number: usize, total: usize, out: &mut Out<'_>) -> io::Result<()> {
        let paint = |out: &mut Out<'_>, style, text: &str| self.layout.paint(out, style, text);
        paint(out, severity_style(finding.severity), finding.severity.word())?;
        write!(out, " ")?;
        paint(out, DIM, &format!("{number} of {total}"))?;
        write!(out, "  ")?;
        paint(out, BOLD, finding.rule.name)?;
        write!(out, ": ")?;
        paint(out, BOLD, &safe(&finding.subject))?;
        writeln!(out)?;
        self.wrapped(out, "  ", "  ", &safe(&finding.message))?;
        for place in finding.places.iter().take(PLACES) {
            self.excerpt(place, finding.severity, out)?;
        }
        if finding.places.len() > PLACES {
            let more = finding.places.len() - PLACES;
            writeln!(out, "    … and {more} more {}", if more == 1 { "place" } else { "places" })?;
        }
        if let Some(holds) = &finding.holds {
            self.labelled(out, "stages", &words::stages(self.wiring, holds))?;
        }
        if let Some(fails) = words::fails(self.wiring, &finding.reach) {
            self.labelled(out, "fails", &fails)?;
        }
        for (position, fix) in finding.fixes.iter().enumerate() {
            // What is certain can be made without a look at anything else.
            let certain = if fix.certainty == Certainty::Certain { " [certain]" } else { "" };
            self.labelled(out, if position == 0 { "fix" } else { "" }, &format!("{}{certain}", fix.title))?;
        }
        Ok(())
    }

    /// A line with a label before it.
    fn labelled(&self, out: &mut Out<'_>, label: &str, text: &str) -> io::Result<()> {
        let text = safe(text);
        for (number, line) in self.layout.lines(&text, LABEL + 2).iter().enumerate() {
            let label = if number == 0 { label } else { "" };
            write!(out, "  ")?;
            self.layout.paint(out, LABELS, &format!("{label:LABEL$}"))?;
            writeln!(out, "{line}")?;
        }
        Ok(())
    }

    fn wrapped(&self, out: &mut Out<'_>, first: &str, rest: &str, text: &str) -> io::Result<()> {
        let Some(width) = self.layout.width else { return writeln!(out, "{first}{text}") };
        let options = textwrap::Options::new(width).initial_indent(first).subsequent_indent(rest);
        for line in textwrap::wrap(text, options) {
            writeln!(out, "{line}")?;
        }
        Ok(())
    }
}

pub(crate) const BOLD: Style = Style::new().bold();
pub(crate) const DIM: Style = Style::new().dimmed();
pub(crate) const LABELS: Style = AnsiColor::Cyan.on_default();

fn severity_style(severity: Severity) -> Style {
    let color = match severity {
        Severity::Error => AnsiColor::Red,
        Severity::Warning => AnsiColor::Yellow,
        Severity::Note => AnsiColor::Blue,
    };
    color.on_default().bold()
}
