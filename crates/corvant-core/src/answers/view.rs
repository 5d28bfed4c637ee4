//! A wiring in one stage, and what there is to say of its parts.

use super::terms::{Aim, Gets, Link, NeedManner, Reason, Thing, ThingKind};
use crate::facts::{Choice, Need, SuppliedBy, SuppliedKind, Target};
use crate::graph::{Edge, Graph, Node, Resolved, What};
use crate::name::Name;
use crate::resolve::{Met, Resolution, StageIndex, candidates_and_defaults};
use crate::source::{Place, SourceIndex};
use crate::wiring::{ModuleIndex, NeedIndex, SameId, Wiring};
use foldhash::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// A wiring as it is in one stage.
#[derive(Debug)]
pub struct View<'a> {
    /// The wiring.
    pub wiring: &'a Wiring,
    /// What every need gets.
    pub(crate) resolution: Arc<Resolution>,
    /// Who needs whom.
    pub(crate) graph: Arc<Graph>,
    /// What settles a contract, or a key of it, where that was asked for before.
    settled: Mutex<HashMap<(Name, Option<Name>), Reason>>,
}

/// Makes views of stages.
pub(crate) struct Staging<'v, 'a> {
    view: &'v View<'a>,
    /// `None`: there is no stage to go through.
    index: Option<StageIndex>,
}

impl<'a> Staging<'_, 'a> {
    /// The stages that there are to go through.
    pub(crate) fn stages(&self) -> &'a [Name] {
        if self.index.is_some() { &self.view.wiring.stages } else { &[] }
    }

    /// The view of the one of this name.
    pub(crate) fn named(&self, name: &str) -> Option<View<'a>> {
        self.of(self.stages().iter().copied().find(|&stage| self.view.text(stage) == name)?)
    }

    /// The view of one of them: all that the stage does not change is shared.
    pub(crate) fn of(&self, stage: Name) -> Option<View<'a>> {
        let View { wiring, resolution, graph, .. } = self.view;
        let (resolution, change) = resolution.restaged(wiring, self.index.as_ref()?, stage);
        let graph = graph.restaged(wiring, &resolution, &change);
        Some(View::of(wiring, Resolved { resolution: Arc::new(resolution), graph: Arc::new(graph) }))
    }
}

impl<'a> View<'a> {
    /// The wiring in a stage; `None`: with none chosen.
    pub fn new(wiring: &'a Wiring, stage: Option<Name>) -> Self {
        let resolution = Resolution::new(wiring, stage);
        let graph = Graph::new(wiring, &resolution);
        Self::of(wiring, Resolved { resolution: Arc::new(resolution), graph: Arc::new(graph) })
    }

    /// The wiring in a stage that was worked out before.
    pub fn of(wiring: &'a Wiring, Resolved { resolution, graph }: Resolved) -> Self {
        Self { wiring, resolution, graph, settled: Mutex::default() }
    }

    /// What `answer` says of each stage in turn, worked out from what the stage changes of this view.
    pub(crate) fn by_stage<T>(&self, mut answer: impl FnMut(&View<'a>) -> T) -> Vec<(Name, T)> {
        let staging = self.staging();
        staging.stages().iter().filter_map(|&stage| Some((stage, answer(&staging.of(stage)?)))).collect()
    }

    /// What views of stages are made with: out of this one, which is to be the one with no stage chosen. Where it has a stage
    /// already, there is nothing to go through.
    pub(crate) fn staging(&self) -> Staging<'_, 'a> {
        let are_several = self.resolution.stage.is_none() && !self.wiring.stages.is_empty();
        Staging { view: self, index: are_several.then(|| StageIndex::new(self.wiring)) }
    }

    /// The stage; `None`: with none chosen.
    pub fn stage(&self) -> Option<Name> {
        self.resolution.stage
    }

    /// The text of a name.
    pub fn text(&self, name: Name) -> &'a str {
        self.wiring.text(name)
    }

    /// What nodes are put in order by: their names, those of all that carry a tag or offer a contract before others.
    /// They are nothing by themselves: what needs them is not to wait for them.
    pub(crate) fn sort_key(&self, node: Node) -> (bool, &'a str, Option<&'a str>) {
        let facts = &self.wiring.facts;
        match self.graph.what(node) {
            What::Service(service) => (true, self.wiring.id(service), None),
            What::Entry(entry) => (true, self.text(facts.entries[entry.index()].id.name), None),
            What::Provider(provider) => (true, self.text(facts.providers[provider.index()].id.name), None),
            What::Tag(name) | What::All(name) => (false, self.text(name), None),
            What::Question(question) => {
                let asked = &self.resolution.ambiguous[question.index()];
                (true, self.text(asked.contract), asked.key.map(|key| self.text(key)))
            }
        }
    }

    /// Where a service, an entry or a provider is defined.
    pub(crate) fn place(&self, node: Node) -> Option<Place> {
        let facts = &self.wiring.facts;
        let (source, id) = match self.graph.what(node) {
            What::Service(service) => {
                let service = self.wiring.service(service);
                (service.source, service.id)
            }
            What::Entry(entry) => (facts.entries[entry.index()].source, facts.entries[entry.index()].id),
            What::Provider(provider) => {
                let provider = &facts.providers[provider.index()];
                (provider.source, provider.id)
            }
            What::Tag(_) | What::All(_) | What::Question(_) => return None,
        };
        Some(Place::new(source, id.span, "defined here"))
    }

    /// The module that defines a node.
    pub(crate) fn module(&self, node: Node) -> Option<ModuleIndex> {
        self.place(node).and_then(|place| self.wiring.module_of(place.source))
    }

    /// The name of the module that defines a node.
    pub(crate) fn module_of(&self, node: Node) -> Option<&'a str> {
        self.place(node).and_then(|place| self.wiring.module_name(place.source))
    }

    /// The name of the module that a file speaks for, or what stands in its place.
    pub fn module_name(&self, source: SourceIndex) -> &'a str {
        self.wiring.module_name(source).unwrap_or("no module")
    }

    /// A node as answers speak of it.
    pub(crate) fn thing(&self, node: Node) -> Thing {
        let facts = &self.wiring.facts;
        let (kind, name, key) = match self.graph.what(node) {
            What::Service(service) => (ThingKind::Service, self.wiring.service(service).id.name, None),
            What::Entry(entry) => (ThingKind::Entry, facts.entries[entry.index()].id.name, None),
            What::Provider(provider) => {
                (ThingKind::Provider, facts.providers[provider.index()].id.name, None)
            }
            What::Tag(tag) => (ThingKind::Carriers, tag, None),
            What::All(contract) => (ThingKind::Offerers, contract, None),
            What::Question(question) => {
                let asked = &self.resolution.ambiguous[question.index()];
                (ThingKind::Claimed, asked.contract, asked.key)
            }
        };
        Thing { kind, name: self.owned(name), key: key.map(|key| self.owned(key)) }
    }

    pub(super) fn owned(&self, name: Name) -> String {
        self.text(name).to_owned()
    }

    /// What a need is aimed at.
    pub(crate) fn aim(&self, need: &Need) -> Aim {
        match need.target {
            Target::Service(id) => Aim::Service(self.owned(id)),
            Target::Contract(contract) => {
                Aim::Contract(self.owned(contract), need.key.map(|key| self.owned(key.name)))
            }
            Target::All(contract) => Aim::All(self.owned(contract)),
            Target::Tag(tag) => Aim::Tag(self.owned(tag)),
            Target::Setting(setting) => Aim::Setting(self.owned(setting)),
            Target::Wrapped => Aim::Wrapped,
        }
    }

    /// Whether nothing is said to bring what a need asks for, and what was not read may.
    fn is_assumed(&self, target: Target) -> bool {
        let (Target::Contract(name) | Target::All(name)) = target else { return false };
        let all = self.wiring.facts.supplied.iter();
        let mut of =
            all.filter(|supplied| supplied.kind == SuppliedKind::Contract && supplied.name.name == name);
        of.all(|supplied| !matches!(supplied.by, SuppliedBy::Platform | SuppliedBy::Pattern))
    }

    /// What a need gets, and why.
    pub fn gets(&self, need: NeedIndex) -> Gets {
        let said = &self.wiring.facts.parts.needs[need.index()];
        let nothing = |reason: Reason| Gets { service: None, reason };
        match self.resolution.met(need) {
            Met::Service(service) => {
                let id = self.wiring.id(service);
                Gets { service: Some(id.to_owned()), reason: self.reason(said, id) }
            }
            Met::Carriers(tag) => nothing(Reason::Carried(self.resolution.carriers(tag).count())),
            Met::All(contract) => {
                nothing(Reason::Offered(self.resolution.candidates(self.wiring, contract).len()))
            }
            Met::Setting => nothing(Reason::Value),
            Met::Supplied if self.is_assumed(said.target) => nothing(Reason::Assumed),
            Met::Supplied => nothing(Reason::Supplied),
            Met::Absent => nothing(Reason::Absent),
            Met::Missing => nothing(Reason::Missing),
            Met::MissingKey => nothing(Reason::MissingKey),
            Met::Ambiguous(question) => {
                nothing(Reason::Ambiguous(self.resolution.ambiguous[question.index()].candidates.len()))
            }
            Met::Unknown => nothing(Reason::Unknown),
        }
    }

    /// Why a need gets the service `id`.
    fn reason(&self, need: &Need, id: &str) -> Reason {
        match need.target {
            Target::Service(asked) if self.text(asked) == id => Reason::Id,
            Target::Service(asked) => self.detour(asked),
            Target::Contract(contract) => self.settled(contract, need.key.map(|key| key.name)),
            // No other need gets a single service.
            Target::Wrapped | Target::All(_) | Target::Tag(_) | Target::Setting(_) => Reason::Wrapped,
        }
    }

    /// Why an id leads to a service of another id.
    fn detour(&self, asked: Name) -> Reason {
        let first = self.resolution.ids.first(asked).map(|first| self.wiring.service(first));
        match first {
            Some(first) if first.alias_of.is_some() => Reason::Alias(self.owned(asked)),
            Some(first) if first.wraps.is_none() && first.replaces.is_some() => {
                Reason::Replaces(self.owned(asked))
            }
            _ => Reason::Wraps(self.owned(asked)),
        }
    }

    /// What settles which service a contract, or a key of it, gets.
    pub(super) fn settled(&self, contract: Name, key: Option<Name>) -> Reason {
        let known = || self.settled.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(reason) = known().get(&(contract, key)) {
            return reason.clone();
        }
        let is_it =
            |choice: &&Choice| choice.contract.name == contract && choice.key.map(|key| key.name) == key;
        let is_chosen = self.resolution.chosen(contract, key).is_some();
        let choice = is_chosen.then(|| self.wiring.choices(self.resolution.stage).find(is_it)).flatten();
        let reason = match (choice, key) {
            (Some(choice), _) => {
                Reason::Chosen(Place::new(choice.source, choice.service.span, "chosen here"))
            }
            (None, Some(key)) => Reason::Key(self.owned(key)),
            (None, None) => match self.resolution.candidates(self.wiring, contract).len() {
                0 | 1 => Reason::Only,
                count => self.among(contract, count),
            },
        };
        known().insert((contract, key), reason.clone());
        reason
    }

    /// What settles which of so many that offer a contract is given.
    fn among(&self, contract: Name, count: usize) -> Reason {
        let offers = self.resolution.offers(self.wiring, contract, None);
        let (_, defaults) = candidates_and_defaults(self.wiring, offers.first());
        match self.wiring.policy.same_contract {
            SameId::First if defaults.len() != 1 => Reason::First(count),
            SameId::Last if defaults.len() != 1 => Reason::Last(count),
            _ => Reason::Default(count),
        }
    }

    /// How an edge was resolved: by a need, or because its far end carries, offers or wraps something.
    pub(crate) fn link(&self, from: Node, edge: Edge) -> Link {
        let Some(need) = edge.need() else {
            return match self.graph.what(from) {
                What::Tag(_) => Link::Carries,
                What::All(_) => Link::Offers,
                What::Question(_) => Link::MayBeMeant,
                _ if matches!(self.graph.what(edge.node), What::Tag(_)) => Link::Collects,
                _ => Link::Wraps,
            };
        };
        let said = &self.wiring.facts.parts.needs[need.index()];
        Link::Need {
            slot: self.owned(said.slot.name),
            aim: self.aim(said),
            reason: self.gets(need).reason,
            manner: NeedManner::of(said),
        }
    }

    /// Where an edge is written: its need, or the tag on its far end.
    pub(crate) fn step_place(&self, from: Node, edge: Edge) -> Option<Place> {
        if let Some(need) = edge.need_in(self.wiring) {
            return Some(Place::new(need.source, need.span, "needed here"));
        }
        let (What::Tag(tag), What::Service(service)) = (self.graph.what(from), self.graph.what(edge.node))
        else {
            return self.place(edge.node);
        };
        let taggings = self.wiring.service(service).taggings.of(&self.wiring.facts.parts);
        let tagging = taggings.iter().find(|tagging| tagging.tag.name == tag);
        let place = tagging.map(|tagging| Place::new(tagging.source, tagging.tag.span, "tagged here"));
        place.or_else(|| self.place(edge.node))
    }
}
