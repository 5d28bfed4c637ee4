//! Linking: many manifests to one wiring.

use super::{Manifest, Module, ModuleIndex, Wiring, inherit};
use crate::facts::Facts;
use crate::name::{Name, Names};
use crate::source::SourceIndex;
use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};

/// Links manifests into one wiring. Their order does not matter: they are taken by path.
pub fn link(mut manifests: Vec<Manifest>, names: Names) -> Wiring {
    manifests.sort_unstable_by(|one, other| one.source.path.cmp(&other.source.path));
    let mut facts = Facts::default();
    facts.reserve_for(manifests.iter().map(|manifest| &manifest.facts));
    let mut sources = Vec::with_capacity(manifests.len());
    let mut headers = Vec::with_capacity(manifests.len());
    for (index, manifest) in manifests.into_iter().enumerate() {
        facts.append(manifest.facts, SourceIndex(index as u32));
        sources.push(manifest.source);
        headers.push(manifest.header);
    }
    let mut modules = Vec::new();
    let mut known = HashMap::new();
    let module_of = headers.iter().enumerate().map(|(index, header)| {
        let module = header.module?;
        Some(*known.entry(module.name).or_insert_with(|| {
            modules.push(Module { module, source: SourceIndex(index as u32) });
            ModuleIndex(modules.len() as u32 - 1)
        }))
    });
    let module_of = module_of.collect();
    let written_needs = facts.needs.len();
    inherit::apply(&mut facts);
    let stages = stages(&facts, &names);
    let mut defined_again = HashSet::new();
    let mut defined = vec![u32::MAX; names.bound()];
    for (index, service) in facts.services.iter().enumerate().rev() {
        let first = &mut defined[service.id.name.index()];
        if *first != u32::MAX {
            defined_again.insert(service.id.name);
        }
        *first = index as u32;
    }
    Wiring {
        names,
        sources,
        headers,
        modules,
        facts,
        stages,
        written_needs,
        module_of,
        defined,
        defined_again,
    }
}

/// The stages that definitions or settings name, by their texts.
fn stages(facts: &Facts, names: &Names) -> Vec<Name> {
    let mut known = HashSet::new();
    let limits = facts.services.iter().flat_map(|service| service.stages.of(&facts.named));
    let values = facts.stage_values.iter().map(|value| &value.stage);
    known.extend(limits.chain(values).map(|stage| stage.name));
    let mut stages: Vec<Name> = known.into_iter().collect();
    stages.sort_unstable_by_key(|&stage| names.text(stage));
    stages
}
