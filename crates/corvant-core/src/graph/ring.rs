//! The shortest ring in a knot.

use super::{Edge, Graph, Node};
use foldhash::{HashMap, HashMapExt, HashSet};

/// A ring: each node with the edge that leads to the next; the last leads to the first.
pub type Ring = Vec<(Node, Edge)>;

/// How many edges a search for a shortest ring looks at. Knots of up to some thousand members are searched
/// whole; in larger ones the ring that is found may not be the shortest.
const WORK: usize = 8_000_000;

/// A shortest ring within a knot over the edges that `keep` accepts; of several, that which holds the member
/// that comes first in `members`. Breadth-first from each member, never deeper than the best ring so far.
///
/// Returns the ring, beginning at one of its members, and whether it is certainly a shortest one.
pub fn shortest_ring(graph: &Graph, members: &[Node], keep: impl Fn(Node, Edge) -> bool) -> (Ring, bool) {
    let inside: HashSet<Node> = members.iter().copied().collect();
    let mut best: Ring = Vec::new();
    let mut work = WORK;
    for (done, &start) in members.iter().enumerate() {
        let limit = if best.is_empty() { usize::MAX } else { best.len() - 1 };
        if let Some(ring) = ring_through(graph, start, limit, &mut work, |from, edge| {
            inside.contains(&edge.node) && keep(from, edge)
        }) {
            best = ring;
        }
        if best.len() == 1 || (work == 0 && !best.is_empty()) {
            return (best, work > 0 || done + 1 == members.len());
        }
    }
    (best, true)
}

/// A shortest ring through `start` of at most `limit` nodes. Once there is a ring, work counts.
fn ring_through(
    graph: &Graph,
    start: Node,
    limit: usize,
    work: &mut usize,
    keep: impl Fn(Node, Edge) -> bool,
) -> Option<Ring> {
    let mut came_from: HashMap<Node, (Node, Edge)> = HashMap::new();
    let mut level = vec![start];
    for _ in 0..limit {
        let mut next = Vec::new();
        for &node in &level {
            for &edge in graph.needs(node) {
                *work = work.saturating_sub(1);
                if !keep(node, edge) {
                    continue;
                }
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

fn path_to(start: Node, end: Node, last: Edge, came_from: &HashMap<Node, (Node, Edge)>) -> Ring {
    let mut ring = vec![(end, last)];
    let mut at = end;
    while at != start {
        let (before, edge) = came_from[&at];
        ring.push((before, edge));
        at = before;
    }
    ring.reverse();
    ring
}
