//! From ids to definitions: stages, overrides, wrappers and aliases.

use crate::facts::Service;
use crate::name::Name;
use crate::wiring::{SameId, ServiceIndex, Wiring};

const NONE: u32 = u32::MAX;

/// Which definition every id leads to in one stage.
#[derive(Debug)]
pub struct Ids {
    active: Vec<bool>,
    built: Vec<bool>,
    /// By name: the definition that its id leads to first (an alias, a replacement, the outermost wrapper).
    first: Vec<u32>,
    /// By service: the wrapper that stands in its place.
    wrapper: Vec<u32>,
    /// By service: what it wraps.
    wrapped: Vec<u32>,
    /// By service: what it is in the end, after aliases and wrappers; `NONE` where aliases run in a ring.
    last: Vec<u32>,
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

impl Ids {
    /// Works out all ids of a stage.
    pub fn new(wiring: &Wiring, stage: Option<Name>) -> Self {
        let services = &wiring.facts.services;
        let in_stage = |service: &Service| {
            let stages = service.stages.of(&wiring.facts.named);
            stages.is_empty() || stages.iter().any(|limit| Some(limit.name) == stage)
        };
        let mut ids = Self {
            active: services.iter().map(in_stage).collect(),
            built: Vec::new(),
            first: vec![NONE; wiring.names.bound()],
            wrapper: Vec::new(),
            wrapped: Vec::new(),
            last: Vec::new(),
            duplicates: Vec::new(),
        };
        ids.define(wiring);
        ids.replace(wiring);
        ids.wrap(wiring);
        ids.follow(wiring);
        // What wraps itself, over however many others, is a finding and cannot be built.
        let is_built = |(service, (active, last)): (&Service, (&bool, &u32))| {
            *active && *last != NONE && service.alias_of.is_none() && !service.template
        };
        ids.built = services.iter().zip(ids.active.iter().zip(&ids.last)).map(is_built).collect();
        ids
    }

    fn define(&mut self, wiring: &Wiring) {
        for (index, service) in wiring.services() {
            let overrides_itself = service.replaces.is_some_and(|id| id.name == service.id.name);
            if !self.active[index.index()] || overrides_itself {
                continue;
            }
            let first = &mut self.first[service.id.name.index()];
            if *first == NONE {
                *first = index.0;
            } else if wiring.policy.same_id == SameId::Last {
                self.duplicates.push((index, ServiceIndex(*first)));
                self.active[*first as usize] = false;
                *first = index.0;
            } else {
                self.duplicates.push((ServiceIndex(*first), index));
                self.active[index.index()] = false;
            }
        }
    }

    fn replace(&mut self, wiring: &Wiring) {
        for (index, service) in wiring.services() {
            let Some(replaced) = service.replaces.filter(|_| self.active[index.index()]) else { continue };
            let first = &mut self.first[replaced.name.index()];
            if *first != NONE && *first != index.0 {
                self.active[*first as usize] = false;
            }
            *first = index.0;
        }
    }

    fn wrap(&mut self, wiring: &Wiring) {
        self.wrapper = vec![NONE; self.active.len()];
        self.wrapped = vec![NONE; self.active.len()];
        for (index, service) in wiring.services() {
            let Some(wrapped) = service.wraps.filter(|_| self.active[index.index()]) else { continue };
            let first = &mut self.first[wrapped.name.index()];
            if *first != NONE && *first != index.0 {
                self.wrapped[index.index()] = *first;
                self.wrapper[*first as usize] = index.0;
                *first = index.0;
            }
        }
    }

    /// Follows aliases and wrappers to their ends; every definition is visited once.
    fn follow(&mut self, wiring: &Wiring) {
        const UNSEEN: u32 = u32::MAX - 1;
        self.last = vec![UNSEEN; self.active.len()];
        let mut line = Vec::new();
        for start in 0..self.active.len() as u32 {
            let mut at = start;
            let end = loop {
                if at == NONE || self.last[at as usize] != UNSEEN {
                    break if at == NONE { NONE } else { self.last[at as usize] };
                }
                self.last[at as usize] = NONE; // In a ring, this is what it stays.
                line.push(at);
                match self.next(wiring, at) {
                    Some(next) => at = next,
                    None => break at,
                }
            };
            for member in line.drain(..) {
                self.last[member as usize] = end;
            }
        }
    }

    /// The definition one step nearer to what is built, or `NONE` behind an alias of nothing; `None` at the end.
    fn next(&self, wiring: &Wiring, at: u32) -> Option<u32> {
        match wiring.facts.services[at as usize].alias_of {
            Some(target) => Some(self.first[target.name.index()]),
            None => Some(self.wrapper[at as usize]).filter(|&wrapper| wrapper != NONE),
        }
    }

    /// Where an id leads.
    pub fn lead(&self, wiring: &Wiring, id: Name) -> Lead {
        match self.first[id.index()] {
            NONE => Lead::Undefined,
            first => match self.last[first as usize] {
                NONE => Lead::Nowhere,
                last if wiring.facts.services[last as usize].template => Lead::Template(ServiceIndex(last)),
                last => Lead::Service(ServiceIndex(last)),
            },
        }
    }

    /// Whether any active definition has the id.
    pub fn is_defined(&self, id: Name) -> bool {
        self.first[id.index()] != NONE
    }

    /// The definition that an id leads to first, before aliases and wrappers are followed.
    pub fn first(&self, id: Name) -> Option<ServiceIndex> {
        Some(self.first[id.index()]).filter(|&first| first != NONE).map(ServiceIndex)
    }

    /// The service that is handed out where this one would be: its outermost wrapper, or itself.
    pub fn stand_in(&self, service: ServiceIndex) -> ServiceIndex {
        Some(self.last[service.index()]).filter(|&last| last != NONE).map_or(service, ServiceIndex)
    }

    /// What a wrapper wraps.
    pub fn wrapped(&self, wrapper: ServiceIndex) -> Option<ServiceIndex> {
        Some(self.wrapped[wrapper.index()]).filter(|&inner| inner != NONE).map(ServiceIndex)
    }

    /// Whether a definition counts in this stage: not limited to others, not replaced, no second of its id.
    pub fn is_active(&self, service: ServiceIndex) -> bool {
        self.active[service.index()]
    }

    /// Whether a definition can be built: active, no alias, no template.
    pub fn is_built(&self, service: ServiceIndex) -> bool {
        self.built[service.index()]
    }

    /// Second definitions of one id: first the one that counts, then the one that does not.
    pub fn duplicates(&self) -> &[(ServiceIndex, ServiceIndex)] {
        &self.duplicates
    }
}
