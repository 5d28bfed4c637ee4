//! Which providers register which services.

use crate::facts::Provider;
use crate::name::Name;
use crate::wiring::{ModuleIndex, ServiceIndex, Wiring};
use foldhash::{HashMap, HashSet};

/// Providers by what they register: ids that they list, and, where they list none, all services of their module.
#[derive(Debug, Default)]
pub(crate) struct Registrars {
    by_id: HashMap<Name, Vec<u32>>,
    by_module: HashMap<ModuleIndex, Vec<u32>>,
}

impl Registrars {
    pub(crate) fn new(wiring: &Wiring) -> Self {
        let mut registrars = Self::default();
        for (number, provider) in wiring.facts.providers.iter().enumerate() {
            let number = number as u32;
            match provider.registers {
                Some(registers) => {
                    for id in registers.of(&wiring.facts.named) {
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
    ) -> impl Iterator<Item = (u32, &'a Provider)> {
        let definition = wiring.service(service);
        let by_id = self.by_id.get(&definition.id.name);
        let module = wiring.module_of(definition.source);
        let by_module = module.and_then(|module| self.by_module.get(&module));
        let numbers = by_id.into_iter().chain(by_module).flatten();
        numbers.map(|&number| (number, &wiring.facts.providers[number as usize]))
    }

    /// The provider that a service waits for in vain, if all that register it are not loaded: the first of them.
    pub(crate) fn unlisted(
        &self,
        wiring: &Wiring,
        loaded: &HashSet<Name>,
        service: ServiceIndex,
    ) -> Option<u32> {
        let mut first = None;
        for (number, provider) in self.of(wiring, service) {
            if loaded.contains(&provider.id.name) {
                return None;
            }
            first = first.min(Some(number)).or(Some(number));
        }
        first
    }
}
