//! The JSON Schema (draft 2020-12) of the JSON report.

use corvant_core::finding::{BlindSpotKind, Certainty, Severity};
use corvant_core::rules::RULES;
use serde_json::{Value, json};

/// The schema of the JSON report, version 2.
pub fn report() -> Value {
    let rules: Vec<&str> = RULES.iter().map(|rule| rule.name).collect();
    let numbers = ["modules", "manifests", "services", "needs", "entries", "errors", "warnings", "notes"];
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Corvant's JSON report, version 2",
        "$ref": "#/$defs/report",
        "$defs": {
            "report": object(&json!({
                "corvant": described("string", "The version of the program"),
                "report": { "const": crate::json::VERSION, "description": "The version of this format" },
                "root": described("string", "The folder that was audited, as it was given"),
                "summary": object(&numbers.map(|number| (number.to_owned(), count())).into_iter().collect(), &[]),
                "readers": list("reader", "Who read the files, and what came of it"),
                "findings": list("finding", "Errors first; what fails at start-up first; the widest reach first"),
                "blind_spots": list("blind_spot", "What the audit could not see"),
            }), &[]),
            "reader": object(&json!({
                "reader": {
                    "type": ["string", "null"],
                    "description": "A custom reader or an open standard; null: Corvant's own format",
                },
                "files": count(), "facts": count(),
                "left_over": { "type": "integer", "minimum": 0, "description": "Values passed over" },
            }), &[]),
            "finding": object(&json!({
                "rule": { "enum": rules },
                "severity": { "enum": Severity::ALL.map(Severity::word) },
                "subject": described("string", "What it is about; with the rule it identifies the finding"),
                "message": described("string", "What is wrong"),
                "holds": object(&json!({
                    "stages": {
                        "type": "array", "items": { "type": "string" },
                        "description": "The stages in which it holds",
                    },
                    "none_chosen": described("boolean", "Whether it holds where no stage is chosen"),
                }), &[]),
                "reach": object(&json!({
                    "services": count(), "entries": count(),
                    "at_least": { "const": true, "description": "There may be more: the search was cut short" },
                }), &["at_least"]),
                "fails": object(&json!({
                    "start_up": described("boolean", "Whether something fails while the application starts"),
                    "first_entries": {
                        "type": "array", "items": { "type": "string" },
                        "description": "The first few entries that fail when they are first used",
                    },
                }), &[]),
                "places": list("place", "Where; the first is the one to go to"),
                "fixes": list("fix", "What can be done about it, likeliest first"),
                "fingerprint": {
                    "type": "string", "pattern": "^[0-9a-f]{16}$",
                    "description": "Stays the same when lines move",
                },
            }), &["holds"]),
            "fix": object(&json!({
                "title": described("string", "What to do"),
                "certainty": { "enum": Certainty::ALL.map(Certainty::word) },
                "edits": list("edit", "What changes in the files, all of it together; none: advice"),
            }), &[]),
            "edit": object(&json!({
                "file": described("string", "Relative to the root, with /"),
                "start": { "type": "integer", "minimum": 0, "description": "The first byte that goes" },
                "end": { "type": "integer", "minimum": 0, "description": "One past the last byte that goes" },
                "text": described("string", "The text that comes"),
            }), &[]),
            "blind_spot": object(&json!({
                "kind": { "enum": BlindSpotKind::ALL.map(BlindSpotKind::word) },
                "subject": { "type": "string" },
                "message": { "type": "string" },
                "places": list("place", "Where, if anywhere"),
            }), &[]),
            "place": object(&json!({
                "file": described("string", "Relative to the root, with /"),
                "line": position("From 1"), "column": position("In characters, from 1"),
                "end_line": position("From 1"), "end_column": position("One past the last character"),
                "role": described("string", "The part it plays in the finding"),
            }), &[]),
        },
    })
}

/// An object of exactly these fields; those in `optional` may be absent.
fn object(properties: &Value, optional: &[&str]) -> Value {
    let fields = properties.as_object().into_iter().flatten().map(|(name, _)| name);
    let required: Vec<&String> = fields.filter(|name| !optional.contains(&name.as_str())).collect();
    json!({ "type": "object", "additionalProperties": false, "required": required, "properties": properties })
}

fn described(kind: &str, description: &str) -> Value {
    json!({ "type": kind, "description": description })
}

fn list(of: &str, description: &str) -> Value {
    json!({ "type": "array", "items": { "$ref": format!("#/$defs/{of}") }, "description": description })
}

fn count() -> Value {
    json!({ "type": "integer", "minimum": 0 })
}

fn position(description: &str) -> Value {
    json!({ "type": "integer", "minimum": 1, "description": description })
}
