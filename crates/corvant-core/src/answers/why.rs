//! How one thing comes to depend on another.

use super::subject::built_from;
use super::terms::{Aim, Gets, Link, Thing};
use super::{Kind, Subject, View};
use crate::facts::Target;
use crate::graph::{Edge, Graph, Node, What};
use crate::index::{EntryIndex, ProviderIndex};
use crate::source::Place;
use crate::wiring::NeedIndex;
use crate::work;
use foldhash::{HashMap, HashSet};
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// How many steps a search for further chains takes at most.
const WORK: usize = 2_000_000;

/// Why one thing depends on another, or what comes nearest to that.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Why {
    /// What the chains begin at.
    pub from: String,
    /// What they lead to.
    pub to: String,
    /// Chains, the shortest first; of equally long ones by the names on the way.
    pub chains: Vec<Vec<ChainLink>>,
    /// How many there are in all.
    pub count: u64,
    /// Whether there may be more: some lead through cycles, or there are more than can be counted.
    pub at_least: bool,
    /// If there is none: what comes nearest.
    pub nearest: Option<Nearest>,
}

/// One link of a chain.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct ChainLink {
    /// What needs.
    pub from: Thing,
    /// What is needed.
    pub to: Thing,
    /// How that was resolved.
    pub how: Link,
    /// Where the need is written.
    pub place: Option<Place>,
    /// Whether it is met while building, so that the one cannot be without the other.
    pub is_for_building: bool,
}

/// What comes nearest to a chain that is not there.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Nearest {
    /// It is the other way round.
    Reversed(Vec<ChainLink>),
    /// The way ends at a need that could lead on, and does not.
    BreaksOff {
        /// The chain to the holder of that need.
        chain: Vec<ChainLink>,
        /// The need, and why it leads nowhere.
        need: Box<BrokenNeed>,
    },
    /// Nothing leads near: how many things the one reaches, and how many come to the other.
    Apart {
        /// Services that the first comes to use.
        reached: usize,
        /// Services, entries and providers that come to use the second.
        users: usize,
    },
}

/// A need that could lead on, and does not.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct BrokenNeed {
    /// Who has it.
    pub holder: Thing,
    /// Its slot.
    pub slot: String,
    /// What it is aimed at.
    pub aim: Aim,
    /// What it gets, and why.
    pub gets: Gets,
    /// Where it is written.
    pub place: Place,
}

/// The chains from one thing to another: the shortest, and up to `further` more.
pub fn why(view: &View<'_>, from: Subject, to: Subject, further: usize) -> Why {
    let (sources, targets) = (nodes(view, from), nodes(view, to));
    let mut answer =
        Why { from: view.text(from.name).to_owned(), to: view.text(to.name).to_owned(), ..Why::default() };
    let search = ChainSearch::new(view, &targets);
    let Some(shortest) = search.shortest(&sources) else {
        answer.nearest = Some(nearest(view, &sources, &targets, to));
        return answer;
    };
    let (others, is_whole) =
        if further > 0 { search.chains(&sources, further + 1) } else { (Vec::new(), true) };
    let others = others.into_iter().filter(|chain| *chain != shortest).take(further).collect::<Vec<_>>();
    let chains: Vec<Chain> = std::iter::once(shortest).chain(others).collect();
    let (count, is_exact) = search.count(&sources);
    answer.count = count.max(chains.len() as u64);
    answer.at_least = !is_exact || !is_whole;
    answer.chains = chains.iter().map(|chain| steps(view, chain)).collect();
    answer
}

/// The nodes that a subject stands for: one for a service, all of a module's, all that offer a contract.
pub(super) fn nodes(view: &View<'_>, subject: Subject) -> Vec<Node> {
    let (wiring, name) = (view.wiring, subject.name);
    let facts = &wiring.facts;
    let of_module = |node: &Node| {
        view.module(*node).is_some_and(|module| wiring.modules[module.index()].module.name == name)
    };
    match subject.kind {
        Kind::Service => {
            let first = view.resolution.ids.first(name).or_else(|| wiring.first_definition(name));
            let end = first.map(|first| view.resolution.ids.stand_in(first));
            first.into_iter().chain(end.filter(|&end| Some(end) != first)).map(Graph::service).collect()
        }
        Kind::Contract => {
            let offering = view.resolution.candidates(wiring, name).into_iter().map(Graph::service);
            offering.chain(view.graph.all(name)).collect()
        }
        Kind::Tag => view.graph.tag(name).into_iter().collect(),
        Kind::Setting => {
            let holds = |node: &Node| {
                let needs = crate::wiring::needs_of(wiring, *node).into_iter().flatten();
                needs.into_iter().any(|need| facts.parts.needs[need].target == Target::Setting(name))
            };
            view.graph.nodes().filter(holds).collect()
        }
        Kind::Provider => {
            let providers =
                facts.providers.iter().enumerate().filter(|(_, provider)| provider.id.name == name);
            providers.map(|(number, _)| view.graph.provider(ProviderIndex::new(number))).collect()
        }
        Kind::Entry => {
            let entries = facts.entries.iter().enumerate().filter(|(_, entry)| entry.id.name == name);
            entries.map(|(number, _)| view.graph.entry(EntryIndex::new(number))).collect()
        }
        Kind::Module => view.graph.nodes().filter(of_module).collect(),
        Kind::Type => built_from(wiring, name).map(Graph::service).collect(),
    }
}

type Chain = Vec<(Node, Edge)>;

/// A search for ways to some targets, with how far each node is from them.
struct ChainSearch<'v, 'a> {
    view: &'v View<'a>,
    /// By node the number of edges to the nearest target; `u32::MAX`: no way leads there.
    distance: Vec<u32>,
}

impl<'v, 'a> ChainSearch<'v, 'a> {
    /// Breadth-first from the targets backwards.
    fn new(view: &'v View<'a>, targets: &[Node]) -> Self {
        let mut distance = vec![u32::MAX; view.graph.len()];
        let mut level: Vec<Node> = targets.to_vec();
        for &target in targets {
            distance[target.index()] = 0;
        }
        let mut far = 0;
        while !level.is_empty() {
            far += 1;
            let mut next = Vec::new();
            for node in level {
                for edge in view.graph.needed_by(node) {
                    // A question says who may be meant, not who is needed.
                    if distance[edge.node.index()] == u32::MAX && !view.graph.is_question(edge.node) {
                        distance[edge.node.index()] = far;
                        next.push(edge.node);
                    }
                }
            }
            level = next;
        }
        Self { view, distance }
    }

    /// A shortest chain; of several the first by the names on the way.
    fn shortest(&self, sources: &[Node]) -> Option<Chain> {
        let best = |edges: &[Edge]| {
            let near = edges.iter().map(|edge| self.distance[edge.node.index()]).min()?;
            let edges =
                edges.iter().filter(|edge| self.distance[edge.node.index()] == near && near != u32::MAX);
            edges.min_by_key(|edge| self.view.sort_key(edge.node)).copied()
        };
        let first = |node: Node| Some((best(self.view.graph.needs(node))?, node));
        let starts = sources.iter().filter(|&&node| self.distance[node.index()] != u32::MAX);
        let key = |(edge, node): &(Edge, Node)| (self.distance[edge.node.index()], self.view.sort_key(*node));
        let (mut edge, mut node) = starts.filter_map(|&node| first(node)).min_by_key(key)?;
        let mut chain = Vec::new();
        loop {
            chain.push((node, edge));
            if self.distance[edge.node.index()] == 0 {
                return Some(chain);
            }
            node = edge.node;
            edge = best(self.view.graph.needs(node))?;
        }
    }

    /// Up to `most` chains that meet no node twice, shortest first, and whether no work was left undone.
    ///
    /// Best first over partial chains by their length and the distance left (P. Hart, N. Nilsson and
    /// B. Raphael's A*, 1968): since that distance is exact, whole chains come in the order of their lengths. Of
    /// equally good ones the longest is gone on with, so that whole chains come before all others are begun.
    fn chains(&self, sources: &[Node], most: usize) -> (Vec<Chain>, bool) {
        let mut found = Vec::new();
        let mut partial: Vec<(Node, Option<(usize, Edge)>)> = Vec::new();
        let mut waiting = BinaryHeap::new();
        let mut starts: Vec<Node> = sources.to_vec();
        starts.sort_by_key(|&node| self.view.sort_key(node));
        for node in starts.into_iter().filter(|&node| self.distance[node.index()] != u32::MAX) {
            partial.push((node, None));
            waiting.push(Reverse((self.distance[node.index()], Reverse(0_u32), partial.len() - 1)));
        }
        let mut left = WORK;
        while let Some(Reverse((_, Reverse(length), at))) = waiting.pop() {
            let (node, came) = partial[at];
            if self.distance[node.index()] == 0 && came.is_some() {
                found.push(unroll(&partial, at));
                if found.len() >= most {
                    return (found, true);
                }
                continue;
            }
            let mut edges: Vec<Edge> = self.view.graph.needs(node).to_vec();
            edges.retain(|edge| self.distance[edge.node.index()] != u32::MAX);
            edges.sort_by_key(|edge| self.view.sort_key(edge.node));
            for edge in edges {
                left = left.saturating_sub(1 + length as usize);
                if left == 0 {
                    return (found, false);
                }
                if self.distance[edge.node.index()] == 0 || !is_on(&partial, at, edge.node) {
                    partial.push((edge.node, Some((at, edge))));
                    let whole = length + 1 + self.distance[edge.node.index()];
                    waiting.push(Reverse((whole, Reverse(length + 1), partial.len() - 1)));
                }
            }
        }
        (found, true)
    }

    /// How many chains there are in all, and whether that is exact: where cycles lie between, only those are
    /// counted that come nearer to the target with every step.
    fn count(&self, sources: &[Node]) -> (u64, bool) {
        let order = self.between(sources);
        let place: HashMap<Node, usize> = order.iter().enumerate().map(|(at, &node)| (node, at)).collect();
        // Needed ones stand before who needs them, unless they are in a cycle.
        let is_exact = order.iter().enumerate().all(|(at, &node)| {
            self.view
                .graph
                .needs(node)
                .iter()
                .all(|edge| place.get(&edge.node).is_none_or(|&other| other < at))
        });
        let mut ways: HashMap<Node, u64> = HashMap::default();
        let mut nodes = order;
        if !is_exact {
            nodes.sort_by_key(|&node| self.distance[node.index()]);
        }
        for node in nodes {
            let here = self.distance[node.index()];
            if here == 0 {
                ways.insert(node, 1);
                continue;
            }
            let nearer = |edge: &&Edge| is_exact || self.distance[edge.node.index()] < here;
            let edges = self.view.graph.needs(node).iter().filter(nearer);
            let sum =
                edges.fold(0_u64, |sum, edge| sum.saturating_add(ways.get(&edge.node).copied().unwrap_or(0)));
            ways.insert(node, sum);
        }
        let count = |node: &Node| ways.get(node).copied().unwrap_or(0);
        let sum = sources.iter().filter(|&&node| self.distance[node.index()] != 0).map(count);
        let sum = sum.fold(0_u64, u64::saturating_add);
        (sum, is_exact && sum < u64::MAX)
    }

    /// The nodes on ways from the sources to the targets, each after those it needs (but for cycles): in the
    /// order in which a depth-first search leaves them, with a stack in place of recursion.
    fn between(&self, sources: &[Node]) -> Vec<Node> {
        let mut seen: HashSet<Node> = HashSet::default();
        let mut order = Vec::new();
        for &source in sources {
            let mut path = vec![(source, 0_usize)];
            if self.distance[source.index()] == u32::MAX || !seen.insert(source) {
                continue;
            }
            while let Some((node, next)) = path.last_mut() {
                let node = *node;
                // Chains end at the first target.
                let edges =
                    if self.distance[node.index()] == 0 { &[][..] } else { self.view.graph.needs(node) };
                let Some(edge) = edges.get(*next) else {
                    order.push(node);
                    path.pop();
                    continue;
                };
                *next += 1;
                work::count(1);
                if self.distance[edge.node.index()] != u32::MAX && seen.insert(edge.node) {
                    path.push((edge.node, 0));
                }
            }
        }
        order
    }
}

fn is_on(partial: &[(Node, Option<(usize, Edge)>)], mut at: usize, node: Node) -> bool {
    loop {
        let (here, came) = partial[at];
        if here == node {
            return true;
        }
        match came {
            Some((before, _)) => at = before,
            None => return false,
        }
    }
}

/// A chain from its first node: each node with the edge that leads on from it.
fn unroll(partial: &[(Node, Option<(usize, Edge)>)], mut at: usize) -> Chain {
    let mut chain = Vec::new();
    while let (_, Some((before, edge))) = partial[at] {
        chain.push((partial[before].0, edge));
        at = before;
    }
    chain.reverse();
    chain
}

fn steps(view: &View<'_>, chain: &[(Node, Edge)]) -> Vec<ChainLink> {
    let links = chain.iter().map(|&(from, edge)| ChainLink {
        from: view.thing(from),
        to: view.thing(edge.node),
        how: view.link(from, edge),
        place: view.step_place(from, edge),
        is_for_building: edge.is_for_building(view.wiring),
    });
    links.collect()
}

/// What comes nearest to a chain that is not there.
fn nearest(view: &View<'_>, sources: &[Node], targets: &[Node], to: Subject) -> Nearest {
    let back = ChainSearch::new(view, sources);
    if let Some(chain) = back.shortest(targets) {
        return Nearest::Reversed(steps(view, &chain));
    }
    // Forwards, breadth first: the first need on the way that names the target, or could mean it.
    let mut came: HashMap<Node, Option<(Node, Edge)>> = sources.iter().map(|&node| (node, None)).collect();
    let mut level: Vec<Node> = sources.to_vec();
    while !level.is_empty() {
        let mut next = Vec::new();
        for node in level {
            if let Some(need) = broken_need(view, node, to) {
                return Nearest::BreaksOff {
                    chain: steps(view, &path_to(&came, node)),
                    need: Box::new(need),
                };
            }
            for &edge in view.graph.needs(node) {
                if !view.graph.is_question(edge.node) && !came.contains_key(&edge.node) {
                    came.insert(edge.node, Some((node, edge)));
                    next.push(edge.node);
                }
            }
        }
        level = next;
    }
    let is_service = |node: &&Node| matches!(view.graph.what(**node), What::Service(_));
    let reached = came.keys().filter(is_service).count();
    let users =
        ChainSearch::new(view, targets).distance.iter().filter(|&&far| far != u32::MAX && far > 0).count();
    Nearest::Apart { reached, users }
}

fn path_to(came: &HashMap<Node, Option<(Node, Edge)>>, mut node: Node) -> Chain {
    let mut chain = Vec::new();
    while let Some(Some((before, edge))) = came.get(&node) {
        chain.push((*before, *edge));
        node = *before;
    }
    chain.reverse();
    chain
}

/// A need of a node that names the target, or a contract of it, and is met otherwise.
fn broken_need(view: &View<'_>, node: Node, to: Subject) -> Option<BrokenNeed> {
    let (wiring, facts) = (view.wiring, &view.wiring.facts);
    let offers = |contract| {
        let service = wiring.first_definition(to.name).map(|service| wiring.service(service));
        service
            .is_some_and(|service| service.offers.of(&facts.parts).iter().any(|offer| offer.name == contract))
    };
    for number in crate::wiring::needs_of(wiring, node).into_iter().flatten() {
        let need = &facts.parts.needs[number];
        let names_it = match need.target {
            Target::Service(id) => to.kind == Kind::Service && id == to.name,
            Target::Contract(contract) | Target::All(contract) => match to.kind {
                Kind::Contract => contract == to.name,
                Kind::Service => offers(contract),
                _ => false,
            },
            _ => false,
        };
        if !names_it {
            continue;
        }
        return Some(BrokenNeed {
            holder: view.thing(node),
            slot: view.owned(need.slot.name),
            aim: view.aim(need),
            gets: view.gets(NeedIndex(number as u32)),
            place: Place::new(need.source, need.span, "the way ends here"),
        });
    }
    None
}
