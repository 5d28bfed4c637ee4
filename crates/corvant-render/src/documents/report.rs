//! The report of an audit, version 2.

use super::{Each, PROGRAM, Place, Version, Worded};
use crate::out::Out;
use corvant_core::audit::{Coverage, Report, Summary};
use corvant_core::finding::Reach;
use corvant_core::finding::{self, BlindSpot, BlindSpotKind, Certainty, Finding, Fix, Severity};
use corvant_core::index::EntryIndex;
use corvant_core::rules::TEXTS;
use corvant_core::source;
use corvant_core::wiring::Wiring;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::Serialize;
use std::borrow::Cow;
use std::io;

/// Writes a report as JSON. `root` is the folder that was audited, as given.
pub fn write(report: &Report, wiring: &Wiring, root: &str, out: &mut Out<'_>) -> io::Result<()> {
    super::write(&ReportDocument::new(report, wiring, root), out)
}

/// Corvant's JSON report, version 2.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "report", deny_unknown_fields)]
pub struct ReportDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    report: Version<2>,
    /// The folder that was audited, as it was given.
    root: &'a str,
    summary: SummaryNumbers,
    /// Only findings that were not there at a revision are told.
    #[serde(skip_serializing_if = "Option::is_none")]
    since: Option<SinceDocument<'a>>,
    /// Who read the files, and what came of it.
    readers: Each<'a, Coverage, ReaderLine<'a>>,
    /// Errors first; what fails at start-up first; the widest reach first.
    findings: Each<'a, Finding, FindingDocument<'a>>,
    /// What the audit could not see.
    blind_spots: Each<'a, BlindSpot, BlindSpotDocument<'a>>,
}

impl<'a> ReportDocument<'a> {
    fn new(report: &'a Report, wiring: &'a Wiring, root: &'a str) -> Self {
        Self {
            corvant: PROGRAM,
            report: Version,
            root,
            summary: SummaryNumbers::new(&report.summary),
            since: report
                .since
                .as_ref()
                .map(|since| SinceDocument { revision: &since.revision, there_before: since.there_before }),
            readers: Each::new(&report.readers, |coverage| ReaderLine::new(wiring, coverage)),
            findings: Each::new(&report.findings, |finding| FindingDocument::new(wiring, finding)),
            blind_spots: Each::new(&report.blind_spots, |spot| BlindSpotDocument::new(wiring, spot)),
        }
    }
}

/// What was looked at, and how many findings there are of each severity.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "summary", deny_unknown_fields)]
struct SummaryNumbers {
    modules: usize,
    manifests: usize,
    services: usize,
    needs: usize,
    entries: usize,
    errors: usize,
    warnings: usize,
    notes: usize,
}

impl SummaryNumbers {
    fn new(summary: &Summary) -> Self {
        let &Summary { modules, manifests, services, needs, entries, errors, warnings, notes } = summary;
        Self { modules, manifests, services, needs, entries, errors, warnings, notes }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "since", deny_unknown_fields)]
struct SinceDocument<'a> {
    revision: &'a str,
    /// How many findings were there already; they are not among the findings.
    there_before: usize,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "reader", deny_unknown_fields)]
struct ReaderLine<'a> {
    /// A custom reader or an open standard; null: Corvant's own format.
    reader: Option<&'a str>,
    files: usize,
    facts: usize,
    /// Values passed over.
    left_over: usize,
}

impl<'a> ReaderLine<'a> {
    fn new(wiring: &'a Wiring, coverage: &Coverage) -> Self {
        let reader = coverage.reader.map(|reader| wiring.text(reader));
        Self { reader, files: coverage.files, facts: coverage.facts, left_over: coverage.left_over }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "finding", deny_unknown_fields)]
pub(super) struct FindingDocument<'a> {
    rule: RuleName,
    severity: Worded<Severity>,
    /// What it is about; with the rule it identifies the finding.
    subject: &'a str,
    /// What is wrong.
    message: &'a str,
    /// Absent: in every stage, and with none chosen.
    #[serde(skip_serializing_if = "Option::is_none")]
    holds: Option<HoldsDocument<'a>>,
    reach: ReachNumbers,
    fails: Fails<'a>,
    /// Where; the first is the one to go to.
    places: Vec<RolePlace<'a>>,
    /// What can be done about it, likeliest first.
    fixes: Vec<FixDocument<'a>>,
    /// Stays the same when lines move.
    #[schemars(regex(pattern = "^[0-9a-f]{16}$"))]
    fingerprint: String,
}

impl<'a> FindingDocument<'a> {
    pub(super) fn new(wiring: &'a Wiring, finding: &'a Finding) -> Self {
        let file = finding.places.first().map_or("", |place| wiring.path(place.source));
        Self {
            rule: RuleName(finding.rule.name),
            severity: Worded(finding.severity),
            subject: &finding.subject,
            message: &finding.message,
            holds: finding.holds.as_ref().map(|holds| HoldsDocument::new(wiring, holds)),
            reach: ReachNumbers::new(&finding.reach),
            fails: Fails::new(wiring, &finding.reach),
            places: finding.places.iter().map(|place| RolePlace::new(wiring, place)).collect(),
            fixes: finding.fixes.iter().map(|fix| FixDocument::new(wiring, fix)).collect(),
            fingerprint: finding.fingerprint(file),
        }
    }
}

/// The name of a rule.
#[derive(Serialize)]
struct RuleName(&'static str);

impl JsonSchema for RuleName {
    fn schema_name() -> Cow<'static, str> {
        "rule".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        let names: Vec<&str> = TEXTS.iter().map(|rule| rule.name).collect();
        json_schema!({ "enum": names })
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "holds", deny_unknown_fields)]
struct HoldsDocument<'a> {
    /// The stages in which it holds.
    stages: Vec<&'a str>,
    /// Whether it holds where no stage is chosen.
    none_chosen: bool,
}

impl<'a> HoldsDocument<'a> {
    fn new(wiring: &'a Wiring, holds: &finding::Holds) -> Self {
        let stages = holds.stages.iter().map(|&stage| wiring.text(stage)).collect();
        Self { stages, none_chosen: holds.none_chosen }
    }
}

/// How much cannot be built or used because of it.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "reach", deny_unknown_fields)]
struct ReachNumbers {
    services: u32,
    entries: u32,
    /// There may be more: the search was cut short.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    at_least: bool,
}

impl ReachNumbers {
    fn new(reach: &Reach) -> Self {
        Self { services: reach.services, entries: reach.entries, at_least: reach.at_least }
    }
}

/// When it fails.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "fails", deny_unknown_fields)]
struct Fails<'a> {
    /// Whether something fails while the application starts.
    start_up: bool,
    /// The first few entries that fail when they are first used.
    first_entries: Vec<&'a str>,
}

impl<'a> Fails<'a> {
    fn new(wiring: &'a Wiring, reach: &Reach) -> Self {
        let entry = |&entry: &EntryIndex| wiring.text(wiring.facts.entries[entry.index()].id.name);
        let first_entries = reach.first_entries.iter().map(entry).collect();
        Self { start_up: !reach.start_up.is_empty(), first_entries }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "role_place", deny_unknown_fields)]
struct RolePlace<'a> {
    #[serde(flatten)]
    place: Place<'a>,
    /// The part it plays in the finding.
    role: &'a str,
}

impl<'a> RolePlace<'a> {
    fn new(wiring: &'a Wiring, place: &'a source::Place) -> Self {
        Self { place: Place::new(wiring, place), role: &place.role }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "fix", deny_unknown_fields)]
pub(super) struct FixDocument<'a> {
    /// What to do.
    title: &'a str,
    certainty: Worded<Certainty>,
    /// What changes in the files, all of it together; none: it is advice, or the files cannot be edited.
    edits: Vec<EditDocument<'a>>,
}

impl<'a> FixDocument<'a> {
    pub(super) fn new(wiring: &'a Wiring, fix: &'a Fix) -> Self {
        let edits = fix.edits.iter().map(|edit| EditDocument {
            file: wiring.path(edit.source),
            start: edit.span.start,
            end: edit.span.end,
            text: &edit.text,
        });
        let edits = edits.collect();
        Self { title: &fix.title, certainty: Worded(fix.certainty), edits }
    }
}

/// A part of a file that gives way to another text. Bytes count from 0, behind a byte-order mark if there is one.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "edit", deny_unknown_fields)]
struct EditDocument<'a> {
    /// The file, relative to the root, with `/`.
    file: &'a str,
    /// The first byte that goes.
    start: u32,
    /// One past the last byte that goes.
    end: u32,
    /// The text that comes.
    text: &'a str,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "blind_spot", deny_unknown_fields)]
struct BlindSpotDocument<'a> {
    kind: Worded<BlindSpotKind>,
    subject: &'a str,
    message: &'a str,
    /// Where, if anywhere.
    places: Vec<RolePlace<'a>>,
}

impl<'a> BlindSpotDocument<'a> {
    fn new(wiring: &'a Wiring, spot: &'a BlindSpot) -> Self {
        let places = spot.places.iter().map(|place| RolePlace::new(wiring, place)).collect();
        Self { kind: Worded(spot.kind), subject: &spot.subject, message: &spot.message, places }
    }
}
