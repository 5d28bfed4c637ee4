//! `unknown-field`: a field that the format does not have.

use crate::facts::TroubleKind;
use crate::finding::{Certainty, Family, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, FilesView, Sink};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unknown-field",
        family: Family::Reading,
        severity: Severity::Error,
        summary: "a field that the format does not have, mostly a misspelt one",
        why: "What a misspelt field holds is silently not read: a service without its needs, a module without its \
          services.",
        limits: "What the field holds is not looked at: names in it are reported neither as missing nor as unused.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board:
    type: velmora.timetable.Board
    lifetim: process
entries:
  stop-display:
    needs: { board: { service: timetable.board } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board:
    type: velmora.timetable.Board
    lifetime: process
entries:
  stop-display:
    needs: { board: { service: timetable.board } }
"#,
        scope: Scope::Files,
    },
    check: Check::Files(check),
};

fn check(view: &FilesView<'_>, sink: &mut Sink) {
    view.report_troubles(&RULE.text, TroubleKind::UnknownField, sink);
}
