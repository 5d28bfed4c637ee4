//! `duplicate-service`: one id, two definitions.

use crate::audit::{Context, Sink};
use crate::finding::{Finding, Severity};
use crate::graph::Graph;
use crate::graph::reach::Origin;
use crate::name::Name;
use crate::rules::{Family, Rule, Scope};
use crate::wiring::{SameId, ServiceIndex};
use foldhash::{HashMap, HashMapExt};

/// The rule.
pub static RULE: Rule = Rule {
    name: "duplicate-service",
    family: Family::Ambiguity,
    severity: Severity::Error,
    summary: "one id that is defined more than once, without `replaces`",
    why: "One of the definitions is silently lost, and which one depends on the order in which modules are \
          loaded.",
    limits: "Definitions that never meet in one stage are no duplicates. The audit goes on with the first, in \
             the order of file names.",
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
    mended: r#"
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
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let mut by_id: HashMap<Name, usize> = HashMap::new();
    let mut groups: Vec<Vec<ServiceIndex>> = Vec::new();
    for &(counting, other) in context.resolution.ids.duplicates() {
        let id = context.wiring.service(counting).id.name;
        let number = *by_id.entry(id).or_insert_with(|| {
            groups.push(Vec::new());
            groups.len() - 1
        });
        groups[number].extend([counting, other]);
    }
    for mut group in groups {
        group.sort_unstable();
        group.dedup();
        sink.report(finding(context, &group));
    }
}

fn finding(context: &Context<'_>, definitions: &[ServiceIndex]) -> Finding {
    let (wiring, id) = (context.wiring, context.wiring.id(definitions[0]));
    let times = match definitions.len() {
        2 => "twice".to_owned(),
        times => format!("{times} times"),
    };
    let (what, severity) = match wiring.policy.same_id {
        SameId::Forbid => ("only one of the definitions can count", Severity::Error),
        SameId::First => ("the first counts, as the workspace decides", Severity::Note),
        SameId::Last => ("the last counts, as the workspace decides", Severity::Note),
    };
    let mut finding = Finding::new(&RULE, id, format!("{id} is defined {times}; {what}"));
    finding.severity = severity;
    let (first, later) = (wiring.service(definitions[0]), &definitions[1..]);
    for &again in later {
        let service = wiring.service(again);
        let module = wiring.module_name(service.source).filter(|_| service.source != first.source);
        let module = module.map_or_else(String::new, |module| format!(", by module {module}"));
        finding = finding.at(service.source, service.id.span, format!("defined again here{module}"));
    }
    finding = finding.at(first.source, first.id.span, "first definition").help(format!(
        "give one of them an id of its own, or say `replaces: {id}` if it is meant to override"
    ));
    if severity == Severity::Note {
        return finding;
    }
    let node = context.resolution.ids.stand_in(definitions[0]);
    finding.striking([Origin { node: Graph::service(node), while_building: true }])
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn one_id_is_one_finding_unless_stages_or_an_override_part_them() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.thrice: {}
  a.staged: { stages: [drill] }
  a.overridden: {}
//- b.wiring.yaml
corvant: 1
module: b
services:
  a.thrice: {}
  ^^^^^^^^ duplicate-service a.thrice
  a.staged: { stages: [production] }
  a.overridden: { replaces: a.overridden }
//- c.wiring.yaml
corvant: 1
module: c
services:
  a.thrice: { needs: { x: { service: c.only } } }
  c.only: {}
entries:
  e:
    needs: { a: { service: a.thrice }, b: { service: a.staged, optional: true }, c: { service: a.overridden } }
"#,
        );
    }
}
