//! `empty-promise`: a provider that registers an id that has no definition.

use crate::finding::{Certainty, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "empty-promise",
        family: Family::Providers,
        severity: Severity::Error,
        summary: "a provider that registers an id that has no definition",
        why: "What it promises to register is not there: registering fails, or what counts on it does.",
        limits: "An id that stands in text that could not be read is taken to be defined there; one that the host \
             platform supplies is assumed to be there.",
        fixes: Certainty::Certain,
        faulty: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
services: { timetable.board: { type: velmora.timetable.Board } }
providers: { timetable.provider: { registers: [timetable.baord] } }
"#,
        corrected: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
services: { timetable.board: { type: velmora.timetable.Board } }
providers: { timetable.provider: { registers: [timetable.board] } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let (wiring, facts) = (view.wiring(), &view.wiring().facts);
    for provider in &facts.providers {
        for id in provider.registers.iter().flat_map(|registers| registers.of(&facts.parts)) {
            if !view.is_empty_promise(id.name) {
                continue;
            }
            let (by, id_text) = (view.text(provider.id.name), view.text(id.name));
            let message = format!("{by} registers {id_text}, which is not defined");
            let mut finding = Finding::new(&RULE.text, format!("{by} > {id_text}"), message).at(
                provider.source,
                id.span,
                "registered here",
            );
            if let Some(meant) = view.promised(id.name) {
                let place = match wiring.first_definition(meant.name) {
                    Some(service) => view.whereabouts(service),
                    None => format!("{}, supplied by the host platform", view.text(meant.name)),
                };
                finding = finding.fix(Fix::rename(
                    format!("write {place}"),
                    [(provider.source, id.span)],
                    id_text,
                    view.text(meant.name),
                    meant.likeness,
                ));
            }
            sink.report(finding.advice(format!("define {id_text}, or take it out of `registers`")));
        }
    }
}
