//! `internal-reach`: a need on another module's internal service.

use crate::audit::{Context, Sink};
use crate::facts::Target;
use crate::finding::{Finding, Severity};
use crate::graph::What;
use crate::resolve::{Met, needs_of};
use crate::rules::{Family, Rule, Scope};
use crate::source::Place;
use crate::wiring::{NeedIndex, ServiceIndex};
use foldhash::{HashMap, HashSet};

/// The rule.
pub static RULE: Rule = Rule {
    name: "internal-reach",
    family: Family::Boundaries,
    severity: Severity::Error,
    summary: "a need on another module's internal service",
    why: "What a module keeps to itself may change or go at any time: whoever reaches for it breaks without \
          warning.",
    limits: "A need that reaches it through an alias or a wrapper of its own module is what such an alias is \
             for, and is not reported.",
    faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
entries:
  stop-display: { needs: { cache: { service: vehicles.cache } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services: { vehicles.cache: { type: velmora.vehicles.Cache, internal: true } }
"#,
    mended: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
entries:
  stop-display: { needs: { cache: { service: vehicles.cache } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services: { vehicles.cache: { type: velmora.vehicles.Cache } }
"#,
    scope: Scope::WholeStage,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let wiring = context.wiring;
    if !wiring.has_internal {
        return;
    }
    let mut number: HashMap<ServiceIndex, usize> = HashMap::default();
    let mut findings: Vec<Finding> = Vec::new();
    let mut seen = HashSet::default();
    let is_built = |what: &What| !matches!(*what, What::Service(of) if !context.resolution.ids.is_built(of));
    let holders = (0..context.graph.len() as u32).map(|node| context.graph.what(node)).filter(is_built);
    for at in holders.flat_map(|holder| needs_of(wiring, holder)).flatten() {
        let need = &wiring.facts.needs[at];
        let reached = match (need.target, context.resolution.met(NeedIndex(at as u32))) {
            (Target::Service(id), Met::Service(_)) => context.resolution.ids.first(id),
            (Target::Contract(_), Met::Service(service)) => Some(service),
            _ => None,
        };
        let Some(reached) = reached.filter(|&service| wiring.service(service).internal) else { continue };
        let definition = wiring.service(reached);
        let (from, of) = (wiring.module_of(need.source), wiring.module_of(definition.source));
        // What several inherit is written once.
        if from.is_none() || of.is_none() || from == of || !seen.insert((need.source, need.span)) {
            continue;
        }
        let id = wiring.id(reached);
        let owner = wiring.module_name(definition.source).unwrap_or("?");
        let number = *number.entry(reached).or_insert_with(|| {
            let message = format!("{id} is internal to {owner}, and others need it");
            let help = format!("need what {owner} hands out instead, or take `internal` from {id}");
            findings.push(Finding::new(&RULE, id, message).help(help));
            findings.len() - 1
        });
        let role = format!("needed here by {}", wiring.module_name(need.source).unwrap_or("?"));
        findings[number].places.push(Place::new(need.source, need.span, role));
    }
    for (service, number) in number {
        let definition = wiring.service(service);
        let place = Place::new(definition.source, definition.id.span, "internal here");
        findings[number].places.push(place);
    }
    for finding in findings {
        sink.report(finding);
    }
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn ones_own_module_and_its_aliases_may_reach_it() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.inner: { internal: true, offers: [Inner] }
  a.open: { alias-of: a.inner }
  a.user: { needs: { x: { service: a.inner } } }
entries:
  e: { needs: { x: { service: a.user } } }
//- b.wiring.yaml
corvant: 1
module: b
entries:
  f:
    needs:
      by-id: { service: a.inner }
                        ^^^^^^^ internal-reach a.inner
      by-alias: { service: a.open }
      by-contract: { contract: Inner }
"#,
        );
    }
}
