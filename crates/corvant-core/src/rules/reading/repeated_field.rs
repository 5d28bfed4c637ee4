//! `repeated-field`: one key twice in one map.

use crate::facts::TroubleKind;
use crate::finding::{Certainty, Family, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, FilesView, Sink};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "repeated-field",
        family: Family::Reading,
        severity: Severity::Error,
        summary: "the same key twice in one map",
        why: "One of the two is silently lost, and which one depends on the program that reads the file.",
        limits: "The second is passed over: names in it are reported neither as missing nor as unused. A key that \
             overrides what a merge key brings is no repetition.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings:
  timetable.horizon: 90
  timetable.horizon: 120
entries:
  stop-display:
    needs: { horizon: { setting: timetable.horizon } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings:
  timetable.horizon: 90
entries:
  stop-display:
    needs: { horizon: { setting: timetable.horizon } }
"#,
        scope: Scope::Files,
    },
    check: Check::Files(check),
};

fn check(view: &FilesView<'_>, sink: &mut Sink) {
    view.report_troubles(&RULE.text, TroubleKind::RepeatedField, sink);
}
