//! The graph of who needs whom in one stage: nodes are numbers, edges stand in flat arrays.
//!
//! Nodes are services, entries and providers; and in between a node for each tag (a thousand collectors of a
//! hundred thousand carriers are a hundred thousand edges, not a hundred million), for each contract of which
//! all services are needed, and for each question that several candidates claim and nothing settles.

mod build;
mod count;
mod cycle;
mod cycle_group;
pub(crate) mod cycle_groups;
mod openings;
pub(crate) mod plain;
pub(crate) mod reach;

pub(crate) use count::{Cycles, count_cycles};
pub(crate) use cycle::shortest_cycle;
pub(crate) use openings::openings;

use crate::facts::Need;
pub(crate) use crate::index::Node;
use crate::index::{EntryIndex, ProviderIndex, QuestionIndex};
use crate::layered::Layered;
use crate::name::Name;
use crate::resolve::Resolution;
use crate::wiring::{NeedIndex, ServiceIndex, Wiring};
use crate::work;
use foldhash::HashMap;
use std::sync::Arc;

const NONE: u32 = u32::MAX;

/// What a node stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum What {
    /// A service.
    Service(ServiceIndex),
    /// An entry, by its number in the facts.
    Entry(EntryIndex),
    /// A provider, by its number in the facts.
    Provider(ProviderIndex),
    /// All that carry a tag.
    Tag(Name),
    /// All that offer a contract.
    All(Name),
    /// A question of [`crate::resolve::Resolution::ambiguous`].
    Question(QuestionIndex),
}

/// One edge, seen from one of its ends.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Edge {
    /// The other end.
    pub(crate) node: Node,
    need: u32,
}

impl Edge {
    /// The need that makes the edge; `None` from a tag to its carriers and from a question to its candidates.
    pub(crate) fn need(self) -> Option<NeedIndex> {
        (self.need != NONE).then_some(NeedIndex(self.need))
    }

    /// The need itself.
    pub(crate) fn need_in(self, wiring: &Wiring) -> Option<&Need> {
        self.need().map(|need| &wiring.facts.parts.needs[need.index()])
    }

    /// Whether the far end must be there before the near end is built.
    pub(crate) fn is_for_building(self, wiring: &Wiring) -> bool {
        self.need_in(wiring).is_none_or(Need::is_for_building)
    }

    /// Whether the far end is resolved on first use only.
    pub(crate) fn is_lazy(self, wiring: &Wiring) -> bool {
        self.need_in(wiring).is_some_and(|need| need.lazy)
    }
}

/// A stage, or what holds with none chosen, as it was worked out of a wiring.
#[derive(Clone, Debug)]
pub struct Resolved {
    /// What every need gets.
    pub(crate) resolution: Arc<Resolution>,
    /// Who needs whom.
    pub(crate) graph: Arc<Graph>,
}

/// Who needs whom in one stage.
#[derive(Clone, Debug)]
pub(crate) struct Graph {
    services: u32,
    entries: u32,
    providers: u32,
    tags: Arc<Vec<Name>>,
    tag_nodes: Arc<HashMap<Name, Node>>,
    contracts: Arc<Vec<Name>>,
    contract_nodes: Arc<HashMap<Name, Node>>,
    questions: u32,
    forward: Edges,
    backward: Edges,
}

#[derive(Clone, Debug, Default)]
struct Edges {
    /// By node where its edges begin and end.
    ranges: Layered<(u32, u32)>,
    all: Arc<Vec<Edge>>,
    /// Edges that came later, in a stage; ranges go on into them.
    more: Vec<Edge>,
}

impl Edges {
    fn of(&self, node: Node) -> &[Edge] {
        let (start, end) = self.ranges.get(node.index());
        let (start, end, first) = (start as usize, end as usize, self.all.len());
        if start < first { &self.all[start..end] } else { &self.more[start - first..end - first] }
    }
}

impl Graph {
    /// How many nodes there are.
    pub(crate) fn len(&self) -> usize {
        self.forward.ranges.len()
    }

    /// All nodes.
    pub(crate) fn nodes(&self) -> impl Iterator<Item = Node> + use<> {
        (0..self.len()).map(Node::new)
    }

    /// How many edges there are.
    pub(crate) fn edge_count(&self) -> usize {
        self.nodes().map(|node| self.forward.of(node).len()).sum()
    }

    /// What a node needs.
    pub(crate) fn needs(&self, node: Node) -> &[Edge] {
        let edges = self.forward.of(node);
        work::count(1 + edges.len());
        edges
    }

    /// Who needs a node.
    pub(crate) fn needed_by(&self, node: Node) -> &[Edge] {
        let edges = self.backward.of(node);
        work::count(1 + edges.len());
        edges
    }

    /// What a node stands for.
    pub(crate) fn what(&self, node: Node) -> What {
        let entry = self.services;
        let provider = entry + self.entries;
        let tag = provider + self.providers;
        let contract = self.first_contract();
        let question = self.first_question();
        let Node(node) = node;
        match node {
            _ if node < entry => What::Service(ServiceIndex(node)),
            _ if node < provider => What::Entry(EntryIndex(node - entry)),
            _ if node < tag => What::Provider(ProviderIndex(node - provider)),
            _ if node < contract => What::Tag(self.tags[(node - tag) as usize]),
            _ if node < question => What::All(self.contracts[(node - contract) as usize]),
            _ => What::Question(QuestionIndex(node - question)),
        }
    }

    /// The node of a service.
    pub(crate) fn service(service: ServiceIndex) -> Node {
        service.into()
    }

    /// The node of an entry, by its number in the facts.
    pub(crate) fn entry(&self, entry: EntryIndex) -> Node {
        Node(self.services + entry.0)
    }

    /// The node of a provider, by its number in the facts.
    pub(crate) fn provider(&self, provider: ProviderIndex) -> Node {
        Node(self.services + self.entries + provider.0)
    }

    /// The node of a tag that is carried, collected or declared.
    pub(crate) fn tag(&self, tag: Name) -> Option<Node> {
        self.tag_nodes.get(&tag).copied()
    }

    /// The node of all that offer a contract, if anything needs all of them.
    pub(crate) fn all(&self, contract: Name) -> Option<Node> {
        self.contract_nodes.get(&contract).copied()
    }

    /// All tags that are declared, supplied or collected.
    pub(crate) fn tags(&self) -> &[Name] {
        &self.tags
    }

    /// Candidates of a question that edges lead to. Many questions may have as many candidates: who needs all of them
    /// finds them with the question.
    pub(crate) const MEANT: usize = 64;

    /// The node of a question.
    pub(crate) fn question(&self, question: QuestionIndex) -> Node {
        Node(self.first_question() + question.0)
    }

    /// Whether a node is a question: its edges say who may be meant, not who is needed.
    pub(crate) fn is_question(&self, node: Node) -> bool {
        node.0 >= self.first_question()
    }

    fn first_contract(&self) -> u32 {
        self.services + self.entries + self.providers + self.tags.len() as u32
    }

    fn first_question(&self) -> u32 {
        self.first_contract() + self.contracts.len() as u32
    }
}

#[cfg(test)]
mod tests;
