//! Which edges open a cycle group.

use super::cycle_group::CycleGroup;
use super::{Edge, Graph, Node};

/// Edges whose absence leaves no cycle in a cycle group.
#[derive(Debug)]
pub(crate) struct Openings {
    /// The edges, each with the node it leaves.
    pub(crate) edges: Vec<(Node, Edge)>,
    /// Whether each of them opens the cycle group alone, or all of them are needed.
    pub(crate) each_alone: bool,
    /// Whether there are certainly no fewer that do.
    pub(crate) fewest: bool,
}

/// Cycle groups with more edges than this are left to the heuristic.
const SMALL: usize = 5_000;
/// Sets of more edges than this are not searched for exactly.
const MOST: usize = 6;
/// How many edges the exact search looks at before the heuristic takes over.
const WORK: usize = 20_000_000;

/// The smallest set of edges that opens a cycle group, and of several such the one of the least cost; for an edge that
/// opens it alone, all edges of the same least cost that do.
///
/// `cost` says what it costs to open an edge; `None`: it cannot be opened. Exact for small cycle groups: cycles are
/// looked for in what is left, and one edge of each must go (a bounded search tree). For large ones, and where
/// that takes too long, by P. Eades, X. Lin and W. F. Smyth's heuristic (1993) in time that grows with the
/// edges, after which edges are put back where that leaves no cycle. `None` where the cycle group cannot be opened.
pub(crate) fn openings(
    graph: &Graph,
    members: &[Node],
    keep: impl Fn(Node, Edge) -> bool,
    cost: impl Fn(Edge) -> Option<u32>,
) -> Option<Openings> {
    let cycle_group = CycleGroup::new(graph, members, keep);
    let costs: Vec<Option<u32>> = cycle_group.edges.iter().map(|&edge| cost(edge)).collect();
    let named = |edges: &[usize]| -> Vec<(Node, Edge)> {
        let pair =
            |&edge: &usize| (cycle_group.nodes[cycle_group.from[edge] as usize], cycle_group.edges[edge]);
        edges.iter().map(pair).collect()
    };
    let mut search = OpeningSearch {
        removed: vec![false; cycle_group.edges.len()],
        cycle_group: &cycle_group,
        costs: &costs,
        work: WORK,
        best: None,
    };
    if cycle_group.edges.len() <= SMALL {
        let alone = search.alone();
        if !alone.is_empty() {
            return Some(Openings { edges: named(&alone), each_alone: true, fewest: true });
        }
        for size in 2..=MOST {
            search.together(size, &mut Vec::new());
            // With work left, all smaller sets were tried.
            if search.best.is_some() || search.work == 0 {
                break;
            }
        }
        if let Some((_, edges)) = &search.best {
            return Some(Openings { edges: named(edges), each_alone: false, fewest: search.work > 0 });
        }
    }
    let edges = backward_edges(&cycle_group, &costs)?;
    Some(Openings { edges: named(&edges), each_alone: false, fewest: false })
}

struct OpeningSearch<'a> {
    cycle_group: &'a CycleGroup,
    costs: &'a [Option<u32>],
    removed: Vec<bool>,
    work: usize,
    /// The cost and edges of the cheapest set of the size that is looked for.
    best: Option<(u32, Vec<usize>)>,
}

impl OpeningSearch<'_> {
    /// The edges that open the cycle group alone, of the least cost. Each of them is on every cycle.
    fn alone(&mut self) -> Vec<usize> {
        let cycle = self.cycle_group.short_cycle(&self.removed);
        let mut alone: Vec<usize> = cycle.into_iter().filter(|&edge| self.costs[edge].is_some()).collect();
        alone.retain(|&edge| {
            self.removed[edge] = true;
            let is_open = self.cycle_group.is_open(&self.removed);
            self.removed[edge] = false;
            is_open
        });
        let least = alone.iter().filter_map(|&edge| self.costs[edge]).min();
        alone.retain(|&edge| self.costs[edge] == least);
        alone
    }

    /// Looks for the cheapest set of at most `size` edges beside those that are `chosen`. As deep as `size`.
    fn together(&mut self, size: usize, chosen: &mut Vec<usize>) {
        let cycle = self.cycle_group.short_cycle(&self.removed);
        self.work = self.work.saturating_sub(2 * self.cycle_group.edges.len());
        if cycle.is_empty() {
            let cost = chosen.iter().filter_map(|&edge| self.costs[edge]).sum();
            if self.best.as_ref().is_none_or(|(best, _)| cost < *best) {
                self.best = Some((cost, chosen.clone()));
            }
            return;
        }
        if size == 0 || self.work == 0 {
            return;
        }
        let mut candidates: Vec<usize> =
            cycle.into_iter().filter(|&edge| self.costs[edge].is_some()).collect();
        candidates.sort_by_key(|&edge| self.costs[edge]);
        for edge in candidates {
            self.removed[edge] = true;
            chosen.push(edge);
            self.together(size - 1, chosen);
            chosen.pop();
            self.removed[edge] = false;
        }
    }
}

/// Edges that lead backward in an order of the nodes with few of them; those that cannot be opened are opened
/// by all edges that lead to where they begin. Fewer, where putting one back leaves no cycle.
fn backward_edges(cycle_group: &CycleGroup, costs: &[Option<u32>]) -> Option<Vec<usize>> {
    let place = order(cycle_group);
    let mut removed = vec![false; cycle_group.edges.len()];
    for edge in 0..cycle_group.edges.len() {
        let (from, to) = (cycle_group.from[edge], cycle_group.to[edge]);
        if place[from as usize] < place[to as usize] {
            continue;
        }
        if costs[edge].is_some() {
            removed[edge] = true;
            continue;
        }
        for leading in (0..cycle_group.edges.len()).filter(|&leading| cycle_group.to[leading] == from) {
            costs[leading]?;
            removed[leading] = true;
        }
    }
    let mut edges: Vec<usize> = (0..cycle_group.edges.len()).filter(|&edge| removed[edge]).collect();
    if edges.len().saturating_mul(cycle_group.edges.len()) <= WORK {
        // The dearest first: what is cheap to open stays open.
        let mut tried = edges.clone();
        tried.sort_by_key(|&edge| std::cmp::Reverse(costs[edge]));
        for edge in tried {
            removed[edge] = false;
            removed[edge] = !cycle_group.is_open(&removed);
        }
        edges.retain(|&edge| removed[edge]);
    }
    Some(edges)
}

/// By node its place in an order in which few edges lead backward: sinks go last, sources first, and of the
/// rest the one that most more edges leave than enter comes next.
fn order(cycle_group: &CycleGroup) -> Vec<u32> {
    let count = cycle_group.nodes.len();
    let mut entering: Vec<Vec<u32>> = vec![Vec::new(); count];
    let (mut indegree, mut outdegree) = (vec![0_i32; count], vec![0_i32; count]);
    for (&from, &to) in cycle_group.from.iter().zip(&cycle_group.to).filter(|(from, to)| from != to) {
        entering[to as usize].push(from);
        indegree[to as usize] += 1;
        outdegree[from as usize] += 1;
    }
    // Buckets by how many more edges leave than enter. A node that has moved on is passed over where it was.
    let excess = |node: usize, indegree: &[i32], outdegree: &[i32]| match (indegree[node], outdegree[node]) {
        (_, 0) => -i32::MAX,
        (0, _) => i32::MAX,
        (entering, leaving) => leaving - entering,
    };
    let mut waiting: std::collections::BTreeSet<(i32, std::cmp::Reverse<usize>)> =
        (0..count).map(|node| (excess(node, &indegree, &outdegree), std::cmp::Reverse(node))).collect();
    let mut place = vec![0; count];
    let (mut first, mut last) = (0, count as u32);
    while let Some(&next) = waiting.first().filter(|next| next.0 == -i32::MAX).or(waiting.last()) {
        waiting.remove(&next);
        let node = next.1.0;
        if next.0 == -i32::MAX {
            last -= 1;
            place[node] = last;
        } else {
            place[node] = first;
            first += 1;
        }
        let leaving = cycle_group.leaving(node as u32).map(|edge| cycle_group.to[edge]);
        let neighbours = leaving.map(|to| (to, true)).chain(entering[node].iter().map(|&from| (from, false)));
        for (other, enters) in neighbours.collect::<Vec<_>>() {
            let other = other as usize;
            let known = (excess(other, &indegree, &outdegree), std::cmp::Reverse(other));
            if other == node || !waiting.remove(&known) {
                continue;
            }
            let degree = if enters { &mut indegree[other] } else { &mut outdegree[other] };
            *degree -= 1;
            waiting.insert((excess(other, &indegree, &outdegree), std::cmp::Reverse(other)));
        }
    }
    place
}
