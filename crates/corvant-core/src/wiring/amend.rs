//! What definitions say of other definitions of their id: that they are not there in a stage, or what else holds.

use super::inherit::{EACH, MOST, gathered};
use crate::facts::{Facts, Many, Named, Need, Part, Removed, ServiceField, Trouble, TroubleKind};
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
        let cut = amend(facts);
        let trouble = cut.map(|at| too_much(facts, names, at));
        facts.troubles.extend(trouble);
    }
}

/// What is wrong where all amendments together would take over too much.
fn too_much(facts: &Facts, names: &Names, at: usize) -> Trouble {
    let service = &facts.services[at];
    let id = names.text(service.id.name);
    let message = format!(
        "definitions take over more needs and tags from what they amend than {MOST} and {EACH} for each that is written: \
         those of {id} and of others are not looked at"
    );
    let trouble = Trouble::new(TroubleKind::WrongShape, id, message, (service.id.span, "taken over here"));
    Trouble {
        source: service.source,
        ..trouble.advice("let fewer definitions amend one, or the one need less")
    }
}

fn take_away(facts: &mut Facts, removed: &[Removed]) {
    let mut by_id: HashMap<Name, Vec<Many<Named>>> = HashMap::default();
    for removed in removed {
        by_id.entry(removed.id.name).or_default().push(removed.stages);
    }
    // All definitions of an id share one list of stages.
    let by_id: HashMap<Name, Many<Named>> =
        by_id.into_iter().map(|(id, stages)| (id, together(facts, &stages))).collect();
    for service in &mut facts.services {
        if let Some(&stages) = by_id.get(&service.id.name) {
            service.kept_from = stages;
        }
    }
}

/// Several lists of stages as one, each stage once.
fn together(facts: &mut Facts, lists: &[Many<Named>]) -> Many<Named> {
    let mut seen = HashSet::default();
    let stages = lists.iter().flat_map(|stages| stages.of(&facts.parts)).copied();
    let stages: Vec<Named> = stages.filter(|stage| seen.insert(stage.name)).collect();
    let start = facts.parts.named.len();
    facts.parts.named.extend(stages);
    Many::since(start, &facts.parts)
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

/// Lets definitions that amend others of their id take over what they do not say themselves. Of those that hold in the same
/// stages the last counts, with what those before it say and it does not. What holds in all stages stands in the place of
/// what it amends; what holds in some stands there in the place of that.
///
/// Returns the first that would take over more than there is room for.
fn amend(facts: &mut Facts) -> Option<usize> {
    let mut cut = None;
    let mut room = MOST + EACH * (facts.parts.needs.len() + facts.parts.taggings.len());
    for Group { plain, amendments } in groups(facts) {
        let Some(mut base) = base(&plain, &amendments) else { continue };
        let mut by_stages: Vec<(Vec<Name>, Vec<usize>)> = Vec::new();
        let mut number: HashMap<Vec<Name>, usize> = HashMap::default();
        for &at in &amendments {
            let stages = facts.services[at].stages.of(&facts.parts).iter();
            let mut stages: Vec<Name> = stages.map(|stage| stage.name).collect();
            stages.sort_unstable_by_key(|stage| stage.index());
            let number = *number.entry(stages.clone()).or_insert_with(|| {
                by_stages.push((stages, Vec::new()));
                by_stages.len() - 1
            });
            by_stages[number].1.push(at);
        }
        // What holds everywhere is what others amend.
        by_stages.sort_by_key(|(stages, _)| !stages.is_empty());
        let mut amended = plain.clone();
        let mut limits = Vec::new();
        for (stages, all) in by_stages {
            let Some((&last, before)) = all.split_last() else { continue };
            let is_whole = complete(facts, last, before.iter().rev().copied().chain([base]), &mut room);
            cut = cut.or(Some(last).filter(|_| !is_whole));
            if stages.is_empty() {
                facts.services[last].replaces = Some(facts.services[last].id);
                (base, amended) = (last, [amended, all].concat());
            } else {
                let own = facts.services[last].stages;
                limits.push(own);
                for &earlier in before {
                    facts.services[earlier].kept_from = own;
                }
            }
        }
        if !limits.is_empty() {
            limits.push(facts.services[base].kept_from);
            let kept_from = together(facts, &limits);
            for at in amended {
                facts.services[at].kept_from = kept_from;
            }
        }
    }
    cut
}

/// The definitions of an id, some of which amend the others.
#[derive(Default)]
struct Group {
    plain: Vec<usize>,
    amendments: Vec<usize>,
}

fn groups(facts: &Facts) -> Vec<Group> {
    let ids: HashSet<Name> =
        facts.services.iter().filter(|service| service.amends).map(|service| service.id.name).collect();
    let mut number: HashMap<Name, usize> = HashMap::default();
    let mut groups: Vec<Group> = Vec::new();
    for (at, service) in facts.services.iter().enumerate().filter(|(_, one)| ids.contains(&one.id.name)) {
        let number = *number.entry(service.id.name).or_insert_with(|| {
            groups.push(Group::default());
            groups.len() - 1
        });
        let list = if service.amends { &mut groups[number].amendments } else { &mut groups[number].plain };
        list.push(at);
    }
    groups
}

/// What is amended: the nearest definition before the last that amends it, or the first behind.
fn base(plain: &[usize], amendments: &[usize]) -> Option<usize> {
    let last = *amendments.last()?;
    plain.iter().rfind(|&&at| at < last).or_else(|| plain.first()).copied()
}

/// Lets a definition take over from others, nearest first, what it does not say itself; whether there is room for all of it.
fn complete(facts: &mut Facts, at: usize, models: impl Iterator<Item = usize>, room: &mut usize) -> bool {
    let mut is_whole = true;
    let id = facts.services[at].id.span;
    let is_taken = |field: &ServiceField| !["stages", "except"].contains(&field.name);
    let (mut needs, mut taggings) = (vec![facts.services[at].needs], vec![facts.services[at].taggings]);
    for model in models {
        let model = facts.services[model];
        if model.needs.len() + model.taggings.len() > *room {
            is_whole = false;
            continue;
        }
        *room -= model.needs.len() + model.taggings.len();
        let service = &mut facts.services[at];
        for field in ServiceField::ALL.into_iter().filter(is_taken) {
            field.inherit(service, model, &mut facts.parts, Some(id));
        }
        service.needs_given |= model.needs_given;
        service.needs_unknown |= model.needs_unknown;
        needs.push(model.needs);
        taggings.push(model.taggings);
    }
    let needs = joined(facts, &needs, Need::filled);
    let taggings = joined(facts, &taggings, |tagging| tagging.tag.name);
    let service = &mut facts.services[at];
    (service.needs, service.taggings) = (needs, taggings);
    is_whole
}

/// All of several lists, nearest first: of each what none before it has.
fn joined<T: Part + Copy, K: Eq + std::hash::Hash>(
    facts: &mut Facts,
    lists: &[Many<T>],
    what: impl Fn(&T) -> K,
) -> Many<T> {
    let mut filled = lists.iter().filter(|list| !list.is_empty());
    if let (Some(only), None) = (filled.next(), filled.next()) {
        return *only;
    }
    let all = gathered(lists.iter().map(|list| list.of(&facts.parts)), what);
    let start = T::array(&facts.parts).len();
    T::array_mut(&mut facts.parts).extend(all);
    Many::since(start, &facts.parts)
}
