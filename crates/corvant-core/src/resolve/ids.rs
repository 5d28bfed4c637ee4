//! From ids to definitions: stages, overrides, wrappers and aliases.

use crate::facts::Service;
use crate::layered::Layered;
use crate::name::Name;
use crate::wiring::{SameId, ServiceIndex, Wiring};
use foldhash::HashSet;

const NONE: u32 = u32::MAX;

/// Which definition every id leads to in one stage.
#[derive(Clone, Debug)]
pub struct Ids {
    active: Layered<bool>,
    built: Layered<bool>,
    /// By name: the definition that its id leads to first (an alias, a replacement, the outermost wrapper).
    first: Layered<u32>,
    /// By service: the wrapper that stands in its place.
    wrapper: Layered<u32>,
    /// By service: what it wraps.
    wrapped: Layered<u32>,
    /// By service: what it is in the end, after aliases and wrappers; `NONE` where aliases run in a ring.
    last: Layered<u32>,
    /// Second definitions of one id: first the one that counts, then the one that does not.
    duplicates: Vec<(ServiceIndex, ServiceIndex)>,
}

/// Where an id leads.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Lead {
    /// To a service that is built.
    Service(ServiceIndex),
    /// To a template, which is never built.
    Template(ServiceIndex),
    /// To aliases of one another, or an alias of an id that nobody defines: a finding of its own.
    Nowhere,
    /// Nobody defines it.
    Undefined,
}

/// Whether two definitions of one id are installed into different places, so that neither takes the other's.
fn is_elsewhere(one: &Service, other: &Service) -> bool {
    one.installed.is_some() && other.installed.is_some() && one.installed != other.installed
}

/// What a definition is in the end, before that is worked out.
const UNSEEN: u32 = u32::MAX - 1;

impl Ids {
    /// Works out all ids of a stage.
    pub fn new(wiring: &Wiring, stage: Option<Name>) -> Self {
        let count = wiring.facts.services.len();
        let mut ids = Self {
            active: vec![false; count].into(),
            built: vec![false; count].into(),
            first: vec![NONE; wiring.names.bound()].into(),
            wrapper: vec![NONE; count].into(),
            wrapped: vec![NONE; count].into(),
            last: vec![UNSEEN; count].into(),
            duplicates: Vec::new(),
        };
        ids.work_out(wiring, stage, (0..count as u32).map(ServiceIndex));
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
            active: self.active.layer(),
            built: self.built.layer(),
            first: self.first.layer(),
            wrapper: self.wrapper.layer(),
            wrapped: self.wrapped.layer(),
            last: self.last.layer(),
            duplicates: self.duplicates.clone(),
        };
        for name in names {
            ids.first.set(name.index(), NONE);
        }
        for service in services.iter().map(|service| service.index()) {
            ids.wrapper.set(service, NONE);
            ids.wrapped.set(service, NONE);
            ids.last.set(service, UNSEEN);
        }
        ids.duplicates.retain(|(one, _)| !names.contains(&wiring.service(*one).id.name));
        ids.work_out(wiring, stage, services.iter().copied());
        ids
    }

    /// Works out some services, in their order, whose fields are still blank.
    fn work_out(
        &mut self,
        wiring: &Wiring,
        stage: Option<Name>,
        services: impl Iterator<Item = ServiceIndex> + Clone,
    ) {
        for index in services.clone() {
            let stages = wiring.service(index).stages.of(&wiring.facts.named);
            let is_active = stages.is_empty() || stages.iter().any(|limit| Some(limit.name) == stage);
            self.active.set(index.index(), is_active);
        }
        self.define(wiring, services.clone());
        self.replace(wiring, services.clone());
        self.wrap(wiring, services.clone());
        self.follow(wiring, services.clone());
        for index in services {
            // What wraps itself, over however many others, is a finding and cannot be built.
            let is_built = self.active.get(index.index())
                && self.last.get(index.index()) != NONE
                && wiring.service(index).may_be_built();
            self.built.set(index.index(), is_built);
        }
        self.duplicates.sort_unstable_by_key(|&(one, other)| one.max(other));
    }

    fn define(&mut self, wiring: &Wiring, services: impl Iterator<Item = ServiceIndex>) {
        for index in services {
            let service = wiring.service(index);
            let overrides_itself = service.replaces.is_some_and(|id| id.name == service.id.name);
            if !self.active.get(index.index()) || overrides_itself {
                continue;
            }
            let id = service.id.name.index();
            let first = self.first.get(id);
            if first == NONE {
                self.first.set(id, index.0);
            } else if is_elsewhere(service, &wiring.facts.services[first as usize]) {
                // Installed side by side: each is handed out, and the first answers to the id.
            } else if wiring.policy.same_id == SameId::Last {
                self.duplicates.push((index, ServiceIndex(first)));
                self.active.set(first as usize, false);
                self.first.set(id, index.0);
            } else {
                self.duplicates.push((ServiceIndex(first), index));
                self.active.set(index.index(), false);
            }
        }
    }

    fn replace(&mut self, wiring: &Wiring, services: impl Iterator<Item = ServiceIndex>) {
        for index in services {
            let replaces = wiring.service(index).replaces;
            let Some(replaced) = replaces.filter(|_| self.active.get(index.index())) else { continue };
            let first = self.first.get(replaced.name.index());
            if first != NONE && first != index.0 {
                self.active.set(first as usize, false);
            }
            self.first.set(replaced.name.index(), index.0);
        }
    }

    fn wrap(&mut self, wiring: &Wiring, services: impl Iterator<Item = ServiceIndex>) {
        for index in services {
            let wraps = wiring.service(index).wraps;
            let Some(wrapped) = wraps.filter(|_| self.active.get(index.index())) else { continue };
            let first = self.first.get(wrapped.name.index());
            if first != NONE && first != index.0 {
                self.wrapped.set(index.index(), first);
                self.wrapper.set(first as usize, index.0);
                self.first.set(wrapped.name.index(), index.0);
            }
        }
    }

    /// Follows aliases and wrappers to their ends; every definition is visited once.
    fn follow(&mut self, wiring: &Wiring, services: impl Iterator<Item = ServiceIndex>) {
        let mut line = Vec::new();
        for start in services {
            let mut at = start.0;
            let end = loop {
                if at == NONE || self.last.get(at as usize) != UNSEEN {
                    break if at == NONE { NONE } else { self.last.get(at as usize) };
                }
                self.last.set(at as usize, NONE); // In a ring, this is what it stays.
                line.push(at);
                match self.next(wiring, at) {
                    Some(next) => at = next,
                    None => break at,
                }
            };
            for member in line.drain(..) {
                self.last.set(member as usize, end);
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

    /// Where an id leads.
    pub fn lead(&self, wiring: &Wiring, id: Name) -> Lead {
        match self.first.get(id.index()) {
            NONE => Lead::Undefined,
            first => match self.last.get(first as usize) {
                NONE => Lead::Nowhere,
                last if wiring.facts.services[last as usize].template => Lead::Template(ServiceIndex(last)),
                last => Lead::Service(ServiceIndex(last)),
            },
        }
    }

    /// Whether any active definition has the id.
    pub fn is_defined(&self, id: Name) -> bool {
        self.first.get(id.index()) != NONE
    }

    /// The definition that an id leads to first, before aliases and wrappers are followed.
    pub fn first(&self, id: Name) -> Option<ServiceIndex> {
        Some(self.first.get(id.index())).filter(|&first| first != NONE).map(ServiceIndex)
    }

    /// The service that is handed out where this one would be: its outermost wrapper, or itself.
    pub fn stand_in(&self, service: ServiceIndex) -> ServiceIndex {
        Some(self.last.get(service.index())).filter(|&last| last != NONE).map_or(service, ServiceIndex)
    }

    /// What a wrapper wraps.
    pub fn wrapped(&self, wrapper: ServiceIndex) -> Option<ServiceIndex> {
        Some(self.wrapped.get(wrapper.index())).filter(|&inner| inner != NONE).map(ServiceIndex)
    }

    /// Whether a definition counts in this stage: not limited to others, not replaced, no second of its id.
    pub fn is_active(&self, service: ServiceIndex) -> bool {
        self.active.get(service.index())
    }

    /// Whether a definition can be built: active, no alias, no template.
    pub fn is_built(&self, service: ServiceIndex) -> bool {
        self.built.get(service.index())
    }

    /// Second definitions of one id: first the one that counts, then the one that does not.
    pub fn duplicates(&self) -> &[(ServiceIndex, ServiceIndex)] {
        &self.duplicates
    }
}
