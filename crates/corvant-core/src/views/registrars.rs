//! Which providers register which services.

use crate::facts::Provider;
use crate::index::ProviderIndex;
use crate::name::Name;
use crate::wiring::{ModuleIndex, ServiceIndex, Wiring};
use foldhash::{HashMap, HashSet};

/// Providers by what they register: ids that they list, and, where they list none, all services of their module.
#[derive(Debug, Default)]
pub(crate) struct Registrars {
    by_id: HashMap<Name, Vec<ProviderIndex>>,
    by_module: HashMap<ModuleIndex, Vec<ProviderIndex>>,
}

impl Registrars {
    pub(crate) fn new(wiring: &Wiring) -> Self {
        let mut registrars = Self::default();
        for (number, provider) in wiring.facts.providers.iter().enumerate() {
            let number = ProviderIndex::new(number);
            match provider.registers {
                Some(registers) => {
                    for id in registers.of(&wiring.facts.parts) {
                        let known = registrars.by_id.entry(id.name).or_default();
                        if known.last() != Some(&number) {
                            known.push(number);
                        }
                    }
                }
                None => {
                    if let Some(module) = wiring.module_of(provider.source) {
                        registrars.by_module.entry(module).or_default().push(number);
                    }
                }
            }
        }
        registrars
    }

    /// The providers that register a service, by number in the facts.
    pub(crate) fn of<'a>(
        &'a self,
        wiring: &'a Wiring,
        service: ServiceIndex,
    ) -> impl Iterator<Item = (ProviderIndex, &'a Provider)> {
        let definition = wiring.service(service);
        let by_id = self.by_id.get(&definition.id.name);
        let module = wiring.module_of(definition.source);
        let by_module = module.and_then(|module| self.by_module.get(&module));
        let numbers = by_id.into_iter().chain(by_module).flatten();
        numbers.map(|&number| (number, &wiring.facts.providers[number.index()]))
    }

    /// Services that wait in vain, since all providers that register them are not loaded, each with the first of
    /// those, by number in the facts.
    pub(crate) fn unlisted(
        &self,
        wiring: &Wiring,
        loaded: &HashSet<Name>,
    ) -> HashMap<ServiceIndex, ProviderIndex> {
        let is_unlisted =
            |&number: &ProviderIndex| !loaded.contains(&wiring.facts.providers[number.index()].id.name);
        let by_id = self.by_id.iter().filter(|(_, numbers)| numbers.iter().any(is_unlisted));
        let listed = by_id.flat_map(|(&id, _)| wiring.definitions(id));
        let mut is_waiting = vec![false; wiring.modules.len()];
        for (module, numbers) in &self.by_module {
            is_waiting[module.index()] = numbers.iter().any(is_unlisted);
        }
        let any = is_waiting.contains(&true);
        let of_module = wiring.services().take_while(|_| any).filter(|(_, service)| {
            wiring.module_of(service.source).is_some_and(|module| is_waiting[module.index()])
        });
        let mut unlisted = HashMap::default();
        for service in listed.chain(of_module.map(|(index, _)| index)) {
            let numbers: Vec<ProviderIndex> = self.of(wiring, service).map(|(number, _)| number).collect();
            if numbers.iter().all(is_unlisted) {
                unlisted.extend(numbers.into_iter().min().map(|first| (service, first)));
            }
        }
        unlisted
    }
}
