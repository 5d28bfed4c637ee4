//! All things of a wiring in one stage, for who wants to look around in the whole of it.
//!
//! What it hands out is flat: subjects with what is said of them, nodes with their needs, and edges between nodes. It
//! costs no more than it is long.

use super::show::{Sheet, Sheets};
use super::terms::{Aim, Gets, NeedManner, Thing};
use super::{Kind, Subject, View, known_names};
use crate::graph::{Node, What};
use crate::name::Name;
use crate::source::{Place, SourceIndex, Span};
use crate::wiring::{NeedIndex, needs_of};
use foldhash::{HashMap, HashSet};

/// A wiring in one stage, as a whole.
#[derive(Debug)]
pub struct Atlas<'v, 'a> {
    view: &'v View<'a>,
    sheets: Sheets<'v, 'a>,
}

/// A node of the graph: something that needs others, or is needed.
#[derive(Clone, Debug)]
pub struct AtlasNode<'a> {
    /// What it is.
    pub thing: Thing,
    /// What it is shown as.
    pub subject: Subject,
    /// Whether it is built in this stage, or is nothing that could be.
    pub is_built: bool,
    /// The module that defines it.
    pub module: Option<&'a str>,
    /// Where it is defined.
    pub place: Option<Place>,
}

/// A need of a node.
#[derive(Clone, Debug)]
pub struct AtlasNeed<'a> {
    /// The slot.
    pub slot: &'a str,
    /// What it is aimed at.
    pub aim: Aim,
    /// What it gets, and why.
    pub gets: Gets,
    /// How it is met.
    pub manner: NeedManner,
    /// The node that it gets, by number.
    pub to: Option<usize>,
    /// Where it is written.
    pub source: SourceIndex,
    /// The text there.
    pub span: Span,
}

impl<'v, 'a> Atlas<'v, 'a> {
    /// All that is in a view.
    pub fn new(view: &'v View<'a>) -> Self {
        Self { view, sheets: Sheets::new(view) }
    }

    /// Everything that has a name of its own, by kind and name.
    pub fn subjects(&self) -> Vec<Subject> {
        let wiring = self.view.wiring;
        let services = wiring.facts.services.iter();
        // Of types those that services are made of: the others are the code's own matter.
        let types = services.filter_map(|service| wiring.types().find(wiring.text(service.type_name?.name)));
        let types = types.map(|number| (Kind::Type, wiring.facts.declared_types[number].name.name));
        let all: HashSet<(Kind, Name)> = known_names(wiring).chain(types).collect();
        let mut all: Vec<(Kind, Name)> = all.into_iter().collect();
        all.sort_unstable_by_key(|&(kind, name)| (kind, wiring.text(name)));
        all.into_iter().map(|(kind, name)| Subject { kind, name }).collect()
    }

    /// What is said of a subject where it is defined.
    pub fn sheet(&self, subject: Subject) -> Sheet {
        self.sheets.of(subject)
    }

    /// How many nodes there are.
    pub fn len(&self) -> usize {
        self.view.graph.len()
    }

    /// Whether there is no node.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// A node, by number.
    pub fn node(&self, number: usize) -> AtlasNode<'a> {
        let (view, node) = (self.view, Node::new(number));
        let facts = &view.wiring.facts;
        let mut is_built = true;
        let (kind, name) = match view.graph.what(node) {
            What::Service(service) => {
                is_built = view.resolution.ids.is_built(service);
                (Kind::Service, view.wiring.service(service).id.name)
            }
            What::Entry(entry) => (Kind::Entry, facts.entries[entry.index()].id.name),
            What::Provider(provider) => (Kind::Provider, facts.providers[provider.index()].id.name),
            What::Tag(tag) => (Kind::Tag, tag),
            What::All(contract) => (Kind::Contract, contract),
            What::Question(question) => {
                (Kind::Contract, view.resolution.ambiguous[question.index()].contract)
            }
        };
        AtlasNode {
            thing: view.thing(node),
            subject: Subject { kind, name },
            is_built,
            module: view.module_of(node),
            place: view.place(node),
        }
    }

    /// The needs of a node, in the order in which they are written.
    pub fn needs(&self, number: usize) -> Vec<AtlasNeed<'a>> {
        let (view, node) = (self.view, Node::new(number));
        let edges = view.graph.needs(node).iter();
        let met = edges.filter_map(|edge| edge.need().map(|need| (need.index(), edge.node.index())));
        let met: HashMap<usize, usize> = met.collect();
        let all = needs_of(view.wiring, node).into_iter().flatten();
        let need = |number: usize| {
            let need = &view.wiring.facts.parts.needs[number];
            AtlasNeed {
                slot: view.text(need.slot.name),
                aim: view.aim(need),
                gets: view.gets(NeedIndex(number as u32)),
                manner: NeedManner::of(need),
                to: met.get(&number).copied(),
                source: need.source,
                span: need.span,
            }
        };
        all.map(need).collect()
    }

    /// Nodes that a node leads to without a need: carriers of a tag, those that offer a contract, what is wrapped.
    pub fn links(&self, number: usize) -> impl Iterator<Item = usize> {
        let edges = self.view.graph.needs(Node::new(number)).iter();
        edges.filter(|edge| edge.need().is_none()).map(|edge| edge.node.index())
    }
}
