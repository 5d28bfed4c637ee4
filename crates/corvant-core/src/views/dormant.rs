//! What disabled modules have: it counts for nothing, and explains why something is missing.

use crate::facts::Named;
use crate::name::Name;
use crate::source::SourceIndex;
use crate::wiring::Wiring;
use foldhash::HashMap;

/// Kinds of things that are looked up by name.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(crate) enum DormantKind {
    /// A service, by its id.
    Service,
    /// A service, by a contract it offers.
    Offer,
    /// A setting.
    Setting,
    /// A provider.
    Provider,
}

/// What disabled modules have, and where they are disabled.
#[derive(Debug)]
pub(crate) struct Dormant {
    /// By kind and name where the first of them is defined.
    known: HashMap<(DormantKind, Name), (SourceIndex, Named)>,
    /// By module.
    disabled: HashMap<Name, Vec<(SourceIndex, Named)>>,
}

impl Dormant {
    pub(crate) fn new(wiring: &Wiring) -> Self {
        let facts = &wiring.dormant;
        let mut known = HashMap::default();
        let mut add = |kind, name: Name, source, named| {
            known.entry((kind, name)).or_insert((source, named));
        };
        for service in &facts.services {
            add(DormantKind::Service, service.id.name, service.source, service.id);
            for offer in service.offers.of(&facts.parts) {
                add(DormantKind::Offer, offer.name, service.source, service.id);
            }
        }
        for setting in &facts.settings {
            add(DormantKind::Setting, setting.setting.name, setting.source, setting.setting);
        }
        for provider in &facts.providers {
            add(DormantKind::Provider, provider.id.name, provider.source, provider.id);
        }
        let mut disabled: HashMap<Name, Vec<_>> = HashMap::default();
        for &(source, module) in &wiring.facts.disabled {
            disabled.entry(module.name).or_default().push((source, module));
        }
        Self { known, disabled }
    }

    pub(super) fn find(&self, kind: DormantKind, name: Name) -> Option<(SourceIndex, Named)> {
        self.known.get(&(kind, name)).copied()
    }

    /// Where a module is disabled.
    pub(super) fn disabled(&self, module: Name) -> &[(SourceIndex, Named)] {
        self.disabled.get(&module).map_or(&[], Vec::as_slice)
    }
}
