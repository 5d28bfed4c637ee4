//! In which order things are registered and built.

use super::View;
use super::terms::Aim;
use crate::facts::Provider;
use crate::graph::cycle_groups::cycle_groups_from;
use crate::graph::{Edge, Graph, Node, What};
use crate::index::EntryIndex;
use crate::resolve::Met;
use crate::source::Place;
use crate::wiring::{NeedIndex, ServiceIndex, needs_of};
use foldhash::{HashMap, HashSet};
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// What is registered, then what is built, each in its order.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Order {
    /// The entry that it is for; `None`: all that can be built.
    pub entry: Option<String>,
    /// Providers in the order of their registration.
    pub providers: Vec<Registration>,
    /// Whether a roster says that order; otherwise it is that of the files.
    pub has_roster: bool,
    /// What is built, dependencies first, ties by name.
    pub building: Vec<Built>,
    /// What is built later only: for lazy needs, and for those that are met after building.
    pub later: Vec<Built>,
}

/// A provider and what it registers.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Registration {
    /// Its id.
    pub provider: String,
    /// Where it is defined.
    pub place: Option<Place>,
    /// What it registers, in the order of its list.
    pub registers: Vec<String>,
    /// Whether it registers all services of its module, having no list.
    pub is_whole_module: bool,
}

/// One step of building.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Built {
    /// One service; or several that need one another, so that none of them can be first.
    pub services: Vec<String>,
    /// Where the first of them is defined.
    pub place: Option<Place>,
    /// What they lack: as things are, they cannot be built.
    pub lacks: Vec<Aim>,
    /// What had to be there before: the longest way down to something that needs nothing.
    pub depth: usize,
}

/// The order for all that can be built; or for what one entry, by number in the facts, comes to use.
pub fn order(view: &View<'_>, entry: Option<usize>) -> Order {
    let facts = &view.wiring.facts;
    let nodes: Vec<Node> = if let Some(entry) = entry {
        vec![view.graph.entry(EntryIndex::new(entry))]
    } else {
        let is_built = |service: &ServiceIndex| view.resolution.ids.is_built(*service);
        view.wiring.services().map(|(service, _)| service).filter(is_built).map(Graph::service).collect()
    };
    let at_once = reached(view, &nodes, |edge| edge.is_for_building(view.wiring));
    let all = reached(view, &nodes, |_| true);
    let later: HashSet<Node> = all.difference(&at_once).copied().collect();
    let (providers, has_roster) = registrations(view, entry.is_some().then_some(&all));
    Order {
        entry: entry.map(|entry| view.text(facts.entries[entry].id.name).to_owned()),
        providers,
        has_roster,
        building: building(view, &at_once),
        later: building(view, &later),
    }
}

/// All services, tags and contracts that nodes come to need over the edges that `keep` accepts.
fn reached(view: &View<'_>, nodes: &[Node], keep: impl Fn(Edge) -> bool) -> HashSet<Node> {
    let mut seen: HashSet<Node> = HashSet::default();
    let mut waiting = nodes.to_vec();
    while let Some(node) = waiting.pop() {
        if !view.graph.is_question(node) && seen.insert(node) {
            let edges = view.graph.needs(node).iter().filter(|&&edge| keep(edge));
            waiting.extend(edges.map(|edge| edge.node));
        }
    }
    seen
}

/// A. Kahn's algorithm (1962) over cycle groups of services, with a heap so that of several that could be next the first by
/// name is.
fn building(view: &View<'_>, nodes: &HashSet<Node>) -> Vec<Built> {
    let keep = |_: Node, edge: Edge| nodes.contains(&edge.node) && edge.is_for_building(view.wiring);
    let mut sorted: Vec<Node> = nodes.iter().copied().collect();
    sorted.sort_unstable();
    let cycle_groups = cycle_groups_from(&view.graph, sorted.iter().copied(), keep);
    // Every node stands for itself, those of a cycle group for its first.
    let mut head: HashMap<Node, Node> = HashMap::default();
    let mut members: HashMap<Node, Vec<Node>> = HashMap::default();
    for cycle_group in cycle_groups {
        head.extend(cycle_group.iter().map(|&node| (node, cycle_group[0])));
        members.insert(cycle_group[0], cycle_group);
    }
    let head_of = |node: Node| head.get(&node).copied().unwrap_or(node);
    let mut missing: HashMap<Node, usize> = HashMap::default();
    let mut holders: HashMap<Node, Vec<Node>> = HashMap::default();
    for &node in &sorted {
        let own = head_of(node);
        missing.entry(own).or_default();
        for &edge in view.graph.needs(node).iter().filter(|&&edge| keep(node, edge)) {
            let other = head_of(edge.node);
            if other != own {
                *missing.entry(own).or_default() += 1;
                holders.entry(other).or_default().push(own);
            }
        }
    }
    let mut depth: HashMap<Node, usize> = HashMap::default();
    let in_turn = |node: Node| Reverse((view.sort_key(node), node));
    let ready = missing.iter().filter(|(_, count)| **count == 0).map(|(&node, _)| in_turn(node));
    let mut ready: BinaryHeap<_> = ready.collect();
    let mut built = Vec::new();
    while let Some(Reverse((_, node))) = ready.pop() {
        let deep = depth.get(&node).copied().unwrap_or(0);
        let mut is_step = false;
        if let Some(step) = step(view, node, members.get(&node).map(Vec::as_slice), deep) {
            is_step = true;
            built.push(step);
        }
        for &holder in holders.get(&node).into_iter().flatten() {
            let below = depth.entry(holder).or_default();
            *below = (*below).max(deep + usize::from(is_step));
            let left = missing.entry(holder).or_default();
            *left -= 1;
            if *left == 0 {
                ready.push(in_turn(holder));
            }
        }
    }
    built
}

/// What is built at a node: nothing for tags and the like, several services for a cycle group.
fn step(view: &View<'_>, node: Node, cycle_group: Option<&[Node]>, depth: usize) -> Option<Built> {
    // What a need leads to is not always built: a second definition may be what an alias means.
    let is_service = |node: &&Node| match view.graph.what(**node) {
        What::Service(service) => view.resolution.ids.is_built(service),
        _ => false,
    };
    let alone = [node];
    let mut services: Vec<Node> = cycle_group.unwrap_or(&alone).iter().filter(is_service).copied().collect();
    services.sort_by_key(|&node| view.sort_key(node));
    let place = view.place(*services.first()?);
    let lacks = services.iter().flat_map(|&node| lacks(view, node)).collect();
    Some(Built {
        services: services.into_iter().map(|node| view.thing(node).name).collect(),
        place,
        lacks,
        depth,
    })
}

/// What a node needs for building and does not get.
fn lacks(view: &View<'_>, node: Node) -> Vec<Aim> {
    let needs = needs_of(view.wiring, node).into_iter().flatten();
    let is_lacked = |number: &usize| {
        let met = view.resolution.met(NeedIndex(*number as u32));
        let need = &view.wiring.facts.parts.needs[*number];
        need.is_for_building() && matches!(met, Met::Missing | Met::MissingKey | Met::Ambiguous(_))
    };
    needs.filter(is_lacked).map(|number| view.aim(&view.wiring.facts.parts.needs[number])).collect()
}

/// Providers in the order of the roster, or of the files where there is none; with `only`, those that register
/// something of it.
fn registrations(view: &View<'_>, only: Option<&HashSet<Node>>) -> (Vec<Registration>, bool) {
    let (wiring, facts) = (view.wiring, &view.wiring.facts);
    let by_id: HashMap<_, &Provider> =
        facts.providers.iter().rev().map(|provider| (provider.id.name, provider)).collect();
    let rosters: Vec<_> = wiring.rosters(view.resolution.stage).collect();
    let listed = rosters.iter().flat_map(|roster| roster.providers.of(&facts.parts));
    let listed: Vec<&Provider> = listed.filter_map(|id| by_id.get(&id.name).copied()).collect();
    let has_roster = !rosters.is_empty();
    let providers = if has_roster { listed } else { facts.providers.iter().collect() };
    let is_wanted = |id| {
        let service = view.resolution.ids.first(id).map(Graph::service);
        only.is_none_or(|only| service.is_some_and(|service| only.contains(&service)))
    };
    let registration = |provider: &Provider| {
        let registers =
            provider.registers.map(|services| services.of(&facts.parts).iter().map(|named| named.name));
        let is_whole_module = registers.is_none();
        let module = wiring.module_of(provider.source);
        let of_module = || {
            let services = facts.services.iter().filter(|service| wiring.module_of(service.source) == module);
            services.map(|service| service.id.name).collect::<Vec<_>>()
        };
        let registers: Vec<_> = registers.map_or_else(of_module, Iterator::collect);
        let names: Vec<String> =
            registers.into_iter().filter(|&id| is_wanted(id)).map(|id| view.text(id).to_owned()).collect();
        Registration {
            provider: view.text(provider.id.name).to_owned(),
            place: Some(Place::new(provider.source, provider.id.span, "defined here")),
            registers: names,
            is_whole_module,
        }
    };
    let mut all: Vec<Registration> = providers.into_iter().map(registration).collect();
    all.retain(|registration| only.is_none() || !registration.registers.is_empty());
    (all, has_roster)
}
