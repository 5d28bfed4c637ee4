//! Which ids are called by anybody, and which modules' names are spoken of by which.

use super::context::Context;
use super::usage::Usage;
use crate::facts::{Named, Target};
use crate::name::Name;
use crate::source::SourceIndex;
use crate::wiring::ModuleIndex;
use foldhash::{HashMap, HashSet};
use std::cell::OnceCell;

/// By name: whether anything asks for a service by that id. Needs do, aliases, choices, expectations,
/// collectors and overrides. What a misspelt id was meant to be is asked for too.
pub(super) fn called_services(context: &Context<'_>, usage: &Usage) -> Vec<bool> {
    let facts = &context.wiring.facts;
    let mut called = vec![false; context.wiring.names.bound()];
    let mut call = |name: Name| called[name.index()] = true;
    for need in usage.needs(context.wiring) {
        if let Target::Service(id) = need.target {
            call(id);
        }
    }
    for service in usage.services(context.wiring) {
        let links = [service.alias_of, service.like, service.wraps, service.replaces];
        links.into_iter().flatten().for_each(|link| call(link.name));
    }
    facts.choices.iter().for_each(|choice| call(choice.service.name));
    facts.tags.iter().filter_map(|tag| tag.collected_by).for_each(|by| call(by.name));
    for line in &facts.expectations {
        [line.service, line.met_by].into_iter().flatten().for_each(|id| call(id.name));
    }
    usage.meant.iter().for_each(|&meant| call(meant));
    called
}

/// Which modules speak of anything that others define, declare or offer.
#[derive(Debug)]
pub(crate) struct Mentioned<'a> {
    context: &'a Context<'a>,
    usage: &'a Usage,
    pairs: HashSet<(ModuleIndex, ModuleIndex)>,
    /// Modules of which something stands in a file of which the module is not known.
    by_anyone: HashSet<ModuleIndex>,
    /// Worked out when nothing else says that a module is used.
    collected: OnceCell<Collected>,
}

impl Mentioned<'_> {
    /// Whether the first module speaks of the second, or may, or collects something of it.
    pub(crate) fn has(&self, from: ModuleIndex, to: ModuleIndex) -> bool {
        self.pairs.contains(&(from, to)) || self.by_anyone.contains(&to) || self.collects(from, to)
    }
}

impl Mentioned<'_> {
    fn collects(&self, from: ModuleIndex, to: ModuleIndex) -> bool {
        self.collected.get_or_init(|| Collected::new(self.context, self.usage)).has(from, to)
    }
}

/// What modules collect, and what they give to be collected: tags, and contracts of which all are needed.
#[derive(Default, Debug)]
struct Collected {
    by: HashMap<ModuleIndex, HashSet<Name>>,
    given: HashSet<(Name, ModuleIndex)>,
}

impl Collected {
    fn new(context: &Context<'_>, usage: &Usage) -> Self {
        let (wiring, facts) = (context.wiring, &context.wiring.facts);
        let mut collected = Self::default();
        let mut collect = |source: SourceIndex, names: Vec<Name>| {
            if let Some(module) = wiring.module_of(source) {
                collected.by.entry(module).or_default().extend(names);
            }
        };
        for need in usage.needs(wiring) {
            match need.target {
                Target::Tag(tag) => collect(need.source, vec![tag]),
                Target::All(contract) => {
                    collect(need.source, context.resolution.with_narrower([contract]));
                }
                _ => {}
            }
        }
        for tag in &facts.tags {
            let by = tag.collected_by.into_iter().flat_map(|by| wiring.definitions(by.name));
            by.for_each(|by| collect(wiring.service(by).source, vec![tag.tag.name]));
        }
        let names: HashSet<Name> = collected.by.values().flatten().copied().collect();
        for service in usage.services(wiring) {
            let Some(module) = wiring.module_of(service.source) else { continue };
            let tags = service.taggings.of(&facts.parts).iter().map(|tagging| tagging.tag.name);
            let offers = service.offers.of(&facts.parts).iter().map(|offer| offer.name);
            let given = tags.chain(offers).filter(|name| names.contains(name));
            collected.given.extend(given.map(|name| (name, module)));
        }
        collected
    }

    fn has(&self, from: ModuleIndex, to: ModuleIndex) -> bool {
        let names = self.by.get(&from).into_iter().flatten();
        names.into_iter().any(|&name| self.given.contains(&(name, to)))
    }
}

/// Which modules speak of anything that others define, declare, offer or collect.
pub(super) fn mentioned_modules<'a>(context: &'a Context<'a>, usage: &'a Usage) -> Mentioned<'a> {
    let wiring = context.wiring;
    let owners = Owners::new(context);
    let mut pairs = HashSet::default();
    let mut speak = |source: SourceIndex, name: Name| {
        if let Some(from) = wiring.module_of(source) {
            pairs.extend(owners.of(name).filter(|&to| to != from).map(|to| (from, to)));
        }
    };
    for line in &wiring.facts.expectations {
        let names = [line.service, line.contract, line.met_by].into_iter().flatten();
        names.for_each(|name| speak(line.source, name.name));
    }
    for need in &wiring.facts.parts.needs {
        if let Target::Service(name)
        | Target::Contract(name)
        | Target::All(name)
        | Target::Tag(name)
        | Target::Setting(name) = need.target
        {
            speak(need.source, name);
        }
    }
    for service in &wiring.facts.services {
        let links = [service.alias_of, service.like, service.wraps, service.replaces];
        let offers = service.offers.of(&wiring.facts.parts).iter().copied();
        let tags = service.taggings.of(&wiring.facts.parts).iter().map(|tagging| tagging.tag);
        for name in links.into_iter().flatten().chain(offers).chain(tags) {
            speak(service.source, name.name);
        }
    }
    for setting in &wiring.facts.settings {
        let stages = setting.stages.of(&wiring.facts.parts).iter().map(|value| value.references);
        let references = stages.chain([setting.references]);
        for reference in references.flat_map(|names| names.of(&wiring.facts.parts)) {
            speak(setting.source, reference.name);
        }
    }
    for choice in &wiring.facts.choices {
        speak(choice.source, choice.contract.name);
        speak(choice.source, choice.service.name);
    }
    for tag in &wiring.facts.tags {
        let names = [tag.contract, tag.collected_by].into_iter().flatten();
        names.for_each(|name| speak(tag.source, name.name));
    }
    for contract in &wiring.facts.contracts {
        for base in contract.extends.of(&wiring.facts.parts) {
            speak(contract.source, base.name);
        }
    }
    for provider in &wiring.facts.providers {
        let registers = provider.registers.iter().flat_map(|ids| ids.of(&wiring.facts.parts));
        for name in provider.after.of(&wiring.facts.parts).iter().chain(registers) {
            speak(provider.source, name.name);
        }
    }
    // What could not be read may speak of any word that stands in it.
    let mut by_anyone = HashSet::default();
    for trouble in &wiring.facts.troubles {
        for &name in &trouble.unread.mentions {
            match wiring.module_of(trouble.source) {
                Some(_) => speak(trouble.source, name),
                None => by_anyone.extend(owners.of(name)),
            }
        }
    }
    // What a need comes to get is needed, under whatever name it is offered; and so is what was meant.
    usage.meant_at.iter().for_each(|&(source, meant)| speak(source, meant));
    pairs.extend(&usage.needed_modules);
    Mentioned { context, usage, pairs, by_anyone, collected: OnceCell::new() }
}

/// By name the modules that define, declare or offer it: mostly one, which stands in a flat array.
struct Owners {
    first: Vec<u32>,
    others: HashMap<Name, Vec<ModuleIndex>>,
}

const NOBODY: u32 = u32::MAX;

impl Owners {
    fn new(context: &Context<'_>) -> Self {
        let (wiring, facts) = (context.wiring, &context.wiring.facts);
        let mut owners = Self { first: vec![NOBODY; wiring.names.bound()], others: HashMap::default() };
        let mut own = |source: SourceIndex, named: Named| {
            if let Some(module) = wiring.module_of(source) {
                owners.add(named.name, module);
            }
        };
        for service in &facts.services {
            own(service.source, service.id);
            service.offers.of(&facts.parts).iter().for_each(|&offer| own(service.source, offer));
        }
        facts.contracts.iter().for_each(|contract| own(contract.source, contract.contract));
        facts.tags.iter().for_each(|tag| own(tag.source, tag.tag));
        facts.settings.iter().for_each(|setting| own(setting.source, setting.setting));
        facts.providers.iter().for_each(|provider| own(provider.source, provider.id));
        for need in &facts.parts.needs {
            // A tag is also theirs who collect it.
            if let Target::Tag(tag) = need.target {
                own(need.source, Named { name: tag, span: need.span });
            }
        }
        for trouble in &facts.troubles {
            let defines = trouble.unread.defines.iter();
            defines.for_each(|&name| own(trouble.source, Named { name, span: trouble.at.0 }));
        }
        owners
    }

    fn add(&mut self, name: Name, module: ModuleIndex) {
        let first = &mut self.first[name.index()];
        if *first == NOBODY {
            *first = module.0;
        } else if *first != module.0 {
            let others = self.others.entry(name).or_default();
            if others.last() != Some(&module) {
                others.push(module);
            }
        }
    }

    fn of(&self, name: Name) -> impl Iterator<Item = ModuleIndex> + '_ {
        let first = Some(self.first[name.index()]).filter(|&first| first != NOBODY).map(ModuleIndex);
        let others = if self.others.is_empty() { None } else { self.others.get(&name) };
        first.into_iter().chain(others.into_iter().flatten().copied())
    }
}
