//! The JSON report has the fields that are promised, and streams.

use corvant_core::audit::{Options, Report, audit};
use corvant_core::wiring::Wiring;
use corvant_render::documents::report;
use corvant_render::out::Out;
use serde_json::{Value, json};
use std::io::{self, Write};

fn audited(text: &str) -> (Wiring, Report) {
    let wiring = corvant_testing::wiring([("web.wiring.yaml", text)]);
    let report = audit(&wiring, &Options::default());
    (wiring, report)
}

fn written(text: &str) -> String {
    let (wiring, report) = audited(text);
    let mut out = Vec::new();
    report::write(&report, &wiring, "some/root", &mut Out::new(&mut out)).unwrap();
    String::from_utf8(out).unwrap()
}

const FAULTY: &str = "corvant: 1\nmodule: web\nservices:\n  žluť.map: { stages: [live] }\nentries:\n  e: { needs: { ž: { service: web.gone } } }\n";

#[test]
fn the_fields_stand_as_promised_and_in_order() {
    let text = written(FAULTY);
    let report: Value = serde_json::from_str(&text).unwrap();
    let keys = |value: &Value| value.as_object().unwrap().keys().cloned().collect::<Vec<_>>();
    assert_eq!(keys(&report), ["corvant", "report", "root", "summary", "readers", "findings", "blind_spots"]);
    assert_eq!(
        (&report["corvant"], &report["report"], &report["root"]),
        (&json!(env!("CARGO_PKG_VERSION")), &json!(2), &json!("some/root"))
    );
    let summary = ["modules", "manifests", "services", "needs", "entries", "errors", "warnings", "notes"];
    assert_eq!(keys(&report["summary"]), summary);
    let own = json!({ "reader": null, "files": 1, "facts": 2, "left_over": 0 });
    assert_eq!(report["readers"], json!([own]));
    let missing = &report["findings"][0];
    let fields =
        ["rule", "severity", "subject", "message", "reach", "fails", "places", "fixes", "fingerprint"];
    assert_eq!(keys(missing), fields, "`holds` is absent where it holds in every stage and in none");
    assert_eq!(keys(&missing["reach"]), ["services", "entries"]);
    // Columns count characters: the ž before the place is one.
    let place = json!({ "file": "web.wiring.yaml", "line": 6, "column": 31, "end_line": 6, "end_column": 39, "role": "needed here by e" });
    assert_eq!(missing["places"], json!([place]));
    assert_eq!(missing["fails"], json!({ "start_up": false, "first_entries": ["e"] }));
    assert!(text.ends_with("}\n"));
}

#[test]
fn fingerprints_survive_moved_lines_and_tell_findings_apart() {
    let prints = |text: &str| -> Vec<String> {
        let report: Value = serde_json::from_str(&written(text)).unwrap();
        let findings = report["findings"].as_array().unwrap();
        findings.iter().map(|finding| finding["fingerprint"].as_str().unwrap().to_owned()).collect()
    };
    let moved = FAULTY.replace("services:", "about: moved\n\n\n\nservices:");
    assert_eq!(prints(FAULTY), prints(&moved));
    assert_ne!(prints(FAULTY), prints(&FAULTY.replace("web.gone", "web.lost")));
    assert!(prints(FAULTY).iter().all(|print| print.len() == 16));
}

/// Counts the largest piece that is written at once.
struct Pieces {
    largest: usize,
    all: usize,
}

impl Write for Pieces {
    fn write(&mut self, piece: &[u8]) -> io::Result<usize> {
        self.largest = self.largest.max(piece.len());
        self.all += piece.len();
        Ok(piece.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

#[test]
fn findings_are_written_one_by_one() {
    let needs: String =
        (0..5_000).map(|number| format!("      s{number}: {{ service: web.gone{number} }}\n")).collect();
    let (wiring, report) = audited(&format!("corvant: 1\nmodule: web\nentries:\n  e:\n    needs:\n{needs}"));
    assert_eq!(report.findings.len(), 5_000);
    let mut out = Pieces { largest: 0, all: 0 };
    report::write(&report, &wiring, ".", &mut Out::new(&mut out)).unwrap();
    assert!(out.all > 1_000_000);
    assert!(out.largest < 10_000, "{} bytes at once", out.largest);
}

#[test]
fn a_writer_that_fails_ends_the_report() {
    struct Full;
    impl Write for Full {
        fn write(&mut self, _: &[u8]) -> io::Result<usize> {
            Err(io::ErrorKind::StorageFull.into())
        }
        fn flush(&mut self) -> io::Result<()> {
            Ok(())
        }
    }
    let (wiring, report) = audited(FAULTY);
    let error = report::write(&report, &wiring, ".", &mut Out::new(&mut Full)).unwrap_err();
    assert_eq!(error.kind(), io::ErrorKind::StorageFull);
}
