//! `needed-too-early`: a provider that uses a service before the provider that registers it has run.

use crate::audit::{Context, Registrars, Sink};
use crate::facts::{Need, Provider};
use crate::finding::{Finding, Severity};
use crate::graph::reach::Origin;
use crate::graph::{Node, What};
use crate::name::Name;
use crate::rules::{Family, Rule, Scope};
use foldhash::HashMap;

/// The rule.
pub static RULE: Rule = Rule {
    name: "needed-too-early",
    family: Family::Providers,
    severity: Severity::Error,
    summary: "a provider that uses a service before the provider that registers it has run",
    why: "The service is not there yet: the application fails while its providers register.",
    limits: "Which provider registers a service is known where a provider lists it, or lists nothing and is of \
             the same module; of several, the first on the roster counts. What is needed lazily is not used while registering. With no roster, or several, \
             the order is not known and the rule does not run. What a provider registers itself is taken to be \
             registered before it is used.",
    faulty: r#"
//- start.wiring.yaml
corvant: 1
module: clock
roster: [clock.provider, log.provider]
providers:
  clock.provider: { register: { needs: { log: { service: log.main } } } }
//- log.wiring.yaml
corvant: 1
module: log
services: { log.main: { type: velmora.log.Main } }
providers: { log.provider: { registers: [log.main] } }
"#,
    corrected: r#"
//- start.wiring.yaml
corvant: 1
module: clock
roster: [log.provider, clock.provider]
providers:
  clock.provider: { register: { needs: { log: { service: log.main } } } }
//- log.wiring.yaml
corvant: 1
module: log
services: { log.main: { type: velmora.log.Main } }
providers: { log.provider: { registers: [log.main] } }
"#,
    scope: Scope::WholeStage,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let facts = &context.wiring.facts;
    let rosters: Vec<_> = context.wiring.rosters(context.resolution.stage).collect();
    let [roster] = rosters.as_slice() else { return };
    let mut position: HashMap<Name, usize> = HashMap::default();
    for (at, provider) in roster.providers.of(&facts.named).iter().enumerate() {
        // The first time counts where a provider is listed twice.
        position.entry(provider.name).or_insert(at);
    }
    let mut registrars = None;
    for (number, provider) in facts.providers.iter().enumerate() {
        let Some(&at) = position.get(&provider.id.name) else { continue };
        for after in provider.after.of(&facts.named) {
            if position.get(&after.name).is_some_and(|&other| other > at) {
                let (id, other) = (context.text(provider.id.name), context.text(after.name));
                let message = format!("{id} must come after {other}, and stands before it on the roster");
                let finding = Finding::new(&RULE, format!("{id} > {other}"), message)
                    .at(provider.source, after.span, format!("{id} must come after {other}"))
                    .help(format!("put {other} before {id} on the roster"));
                sink.report(finding);
            }
        }
        if !provider.register.is_empty() {
            let registrars = registrars.get_or_insert_with(|| Registrars::new(context.wiring));
            search(context, number, at, provider, (registrars, &position), sink);
        }
    }
}

/// Where on the roster the first provider stands that registers what a node stands for, and its id.
fn registered(
    context: &Context<'_>,
    registrars: &Registrars,
    position: &HashMap<Name, usize>,
    node: Node,
) -> Option<(usize, Name)> {
    let What::Service(service) = context.graph.what(node) else { return None };
    let listed = registrars.of(context.wiring, service);
    let listed =
        listed.filter_map(|(_, provider)| Some((*position.get(&provider.id.name)?, provider.id.name)));
    listed.min_by_key(|&(at, _)| at)
}

/// Looks through all that the register phase of a provider builds, up to the first thing on each way that is
/// not registered yet.
fn search(
    context: &Context<'_>,
    number: usize,
    at: usize,
    provider: &Provider,
    (registrars, position): (&Registrars, &HashMap<Name, usize>),
    sink: &mut Sink,
) {
    let graph = &context.graph;
    let own = graph.provider(number);
    let in_phase = |need: Option<crate::wiring::NeedIndex>| {
        need.is_some_and(|need| provider.register.range().contains(&need.index()))
    };
    // By node: the node that needs it, and the need of the phase that leads there.
    let mut came_from: HashMap<Node, (Option<Node>, &Need)> = HashMap::default();
    let mut waiting: Vec<Node> = Vec::new();
    for edge in graph.needs(own).iter().filter(|edge| in_phase(edge.need()) && !edge.is_lazy(context.wiring))
    {
        if let Some(need) = edge.need_in(context.wiring) {
            came_from.entry(edge.node).or_insert_with(|| {
                waiting.push(edge.node);
                (None, need)
            });
        }
    }
    waiting.reverse();
    while let Some(node) = waiting.pop() {
        let first = came_from[&node].1;
        if let Some((registered, by)) = registered(context, registrars, position, node)
            && registered > at
        {
            let path = std::iter::successors(came_from[&node].0, |node| came_from[node].0);
            let mut path: Vec<Node> = path.collect();
            path.reverse();
            sink.report(finding(context, (own, provider), node, &path, first, by));
            continue;
        }
        let needs = graph.needs(node).iter().rev().filter(|edge| edge.is_for_building(context.wiring));
        for edge in needs.filter(|_| !graph.is_question(node)) {
            came_from.entry(edge.node).or_insert_with(|| {
                waiting.push(edge.node);
                (Some(node), first)
            });
        }
    }
}

fn finding(
    context: &Context<'_>,
    (own, provider): (Node, &Provider),
    node: Node,
    path: &[Node],
    first: &Need,
    by: Name,
) -> Finding {
    let name = |node: Node| match context.graph.what(node) {
        What::Service(service) => Some(context.wiring.id(service)),
        _ => None,
    };
    let (id, service, by) = (context.text(provider.id.name), name(node).unwrap_or(""), context.text(by));
    let through: Vec<&str> = path.iter().filter_map(|&node| name(node)).collect();
    let way = if through.is_empty() { String::new() } else { format!(", through {},", through.join(" > ")) };
    let message =
        format!("{id} uses{way} {service} while registering, and {by}, which registers it, comes later");
    let mut finding = Finding::new(&RULE, format!("{id} > {service}"), message).at(
        first.source,
        first.span,
        format!("used here by {id}"),
    );
    if let What::Service(index) = context.graph.what(node) {
        let definition = context.wiring.service(index);
        finding = finding.at(definition.source, definition.id.span, format!("registered by {by}"));
    }
    finding
        .help(format!("put {by} before {id} on the roster, or use {service} in the start phase"))
        .failing([Origin { node: own, while_building: true }])
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn what_registering_really_needs_is_followed() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: start
roster: [p.one, p.two, p.three]
providers:
  p.one:
    register:
      needs:
        direct: { service: three.x }
                           ^^^^^^^ needed-too-early p.one > three.x
        through: { service: loose.x }
                            ^^^^^^^ needed-too-early p.one > two.y
        lazy: { service: two.z, lazy: true }
        own: { service: one.x }
    registers: [one.x]
    start: { needs: { later: { service: three.x } } }
    after: [p.two]
            ^^^^^ needed-too-early p.one > p.two
  p.two: { registers: [two.y, two.z], register: { needs: { x: { service: one.x } } } }
services:
  one.x: {}
  two.z: {}
//- b.wiring.yaml
corvant: 1
module: three
providers: { p.three: {} }
services: { three.x: { needs: { y: { service: three.y } } }, three.y: {} }
//- c.wiring.yaml
corvant: 1
module: loose
services: { loose.x: { needs: { y: { service: two.y }, l: { service: three.y, lazy: true } } }, two.y: {} }
"#,
        );
    }
}
