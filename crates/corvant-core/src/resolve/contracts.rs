//! Which services can meet a contract.

use super::{Ids, Table};
use crate::name::Name;
use crate::wiring::{ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};

/// Offers by contract, and by contract and key, of all services whatever their stages: which of them are built
/// in a stage is asked when they are looked up.
#[derive(Debug)]
pub(super) struct Contracts {
    offering: Table<ServiceIndex>,
    keyed: HashMap<(Name, Name), Vec<ServiceIndex>>,
    /// For each contract those that say they extend it.
    extended_by: HashMap<Name, Vec<Name>>,
}

impl Contracts {
    pub(super) fn new(wiring: &Wiring) -> Self {
        let services = || wiring.services().filter(|(_, service)| service.may_be_built());
        let offers = || {
            services().flat_map(|(index, service)| {
                let offers = service.offers.of(&wiring.facts.named);
                offers.iter().map(move |offer| (offer.name, index))
            })
        };
        let mut keyed: HashMap<_, Vec<_>> = HashMap::new();
        for (index, service) in services() {
            let Some(key) = service.key else { continue };
            for offer in service.offers.of(&wiring.facts.named) {
                keyed.entry((offer.name, key.name)).or_default().push(index);
            }
        }
        let mut extended_by: HashMap<Name, Vec<Name>> = HashMap::new();
        for contract in &wiring.facts.contracts {
            for base in contract.extends.of(&wiring.facts.named) {
                extended_by.entry(base.name).or_default().push(contract.contract.name);
            }
        }
        Self { offering: Table::new(wiring.names.bound(), offers), keyed, extended_by }
    }

    /// All services that offer a contract itself, in whatever stage.
    pub(super) fn offering(&self, contract: Name) -> &[ServiceIndex] {
        self.offering.get(contract)
    }

    /// The candidates for a contract, or for one key of it, in the order of their definitions. Exact offers
    /// go before generic ones; a wrapper stands for what it wraps.
    pub(super) fn candidates(
        &self,
        wiring: &Wiring,
        ids: &Ids,
        contract: Name,
        key: Option<Name>,
    ) -> Vec<ServiceIndex> {
        let exact = self.offering_or_extending(wiring, ids, contract, key);
        if !exact.is_empty() {
            return exact;
        }
        let open = open_form(wiring, contract);
        open.map(|open| self.offering_or_extending(wiring, ids, open, key)).unwrap_or_default()
    }

    fn offering_or_extending(
        &self,
        wiring: &Wiring,
        ids: &Ids,
        contract: Name,
        key: Option<Name>,
    ) -> Vec<ServiceIndex> {
        let offering = |contract: Name| match key {
            Some(key) => self.keyed.get(&(contract, key)).map_or(&[][..], Vec::as_slice),
            None => self.offering.get(contract),
        };
        let stand_ins = |contract: Name| {
            let built = offering(contract).iter().filter(|&&service| ids.is_built(service));
            built.map(|&service| ids.stand_in(service))
        };
        let mut candidates: Vec<ServiceIndex> = stand_ins(contract).collect();
        if self.extended_by.contains_key(&contract) {
            let mut seen = HashSet::new();
            let mut waiting = vec![contract];
            while let Some(contract) = waiting.pop() {
                if let Some(narrower) = self.extended_by.get(&contract) {
                    waiting.extend(narrower.iter().filter(|&&narrower| seen.insert(narrower)));
                }
            }
            seen.remove(&contract);
            candidates.extend(seen.into_iter().flat_map(stand_ins));
        }
        candidates.sort_unstable();
        candidates.dedup();
        if candidates.len() > 1 {
            // The same thing installed twice is one candidate.
            let mut seen = HashSet::new();
            candidates.retain(|&candidate| {
                let service = wiring.service(candidate);
                service.installed.is_none() || seen.insert(service.id.name)
            });
        }
        candidates
    }
}

/// The form of a contract whose arguments are open, if anybody names it: `Store<Ticket>` → `Store<*>`.
pub(super) fn open_form(wiring: &Wiring, contract: Name) -> Option<Name> {
    let text = wiring.text(contract);
    let start = text.find('<')?;
    wiring.names.find(&format!("{}<*>", &text[..start]))
}
