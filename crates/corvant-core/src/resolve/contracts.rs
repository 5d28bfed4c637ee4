//! Who offers a contract: the one notion of it, for needs, rules and answers alike.
//!
//! A definition offers the contracts it names, and what those extend. An offer of a pattern (`Store<*>`) answers
//! for every contract of its form (`Store<Ticket>`); what a pattern extends, all contracts of its form extend.
//! What is handed out is the outermost wrapper of the definition that offers: it stands for all offers inside it.

use super::{Ids, Table};
use crate::facts::SuppliedKind;
use crate::name::Name;
use crate::wiring::{SameId, ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};

/// Offers by contract, and by contract and key, of all services whatever their stages: which of them are built
/// in a stage is asked when they are looked up.
#[derive(Debug)]
pub(super) struct Contracts {
    offering: Table<ServiceIndex>,
    keyed: HashMap<(Name, Name), Vec<ServiceIndex>>,
    /// For each contract those that extend it.
    extended_by: HashMap<Name, Vec<Name>>,
    /// For each contract those that it extends.
    bases: HashMap<Name, Vec<Name>>,
}

/// One service that answers for a contract.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(crate) struct Offer {
    /// What is handed out.
    pub(crate) service: ServiceIndex,
    /// The definition that offers: the service itself, or something inside it.
    pub(crate) by: ServiceIndex,
}

/// All that answer for a contract, each kind in the order of what is handed out.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub(crate) struct Offers {
    /// Who offers the contract itself, or one that extends it.
    pub(crate) exact: Vec<Offer>,
    /// Who offers the pattern of the contract.
    pub(crate) generic: Vec<Offer>,
}

impl Offers {
    /// All, exact ones first.
    pub(crate) fn all(&self) -> impl Iterator<Item = Offer> + '_ {
        self.exact.iter().chain(&self.generic).copied()
    }

    /// Those that a need is met by: exact offers go before generic ones.
    pub(crate) fn first(&self) -> &[Offer] {
        if self.exact.is_empty() { &self.generic } else { &self.exact }
    }

    /// What is handed out, each service once.
    pub(crate) fn services(&self) -> Vec<ServiceIndex> {
        let mut services: Vec<ServiceIndex> = self.all().map(|offer| offer.service).collect();
        services.sort_unstable();
        services.dedup();
        services
    }
}

impl Contracts {
    pub(super) fn new(wiring: &Wiring) -> Self {
        let services = || wiring.services().filter(|(_, service)| service.may_be_built());
        let offers = || {
            services().flat_map(|(index, service)| {
                let offers = service.offers.of(&wiring.facts.parts);
                offers.iter().map(move |offer| (offer.name, index))
            })
        };
        let mut keyed: HashMap<_, Vec<_>> = HashMap::new();
        for (index, service) in services() {
            let Some(key) = service.key else { continue };
            for offer in service.offers.of(&wiring.facts.parts) {
                keyed.entry((offer.name, key.name)).or_default().push(index);
            }
        }
        let bases = extensions(wiring);
        let mut extended_by: HashMap<Name, Vec<Name>> = HashMap::new();
        for (&narrower, bases) in &bases {
            for &base in bases {
                extended_by.entry(base).or_default().push(narrower);
            }
        }
        Self { offering: Table::new(wiring.names.bound(), offers), keyed, extended_by, bases }
    }

    /// All services that offer a contract itself, in whatever stage.
    pub(super) fn offering(&self, contract: Name) -> &[ServiceIndex] {
        self.offering.get(contract)
    }

    /// Some contracts, and all that they extend, over however many others.
    pub(super) fn with_bases(&self, contracts: impl IntoIterator<Item = Name>) -> Vec<Name> {
        closure(contracts, &self.bases)
    }

    /// The contracts that one extends itself.
    pub(super) fn bases(&self, contract: Name) -> &[Name] {
        self.bases.get(&contract).map_or(&[], Vec::as_slice)
    }

    /// Some contracts, and all that extend one of them, over however many others.
    pub(super) fn with_narrower(&self, contracts: impl IntoIterator<Item = Name>) -> Vec<Name> {
        closure(contracts, &self.extended_by)
    }

    /// Whether anything that is built offers a contract itself, or one that extends it.
    pub(super) fn is_offered(&self, ids: &Ids, contract: Name) -> bool {
        let is_built = |contract: Name| self.offering(contract).iter().any(|&service| ids.is_built(service));
        if self.extended_by.contains_key(&contract) {
            self.with_narrower([contract]).into_iter().any(is_built)
        } else {
            is_built(contract)
        }
    }

    /// All that answer for a contract, or for one key of it.
    pub(super) fn offers(&self, wiring: &Wiring, ids: &Ids, contract: Name, key: Option<Name>) -> Offers {
        let exact = self.exact_offers(wiring, ids, contract, key);
        let generic = pattern(wiring, contract).map(|open| self.exact_offers(wiring, ids, open, key));
        let mut generic = generic.unwrap_or_default();
        if !generic.is_empty() {
            let offers_itself: HashSet<ServiceIndex> = exact.iter().map(|offer| offer.by).collect();
            generic.retain(|offer| !offers_itself.contains(&offer.by));
        }
        Offers { exact, generic }
    }

    /// All that offer a contract, or one key of it, by their own words or through one that extends it.
    pub(super) fn exact_offers(
        &self,
        wiring: &Wiring,
        ids: &Ids,
        contract: Name,
        key: Option<Name>,
    ) -> Vec<Offer> {
        let offering = |contract: Name| match key {
            Some(key) => self.keyed.get(&(contract, key)).map_or(&[][..], Vec::as_slice),
            None => self.offering.get(contract),
        };
        let offers = |contract: Name| {
            let built = offering(contract).iter().filter(|&&service| ids.is_built(service));
            built.map(|&by| Offer { service: ids.stand_in(by), by })
        };
        let mut all: Vec<Offer> = if self.extended_by.contains_key(&contract) {
            self.with_narrower([contract]).into_iter().flat_map(offers).collect()
        } else {
            offers(contract).collect()
        };
        all.sort_unstable();
        all.dedup();
        if all.len() > 1 {
            // The same thing installed twice is one candidate.
            let mut seen = HashSet::new();
            all.retain(|offer| {
                let service = wiring.service(offer.service);
                service.of_standard.installed.is_none() || seen.insert(service.id.name)
            });
            let gives_way = |offer: &Offer| wiring.service(offer.by).gives_way();
            if all.iter().all(gives_way) {
                all.truncate(1);
            } else {
                all.retain(|offer| !gives_way(offer));
            }
            let is_default = |offer: &Offer| wiring.service(offer.by).is_default;
            if wiring.policy.default_unless_offered && !all.iter().all(is_default) {
                all.retain(|offer| !is_default(offer));
            }
        }
        all
    }
}

/// What is handed out for some offers, each once; and those of them of which an offer is marked as default.
pub(crate) fn candidates_and_defaults(
    wiring: &Wiring,
    offers: &[Offer],
) -> (Vec<ServiceIndex>, Vec<ServiceIndex>) {
    let each_once = |offers: &mut dyn Iterator<Item = &Offer>| {
        let mut services: Vec<ServiceIndex> = offers.map(|offer| offer.service).collect();
        services.dedup();
        services
    };
    let is_default = |offer: &&Offer| wiring.service(offer.by).is_default;
    (each_once(&mut offers.iter()), each_once(&mut offers.iter().filter(is_default)))
}

/// The offer that the workspace's policy prefers, by the order of the definitions that make them: among those marked as
/// default, if any are.
pub(super) fn preferred(wiring: &Wiring, offers: &[Offer]) -> Option<ServiceIndex> {
    let is_default = |offer: &&Offer| wiring.service(offer.by).is_default;
    let has_default = offers.iter().any(|offer| is_default(&offer));
    let offers = offers.iter().filter(|offer| !has_default || is_default(offer));
    let offer = match wiring.policy.same_contract {
        SameId::Forbid => None,
        SameId::First => offers.min_by_key(|offer| offer.by),
        SameId::Last => offers.max_by_key(|offer| offer.by),
    };
    offer.map(|offer| offer.service)
}

/// By contract those that it extends: by its own declaration, and by that of its pattern.
fn extensions(wiring: &Wiring) -> HashMap<Name, Vec<Name>> {
    let facts = &wiring.facts;
    let mut bases: HashMap<Name, Vec<Name>> = HashMap::new();
    let declared = facts.contracts.iter().filter(|contract| !contract.extends.is_empty());
    for contract in declared {
        let extends = contract.extends.of(&facts.parts).iter().map(|base| base.name);
        bases.entry(contract.contract.name).or_default().extend(extends);
    }
    if bases.keys().any(|&contract| wiring.text(contract).ends_with('>')) {
        let offered = facts.services.iter().flat_map(|service| service.offers.of(&facts.parts));
        let declared = facts.contracts.iter().flat_map(|contract| {
            contract.extends.of(&facts.parts).iter().chain(std::iter::once(&contract.contract))
        });
        let supplied = facts.supplied.iter().filter(|supplied| supplied.kind == SuppliedKind::Contract);
        let named = offered.chain(declared).chain(supplied.map(|supplied| &supplied.name));
        for contract in named.map(|named| named.name).collect::<HashSet<Name>>() {
            let inherited = pattern(wiring, contract).and_then(|pattern| bases.get(&pattern)).cloned();
            if let Some(inherited) = inherited {
                bases.entry(contract).or_default().extend(inherited);
            }
        }
    }
    for bases in bases.values_mut() {
        bases.sort_unstable_by_key(|base| base.index());
        bases.dedup();
    }
    bases
}

fn closure(starts: impl IntoIterator<Item = Name>, next: &HashMap<Name, Vec<Name>>) -> Vec<Name> {
    let mut seen: HashSet<Name> = HashSet::new();
    let mut all: Vec<Name> = starts.into_iter().filter(|&start| seen.insert(start)).collect();
    let mut at = 0;
    while let Some(name) = all.get(at) {
        let further = next.get(name).into_iter().flatten().copied();
        all.extend(further.filter(|&further| seen.insert(further)).collect::<Vec<_>>());
        at += 1;
    }
    all
}

/// The pattern of a contract, if anybody names it: `Store<Ticket>` → `Store<*>`, `Map<Line, Stop>` → `Map<*,*>`.
/// A pattern has no other.
pub(crate) fn pattern(wiring: &Wiring, contract: Name) -> Option<Name> {
    let form = pattern_of(wiring.text(contract))?;
    let known = wiring.names.find(&form).or_else(|| wiring.names.find(&form.replace(',', ", ")));
    known.filter(|&form| form != contract)
}

/// The pattern that a text is a case of: as many `*` as it has arguments.
fn pattern_of(text: &str) -> Option<String> {
    let (name, rest) = text.split_once('<')?;
    let arguments = rest.strip_suffix('>')?;
    let (mut depth, mut count) = (0_usize, 1);
    for letter in arguments.chars() {
        match letter {
            '<' => depth += 1,
            '>' => depth = depth.checked_sub(1)?,
            ',' if depth == 0 => count += 1,
            _ => {}
        }
    }
    let stars = vec!["*"; count].join(",");
    (depth == 0).then(|| format!("{name}<{stars}>"))
}

#[cfg(test)]
mod tests {
    use super::pattern_of;
    use rstest::rstest;

    #[rstest]
    #[case::one("Store<Ticket>", Some("Store<*>"))]
    #[case::two("Map<Line, Stop>", Some("Map<*,*>"))]
    #[case::inner_arguments_do_not_count("Store<Map<Line,Stop>>", Some("Store<*>"))]
    #[case::a_pattern_is_its_own("Store<*>", Some("Store<*>"))]
    #[case::plain("Store", None)]
    #[case::open_end("Store<Ticket", None)]
    #[case::too_many_ends("Store<A>,B<C>>", None)]
    #[case::text_behind("Store<A>s", None)]
    fn a_pattern_has_a_star_for_each_argument(#[case] text: &str, #[case] pattern: Option<&str>) {
        assert_eq!(pattern_of(text).as_deref(), pattern);
    }
}
