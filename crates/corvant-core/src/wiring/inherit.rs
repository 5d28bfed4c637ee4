//! `like`: a definition takes over what it does not say itself.

use super::{SameId, ServiceIndex};
use crate::facts::{
    Facts, Many, Named, Need, Service, ServiceField, Tagging, Target, Trouble, TroubleKind, Unread,
};
use crate::name::{Name, Names};
use foldhash::{HashMap, HashMapExt, HashSet};
use std::hash::Hash;

/// What definitions that are `like` another say themselves.
#[derive(Debug, Default)]
pub(super) struct Own {
    /// What they say before they inherit.
    said: HashMap<ServiceIndex, OwnParts>,
    /// How many needs and tags are written; those behind them are copies.
    pub(super) written_needs: usize,
    written_taggings: usize,
    /// Those whose models lead into a cycle, in order.
    pub(super) in_cycles: Vec<ServiceIndex>,
    /// Those that take over no needs and tags, as all together would take over too many.
    cut: Vec<ServiceIndex>,
    /// Templates that have not taken over needs and tags yet, with their models.
    models_of_templates: HashMap<usize, usize>,
}

/// Needs, and tags, that all definitions take over together: so many, and so many for each that is written.
pub(super) const MOST: usize = 1 << 20;
pub(super) const EACH: usize = 16;
/// Needs that templates take over that are no model of any.
const FEW: usize = 10_000;

/// The parts of a definition that it may inherit.
#[derive(Clone, Copy, Debug)]
struct OwnParts {
    type_name: Option<Named>,
    offers: Many<Named>,
    key: Option<Named>,
    lifetime: Option<Named>,
    wire: Option<Named>,
    needs: Many<Need>,
    needs_given: bool,
    taggings: Many<Tagging>,
}

impl OwnParts {
    fn new(service: &Service) -> Self {
        let Service { type_name, offers, key, lifetime, wire, needs, needs_given, taggings, .. } = *service;
        Self { type_name, offers, key, lifetime, wire, needs, needs_given, taggings }
    }
}

impl Own {
    /// What a definition needs and carries by its own words; `None`: it has no model.
    pub(super) fn of(&self, service: ServiceIndex) -> Option<(Many<Need>, Many<Tagging>)> {
        self.said.get(&service).map(|said| (said.needs, said.taggings))
    }

    /// What is wrong with the file of the first definition that takes over nothing, since all together would take over
    /// too much. It hides all that others are asked to take over.
    pub(super) fn trouble(&self, facts: &Facts, names: &Names) -> Option<Trouble> {
        let first = &facts.services[self.cut.first()?.index()];
        let (id, like) = (names.text(first.id.name), first.like?);
        let message = format!(
            "definitions take over more needs and tags from their models than {MOST} and {EACH} for each that is \
             written: those of {id} and of {} more are not looked at",
            self.cut.len() - 1
        );
        let needed = facts.parts.needs[..self.written_needs].iter().filter_map(|need| match need.target {
            Target::Wrapped => None,
            Target::Service(name)
            | Target::Contract(name)
            | Target::All(name)
            | Target::Setting(name)
            | Target::Tag(name) => Some(name),
        });
        let carried = facts.parts.taggings[..self.written_taggings].iter().map(|tagging| tagging.tag.name);
        let mentions: HashSet<Name> = needed.chain(carried).collect();
        let unread = Unread { mentions: mentions.into_iter().collect(), ..Unread::default() };
        let subject = format!("services.{id}.like");
        let trouble = Trouble::new(TroubleKind::WrongShape, subject, message, (like.span, "taken over here"));
        let help = "shorten the line of models, or let those who need the same share one";
        Some(Trouble { source: first.source, ..trouble.advice(help).hiding(unread) })
    }

    /// Gives all definitions back what they say themselves.
    pub(super) fn undo(&self, facts: &mut Facts) {
        for (index, said) in &self.said {
            let OwnParts { type_name, offers, key, lifetime, wire, needs, needs_given, taggings } = *said;
            let service = &mut facts.services[index.index()];
            *service =
                Service { type_name, offers, key, lifetime, needs, needs_given, taggings, wire, ..*service };
        }
        facts.parts.needs.truncate(self.written_needs);
        facts.parts.taggings.truncate(self.written_taggings);
    }
}

/// Completes every definition that is `like` another. A definition whose line of models leads into a cycle stays
/// as it is written, and so does one whose model is not defined. Returns what those that inherit say themselves.
pub(super) fn apply(facts: &mut Facts, same_id: SameId) -> Own {
    let (written_needs, written_taggings) = (facts.parts.needs.len(), facts.parts.taggings.len());
    let mut own = Own { written_needs, written_taggings, ..Own::default() };
    if facts.services.iter().all(|service| service.like.is_none()) {
        return own;
    }
    for (index, service) in facts.services.iter().enumerate().filter(|(_, service)| service.like.is_some()) {
        own.said.insert(ServiceIndex(index as u32), OwnParts::new(service));
    }
    let by_id = models(facts, same_id);
    let mut done: Vec<bool> = facts.services.iter().map(|service| service.like.is_none()).collect();
    let mut leads_into_cycle = vec![false; facts.services.len()];
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
        if leads_into_cycle[at] || has_model(facts, &by_id, at) && line.contains(&at) {
            for member in line.drain(..) {
                leads_into_cycle[member] = true;
            }
            continue;
        }
        // The last of the line is complete as it is.
        line.pop_if(|last| *last == at);
        let mut model = at;
        for child in line.drain(..).rev() {
            own.complete(facts, child, model);
            model = child;
        }
    }
    // Who asks for a template sees all of it, as long as that is not much.
    for template in 0..facts.services.len() {
        if own.models_of_templates.contains_key(&template)
            && facts.parts.needs.len() < FEW + 2 * own.written_needs
        {
            own.gather(facts, template);
        }
    }
    let in_cycles = leads_into_cycle.iter().enumerate().filter(|(_, leads)| **leads);
    own.in_cycles = in_cycles.map(|(index, _)| ServiceIndex(index as u32)).collect();
    own
}

/// By id the definition that others take as their model, in whatever stage they are: one that overrides the
/// others of its id goes first, then the one that the policy prefers.
pub(super) fn models(facts: &Facts, same_id: SameId) -> HashMap<Name, usize> {
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

impl Own {
    /// Takes over for a definition what it does not say itself. What a template would take over is gathered when somebody
    /// who is built asks for it: lines of templates may be long, and what is in between is not built.
    fn complete(&mut self, facts: &mut Facts, child: usize, model: usize) {
        let child_is_template = facts.services[child].template;
        if !child_is_template {
            self.gather(facts, model);
        }
        let (said, model_says) = (facts.services[child], facts.services[model]);
        let service = &mut facts.services[child];
        let is_elsewhere = model_says.source != said.source;
        let at = said.like.map(|like| like.span).filter(|_| is_elsewhere);
        for field in ServiceField::ALL.into_iter().filter(|field| field.is_inherited) {
            field.inherit(service, model_says, &mut facts.parts, at);
        }
        service.needs_given |= model_says.needs_given;
        if child_is_template {
            self.models_of_templates.insert(child, model);
            return;
        }
        let is_cut = self.models_of_templates.contains_key(&model);
        if is_cut || !self.has_room(facts, model_says.needs.len(), model_says.taggings.len()) {
            self.cut.push(ServiceIndex(child as u32));
            return;
        }
        let needs = inherited_needs(facts, &said, &model_says);
        let taggings = inherited_taggings(facts, &said, &model_says);
        let service = &mut facts.services[child];
        (service.needs, service.taggings) = (needs, taggings);
    }

    /// Gives a template all that its line of templates says, if there is room for it.
    fn gather(&mut self, facts: &mut Facts, template: usize) {
        let mut line = vec![template];
        while let Some(&model) = line.last().and_then(|last| self.models_of_templates.get(last)) {
            line.push(model);
        }
        if line.len() == 1 {
            return;
        }
        let all = || line.iter().map(|&at| facts.services[at]);
        let needs = gathered(all().map(|service| service.needs.of(&facts.parts)), Need::filled);
        let taggings =
            gathered(all().map(|service| service.taggings.of(&facts.parts)), |tagging| tagging.tag.name);
        if !self.has_room(facts, needs.len(), taggings.len()) {
            return;
        }
        let (first_need, first_tagging) = (facts.parts.needs.len(), facts.parts.taggings.len());
        facts.parts.needs.extend(needs);
        facts.parts.taggings.extend(taggings);
        let service = &mut facts.services[template];
        service.needs = Many::since(first_need, &facts.parts);
        service.taggings = Many::since(first_tagging, &facts.parts);
        self.models_of_templates.remove(&template);
    }

    /// Whether so many needs and tags more may be taken over. Lines of models that each add something are as long as all
    /// before them together: somewhere that ends.
    fn has_room(&self, facts: &Facts, needs: usize, taggings: usize) -> bool {
        facts.parts.needs.len() + needs <= MOST + EACH * self.written_needs
            && facts.parts.taggings.len() + taggings <= MOST + EACH * self.written_taggings
    }
}

/// All of several lists, nearest first: of each what none before it has. One that says a thing twice says it twice,
/// all that take it over.
pub(super) fn gathered<'f, T: Copy + 'f, K: Eq + Hash>(
    lists: impl Iterator<Item = &'f [T]>,
    what: impl Fn(&T) -> K,
) -> Vec<T> {
    let (mut known, mut all) = (HashSet::default(), Vec::new());
    for list in lists {
        let start = all.len();
        all.extend(list.iter().filter(|item| !known.contains(&what(item))).copied());
        known.extend(all[start..].iter().map(&what));
    }
    all
}

/// The definition's own needs, then the model's in slots that it does not fill itself.
fn inherited_needs(facts: &mut Facts, own: &Service, model: &Service) -> Many<Need> {
    // What is wrapped depends on who has the need, so such needs are not shared.
    let is_wrapped = |need: &Need| need.target == Target::Wrapped;
    let may_be_shared = own.needs.is_empty() && !model.needs.of(&facts.parts).iter().any(is_wrapped);
    if may_be_shared || model.needs.is_empty() {
        return if own.needs.is_empty() { model.needs } else { own.needs };
    }
    let needs =
        gathered([own, model].into_iter().map(|service| service.needs.of(&facts.parts)), Need::filled);
    let start = facts.parts.needs.len();
    facts.parts.needs.extend(needs);
    Many::since(start, &facts.parts)
}

/// The definition's own tags, then the model's that it does not carry itself.
fn inherited_taggings(facts: &mut Facts, own: &Service, model: &Service) -> Many<Tagging> {
    if own.taggings.is_empty() || model.taggings.is_empty() {
        return if own.taggings.is_empty() { model.taggings } else { own.taggings };
    }
    let lists = [own, model].into_iter().map(|service| service.taggings.of(&facts.parts));
    let taggings = gathered(lists, |tagging| tagging.tag.name);
    let start = facts.parts.taggings.len();
    facts.parts.taggings.extend(taggings);
    Many::since(start, &facts.parts)
}
