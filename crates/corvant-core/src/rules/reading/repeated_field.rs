//! `repeated-field`: one key twice in one map.

use crate::facts::TroubleKind;
use crate::finding::{Family, RuleText, Scope, Severity};
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

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn a_second_definition_in_one_map_is_a_repeated_field_and_nothing_else() {
        expect(
            r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock }
  clock.other: { type: velmora.clock.Other }
  clock.system: { type: velmora.clock.Other, needs: { other: { service: clock.other } } }
  ^^^^^^^^^^^^ repeated-field services.clock.system
entries:
  tick: { needs: { clock: { service: clock.system } } }
"#,
        );
    }

    #[test]
    fn repetitions_are_seen_among_many_fields() {
        let lines: String = (0..40).map(|number| format!("  clock.c{number}: {{}}\n")).collect();
        let text = format!(
            "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n{lines}  clock.c33: {{}}\n  ^^^^^^^^^ repeated-field services.clock.c33\n"
        );
        expect(&text);
    }
}
