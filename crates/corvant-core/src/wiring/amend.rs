//! What definitions say of other definitions of their id: that they are not there in a stage, or what else holds.

use crate::facts::{Facts, Many, Named, Need, Part, Removed, Service, ServiceField, Trouble, TroubleKind};
use crate::name::{Name, Names};
use crate::near::nearest;
use foldhash::{HashMap, HashSet};

/// Keeps definitions from the stages in which others take them away, and completes those that amend others.
pub(super) fn apply(facts: &mut Facts, names: &Names) {
    if !facts.removed.is_empty() {
        let removed = facts.removed.clone();
        take_away(facts, &removed);
        let troubles = vain(facts, names, &removed);
        facts.troubles.extend(troubles);
    }
    if facts.services.iter().any(|service| service.amends) {
        amend(facts);
    }
}

fn take_away(facts: &mut Facts, removed: &[Removed]) {
    let mut by_id: HashMap<Name, Vec<&Removed>> = HashMap::default();
    for removed in removed {
        by_id.entry(removed.id.name).or_default().push(removed);
    }
    for at in 0..facts.services.len() {
        let Some(removed) = by_id.get(&facts.services[at].id.name) else { continue };
        for removed in removed {
            keep_from(facts, at, removed.stages);
        }
    }
}

/// What is taken away and is defined nowhere.
fn vain(facts: &Facts, names: &Names, removed: &[Removed]) -> Vec<Trouble> {
    let defined: HashSet<Name> = facts.services.iter().map(|service| service.id.name).collect();
    let vain: Vec<&Removed> = removed.iter().filter(|removed| !defined.contains(&removed.id.name)).collect();
    if vain.is_empty() {
        return Vec::new();
    }
    let mut known: Vec<&str> = defined.iter().map(|&id| names.text(id)).collect();
    known.sort_unstable();
    let wanted: Vec<&str> = vain.iter().map(|removed| names.text(removed.id.name)).collect();
    let meant = nearest(&wanted, &known);
    let troubles = vain.iter().zip(&wanted).zip(meant).map(|((removed, id), meant)| {
        let message = format!("{id} is taken away here, and nothing defines it");
        let advice = meant.map_or_else(
            || "take this out".to_owned(),
            |meant| format!("perhaps {} is meant; else take this out", known[meant]),
        );
        let trouble =
            Trouble::new(TroubleKind::WrongShape, *id, message, (removed.id.span, "taken away here"));
        Trouble { source: removed.source, ..trouble.advice(advice) }
    });
    troubles.collect()
}

/// Lets each definition that amends others take over from what is defined under its id what it does not say itself: from
/// the nearest before it that amends nothing, or that holds in the same stages. It then stands in their place.
fn amend(facts: &mut Facts) {
    let mut by_id: HashMap<Name, Vec<usize>> = HashMap::default();
    for (at, service) in facts.services.iter().enumerate() {
        by_id.entry(service.id.name).or_default().push(at);
    }
    for at in 0..facts.services.len() {
        let own = facts.services[at];
        if !own.amends {
            continue;
        }
        let stages = |service: &Service| -> Vec<Name> {
            service.stages.of(&facts.parts).iter().map(|stage| stage.name).collect()
        };
        let is_base = |other: &&usize| {
            let service = &facts.services[**other];
            **other != at && (!service.amends || **other < at && stages(service) == stages(&own))
        };
        let others = by_id.get(&own.id.name).into_iter().flatten();
        // A base may come later: which file changes the other is said, not read from their order.
        let base = others.clone().filter(is_base).rfind(|&&other| other < at);
        let Some(&base) = base.or_else(|| others.clone().find(is_base)) else { continue };
        let bases: Vec<usize> = others.filter(is_base).copied().collect();
        complete(facts, at, base);
        if own.stages.is_empty() {
            facts.services[at].replaces = Some(own.id);
        } else {
            for base in bases {
                keep_from(facts, base, own.stages);
            }
        }
    }
}

/// Keeps a definition from some stages.
fn keep_from(facts: &mut Facts, at: usize, stages: Many<Named>) {
    let start = facts.parts.named.len();
    facts.parts.named.extend_from_within(facts.services[at].kept_from.range());
    facts.parts.named.extend_from_within(stages.range());
    facts.services[at].kept_from = Many::since(start, &facts.parts);
}

fn complete(facts: &mut Facts, at: usize, base: usize) {
    let (own, model) = (facts.services[at], facts.services[base]);
    let needs = joined(facts, own.needs, model.needs, Need::filled);
    let taggings = joined(facts, own.taggings, model.taggings, |tagging| tagging.tag.name);
    let service = &mut facts.services[at];
    for field in ServiceField::ALL.into_iter().filter(|field| !["stages", "except"].contains(&field.name)) {
        field.inherit(service, model, &mut facts.parts, Some(own.id.span));
    }
    service.needs_given |= model.needs_given;
    service.needs_unknown |= model.needs_unknown;
    (service.needs, service.taggings) = (needs, taggings);
}

/// Own things, then those of the base that it does not say itself.
fn joined<T: Part + Copy, K: Eq + std::hash::Hash>(
    facts: &mut Facts,
    own: Many<T>,
    base: Many<T>,
    what: impl Fn(&T) -> K,
) -> Many<T> {
    if own.is_empty() || base.is_empty() {
        return if own.is_empty() { base } else { own };
    }
    let known: HashSet<K> = own.of(&facts.parts).iter().map(&what).collect();
    let of_base = base.of(&facts.parts).iter().filter(|one| !known.contains(&what(one)));
    let all: Vec<T> = own.of(&facts.parts).iter().chain(of_base).copied().collect();
    let start = T::array(&facts.parts).len();
    T::array_mut(&mut facts.parts).extend(all);
    Many::since(start, &facts.parts)
}
