//! The search for what a fault affects, and when it shows.

use super::{Graph, Node, What};
use crate::finding::{Origin, Reach};
use crate::wiring::Wiring;

/// How many providers and entries are kept by number.
const KEPT: usize = 8;

/// Steps that are enough for a fault that reaches little.
pub(crate) const NEAR: usize = 256;

/// Steps that the searches for all faults of a graph may take together: a small multiple of its size.
pub(crate) fn most_work(graph: &Graph) -> usize {
    1_000_000 + 4 * (graph.len() + graph.edge_count())
}

/// Searches backwards from faults; memory is kept from one search to the next.
#[derive(Debug)]
pub(crate) struct ReachSearch<'a> {
    graph: &'a Graph,
    wiring: &'a Wiring,
    seen: Vec<u32>,
    round: u32,
}

impl<'a> ReachSearch<'a> {
    /// Nothing searched yet.
    pub(crate) fn new(wiring: &'a Wiring, graph: &'a Graph) -> Self {
        Self { graph, wiring, seen: vec![0; graph.len()], round: 0 }
    }

    /// What a fault affects, and how many steps it took to see that: no more than `most`. Where those do not
    /// suffice, the numbers are the least there are.
    pub(crate) fn reach(&mut self, origins: &[Origin], most: usize) -> (Reach, usize) {
        let mut left = most;
        let mut found = Reach::default();
        let mut entries = Vec::new();
        self.round += 1;
        // First all that fails while being built, then all that fails later: a node that is in both fails
        // while being built.
        let (built, later): (Vec<Origin>, Vec<Origin>) =
            origins.iter().partition(|origin| origin.while_building);
        let mut waiting: Vec<Node> = built.iter().map(|origin| origin.node).collect();
        let mut postponed: Vec<Node> = later.iter().map(|origin| origin.node).collect();
        let mut starting = true;
        loop {
            let Some(node) = waiting.pop() else {
                if !starting {
                    break;
                }
                starting = false;
                waiting = std::mem::take(&mut postponed);
                continue;
            };
            if std::mem::replace(&mut self.seen[node.index()], self.round) == self.round {
                continue;
            }
            match self.graph.what(node) {
                What::Service(service) => {
                    found.services += 1;
                    found.is_handed_out |= self.wiring.service(service).of_standard.installed.is_some();
                }
                What::Entry(entry) => entries.push(entry),
                What::Provider(provider) if starting => found.start_up.push(provider),
                What::Provider(_) | What::Tag(_) | What::All(_) | What::Question(_) => {}
            }
            let users = self.graph.needed_by(node);
            if users.len() >= left {
                found.at_least = true;
                break;
            }
            left -= users.len() + 1;
            for edge in users {
                if self.graph.is_question(edge.node) {
                    continue;
                }
                let list = if starting && edge.is_lazy(self.wiring) { &mut postponed } else { &mut waiting };
                list.push(edge.node);
            }
        }
        found.entries = entries.len() as u32;
        found.first_entries = first(entries);
        found.start_up = first(found.start_up);
        (found, most - left)
    }
}

fn first<T: Ord>(mut numbers: Vec<T>) -> Vec<T> {
    numbers.sort_unstable();
    numbers.truncate(KEPT);
    numbers
}
