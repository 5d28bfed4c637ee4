//! `unknown-field`: a field that the format does not have.

use crate::facts::TroubleKind;
use crate::finding::{Family, RuleText, Scope, Severity};
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

#[cfg(test)]
mod tests {
    use corvant_testing::{expect, messages};
    use rstest::rstest;

    #[test]
    fn what_a_misspelt_section_holds_is_neither_missing_nor_unused() {
        expect(
            r#"
//- clock.wiring.yaml
corvant: 1
module: clock
service:
^^^^^^^ unknown-field service
  clock.system: { type: velmora.clock.SystemClock, needs: { source: { contract: Quartz } } }
services:
  clock.quartz: { type: velmora.clock.Quartz, offers: [Quartz] }
entries:
  station-clock: { needs: { clock: { service: clock.system } } }
"#,
        );
    }

    #[rstest]
    #[case::singular("service: {}", "write `services`")]
    #[case::underscore("services: { a.b: { alias_of: c.d } }", "write `alias-of`")]
    #[case::deep("entries: { a: { needs: { b: { servise: c.d } } } }", "write `service`")]
    #[case::nothing_near("colour: red", "take it out, or use one of corvant, module, about")]
    fn the_field_that_was_meant_is_named(#[case] line: &str, #[case] help: &str) {
        let text = format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{line}\n");
        let found = messages(&text);
        let corrected =
            found.iter().any(|finding| finding.rule == "unknown-field" && finding.text.contains(help));
        assert!(corrected, "{found:#?}");
    }
}
