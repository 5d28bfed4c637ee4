//! `empty-promise`: a provider that registers an id that has no definition.

use crate::finding::{Family, Finding, Fix, RuleText, Scope, Severity};
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

#[cfg(test)]
mod tests {
    use corvant_testing::{expect, messages};
    use rstest::rstest;

    #[rstest]
    #[case::defined("a.sensr", "write a.sensor (a.wiring.yaml:5)")]
    #[case::supplied("host.lgo", "write host.log, supplied by the host platform")]
    #[case::like_nothing("b.gate", "define b.gate, or take it out of `registers`")]
    fn what_was_probably_meant_is_named_with_where_it_is(#[case] registered: &str, #[case] help: &str) {
        let text = format!(
            "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nsupplied: {{ services: [host.log] }}\nservices:\n  a.sensor: {{}}\nproviders: {{ a.provider: {{ registers: [{registered}] }} }}\nentries: {{ e: {{ needs: {{ s: {{ service: a.sensor }} }} }} }}\n"
        );
        let found = messages(&text);
        assert!(found[0].text.contains(help), "{found:#?}");
    }

    #[test]
    fn supplied_staged_and_hidden_definitions_keep_the_promise() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { services: [host.x] }
providers:
  a.provider: { registers: [a.staged, host.x, b.hidden, a.alias, a.gone] }
                                                                 ^^^^^^ empty-promise a.provider > a.gone
services:
  a.staged: { stages: [drill] }
  a.alias: { alias-of: host.x }
entries:
  e: { needs: { s: { service: a.staged, optional: true }, a: { service: a.alias } } }
//- b.wiring.yaml
corvant: 1
module: b
services: { b.hidden: { }
 unreadable-file b.wiring.yaml
"#,
        );
    }
}
