//! Usage: which services anything outside the wiring comes to use, in any stage.

use super::context::Context;
use super::lacks::Sought;
use crate::facts::{Many, Need, SuppliedKind};
use crate::graph::{Graph, Node, What};
use crate::name::Name;
use crate::resolve::Met;
use crate::wiring::{NeedIndex, ServiceIndex};

/// By service: whether it is built in some stage, and whether something uses it in some stage.
#[derive(Debug, Default)]
pub(crate) struct Usage {
    built: Vec<bool>,
    used: Vec<bool>,
}

impl Usage {
    /// Adds what is used in one stage.
    pub(super) fn add(&mut self, context: &Context<'_>) {
        let count = context.wiring.facts.services.len();
        self.built.resize(count, false);
        self.used.resize(count, false);
        for (index, _) in context.wiring.services() {
            self.built[index.index()] |= context.resolution.ids.is_built(index);
        }
        let mut seen = vec![false; context.graph.len()];
        let mut waiting = roots(context);
        while let Some(node) = waiting.pop() {
            if std::mem::replace(&mut seen[node as usize], true) {
                continue;
            }
            if let What::Service(service) = context.graph.what(node) {
                self.used[service.index()] = true;
            }
            waiting.extend(context.graph.needs(node).iter().map(|edge| edge.node));
        }
    }

    /// Whether a service is built in some stage and used in none.
    pub(crate) fn is_idle(&self, service: ServiceIndex) -> bool {
        self.built[service.index()] && !self.used[service.index()]
    }
}

/// The nodes that are used from outside: entries, providers, what expectations and the platform speak of.
/// And those that another finding already says are probably meant: they are not unused, they are misspelt.
fn roots(context: &Context<'_>) -> Vec<Node> {
    let (facts, graph, resolution) = (&context.wiring.facts, &context.graph, &context.resolution);
    let mut roots: Vec<Node> = (0..facts.entries.len()).map(|entry| graph.entry(entry)).collect();
    let id = |id: Name| resolution.ids.first(id).map(|first| Graph::service(resolution.ids.stand_in(first)));
    let contract = |contract: Name| {
        let candidates = resolution.candidates(context.wiring, contract);
        candidates.into_iter().map(Graph::service)
    };
    for expectation in &facts.expectations {
        let services = [expectation.service, expectation.met_by];
        roots.extend(services.iter().flatten().filter_map(|service| id(service.name)));
        if let Some(expected) = expectation.contract {
            roots.extend(contract(expected.name));
        }
    }
    let supplied = facts.supplied.iter().filter(|supplied| supplied.kind == SuppliedKind::Tag);
    roots.extend(supplied.filter_map(|supplied| graph.tag(supplied.name.name)));
    for lack in &context.lacks.all {
        match (lack.sought, lack.meant) {
            (Sought::Service(_), Some(meant)) => roots.extend(id(meant)),
            (Sought::Contract(_), Some(meant)) => roots.extend(contract(meant)),
            (Sought::Key(offered, _), _) => roots.extend(contract(offered)),
            _ => {}
        }
    }
    roots.extend(misplaced(context));
    for name in context.doubts.mentioned() {
        roots.extend(id(name).into_iter().chain(contract(name)).chain(graph.tag(name)));
    }
    roots
}

/// What would be used but for a fault that is a finding of its own.
fn misplaced(context: &Context<'_>) -> Vec<Node> {
    let (facts, graph, resolution) = (&context.wiring.facts, &context.graph, &context.resolution);
    let mut nodes = Vec::new();
    for (index, service) in context.wiring.services() {
        // A tag that nobody knows: its carriers are meant for some collector.
        let taggings = service.taggings.of(&facts.taggings);
        if resolution.ids.is_built(index) && taggings.iter().any(|tag| graph.tag(tag.tag.name).is_none()) {
            nodes.push(Graph::service(index));
        }
    }
    for tag in &facts.tags {
        let node = graph.tag(tag.tag.name);
        // A tag that nothing collects, and services that should carry it and do not.
        let is_collected = node.is_some_and(|node| !graph.needed_by(node).is_empty());
        nodes.extend(node.filter(|_| !is_collected));
        if let Some(contract) = tag.contract.filter(|_| tag.carried_by_all) {
            let offering = resolution.candidates(context.wiring, contract.name);
            nodes.extend(offering.into_iter().map(Graph::service));
        }
    }
    for &(_, second) in resolution.ids.duplicates() {
        nodes.extend(targets(context, context.wiring.service(second).needs));
    }
    for provider in &facts.providers {
        // One that no roster lists has no edges.
        nodes.extend(targets(context, provider.register));
        nodes.extend(targets(context, provider.start));
    }
    nodes
}

/// What needs that may not count would get.
fn targets(context: &Context<'_>, needs: Many<Need>) -> Vec<Node> {
    let met = needs.range().map(|need| context.resolution.met(NeedIndex(need as u32)));
    met.filter_map(|met| match met {
        Met::Service(service) => Some(Graph::service(service)),
        Met::Carriers(tag) => context.graph.tag(tag),
        Met::Ambiguous(question) => Some(context.graph.question(question)),
        _ => None,
    })
    .collect()
}
