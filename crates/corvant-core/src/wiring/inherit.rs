//! `like`: a definition takes over what it does not say itself.

use super::{SameId, ServiceIndex};
use crate::facts::{Facts, Many, Named, Need, Service, Tagging, Target};
use crate::name::Name;
use foldhash::{HashMap, HashMapExt};

/// What definitions that are `like` another say themselves.
#[derive(Debug, Default)]
pub(super) struct Own {
    /// What they say before they inherit.
    said: HashMap<ServiceIndex, Said>,
    /// How many needs and tags are written; those behind them are copies.
    pub(super) written_needs: usize,
    written_taggings: usize,
    /// Those whose models lead into a ring, in order.
    pub(super) in_rings: Vec<ServiceIndex>,
}

/// The parts of a definition that it may inherit.
#[derive(Clone, Copy, Debug)]
struct Said {
    type_name: Option<Named>,
    offers: Many<Named>,
    key: Option<Named>,
    lifetime: Option<Named>,
    needs: Many<Need>,
    needs_given: bool,
    taggings: Many<Tagging>,
}

impl Said {
    fn new(service: &Service) -> Self {
        let Service { type_name, offers, key, lifetime, needs, needs_given, taggings, .. } = *service;
        Self { type_name, offers, key, lifetime, needs, needs_given, taggings }
    }
}

impl Own {
    /// What a definition needs and carries by its own words; `None`: it has no model.
    pub(super) fn of(&self, service: ServiceIndex) -> Option<(Many<Need>, Many<Tagging>)> {
        self.said.get(&service).map(|said| (said.needs, said.taggings))
    }

    /// Gives all definitions back what they say themselves.
    pub(super) fn undo(&self, facts: &mut Facts) {
        for (index, said) in &self.said {
            let Said { type_name, offers, key, lifetime, needs, needs_given, taggings } = *said;
            let service = &mut facts.services[index.index()];
            *service = Service { type_name, offers, key, lifetime, needs, needs_given, taggings, ..*service };
        }
        facts.needs.truncate(self.written_needs);
        facts.taggings.truncate(self.written_taggings);
    }
}

/// Completes every definition that is `like` another. A definition whose line of models leads into a ring stays
/// as it is written, and so does one whose model nobody defines. Returns what those that inherit say themselves.
pub(super) fn apply(facts: &mut Facts, same_id: SameId) -> Own {
    let (written_needs, written_taggings) = (facts.needs.len(), facts.taggings.len());
    let mut own = Own { written_needs, written_taggings, ..Own::default() };
    if facts.services.iter().all(|service| service.like.is_none()) {
        return own;
    }
    for (index, service) in facts.services.iter().enumerate().filter(|(_, service)| service.like.is_some()) {
        own.said.insert(ServiceIndex(index as u32), Said::new(service));
    }
    let by_id = models(facts, same_id);
    let mut done: Vec<bool> = facts.services.iter().map(|service| service.like.is_none()).collect();
    let mut leads_into_ring = vec![false; facts.services.len()];
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
        if leads_into_ring[at] || has_model(facts, &by_id, at) && line.contains(&at) {
            for member in line.drain(..) {
                leads_into_ring[member] = true;
            }
            continue;
        }
        // The last of the line is complete as it is.
        line.pop_if(|last| *last == at);
        let mut model = at;
        for child in line.drain(..).rev() {
            complete(facts, child, model);
            model = child;
        }
    }
    let in_rings = leads_into_ring.iter().enumerate().filter(|(_, leads)| **leads);
    own.in_rings = in_rings.map(|(index, _)| ServiceIndex(index as u32)).collect();
    own
}

/// By id the definition that others take as their model, in whatever stage they are: one that overrides the
/// others of its id goes first, then the one that the policy prefers.
fn models(facts: &Facts, same_id: SameId) -> HashMap<Name, usize> {
    let mut by_id: HashMap<Name, usize> = HashMap::with_capacity(facts.services.len());
    for (index, service) in facts.services.iter().enumerate() {
        let known = *by_id.entry(service.id.name).or_insert(index);
        let (overrides, is_overridden) =
            (service.overrides_itself(), facts.services[known].overrides_itself());
        if overrides && !is_overridden || overrides == is_overridden && same_id == SameId::Last {
            by_id.insert(service.id.name, index);
        }
    }
    by_id
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
    // What is wrapped depends on who has the need, so such needs are not shared.
    let is_wrapped = |need: &Need| need.target == Target::Wrapped;
    let may_be_shared = own.needs.is_empty() && !model.needs.of(&facts.needs).iter().any(is_wrapped);
    if may_be_shared || model.needs.is_empty() {
        return if own.needs.is_empty() { model.needs } else { own.needs };
    }
    let mut needs = own.needs.of(&facts.needs).to_vec();
    let has = |need: &Need| own.needs.of(&facts.needs).iter().any(|own| own.fills_the_slot_of(need));
    needs.extend(model.needs.of(&facts.needs).iter().filter(|need| !has(need)));
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
