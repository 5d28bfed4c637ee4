//! A wiring in one stage, and words for what is in it.

use crate::facts::{Choice, Named, Need, Target, Via};
use crate::graph::{Edge, Graph, Node, What};
use crate::name::Name;
use crate::resolve::{Met, Resolution, StageIndex};
use crate::source::{Place, SourceIndex};
use crate::wiring::{ModuleIndex, NeedIndex, Wiring};
use foldhash::HashMap;
use std::sync::{Mutex, PoisonError};

/// A wiring as it is in one stage.
#[derive(Debug)]
pub struct View<'a> {
    /// The wiring.
    pub wiring: &'a Wiring,
    /// What every need gets.
    pub resolution: Resolution,
    /// Who needs whom.
    pub graph: Graph,
    /// What settles a contract, or a key of it, where that was asked for before.
    settled: Mutex<HashMap<(Name, Option<Name>), String>>,
}

impl<'a> View<'a> {
    /// The wiring in a stage; `None`: with none chosen.
    pub fn new(wiring: &'a Wiring, stage: Option<Name>) -> Self {
        let resolution = Resolution::new(wiring, stage);
        let graph = Graph::new(wiring, &resolution);
        Self { wiring, resolution, graph, settled: Mutex::default() }
    }

    /// What `answer` says of each stage in turn, worked out from what the stage changes of this view, which is
    /// to be the one with no stage chosen. Where a view has its stage already, there is nothing to go through.
    pub(super) fn by_stage<T>(&self, mut answer: impl FnMut(&View<'a>) -> T) -> Vec<(Name, T)> {
        if self.resolution.stage.is_some() || self.wiring.stages.is_empty() {
            return Vec::new();
        }
        let index = StageIndex::new(self.wiring, &self.graph);
        let one = |&stage: &Name| {
            let (resolution, change) = self.resolution.restaged(self.wiring, &self.graph, &index, stage);
            let graph = self.graph.restaged(self.wiring, &resolution, &change);
            (stage, answer(&View { wiring: self.wiring, resolution, graph, settled: Mutex::default() }))
        };
        self.wiring.stages.iter().map(one).collect()
    }

    /// The text of a name.
    pub fn text(&self, name: Name) -> &'a str {
        self.wiring.text(name)
    }

    /// What a node is called.
    pub fn name(&self, node: Node) -> String {
        let facts = &self.wiring.facts;
        match self.graph.what(node) {
            What::Service(service) => self.wiring.id(service).to_owned(),
            What::Entry(entry) => self.text(facts.entries[entry as usize].id.name).to_owned(),
            What::Provider(provider) => self.text(facts.providers[provider as usize].id.name).to_owned(),
            What::Tag(tag) => format!("all that carry {}", self.text(tag)),
            What::All(contract) => format!("all that offer {}", self.text(contract)),
            What::Question(question) => {
                let asked = &self.resolution.ambiguous[question as usize];
                match asked.key {
                    Some(key) => format!("{} under {}", self.text(asked.contract), self.text(key)),
                    None => self.text(asked.contract).to_owned(),
                }
            }
        }
    }

    /// What kind of thing a node is, in a word.
    pub fn kind(&self, node: Node) -> &'static str {
        match self.graph.what(node) {
            What::Service(_) => "service",
            What::Entry(_) => "entry",
            What::Provider(_) => "provider",
            What::Tag(_) => "tag",
            What::All(_) | What::Question(_) => "contract",
        }
    }

    /// Where a service, an entry or a provider is defined.
    pub fn place(&self, node: Node) -> Option<Place> {
        let facts = &self.wiring.facts;
        let (source, id) = match self.graph.what(node) {
            What::Service(service) => {
                let service = self.wiring.service(service);
                (service.source, service.id)
            }
            What::Entry(entry) => (facts.entries[entry as usize].source, facts.entries[entry as usize].id),
            What::Provider(provider) => {
                let provider = &facts.providers[provider as usize];
                (provider.source, provider.id)
            }
            What::Tag(_) | What::All(_) | What::Question(_) => return None,
        };
        Some(Place::new(source, id.span, "defined here"))
    }

    /// The module that defines a node.
    pub fn module(&self, node: Node) -> Option<ModuleIndex> {
        self.place(node).and_then(|place| self.wiring.module_of(place.source))
    }

    /// The name of the module that defines a node.
    pub fn module_of(&self, node: Node) -> Option<&'a str> {
        self.place(node).and_then(|place| self.wiring.module_name(place.source))
    }

    /// The name of the module that a file speaks for, or what stands in its place.
    pub fn module_name(&self, source: SourceIndex) -> &'a str {
        self.wiring.module_name(source).unwrap_or("no module")
    }

    /// What a need is aimed at, in words: `contract Clock under night`.
    pub fn target(&self, need: &Need) -> String {
        let key = self.under(need.key);
        match need.target {
            Target::Service(id) => self.text(id).to_owned(),
            Target::Contract(contract) => format!("contract {}{key}", self.text(contract)),
            Target::All(contract) => format!("all that offer {}", self.text(contract)),
            Target::Tag(tag) => format!("all that carry {}", self.text(tag)),
            Target::Setting(setting) => format!("setting {}", self.text(setting)),
            Target::Wrapped => "what it wraps".to_owned(),
        }
    }

    /// ` under KEY`, if there is a key.
    pub(super) fn under(&self, key: Option<Named>) -> String {
        key.map_or_else(String::new, |key| format!(" under {}", self.text(key.name)))
    }

    /// How a need is met beside the plain way: `lazy, optional, by a setter`; empty for the plain way.
    pub fn manner(need: &Need) -> String {
        let via = match need.via {
            Via::Constructor => None,
            Via::Setter => Some("set after building"),
            Via::Property => Some("assigned after building"),
            Via::Factory => Some("by its factory"),
            Via::LookUp => Some("looked up at run time"),
        };
        let lazy = need.lazy.then_some("lazy");
        let optional = need.optional.then_some("optional");
        let words: Vec<&str> = [lazy, optional, via].into_iter().flatten().collect();
        words.join(", ")
    }

    /// What a need gets, and why: the name of the service, if it is one, and the reason in words.
    pub fn met(&self, need: NeedIndex) -> (Option<String>, String) {
        let said = &self.wiring.facts.needs[need.index()];
        match self.resolution.met(need) {
            Met::Service(service) => {
                let id = self.wiring.id(service).to_owned();
                let reason = self.reason(said, &id);
                (Some(id), reason)
            }
            Met::Carriers(tag) => {
                (None, several(self.resolution.carriers(tag).count(), "carries it", "carry it"))
            }
            Met::All(contract) => {
                let count = self.resolution.candidates(self.wiring, contract).len();
                (None, several(count, "offers it", "offer it"))
            }
            Met::Setting => (None, "it has a value".to_owned()),
            Met::Supplied => (None, "the host platform brings it".to_owned()),
            Met::Absent => (None, "not found; it is optional".to_owned()),
            Met::Missing => (None, "not found".to_owned()),
            Met::MissingKey => (None, "it is offered, but not under this key".to_owned()),
            Met::Ambiguous(question) => {
                let count = self.resolution.ambiguous[question as usize].candidates.len();
                (None, format!("{count} offer it, and nothing says which is meant"))
            }
            Met::Unknown => (None, "it depends on the stage, or on another finding".to_owned()),
        }
    }

    /// Why a need gets the service `id`.
    fn reason(&self, need: &Need, id: &str) -> String {
        match need.target {
            Target::Service(asked) if self.text(asked) == id => "by its id".to_owned(),
            Target::Service(asked) => self.detour(asked),
            Target::Contract(contract) => self.settled(contract, need.key.map(|key| key.name)),
            Target::Wrapped => "it is what it wraps".to_owned(),
            Target::All(_) | Target::Tag(_) | Target::Setting(_) => String::new(),
        }
    }

    /// Why an id leads to a service of another id.
    fn detour(&self, asked: Name) -> String {
        let first = self.resolution.ids.first(asked).map(|first| self.wiring.service(first));
        match first {
            Some(first) if first.alias_of.is_some() => format!("{} is an alias", self.text(asked)),
            Some(first) if first.wraps.is_some() => format!("it wraps {}", self.text(asked)),
            Some(first) if first.replaces.is_some() => format!("it replaces {}", self.text(asked)),
            _ => format!("it wraps {}", self.text(asked)),
        }
    }

    /// What settles which service a contract, or a key of it, gets.
    pub(super) fn settled(&self, contract: Name, key: Option<Name>) -> String {
        let known = || self.settled.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(text) = known().get(&(contract, key)) {
            return text.clone();
        }
        let is_it =
            |choice: &&Choice| choice.contract.name == contract && choice.key.map(|key| key.name) == key;
        let is_chosen = self.resolution.chosen(contract, key).is_some();
        let choice = is_chosen.then(|| self.wiring.choices(self.resolution.stage).find(is_it)).flatten();
        let text = match (choice, key) {
            (Some(choice), _) => {
                format!("chosen in {}", self.wiring.address(choice.source, choice.service.span))
            }
            (None, Some(key)) => format!("the one that offers it under {}", self.text(key)),
            (None, None) => match self.resolution.candidates(self.wiring, contract).len() {
                0 | 1 => "the only one that offers it".to_owned(),
                count => format!("the default of {count} that offer it"),
            },
        };
        known().insert((contract, key), text.clone());
        text
    }

    /// How an edge was resolved, in words: by a need, or because its far end carries, offers or wraps something.
    pub fn step(&self, from: Node, edge: Edge) -> String {
        let Some(need) = edge.need() else {
            return match self.graph.what(from) {
                What::Tag(_) => "it carries the tag".to_owned(),
                What::All(_) => "it offers the contract".to_owned(),
                What::Question(_) => "it may be meant: nothing says which".to_owned(),
                _ if self.kind(edge.node) == "tag" => "its declaration says who collects it".to_owned(),
                _ => "it is what it wraps".to_owned(),
            };
        };
        let said = &self.wiring.facts.needs[need.index()];
        let (_, reason) = self.met(need);
        let manner = Self::manner(said);
        let manner = if manner.is_empty() { String::new() } else { format!(" ({manner})") };
        let slot = self.text(said.slot.name);
        match said.target {
            Target::Service(asked) if reason == "by its id" => {
                format!("{slot}: {}{manner}", self.text(asked))
            }
            Target::Tag(_) | Target::All(_) => format!("{slot}{manner}"),
            _ => format!("{slot}: {}{manner}, {reason}", self.target(said)),
        }
    }

    /// Where an edge is written: its need, or the tag on its far end.
    pub fn step_place(&self, from: Node, edge: Edge) -> Option<Place> {
        if let Some(need) = edge.need_in(self.wiring) {
            return Some(Place::new(need.source, need.span, "needed here"));
        }
        let (What::Tag(tag), What::Service(service)) = (self.graph.what(from), self.graph.what(edge.node))
        else {
            return self.place(edge.node);
        };
        let taggings = self.wiring.service(service).taggings.of(&self.wiring.facts.taggings);
        let tagging = taggings.iter().find(|tagging| tagging.tag.name == tag);
        let place = tagging.map(|tagging| Place::new(tagging.source, tagging.tag.span, "tagged here"));
        place.or_else(|| self.place(edge.node))
    }
}

fn several(count: usize, one: &str, many: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { many })
}
