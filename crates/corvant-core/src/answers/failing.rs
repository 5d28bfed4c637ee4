//! What cannot be built or used as things are, and why.
//!
//! A service, an entry or a provider fails if a need of it gets nothing, if it names an id that is not there, if
//! it is in a cycle of needs that are met while building, or if anything that it needs or collects fails.

use super::View;
use crate::facts::{Need, Via};
use crate::graph::cycle_groups::cycle_groups;
use crate::graph::{Edge, Node, What};
use crate::name::Name;
use crate::resolve::Met;
use crate::views::missing_references;
use crate::wiring::{NeedIndex, needs_of};
use foldhash::{HashMap, HashSet};

/// How something comes to fail.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Cause {
    /// What failed before it; `None`: it is where the failing begins.
    pub(super) of: Option<Node>,
    /// The need that gets nothing, or gets what fails.
    pub(super) need: Option<NeedIndex>,
    /// Whether it is built all the same, and fails when it is first used.
    pub(super) later: bool,
}

/// Nodes that fail, each with its cause.
type Failures = Vec<(Node, Cause)>;

/// All nodes that fail in a view, each with the first cause that was found: what fails while being built goes
/// before what fails later.
pub(super) fn failing(view: &View<'_>) -> HashMap<Node, Cause> {
    let mut failed: HashMap<Node, Cause> = HashMap::default();
    let (at_once, mut later) = beginnings(view);
    let mut waiting: Failures = at_once;
    waiting.reverse();
    loop {
        while let Some((node, cause)) = waiting.pop() {
            if failed.contains_key(&node) {
                continue;
            }
            failed.insert(node, cause);
            for &edge in view.graph.needed_by(node) {
                if view.graph.is_question(edge.node) || failed.contains_key(&edge.node) {
                    continue;
                }
                let is_later = cause.later || !edge.is_for_building(view.wiring);
                let next = Cause { of: Some(node), need: edge.need(), later: is_later };
                let list = if is_later && !cause.later { &mut later } else { &mut waiting };
                list.push((edge.node, next));
            }
        }
        if later.is_empty() {
            return failed;
        }
        waiting = std::mem::take(&mut later);
        waiting.reverse();
    }
}

/// Where failing begins: while something is built, and later.
fn beginnings(view: &View<'_>) -> (Failures, Failures) {
    let (wiring, needs) = (view.wiring, &view.wiring.facts.parts.needs);
    let (mut at_once, mut later) = (Failures::new(), Failures::new());
    let loaded = wiring.listed(view.resolution.stage);
    for node in view.graph.nodes() {
        let is_there = match view.graph.what(node) {
            What::Service(service) => view.resolution.ids.is_built(service),
            What::Provider(provider) => {
                let id = wiring.facts.providers[provider.index()].id.name;
                loaded.as_ref().is_none_or(|loaded| loaded.contains(&id))
            }
            What::Entry(_) => true,
            What::Tag(_) | What::All(_) | What::Question(_) => false,
        };
        if !is_there {
            continue;
        }
        let lacked = needs_of(wiring, node).into_iter().flatten();
        for number in lacked.filter(|&number| gets_nothing(view, number)) {
            let is_later = !needs[number].is_for_building();
            let cause = Cause { of: None, need: Some(NeedIndex(number as u32)), later: is_later };
            if is_later { &mut later } else { &mut at_once }.push((node, cause));
        }
        if let What::Service(service) = view.graph.what(node)
            && !missing_references(wiring, &view.resolution, wiring.service(service)).is_empty()
        {
            at_once.push((node, Cause { of: None, need: None, later: false }));
        }
    }
    let begins = |node| (node, Cause { of: None, need: None, later: false });
    at_once.extend(in_cycles(view).into_iter().map(begins));
    at_once.extend(too_few(view).into_iter().map(begins));
    (at_once, later)
}

/// Whether a need that must be met gets nothing, by its number.
fn gets_nothing(view: &View<'_>, number: usize) -> bool {
    let met = view.resolution.met(NeedIndex(number as u32));
    let is_open = matches!(met, Met::Missing | Met::MissingKey | Met::Ambiguous(_));
    is_open && !view.wiring.facts.parts.needs[number].optional
}

/// Nodes that need one another while they are built.
fn in_cycles(view: &View<'_>) -> Vec<Node> {
    let is_met = |edge: Edge| edge.need_in(view.wiring).is_none_or(|need: &Need| need.via != Via::LookUp);
    let cycles = cycle_groups(&view.graph, |node, edge| {
        !view.graph.is_question(node) && is_met(edge) && edge.is_for_building(view.wiring)
    });
    cycles.into_iter().flatten().collect()
}

/// Tags that fewer services carry than must.
fn too_few(view: &View<'_>) -> Vec<Node> {
    let tags = view.wiring.declared.tags.iter();
    let tags =
        tags.filter(|tag| tag.at_least > 0 && carrier_count(view, tag.tag.name) < tag.at_least as usize);
    tags.filter_map(|tag| view.graph.tag(tag.tag.name)).collect()
}

/// How many services carry a tag; what wraps a carrier and carries it too is one with it.
fn carrier_count(view: &View<'_>, tag: Name) -> usize {
    let carriers = view.resolution.carriers(tag);
    carriers.map(|carrier| view.resolution.ids.stand_in(carrier)).collect::<HashSet<_>>().len()
}
