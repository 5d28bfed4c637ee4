//! `missing-carrier`: a tag that fewer services carry than its declaration asks for.

use crate::finding::{Certainty, Family, Finding, Origin, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, StageView};
use crate::wiring::ServiceIndex;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-carrier",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a tag that fewer services carry than its declaration asks for",
        why: "What collects the tag counts on its carriers: with too few of them it does nothing, or fails.",
        limits: "Carriers that stand in a file that could not be read may be the missing ones: the tag is then not \
             checked.",
        fixes: Certainty::Advice,
        faulty: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
tags: { depot-task: { at-least: 2 } }
services:
  depot.washing: { type: velmora.depot.Washing, tags: [depot-task] }
entries:
  plan-night: { needs: { tasks: { tag: depot-task } } }
"#,
        corrected: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
tags: { depot-task: { at-least: 2 } }
services:
  depot.washing: { type: velmora.depot.Washing, tags: [depot-task] }
  depot.sanding: { type: velmora.depot.Sanding, tags: [depot-task] }
entries:
  plan-night: { needs: { tasks: { tag: depot-task } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    for tag in view.tags() {
        let mut carriers: Vec<ServiceIndex> = view.resolution().carriers(tag.tag.name).collect();
        // A wrapper and what it wraps are one service, no matter which of them carries the tag.
        let mut seen = HashSet::default();
        carriers.retain(|&carrier| seen.insert(view.resolution().ids.stand_in(carrier)));
        let enough = carriers.len() >= tag.at_least as usize;
        if enough || view.doubts().is_opaque() || view.doubts().mentions(tag.tag.name).is_some() {
            continue;
        }
        let (name, least, found) = (view.text(tag.tag.name), tag.at_least, carriers.len());
        let found = if found == 0 { "none does".to_owned() } else { format!("only {found} do") };
        let message = format!("{least} services must carry the tag {name}, and {found}");
        let mut finding =
            Finding::new(&RULE.text, name, message).at(tag.source, tag.tag.span, "declared here");
        for carrier in carriers {
            let service = view.service(carrier);
            let role = format!("carried by {}", view.id(carrier));
            finding = finding.at(service.source, service.id.span, role);
        }
        let collectors = view.graph().tag(tag.tag.name).map(|node| Origin { node, while_building: true });
        let help = format!("tag the services that are meant with {name}, or lower `at-least`");
        sink.report(finding.advice(help).failing(collectors));
    }
}
