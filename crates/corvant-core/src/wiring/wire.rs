//! Wiring by type: parameters of constructors that no need fills become needs on their types, and what is one of a type
//! offers it.

use super::inherit::models;
use super::policy::Policy;
use super::types::{TypeIndex, Types, short, whole_with_dots, with_dots};
use crate::facts::{
    Callable, Facts, Many, Named, Need, Parameter, Service, Supplied, SuppliedBy, SuppliedKind, Target, Via,
};
use crate::name::{Name, Names};
use crate::source::{SourceIndex, Span};
use foldhash::{HashMap, HashSet};

/// How many models of a definition are looked at for what it is wired by.
const MODELS: usize = 100;
/// In a list of contracts: all that the service's type is one of.
pub const SUPER_TYPES: &str = "super-types";

/// What was done by types.
#[derive(Debug, Default)]
pub(super) struct Wired {
    /// How many needs stand in the facts twice, as those of a definition stand in a row.
    pub(super) copied_needs: usize,
    /// The index, if it was made for that.
    pub(super) index: Option<TypeIndex>,
}

/// Fills constructors and offers of all services.
pub(super) fn apply(
    facts: &mut Facts,
    names: &Names,
    policy: &Policy,
    modules: impl Fn(SourceIndex) -> Option<Name>,
) -> Wired {
    let word = |text: &str| names.find(text);
    let (constructor, super_types) = (word("constructor"), word(SUPER_TYPES));
    let is_named = |offers: Many<Named>, facts: &Facts| {
        super_types.is_some_and(|word| offers.of(&facts.parts).iter().any(|offer| offer.name == word))
    };
    let is_wired = policy.wires_constructors
        || constructor.is_some()
            && facts.services.iter().any(|service| service.wire.map(|wire| wire.name) == constructor);
    let offers_types =
        policy.offers_super_types || facts.services.iter().any(|service| is_named(service.offers, facts));
    // Such needs come from code.
    let asks_types = !facts.declared_types.is_empty() && facts.parts.needs.iter().any(|need| need.by_type);
    if !is_wired && !offers_types && !asks_types {
        return Wired::default();
    }
    let index = TypeIndex::new(facts, names);
    let mut wholes = wholes(facts, policy, constructor);
    if offers_types {
        offer_super_types(facts, names, &index, &mut wholes, super_types, policy.offers_super_types);
    }
    let mut wirer = Wirer { names, index, wholes, copied_needs: 0 };
    let known = wirer.known(facts);
    for service in 0..facts.services.len() {
        facts.services[service].needs_unknown |= wirer.wholes[service].is_endless;
        if wirer.wholes[service].is_wired {
            wirer.fill(facts, service, &known, &modules);
        }
    }
    wirer.offer_own_types(facts);
    Wired { copied_needs: wirer.copied_needs, index: Some(wirer.index) }
}

/// What a definition says together with its models.
#[derive(Clone, Default)]
struct Whole {
    type_name: Option<Named>,
    is_wired: bool,
    /// Whether its constructor is to be filled and its models are too many to say what with.
    is_endless: bool,
    needs: Vec<Many<Need>>,
    /// What it offers, and where another definition says that, the place that takes it over.
    offers: Many<Named>,
    offers_at: Option<Span>,
}

impl Whole {
    /// What it offers by its own words, or takes over.
    fn offers(&self, facts: &Facts) -> Vec<Named> {
        let offers = self.offers.of(&facts.parts).iter();
        offers.map(|offer| Named { span: self.offers_at.unwrap_or(offer.span), ..*offer }).collect()
    }
}

fn wholes(facts: &Facts, policy: &Policy, constructor: Option<Name>) -> Vec<Whole> {
    let has_models = facts.services.iter().any(|service| service.like.is_some());
    let by_id = if has_models { models(facts, policy.same_id) } else { HashMap::default() };
    let whole = |service: &Service| {
        let (type_name, offers, needs) = (service.type_name, service.offers, vec![service.needs]);
        let mut whole = Whole { type_name, needs, offers, ..Whole::default() };
        let mut wire = service.wire;
        let mut at = *service;
        let mut steps = 0;
        while let Some(&model) = at.like.and_then(|like| by_id.get(&like.name)) {
            steps += 1;
            if steps > MODELS {
                // A line that is longer leads nowhere, or round and round.
                let is_endless =
                    wire.map_or(policy.wires_constructors, |wire| Some(wire.name) == constructor);
                return Whole { is_endless, ..Whole::default() };
            }
            at = facts.services[model];
            whole.type_name = whole.type_name.or(at.type_name);
            wire = wire.or(at.wire);
            whole.needs.push(at.needs);
            if whole.offers.is_empty() {
                whole.offers = at.offers;
                whole.offers_at = service.like.map(|like| like.span).filter(|_| at.source != service.source);
            }
        }
        let needs = whole.needs.iter().flat_map(|needs| needs.of(&facts.parts));
        let is_made = needs.clone().any(|need| need.via == Via::Factory);
        whole.is_wired = !is_made
            && service.may_be_built()
            && wire.map_or(policy.wires_constructors && whole.type_name.is_some(), |wire| {
                Some(wire.name) == constructor
            });
        whole
    };
    facts.services.iter().map(whole).collect()
}

/// Puts what a service's type is one of in the place of the word for that.
fn offer_super_types(
    facts: &mut Facts,
    names: &Names,
    index: &TypeIndex,
    wholes: &mut [Whole],
    word: Option<Name>,
    by_policy: bool,
) {
    for (service, whole) in wholes.iter_mut().enumerate() {
        let offers = whole.offers(facts);
        let said = offers.iter().find(|offer| Some(offer.name) == word).copied();
        let type_name = whole.type_name;
        let may = by_policy && facts.services[service].may_be_built();
        let Some(at) = said.or_else(|| type_name.filter(|_| may)) else { continue };
        let of_type = type_name.and_then(|named| index.find(names.text(named.name)));
        let above = of_type.map(|of| Types { index, facts, names }.ancestry(of).names).unwrap_or_default();
        if said.is_none() && above.is_empty() {
            continue;
        }
        let mut seen: HashSet<Name> = HashSet::default();
        let own = offers.into_iter().filter(|offer| Some(offer.name) != word);
        let above = above.into_iter().map(|name| Named { name, span: at.span });
        let all: Vec<Named> = own.chain(above).filter(|offer| seen.insert(offer.name)).collect();
        let start = facts.parts.named.len();
        facts.parts.named.extend(all);
        let offers = Many::since(start, &facts.parts);
        facts.services[service].offers = offers;
        (whole.offers, whole.offers_at) = (offers, None);
    }
}

struct Wirer<'n> {
    names: &'n Names,
    index: TypeIndex,
    wholes: Vec<Whole>,
    copied_needs: usize,
}

/// What there is to fill parameters with, by name with dots.
struct Known {
    /// What is offered or brought, and how it is written there.
    contracts: HashMap<String, Name>,
    /// By last part what the platform is said to bring; `None`: several end alike.
    supplied: HashMap<String, Option<Name>>,
}

impl Wirer<'_> {
    fn known(&self, facts: &Facts) -> Known {
        let mut contracts: HashMap<String, Name> = HashMap::default();
        let mut add = |name: Name| {
            contracts.entry(whole_with_dots(self.names.text(name))).or_insert(name);
        };
        let offers = facts.services.iter().flat_map(|service| service.offers.of(&facts.parts));
        offers.for_each(|offer| add(offer.name));
        let of_platform = facts.supplied.iter().filter(|supplied| supplied.kind == SuppliedKind::Contract);
        let mut by_short: HashMap<String, Option<Name>> = HashMap::default();
        for supplied in of_platform {
            let name = supplied.name.name;
            add(name);
            let of_last_part = by_short.entry(short(self.names.text(name)).to_owned());
            of_last_part
                .and_modify(|known| *known = known.filter(|known| *known == name))
                .or_insert(Some(name));
        }
        facts.choices.iter().for_each(|choice| add(choice.contract.name));
        for type_name in self.wholes.iter().filter_map(|whole| whole.type_name) {
            add(type_name.name);
        }
        Known { contracts, supplied: by_short }
    }

    /// Fills what no need of a service fills.
    fn fill(
        &mut self,
        facts: &mut Facts,
        service: usize,
        known: &Known,
        modules: &impl Fn(SourceIndex) -> Option<Name>,
    ) {
        let whole = &self.wholes[service];
        let type_name = whole.type_name;
        let of = type_name.and_then(|named| self.index.find(self.names.text(named.name)));
        let types = Types { index: &self.index, facts, names: self.names };
        let constructors = of.and_then(|of| types.constructors(of));
        let Some(constructors) = constructors else {
            facts.services[service].needs_unknown = true;
            return;
        };
        facts.services[service].needs_given = true;
        let needs: Vec<Need> = whole.needs.iter().flat_map(|needs| needs.of(&facts.parts)).copied().collect();
        let Some(chosen) = self.choose(facts, constructors.all, &needs, known) else { return };
        let code = facts.declared_types[constructors.of].source;
        let holder = facts.services[service];
        let is_own = modules(code) == modules(holder.source);
        let at = type_name.map_or(holder.id.span, |named| named.span);
        let filled = Filled::new(&needs, self.names);
        let mut new: Vec<Need> = Vec::new();
        let count = chosen.parameters.len();
        for (position, parameter) in chosen.parameters.of(&facts.parts).iter().enumerate() {
            if filled.has(self.names.text(parameter.name.name), position, count) {
                continue;
            }
            let Some(target) = parameter.asks else { continue };
            let target = known.written(self.names, target);
            let key = parameter.key.filter(|_| matches!(target, Target::Contract(_)));
            let (source, slot_span, span) = if is_own {
                // What a mark says stands there.
                let said =
                    if matches!(target, Target::Setting(_)) { parameter.key } else { parameter.type_name };
                (code, parameter.name.span, said.map_or(parameter.name.span, |named| named.span))
            } else {
                (holder.source, at, at)
            };
            new.push(Need {
                source,
                slot: Named { name: parameter.name.name, span: slot_span },
                target,
                span,
                key: key.map(|key| if is_own { key } else { Named { span: at, ..key } }),
                via: Via::Constructor,
                method: None,
                optional: parameter.is_optional,
                lazy: parameter.is_lazy,
                by_type: true,
                is_repeated: false,
                registered_before: Need::UNORDERED,
            });
        }
        if new.is_empty() {
            return;
        }
        let own = facts.services[service].needs;
        self.copied_needs += own.len();
        let start = facts.parts.needs.len();
        facts.parts.needs.extend_from_within(own.range());
        facts.parts.needs.extend(new);
        facts.services[service].needs = Many::since(start, &facts.parts);
    }

    /// The constructor that is meant: the marked one, else the only one that others can call, else the one with most
    /// parameters of which all can be filled; of none that can, the longest.
    fn choose(&self, facts: &Facts, all: Many<Callable>, needs: &[Need], known: &Known) -> Option<Callable> {
        let all = all.of(&facts.parts);
        if let Some(marked) = all.iter().find(|one| one.is_chosen) {
            return Some(*marked);
        }
        let open: Vec<&Callable> = all.iter().filter(|one| !one.is_private).collect();
        let candidates: Vec<&Callable> = if open.is_empty() { all.iter().collect() } else { open };
        if let [only] = candidates.as_slice() {
            return Some(**only);
        }
        let filled = Filled::new(needs, self.names);
        let can_be_filled = |one: &&&Callable| {
            one.parameters.of(&facts.parts).iter().enumerate().all(|(position, parameter)| {
                let count = one.parameters.len();
                let is_filled = filled.has(self.names.text(parameter.name.name), position, count);
                is_filled || parameter.is_optional || self.is_met(parameter, known)
            })
        };
        // Of as long ones the first counts.
        let length = |one: &&&Callable| (one.parameters.len(), std::cmp::Reverse(one.name.span.start));
        let met = candidates.iter().filter(can_be_filled).max_by_key(length);
        met.or_else(|| candidates.iter().max_by_key(length)).map(|one| **one)
    }

    fn is_met(&self, parameter: &Parameter, known: &Known) -> bool {
        match parameter.asks {
            Some(Target::Contract(name)) => known.has(self.names.text(name)),
            Some(_) => true,
            None => false,
        }
    }

    /// Lets services offer their own types, where those are asked for.
    fn offer_own_types(&self, facts: &mut Facts) {
        let asked: HashMap<String, Name> =
            asked(facts).map(|name| (whole_with_dots(self.names.text(name)), name)).collect();
        for service in 0..facts.services.len() {
            let Some(named) = self.wholes[service].type_name else { continue };
            if !facts.services[service].may_be_built() {
                continue;
            }
            let Some(&contract) = asked.get(&whole_with_dots(self.names.text(named.name))) else { continue };
            let offers = self.wholes[service].offers(facts);
            if offers.iter().any(|offer| offer.name == contract) {
                continue;
            }
            let start = facts.parts.named.len();
            facts.parts.named.extend(offers);
            // What is taken over from a model is written there.
            let is_own = facts.services[service].type_name.is_some();
            let span = if is_own { named.span } else { facts.services[service].id.span };
            facts.parts.named.push(Named { name: contract, span });
            facts.services[service].offers = Many::since(start, &facts.parts);
        }
    }
}

/// Types that constructors need, no code declares, and nobody offers or is said to bring, may be brought by the platform.
pub(super) fn supply_unknown(facts: &mut Facts, names: &Names, index: &TypeIndex) {
    let offered: HashSet<Name> = facts
        .services
        .iter()
        .flat_map(|service| service.offers.of(&facts.parts))
        .map(|offer| offer.name)
        .chain(facts.supplied.iter().map(|supplied| supplied.name.name))
        .chain(facts.choices.iter().map(|choice| choice.contract.name))
        .collect();
    let mut seen: HashSet<Name> = HashSet::default();
    let mut supplied = Vec::new();
    for need in facts.parts.needs.iter().filter(|need| need.by_type) {
        let (Target::Contract(name) | Target::All(name)) = need.target else { continue };
        let text = names.text(name);
        let is_unknown = index.find(text).is_none() && index.lacks(&with_dots(text)).is_none();
        if is_unknown && !offered.contains(&name) && seen.insert(name) {
            let named = Named { name, span: need.span };
            let kind = SuppliedKind::Contract;
            supplied.push(Supplied { source: need.source, kind, name: named, by: SuppliedBy::OutsideIndex });
        }
    }
    facts.supplied.extend(supplied);
}

/// Contracts that needs ask for.
fn asked(facts: &Facts) -> impl Iterator<Item = Name> {
    facts.parts.needs.iter().filter_map(|need| match need.target {
        Target::Contract(name) | Target::All(name) => Some(name),
        _ => None,
    })
}

impl Known {
    fn has(&self, text: &str) -> bool {
        self.contracts.contains_key(&whole_with_dots(text))
            || self.contracts.contains_key(&format!("{}<*>", with_dots(text)))
    }

    /// A target under the name that it is offered by, however that is written.
    fn written(&self, names: &Names, target: Target) -> Target {
        let of = |name: Name| {
            let text = names.text(name);
            let whole = self.contracts.get(&whole_with_dots(text)).copied();
            // Where a name comes out of a scope that nobody read, it stands alone.
            let is_alone = !text.contains(['.', '\\', '#']);
            let supplied = || self.supplied.get(text).copied().flatten().filter(|_| is_alone);
            whole.or_else(supplied).unwrap_or(name)
        };
        match target {
            Target::Contract(name) => Target::Contract(of(name)),
            Target::All(name) => Target::All(of(name)),
            other => other,
        }
    }
}

/// What needs fill by themselves: slots by name, and by number.
struct Filled<'n> {
    names: HashSet<&'n str>,
    numbers: HashSet<usize>,
}

impl<'n> Filled<'n> {
    fn new(needs: &[Need], names: &'n Names) -> Self {
        let slots = needs.iter().filter(|need| need.via == Via::Constructor);
        let slots: HashSet<&str> = slots.map(|need| names.text(need.slot.name)).collect();
        let numbers = slots.iter().filter_map(|slot| slot.parse().ok()).collect();
        Self { names: slots, numbers }
    }

    /// Whether a parameter is filled, by its name and its position among so many.
    fn has(&self, name: &str, position: usize, count: usize) -> bool {
        let numbers = &self.numbers;
        !name.is_empty() && self.names.contains(name)
            || match () {
                () if numbers.contains(&0) => numbers.contains(&position),
                () if numbers.contains(&count) => numbers.contains(&(position + 1)),
                // Whether numbers begin with nought or one is not known: neither is missed.
                () => numbers.contains(&position) || numbers.contains(&(position + 1)),
            }
    }
}
