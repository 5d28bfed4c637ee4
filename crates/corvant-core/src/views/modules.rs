//! What modules need of one another.

use crate::facts::{Need, Target};
use crate::graph::plain::{Plain, cycles};
use crate::name::Name;
use crate::resolve::Resolution;
use crate::source::{SourceIndex, Span};
use crate::wiring::{ModuleIndex, ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt, HashSet};

/// A need of one module that another module answers for.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Crossing {
    /// The service that has the need; `None`: an entry or a provider, which are there in every stage.
    holder: Option<ServiceIndex>,
    pub(crate) from: ModuleIndex,
    pub(crate) to: ModuleIndex,
    pub(crate) source: SourceIndex,
    pub(crate) span: Span,
    /// What is needed, by name.
    pub(crate) target: Name,
}

impl Crossing {
    /// Whether the one that has the need is there, or may be.
    pub(super) fn is_in_effect(&self, wiring: &Wiring, resolution: &Resolution) -> bool {
        self.holder.is_none_or(|holder| resolution.ids.has_needs(wiring, holder))
    }
}

/// How many needs lead from one module to another.
pub(crate) type Pairs = HashMap<(ModuleIndex, ModuleIndex), u32>;

/// All needs that cross from one module into another: on services by id, on settings, and on contracts that the
/// other module declares. A contract that a module declares itself is its own, no matter who offers it: that is how
/// modules are kept apart. A need belongs to the module whose file writes it, no matter who inherits it.
#[derive(Debug, Default)]
pub(crate) struct Crossings {
    /// Those of services in their order, then those of entries and providers.
    all: Vec<Crossing>,
    /// Those into a module that the one that needs it does not say it uses, though it says which it does.
    undeclared: Vec<Crossing>,
    /// Modules in the order of their names.
    by_name: Vec<ModuleIndex>,
    /// By module its place among them.
    rank: Vec<u32>,
}

impl Crossings {
    /// Work grows with the number of needs, inherited ones included.
    pub(super) fn new(wiring: &Wiring) -> Self {
        if wiring.modules.len() < 2 {
            return Self::default();
        }
        let owners = Owners::new(wiring);
        let facts = &wiring.facts;
        let crossing = |holder: Option<ServiceIndex>, need: &Need| {
            let from = wiring.module_of(need.source)?;
            let (to, target) = owners.of(wiring, need)?;
            let (source, span) = (need.source, need.span);
            (from != to).then_some(Crossing { holder, from, to, source, span, target })
        };
        let of_services = wiring.services().flat_map(|(index, service)| {
            let needs = service.needs.of(&facts.parts).iter();
            needs.filter_map(move |need| crossing(Some(index), need))
        });
        let entries = facts.entries.iter().map(|entry| entry.needs);
        let providers = facts.providers.iter().flat_map(|provider| [provider.register, provider.start]);
        let of_others = entries.chain(providers).flat_map(|needs| needs.of(&facts.parts));
        let all: Vec<Crossing> =
            of_services.chain(of_others.filter_map(|need| crossing(None, need))).collect();
        let undeclared = undeclared(wiring, &all);
        let mut by_name: Vec<ModuleIndex> = (0..wiring.modules.len() as u32).map(ModuleIndex).collect();
        by_name.sort_unstable_by_key(|module| wiring.text(wiring.modules[module.index()].module.name));
        let mut rank = vec![0; by_name.len()];
        for (position, module) in by_name.iter().enumerate() {
            rank[module.index()] = position as u32;
        }
        Self { all, undeclared, by_name, rank }
    }

    /// Those that lead from one module to another, for some pairs of them, and are in effect: in the order of
    /// the files, each once.
    pub(crate) fn between(
        &self,
        pairs: &HashSet<(ModuleIndex, ModuleIndex)>,
        is_in_effect: impl Fn(&Crossing) -> bool,
    ) -> HashMap<(ModuleIndex, ModuleIndex), Vec<&Crossing>> {
        let mut between: HashMap<_, Vec<&Crossing>> = HashMap::new();
        for crossing in self.all.iter().filter(|crossing| is_in_effect(crossing)) {
            let pair = (crossing.from, crossing.to);
            if pairs.contains(&pair) {
                between.entry(pair).or_default().push(crossing);
            }
        }
        between.into_iter().map(|(pair, crossings)| (pair, in_order(crossings))).collect()
    }

    /// Those that are in effect and that no `uses` allows, in the order of the files, each once.
    pub(crate) fn undeclared(&self, is_in_effect: impl Fn(&Crossing) -> bool) -> Vec<&Crossing> {
        in_order(self.undeclared.iter().filter(|crossing| is_in_effect(crossing)).collect())
    }

    /// How many are in effect between each two modules.
    pub(super) fn pairs(&self, wiring: &Wiring, resolution: &Resolution) -> Pairs {
        let mut pairs = Pairs::new();
        for crossing in self.all.iter().filter(|crossing| crossing.is_in_effect(wiring, resolution)) {
            *pairs.entry((crossing.from, crossing.to)).or_default() += 1;
        }
        pairs
    }

    /// The same in a stage, if that changes any, where only some services may be there or not.
    pub(super) fn changed_pairs(
        &self,
        wiring: &Wiring,
        pairs: &Pairs,
        base: &Resolution,
        here: &Resolution,
        services: &[ServiceIndex],
    ) -> Option<Pairs> {
        let mut changed: Option<Pairs> = None;
        for &service in services {
            let (was, is) = (base.ids.has_needs(wiring, service), here.ids.has_needs(wiring, service));
            if was == is {
                continue;
            }
            let start =
                self.all.partition_point(|crossing| crossing.holder.is_some_and(|holder| holder < service));
            let of_service = self.all[start..].iter().take_while(|crossing| crossing.holder == Some(service));
            for crossing in of_service {
                let pairs = changed.get_or_insert_with(|| pairs.clone());
                let count = pairs.entry((crossing.from, crossing.to)).or_default();
                *count = if is { *count + 1 } else { *count - 1 };
            }
        }
        if let Some(changed) = &mut changed {
            changed.retain(|_, count| *count > 0);
        }
        changed
    }

    /// A shortest cycle of each group of modules that need one another, beginning at the first by name; of several the
    /// first by the names on it.
    pub(super) fn cycles(&self, pairs: &Pairs) -> ModuleCycles {
        // Numbered by name, so that a cycle begins at the smallest.
        let mut graph: Plain = vec![Vec::new(); self.by_name.len()];
        for &(from, to) in pairs.keys() {
            graph[self.rank[from.index()] as usize].push(self.rank[to.index()]);
        }
        for to in &mut graph {
            to.sort_unstable();
        }
        let cycles = cycles(&graph).into_iter();
        let module = |rank: u32| self.by_name[rank as usize];
        cycles.map(|(cycle, size)| (cycle.into_iter().map(module).collect(), size)).collect()
    }
}

/// Cycles of modules, each with the size of its cycle group.
pub(crate) type ModuleCycles = Vec<(Vec<ModuleIndex>, usize)>;

/// Added needs that are looked at one by one.
const FEW: usize = 64;

/// What modules need of one another with no stage chosen.
#[derive(Debug)]
pub(super) struct ModuleNeeds {
    pub(super) pairs: Pairs,
    pub(super) cycles: ModuleCycles,
    /// By module those that it needs, in no order.
    needed: Vec<Vec<ModuleIndex>>,
}

impl ModuleNeeds {
    pub(super) fn new(wiring: &Wiring, crossings: &Crossings, resolution: &Resolution) -> Self {
        let pairs = crossings.pairs(wiring, resolution);
        let mut needed = vec![Vec::new(); wiring.modules.len()];
        for &(from, to) in pairs.keys() {
            needed[from.index()].push(to);
        }
        let cycles = crossings.cycles(&pairs);
        Self { pairs, cycles, needed }
    }

    /// Whether a stage may have other cycles. Mostly it changes how many needs there are between two modules, and no more;
    /// or no need that it adds closes a cycle.
    pub(super) fn has_other_cycles(&self, changed: &Pairs) -> bool {
        let added: Vec<_> = changed.keys().filter(|pair| !self.pairs.contains_key(pair)).copied().collect();
        if !self.cycles.is_empty() {
            return !added.is_empty() || changed.len() != self.pairs.len();
        }
        // Past some, to look for all cycles is less work.
        added.len() > FEW || self.close_a_cycle(&added)
    }

    /// Whether any of some further needs closes a cycle with others of them and with those that there are.
    fn close_a_cycle(&self, added: &[(ModuleIndex, ModuleIndex)]) -> bool {
        let mut seen = vec![usize::MAX; self.needed.len()];
        added.iter().enumerate().any(|(round, &(from, to))| {
            let mut waiting = vec![to];
            while let Some(module) = waiting.pop() {
                if module == from {
                    return true;
                }
                if std::mem::replace(&mut seen[module.index()], round) != round {
                    let further = added.iter().filter(|(from, _)| *from == module).map(|(_, to)| *to);
                    waiting.extend(self.needed[module.index()].iter().copied().chain(further));
                }
            }
            false
        })
    }
}

/// What several inherit is written once.
fn in_order(mut crossings: Vec<&Crossing>) -> Vec<&Crossing> {
    crossings.sort_by_key(|crossing| (crossing.source, crossing.span));
    crossings.dedup_by_key(|crossing| (crossing.source, crossing.span));
    crossings
}

fn undeclared(wiring: &Wiring, all: &[Crossing]) -> Vec<Crossing> {
    // A module that says anywhere what it uses is checked; what any of its files says counts.
    let saying = wiring.headers.iter().enumerate().filter(|(_, header)| header.uses_given);
    let says: HashSet<ModuleIndex> =
        saying.filter_map(|(number, _)| wiring.module_of(SourceIndex(number as u32))).collect();
    let uses = wiring.facts.uses.iter();
    let used: HashSet<(ModuleIndex, Name)> =
        uses.filter_map(|(source, used)| Some((wiring.module_of(*source)?, used.name))).collect();
    let name = |module: ModuleIndex| wiring.modules[module.index()].module.name;
    let is_undeclared = |crossing: &&Crossing| {
        says.contains(&crossing.from) && !used.contains(&(crossing.from, name(crossing.to)))
    };
    all.iter().filter(is_undeclared).copied().collect()
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

/// What belongs to no module, as the workspace file's values do, makes no module its owner.
fn only_owner(
    wiring: &Wiring,
    declarations: impl Iterator<Item = (Name, SourceIndex)>,
) -> HashMap<Name, Option<ModuleIndex>> {
    let mut owners = HashMap::new();
    for (name, source) in declarations {
        let Some(module) = wiring.module_of(source) else { continue };
        let known = owners.entry(name).or_insert(Some(module));
        if *known != Some(module) {
            *known = None;
        }
    }
    owners
}
