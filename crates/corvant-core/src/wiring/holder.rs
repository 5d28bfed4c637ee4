//! What has needs: services, entries and providers, numbered through in that order. Nodes of graphs begin with them.

use super::{ServiceIndex, Wiring};
use crate::index::{EntryIndex, Node, ProviderIndex};
use std::ops::Range;

/// Something that has needs.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Holder {
    /// A service.
    Service(ServiceIndex),
    /// An entry, by its number in the facts.
    Entry(EntryIndex),
    /// A provider, by its number in the facts.
    Provider(ProviderIndex),
}

impl Wiring {
    /// How many there are.
    pub(crate) fn holder_count(&self) -> u32 {
        (self.facts.services.len() + self.facts.entries.len() + self.facts.providers.len()) as u32
    }

    /// What has a number; `None`: nothing that has needs.
    pub(crate) fn holder(&self, node: Node) -> Option<Holder> {
        let entry = self.facts.services.len() as u32;
        let provider = entry + self.facts.entries.len() as u32;
        let Node(number) = node;
        match number {
            _ if number < entry => Some(Holder::Service(ServiceIndex(number))),
            _ if number < provider => Some(Holder::Entry(EntryIndex(number - entry))),
            _ if number < self.holder_count() => Some(Holder::Provider(ProviderIndex(number - provider))),
            _ => None,
        }
    }

    /// The number of a provider, by its number in the facts.
    pub(crate) fn provider_holder(&self, provider: usize) -> Node {
        Node::new(self.facts.services.len() + self.facts.entries.len() + provider)
    }
}

/// The needs of what has a number: their ranges in the facts. A provider has those of two phases.
pub(crate) fn needs_of(wiring: &Wiring, node: Node) -> [Range<usize>; 2] {
    let facts = &wiring.facts;
    match wiring.holder(node) {
        Some(Holder::Service(service)) => [wiring.service(service).needs.range(), 0..0],
        Some(Holder::Entry(entry)) => [facts.entries[entry.index()].needs.range(), 0..0],
        Some(Holder::Provider(provider)) => {
            let provider = &facts.providers[provider.index()];
            [provider.register.range(), provider.start.range()]
        }
        None => [0..0, 0..0],
    }
}
