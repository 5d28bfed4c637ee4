//! The last lines: what to make of all findings, what was looked at and what was not.

use super::words::{counted, coverage, severities};
use super::{BOLD, Page, severity_style};
use crate::out::Out;
use crate::out::safe;
use corvant_core::audit::Report;
use corvant_core::finding::Severity;
use std::io::{self, Write};

/// How many blind spots are named.
const NAMED: usize = 10;

impl Page<'_> {
    pub(super) fn summary(&self, report: &Report, out: &mut Out<'_>) -> io::Result<()> {
        let summary = &report.summary;
        let counts = severities(summary);
        for (number, (severity, count)) in counts.iter().enumerate() {
            write!(out, "{}", if number > 0 { ", " } else { "" })?;
            self.layout.paint(out, severity_style(*severity), count)?;
        }
        if counts.is_empty() {
            let words = if report.since.is_some() { "nothing new is wrong" } else { "nothing is wrong" };
            self.layout.paint(out, BOLD, words)?;
            writeln!(out)?;
        } else {
            writeln!(out, "{}", when(report))?;
            if let Some(first) = first_to_fix(report) {
                self.wrapped(out, "", "  ", &first)?;
            }
        }
        if let Some(since) = &report.since {
            let before = counted(since.there_before, "finding was", "findings were");
            writeln!(out, "{before} there at {} already and not shown", safe(&since.revision))?;
        }
        if !report.accepted.is_empty() {
            let accepted = counted(report.accepted.len(), "finding is", "findings are");
            writeln!(out, "{accepted} accepted by allowances and not shown")?;
        }
        let looked = format!(
            "looked at {} in {} of {}: {} and {}",
            counted(summary.services, "service", "services"),
            counted(summary.manifests, "manifest", "manifests"),
            counted(summary.modules, "module", "modules"),
            counted(summary.needs, "need", "needs"),
            counted(summary.entries, "entry", "entries"),
        );
        self.wrapped(out, "", "  ", &looked)?;
        if report.readers.iter().any(|coverage| coverage.reader.is_some()) {
            let readers: Vec<String> =
                report.readers.iter().map(|one| safe(&coverage(self.wiring, one)).into_owned()).collect();
            self.wrapped(out, "", "  ", &format!("read by {}", readers.join("; ")))?;
        }
        if report.blind_spots.is_empty() {
            return writeln!(out, "not looked at: nothing; every manifest below the root was read");
        }
        writeln!(out, "not looked at:")?;
        for spot in report.blind_spots.iter().take(NAMED) {
            self.wrapped(out, "  ", "    ", &format!("{}: {}", safe(&spot.subject), safe(&spot.message)))?;
        }
        let more = report.blind_spots.len().saturating_sub(NAMED);
        if more > 0 {
            writeln!(out, "  … and {more} more")?;
        }
        Ok(())
    }
}

/// How many errors stop the start-up, and how many wait for their first use.
fn when(report: &Report) -> String {
    let errors = || report.findings.iter().filter(|finding| finding.severity == Severity::Error);
    let starting = errors().filter(|finding| !finding.reach.start_up.is_empty()).count();
    let waiting =
        errors().filter(|finding| finding.reach.start_up.is_empty() && finding.reach.entries > 0).count();
    let stop = |count: usize| format!("; {count} {} the start-up", if count == 1 { "stops" } else { "stop" });
    let wait =
        |count: usize| format!("{count} {} for a first request", if count == 1 { "waits" } else { "wait" });
    match (starting, waiting) {
        (0, 0) => String::new(),
        (0, waiting) => format!("; {}", wait(waiting)),
        (starting, 0) => stop(starting),
        (starting, waiting) => format!("{}, {}", stop(starting), wait(waiting)),
    }
}

/// Which finding to fix first: the first, if it stops the start or affects more than itself.
fn first_to_fix(report: &Report) -> Option<String> {
    let first = report.findings.first()?;
    let reach = &first.reach;
    let subject = safe(&first.subject);
    if !reach.start_up.is_empty() {
        return Some(format!("begin with {subject}: the application does not start"));
    }
    let least = if reach.at_least { "at least " } else { "" };
    let services = counted(reach.services as usize, "service", "services");
    let entries = counted(reach.entries as usize, "entry", "entries");
    (reach.services + reach.entries > 1)
        .then(|| format!("begin with {subject}: it affects the most, {least}{services} and {entries}"))
}
