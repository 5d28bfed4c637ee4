//! Linking: many manifests to one wiring.

use super::{
    EntryIndex, Manifest, Module, ModuleIndex, NeedIndex, Policy, ServiceIndex, Wiring, amend,
    declared::Declared, inherit, inherit::Own, wire,
};
use crate::facts::{Choice, Facts, Named, Supplied, SuppliedBy, SuppliedKind, Target};
use crate::name::{Name, Names};
use crate::source::SourceIndex;
use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};
use std::sync::{Arc, OnceLock};

/// Links manifests into one wiring. Their order does not matter: they are taken by rank and path.
pub fn link(mut manifests: Vec<Manifest>, names: Arc<Names>, policy: Policy) -> Wiring {
    manifests.sort_unstable_by(|one, other| {
        let place =
            |manifest: &Manifest| (manifest.header.rank, manifest.header.module.map(|named| named.span));
        place(one)
            .0
            .cmp(&place(other).0)
            .then_with(|| one.source.path.cmp(&other.source.path))
            .then_with(|| place(one).1.cmp(&place(other).1))
    });
    if policy.imports_first {
        manifests = imported_first(manifests, &names);
    }
    let (mut facts, mut dormant) = (Vec::with_capacity(manifests.len()), Vec::new());
    let disabled: HashSet<Name> = manifests
        .iter()
        .flat_map(|manifest| &manifest.facts.disabled)
        .map(|(_, module)| module.name)
        .collect();
    let mut sources = Vec::with_capacity(manifests.len());
    let mut headers = Vec::with_capacity(manifests.len());
    let mut said = Vec::with_capacity(manifests.len());
    for (index, manifest) in manifests.into_iter().enumerate() {
        let is_dormant = manifest.header.module.is_some_and(|module| disabled.contains(&module.name));
        let to = if is_dormant { &mut dormant } else { &mut facts };
        said.push(manifest.facts.len() as u32 - manifest.header.worked_out);
        to.push((SourceIndex(index as u32), manifest.facts));
        sources.push(manifest.source);
        headers.push(manifest.header);
    }
    let (mut facts, dormant) = (Facts::join(facts), Facts::join(dormant));
    amend::apply(&mut facts, &names);
    let module = |source: SourceIndex| headers[source.index()].module.map(|module| module.name);
    let wired = wire::apply(&mut facts, &names, &policy, module);
    choose_for_holders(&mut facts);
    supply_by_pattern(&mut facts, &names);
    if let Some(index) = &wired.index {
        wire::supply_unknown(&mut facts, &names, index);
    }
    let mut modules = Vec::new();
    let mut known = HashMap::new();
    let module_of = headers.iter().enumerate().map(|(index, header)| {
        let module = header.module.filter(|module| !disabled.contains(&module.name))?;
        Some(*known.entry(module.name).or_insert_with(|| {
            modules.push(Module { module, source: SourceIndex(index as u32) });
            ModuleIndex(modules.len() as u32 - 1)
        }))
    });
    let module_of = module_of.collect();
    let dormant_modules = headers
        .iter()
        .map(|header| header.module.map(|module| module.name).filter(|module| disabled.contains(module)))
        .collect();
    let stages = stages(&facts, &names);
    let unindexed = Wiring {
        names,
        sources: Arc::new(sources),
        headers,
        modules,
        facts: Facts::default(),
        dormant,
        policy,
        stages,
        has_internal: false,
        linked: Vec::new(),
        wrapped_needs: Vec::new(),
        look_ups: HashMap::new(),
        declared: Declared::default(),
        own: Own::default(),
        written_needs: 0,
        copied_needs: wired.copied_needs,
        types: Arc::new(wired.index.map_or_else(OnceLock::new, OnceLock::from)),
        said,
        module_of,
        dormant_modules,
        defined: Vec::new(),
        definitions: HashMap::new(),
    };
    let mut wiring = unindexed.indexing(facts);
    let trouble = wiring.own.trouble(&wiring.facts, &wiring.names);
    wiring.facts.troubles.extend(trouble);
    wiring
}

/// Files in such an order that what a file imports stands before it, in the order in which it is named there. Where files
/// import one another, the one that is first as it is comes last.
fn imported_first(manifests: Vec<Manifest>, names: &Names) -> Vec<Manifest> {
    let mut by_path: HashMap<&str, Vec<usize>> = HashMap::new();
    for (at, manifest) in manifests.iter().enumerate() {
        by_path.entry(&manifest.source.path).or_default().push(at);
    }
    let imports = |at: usize| {
        let paths = manifests[at].facts.imports.iter().map(|import| names.text(import.path));
        paths.filter_map(|path| by_path.get(path)).flatten().copied()
    };
    let is_imported: HashSet<usize> = (0..manifests.len()).flat_map(imports).collect();
    let starts = (0..manifests.len()).filter(|at| !is_imported.contains(at));
    let mut order = Vec::with_capacity(manifests.len());
    let mut seen = vec![false; manifests.len()];
    // Those in cycles are reached from no start.
    for start in starts.chain(0..manifests.len()) {
        let mut waiting = vec![(start, false)];
        while let Some((at, is_done)) = waiting.pop() {
            if is_done {
                order.push(at);
            } else if !std::mem::replace(&mut seen[at], true) {
                waiting.push((at, true));
                let all: Vec<usize> = imports(at).collect();
                waiting.extend(all.into_iter().rev().map(|import| (import, false)));
            }
        }
    }
    let mut manifests: Vec<Option<Manifest>> = manifests.into_iter().map(Some).collect();
    order.into_iter().filter_map(|at| manifests[at].take()).collect()
}

/// Gives those that a choice is for alone what it gives them: their needs name the service then.
fn choose_for_holders(facts: &mut Facts) {
    let (of_holders, choices) = facts.choices.drain(..).partition(|choice| choice.holder.is_some());
    facts.choices = choices;
    let mut by_holder: HashMap<Name, Vec<Choice>> = HashMap::new();
    for choice in Vec::into_iter(of_holders) {
        if let Some(holder) = choice.holder {
            by_holder.entry(holder.name).or_default().push(choice);
        }
    }
    if by_holder.is_empty() {
        return;
    }
    // Choices by their places: whether who they are for needs such a thing; of those whose needs nobody knows all, it may.
    let mut is_asked_for: HashMap<(SourceIndex, u32), bool> = HashMap::new();
    for service in &facts.services {
        let names = [Some(service.id), service.type_name].into_iter().flatten();
        for choice in names.filter_map(|named| by_holder.get(&named.name)).flatten() {
            let is_open = service.needs_unknown || !service.needs_given && service.needs.is_empty();
            let known = is_asked_for.entry((choice.source, choice.service.span.start)).or_default();
            *known |= is_open;
            for need in &mut facts.parts.needs[service.needs.range()] {
                let is_asked = need.target == Target::Contract(choice.contract.name)
                    && need.key.map(|key| key.name) == choice.key.map(|key| key.name);
                if is_asked {
                    (need.target, need.key) = (Target::Service(choice.service.name), None);
                    *known = true;
                    // What it gets is written there.
                    (need.source, need.span, need.slot.span) =
                        (choice.source, choice.service.span, choice.service.span);
                }
            }
        }
    }
    let is_idle =
        |choice: &Choice| is_asked_for.get(&(choice.source, choice.service.span.start)) == Some(&false);
    facts.idle_choices = by_holder.into_values().flatten().filter(is_idle).collect();
    facts.idle_choices.sort_by_key(|choice| (choice.source, choice.service.span.start));
}

/// Names that are like a supplied pattern, such as `host.*`, are supplied: those that anything asks for.
fn supply_by_pattern(facts: &mut Facts, names: &Names) {
    // In a contract with arguments a star stands for any of those.
    let is_pattern = |text: &str| text.contains('*') && !text.contains('<');
    let patterns: Vec<Supplied> = facts
        .supplied
        .iter()
        .filter(|supplied| is_pattern(names.text(supplied.name.name)))
        .copied()
        .collect();
    if patterns.is_empty() {
        return;
    }
    let needs = facts.parts.needs.iter().filter_map(|need| match need.target {
        Target::Service(name) => Some((SuppliedKind::Service, name)),
        Target::Contract(name) | Target::All(name) => Some((SuppliedKind::Contract, name)),
        Target::Setting(name) => Some((SuppliedKind::Setting, name)),
        Target::Tag(name) => Some((SuppliedKind::Tag, name)),
        Target::Wrapped => None,
    });
    let tags = facts.parts.taggings.iter().map(|tagging| (SuppliedKind::Tag, tagging.tag.name));
    let links = facts.services.iter().flat_map(|service| [service.alias_of, service.wraps, service.replaces]);
    let links = links.flatten().map(|link| (SuppliedKind::Service, link.name));
    let values = facts.settings.iter().flat_map(|setting| setting.references.of(&facts.parts));
    let values = values.map(|reference| (SuppliedKind::Setting, reference.name));
    let mut seen = HashSet::new();
    let asked = needs.chain(tags).chain(links).chain(values).filter(|asked| seen.insert(*asked));
    let supplied: Vec<Supplied> = asked
        .filter_map(|(kind, name)| {
            let text = names.text(name);
            let is_like =
                |pattern: &&Supplied| pattern.kind == kind && is_like(text, names.text(pattern.name.name));
            let pattern = patterns.iter().find(is_like)?;
            Some(Supplied { name: Named { name, ..pattern.name }, by: SuppliedBy::Pattern, ..*pattern })
        })
        .collect();
    facts.supplied.extend(supplied);
}

/// Whether a text is like a pattern, in which a star stands for any letters.
fn is_like(text: &str, pattern: &str) -> bool {
    let mut parts = pattern.split('*');
    let (first, last) = (parts.next().unwrap_or_default(), parts.next_back());
    let Some(last) = last else { return text == pattern };
    let Some(mut rest) = text.strip_prefix(first) else { return false };
    for part in parts {
        match rest.find(part) {
            Some(at) => rest = &rest[at + part.len()..],
            None => return false,
        }
    }
    rest.ends_with(last)
}

impl Wiring {
    /// The same files with other facts.
    pub(super) fn with_facts(&self, facts: Facts) -> Self {
        let same = Self {
            names: self.names.clone(),
            sources: self.sources.clone(),
            headers: self.headers.clone(),
            modules: self.modules.clone(),
            facts: Facts::default(),
            dormant: Facts::default(),
            policy: self.policy.clone(),
            stages: self.stages.clone(),
            linked: Vec::new(),
            wrapped_needs: Vec::new(),
            look_ups: HashMap::new(),
            declared: Declared::default(),
            own: Own::default(),
            types: self.types.clone(),
            said: self.said.clone(),
            module_of: self.module_of.clone(),
            dormant_modules: self.dormant_modules.clone(),
            defined: Vec::new(),
            definitions: HashMap::new(),
            ..*self
        };
        same.indexing(facts)
    }

    /// Lets definitions inherit, and notes what is asked for by name.
    fn indexing(self, mut facts: Facts) -> Self {
        let own = inherit::apply(&mut facts, self.policy.same_id);
        let declared = Declared::new(&facts, &self.headers);
        let mut definitions: HashMap<Name, Vec<ServiceIndex>> = HashMap::new();
        let mut defined = vec![u32::MAX; self.names.bound()];
        let (mut has_internal, mut linked) = (false, Vec::new());
        for (index, service) in facts.services.iter().enumerate() {
            let first = &mut defined[service.id.name.index()];
            if *first == u32::MAX {
                *first = index as u32;
            } else {
                let all = definitions.entry(service.id.name).or_insert_with(|| vec![ServiceIndex(*first)]);
                all.push(ServiceIndex(index as u32));
            }
            has_internal |= service.internal;
            if service.is_linked() {
                linked.push(ServiceIndex(index as u32));
            }
        }
        let wrapped_needs = wrapped_needs(&facts);
        let mut look_ups: HashMap<Name, Vec<EntryIndex>> = HashMap::new();
        for (number, entry) in facts.entries.iter().enumerate().filter(|(_, entry)| entry.is_look_up) {
            look_ups.entry(entry.id.name).or_default().push(EntryIndex::new(number));
        }
        let written_needs = own.written_needs;
        Self {
            facts,
            has_internal,
            linked,
            wrapped_needs,
            look_ups,
            declared,
            own,
            written_needs,
            defined,
            definitions,
            ..self
        }
    }
}

/// Needs of services on what they wrap.
fn wrapped_needs(facts: &Facts) -> Vec<(ServiceIndex, NeedIndex)> {
    let is_wrapped = |need: &usize| facts.parts.needs[*need].target == Target::Wrapped;
    if !(0..facts.parts.needs.len()).any(|need| is_wrapped(&need)) {
        return Vec::new();
    }
    let services = facts.services.iter().enumerate();
    let needs = services.flat_map(|(index, service)| {
        let needs = service.needs.range().filter(is_wrapped);
        needs.map(move |need| (ServiceIndex(index as u32), NeedIndex(need as u32)))
    });
    needs.collect()
}

/// The stages that the workspace, definitions, values, choices or rosters name, by their texts.
fn stages(facts: &Facts, names: &Names) -> Vec<Name> {
    let mut known = HashSet::new();
    let limits =
        facts.services.iter().flat_map(|service| [service.stages, service.except, service.kept_from]);
    let limits = limits.flat_map(|stages| stages.of(&facts.parts));
    let values = facts.parts.stage_values.iter().map(|value| &value.stage);
    known.extend(limits.chain(values).chain(&facts.stages).map(|stage| stage.name));
    known.extend(facts.choices.iter().filter_map(|choice| choice.stage));
    known.extend(facts.rosters.iter().filter_map(|roster| roster.stage));
    let mut stages: Vec<Name> = known.into_iter().collect();
    stages.sort_unstable_by_key(|&stage| names.text(stage));
    stages
}
