//! `duplicate-service`: one id, two definitions.

use crate::facts::Service;
use crate::finding::{Certainty, Family, Finding, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::{SameId, ServiceIndex};
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "duplicate-service",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "one id that is defined more than once, without `replaces`",
        why: "One of the definitions is silently lost, and which one depends on the order in which modules are \
          loaded.",
        limits: "Definitions that never meet in one stage are no duplicates. Two services that replace one id are \
             two definitions of it. The audit goes on with the first, in the order of file names, and audits what \
             either needs.",
        fixes: Certainty::Advice,
        faulty: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
entries:
  station-clock: { needs: { clock: { contract: Clock } } }
//- drill.wiring.yaml
corvant: 1
module: drill
services:
  clock.system: { type: velmora.drill.FrozenClock, offers: [Clock] }
"#,
        corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
entries:
  station-clock: { needs: { clock: { contract: Clock } } }
//- drill.wiring.yaml
corvant: 1
module: drill
services:
  drill.clock: { type: velmora.drill.FrozenClock, offers: [Clock], replaces: clock.system }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let mut by_id: HashMap<Name, usize> = HashMap::new();
    let mut groups: Vec<(Name, Vec<ServiceIndex>)> = Vec::new();
    for pair in view.resolution().ids.duplicates() {
        let number = *by_id.entry(pair.id).or_insert_with(|| {
            groups.push((pair.id, Vec::new()));
            groups.len() - 1
        });
        groups[number].1.extend([pair.counting, pair.other]);
    }
    for (id, mut group) in groups {
        group.sort_unstable();
        group.dedup();
        sink.report(finding(view, id, &group));
    }
}

fn finding(view: &WholeStageView<'_>, id: Name, definitions: &[ServiceIndex]) -> Finding {
    let wiring = view.wiring();
    let (id_text, first) = (view.text(id), wiring.service(definitions[0]));
    let replaces = |service: &Service| service.replaces.filter(|replaced| replaced.name == id);
    let all_replace = definitions.iter().all(|&index| replaces(wiring.service(index)).is_some());
    let times = match definitions.len() {
        2 => "twice".to_owned(),
        times => format!("{times} times"),
    };
    let (what, severity) = match wiring.policy.same_id {
        SameId::Forbid => ("only one of the definitions can count", Severity::Error),
        SameId::First => ("the first counts, as the workspace decides", Severity::Note),
        SameId::Last => ("the last counts, as the workspace decides", Severity::Note),
    };
    let done = if all_replace { "replaced" } else { "defined" };
    let mut finding = Finding::new(&RULE.text, id_text, format!("{id_text} is {done} {times}; {what}"));
    finding.severity = severity;
    let span = |service: &Service| replaces(service).unwrap_or(service.id).span;
    for &again in &definitions[1..] {
        let service = wiring.service(again);
        let module = wiring.module_name(service.source).filter(|_| service.source != first.source);
        let module = module.map_or_else(String::new, |module| format!(", by module {module}"));
        finding = finding.at(service.source, span(service), format!("{done} again here{module}"));
    }
    let first_role = if all_replace { "first replacement" } else { "first definition" };
    finding = finding.at(first.source, span(first), first_role).advice(if all_replace {
        format!("keep one of those that replace {id_text}, or let one of them replace the other")
    } else {
        let replace =
            view.say(first.source, EditSort::Replace, id_text, || format!("say `replaces: {id_text}`"));
        format!("give one of them an id of its own, or {replace} if it is meant to override")
    });
    if severity == Severity::Note {
        return finding;
    }
    let node = view.resolution().ids.stand_in(definitions[0]);
    finding.failing([Origin { node: Graph::service(node), while_building: true }])
}
