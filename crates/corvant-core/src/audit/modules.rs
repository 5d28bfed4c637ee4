//! What modules need of one another.

use crate::facts::{Need, Target};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::wiring::{ModuleIndex, Wiring};
use foldhash::{HashMap, HashMapExt};

/// A need of one module that another module answers for.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Crossing {
    pub(crate) from: ModuleIndex,
    pub(crate) to: ModuleIndex,
    pub(crate) source: SourceIndex,
    pub(crate) span: Span,
    /// What is needed, by name.
    pub(crate) target: Name,
}

/// All needs that cross from one module into another, in the order of the facts: on services by id, on
/// settings, and on contracts that the other module declares. A contract that a module declares itself is its
/// own, whoever offers it: that is how modules are kept apart.
pub(super) fn crossings(wiring: &Wiring) -> Vec<Crossing> {
    let owners = Owners::new(wiring);
    let needs = wiring.facts.needs.iter();
    let crossings = needs.take(wiring.written_needs).filter_map(|need| {
        let from = wiring.module_of(need.source)?;
        let (to, target) = owners.of(wiring, need)?;
        (from != to).then_some(Crossing { from, to, source: need.source, span: need.span, target })
    });
    crossings.collect()
}

/// By name the only module that declares it; `None` where several do.
struct Owners {
    contracts: HashMap<Name, Option<ModuleIndex>>,
    settings: HashMap<Name, Option<ModuleIndex>>,
}

impl Owners {
    fn new(wiring: &Wiring) -> Self {
        let contracts =
            wiring.facts.contracts.iter().map(|contract| (contract.contract.name, contract.source));
        let settings = wiring.facts.settings.iter().map(|setting| (setting.setting.name, setting.source));
        Self { contracts: only_owner(wiring, contracts), settings: only_owner(wiring, settings) }
    }

    fn of(&self, wiring: &Wiring, need: &Need) -> Option<(ModuleIndex, Name)> {
        match need.target {
            Target::Service(id) => {
                // Whose id it is counts, not who stands in for it, nor in which stage. An id that several define
                // is a finding of its own, and so is a need on a template.
                let first = wiring.first_definition(id).filter(|_| !wiring.is_defined_again(id))?;
                let definition = Some(wiring.service(first)).filter(|service| !service.template)?;
                Some((wiring.module_of(definition.source)?, id))
            }
            Target::Contract(contract) | Target::All(contract) => {
                Some(((*self.contracts.get(&contract)?)?, contract))
            }
            Target::Setting(setting) => Some(((*self.settings.get(&setting)?)?, setting)),
            Target::Tag(_) | Target::Wrapped => None,
        }
    }
}

fn only_owner(
    wiring: &Wiring,
    declarations: impl Iterator<Item = (Name, SourceIndex)>,
) -> HashMap<Name, Option<ModuleIndex>> {
    let mut owners = HashMap::new();
    for (name, source) in declarations {
        let module = wiring.module_of(source);
        let known = owners.entry(name).or_insert(module);
        if *known != module {
            *known = None;
        }
    }
    owners
}
