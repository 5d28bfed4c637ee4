//! From resolved needs to edges.

use super::{Edge, Edges, Graph, NONE, Node, What};
use crate::facts::{Need, SuppliedKind, Target};
use crate::index::QuestionIndex;
use crate::name::Name;
use crate::resolve::{Lead, Met, Resolution, StageChange};
use crate::wiring::{NeedIndex, ServiceIndex, Wiring, needs_of};
use foldhash::{HashMap, HashMapExt, HashSet};
use std::sync::Arc;

impl Graph {
    /// The graph of a resolved wiring. Work and size grow with the number of needs, tags and candidates.
    pub(crate) fn new(wiring: &Wiring, resolution: &Resolution) -> Self {
        Self::without_edges(wiring, resolution).with_edges(wiring, resolution)
    }

    /// The same nodes, with all their edges.
    pub(crate) fn with_edges(mut self, wiring: &Wiring, resolution: &Resolution) -> Self {
        let builder = EdgeBuilder::new(&self, wiring, resolution);
        let (mut all, mut ends) = (Vec::with_capacity(wiring.facts.parts.needs.len()), Vec::new());
        let mut edges = Vec::new();
        for node in (0..self.node_count()).map(Node) {
            builder.edges_of(&self, node, &mut edges);
            all.extend_from_slice(&edges);
            ends.push(all.len() as u32);
        }
        let forward = Edges::new(all, &ends);
        self.backward = forward.reversed();
        self.forward = forward;
        self
    }

    /// The graph of a stage out of that with none chosen. Nodes keep their numbers; questions that only the
    /// stage asks come after all others.
    pub(crate) fn restaged(&self, wiring: &Wiring, resolution: &Resolution, change: &StageChange) -> Self {
        let (forward, backward) = (self.forward.layer(), self.backward.layer());
        let mut graph = Self { forward, backward, ..self.clone() };
        graph.questions = resolution.ambiguous.len() as u32;
        let new_questions = self.node_count()..graph.node_count();
        for _ in new_questions {
            graph.forward.push_node();
            graph.backward.push_node();
        }
        let services = change.services.iter().map(|&service| Self::service(service));
        let tags = change.tags.iter().filter_map(|&tag| graph.tag(tag));
        let contracts = change.contracts.iter().filter_map(|&contract| graph.all(contract));
        let questions = (0..graph.questions)
            .map(QuestionIndex)
            .filter(|&question| change.contracts.contains(&resolution.ambiguous[question.index()].contract));
        let questions = questions.map(|question| graph.question(question));
        let changed =
            services.chain(tags).chain(contracts).chain(change.holders.iter().copied()).chain(questions);
        let mut changed: Vec<Node> = changed.collect();
        changed.sort_unstable();
        changed.dedup();
        let builder = EdgeBuilder::new(&graph, wiring, resolution);
        // By far end of an edge that has gone or come: the near ends it has now among the changed nodes.
        let mut ends: HashMap<Node, Vec<Edge>> = HashMap::new();
        let mut edges = Vec::new();
        for &node in &changed {
            builder.edges_of(&graph, node, &mut edges);
            for edge in graph.forward.of(node) {
                ends.entry(edge.node).or_default();
            }
            for edge in &edges {
                ends.entry(edge.node).or_default().push(Edge { node, need: edge.need });
            }
            graph.forward.replace(node, &edges);
        }
        for (end, from_changed) in ends {
            let is_kept = |edge: &&Edge| changed.binary_search(&edge.node).is_err();
            let mut all: Vec<Edge> = graph.backward.of(end).iter().filter(is_kept).copied().collect();
            all.extend(from_changed);
            // Stable: several edges from one node stay in the order of its needs.
            all.sort_by_key(|edge| edge.node);
            graph.backward.replace(end, &all);
        }
        graph
    }

    /// The nodes of a resolved wiring, numbered; nothing leads from one to another yet.
    pub(crate) fn without_edges(wiring: &Wiring, resolution: &Resolution) -> Self {
        let facts = &wiring.facts;
        let tags = collected_tags(wiring);
        let contracts = gathered_contracts(wiring);
        let first_tag = (facts.services.len() + facts.entries.len() + facts.providers.len()) as u32;
        let numbered = |names: &[Name], first: u32| {
            names.iter().enumerate().map(|(index, &name)| (name, Node(first + index as u32))).collect()
        };
        let tag_nodes = numbered(&tags, first_tag);
        let contract_nodes = numbered(&contracts, first_tag + tags.len() as u32);
        Self {
            services: facts.services.len() as u32,
            entries: facts.entries.len() as u32,
            providers: facts.providers.len() as u32,
            questions: resolution.ambiguous.len() as u32,
            tags: Arc::new(tags),
            tag_nodes: Arc::new(tag_nodes),
            contracts: Arc::new(contracts),
            contract_nodes: Arc::new(contract_nodes),
            forward: Edges::default(),
            backward: Edges::default(),
        }
    }

    fn node_count(&self) -> u32 {
        self.first_question() + self.questions
    }
}

/// Tags that something collects, in the order in which they are first spoken of.
fn collected_tags(wiring: &Wiring) -> Vec<Name> {
    let mut seen = vec![false; wiring.names.bound()];
    let needed = wiring.facts.parts.needs.iter().filter_map(|need| match need.target {
        Target::Tag(tag) => Some(tag),
        _ => None,
    });
    let declared = wiring.facts.tags.iter().map(|tag| tag.tag.name);
    let supplied = wiring.facts.supplied.iter().filter(|name| name.kind == SuppliedKind::Tag);
    let all = needed.chain(declared).chain(supplied.map(|supplied| supplied.name.name));
    all.filter(|tag| !std::mem::replace(&mut seen[tag.index()], true)).collect()
}

/// Contracts of which something needs all services, in the order in which they are first needed.
fn gathered_contracts(wiring: &Wiring) -> Vec<Name> {
    let mut seen = HashSet::default();
    let needed = wiring.facts.parts.needs.iter().filter_map(|need| match need.target {
        Target::All(contract) => Some(contract),
        _ => None,
    });
    needed.filter(|&contract| seen.insert(contract)).collect()
}

/// Makes the edges of one node after another.
struct EdgeBuilder<'a> {
    wiring: &'a Wiring,
    resolution: &'a Resolution,
    /// By service the tags that it is declared to collect.
    collectors: HashMap<ServiceIndex, Vec<Node>>,
    /// The providers that are loaded; `None`: nothing says which.
    listed: Option<HashSet<Name>>,
}

impl<'a> EdgeBuilder<'a> {
    fn new(graph: &Graph, wiring: &'a Wiring, resolution: &'a Resolution) -> Self {
        let mut collectors: HashMap<ServiceIndex, Vec<Node>> = HashMap::new();
        for tag in &wiring.facts.tags {
            if let (Some(by), Some(node)) = (tag.collected_by, graph.tag(tag.tag.name))
                && let Lead::Service(collector) = resolution.ids.lead(wiring, by.name)
            {
                let tags = collectors.entry(collector).or_default();
                if !tags.contains(&node) {
                    tags.push(node);
                }
            }
        }
        Self { wiring, resolution, collectors, listed: wiring.listed(resolution.stage) }
    }

    fn edges_of(&self, graph: &Graph, node: Node, edges: &mut Vec<Edge>) {
        edges.clear();
        match graph.what(node) {
            What::Service(service) if !self.resolution.ids.is_built(service) => {}
            What::Service(service) => {
                self.needs(graph, node, edges);
                self.collected(service, edges);
            }
            What::Entry(_) => self.needs(graph, node, edges),
            What::Provider(number) => {
                let id = self.wiring.facts.providers[number.index()].id.name;
                // A provider that no roster lists is never loaded: it uses nothing.
                if self.listed.as_ref().is_none_or(|listed| listed.contains(&id)) {
                    self.needs(graph, node, edges);
                }
            }
            What::Tag(tag) => self.all(self.resolution.carriers(tag), edges),
            What::All(contract) => {
                self.all(self.resolution.candidates(self.wiring, contract).into_iter(), edges);
            }
            What::Question(question) => {
                let asked = &self.resolution.ambiguous[question.index()];
                // One that is settled in this stage keeps its number and nothing else.
                if self.resolution.question((asked.contract, asked.key)) == Some(question) {
                    self.all(asked.candidates.iter().copied().take(Graph::MEANT), edges);
                }
            }
        }
    }

    /// Tags that a service collects without a need on them, and what it wraps without saying so.
    fn collected(&self, index: ServiceIndex, edges: &mut Vec<Edge>) {
        let service = self.wiring.service(index);
        let tags = self.collectors.get(&index).into_iter().flatten();
        edges.extend(tags.map(|&tag| Edge { node: tag, need: NONE }));
        if let Some(inner) = self.resolution.ids.inside(index) {
            let is_needed = |need: &Need| need.target == Target::Wrapped;
            if !service.needs.of(&self.wiring.facts.parts).iter().any(is_needed) {
                edges.push(Edge { node: Graph::service(inner), need: NONE });
            }
        }
    }

    fn needs(&self, graph: &Graph, node: Node, edges: &mut Vec<Edge>) {
        for need in needs_of(self.wiring, node).into_iter().flatten() {
            let target = match self.resolution.met(NeedIndex(need as u32)) {
                Met::Service(service) => Some(Graph::service(service)),
                Met::Carriers(tag) => graph.tag(tag),
                Met::All(contract) => graph.all(contract),
                Met::Ambiguous(question) => Some(graph.question(question)),
                _ => None,
            };
            edges.extend(target.map(|node| Edge { node, need: need as u32 }));
        }
    }

    fn all(&self, services: impl Iterator<Item = ServiceIndex>, edges: &mut Vec<Edge>) {
        let stand_ins = services.map(|service| self.resolution.ids.stand_in(service));
        edges.extend(stand_ins.map(|service| Edge { node: Graph::service(service), need: NONE }));
        // What wraps one that carries a tag and carries it itself is one.
        edges.sort_unstable_by_key(|edge| edge.node);
        edges.dedup();
    }
}

impl Edges {
    /// Edges by node, in the order of the nodes.
    fn new(all: Vec<Edge>, ends: &[u32]) -> Self {
        let starts = std::iter::once(0).chain(ends.iter().copied());
        let ranges: Vec<(u32, u32)> = starts.zip(ends.iter().copied()).collect();
        Self { ranges: ranges.into(), all: Arc::new(all), more: Vec::new() }
    }

    /// A layer over these edges.
    fn layer(&self) -> Self {
        Self { ranges: self.ranges.layer(), all: self.all.clone(), more: self.more.clone() }
    }

    /// Adds a node without edges.
    fn push_node(&mut self) {
        let end = (self.all.len() + self.more.len()) as u32;
        self.ranges.push((end, end));
    }

    /// Gives a node other edges. Their old place is not used again.
    fn replace(&mut self, node: Node, edges: &[Edge]) {
        let start = (self.all.len() + self.more.len()) as u32;
        self.more.extend_from_slice(edges);
        self.ranges.set(node.index(), (start, start + edges.len() as u32));
    }

    /// The same edges from their other ends, by counting.
    fn reversed(&self) -> Self {
        let nodes = self.ranges.len();
        let mut ends = vec![0_u32; nodes];
        for edge in self.all.iter() {
            ends[edge.node.index()] += 1;
        }
        let mut sum = 0;
        for end in &mut ends {
            let count = *end;
            *end = sum;
            sum += count;
        }
        let mut all = vec![Edge { node: Node(0), need: NONE }; self.all.len()];
        for from in (0..nodes).map(Node::new) {
            for edge in self.of(from) {
                let at = &mut ends[edge.node.index()];
                all[*at as usize] = Edge { node: from, need: edge.need };
                *at += 1;
            }
        }
        Self::new(all, &ends)
    }
}
