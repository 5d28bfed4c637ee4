//! From resolved needs to edges.

use super::{Edge, Edges, Graph, NONE, Node};
use crate::facts::Need;
use crate::name::Name;
use crate::resolve::{Met, Resolution};
use crate::wiring::{ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt, HashSet};
use std::ops::Range;

impl Graph {
    /// The graph of a resolved wiring. Work and size grow with the number of needs, tags and candidates.
    pub fn new(wiring: &Wiring, resolution: &Resolution) -> Self {
        let tags = collected_tags(wiring);
        let facts = &wiring.facts;
        let mut graph = Self {
            services: facts.services.len() as u32,
            entries: facts.entries.len() as u32,
            providers: facts.providers.len() as u32,
            questions: resolution.ambiguous.len() as u32,
            tags: Vec::new(),
            tag_nodes: HashMap::new(),
            forward: Edges::default(),
            backward: Edges::default(),
        };
        let mut builder = Builder::new(&graph, resolution, &tags);
        builder.services(wiring);
        for entry in &facts.entries {
            builder.node(entry.needs.range());
        }
        let stage = resolution.stage;
        let has_roster = wiring.rosters(stage).next().is_some();
        let listed: HashSet<Name> = listed_providers(wiring, stage).collect();
        for provider in &facts.providers {
            // A provider that no roster lists is never loaded: it uses nothing.
            if !has_roster || listed.contains(&provider.id.name) {
                builder.needs(provider.register.range());
                builder.needs(provider.start.range());
            }
            builder.end();
        }
        for &tag in &tags {
            builder.all(resolution.carriers.get(tag));
        }
        for question in &resolution.ambiguous {
            builder.all(&question.candidates);
        }
        graph.forward = builder.edges;
        graph.tag_nodes = builder.tag_nodes;
        graph.tags = tags;
        graph.backward = reversed(&graph.forward);
        graph
    }
}

fn listed_providers(wiring: &Wiring, stage: Option<Name>) -> impl Iterator<Item = Name> {
    wiring
        .rosters(stage)
        .flat_map(|roster| roster.providers.of(&wiring.facts.named))
        .map(|provider| provider.name)
}

/// Tags that something collects, in the order in which they are first spoken of.
fn collected_tags(wiring: &Wiring) -> Vec<Name> {
    let mut seen = vec![false; wiring.names.bound()];
    let needed = wiring.facts.needs.iter().filter_map(|need| match need.target {
        crate::facts::Target::Tag(tag) => Some(tag),
        _ => None,
    });
    let declared = wiring.facts.tags.iter().map(|tag| tag.tag.name);
    let supplied = wiring.facts.supplied.iter().filter(|name| name.kind == crate::facts::SuppliedKind::Tag);
    let all = needed.chain(declared).chain(supplied.map(|supplied| supplied.name.name));
    all.filter(|tag| !std::mem::replace(&mut seen[tag.index()], true)).collect()
}

struct Builder<'a> {
    resolution: &'a Resolution,
    tag_nodes: HashMap<Name, Node>,
    first_question: Node,
    edges: Edges,
}

impl<'a> Builder<'a> {
    fn new(graph: &Graph, resolution: &'a Resolution, tags: &[Name]) -> Self {
        let first_tag = graph.services + graph.entries + graph.providers;
        let mut tag_nodes = HashMap::with_capacity(tags.len());
        tag_nodes.extend(tags.iter().enumerate().map(|(index, &tag)| (tag, first_tag + index as u32)));
        let first_question = first_tag + tags.len() as u32;
        let edges = Edges { starts: vec![0], edges: Vec::new() };
        Self { resolution, tag_nodes, first_question, edges }
    }

    fn services(&mut self, wiring: &Wiring) {
        let mut collectors: HashMap<Name, Vec<Node>> = HashMap::new();
        for tag in &wiring.facts.tags {
            if let (Some(by), Some(&node)) = (tag.collected_by, self.tag_nodes.get(&tag.tag.name)) {
                collectors.entry(by.name).or_default().push(node);
            }
        }
        for (index, service) in wiring.services() {
            if !self.resolution.ids.is_built(index) {
                self.end();
                continue;
            }
            self.needs(service.needs.range());
            for &tag in collectors.get(&service.id.name).into_iter().flatten() {
                self.push(tag, NONE);
            }
            if let Some(inner) = self.resolution.ids.wrapped(index) {
                let is_needed = |need: &Need| need.target == crate::facts::Target::Wrapped;
                if !service.needs.of(&wiring.facts.needs).iter().any(is_needed) {
                    self.push(Graph::service(inner), NONE);
                }
            }
            self.end();
        }
    }

    /// All edges of a node that has needs only.
    fn node(&mut self, needs: Range<usize>) {
        self.needs(needs);
        self.end();
    }

    fn needs(&mut self, needs: Range<usize>) {
        for need in needs {
            let target = match self.resolution.met(crate::wiring::NeedIndex(need as u32)) {
                Met::Service(service) => Some(Graph::service(service)),
                Met::Carriers(tag) => self.tag_nodes.get(&tag).copied(),
                Met::Ambiguous(question) => Some(self.first_question + question),
                _ => None,
            };
            if let Some(target) = target {
                self.push(target, need as u32);
            }
        }
    }

    fn all(&mut self, services: &[ServiceIndex]) {
        for &service in services {
            self.push(Graph::service(self.resolution.ids.stand_in(service)), NONE);
        }
        self.end();
    }

    fn push(&mut self, node: Node, need: u32) {
        self.edges.edges.push(Edge { node, need });
    }

    fn end(&mut self) {
        self.edges.starts.push(self.edges.edges.len() as u32);
    }
}

/// The same edges from their other ends, by counting.
fn reversed(forward: &Edges) -> Edges {
    let nodes = forward.starts.len() - 1;
    let mut starts = vec![0_u32; nodes + 1];
    for edge in &forward.edges {
        starts[edge.node as usize + 1] += 1;
    }
    let mut sum = 0;
    for start in &mut starts {
        sum += *start;
        *start = sum;
    }
    let mut next = starts.clone();
    let mut edges = vec![Edge { node: 0, need: NONE }; forward.edges.len()];
    for from in 0..nodes as u32 {
        for edge in forward.of(from) {
            let at = &mut next[edge.node as usize];
            edges[*at as usize] = Edge { node: from, need: edge.need };
            *at += 1;
        }
    }
    Edges { starts, edges }
}
