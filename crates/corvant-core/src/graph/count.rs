//! How many cycles a cycle group holds.

use super::cycle_group::CycleGroup;
use super::{Edge, Graph, Node};

/// How many cycles there are.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Cycles {
    /// Exactly so many.
    Exactly(usize),
    /// More than so many.
    MoreThan(usize),
    /// The cycle group is too large, or too dense, to count them.
    Uncounted,
}

/// More cycles than this are not counted.
const MOST: usize = 1_000;
/// How many steps are taken to count them.
const WORK: usize = 2_000_000;
/// Cycle groups of more edges are not counted.
const SMALL: usize = 5_000;

/// Counts the cycles of a cycle group over the edges that `keep` accepts; several edges from one node to another are
/// one cycle.
///
/// D. B. Johnson, "Finding all the elementary circuits of a directed graph" (1975), with a stack of its own.
pub(crate) fn count_cycles(graph: &Graph, members: &[Node], keep: impl Fn(Node, Edge) -> bool) -> Cycles {
    let cycle_group = CycleGroup::new(graph, members, keep);
    if cycle_group.edges.len() > SMALL {
        return Cycles::Uncounted;
    }
    let successors: Vec<Vec<u32>> = (0..cycle_group.nodes.len() as u32)
        .map(|node| {
            let mut to: Vec<u32> = cycle_group.leaving(node).map(|edge| cycle_group.to[edge]).collect();
            to.sort_unstable();
            to.dedup();
            to
        })
        .collect();
    let mut search = CycleCounter {
        blocked: vec![false; successors.len()],
        waiting: vec![Vec::new(); successors.len()],
        successors,
        work: WORK,
    };
    let mut count = 0;
    for start in 0..search.successors.len() as u32 {
        count += search.from(start, MOST - count);
        if count >= MOST {
            return Cycles::MoreThan(MOST);
        }
        if search.work == 0 {
            return Cycles::Uncounted;
        }
    }
    Cycles::Exactly(count)
}

struct CycleCounter {
    successors: Vec<Vec<u32>>,
    blocked: Vec<bool>,
    /// By node those that are freed when it is.
    waiting: Vec<Vec<u32>>,
    work: usize,
}

struct Visit {
    node: u32,
    next: usize,
    has_cycle: bool,
}

impl CycleCounter {
    /// How many cycles have `start` as their first node, up to `most`.
    fn from(&mut self, start: u32, most: usize) -> usize {
        self.blocked.fill(false);
        self.waiting.iter_mut().for_each(Vec::clear);
        let mut count = 0;
        let mut path = vec![Visit { node: start, next: 0, has_cycle: false }];
        self.blocked[start as usize] = true;
        while let Some(step) = path.last_mut() {
            self.work = self.work.saturating_sub(1);
            if count == most || self.work == 0 {
                break;
            }
            if let Some(&to) = self.successors[step.node as usize].get(step.next) {
                step.next += 1;
                if to == start {
                    step.has_cycle = true;
                    count += 1;
                } else if to > start && !self.blocked[to as usize] {
                    self.blocked[to as usize] = true;
                    path.push(Visit { node: to, next: 0, has_cycle: false });
                }
                continue;
            }
            let Some(Visit { node, has_cycle, .. }) = path.pop() else { break };
            if has_cycle {
                self.free(node);
                if let Some(before) = path.last_mut() {
                    before.has_cycle = true;
                }
            } else {
                for to in self.successors[node as usize].iter().filter(|&&to| to > start) {
                    let waiting = &mut self.waiting[*to as usize];
                    if !waiting.contains(&node) {
                        waiting.push(node);
                    }
                }
            }
        }
        count
    }

    fn free(&mut self, node: u32) {
        let mut free = vec![node];
        while let Some(node) = free.pop() {
            if std::mem::replace(&mut self.blocked[node as usize], false) {
                free.append(&mut self.waiting[node as usize]);
            }
        }
    }
}
