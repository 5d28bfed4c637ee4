//! From ids to definitions: stages, overrides, wrappers and aliases.
//!
//! What an id stands for is worked out in five steps, each over all definitions in their order: which
//! definition of an id counts; what replaces it; what wraps that; where aliases and wrappers end; and what is
//! inside each wrapper.

use crate::facts::Service;
use crate::layered::Layered;
use crate::name::Name;
use crate::wiring::{SameId, ServiceIndex, Wiring};
use foldhash::{HashMap, HashSet};

const NONE: u32 = u32::MAX;

/// Which definition every id leads to in one stage.
#[derive(Clone, Debug)]
pub(crate) struct Ids {
    standing: Layered<Standing>,
    /// By name: the definition that its id leads to first (an alias, a replacement, the outermost wrapper).
    first: Layered<u32>,
    /// By id that something wraps: what it leads to without its wrappers.
    unwrapped: HashMap<Name, ServiceIndex>,
    /// By service: the wrapper that stands in its place.
    wrapper: Layered<u32>,
    /// By service: what is inside it, if it wraps something.
    inside: Layered<u32>,
    /// By alias that leads to an id that is not defined, or to a template, that id.
    dangling: HashMap<ServiceIndex, Name>,
    /// By service: what it is in the end, after aliases and wrappers; `NONE` where they run in a cycle.
    last: Layered<u32>,
    duplicates: Vec<Duplicate>,
}

/// What a definition is in one stage.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug, Default)]
pub(crate) enum Standing {
    /// It is limited to other stages.
    #[default]
    Elsewhere,
    /// Another takes its place, because it says so or because the workspace decides so.
    Overridden,
    /// A second definition of its id, and nothing decides which counts: nothing gets it, and its needs are
    /// audited, since it may be the one that stays.
    Contested,
    /// It counts, and is not built itself: an alias, a template, or one that leads back to itself.
    Counting,
    /// It counts and can be built.
    Built,
}

/// Two definitions that stand for one id, where neither overrides the other.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Duplicate {
    /// The id.
    pub(crate) id: Name,
    /// The definition that the audit goes on with.
    pub(crate) counting: ServiceIndex,
    /// The other.
    pub(crate) other: ServiceIndex,
}

/// Where an id leads.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Lead {
    /// To a service that is built.
    Service(ServiceIndex),
    /// To a template, which is never built.
    Template(ServiceIndex),
    /// To definitions that lead back to one another, or to an alias of an id that is not defined or is a
    /// template: a finding of its own.
    Nowhere,
    /// It is not defined.
    Undefined,
}

/// Whether two definitions of one id are installed into different places, so that neither takes the other's.
fn is_elsewhere(one: &Service, other: &Service) -> bool {
    one.of_standard.installed.is_some()
        && other.of_standard.installed.is_some()
        && one.of_standard.installed != other.of_standard.installed
}

/// What a definition is in the end, before that is worked out.
const UNSEEN: u32 = u32::MAX - 1;

impl Ids {
    /// Works out all ids of a stage.
    pub(crate) fn new(wiring: &Wiring, stage: Option<Name>) -> Self {
        let count = wiring.facts.services.len();
        let mut ids = Self {
            standing: vec![Standing::default(); count].into(),
            first: vec![NONE; wiring.names.bound()].into(),
            unwrapped: HashMap::default(),
            wrapper: vec![NONE; count].into(),
            inside: vec![NONE; count].into(),
            dangling: HashMap::default(),
            last: vec![UNSEEN; count].into(),
            duplicates: Vec::new(),
        };
        ids.work_out(wiring, stage, (0..count as u32).map(ServiceIndex), &wiring.linked);
        ids
    }

    /// The ids of another stage, where only those of `services` can differ: all definitions that have, alias,
    /// wrap or replace one of `names`.
    pub(super) fn restaged(
        &self,
        wiring: &Wiring,
        stage: Option<Name>,
        services: &[ServiceIndex],
        names: &HashSet<Name>,
    ) -> Self {
        let mut ids = Self {
            standing: self.standing.layer(),
            first: self.first.layer(),
            unwrapped: self.unwrapped.clone(),
            wrapper: self.wrapper.layer(),
            inside: self.inside.layer(),
            dangling: self.dangling.clone(),
            last: self.last.layer(),
            duplicates: self.duplicates.clone(),
        };
        for name in names {
            ids.first.set(name.index(), NONE);
            ids.unwrapped.remove(name);
        }
        for service in services.iter().map(|service| service.index()) {
            ids.wrapper.set(service, NONE);
            ids.inside.set(service, NONE);
            ids.last.set(service, UNSEEN);
            ids.dangling.remove(&ServiceIndex(service as u32));
        }
        ids.duplicates.retain(|duplicate| !names.contains(&duplicate.id));
        let is_linked = |service: &ServiceIndex| wiring.service(*service).is_linked();
        let linked: Vec<ServiceIndex> = services.iter().copied().filter(is_linked).collect();
        ids.work_out(wiring, stage, services.iter().copied(), &linked);
        ids
    }

    /// Works out some services, in their order, whose fields are still blank; `linked` are those of them that
    /// alias, wrap or replace.
    fn work_out(
        &mut self,
        wiring: &Wiring,
        stage: Option<Name>,
        services: impl Iterator<Item = ServiceIndex> + Clone,
        linked: &[ServiceIndex],
    ) {
        for index in services.clone() {
            let is_here = wiring.service(index).is_in(stage, &wiring.facts.parts);
            let standing = if is_here { Standing::Counting } else { Standing::Elsewhere };
            self.standing.set(index.index(), standing);
        }
        self.define(wiring, services.clone(), linked);
        self.replace(wiring, linked);
        self.wrap(wiring, linked);
        self.follow(wiring, services.clone());
        self.look_inside(wiring, services.clone(), linked);
        for index in services {
            let is_built = self.is_active(index)
                && self.last.get(index.index()) != NONE
                && wiring.service(index).may_be_built();
            if is_built {
                self.standing.set(index.index(), Standing::Built);
            }
        }
        self.duplicates.sort_unstable_by_key(|pair| pair.counting.max(pair.other));
    }

    /// Which definition of each id counts.
    fn define(
        &mut self,
        wiring: &Wiring,
        services: impl Iterator<Item = ServiceIndex>,
        linked: &[ServiceIndex],
    ) {
        let overriding = linked.iter().filter(|&&index| self.is_active(index));
        let overriding = overriding.map(|&index| wiring.service(index));
        let overridden: HashSet<Name> =
            overriding.filter(|service| service.overrides_itself()).map(|service| service.id.name).collect();
        for index in services {
            if !self.is_active(index) {
                continue;
            }
            let service = wiring.service(index);
            let id = service.id.name;
            if !overridden.is_empty() && overridden.contains(&id) && !service.overrides_itself() {
                self.standing.set(index.index(), Standing::Overridden);
                continue;
            }
            let first = self.first.get(id.index());
            if first == NONE {
                self.first.set(id.index(), index.0);
            } else if is_elsewhere(service, &wiring.facts.services[first as usize]) {
                // Installed side by side: each is handed out, and the first answers to the id.
            } else {
                let known = &wiring.facts.services[first as usize];
                if known.gives_way() || service.gives_way() {
                    let (counting, other) = if known.gives_way() && !service.gives_way() {
                        (index, ServiceIndex(first))
                    } else {
                        (ServiceIndex(first), index)
                    };
                    self.first.set(id.index(), counting.0);
                    self.standing.set(other.index(), Standing::Overridden);
                    continue;
                }
                let [counting, other] = decide(wiring, [ServiceIndex(first), index]);
                self.first.set(id.index(), counting.0);
                self.lose(wiring, other);
                self.duplicates.push(Duplicate { id, counting, other });
            }
        }
    }

    /// Takes a definition out that another was preferred to.
    fn lose(&mut self, wiring: &Wiring, other: ServiceIndex) {
        let is_open = wiring.policy.same_id == SameId::Forbid;
        let standing = if is_open { Standing::Contested } else { Standing::Overridden };
        self.standing.set(other.index(), standing);
    }

    /// Lets those that replace another id stand for it too. Several of one id are several definitions of it: the
    /// others go on under their own ids.
    fn replace(&mut self, wiring: &Wiring, linked: &[ServiceIndex]) {
        let mut claims: HashMap<Name, Vec<ServiceIndex>> = HashMap::default();
        let mut replaced: Vec<Name> = Vec::new();
        for &index in linked.iter().filter(|&&index| self.is_active(index)) {
            let service = wiring.service(index);
            let Some(id) = service.replaces.filter(|_| !service.overrides_itself()) else { continue };
            let claims = claims.entry(id.name).or_default();
            if claims.is_empty() {
                replaced.push(id.name);
            }
            claims.push(index);
        }
        for &id in &replaced {
            let mut claims = claims.remove(&id).unwrap_or_default();
            let own = self.first(id);
            if let Some(own) = own {
                self.standing.set(own.index(), Standing::Overridden);
                if wiring.service(own).overrides_itself() {
                    claims.push(own);
                    claims.sort_unstable();
                }
            }
            let Some(counting) = claims.iter().copied().reduce(|one, other| decide(wiring, [one, other])[0])
            else {
                continue;
            };
            for &other in claims.iter().filter(|&&other| other != counting) {
                self.duplicates.push(Duplicate { id, counting, other });
                if Some(other) == own {
                    self.lose(wiring, other);
                }
            }
            if Some(counting) == own {
                self.standing.set(counting.index(), Standing::Counting);
            }
            self.first.set(id.index(), counting.0);
        }
        self.follow_replacements(wiring, &replaced);
    }

    /// What replaces a replacement stands for all that it stood for. Where they run in a cycle, none is built.
    fn follow_replacements(&mut self, wiring: &Wiring, replaced: &[Name]) {
        let mut done: HashSet<Name> = HashSet::default();
        for &start in replaced {
            let mut path: Vec<Name> = Vec::new();
            let mut id = start;
            let end = loop {
                if !done.insert(id) {
                    // Done before, or met again on this very path: then all of it is a cycle.
                    break if path.contains(&id) { NONE } else { self.first.get(id.index()) };
                }
                path.push(id);
                let by = self.first.get(id.index());
                let own = wiring.facts.services[by as usize].id.name;
                if self.first.get(own.index()) == by {
                    break by;
                }
                id = own;
            };
            for id in path {
                if end == NONE {
                    let by = self.first.get(id.index()) as usize;
                    self.standing.set(by, Standing::Counting);
                    self.last.set(by, NONE);
                } else {
                    self.first.set(id.index(), end);
                }
            }
        }
    }

    /// Puts wrappers around what their ids stand for, the first innermost.
    fn wrap(&mut self, wiring: &Wiring, linked: &[ServiceIndex]) {
        for &index in linked {
            // Aliases and templates are not built, and so wrap nothing.
            let service = wiring.service(index);
            let wraps = service.wraps.filter(|_| service.may_be_built() && self.is_active(index));
            let Some(wrapped) = wraps else { continue };
            let first = self.first.get(wrapped.name.index());
            if first == NONE {
                continue;
            }
            if wiring.facts.services[first as usize].template {
                continue; // Never built, so there is nothing to wrap.
            }
            // Under another id it may have been wrapped already.
            let outermost = self.outermost(first);
            if outermost == index.0 || outermost == NONE {
                // It leads back to itself, or into a cycle: a finding of its own.
                self.last.set(index.index(), NONE);
                continue;
            }
            self.inside.set(index.index(), outermost);
            self.unwrapped.entry(wrapped.name).or_insert(ServiceIndex(first));
            if wiring.facts.services[outermost as usize].alias_of.is_none() {
                self.wrapper.set(outermost as usize, index.0);
            }
            self.first.set(wrapped.name.index(), index.0);
        }
    }

    /// The outermost wrapper of a definition so far; `NONE` where its wrappers run in a cycle.
    fn outermost(&self, first: u32) -> u32 {
        let mut at = first;
        loop {
            match self.wrapper.get(at as usize) {
                NONE => return at,
                next if next == first => return NONE,
                next => at = next,
            }
        }
    }

    /// Follows aliases and wrappers to their ends; every definition is visited once.
    fn follow(&mut self, wiring: &Wiring, services: impl Iterator<Item = ServiceIndex>) {
        let services_of = |at: u32| &wiring.facts.services[at as usize];
        let mut line: Vec<u32> = Vec::new();
        for start in services {
            let mut at = start.0;
            let end = loop {
                if at == NONE || self.last.get(at as usize) != UNSEEN {
                    break if at == NONE { NONE } else { self.last.get(at as usize) };
                }
                self.last.set(at as usize, NONE); // In a cycle, this is what it stays.
                line.push(at);
                match self.next(wiring, at) {
                    Some(next) => at = next,
                    None => break at,
                }
            };
            let dead_end = if at == NONE || end != NONE && services_of(end).template {
                // What the last alias stands for is defined nowhere, or never built.
                let alias = line.iter().rev().find_map(|&member| services_of(member).alias_of);
                self.dangling.get(&ServiceIndex(at)).copied().or(alias.map(|target| target.name))
            } else {
                self.dangling.get(&ServiceIndex(at)).copied()
            };
            for member in line.drain(..) {
                self.last.set(member as usize, end);
                if let Some(dead_end) = dead_end.filter(|_| services_of(member).alias_of.is_some()) {
                    self.dangling.insert(ServiceIndex(member), dead_end);
                }
            }
        }
    }

    /// The definition one step nearer to what is built, or `NONE` behind an alias of nothing; `None` at the end.
    fn next(&self, wiring: &Wiring, at: u32) -> Option<u32> {
        match wiring.facts.services[at as usize].alias_of {
            Some(target) => Some(self.first.get(target.name.index())),
            None => Some(self.wrapper.get(at as usize)).filter(|&wrapper| wrapper != NONE),
        }
    }

    /// Inside a wrapper of an alias is what the alias stands for. Where that leads back to the wrapper, over
    /// however many others, none of them is built.
    fn look_inside(
        &mut self,
        wiring: &Wiring,
        services: impl Iterator<Item = ServiceIndex>,
        linked: &[ServiceIndex],
    ) {
        let wrappers = || linked.iter().filter(|&&index| wiring.service(index).wraps.is_some());
        for &index in wrappers() {
            let inside = self.inside.get(index.index());
            let is_alias = |service: &Service| service.alias_of.is_some();
            if wiring.facts.services.get(inside as usize).is_some_and(is_alias) {
                self.inside.set(index.index(), self.last.get(inside as usize));
            }
        }
        let cycles = self.cycles_inside(wrappers().map(|index| index.0));
        if cycles.is_empty() {
            return;
        }
        for service in services.map(ServiceIndex::index) {
            if cycles.contains(&self.last.get(service)) {
                self.last.set(service, NONE);
            }
        }
        for &member in &cycles {
            self.last.set(member as usize, NONE);
            self.inside.set(member as usize, NONE);
        }
    }

    /// All wrappers that are inside themselves, found from any of them.
    fn cycles_inside(&self, from: impl Iterator<Item = u32>) -> HashSet<u32> {
        let mut cycles = HashSet::default();
        let mut round: HashMap<u32, u32> = HashMap::default();
        for start in from {
            let mut at = start;
            while at != NONE && !round.contains_key(&at) {
                round.insert(at, start);
                at = self.inside.get(at as usize);
            }
            if at != NONE && round[&at] == start {
                while cycles.insert(at) {
                    at = self.inside.get(at as usize);
                }
            }
        }
        cycles
    }

    /// Where an id leads.
    pub(crate) fn lead(&self, wiring: &Wiring, id: Name) -> Lead {
        let first = self.first.get(id.index());
        if first == NONE {
            return Lead::Undefined;
        }
        match self.last.get(first as usize) {
            NONE => Lead::Nowhere,
            last if !wiring.facts.services[last as usize].template => Lead::Service(ServiceIndex(last)),
            last if last == first => Lead::Template(ServiceIndex(last)),
            _ => Lead::Nowhere,
        }
    }

    /// The id that an alias leads to in the end, where that is one that is not defined, or a template's.
    pub(crate) fn dead_end(&self, id: Name) -> Option<Name> {
        self.dangling.get(&self.first(id)?).copied()
    }

    /// Whether any active definition has the id.
    pub(crate) fn is_defined(&self, id: Name) -> bool {
        self.first.get(id.index()) != NONE
    }

    /// The definition that an id leads to first, before aliases and wrappers are followed.
    pub(crate) fn first(&self, id: Name) -> Option<ServiceIndex> {
        Some(self.first.get(id.index())).filter(|&first| first != NONE).map(ServiceIndex)
    }

    /// The definition that an id names: an alias, what replaces it or its own, whatever is wrapped around it.
    pub(crate) fn named(&self, id: Name) -> Option<ServiceIndex> {
        let unwrapped = self.unwrapped.get(&id).copied();
        unwrapped.or_else(|| self.first(id))
    }

    /// The service that is handed out where this one would be: its outermost wrapper, or itself.
    pub(crate) fn stand_in(&self, service: ServiceIndex) -> ServiceIndex {
        Some(self.last.get(service.index())).filter(|&last| last != NONE).map_or(service, ServiceIndex)
    }

    /// What is inside a wrapper.
    pub(crate) fn inside(&self, wrapper: ServiceIndex) -> Option<ServiceIndex> {
        Some(self.inside.get(wrapper.index())).filter(|&inside| inside != NONE).map(ServiceIndex)
    }

    /// The wrapper that stands in a service's place.
    pub(crate) fn wrapper(&self, service: ServiceIndex) -> Option<ServiceIndex> {
        Some(self.wrapper.get(service.index())).filter(|&wrapper| wrapper != NONE).map(ServiceIndex)
    }

    /// What a definition is in this stage.
    pub(crate) fn standing(&self, service: ServiceIndex) -> Standing {
        self.standing.get(service.index())
    }

    /// Whether a definition counts in this stage: not limited to others, not replaced, no second of its id.
    pub(crate) fn is_active(&self, service: ServiceIndex) -> bool {
        self.standing(service) >= Standing::Counting
    }

    /// Whether what a definition says is audited: it counts, or may be the one that will.
    pub(crate) fn is_audited(&self, service: ServiceIndex) -> bool {
        self.standing(service) >= Standing::Contested
    }

    /// Whether a definition can be built: active, no alias, no template.
    pub(crate) fn is_built(&self, service: ServiceIndex) -> bool {
        self.standing(service) == Standing::Built
    }

    /// Whether what a definition needs is audited: it is built, or would be if it were the one that counts.
    pub(crate) fn has_needs(&self, wiring: &Wiring, service: ServiceIndex) -> bool {
        match self.standing(service) {
            Standing::Built => true,
            Standing::Contested => wiring.service(service).may_be_built(),
            _ => false,
        }
    }

    /// Definitions that stand for one id together, where neither overrides the other.
    pub(crate) fn duplicates(&self) -> &[Duplicate] {
        &self.duplicates
    }
}

/// Of two definitions of one id, in their order, first the one that counts by the workspace's policy.
fn decide(wiring: &Wiring, [one, other]: [ServiceIndex; 2]) -> [ServiceIndex; 2] {
    if wiring.policy.same_id == SameId::Last { [other, one] } else { [one, other] }
}
