//! `unused-alias`: an alias that nothing asks for.

use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-alias",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "an alias that nothing asks for",
        why: "Nothing would change if it were gone; or something was meant to use it and uses another name.",
        limits: "An alias that only other aliases lead to is not reported, they are. Names that stand in text that \
             could not be read are in use.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { type: velmora.timetable.Board }
  timetable.main: { alias-of: timetable.board }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { type: velmora.timetable.Board }
  timetable.main: { alias-of: timetable.board }
entries:
  stop-display: { needs: { board: { service: timetable.main } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    if view.doubts().is_opaque() {
        return;
    }
    let called = view.called_services();
    let services = view.usage().services(view.wiring());
    for service in services {
        let Some(target) = service.alias_of else { continue };
        let id = service.id.name;
        let may_be_called = view.doubts().mentions(id).is_some() || view.may_be_needed(service.source);
        if called[id.index()] || may_be_called {
            continue;
        }
        let (id, target) = (view.text(id), view.text(target.name));
        let message = format!("nothing asks for {target} by its other name {id}");
        let finding = Finding::new(&RULE.text, id, message)
            .at(service.source, service.id.span, "defined here")
            .fix(Fix::likely(
                format!("take it out, or let something need {id}"),
                [Change::take_out(service.source, service.id.span)],
            ));
        sink.report(finding);
    }
}
