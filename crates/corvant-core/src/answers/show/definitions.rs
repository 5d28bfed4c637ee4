//! Where everything is defined, by its name: so that who shows many things goes over all definitions once.

use super::Contest;
use crate::answers::View;
use crate::facts::{Named, SuppliedKind, Target};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::wiring::{ServiceIndex, Wiring};
use foldhash::{HashMap, HashSet};
use std::hash::Hash;
use std::sync::{Arc, Mutex, OnceLock};

/// What is defined, by name; numbers are those of the facts.
#[derive(Debug, Default)]
pub(super) struct Definitions {
    /// By service those that are aliases of it.
    pub(super) aliases: HashMap<Name, Vec<ServiceIndex>>,
    /// By definition that does not count the one that does.
    pub(super) shadowed: HashMap<ServiceIndex, ServiceIndex>,
    pub(super) contracts: HashMap<Name, Vec<usize>>,
    /// By contract what is chosen for it.
    pub(super) choices: HashMap<Name, Vec<usize>>,
    /// By contract those that offer it where nobody else does.
    pub(super) giving_way: HashMap<Name, Vec<ServiceIndex>>,
    /// Contracts of which some need asks for one.
    pub(super) asked_for: HashSet<Name>,
    pub(super) tags: HashMap<Name, Vec<usize>>,
    pub(super) settings: HashMap<Name, Vec<usize>>,
    pub(super) providers: HashMap<Name, Vec<usize>>,
    /// By provider where rosters list it, with the number from 1.
    pub(super) loaded: HashMap<Name, Vec<(SourceIndex, usize, Span)>>,
    pub(super) entries: HashMap<Name, Vec<usize>>,
    pub(super) modules: HashMap<Name, ModuleParts>,
    pub(super) supplied: HashMap<(SuppliedKind, Name), Vec<usize>>,
    types: OnceLock<TypeParts>,
    /// By contract who wins, where that was asked before.
    pub(super) contests: Mutex<HashMap<Name, Arc<Contest>>>,
}

/// What belongs to a module.
#[derive(Debug, Default)]
pub(super) struct ModuleParts {
    pub(super) files: Vec<(SourceIndex, Span)>,
    pub(super) uses: Vec<(SourceIndex, Named)>,
    pub(super) used_by: Vec<(SourceIndex, Span)>,
    pub(super) services: Vec<ServiceIndex>,
    pub(super) providers: Vec<usize>,
    pub(super) entries: Vec<usize>,
}

/// Types that code declares.
#[derive(Debug, Default)]
pub(super) struct TypeParts {
    /// By name the parts in which a type is declared.
    pub(super) parts: HashMap<Name, Vec<usize>>,
    /// By the number of a declaration the services that are built from the type.
    pub(super) built_from: HashMap<usize, Vec<ServiceIndex>>,
}

/// What is listed under a key; nothing, if the key is not there.
pub(super) fn listed<'m, K: Eq + Hash, V>(map: &'m HashMap<K, Vec<V>>, key: &K) -> &'m [V] {
    map.get(key).map_or(&[], Vec::as_slice)
}

impl Definitions {
    /// Goes over all definitions.
    pub(super) fn new(view: &View<'_>) -> Self {
        let (wiring, facts) = (view.wiring, &view.wiring.facts);
        let mut definitions = Self {
            contracts: by_name(facts.contracts.iter().map(|contract| contract.contract.name)),
            choices: by_name(facts.choices.iter().map(|choice| choice.contract.name)),
            tags: by_name(facts.tags.iter().map(|tag| tag.tag.name)),
            settings: by_name(facts.settings.iter().map(|setting| setting.setting.name)),
            providers: by_name(facts.providers.iter().map(|provider| provider.id.name)),
            entries: by_name(facts.entries.iter().map(|entry| entry.id.name)),
            supplied: by_name(facts.supplied.iter().map(|supplied| (supplied.kind, supplied.name.name))),
            modules: modules(wiring),
            ..Self::default()
        };
        definitions.shadowed =
            view.resolution.ids.duplicates().iter().rev().map(|pair| (pair.other, pair.counting)).collect();
        definitions.asked_for = facts.parts.needs.iter().filter_map(|need| one_of(need.target)).collect();
        for (index, service) in wiring.services() {
            if let Some(target) = service.alias_of {
                definitions.aliases.entry(target.name).or_default().push(index);
            }
            if service.gives_way() && view.resolution.ids.is_built(index) {
                for offer in service.offers.of(&facts.parts) {
                    definitions.giving_way.entry(offer.name).or_default().push(index);
                }
            }
        }
        for roster in wiring.rosters(view.resolution.stage) {
            for (place, listed) in roster.providers.of(&facts.parts).iter().enumerate() {
                let loaded = definitions.loaded.entry(listed.name).or_default();
                loaded.push((roster.source, place + 1, listed.span));
            }
        }
        definitions
    }
}

impl Definitions {
    /// Types that code declares; gone over when the first of them is asked for.
    pub(super) fn types(&self, wiring: &Wiring) -> &TypeParts {
        self.types.get_or_init(|| {
            let declared = wiring.facts.declared_types.iter();
            let mut built_from: HashMap<usize, Vec<ServiceIndex>> = HashMap::default();
            for (index, service) in wiring.services() {
                let of = service.type_name.and_then(|named| wiring.types().find(wiring.text(named.name)));
                if let Some(number) = of {
                    built_from.entry(number).or_default().push(index);
                }
            }
            TypeParts { parts: by_name(declared.map(|declared| declared.name.name)), built_from }
        })
    }
}

/// The contract of which a need asks for one.
fn one_of(target: Target) -> Option<Name> {
    match target {
        Target::Contract(contract) => Some(contract),
        _ => None,
    }
}

/// The numbers of items, by what they are called.
fn by_name<K: Eq + Hash>(names: impl Iterator<Item = K>) -> HashMap<K, Vec<usize>> {
    let mut numbers: HashMap<K, Vec<usize>> = HashMap::default();
    for (number, name) in names.enumerate() {
        numbers.entry(name).or_default().push(number);
    }
    numbers
}

fn modules(wiring: &Wiring) -> HashMap<Name, ModuleParts> {
    let facts = &wiring.facts;
    let mut modules: HashMap<Name, ModuleParts> = HashMap::default();
    for (number, header) in wiring.headers.iter().enumerate() {
        if let Some(module) = header.module {
            let files = &mut modules.entry(module.name).or_default().files;
            files.push((SourceIndex(number as u32), module.span));
        }
    }
    let module_of = |source: SourceIndex| {
        wiring.module_of(source).map(|module| wiring.modules[module.index()].module.name)
    };
    for (source, used) in facts.used_modules() {
        if let Some(module) = module_of(source) {
            modules.entry(module).or_default().uses.push((source, used));
        }
        modules.entry(used.name).or_default().used_by.push((source, used.span));
    }
    for (number, service) in facts.services.iter().enumerate() {
        if let Some(module) = module_of(service.source) {
            modules.entry(module).or_default().services.push(ServiceIndex(number as u32));
        }
    }
    for (number, provider) in facts.providers.iter().enumerate() {
        if let Some(module) = module_of(provider.source) {
            modules.entry(module).or_default().providers.push(number);
        }
    }
    for (number, entry) in facts.entries.iter().enumerate() {
        if let Some(module) = module_of(entry.source) {
            modules.entry(module).or_default().entries.push(number);
        }
    }
    modules
}
