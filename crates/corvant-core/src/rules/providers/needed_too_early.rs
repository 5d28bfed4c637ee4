//! `needed-too-early`: a provider that uses a service before the provider that registers it has run.

use crate::facts::{Named, Need, Provider};
use crate::finding::{Action, Certainty, Change, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::{Node, What};
use crate::index::ProviderIndex;
use crate::name::Name;
use crate::rules::Rule;
use crate::source::SourceIndex;
use crate::views::{Check, Registrars, Sink, WholeStageView};
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "needed-too-early",
        family: Family::Providers,
        severity: Severity::Error,
        summary: "a provider that uses a service before the provider that registers it has run",
        why: "The service is not there yet: the application fails while its providers register.",
        limits: "Which provider registers a service is known where a provider lists it, or lists nothing and is of \
             the same module; of several, the first on the roster counts. What is needed lazily is not used while registering. With no roster, or several, \
             the order is not known and the rule does not run. What a definition says that a provider registers itself is taken to be \
             registered before it is used; what code registers is so in the order in which it is written.",
        fixes: Certainty::Likely,
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
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let rosters: Vec<_> = view.wiring().rosters(view.resolution().stage).collect();
    let [roster] = rosters.as_slice() else { return };
    let mut position: HashMap<Name, usize> = HashMap::default();
    for (at, provider) in roster.providers.of(&facts.parts).iter().enumerate() {
        // The first time counts where a provider is listed twice.
        position.entry(provider.name).or_insert(at);
    }
    let listed =
        CurrentRoster { source: roster.source, providers: roster.providers.of(&facts.parts), position };
    let mut registrars = None;
    for (number, provider) in facts.providers.iter().enumerate() {
        let Some(&at) = listed.position.get(&provider.id.name) else { continue };
        for after in provider.after.of(&facts.parts) {
            if let Some(&other_at) = listed.position.get(&after.name).filter(|&&other| other > at) {
                let (id, other) = (view.text(provider.id.name), view.text(after.name));
                let message = format!("{id} must come after {other}, and stands before it on the roster");
                let finding = Finding::new(&RULE.text, format!("{id} > {other}"), message)
                    .at(provider.source, after.span, format!("{id} must come after {other}"))
                    .fix(listed.put_before(format!("put {other} before {id} on the roster"), other_at, at));
                sink.report(finding);
            }
        }
        unordered(view, number, provider, sink);
        if !provider.register.is_empty() {
            let registrars = registrars.get_or_insert_with(|| Registrars::new(view.wiring()));
            search(view, number, at, provider, registrars, &listed, sink);
        }
    }
}

/// What a provider that registers while its code runs uses before it registers that itself.
fn unordered(view: &WholeStageView<'_>, number: usize, provider: &Provider, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let Some(registers) = provider.registers else { return };
    let registers = registers.of(&facts.parts);
    // By id where it is registered first; worked out only if an order is known.
    let mut first: HashMap<Name, usize> = HashMap::default();
    let own = view.graph().provider(ProviderIndex::new(number));
    for edge in view.graph().needs(own) {
        let is_of_phase = edge.need().is_some_and(|need| provider.register.range().contains(&need.index()));
        let Some(need) = view.need(*edge).filter(|need| is_of_phase && !need.lazy) else { continue };
        let What::Service(index) = view.graph().what(edge.node) else { continue };
        if need.registered_before == Need::UNORDERED {
            continue;
        }
        if first.is_empty() {
            for (at, named) in registers.iter().enumerate() {
                first.entry(named.name).or_insert(at);
            }
        }
        let id = view.service(index).id.name;
        let Some(&at) = first.get(&id).filter(|&&at| at >= need.registered_before as usize) else { continue };
        let registered = registers[at];
        let (id, service) = (view.text(provider.id.name), view.text(id));
        let message = format!("{id} uses {service} while registering, before it registers it itself");
        let finding = Finding::new(&RULE.text, format!("{id} > {service}"), message)
            .at(need.source, need.span, format!("used here by {id}"))
            .at(provider.source, registered.span, "registered here, later")
            .advice(format!("register {service} before it is used, or use it in the start phase"))
            .failing([Origin { node: own, while_building: true }]);
        sink.report(finding);
    }
}

/// The one roster that counts.
struct CurrentRoster<'a> {
    source: SourceIndex,
    providers: &'a [Named],
    /// By provider where on the roster it stands first.
    position: HashMap<Name, usize>,
}

impl CurrentRoster<'_> {
    /// Has the provider at one place of the roster come before that at another.
    fn put_before(&self, title: String, from: usize, to: usize) -> Fix {
        let action = Action::MoveBefore(self.providers[to].span);
        Fix::likely(title, [Change::new(self.source, self.providers[from].span, action)])
    }
}

/// Where on the roster the first provider stands that registers what a node stands for.
fn registered(
    view: &WholeStageView<'_>,
    registrars: &Registrars,
    listed: &CurrentRoster<'_>,
    node: Node,
) -> Option<usize> {
    let What::Service(service) = view.graph().what(node) else { return None };
    let providers = registrars.of(view.wiring(), service);
    let at = providers.filter_map(|(_, provider)| listed.position.get(&provider.id.name).copied());
    at.min()
}

/// Looks through all that the register phase of a provider builds, up to the first thing on each way that is
/// not registered yet.
fn search(
    view: &WholeStageView<'_>,
    number: usize,
    at: usize,
    provider: &Provider,
    registrars: &Registrars,
    listed: &CurrentRoster<'_>,
    sink: &mut Sink,
) {
    let graph = view.graph();
    let own = graph.provider(ProviderIndex::new(number));
    let in_phase = |need: Option<crate::wiring::NeedIndex>| {
        need.is_some_and(|need| provider.register.range().contains(&need.index()))
    };
    // By node: the node that needs it, and the need of the phase that leads there.
    let mut came_from: HashMap<Node, (Option<Node>, &Need)> = HashMap::default();
    let mut waiting: Vec<Node> = Vec::new();
    for &edge in graph.needs(own).iter().filter(|edge| in_phase(edge.need()) && !edge.is_lazy(view.wiring()))
    {
        if let Some(need) = view.need(edge) {
            came_from.entry(edge.node).or_insert_with(|| {
                waiting.push(edge.node);
                (None, need)
            });
        }
    }
    waiting.reverse();
    while let Some(node) = waiting.pop() {
        let first = came_from[&node].1;
        if let Some(registered) = registered(view, registrars, listed, node)
            && registered > at
        {
            let path = std::iter::successors(came_from[&node].0, |node| came_from[node].0);
            let mut path: Vec<Node> = path.collect();
            path.reverse();
            let fault = TooEarly { own, provider, node, path: &path, first, listed, at, registered };
            sink.report(fault.finding(view));
            continue;
        }
        let needs = graph.needs(node).iter().rev().filter(|edge| view.is_for_building(**edge));
        for edge in needs.filter(|_| !graph.is_question(node)) {
            came_from.entry(edge.node).or_insert_with(|| {
                waiting.push(edge.node);
                (Some(node), first)
            });
        }
    }
}

/// A provider that uses what another registers later.
struct TooEarly<'a> {
    own: Node,
    provider: &'a Provider,
    /// What is not registered yet.
    node: Node,
    /// What leads from the need of the phase to it.
    path: &'a [Node],
    /// The need of the phase.
    first: &'a Need,
    listed: &'a CurrentRoster<'a>,
    /// Where the provider stands on the roster.
    at: usize,
    /// Where the one stands that registers what is used.
    registered: usize,
}

impl TooEarly<'_> {
    fn finding(&self, view: &WholeStageView<'_>) -> Finding {
        let Self { own, provider, node, path, first, listed, at, registered } = *self;
        let name = |node: Node| match view.graph().what(node) {
            What::Service(service) => Some(view.id(service)),
            _ => None,
        };
        let by = view.text(listed.providers[registered].name);
        let (id, service) = (view.text(provider.id.name), name(node).unwrap_or(""));
        let through: Vec<&str> = path.iter().filter_map(|&node| name(node)).collect();
        let way =
            if through.is_empty() { String::new() } else { format!(", through {},", through.join(" > ")) };
        let message =
            format!("{id} uses{way} {service} while registering, and {by}, which registers it, comes later");
        let mut finding = Finding::new(&RULE.text, format!("{id} > {service}"), message).at(
            first.source,
            first.span,
            format!("used here by {id}"),
        );
        if let What::Service(index) = view.graph().what(node) {
            let definition = view.service(index);
            finding = finding.at(definition.source, definition.id.span, format!("registered by {by}"));
        }
        let title = format!("put {by} before {id} on the roster, or use {service} in the start phase");
        finding
            .fix(listed.put_before(title, registered, at))
            .failing([Origin { node: own, while_building: true }])
    }
}
