//! A model in one stage, or with none chosen: what counts, what ids lead to, what needs get, and who needs whom.

use super::model::{Aim, Definition, Model, Need};
use corvant_core::facts::SuppliedKind;
use corvant_core::wiring::SameId;
use std::collections::{BTreeMap, BTreeSet};

/// What is needed or needs: numbers are positions in the model.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(crate) enum Node {
    Service(usize),
    Entry(usize),
    Provider(usize),
    Tag(String),
    All(String),
}

/// What a definition is here.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(crate) enum Standing {
    Elsewhere,
    Overridden,
    Contested,
    Counting,
    Built,
}

/// Where an id leads.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Lead {
    Service(usize),
    Template,
    Nowhere,
    Undefined,
}

/// What a need gets.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(crate) enum Gets {
    Service(usize),
    Carriers,
    All,
    Value,
    Supplied,
    Absent,
    Missing,
    MissingKey,
    /// One of several.
    Ambiguous(Vec<usize>),
    /// The choice names what is not defined.
    Misguided,
    Unknown,
}

/// One edge, with the need that makes it, if one does.
#[derive(Clone, Debug)]
pub(crate) struct Edge<'m> {
    pub(crate) to: Node,
    pub(crate) need: Option<&'m Need>,
}

impl Edge<'_> {
    pub(crate) fn is_for_building(&self) -> bool {
        self.need.is_none_or(Need::is_for_building)
    }
}

/// A model in one stage.
pub(crate) struct View<'m> {
    pub(crate) model: &'m Model,
    pub(crate) stage: Option<String>,
    pub(crate) standing: Vec<Standing>,
    /// By id what it leads to first.
    first: BTreeMap<String, usize>,
    /// By id around which something is wrapped what it led to before.
    pub(crate) named: BTreeMap<String, usize>,
    /// By definition what is wrapped around it, and what is inside it.
    pub(crate) around: BTreeMap<usize, usize>,
    inside: BTreeMap<usize, usize>,
    dead: BTreeSet<usize>,
    /// Two definitions that stand for one id: the id, the one that counts, and the other.
    pub(crate) duplicates: Vec<(String, usize, usize)>,
    loaded: Option<BTreeSet<String>>,
}

impl<'m> View<'m> {
    pub(crate) fn new(model: &'m Model, stage: Option<String>) -> Self {
        let count = model.definitions.len();
        let mut view = Self {
            model,
            stage,
            standing: vec![Standing::Elsewhere; count],
            first: BTreeMap::new(),
            named: BTreeMap::new(),
            around: BTreeMap::new(),
            inside: BTreeMap::new(),
            dead: BTreeSet::new(),
            duplicates: Vec::new(),
            loaded: None,
        };
        view.define();
        view.replace();
        view.wrap();
        let cycles: Vec<usize> = (0..count).filter(|&at| view.is_inside_itself(at)).collect();
        view.inside.retain(|at, _| !cycles.contains(at));
        view.dead.extend(cycles);
        for at in 0..count {
            let is_built = view.standing[at] == Standing::Counting
                && view.end(at).is_some()
                && model.definitions[at].may_be_built();
            if is_built {
                view.standing[at] = Standing::Built;
            }
        }
        view.loaded = view.roster().map(|rosters| rosters.into_iter().flatten().cloned().collect());
        view
    }

    pub(crate) fn definition(&self, at: usize) -> &'m Definition {
        &self.model.definitions[at]
    }

    pub(crate) fn counts(&self, at: usize) -> bool {
        self.standing[at] >= Standing::Counting
    }

    pub(crate) fn is_audited(&self, at: usize) -> bool {
        self.standing[at] >= Standing::Contested
    }

    pub(crate) fn is_built(&self, at: usize) -> bool {
        self.standing[at] == Standing::Built
    }

    /// Whether what a definition needs is audited.
    pub(crate) fn has_needs(&self, at: usize) -> bool {
        self.is_built(at) || self.standing[at] == Standing::Contested && self.definition(at).may_be_built()
    }

    fn is_here(&self, at: usize) -> bool {
        let one = self.definition(at);
        let names_it = |stages: &[String]| self.stage.as_ref().is_some_and(|stage| stages.contains(stage));
        !names_it(&one.except) && (one.stages.is_empty() || names_it(&one.stages))
    }

    fn prefer(&self, among: &[usize]) -> Option<usize> {
        match self.model.policy.same_id {
            SameId::Last => among.last().copied(),
            _ => among.first().copied(),
        }
    }

    fn lose(&mut self, at: usize) {
        let is_open = self.model.policy.same_id == SameId::Forbid;
        self.standing[at] = if is_open { Standing::Contested } else { Standing::Overridden };
    }

    /// Of the definitions of each id one counts.
    fn define(&mut self) {
        let here: Vec<usize> = (0..self.standing.len()).filter(|&at| self.is_here(at)).collect();
        let ids: BTreeSet<&String> = here.iter().map(|&at| &self.definition(at).id).collect();
        for id in ids {
            let all = here.iter().copied().filter(|&at| self.definition(at).id == *id);
            let (overriding, plain): (Vec<usize>, Vec<usize>) =
                all.partition(|&at| self.definition(at).overrides_itself());
            let (claims, overridden) =
                if overriding.is_empty() { (plain, Vec::new()) } else { (overriding, plain) };
            for at in overridden {
                self.standing[at] = Standing::Overridden;
            }
            let Some(first) = self.prefer(&claims) else { continue };
            self.standing[first] = Standing::Counting;
            self.first.insert(id.clone(), first);
            for &other in claims.iter().filter(|&&other| other != first) {
                // Installed side by side: each is handed out, and the first answers to the id.
                let places = [first, other].map(|at| &self.definition(at).installed);
                if places.iter().all(|place| place.is_some()) && places[0] != places[1] {
                    self.standing[other] = Standing::Counting;
                    continue;
                }
                self.duplicates.push((id.clone(), first, other));
                self.lose(other);
            }
        }
    }

    /// What replaces an id stands for it; what replaces a replacement, for all that it stood for.
    fn replace(&mut self) {
        let own = self.first.clone();
        let mut direct = own.clone();
        let replaced: BTreeSet<&String> =
            own.values().filter_map(|&at| self.definition(at).replaces.as_ref()).collect();
        for id in replaced {
            let by = |at: &&usize| {
                let one = self.definition(**at);
                one.replaces.as_ref() == Some(id) && !one.overrides_itself()
            };
            let mut claims: Vec<usize> = own.values().filter(by).copied().collect();
            if claims.is_empty() {
                continue;
            }
            let itself = own.get(id).copied();
            claims.extend(itself.filter(|&at| self.definition(at).overrides_itself()));
            claims.sort_unstable();
            let Some(first) = self.prefer(&claims) else { continue };
            if let Some(itself) = itself.filter(|&itself| itself != first) {
                self.standing[itself] = Standing::Overridden;
            }
            for &other in claims.iter().filter(|&&other| other != first) {
                self.duplicates.push((id.clone(), first, other));
                if Some(other) == itself {
                    self.lose(other);
                }
            }
            direct.insert(id.clone(), first);
        }
        for id in direct.keys() {
            let mut way = vec![id.clone()];
            loop {
                let by = direct[&way[way.len() - 1]];
                let next = &self.definition(by).id;
                if direct.get(next) == Some(&by) {
                    self.first.insert(id.clone(), by);
                    break;
                }
                if way.contains(next) {
                    // In a cycle nothing takes the place of anything: all of them lead nowhere.
                    self.first.insert(id.clone(), direct[id]);
                    let members: Vec<usize> = way.iter().map(|id| direct[id]).collect();
                    for &member in &members {
                        self.standing[member] = Standing::Counting;
                    }
                    self.dead.extend(members);
                    break;
                }
                way.push(next.clone());
            }
        }
    }

    /// Wrappers are put around what their ids lead to by then, in the order of their definitions.
    fn wrap(&mut self) {
        for at in 0..self.standing.len() {
            let wraps = self.definition(at).wraps.as_ref();
            let Some(wraps) = wraps.filter(|_| self.counts(at) && self.definition(at).may_be_built()) else {
                continue;
            };
            let Some(&first) = self.first.get(wraps) else { continue };
            if self.definition(first).template {
                continue;
            }
            let mut outermost = first;
            let mut is_cycle = false;
            while let Some(&next) = self.around.get(&outermost) {
                outermost = next;
                is_cycle |= next == first;
                if is_cycle {
                    break;
                }
            }
            if is_cycle || outermost == at {
                self.dead.insert(at);
                continue;
            }
            self.inside.insert(at, outermost);
            self.named.entry(wraps.clone()).or_insert(first);
            if self.definition(outermost).alias_of.is_none() {
                self.around.insert(outermost, at);
            }
            self.first.insert(wraps.clone(), at);
        }
    }

    /// Over aliases and wrappers to what is handed out.
    fn end(&self, at: usize) -> Option<usize> {
        let mut way = vec![at];
        loop {
            let at = way[way.len() - 1];
            if self.dead.contains(&at) {
                return None;
            }
            let next = match &self.definition(at).alias_of {
                Some(target) => *self.first.get(target)?,
                None => match self.around.get(&at) {
                    Some(&around) => around,
                    None => return Some(at),
                },
            };
            if way.contains(&next) {
                return None;
            }
            way.push(next);
        }
    }

    /// What is inside a wrapper: of an alias what that stands for.
    pub(crate) fn inside(&self, at: usize) -> Option<usize> {
        let &inside = self.inside.get(&at)?;
        if self.definition(inside).alias_of.is_some() { self.end(inside) } else { Some(inside) }
    }

    fn is_inside_itself(&self, at: usize) -> bool {
        let mut seen = BTreeSet::new();
        let mut next = self.inside(at);
        while let Some(inside) = next.filter(|&inside| seen.insert(inside)) {
            if inside == at {
                return true;
            }
            next = self.inside(inside);
        }
        false
    }

    /// What is handed out where a definition would be.
    pub(crate) fn stand_in(&self, at: usize) -> usize {
        self.end(at).unwrap_or(at)
    }

    pub(crate) fn first(&self, id: &str) -> Option<usize> {
        self.first.get(id).copied()
    }

    pub(crate) fn lead(&self, id: &str) -> Lead {
        let Some(first) = self.first(id) else { return Lead::Undefined };
        match self.end(first) {
            Some(end) if !self.definition(end).template => Lead::Service(end),
            Some(end) if end == first => Lead::Template,
            _ => Lead::Nowhere,
        }
    }

    /// A contract with all that it extends: by its own declarations and by those of its pattern.
    pub(crate) fn with_bases(&self, contract: &str) -> BTreeSet<String> {
        let mut all = BTreeSet::new();
        let mut waiting = vec![contract.to_owned()];
        while let Some(contract) = waiting.pop() {
            for said in [Some(contract.clone()), pattern(&contract)].into_iter().flatten() {
                let declared = self.model.contracts.get(&said).into_iter().flatten();
                waiting.extend(declared.flat_map(|said| said.1.clone()).filter(|base| !all.contains(base)));
            }
            all.insert(contract);
        }
        all
    }

    /// Who offers a contract, under one key or whatever key: what is handed out, and the definition that offers.
    fn offering(&self, contract: &str, key: Option<&String>) -> Vec<(usize, usize)> {
        let offers = |&at: &usize| {
            let one = self.definition(at);
            self.is_built(at)
                && (key.is_none() || one.key.as_ref() == key)
                && one.offers.iter().any(|offer| self.with_bases(offer).contains(contract))
        };
        let all = (0..self.standing.len()).filter(offers).map(|at| (self.stand_in(at), at));
        let mut all: Vec<(usize, usize)> = all.collect();
        all.sort_unstable();
        // The same thing installed twice is one candidate.
        let mut seen = BTreeSet::new();
        let is_installed = |at: usize| self.definition(at).installed.is_some();
        all.retain(|(service, _)| !is_installed(*service) || seen.insert(&self.definition(*service).id));
        let is_default = |offer: &(usize, usize)| self.definition(offer.1).default;
        if self.model.policy.default_unless_offered && !all.iter().all(is_default) {
            all.retain(|offer| !is_default(offer));
        }
        all
    }

    /// Exact offers, and those of the contract's pattern by definitions that make no exact one.
    pub(crate) fn offers(&self, contract: &str, key: Option<&String>) -> [Vec<(usize, usize)>; 2] {
        let exact = self.offering(contract, key);
        let mut generic = pattern(contract).filter(|form| form != contract);
        let mut generic = generic.take().map(|form| self.offering(&form, key)).unwrap_or_default();
        generic.retain(|(_, by)| !exact.iter().any(|(_, exact)| exact == by));
        [exact, generic]
    }

    /// Those that a need is met by.
    pub(crate) fn first_offers(&self, contract: &str, key: Option<&String>) -> Vec<(usize, usize)> {
        let [exact, generic] = self.offers(contract, key);
        if exact.is_empty() { generic } else { exact }
    }

    /// All that is handed out for a contract.
    pub(crate) fn candidates(&self, contract: &str) -> BTreeSet<usize> {
        self.offers(contract, None).into_iter().flatten().map(|(service, _)| service).collect()
    }

    pub(crate) fn chosen(&self, contract: &str, key: Option<&String>) -> Option<&'m String> {
        let is_it =
            |choice: &&super::model::Choice| choice.contract == contract && choice.key.as_ref() == key;
        let choices = || self.model.choices.iter().filter(is_it);
        let own = choices().find(|choice| self.stage.is_some() && choice.stage == self.stage);
        own.or_else(|| choices().find(|choice| choice.stage.is_none())).map(|choice| &choice.service)
    }

    fn get_id(&self, id: &str) -> Gets {
        match self.lead(id) {
            Lead::Service(service) => Gets::Service(service),
            _ if self.model.is_supplied(SuppliedKind::Service, id) => Gets::Supplied,
            Lead::Nowhere => match self.dead_end(id) {
                Some(end) if self.model.is_supplied(SuppliedKind::Service, &end) => Gets::Supplied,
                Some(_) => Gets::Missing,
                None => Gets::Unknown,
            },
            Lead::Template | Lead::Undefined => Gets::Missing,
        }
    }

    /// The id that an alias leads to in the end, where that is not defined or is a template.
    pub(crate) fn dead_end(&self, id: &str) -> Option<String> {
        let mut id = id.to_owned();
        for step in 0..=self.standing.len() {
            let Some(first) = self.first(&id) else { return Some(id).filter(|_| step > 0) };
            if self.dead.contains(&first) {
                return None;
            }
            match &self.definition(first).alias_of {
                Some(target) => id.clone_from(target),
                None => return Some(id).filter(|_| step > 0 && self.definition(first).template),
            }
        }
        None
    }

    /// What a contract, or one key of it, gives.
    pub(crate) fn ask(&self, contract: &str, key: Option<&String>) -> Gets {
        match self.chosen(contract, key).map(|chosen| self.get_id(chosen)) {
            Some(Gets::Missing) => return Gets::Misguided,
            Some(gets) => return gets,
            None => {}
        }
        let offers = self.first_offers(contract, key);
        let services: BTreeSet<usize> = offers.iter().map(|(service, _)| *service).collect();
        let defaults: BTreeSet<usize> = offers
            .iter()
            .filter(|(_, by)| self.definition(*by).default)
            .map(|(service, _)| *service)
            .collect();
        let one = |of: &BTreeSet<usize>| of.first().copied().filter(|_| of.len() == 1);
        let is_preferred = |by: usize| defaults.is_empty() || self.definition(by).default;
        let mut preferred: Vec<(usize, usize)> =
            offers.iter().filter(|offer| is_preferred(offer.1)).map(|&(service, by)| (by, service)).collect();
        preferred.sort_unstable();
        let preferred = match self.model.policy.same_contract {
            SameId::Forbid => None,
            SameId::First => preferred.first(),
            SameId::Last => preferred.last(),
        };
        match one(&services).or_else(|| one(&defaults)).or(preferred.map(|one| one.1)) {
            Some(only) => Gets::Service(only),
            None if !services.is_empty() => Gets::Ambiguous(services.into_iter().collect()),
            None if self.is_contract_supplied(contract) => Gets::Supplied,
            None if key.is_some() && !self.candidates(contract).is_empty() => Gets::MissingKey,
            None => Gets::Missing,
        }
    }

    /// The host platform brings it: itself, one that extends it, or its pattern.
    fn is_contract_supplied(&self, contract: &str) -> bool {
        let forms = [Some(contract.to_owned()), pattern(contract)];
        let mut supplied = self.model.supplied.iter();
        supplied.any(|(kind, name)| {
            *kind == SuppliedKind::Contract as u8
                && forms.iter().flatten().any(|form| self.with_bases(name).contains(form))
        })
    }

    /// Whether a setting has a value here; `None`: stages give it, and none is chosen.
    pub(crate) fn has_value(&self, setting: &str) -> Option<bool> {
        let declared = || self.model.settings.iter().filter(|one| one.name == setting);
        let here = |one: &super::model::Setting| {
            one.stages.iter().any(|value| Some(&value.0) == self.stage.as_ref())
        };
        if declared().any(|one| one.value.is_some() || here(one)) {
            return Some(true);
        }
        let left = declared().any(|one| one.required || !one.stages.is_empty());
        if self.stage.is_none() && left && !self.model.stages.is_empty() { None } else { Some(false) }
    }

    /// The values of a setting that count here: by declaration the text, and what it refers to.
    pub(crate) fn values(&self, setting: &str) -> Vec<(usize, &'m String, &'m Vec<String>)> {
        let declared = || self.model.settings.iter().filter(|one| one.name == setting);
        let in_stage = |is_workspace: bool| -> Vec<_> {
            let of = declared().filter(|one| self.model.files[one.file].is_workspace == is_workspace);
            let values = of.filter_map(|one| {
                let value = one.stages.iter().rev().find(|value| Some(&value.0) == self.stage.as_ref())?;
                Some((one.file, &value.1, &value.2))
            });
            values.collect()
        };
        let base = || declared().filter_map(|one| one.value.as_ref().map(|(text, to)| (one.file, text, to)));
        [in_stage(true), in_stage(false), base().collect()]
            .into_iter()
            .find(|values| !values.is_empty())
            .unwrap_or_default()
    }

    /// What a need gets; of one on what is wrapped that depends on who has it.
    pub(crate) fn gets(&self, holder: Option<usize>, need: &Need) -> Gets {
        let gets = match &need.aim {
            Aim::Service(id) => self.get_id(id),
            Aim::Contract(contract, key) => self.ask(contract, key.as_ref()),
            Aim::All(contract) if !self.candidates(contract).is_empty() => Gets::All,
            Aim::All(contract) if self.is_contract_supplied(contract) => Gets::Supplied,
            Aim::All(_) => Gets::Missing,
            Aim::Tag(_) => Gets::Carriers,
            Aim::Setting(setting) => match self.has_value(setting) {
                Some(true) => Gets::Value,
                _ if self.model.is_supplied(SuppliedKind::Setting, setting) => Gets::Supplied,
                None => Gets::Unknown,
                Some(false) => Gets::Missing,
            },
            Aim::Wrapped => match holder.map(|at| (self.inside(at), &self.definition(at).wraps)) {
                Some((Some(inside), _)) => Gets::Service(inside),
                Some((None, None)) => Gets::Missing,
                Some((None, Some(id))) if self.first(id).is_none() => {
                    let is_supplied = self.model.is_supplied(SuppliedKind::Service, id);
                    if is_supplied { Gets::Supplied } else { Gets::Unknown }
                }
                _ => Gets::Unknown,
            },
        };
        let is_absent = need.optional && matches!(gets, Gets::Missing | Gets::MissingKey);
        if is_absent { Gets::Absent } else { gets }
    }

    /// The rosters that hold here.
    fn roster(&self) -> Option<Vec<&'m Vec<String>>> {
        let own: Vec<_> =
            self.model.rosters.iter().filter(|one| one.0.is_some() && one.0 == self.stage).collect();
        let base = self.model.rosters.iter().filter(|one| one.0.is_none());
        let all: Vec<&Vec<String>> = if own.is_empty() {
            base.map(|one| &one.1).collect()
        } else {
            own.iter().map(|one| &one.1).collect()
        };
        (!all.is_empty()).then_some(all)
    }

    /// Each roster that holds here.
    pub(crate) fn rosters(&self) -> Vec<&'m Vec<String>> {
        self.roster().unwrap_or_default()
    }

    /// The providers that are loaded, where somebody says which.
    pub(crate) fn loaded(&self) -> Option<&BTreeSet<String>> {
        self.loaded.as_ref()
    }

    /// The definitions that carry a tag and are built.
    pub(crate) fn carriers(&self, tag: &str) -> Vec<usize> {
        let carries = |at: &usize| self.definition(*at).tags.iter().any(|(carried, _)| carried == tag);
        (0..self.standing.len()).filter(|&at| self.is_built(at)).filter(carries).collect()
    }

    /// Tags that something declares, collects or supplies.
    pub(crate) fn knows_tag(&self, tag: &str) -> bool {
        self.model.tags.contains_key(tag)
            || self.model.is_supplied(SuppliedKind::Tag, tag)
            || self.all_needs().any(|need| need.aim == Aim::Tag(tag.to_owned()))
    }

    /// All needs that are written, of all that have some.
    pub(crate) fn all_needs(&self) -> impl Iterator<Item = &'m Need> {
        let model = self.model;
        let services = model.definitions.iter().flat_map(|one| &one.needs);
        let entries = model.entries.iter().flat_map(|(_, entry)| &entry.needs);
        let providers = model.providers.iter().flat_map(|one| one.register.iter().chain(&one.start));
        services.chain(entries).chain(providers)
    }

    /// All nodes that may have needs.
    pub(crate) fn holders(&self) -> Vec<Node> {
        let services = (0..self.standing.len()).map(Node::Service);
        let entries = (0..self.model.entries.len()).map(Node::Entry);
        services.chain(entries).chain((0..self.model.providers.len()).map(Node::Provider)).collect()
    }

    /// The needs of a node as they are written.
    pub(crate) fn needs(&self, node: &Node) -> Vec<&'m Need> {
        match node {
            Node::Service(at) => self.definition(*at).needs.iter().collect(),
            Node::Entry(at) => self.model.entries[*at].1.needs.iter().collect(),
            Node::Provider(at) => {
                let provider = &self.model.providers[*at];
                provider.register.iter().chain(&provider.start).collect()
            }
            Node::Tag(_) | Node::All(_) => Vec::new(),
        }
    }

    /// What a need leads to: a service, a group, or nothing. `several`: also to each that may be meant.
    pub(crate) fn targets(&self, holder: &Node, need: &Need, several: bool) -> Vec<Node> {
        let at = if let Node::Service(at) = holder { Some(*at) } else { None };
        match (self.gets(at, need), &need.aim) {
            (Gets::Service(service), _) => vec![Node::Service(service)],
            (Gets::Carriers, Aim::Tag(tag)) => vec![Node::Tag(tag.clone())],
            (Gets::All, Aim::All(contract)) => vec![Node::All(contract.clone())],
            (Gets::Ambiguous(all), _) if several => all.into_iter().map(Node::Service).collect(),
            (Gets::Misguided, Aim::Contract(contract, key)) if several => {
                let all = self.first_offers(contract, key.as_ref());
                all.into_iter().map(|(service, _)| Node::Service(service)).collect()
            }
            _ => Vec::new(),
        }
    }

    /// Whom a node needs: over its needs, what it wraps, what it is declared to collect, and who is in a group.
    pub(crate) fn edges(&self, node: &Node, several: bool) -> Vec<Edge<'m>> {
        let mut edges = Vec::new();
        let is_idle = match node {
            Node::Service(at) => !self.is_built(*at),
            Node::Provider(at) => {
                self.loaded().is_some_and(|loaded| !loaded.contains(&self.model.providers[*at].id))
            }
            _ => false,
        };
        if is_idle {
            return edges;
        }
        for need in self.needs(node) {
            let targets = self.targets(node, need, several).into_iter();
            edges.extend(targets.map(|to| Edge { to, need: Some(need) }));
        }
        let group: BTreeSet<usize> = match node {
            Node::Tag(tag) => self.carriers(tag).into_iter().map(|at| self.stand_in(at)).collect(),
            Node::All(contract) => self.candidates(contract),
            _ => BTreeSet::new(),
        };
        edges.extend(group.into_iter().map(|at| Edge { to: Node::Service(at), need: None }));
        if let Node::Service(at) = node {
            let collects = |(name, tag): (&String, &super::model::Tag)| {
                let mut by = tag.collected_by.iter();
                by.any(|(_, by)| self.lead(by) == Lead::Service(*at)).then(|| Node::Tag(name.clone()))
            };
            edges.extend(self.model.tags.iter().filter_map(collects).map(|to| Edge { to, need: None }));
            let says_so = self.definition(*at).needs.iter().any(|need| need.aim == Aim::Wrapped);
            let inside = self.inside(*at).filter(|_| !says_so);
            edges.extend(inside.map(|inside| Edge { to: Node::Service(inside), need: None }));
        }
        edges
    }

    /// What a node is called.
    pub(crate) fn name(&self, node: &Node) -> String {
        match node {
            Node::Service(at) => self.definition(*at).id.clone(),
            Node::Entry(at) => self.model.entries[*at].1.id.clone(),
            Node::Provider(at) => self.model.providers[*at].id.clone(),
            Node::Tag(tag) => format!("all that carry {tag}"),
            Node::All(contract) => format!("all that offer {contract}"),
        }
    }
}

/// The pattern of a contract: as many `*` as it has arguments at its outermost level.
pub(super) fn pattern(contract: &str) -> Option<String> {
    let (name, rest) = contract.split_once('<')?;
    let arguments = rest.strip_suffix('>')?;
    let mut depth = 0;
    let commas = arguments.chars().filter(|&letter| {
        depth += i32::from(letter == '<') - i32::from(letter == '>');
        letter == ',' && depth == 0
    });
    let count = commas.count() + 1;
    Some(format!("{name}<{}>", vec!["*"; count].join(",")))
}
