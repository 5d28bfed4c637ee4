//! One stage after another: what a stage changes is worked out, and the rest is taken from the wiring with no
//! stage chosen.
//!
//! Everything is found by name: a definition that is limited to the stage changes what its id, the ids it
//! replaces or wraps, its contracts and its tags lead to; and that changes the needs that name those.

use super::contracts::pattern;
use super::needs::{Known, add_settings};
use super::{Lead, Resolution, Table, Value};
use crate::facts::{Setting, Target};
use crate::index::Node;
use crate::name::Name;
use crate::wiring::{ServiceIndex, Wiring, needs_of};
use foldhash::{HashMap, HashSet};

/// What is asked by name for every stage, gathered once.
pub(crate) struct StageIndex {
    /// Services that are limited to stages.
    limited: Vec<ServiceIndex>,
    /// By name the nodes that have a need on it, of whatever kind.
    holders: Table<Node>,
    /// By name the services that alias, wrap or replace it.
    links: HashMap<Name, Vec<ServiceIndex>>,
    /// By name the ids that are aliases of it.
    aliases: HashMap<Name, Vec<Name>>,
    /// By name the services that take it as their model.
    children: HashMap<Name, Vec<ServiceIndex>>,
    /// By pattern (`Store<*>`) the contracts of its form that are needed.
    closed_forms: HashMap<Name, Vec<Name>>,
    /// Settings whose value may depend on the stage: by name their declarations, by number in the facts.
    settings: HashMap<Name, Vec<u32>>,
    /// By setting the declarations whose values refer to it, by number in the facts.
    referrers: HashMap<Name, Vec<u32>>,
}

/// What a stage changes.
#[derive(Debug, Default)]
pub(crate) struct StageChange {
    /// Definitions that count there and not elsewhere, or the other way, or may lead elsewhere.
    pub(crate) services: Vec<ServiceIndex>,
    /// Contracts that others offer, or for which others are chosen.
    pub(crate) contracts: HashSet<Name>,
    /// Tags that others carry, or whose contract others offer.
    pub(crate) tags: HashSet<Name>,
    /// Settings that have a value there and none elsewhere, or the other way, by number of their declarations;
    /// and those that refer to them or have a value of their own there.
    pub(crate) settings: Vec<u32>,
    /// What has a need on any of these, in order: numbers of [`Wiring::holder`].
    pub(crate) holders: Vec<Node>,
    /// Whether another roster holds.
    pub(crate) roster: bool,
    ids: HashSet<Name>,
    setting_names: HashSet<Name>,
}

impl StageChange {
    /// Whether the stage is as if none were chosen.
    pub(crate) fn is_nothing(&self) -> bool {
        self.services.is_empty()
            && self.contracts.is_empty()
            && self.settings.is_empty()
            && self.holders.is_empty()
            && !self.roster
    }
}

impl StageIndex {
    /// Work and size grow with the number of needs.
    pub(crate) fn new(wiring: &Wiring) -> Self {
        let mut index = Self {
            limited: Vec::new(),
            holders: Table::new(wiring.names.bound(), || holders(wiring)),
            links: HashMap::default(),
            aliases: HashMap::default(),
            children: HashMap::default(),
            closed_forms: HashMap::default(),
            settings: HashMap::default(),
            referrers: HashMap::default(),
        };
        for (number, service) in wiring.services() {
            if service.is_limited() {
                index.limited.push(number);
            }
            for link in [service.alias_of, service.wraps, service.replaces].into_iter().flatten() {
                index.links.entry(link.name).or_default().push(number);
            }
            if let Some(target) = service.alias_of {
                index.aliases.entry(target.name).or_default().push(service.id.name);
            }
            if let Some(model) = service.like {
                index.children.entry(model.name).or_default().push(number);
            }
        }
        index.index_forms(wiring);
        index.index_settings(wiring);
        index
    }

    /// The nodes that have a need on a name, and the services that name it in any other way.
    pub(crate) fn speakers_of(&self, name: Name) -> impl Iterator<Item = Node> {
        let named = [&self.links, &self.children].into_iter().filter_map(move |by_name| by_name.get(&name));
        let named = named.flatten().map(|&service| service.into());
        self.holders.get(name).iter().copied().chain(named)
    }

    /// Some names, and all ids that are aliases of one of them, over however many others.
    pub(crate) fn with_aliases(&self, names: impl IntoIterator<Item = Name>) -> Vec<Name> {
        let mut seen: HashSet<Name> = HashSet::default();
        let mut all: Vec<Name> = names.into_iter().filter(|&name| seen.insert(name)).collect();
        let mut at = 0;
        while let Some(name) = all.get(at) {
            let aliases = self.aliases.get(name).into_iter().flatten().copied();
            all.extend(aliases.filter(|&alias| seen.insert(alias)).collect::<Vec<_>>());
            at += 1;
        }
        all
    }

    /// The declarations of settings whose values refer to one, by number in the facts.
    pub(crate) fn referrers_of(&self, setting: Name) -> impl Iterator<Item = u32> + '_ {
        self.referrers.get(&setting).into_iter().flatten().copied()
    }

    fn index_forms(&mut self, wiring: &Wiring) {
        let mut offers =
            wiring.facts.services.iter().flat_map(|service| service.offers.of(&wiring.facts.parts));
        let is_pattern = |text: &str| text.contains("<*") && text.ends_with("*>");
        let mut bases =
            wiring.facts.contracts.iter().flat_map(|contract| contract.extends.of(&wiring.facts.parts));
        if self.limited.is_empty()
            || !offers.any(|offer| is_pattern(wiring.text(offer.name)))
                && !bases.any(|base| is_pattern(wiring.text(base.name)))
        {
            return;
        }
        let mut seen = HashSet::default();
        let needed = wiring.facts.parts.needs.iter().filter_map(|need| match need.target {
            Target::Contract(contract) | Target::All(contract) => Some(contract),
            _ => None,
        });
        let chosen = wiring.facts.choices.iter().map(|choice| choice.contract.name);
        let asked = wiring.declared.tags.iter().filter_map(|tag| tag.contract).map(|contract| contract.name);
        for contract in needed.chain(chosen).chain(asked) {
            if seen.insert(contract)
                && let Some(pattern) = pattern(wiring, contract)
            {
                self.closed_forms.entry(pattern).or_default().push(contract);
            }
        }
    }

    fn index_settings(&mut self, wiring: &Wiring) {
        let facts = &wiring.facts;
        for (number, setting) in facts.settings.iter().enumerate() {
            let number = number as u32;
            if setting.required || !setting.stages.is_empty() {
                self.settings.entry(setting.setting.name).or_default();
            }
            let staged = setting.stages.of(&facts.parts).iter().map(|value| value.references);
            for references in staged.chain([setting.references]) {
                for reference in references.of(&facts.parts) {
                    self.referrers.entry(reference.name).or_default().push(number);
                }
            }
        }
        for (number, setting) in facts.settings.iter().enumerate() {
            if let Some(declarations) = self.settings.get_mut(&setting.setting.name) {
                declarations.push(number as u32);
            }
        }
    }

    /// All definitions that a stage may bring in or take out, with the ids that may lead elsewhere for it.
    fn changed_services(&self, wiring: &Wiring, stage: Name) -> (Vec<ServiceIndex>, HashSet<Name>) {
        let is_in = |service: &&ServiceIndex| {
            let (service, parts) = (wiring.service(**service), &wiring.facts.parts);
            service.is_in(Some(stage), parts) != service.is_in(None, parts)
        };
        let mut waiting: Vec<ServiceIndex> = self.limited.iter().filter(is_in).copied().collect();
        let mut services: HashSet<ServiceIndex> = waiting.iter().copied().collect();
        let mut ids: HashSet<Name> = HashSet::default();
        while let Some(service) = waiting.pop() {
            let service = wiring.service(service);
            let names = [Some(service.id), service.replaces, service.wraps].into_iter().flatten();
            for name in names.map(|named| named.name) {
                if !ids.insert(name) {
                    continue;
                }
                let links = self.links.get(&name).map_or(&[][..], Vec::as_slice);
                for known in wiring.definitions(name).chain(links.iter().copied()) {
                    if services.insert(known) {
                        waiting.push(known);
                    }
                }
            }
        }
        let mut services: Vec<ServiceIndex> = services.into_iter().collect();
        services.sort_unstable();
        (services, ids)
    }
}

fn holders(wiring: &Wiring) -> impl Iterator<Item = (Name, Node)> {
    (0..wiring.holder_count()).map(Node).flat_map(move |node| {
        let needs = needs_of(wiring, node).into_iter().flatten();
        needs.filter_map(move |need| match wiring.facts.parts.needs[need].target {
            Target::Service(name)
            | Target::Contract(name)
            | Target::All(name)
            | Target::Tag(name)
            | Target::Setting(name) => Some((name, node)),
            Target::Wrapped => None,
        })
    })
}

impl Resolution {
    /// The resolution of a stage out of that with none chosen, and what differs between the two.
    pub(crate) fn restaged(&self, wiring: &Wiring, index: &StageIndex, stage: Name) -> (Self, StageChange) {
        let (services, ids) = index.changed_services(wiring, stage);
        let mut resolution = Self {
            stage: Some(stage),
            ids: self.ids.restaged(wiring, Some(stage), &services, &ids),
            carriers: self.carriers.clone(),
            contracts: self.contracts.clone(),
            ambiguous: Vec::new(),
            met: self.met.layer(),
            winners: HashMap::default(),
            choices: HashMap::default(),
            questions: HashMap::default(),
            supplied: self.supplied.clone(),
            settings: self.settings.clone(),
            settings_here: HashMap::default(),
        };
        resolution.choose(wiring);
        let mut change = StageChange { services, ids, ..StageChange::default() };
        change.roster = wiring.facts.rosters.iter().any(|roster| roster.stage == Some(stage));
        change.contracts = changed_contracts(wiring, self, index, stage, &change);
        let tags = change.services.iter().flat_map(|&service| {
            wiring.service(service).taggings.of(&wiring.facts.parts).iter().map(|tagging| tagging.tag.name)
        });
        change.tags = tags.collect();
        let by_contract = wiring
            .declared
            .tags
            .iter()
            .filter(|tag| tag.contract.is_some_and(|contract| change.contracts.contains(&contract.name)));
        change.tags.extend(by_contract.map(|tag| tag.tag.name));
        resolution.change_settings(self, wiring, index, &mut change);
        let names = change.ids.iter().chain(&change.contracts).chain(&change.setting_names);
        change.holders = names.flat_map(|&name| index.holders.get(name)).copied().collect();
        if change.roster {
            change
                .holders
                .extend((0..wiring.facts.providers.len()).map(|provider| wiring.provider_holder(provider)));
        }
        change.holders.extend(resolution.changed_collectors(self, wiring, &change));
        change.holders.sort_unstable();
        change.holders.dedup();
        resolution.meet_changed(self, wiring, &change);
        (resolution, change)
    }

    /// Services that are declared to collect a tag, here or with no stage chosen, where their ids may lead
    /// elsewhere.
    fn changed_collectors(&self, base: &Self, wiring: &Wiring, change: &StageChange) -> Vec<Node> {
        let collectors = wiring.facts.tags.iter().filter_map(|tag| tag.collected_by);
        let changed = collectors.filter(|by| change.ids.contains(&by.name));
        let leads = changed.flat_map(|by| [self, base].map(|one| one.ids.lead(wiring, by.name)));
        leads
            .filter_map(|lead| match lead {
                Lead::Service(service) => Some(service.into()),
                _ => None,
            })
            .collect()
    }

    fn change_settings(
        &mut self,
        base: &Self,
        wiring: &Wiring,
        index: &StageIndex,
        change: &mut StageChange,
    ) {
        let facts = &wiring.facts;
        for (&setting, declarations) in &index.settings {
            let mut here = HashMap::default();
            let declared = declarations.iter().map(|&number| &facts.settings[number as usize]);
            add_settings(wiring, self.stage, declared.clone(), &mut here);
            self.settings_here.extend(here);
            let is_absent = |value: Option<Value>| value.is_none_or(|value| value == Value::Absent);
            if is_absent(self.setting(setting)) != is_absent(base.setting(setting)) {
                change.setting_names.insert(setting);
                change.settings.extend(declarations);
                change.settings.extend(index.referrers.get(&setting).into_iter().flatten());
            }
            // Its value here goes before the others: so do the settings that it refers to.
            let mut values = declared.clone().flat_map(|setting| setting.stages.of(&facts.parts));
            let has_references = |setting: &Setting| {
                let values = setting.stages.of(&facts.parts).iter();
                !setting.references.is_empty() || values.clone().any(|value| !value.references.is_empty())
            };
            if (declarations.len() > 1 || declared.clone().any(has_references))
                && values.any(|value| Some(value.stage.name) == self.stage)
            {
                change.settings.extend(declarations);
            }
        }
        change.settings.sort_unstable();
        change.settings.dedup();
    }

    /// Meets the needs that what has changed may meet otherwise; all others stay met as they are.
    fn meet_changed(&mut self, base: &Self, wiring: &Wiring, change: &StageChange) {
        self.ambiguous.extend(base.ambiguous.iter().cloned());
        self.questions.extend(
            base.questions
                .iter()
                .filter(|((contract, _), _)| !change.contracts.contains(contract))
                .map(|(&question, &number)| (question, number)),
        );
        let mut known = Known::default();
        for need in change.holders.iter().flat_map(|&node| needs_of(wiring, node)).flatten() {
            let is_changed = match wiring.facts.parts.needs[need].target {
                Target::Service(name) => change.ids.contains(&name),
                Target::Contract(name) | Target::All(name) => change.contracts.contains(&name),
                Target::Setting(name) => change.setting_names.contains(&name),
                Target::Tag(_) | Target::Wrapped => false,
            };
            if is_changed {
                let met = self.meet(wiring, &wiring.facts.parts.needs[need], &mut known);
                self.met.set(need, met);
            }
        }
        let is_changed = |holder: &ServiceIndex| change.services.binary_search(holder).is_ok();
        for &need in wiring.wrapped_needs.iter().filter(|(holder, _)| is_changed(holder)) {
            self.meet_wrapped_of(wiring, need.0, need.1);
        }
    }
}

fn changed_contracts(
    wiring: &Wiring,
    resolution: &Resolution,
    index: &StageIndex,
    stage: Name,
    change: &StageChange,
) -> HashSet<Name> {
    let offers =
        change.services.iter().flat_map(|&service| wiring.service(service).offers.of(&wiring.facts.parts));
    let mut waiting: Vec<Name> = offers.map(|offer| offer.name).collect();
    let chosen = wiring
        .facts
        .choices
        .iter()
        .filter(|choice| choice.stage == Some(stage) || change.ids.contains(&choice.service.name));
    waiting.extend(chosen.map(|choice| choice.contract.name));
    let mut contracts = HashSet::default();
    while let Some(contract) = waiting.pop() {
        if contracts.insert(contract) {
            waiting.extend(resolution.contracts.bases(contract));
            waiting.extend(index.closed_forms.get(&contract).into_iter().flatten());
        }
    }
    contracts
}
