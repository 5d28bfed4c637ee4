//! The JSON report, version 2.
//!
//! Findings are written one by one as they are serialised: a report of a million takes no more memory than
//! one of ten.

use crate::out::Out;
use corvant_core::audit::Report;
use corvant_core::finding::{BlindSpot, Edit, Finding, Fix};
use corvant_core::graph::reach::Reach;
use corvant_core::source::Place;
use corvant_core::wiring::Wiring;
use serde::ser::{Serialize, SerializeMap, SerializeSeq, Serializer};
use serde_json::{Value, json};
use std::io::{self, Write};

/// The version of the report's format.
pub const VERSION: u32 = 2;

/// Writes a report as JSON. `program` is the program's version, `root` the folder that was audited, as given.
pub fn write(
    report: &Report,
    wiring: &Wiring,
    program: &str,
    root: &str,
    out: &mut Out<'_>,
) -> io::Result<()> {
    serde_json::to_writer_pretty(out.json(), &Document { report, wiring, program, root })?;
    out.write_all(b"\n")
}

struct Document<'a> {
    report: &'a Report,
    wiring: &'a Wiring,
    program: &'a str,
    root: &'a str,
}

impl Serialize for Document<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let summary = &self.report.summary;
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("corvant", self.program)?;
        map.serialize_entry("report", &VERSION)?;
        map.serialize_entry("root", self.root)?;
        map.serialize_entry(
            "summary",
            &json!({
                "modules": summary.modules,
                "manifests": summary.manifests,
                "services": summary.services,
                "needs": summary.needs,
                "entries": summary.entries,
                "errors": summary.errors,
                "warnings": summary.warnings,
                "notes": summary.notes,
            }),
        )?;
        let readers = self.report.readers.iter().map(|coverage| {
            let name = coverage.reader.map(|reader| self.wiring.text(reader));
            json!({
                "reader": name,
                "files": coverage.files,
                "facts": coverage.facts,
                "left_over": coverage.left_over,
            })
        });
        map.serialize_entry("readers", &readers.collect::<Value>())?;
        let finding = |finding: &Finding| self.finding(finding);
        map.serialize_entry("findings", &Each(&self.report.findings, finding))?;
        let blind_spot = |spot: &BlindSpot| self.blind_spot(spot);
        map.serialize_entry("blind_spots", &Each(&self.report.blind_spots, blind_spot))?;
        map.end()
    }
}

impl Document<'_> {
    fn finding(&self, finding: &Finding) -> Value {
        let mut object = json!({
            "rule": finding.rule.name,
            "severity": finding.severity.word(),
            "subject": finding.subject,
            "message": finding.message,
        });
        if let Some(holds) = &finding.holds {
            let stages: Vec<&str> = holds.stages.iter().map(|&stage| self.wiring.text(stage)).collect();
            object["holds"] = json!({ "stages": stages, "none_chosen": holds.none_chosen });
        }
        object["reach"] = reach(&finding.reach);
        object["fails"] = self.fails(&finding.reach);
        object["places"] = self.places(&finding.places);
        object["fixes"] = self.fixes(&finding.fixes);
        let file = finding.places.first().map_or("", |place| self.wiring.path(place.source));
        object["fingerprint"] = finding.fingerprint(file).into();
        object
    }

    /// Whether something fails at start-up, and the first few entries that fail at their first use.
    fn fails(&self, reach: &Reach) -> Value {
        let entry = |&entry: &u32| self.wiring.text(self.wiring.facts.entries[entry as usize].id.name);
        let entries: Vec<&str> = reach.first_entries.iter().map(entry).collect();
        json!({ "start_up": !reach.start_up.is_empty(), "first_entries": entries })
    }

    fn blind_spot(&self, spot: &BlindSpot) -> Value {
        json!({
            "kind": spot.kind.word(),
            "subject": spot.subject,
            "message": spot.message,
            "places": self.places(&spot.places),
        })
    }

    fn fixes(&self, fixes: &[Fix]) -> Value {
        let edit = |edit: &Edit| {
            let file = self.wiring.path(edit.source);
            json!({ "file": file, "start": edit.span.start, "end": edit.span.end, "text": edit.text })
        };
        let fix = |fix: &Fix| {
            let edits: Value = fix.edits.iter().map(edit).collect();
            json!({ "title": fix.title, "certainty": fix.certainty.word(), "edits": edits })
        };
        fixes.iter().map(fix).collect()
    }

    fn places(&self, places: &[Place]) -> Value {
        let place = |place: &Place| {
            let source = &self.wiring.sources[place.source.index()];
            let (start, end) = (source.position(place.span.start), source.position(place.span.end));
            json!({
                "file": source.path,
                "line": start.line,
                "column": start.column,
                "end_line": end.line,
                "end_column": end.column,
                "role": place.role,
            })
        };
        places.iter().map(place).collect()
    }
}

fn reach(reach: &Reach) -> Value {
    let mut value = json!({ "services": reach.services, "entries": reach.entries });
    if reach.at_least {
        value["at_least"] = true.into();
    }
    value
}

/// A list whose elements are made when they are written.
struct Each<'a, T, F>(&'a [T], F);

impl<T, U: Serialize, F: Fn(&T) -> U> Serialize for Each<'_, T, F> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(Some(self.0.len()))?;
        for item in self.0 {
            list.serialize_element(&(self.1)(item))?;
        }
        list.end()
    }
}
