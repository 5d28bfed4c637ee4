//! The report as Markdown (CommonMark, with the folds that hosts of code show): a comment on a change, a job's summary.
//!
//! It fits into what hosts take whatever happens: what does not fit is counted, never cut in the middle.

mod escape;

use crate::answers::address;
use crate::out::Out;
use crate::text::words::{NO_MODULE, counted, fails, module_of, severities, stages};
use corvant_core::audit::Report;
use corvant_core::finding::Finding;
use corvant_core::wiring::Wiring;
pub(crate) use escape::{block, code, plain};
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::io::{self, Write};

/// Characters that are written at most: hosts refuse comments of some more.
const MOST: usize = 60_000;
/// Characters that are kept for what is said of what does not fit.
const KEPT: usize = 400;
/// Findings that are shown whole, the worst first.
const WORST: usize = 10;
/// Letters of a text that are shown.
const LETTERS: usize = 600;
/// Places of a finding that are shown.
const PLACES: usize = 5;

/// Writes a report as Markdown. Whether it is fit to deploy is said by `is_failing`.
pub fn write(report: &Report, wiring: &Wiring, is_failing: bool, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page::new(head(report, is_failing));
    let (worst, rest) = report.findings.split_at(report.findings.len().min(WORST));
    let mut left_out = 0;
    if !worst.is_empty() {
        page.text.push_str(if rest.is_empty() { "\n### Findings\n" } else { "\n### The worst\n" });
    }
    for finding in worst {
        left_out += usize::from(!page.add(&whole(finding, wiring)));
    }
    let mut by_module: BTreeMap<&str, Vec<&Finding>> = BTreeMap::new();
    for finding in rest {
        let module = module_of(wiring, finding).unwrap_or(NO_MODULE);
        by_module.entry(module).or_default().push(finding);
    }
    if !by_module.is_empty() {
        page.text.push_str("\n### The rest, by module\n");
    }
    for (module, findings) in by_module {
        let title = format!("{}: {}", short(module), counted(findings.len(), "finding", "findings"));
        left_out += page.folded(&title, findings.iter().map(|finding| line(finding, wiring)));
    }
    page.tell_left_out(left_out, "finding", "findings");
    if !report.blind_spots.is_empty() {
        let mut seen = String::from("\n<details><summary>What was not looked at</summary>\n\n");
        for spot in &report.blind_spots {
            let line = format!("- {}: {}\n", code(&short(&spot.subject)), plain(&short(&spot.message)));
            if page.length() + seen.chars().count() + line.chars().count() > MOST - 50 {
                break;
            }
            seen.push_str(&line);
        }
        page.text.push_str(&seen);
        page.text.push_str("\n</details>\n");
    }
    out.write_all(page.text.as_bytes())
}

/// A page that does not become too long.
pub(crate) struct Page {
    pub(crate) text: String,
}

impl Page {
    pub(crate) fn new(text: String) -> Self {
        Self { text }
    }

    fn length(&self) -> usize {
        self.text.chars().count()
    }

    /// Adds a part if it fits.
    pub(crate) fn add(&mut self, part: &str) -> bool {
        let fits = self.length() + part.chars().count() + KEPT <= MOST;
        if fits {
            self.text.push_str(part);
        }
        fits
    }

    /// Adds items under a title that unfolds them; gives how many did not fit.
    pub(crate) fn folded(&mut self, title: &str, items: impl Iterator<Item = String>) -> usize {
        const END: &str = "\n</details>\n";
        // A summary is HTML: its text is escaped for that.
        let mut part = format!("\n<details><summary>{}</summary>\n\n", html(title));
        let mut room = (MOST - KEPT).saturating_sub(self.length() + part.chars().count() + END.len());
        let (mut shown, mut left_out) = (0, 0);
        for item in items {
            let letters = item.chars().count();
            if left_out > 0 || letters > room {
                left_out += 1;
                continue;
            }
            room -= letters;
            part.push_str(&item);
            shown += 1;
        }
        if shown > 0 {
            self.text.push_str(&part);
            self.text.push_str(END);
        }
        left_out
    }

    /// Says how many did not fit.
    pub(crate) fn tell_left_out(&mut self, left_out: usize, one: &str, many: &str) {
        if left_out > 0 {
            let left_out = counted(left_out, one, many);
            let _ =
                write!(self.text, "\n{left_out} more do not fit here; the other formats have all of them.\n");
        }
    }
}

/// Whether it can be deployed, and the counts.
fn head(report: &Report, is_failing: bool) -> String {
    let summary = &report.summary;
    let verdict = match (is_failing, report.findings.is_empty()) {
        (true, _) => "Do not deploy this",
        (false, true) if report.since.is_some() => "Nothing new is wrong with the wiring",
        (false, true) => "Nothing is wrong with the wiring",
        (false, false) => "The wiring can be deployed",
    };
    let mut head = format!("## {verdict}\n\n");
    let counts: Vec<String> =
        severities(summary).into_iter().map(|(_, count)| format!("**{count}**")).collect();
    if !counts.is_empty() {
        let starting = report.findings.iter().filter(|finding| !finding.reach.start_up.is_empty()).count();
        let stops = if starting > 0 { format!("; {starting} at start-up") } else { String::new() };
        let _ = write!(head, "{}{stops}. ", counts.join(", "));
    }
    if let Some(since) = &report.since {
        let before = counted(since.there_before, "finding was", "findings were");
        let _ = write!(head, "{before} there at {} already. ", code(&short(&since.revision)));
    }
    if !report.accepted.is_empty() {
        let _ = write!(
            head,
            "{}. ",
            counted(report.accepted.len(), "finding is accepted", "findings are accepted")
        );
    }
    let _ = writeln!(
        head,
        "Looked at {} in {} of {}.",
        counted(summary.services, "service", "services"),
        counted(summary.manifests, "manifest", "manifests"),
        counted(summary.modules, "module", "modules")
    );
    head
}

/// A finding with all that is to be known of it.
pub(crate) fn whole(finding: &Finding, wiring: &Wiring) -> String {
    let mut text = format!(
        "\n#### {}: {} {}\n\n{}\n\n",
        finding.severity.word(),
        finding.rule.name,
        code(&short(&finding.subject)),
        plain(&short(&finding.message))
    );
    for place in finding.places.iter().take(PLACES) {
        let address = address(wiring, place.source, place.span);
        let _ = writeln!(text, "- {} {}", code(&address), plain(&short(&place.role)));
    }
    let more = finding.places.len().saturating_sub(PLACES);
    if more > 0 {
        let _ = writeln!(text, "- and {} more", counted(more, "place", "places"));
    }
    if let Some(holds) = &finding.holds {
        let _ = writeln!(text, "- stages: {}", plain(&short(&stages(wiring, holds))));
    }
    if let Some(fails) = fails(wiring, &finding.reach) {
        let _ = writeln!(text, "- fails {}", plain(&short(&fails)));
    }
    for fix in &finding.fixes {
        let _ = writeln!(text, "- **fix:** {}", plain(&short(&fix.title)));
    }
    text
}

/// A finding on a line.
fn line(finding: &Finding, wiring: &Wiring) -> String {
    let place = finding
        .places
        .first()
        .map_or_else(String::new, |place| format!(" ({})", code(&address(wiring, place.source, place.span))));
    let (subject, message) = (code(&short(&finding.subject)), plain(&short(&finding.message)));
    format!("- {} {} {subject}: {message}{place}\n", finding.severity.word(), finding.rule.name)
}

/// As much of a text as a comment has room for.
pub(crate) fn short(text: &str) -> String {
    match text.char_indices().nth(LETTERS) {
        None => text.to_owned(),
        Some((end, _)) => format!("{}…", &text[..end]),
    }
}

fn html(text: &str) -> String {
    let text = crate::out::safe(text);
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('@', "@<!-- -->")
}
