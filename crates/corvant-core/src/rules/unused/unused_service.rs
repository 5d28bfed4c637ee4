//! `unused-service`: a service that nothing comes to use.

use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::graph::{Graph, What};
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-service",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "a service that no entry, provider or expectation comes to use",
        why: "It is read, reviewed and kept up to date for nothing; or something was meant to use it and does not.",
        limits: "Without an entry used and unused cannot be told apart, and the rule does not run; nor where a file \
             or folder could not be read at all. Lazy and optional needs count as use, and so does being the \
             probable meaning of a misspelt name, being mentioned in text that could not be read, and carrying \
             a tag that the host platform collects. A service that is used in any stage is used. Aliases and \
             templates are not services that are built.",
        fixes: Certainty::Likely,
        faulty: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate }
  depot.old-gate: { type: velmora.depot.OldGate }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
"#,
        corrected: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let usage = view.usage();
    if !view.wiring().facts.names_entries() || view.doubts().is_opaque() {
        return;
    }
    let idle = view.wiring().services().filter(|&(index, _)| usage.is_idle(index));
    for (index, service) in idle.filter(|(_, service)| !view.may_be_needed(service.source)) {
        let id = view.text(service.id.name);
        let message = format!("nothing comes to use {id}{}", because(view, index));
        let finding = Finding::new(&RULE.text, id, message)
            .at(service.source, service.id.span, "defined here")
            .fix(Fix::likely(
                "take it out, or let something need it",
                [Change::take_out(service.source, service.id.span)],
            ))
            .advice(view.say(service.source, EditSort::Entry, id, || {
                "if something outside the wiring uses it, name that under `entries`".to_owned()
            }));
        sink.report(finding);
    }
}

/// What stands between the service and those who could use it.
fn because(view: &WorkspaceView<'_>, index: ServiceIndex) -> String {
    let graph = view.graph();
    let users = graph.needed_by(Graph::service(index)).iter().map(|edge| graph.what(edge.node));
    let mut users: Vec<&str> = users
        .filter_map(|what| match what {
            What::Service(user) if user != index => Some(view.id(user)),
            _ => None,
        })
        .collect();
    users.sort_unstable();
    users.dedup();
    if let [first, rest @ ..] = users.as_slice() {
        return match rest.len() {
            0 => format!(": only {first} needs it, which is unused too"),
            more => format!(": only {first} and {more} more need it, which are unused too"),
        };
    }
    let offers = view.service(index).offers.of(view.parts());
    let winner = offers.iter().find_map(|offer| {
        let wins = view.resolution().winner(offer.name)?;
        (wins != index).then_some((offer.name, wins))
    });
    match winner {
        Some((contract, wins)) => {
            format!(": who needs {} gets {}", view.text(contract), view.id(wins))
        }
        None => ": no entry, provider or expectation reaches it".to_owned(),
    }
}
