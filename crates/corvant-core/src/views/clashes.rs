//! The search for clashes: several services that claim one contract, or one key of it, and nothing that decides.
//!
//! Each question that nothing settles belongs to one finding: the clash of keys or of defaults that is behind
//! it, where there is one, and otherwise to itself.

use super::clash::{Clash, Clashes};
use super::context::Context;
use super::lacks::{Sought, Use};
use crate::facts::{MeantFor, Service};
use crate::index::QuestionIndex;
use crate::name::Name;
use crate::resolve::{Ambiguity, Offer, candidates_and_defaults};
use crate::wiring::{SameId, ServiceIndex};
use foldhash::{HashMap, HashSet};

/// Who asks what nothing settles because of a clash.
pub(super) fn uses(clash: &Clash, context: &Context<'_>) -> Vec<Use> {
    let lacks = clash.questions.iter().filter_map(|&question| context.lacks.question(question));
    lacks.flat_map(|lack| lack.uses.iter().cloned()).collect()
}

/// Finds all clashes of a stage, or of the part of it that is looked at.
pub(super) fn clashes(context: &Context<'_>) -> Clashes {
    let whole = meant_for_all(context);
    let mut keys = Group::new(same_keys(context, &whole));
    let mut defaults = Group::new(two_defaults(context));
    let mut open = Vec::new();
    // Contracts that only what their pattern offers answers for share their candidates, and so who claims them.
    let mut claimed: HashMap<*const ServiceIndex, Vec<Offer>> = HashMap::default();
    for lack in context.certain_lacks() {
        let Sought::Question(number) = lack.sought else { continue };
        let question = &context.resolution.ambiguous[number.index()];
        // A choice that leads nowhere is a fault of its own.
        if question.misguided {
            continue;
        }
        let offers = claimed.entry(question.candidates.as_ptr()).or_insert_with(|| match question.key {
            Some(_) => claims(context, question),
            None => default_claims(context, question.contract),
        });
        let is_settled = match question.key {
            Some(_) => keys.take(question, number, offers, |offers| {
                !whole.contains(&question.contract)
                    && !offers.iter().any(|offer| is_installed(context, *offer))
            }),
            None => defaults.take(question, number, offers, |offers| offers.len() > 1),
        };
        if !is_settled {
            open.push(number);
        }
    }
    Clashes { keys: keys.clashes, defaults: defaults.clashes, open }
}

/// Clashes of one kind, found by those who take part.
struct Group {
    clashes: Vec<Clash>,
    by_member: HashMap<ServiceIndex, Vec<usize>>,
}

impl Group {
    fn new(clashes: Vec<Clash>) -> Self {
        let mut by_member: HashMap<ServiceIndex, Vec<usize>> = HashMap::default();
        for (number, clash) in clashes.iter().enumerate() {
            for offer in &clash.offers {
                by_member.entry(offer.service).or_default().push(number);
            }
        }
        Self { clashes, by_member }
    }

    /// Takes a question to the clash that is behind it: one in which all who claim it take part, if need be a
    /// new one where `is_clash` says that they are one. Returns whether there is one.
    fn take(
        &mut self,
        question: &Ambiguity,
        number: QuestionIndex,
        offers: &[Offer],
        is_clash: impl Fn(&[Offer]) -> bool,
    ) -> bool {
        let first = offers.first().and_then(|offer| self.by_member.get(&offer.service));
        let covers = |at: &usize| {
            let clash = &self.clashes[*at];
            // Both are in the order of what is handed out.
            let mut others = clash.offers.iter().map(|offer| offer.service);
            let mut takes_part = |offer: &Offer| others.any(|other| other == offer.service);
            clash.key == question.key && offers.len() > 1 && offers.iter().all(&mut takes_part)
        };
        if let Some(at) = first.into_iter().flatten().copied().find(covers) {
            self.clashes[at].questions.push(number);
            return true;
        }
        if !is_clash(offers) {
            return false;
        }
        let (contract, key) = (question.contract, question.key);
        self.clashes.push(Clash { contract, key, offers: offers.to_vec(), questions: vec![number] });
        true
    }
}

fn is_installed(context: &Context<'_>, offer: Offer) -> bool {
    context.wiring.service(offer.service).of_standard.installed.is_some()
}

/// Who claims a question, each service once.
fn claims(context: &Context<'_>, question: &Ambiguity) -> Vec<Offer> {
    let offers = context.resolution.offers(context.wiring, question.contract, question.key);
    each_once(offers.first().iter().copied())
}

/// Who is marked as default among those who answer for a contract, each service once.
fn default_claims(context: &Context<'_>, contract: Name) -> Vec<Offer> {
    let offers = context.resolution.offers(context.wiring, contract, None);
    let is_default = |offer: &Offer| context.wiring.service(offer.by).is_default;
    each_once(offers.first().iter().copied().filter(is_default))
}

fn each_once(offers: impl Iterator<Item = Offer>) -> Vec<Offer> {
    let mut offers: Vec<Offer> = offers.collect();
    offers.dedup_by_key(|offer| offer.service);
    offers
}

/// Contracts that are handed out whole, whatever the keys: by the first declaration that says how they are meant.
fn meant_for_all(context: &Context<'_>) -> HashSet<Name> {
    let mut seen = HashSet::default();
    let meant = context.wiring.facts.contracts.iter().filter_map(|contract| {
        let (meant, _) = contract.meant_for?;
        seen.insert(contract.contract.name).then_some((contract.contract.name, meant))
    });
    meant.filter(|&(_, meant)| meant == MeantFor::All).map(|(contract, _)| contract).collect()
}

/// Contracts, with what distinguishes their offers, in the order in which services to look at offer them.
fn offered<K: Copy + Eq + std::hash::Hash>(
    context: &Context<'_>,
    distinguish: impl Fn(&Service) -> Option<K>,
) -> Vec<(Name, K, bool)> {
    let mut number: HashMap<(Name, K), usize> = HashMap::default();
    let mut groups: Vec<(Name, K, ServiceIndex, bool)> = Vec::new();
    for (index, service) in context.services().filter(|&(index, _)| context.resolution.ids.is_built(index)) {
        if service.gives_way() {
            continue;
        }
        let Some(kind) = distinguish(service) else { continue };
        let stand_in = context.resolution.ids.stand_in(index);
        for offer in service.offers.of(&context.wiring.facts.parts) {
            let at = *number.entry((offer.name, kind)).or_insert_with(|| {
                groups.push((offer.name, kind, stand_in, false));
                groups.len() - 1
            });
            groups[at].3 |= groups[at].2 != stand_in;
        }
    }
    groups.into_iter().map(|(contract, kind, _, are_several)| (contract, kind, are_several)).collect()
}

/// Two services that offer one contract itself under one key, in one place of installation.
fn same_keys(context: &Context<'_>, whole: &HashSet<Name>) -> Vec<Clash> {
    let groups = offered(context, |service| Some((service.key?.name, service.of_standard.installed)));
    let mut clashes = Vec::new();
    for (contract, (key, place), are_several) in groups {
        // What is installed into one place clashes there, whatever the workspace decides.
        let is_decided = context.wiring.policy.same_contract != SameId::Forbid && place.is_none();
        if !are_several
            || is_decided
            || whole.contains(&contract)
            || context.resolution.chosen(contract, Some(key)).is_some()
        {
            continue;
        }
        let offers = context.resolution.offers(context.wiring, contract, Some(key));
        let is_here = |offer: &&Offer| context.wiring.service(offer.by).of_standard.installed == place;
        let here: Vec<Offer> = offers.exact.iter().filter(is_here).copied().collect();
        let (_, defaults) = candidates_and_defaults(context.wiring, &here);
        let offers = each_once(here.into_iter());
        if offers.len() > 1 && defaults.len() != 1 {
            clashes.push(Clash { contract, key: Some(key), offers, questions: Vec::new() });
        }
    }
    clashes
}

/// Two services that are the default for one contract which they offer themselves.
fn two_defaults(context: &Context<'_>) -> Vec<Clash> {
    if context.wiring.policy.same_contract != SameId::Forbid {
        return Vec::new();
    }
    let groups = offered(context, |service| service.is_default.then_some(()));
    let mut clashes = Vec::new();
    for (contract, (), are_several) in groups {
        if !are_several || context.resolution.chosen(contract, None).is_some() {
            continue;
        }
        let offers = default_claims(context, contract);
        // A default for each key answers needs with a key; only a need without one is in doubt.
        let key = |offer: &Offer| context.wiring.service(offer.by).key.map(|key| key.name);
        let keys: HashSet<Name> = offers.iter().filter_map(key).collect();
        let is_asked = || {
            let question = context.resolution.question((contract, None));
            question.is_some_and(|question| context.lacks.question(question).is_some())
        };
        if offers.len() > 1 && (keys.len() < offers.len() || is_asked()) {
            clashes.push(Clash { contract, key: None, offers, questions: Vec::new() });
        }
    }
    clashes
}
