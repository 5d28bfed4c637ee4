//! Reach: what a fault affects, and when it shows.

use crate::index::{EntryIndex, Node, ProviderIndex};

/// What a fault affects.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Reach {
    /// Services that cannot be built or used, those at fault included.
    pub services: u32,
    /// Entries that fail, those at fault included.
    pub entries: u32,
    /// Providers that fail, by number in the facts, while the application starts; the first few.
    pub start_up: Vec<ProviderIndex>,
    /// Entries that fail at first use, by number in the facts; the first few in the order of the facts.
    pub first_entries: Vec<EntryIndex>,
    /// Whether a service is among them that an open standard hands out at run time.
    pub is_handed_out: bool,
    /// Set if the search was cut short: the numbers are then the least there are.
    pub at_least: bool,
}

/// Where a fault begins: a node that has it, and whether it shows while that node is built (or, the other
/// way, only when a lazy need is first used).
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Origin {
    /// The node, by its number in the graph.
    pub node: Node,
    /// Whether building it fails.
    pub while_building: bool,
}
