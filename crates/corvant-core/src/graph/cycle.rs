//! The shortest cycle in a cycle group.

use super::{Edge, Graph, Node};
use foldhash::{HashMap, HashMapExt};

/// A cycle: each node with the edge that leads to the next; the last leads to the first.
pub(crate) type Cycle = Vec<(Node, Edge)>;

/// How many edges a search for a shortest cycle looks at. Cycle groups of up to some thousand members are searched
/// whole; in larger ones the cycle that is found may not be the shortest.
const WORK: usize = 8_000_000;

/// A shortest cycle within a cycle group over the edges that `keep` accepts; of several the first by the order of
/// `members`, beginning at its first member that `begins` accepts: every cycle has one. Breadth-first from each of
/// these, never deeper than the best cycle so far.
///
/// Returns the cycle, beginning so, and whether it is certainly a shortest one.
pub(crate) fn shortest_cycle(
    graph: &Graph,
    members: &[Node],
    begins: impl Fn(Node) -> bool,
    keep: impl Fn(Node, Edge) -> bool,
) -> (Cycle, bool) {
    let order: HashMap<Node, usize> = members.iter().enumerate().map(|(at, &node)| (node, at)).collect();
    let is_kept = |from: Node, edge: Edge| order.contains_key(&edge.node) && keep(from, edge);
    let (mut best, mut is_certain) = (None, true);
    let mut work = WORK;
    for start in members.iter().copied().filter(|&start| begins(start)) {
        let limit = best.map_or(usize::MAX, |(_, length)| length - 1);
        let cycle = cycle_through(graph, start, limit, &mut work, |node, edges| {
            edges.extend(graph.needs(node).iter().filter(|&&edge| is_kept(node, edge)));
        });
        best = cycle.map(|cycle| (start, cycle.len())).or(best);
        if best.is_some_and(|(_, length)| length == 1) {
            break;
        }
        if work == 0 && best.is_some() {
            is_certain = false;
            break;
        }
    }
    // Once more through the best start, with what each node needs in order: the first cycle is then the first by
    // the order of its members.
    let in_order = |node: Node, edges: &mut Vec<Edge>| {
        edges.extend(graph.needs(node).iter().filter(|&&edge| is_kept(node, edge)));
        edges.sort_by_key(|edge| order[&edge.node]);
    };
    let cycle = best.and_then(|(start, _)| cycle_through(graph, start, usize::MAX, &mut { WORK }, in_order));
    (cycle.unwrap_or_default(), is_certain)
}

/// A shortest cycle through `start` of at most `limit` nodes. Once there is a cycle, work counts.
fn cycle_through(
    graph: &Graph,
    start: Node,
    limit: usize,
    work: &mut usize,
    next_of: impl Fn(Node, &mut Vec<Edge>),
) -> Option<Cycle> {
    let mut came_from: HashMap<Node, (Node, Edge)> = HashMap::new();
    let (mut level, mut edges) = (vec![start], Vec::new());
    for _ in 0..limit {
        let mut next = Vec::new();
        for &node in &level {
            *work = work.saturating_sub(1 + graph.needs(node).len());
            edges.clear();
            next_of(node, &mut edges);
            for &edge in &edges {
                if edge.node == start {
                    return Some(path_to(start, node, edge, &came_from));
                }
                came_from.entry(edge.node).or_insert_with(|| {
                    next.push(edge.node);
                    (node, edge)
                });
            }
            if *work == 0 && limit != usize::MAX {
                return None;
            }
        }
        if next.is_empty() {
            return None;
        }
        level = next;
    }
    None
}

fn path_to(start: Node, end: Node, last: Edge, came_from: &HashMap<Node, (Node, Edge)>) -> Cycle {
    let mut cycle = vec![(end, last)];
    let mut at = end;
    while at != start {
        let (before, edge) = came_from[&at];
        cycle.push((before, edge));
        at = before;
    }
    cycle.reverse();
    cycle
}
