//! One cycle group by itself: its nodes and edges in flat arrays with small numbers, for searches that look at it
//! over and over.

use super::{Edge, Graph, Node};
use std::ops::Range;

/// A cycle group. Nodes and edges are numbered from 0; edges stand in the order of the nodes they leave.
pub(super) struct CycleGroup {
    pub(super) nodes: Vec<Node>,
    /// By node where its edges begin; one more at the end.
    starts: Vec<usize>,
    pub(super) from: Vec<u32>,
    pub(super) to: Vec<u32>,
    pub(super) edges: Vec<Edge>,
}

impl CycleGroup {
    /// The edges within `members` (in ascending order) that `keep` accepts.
    pub(super) fn new(graph: &Graph, members: &[Node], keep: impl Fn(Node, Edge) -> bool) -> Self {
        let mut nodes = members.to_vec();
        nodes.sort_unstable();
        let mut cycle_group =
            Self { starts: vec![0], from: Vec::new(), to: Vec::new(), edges: Vec::new(), nodes: Vec::new() };
        for (number, &node) in nodes.iter().enumerate() {
            for &edge in graph.needs(node).iter().filter(|&&edge| keep(node, edge)) {
                if let Ok(to) = nodes.binary_search(&edge.node) {
                    cycle_group.from.push(number as u32);
                    cycle_group.to.push(to as u32);
                    cycle_group.edges.push(edge);
                }
            }
            cycle_group.starts.push(cycle_group.edges.len());
        }
        cycle_group.nodes = nodes;
        cycle_group
    }

    /// The numbers of the edges that leave a node.
    pub(super) fn leaving(&self, node: u32) -> Range<usize> {
        self.starts[node as usize]..self.starts[node as usize + 1]
    }

    /// The edges of a short cycle among those that are not `removed`; empty if there is none. Work grows with
    /// the edges: a cycle is found depth first, then the shortest through one of its nodes breadth first.
    pub(super) fn short_cycle(&self, removed: &[bool]) -> Vec<usize> {
        const NEW: u8 = 0;
        const OPEN: u8 = 1;
        const DONE: u8 = 2;
        let mut state = vec![NEW; self.nodes.len()];
        let mut path: Vec<(u32, usize)> = Vec::new();
        for root in 0..self.nodes.len() as u32 {
            if state[root as usize] != NEW {
                continue;
            }
            state[root as usize] = OPEN;
            path.push((root, self.leaving(root).start));
            while let Some((node, next)) = path.last_mut() {
                if *next == self.leaving(*node).end {
                    state[*node as usize] = DONE;
                    path.pop();
                    continue;
                }
                let edge = *next;
                *next += 1;
                let to = self.to[edge];
                match state[to as usize] {
                    _ if removed[edge] => {}
                    OPEN => return self.cycle_through(to, removed),
                    NEW => {
                        state[to as usize] = OPEN;
                        path.push((to, self.leaving(to).start));
                    }
                    _ => {}
                }
            }
        }
        Vec::new()
    }

    fn cycle_through(&self, start: u32, removed: &[bool]) -> Vec<usize> {
        let mut came_by = vec![usize::MAX; self.nodes.len()];
        let mut level = vec![start];
        let mut position = 0;
        while let Some(&node) = level.get(position) {
            position += 1;
            for edge in self.leaving(node).filter(|&edge| !removed[edge]) {
                let to = self.to[edge];
                if to == start {
                    let before = |&edge: &usize| {
                        Some(came_by[self.from[edge] as usize]).filter(|_| self.from[edge] != start)
                    };
                    let mut cycle: Vec<usize> = std::iter::successors(Some(edge), before).collect();
                    cycle.reverse();
                    return cycle;
                }
                if came_by[to as usize] == usize::MAX {
                    came_by[to as usize] = edge;
                    level.push(to);
                }
            }
        }
        Vec::new()
    }

    /// Whether no cycle is left: nodes that nothing left leads to are taken away until none is left (A. B. Kahn,
    /// 1962).
    pub(super) fn is_open(&self, removed: &[bool]) -> bool {
        let mut leading = vec![0_u32; self.nodes.len()];
        let left = |edge: &usize| !removed[*edge];
        for edge in (0..self.to.len()).filter(left) {
            leading[self.to[edge] as usize] += 1;
        }
        let mut free: Vec<u32> =
            (0..self.nodes.len() as u32).filter(|&node| leading[node as usize] == 0).collect();
        let mut gone = 0;
        while let Some(node) = free.pop() {
            gone += 1;
            for edge in self.leaving(node).filter(left) {
                let count = &mut leading[self.to[edge] as usize];
                *count -= 1;
                if *count == 0 {
                    free.push(self.to[edge]);
                }
            }
        }
        gone == self.nodes.len()
    }
}
