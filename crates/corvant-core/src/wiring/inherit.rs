//! `like`: a definition takes over what it does not say itself.

use crate::facts::{Facts, Many, Need, Service, Tagging};
use crate::name::Name;
use foldhash::{HashMap, HashMapExt};

/// Completes every definition that is `like` another. A definition whose line of models runs in a ring, or
/// ends at an id that nobody defines, stays as it is written.
pub(super) fn apply(facts: &mut Facts) {
    if facts.services.iter().all(|service| service.like.is_none()) {
        return;
    }
    let mut by_id: HashMap<Name, usize> = HashMap::with_capacity(facts.services.len());
    for (index, service) in facts.services.iter().enumerate() {
        by_id.entry(service.id.name).or_insert(index);
    }
    let mut done: Vec<bool> = facts.services.iter().map(|service| service.like.is_none()).collect();
    let mut line = Vec::new();
    for start in 0..facts.services.len() {
        // Up the line of models until one is complete, or ends the line; then down again, completing each.
        let mut at = start;
        while !done[at] {
            done[at] = true;
            line.push(at);
            let model = facts.services[at].like.and_then(|like| by_id.get(&like.name));
            match model {
                Some(&model) => at = model,
                None => break,
            }
        }
        let mut model = at;
        let is_end = line.pop_if(|last| *last == at && !has_model(facts, &by_id, at)).is_some();
        if is_end || !line.contains(&at) {
            for child in line.drain(..).rev() {
                complete(facts, child, model);
                model = child;
            }
        }
        line.clear();
    }
}

fn has_model(facts: &Facts, by_id: &HashMap<Name, usize>, service: usize) -> bool {
    facts.services[service].like.is_some_and(|like| by_id.contains_key(&like.name))
}

fn complete(facts: &mut Facts, child: usize, model: usize) {
    let (own, model) = (facts.services[child], facts.services[model]);
    let needs = inherited_needs(facts, &own, &model);
    let taggings = inherited_taggings(facts, &own, &model);
    let service = &mut facts.services[child];
    service.type_name = own.type_name.or(model.type_name);
    service.offers = if own.offers.is_empty() { model.offers } else { own.offers };
    service.key = own.key.or(model.key);
    service.lifetime = own.lifetime.or(model.lifetime);
    service.needs = needs;
    service.needs_given |= model.needs_given;
    service.taggings = taggings;
}

/// The definition's own needs, then the model's in slots that it does not fill itself.
fn inherited_needs(facts: &mut Facts, own: &Service, model: &Service) -> Many<Need> {
    if own.needs.is_empty() || model.needs.is_empty() {
        return if own.needs.is_empty() { model.needs } else { own.needs };
    }
    let mut needs = own.needs.of(&facts.needs).to_vec();
    let has = |slot: Name| own.needs.of(&facts.needs).iter().any(|need| need.slot.name == slot);
    needs.extend(model.needs.of(&facts.needs).iter().filter(|need| !has(need.slot.name)));
    let start = facts.needs.len();
    facts.needs.extend(needs);
    Many::since(start, &facts.needs)
}

/// The definition's own tags, then the model's that it does not carry itself.
fn inherited_taggings(facts: &mut Facts, own: &Service, model: &Service) -> Many<Tagging> {
    if own.taggings.is_empty() || model.taggings.is_empty() {
        return if own.taggings.is_empty() { model.taggings } else { own.taggings };
    }
    let mut taggings = own.taggings.of(&facts.taggings).to_vec();
    let has = |tag: Name| own.taggings.of(&facts.taggings).iter().any(|own| own.tag.name == tag);
    taggings.extend(model.taggings.of(&facts.taggings).iter().filter(|tagging| !has(tagging.tag.name)));
    let start = facts.taggings.len();
    facts.taggings.extend(taggings);
    Many::since(start, &facts.taggings)
}
