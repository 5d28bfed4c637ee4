//! `wrong-shape`: a value that is not of the shape its field takes.

use crate::facts::{Trouble, TroubleKind};
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, FilesView, Sink};
use crate::word::some_of;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "wrong-shape",
        family: Family::Reading,
        severity: Severity::Error,
        summary: "a list where a map belongs, text for a number, a tag that is not one name",
        why: "A value of the wrong shape is passed over, and what it should have said is missing from the wiring.",
        limits: "Nothing at all (an empty value) stands for an empty list or map and is accepted there. Names in a \
             value that is passed over are reported neither as missing nor as unused. Paths of a custom reader that select \
             nothing in any of its files are a warning; where one of the files could not be read, nothing is said of them.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board:
    type: velmora.timetable.Board
    offers: DepartureSource
entries:
  stop-display:
    needs: { board: { contract: DepartureSource } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board:
    type: velmora.timetable.Board
    offers: [DepartureSource]
entries:
  stop-display:
    needs: { board: { contract: DepartureSource } }
"#,
        scope: Scope::Files,
    },
    check: Check::Files(check),
};

/// How many paths a message names.
const NAMED: usize = 3;

/// What custom readers look for in vain, all of one reader together: it is for a format that has more, or is misspelt.
fn idle_paths(view: &FilesView<'_>, sink: &mut Sink) {
    let mut readers: Vec<(&str, Vec<&Trouble>)> = Vec::new();
    for trouble in view.troubles().iter().filter(|trouble| trouble.kind == TroubleKind::IdlePath) {
        match readers.iter_mut().find(|(reader, _)| *reader == trouble.subject) {
            Some((_, troubles)) => troubles.push(trouble),
            None => readers.push((&trouble.subject, vec![trouble])),
        }
    }
    for (reader, troubles) in readers {
        let path = |trouble: &&Trouble| trouble.message.trim_end_matches(" selects nothing").to_owned();
        let paths: Vec<String> = troubles.iter().map(path).collect();
        let paths: Vec<&str> = paths.iter().map(String::as_str).collect();
        let select = if paths.len() == 1 { "selects" } else { "select" };
        let message =
            format!("{} {select} nothing in any file of the reader {reader}", some_of(&paths, NAMED));
        let finding = Finding::new(&RULE.text, format!("reader {reader}"), message);
        let mut finding = troubles.iter().fold(finding, |finding, trouble| {
            finding.at(trouble.source, trouble.at.0, trouble.message.clone())
        });
        finding.severity = Severity::Warning;
        sink.report(
            finding.advice("see what is left over with `corvant audit --explain-readers`, or take it out"),
        );
    }
}

fn check(view: &FilesView<'_>, sink: &mut Sink) {
    idle_paths(view, sink);
    view.report_troubles(&RULE.text, TroubleKind::WrongShape, sink);
}
