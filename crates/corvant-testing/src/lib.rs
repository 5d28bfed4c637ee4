//! Test support: small workspaces written inline, with marks under the text that must be blamed.
//!
//! ```text
//! //- clock.wiring.yaml
//! corvant: 1
//! module: clock
//! services:
//!   clock.system: { needs: { x: { service: clock.nowhere } } }
//!                                          ^^^^^^^^^^^^^ missing-service clock.nowhere
//! ```
//!
//! A mark stands under the first place of a finding and says its rule and subject. Without carets it blames
//! the line above as a whole. Files begin with `//- path`.

pub mod browser;
pub mod corpus;
pub mod drafts;
pub mod formats;
pub mod fuzz;
#[cfg(unix)]
pub mod hostile;
pub mod house;
pub mod shapes;
pub mod syntaxes;
pub mod tangle;
pub mod validators;

use corvant_core::audit::{Options, Report, audit};
use corvant_core::finding::{Certainty, Edit, Severity};
use corvant_core::rules::TEXTS;
use corvant_core::wiring::Wiring;
use corvant_read::edit::{edited, spell_out};
use corvant_read::workspace;
use std::collections::BTreeSet;

/// A finding as tests look at it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found {
    /// The rule.
    pub rule: &'static str,
    /// The severity.
    pub severity: &'static str,
    /// The subject.
    pub subject: String,
    /// Message, roles of places and help, on a line each.
    pub text: String,
    /// Stages in which it holds, `-` standing for none chosen; `None`: all of these.
    pub holds: Option<Vec<String>>,
    /// How many services it affects.
    pub services: u32,
    /// How many entries it affects.
    pub entries: u32,
}

/// A mark: where a finding is expected.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
struct Mark {
    file: String,
    line: u32,
    /// Column and length in characters, if the mark has carets.
    columns: Option<(u32, u32)>,
    rule: String,
    subject: String,
}

/// Audits the files in `text` and compares all findings with the marks.
///
/// # Panics
///
/// If a marked finding is missing, or there is one that no mark expects.
pub fn expect(text: &str) {
    let (files, marks) = parse(text);
    let (wiring, report) = run(&files, None);
    let mut missing: BTreeSet<Mark> = marks.into_iter().collect();
    let mut unexpected = Vec::new();
    for mark in report.findings.iter().map(|finding| found_mark(&wiring, finding)) {
        let whole_line = Mark { columns: None, ..mark.clone() };
        if !missing.remove(&mark) && !missing.remove(&whole_line) {
            unexpected.push(mark);
        }
    }
    assert!(
        missing.is_empty() && unexpected.is_empty(),
        "expected and not found: {missing:#?}\nfound and not expected: {unexpected:#?}"
    );
}

/// Audits the files in `text`, whose marks are left out, and gives the findings in the report's order.
pub fn messages(text: &str) -> Vec<Found> {
    found(text, None)
}

/// The same, on a given day (`YYYY-MM-DD`).
pub fn messages_on(text: &str, today: &str) -> Vec<Found> {
    found(text, Some(today))
}

fn found(text: &str, today: Option<&str>) -> Vec<Found> {
    let (wiring, report) = run(&parse(text).0, today);
    let found = report.findings.iter().map(|finding| {
        let roles = finding.places.iter().map(|place| place.role.clone());
        let lines = std::iter::once(finding.message.clone())
            .chain(roles)
            .chain(finding.fixes.iter().map(|fix| fix.title.clone()));
        let text = |stage: &corvant_core::name::Name| wiring.text(*stage).to_owned();
        Found {
            rule: finding.rule.name,
            severity: finding.severity.word(),
            subject: finding.subject.clone(),
            text: lines.collect::<Vec<_>>().join("\n"),
            holds: finding.holds.as_ref().map(|holds| {
                let none = holds.none_chosen.then(|| "-".to_owned());
                none.into_iter().chain(holds.stages.iter().map(text)).collect()
            }),
            services: finding.reach.services,
            entries: finding.reach.entries,
        }
    });
    found.collect()
}

/// Files out of a text with `//- path` headers.
pub fn files(text: &str) -> Vec<(String, String)> {
    parse(text).0
}

/// The wiring of files in memory: pairs of path and text. One of them may be the workspace file.
///
/// # Panics
///
/// If there is a workspace file that cannot be read.
pub fn wiring<'text>(files: impl IntoIterator<Item = (&'text str, &'text str)>) -> Wiring {
    let workspace = workspace::from_texts(files).expect("the workspace file can be read");
    workspace.link().0
}

/// The same, of files out of a text with `//- path` headers.
///
/// # Panics
///
/// If there is a workspace file that cannot be read.
pub fn wiring_of(text: &str) -> Wiring {
    let files = files(text);
    wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())))
}

/// Audits the files in `text`, makes all edits that are certain, and compares the files they touch with those in
/// `after`; then audits what came of it. With `likely`, edits that are likely are made too.
///
/// # Panics
///
/// If a file is not as expected, if two edits are at odds, or if a finding whose edits were made is still there.
pub fn expect_fixed(text: &str, after: &str, likely: bool) {
    let files = parse(text).0;
    let (wiring, mut report) = run(&files, None);
    spell_out(&mut report.findings, &wiring);
    let worst = if likely { Certainty::Likely } else { Certainty::Certain };
    let mut edits: Vec<&Edit> = Vec::new();
    let mut fixed: BTreeSet<(&str, &str, Severity)> = BTreeSet::new();
    for finding in &report.findings {
        if let Some(fix) = finding.fixes.iter().find(|fix| fix.certainty <= worst) {
            edits.extend(&fix.edits);
            fixed.insert((finding.rule.name, &finding.subject, finding.severity));
        }
    }
    edits.sort_by_key(|edit| (edit.source, edit.span));
    edits.dedup();
    let after_edits = |(path, text): &(String, String)| {
        let of_file = edits.iter().filter(|edit| wiring.path(edit.source) == path);
        (path.clone(), edited(text, of_file.copied()))
    };
    let edited: Vec<(String, String)> = files.iter().map(after_edits).collect();
    let expected = parse(after).0;
    for (path, text) in &edited {
        let before = files.iter().find(|(known, _)| known == path).map(|(_, text)| text);
        let expected = expected.iter().find(|(known, _)| known == path).map(|(_, text)| text).or(before);
        assert_eq!(Some(text), expected, "{path} after the fixes");
    }
    let (_, after) = run(&edited, None);
    let left: Vec<_> = after
        .findings
        .iter()
        .map(|finding| (finding.rule.name, finding.subject.as_str(), finding.severity))
        .collect();
    assert!(!left.iter().any(|finding| fixed.contains(finding)), "left after the fixes: {left:#?}");
}

fn run(files: &[(String, String)], today: Option<&str>) -> (Wiring, Report) {
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let wiring = wiring(texts);
    let report = audit(&wiring, &Options { today: today.map(str::to_owned), ..Options::default() });
    (wiring, report)
}

fn found_mark(wiring: &Wiring, finding: &corvant_core::finding::Finding) -> Mark {
    let place = &finding.places[0];
    let source = &wiring.sources[place.source.index()];
    let (start, end) = (source.position(place.span.start), source.position(place.span.end));
    let length = if start.line == end.line { (end.column - start.column).max(1) } else { 1 };
    Mark {
        file: source.path.clone(),
        line: start.line,
        columns: Some((start.column, length)),
        rule: finding.rule.name.to_owned(),
        subject: finding.subject.clone(),
    }
}

fn parse(text: &str) -> (Vec<(String, String)>, Vec<Mark>) {
    let mut files: Vec<(String, String)> = Vec::new();
    let mut marks = Vec::new();
    let mut line_number = 0;
    for line in text.strip_prefix('\n').unwrap_or(text).lines() {
        if let Some(path) = line.strip_prefix("//- ") {
            files.push((path.to_owned(), String::new()));
            line_number = 0;
            continue;
        }
        let (file, content) = files.last_mut().expect("the text begins with a `//- path` line");
        if let Some(mark) = mark(file, line_number, line) {
            marks.push(mark);
            continue;
        }
        content.push_str(line);
        content.push('\n');
        line_number += 1;
    }
    (files, marks)
}

fn mark(file: &str, line: u32, text: &str) -> Option<Mark> {
    let words = text.trim_start();
    let indent = (text.chars().count() - words.chars().count()) as u32;
    let carets = words.chars().take_while(|&letter| letter == '^').count() as u32;
    let (rule, subject) = words.trim_start_matches('^').trim_start().split_once(' ').unwrap_or((words, ""));
    let is_mark = (carets > 0 || indent > 0) && TEXTS.iter().any(|known| known.name == rule);
    is_mark.then(|| Mark {
        file: file.to_owned(),
        line,
        columns: (carets > 0).then_some((indent + 1, carets)),
        rule: rule.to_owned(),
        subject: subject.to_owned(),
    })
}
