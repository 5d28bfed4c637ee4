//! What a rule looks at that runs on a part of a stage.

use super::clash::{Clash, Clashes};
use super::clashes;
use super::context::Context;
use super::lacks::Use;
use super::lacks::{Lack, keys_of};
use super::lookup::Lookup;
use super::offering::offering;
use crate::facts::{Choice, Entry, Many, Named, Need, Provider, Roster, Service, Setting, Tag, Tagging};
use crate::graph::{Edge, Node};
use crate::index::QuestionIndex;
use crate::name::Name;
use crate::resolve::Offers;
use crate::wiring::{ServiceIndex, Wiring};
use foldhash::HashSet;
use std::ops::Deref;

/// A stage, or what a stage changes of the wiring with none chosen: what [`Self::services`] and the like give is to
/// be looked at, and no more.
#[derive(Debug)]
pub(crate) struct StageView<'a>(Lookup<'a>);

impl<'a> Deref for StageView<'a> {
    type Target = Lookup<'a>;

    fn deref(&self) -> &Self::Target {
        &self.0
    }
}

impl<'a> StageView<'a> {
    pub(crate) fn new(context: &'a Context<'a>) -> Self {
        Self(Lookup { context })
    }

    /// The services to look at.
    pub(crate) fn services(&self) -> impl Iterator<Item = (ServiceIndex, &'a Service)> + use<'a> {
        self.context.services()
    }

    /// The services to look at, and with them the others that carry their tags: those are not looked at.
    pub(crate) fn services_in_company(
        &self,
    ) -> impl Iterator<Item = (ServiceIndex, &'a Service, bool)> + use<'a> {
        self.context.services_in_company()
    }

    /// The needs that stand in a definition itself, those of its model left out.
    pub(crate) fn own_needs(&self, service: ServiceIndex) -> Many<Need> {
        self.context.wiring.own_needs(service)
    }

    /// The tags that stand in a definition itself, those of its model left out.
    pub(crate) fn own_taggings(&self, service: ServiceIndex) -> Many<Tagging> {
        self.context.wiring.own_taggings(service)
    }

    /// Whether everything is to be looked at.
    pub(crate) fn is_whole(&self) -> bool {
        self.context.focus.is_none()
    }

    /// Whether values of settings may differ from those with no stage chosen.
    pub(crate) fn looks_at_settings(&self) -> bool {
        self.context.focus.is_none_or(|focus| !focus.settings.is_empty())
    }

    /// The value that a declaration of a setting has here, if it is the one that counts: its place, and the settings
    /// it refers to.
    pub(crate) fn value_of(&self, setting: &Setting) -> Option<(Named, Many<Named>)> {
        let wiring = self.context.wiring;
        wiring.declared.value(&wiring.facts, setting, self.resolution().stage)
    }

    /// The rosters that hold here, if they are to be looked at.
    pub(crate) fn rosters(&self) -> impl Iterator<Item = &'a Roster> + use<'a> {
        self.context.rosters()
    }

    /// The tag declarations to look at.
    pub(crate) fn tags(&self) -> impl Iterator<Item = &'a Tag> + use<'a> {
        self.context.tags()
    }

    /// What each tag is declared to be, for those who carry it.
    pub(crate) fn declared_tags(&self) -> &'a [Tag] {
        &self.context.wiring.declared.tags
    }

    /// The choices that hold here.
    pub(crate) fn choices(&self) -> impl Iterator<Item = &'a Choice> + use<'a> {
        self.context.wiring.choices(self.resolution().stage)
    }

    /// Lacks that nothing unread may explain.
    pub(crate) fn certain_lacks(&self) -> impl Iterator<Item = &'a Lack> {
        self.context.certain_lacks()
    }

    /// Who seeks the answer to a question.
    pub(crate) fn lack_of(&self, question: QuestionIndex) -> Option<&'a Lack> {
        self.context.lacks.question(question)
    }

    /// Several services that claim one contract, or one key of it, and nothing that decides.
    pub(crate) fn clashes(&self) -> &'a Clashes {
        self.context.clashes.get_or_init(|| clashes::clashes(self.context))
    }

    /// Who needs what is claimed.
    pub(crate) fn uses_of(&self, clash: &Clash) -> Vec<Use> {
        clashes::uses(clash, self.context)
    }

    /// The cycle groups to look at, over the edges that `keep` accepts: none of a question's.
    pub(crate) fn cycle_groups(&self, keep: impl Fn(Node, Edge) -> bool) -> Vec<Vec<Node>> {
        self.context.cycle_groups(keep)
    }

    /// What is handed out for a contract.
    pub(crate) fn offering(&self, contract: Name) -> HashSet<ServiceIndex> {
        offering(self.context, contract)
    }

    /// Who offers a contract under a key, or under none.
    pub(crate) fn offers(&self, contract: Name, key: Option<Name>) -> Offers {
        self.resolution().offers(self.context.wiring, contract, key)
    }

    /// The keys under which a contract is offered.
    pub(crate) fn keys_of(&self, contract: Name) -> Vec<Name> {
        keys_of(self.context.wiring, self.resolution(), contract)
    }

    /// What something of a name looks up at run time.
    pub(crate) fn look_ups(&self, by: Name) -> impl Iterator<Item = &'a Entry> + use<'a> {
        let wiring = self.context.wiring;
        let numbers = wiring.look_ups.get(&by).into_iter().flatten();
        numbers.map(|number| &wiring.facts.entries[number.index()])
    }

    /// The providers that a roster may list.
    pub(crate) fn providers(&self) -> &'a [Provider] {
        &self.context.wiring.facts.providers
    }

    /// The declarations of all settings: their values refer to one another across modules.
    pub(crate) fn settings(&self) -> &'a [Setting] {
        &self.context.wiring.facts.settings
    }

    /// All services with links: aliases, wrappers and replacements lead to one another across modules.
    pub(crate) fn linked(&self) -> &'a [ServiceIndex] {
        &self.context.wiring.linked
    }

    /// Definitions that others take as their model and whose own models run in a cycle.
    pub(crate) fn models_in_cycles(&self) -> impl Iterator<Item = ServiceIndex> + use<'a> {
        let wiring = self.context.wiring;
        wiring.in_model_cycles().iter().copied().filter(|&index| wiring.is_model(index))
    }

    /// The definitions of an id that others take as their model.
    pub(crate) fn definitions_as_models(&self, id: Name) -> impl Iterator<Item = ServiceIndex> + use<'a> {
        let wiring = self.context.wiring;
        wiring.definitions(id).filter(|&index| wiring.is_model(index))
    }

    /// Whether an id has several definitions.
    pub(crate) fn is_defined_again(&self, id: Name) -> bool {
        self.context.wiring.is_defined_again(id)
    }

    /// The whole wiring, to say in advice where else a thing is. What is found must come from the rest of the view.
    pub(crate) fn for_advice(&self) -> &'a Wiring {
        self.context.wiring
    }
}
