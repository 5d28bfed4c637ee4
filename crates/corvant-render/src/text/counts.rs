//! Findings counted by what they have in common, with the worst of each: for workspaces that have very many.

use super::words::{NO_MODULE, counted, module_of};
use super::{BOLD, LABELS, Page, severity_style};
use crate::out::{Out, safe};
use corvant_core::audit::Report;
use corvant_core::finding::{Finding, Severity};
use corvant_core::wiring::Wiring;
use std::collections::HashMap;
use std::io::{self, Write};
use unicode_width::UnicodeWidthStr;

/// What findings are counted by.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum By {
    /// Their rules.
    Rule,
    /// The modules of their first places.
    Module,
    /// The families of their rules.
    Family,
}

/// Columns that a name takes at most.
const WIDEST: usize = 44;
const COLUMN: usize = 8;

/// The findings that have something in common; the first of them is the worst.
struct Row<'a> {
    name: &'a str,
    counts: [usize; Severity::ALL.len()],
    worst: &'a Finding,
}

impl Page<'_> {
    /// Writes a line for each rule, module or family that has findings, the worst first.
    pub(super) fn counts(&self, report: &Report, by: By, out: &mut Out<'_>) -> io::Result<()> {
        let rows = rows(report, self.wiring, by);
        if rows.is_empty() {
            return Ok(());
        }
        let (title, one, many) = match by {
            By::Rule => ("rule", "rule", "rules"),
            By::Module => ("module", "module", "modules"),
            By::Family => ("family", "family", "families"),
        };
        let widest = rows.iter().map(|row| safe(row.name).width()).chain([title.len()]).max().unwrap_or(0);
        let widest = widest.min(WIDEST);
        let head = format!(
            "{title:widest$}{:>COLUMN$}{:>COLUMN$}{:>COLUMN$}  the worst of them",
            "errors", "warn.", "notes"
        );
        self.layout.paint(out, LABELS, &head)?;
        writeln!(out)?;
        for row in &rows {
            self.row(row, widest, by, out)?;
        }
        writeln!(out, "{}\n", counted(rows.len(), one, many))
    }

    fn row(&self, row: &Row<'_>, widest: usize, by: By, out: &mut Out<'_>) -> io::Result<()> {
        let name = safe(row.name);
        self.layout.paint(out, BOLD, &name)?;
        let width = name.width();
        if width > widest {
            // A name that is wider than the column has a line of its own.
            write!(out, "\n{:widest$}", "")?;
        } else {
            write!(out, "{:1$}", "", widest - width)?;
        }
        for (severity, count) in Severity::ALL.into_iter().zip(row.counts) {
            let text = if count == 0 { "·".to_owned() } else { count.to_string() };
            let style = if count == 0 { super::DIM } else { severity_style(severity) };
            write!(out, "{:1$}", "", COLUMN.saturating_sub(text.width()))?;
            self.layout.paint(out, style, &text)?;
        }
        let finding = row.worst;
        let rule = if by == By::Rule { String::new() } else { format!("{}: ", finding.rule.name) };
        let place = finding.places.first().map_or_else(String::new, |place| {
            let source = &self.wiring.sources[place.source.index()];
            format!("  {}:{}", safe(&source.path), source.position(place.span.start).line)
        });
        writeln!(out, "  {rule}{}{place}", safe(&finding.subject))
    }
}

fn rows<'a>(report: &'a Report, wiring: &'a Wiring, by: By) -> Vec<Row<'a>> {
    let mut numbers: HashMap<&str, usize> = HashMap::new();
    let mut rows: Vec<Row<'a>> = Vec::new();
    for finding in &report.findings {
        let name = match by {
            By::Rule => finding.rule.name,
            By::Module => module_of(wiring, finding).unwrap_or(NO_MODULE),
            By::Family => finding.rule.family.word(),
        };
        let number = *numbers.entry(name).or_insert_with(|| {
            rows.push(Row { name, counts: [0; Severity::ALL.len()], worst: finding });
            rows.len() - 1
        });
        rows[number].counts[finding.severity as usize] += 1;
    }
    // Findings stand worst first, and so do the rows of their firsts; more errors come before fewer.
    rows.sort_by_key(|row| std::cmp::Reverse(row.counts));
    rows
}
