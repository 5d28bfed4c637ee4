//! A wiring as it would be without some of what it says.
//!
//! What is taken out keeps its place in the flat arrays, so that everything else keeps its number, and says
//! nothing any more: it has the name that nothing has. Everything is then indexed anew, models included.

use super::{ServiceIndex, Wiring};
use crate::facts::{Facts, Many, Named, Service};
use crate::name::Name;
use crate::source::SourceIndex;
use foldhash::HashSet;

/// What is taken out, by kind and name.
#[derive(Clone, Debug, Default)]
pub struct Removal {
    /// Definitions of services, all of an id.
    pub services: HashSet<Name>,
    /// Contracts, that nothing offers or extends any more.
    pub contracts: HashSet<Name>,
    /// Tags, that nothing carries or declares any more.
    pub tags: HashSet<Name>,
    /// Settings.
    pub settings: HashSet<Name>,
    /// Providers.
    pub providers: HashSet<Name>,
    /// Entries.
    pub entries: HashSet<Name>,
    /// Modules, with all that their files say.
    pub modules: HashSet<Name>,
}

impl Wiring {
    /// The wiring without something, for as much work as linking is. Stages, files and names stay what they are.
    #[must_use]
    pub fn without(&self, removal: &Removal) -> Self {
        let mut facts = self.facts.clone();
        self.own.undo(&mut facts);
        let of_module = |source: SourceIndex| {
            let module = self.module_of(source).map(|module| self.modules[module.index()].module.name);
            module.is_some_and(|module| removal.modules.contains(&module))
        };
        let none = self.names.nothing();
        blank(&mut facts, removal, none, &of_module);
        let by = |module: &SourceIndex| !of_module(*module);
        facts.choices.retain(|choice| by(&choice.source));
        facts.rosters.retain(|roster| by(&roster.source));
        facts.supplied.retain(|supplied| by(&supplied.source));
        facts.expectations.retain(|line| by(&line.source));
        self.with_facts(facts)
    }

    /// Whether a removal takes a definition out.
    pub fn is_removed(&self, removal: &Removal, service: ServiceIndex) -> bool {
        let service = self.service(service);
        let module = self.module_of(service.source).map(|module| self.modules[module.index()].module.name);
        removal.services.contains(&service.id.name)
            || module.is_some_and(|module| removal.modules.contains(&module))
    }
}

fn blank(facts: &mut Facts, removal: &Removal, none: Name, of_module: &dyn Fn(SourceIndex) -> bool) {
    let nothing = |named: Named| Named { name: none, ..named };
    for service in &mut facts.services {
        if removal.services.contains(&service.id.name) || of_module(service.source) {
            *service =
                Service { source: service.source, template: true, ..Service::new(nothing(service.id)) };
        }
    }
    if !removal.contracts.is_empty() {
        let offers = facts.services.iter().map(|service| service.offers);
        let lists: Vec<Many<Named>> =
            offers.chain(facts.contracts.iter().map(|contract| contract.extends)).collect();
        for named in lists.into_iter().flat_map(Many::range) {
            if removal.contracts.contains(&facts.parts.named[named].name) {
                facts.parts.named[named].name = none;
            }
        }
    }
    for contract in &mut facts.contracts {
        if removal.contracts.contains(&contract.contract.name) || of_module(contract.source) {
            (contract.contract, contract.extends) = (nothing(contract.contract), Many::default());
        }
    }
    for tagging in &mut facts.parts.taggings {
        if removal.tags.contains(&tagging.tag.name) {
            tagging.tag.name = none;
        }
    }
    facts.tags.retain(|tag| !removal.tags.contains(&tag.tag.name) && !of_module(tag.source));
    facts
        .settings
        .retain(|setting| !removal.settings.contains(&setting.setting.name) && !of_module(setting.source));
    for provider in &mut facts.providers {
        if removal.providers.contains(&provider.id.name) || of_module(provider.source) {
            provider.id = nothing(provider.id);
            provider.registers = Some(Many::default());
            (provider.register, provider.start, provider.after) =
                (Many::default(), Many::default(), Many::default());
        }
    }
    for entry in &mut facts.entries {
        if removal.entries.contains(&entry.id.name) || of_module(entry.source) {
            entry.needs = Many::default();
        }
    }
}
