//! The report as SARIF 2.1.0, the OASIS standard that code hosts and viewers take.
//!
//! Only what the standard defines is written; stages and reach, for which it has no place, are properties. Files are
//! relative to the root that was audited and percent-encoded, columns count units of UTF-16. What stands in an archive
//! is told as a logical location, with the archive as the file: a viewer cannot open what is inside.

mod finding;
mod place;
mod rule;

use crate::out::Out;
use corvant_core::audit::{Accepted, Report};
use corvant_core::finding::BlindSpot;
use corvant_core::rules::TEXTS;
use corvant_core::wiring::Wiring;
use finding::{FindingResult, Subjects};
use place::Location;
use rule::Descriptor;
use serde::Serialize;
use serde::ser::SerializeSeq;
use std::collections::BTreeMap;
use std::io::{self, Write};

/// Findings that are written at most, if nothing else is asked for: code hosts refuse logs of many more.
pub const LIMIT: usize = 25_000;

/// The name of the base that files are relative to.
const ROOT: &str = "ROOT";

/// Writes a report as a SARIF log. At most `limit` findings are written, the worst first; what is left out is told as a
/// notification.
pub fn write(report: &Report, wiring: &Wiring, limit: usize, out: &mut Out<'_>) -> io::Result<()> {
    let subjects = Subjects::new(wiring);
    let of_findings = &report.findings[..report.findings.len().min(limit)];
    let of_accepted = &report.accepted[..report.accepted.len().min(limit - of_findings.len())];
    let left_out = report.findings.len() + report.accepted.len() - of_findings.len() - of_accepted.len();
    let log = Log {
        schema: "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        version: "2.1.0",
        runs: [Run {
            tool: Tool {
                driver: Driver {
                    name: "Corvant",
                    version: env!("CARGO_PKG_VERSION"),
                    semantic_version: env!("CARGO_PKG_VERSION"),
                    full_description: Message::new("Audits the wiring of large systems before they start."),
                    rules: TEXTS.iter().map(|rule| Descriptor::new(rule, &wiring.policy)).collect(),
                    notifications: [
                        NotificationKind {
                            id: "not-seen",
                            short_description: Message::new("What the audit could not see."),
                        },
                        NotificationKind {
                            id: "left-out",
                            short_description: Message::new("Findings that are not in this log."),
                        },
                    ],
                },
            },
            column_kind: "utf16CodeUnits",
            original_uri_base_ids: BTreeMap::from([(
                ROOT,
                Base { description: Message::new("The folder that was audited.") },
            )]),
            invocations: [Invocation {
                execution_successful: true,
                notifications: Notifications { wiring, spots: &report.blind_spots, left_out },
            }],
            results: Results {
                wiring,
                subjects: &subjects,
                findings: of_findings,
                accepted: of_accepted,
                baseline_state: report.since.as_ref().map(|_| "new"),
            },
        }],
    };
    serde_json::to_writer(out.json(), &log)?;
    out.write_all(b"\n")
}

#[derive(Serialize)]
struct Log<'a> {
    #[serde(rename = "$schema")]
    schema: &'static str,
    version: &'static str,
    runs: [Run<'a>; 1],
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Run<'a> {
    tool: Tool,
    column_kind: &'static str,
    original_uri_base_ids: BTreeMap<&'static str, Base<'a>>,
    invocations: [Invocation<'a>; 1],
    results: Results<'a>,
}

#[derive(Serialize)]
struct Tool {
    driver: Driver,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Driver {
    name: &'static str,
    version: &'static str,
    semantic_version: &'static str,
    full_description: Message<'static>,
    rules: Vec<Descriptor>,
    notifications: [NotificationKind; 2],
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct NotificationKind {
    id: &'static str,
    short_description: Message<'static>,
}

#[derive(Serialize)]
struct Base<'a> {
    description: Message<'a>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Invocation<'a> {
    execution_successful: bool,
    #[serde(rename = "toolExecutionNotifications")]
    notifications: Notifications<'a>,
}

/// A text.
#[derive(Serialize)]
struct Message<'a> {
    text: &'a str,
}

impl<'a> Message<'a> {
    fn new(text: &'a str) -> Self {
        Self { text }
    }
}

/// What could not be seen, and how much is left out.
struct Notifications<'a> {
    wiring: &'a Wiring,
    spots: &'a [BlindSpot],
    left_out: usize,
}

#[derive(Serialize)]
struct Notification<'a> {
    level: &'static str,
    message: Message<'a>,
    descriptor: DescriptorReference,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    locations: Vec<Location<'a>>,
}

#[derive(Serialize)]
struct DescriptorReference {
    id: &'static str,
    index: usize,
}

impl Serialize for Notifications<'_> {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(None)?;
        for spot in self.spots {
            let locations = spot.places.iter().map(|place| Location::new(self.wiring, place)).collect();
            list.serialize_element(&Notification {
                level: "note",
                message: Message::new(&format!("{}: {}", spot.subject, spot.message)),
                descriptor: DescriptorReference { id: "not-seen", index: 0 },
                locations,
            })?;
        }
        if self.left_out > 0 {
            let text = format!(
                "{} findings more are not in this log, which holds the worst; the JSON report has all of them",
                self.left_out
            );
            list.serialize_element(&Notification {
                level: "warning",
                message: Message::new(&text),
                descriptor: DescriptorReference { id: "left-out", index: 1 },
                locations: Vec::new(),
            })?;
        }
        list.end()
    }
}

/// Findings, then what allowances accepted; each is made when it is written.
struct Results<'a> {
    wiring: &'a Wiring,
    subjects: &'a Subjects<'a>,
    findings: &'a [corvant_core::finding::Finding],
    accepted: &'a [Accepted],
    /// What findings are against an earlier state, if they are held against one.
    baseline_state: Option<&'static str>,
}

impl Serialize for Results<'_> {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(Some(self.findings.len() + self.accepted.len()))?;
        for finding in self.findings {
            list.serialize_element(&FindingResult::new(
                self.wiring,
                self.subjects,
                finding,
                None,
                self.baseline_state,
            ))?;
        }
        for accepted in self.accepted {
            let reason = Some(accepted.reason(self.wiring));
            list.serialize_element(&FindingResult::new(
                self.wiring,
                self.subjects,
                &accepted.finding,
                reason,
                None,
            ))?;
        }
        list.end()
    }
}
