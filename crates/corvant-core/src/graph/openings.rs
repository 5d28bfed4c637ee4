//! Which edges open a knot.

use super::ring::shortest_ring;
use super::{Edge, Graph, Node, Ring};
use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};

/// Edges whose absence leaves no ring in a knot.
#[derive(Debug)]
pub struct Openings {
    /// The edges, each with the node it leaves.
    pub edges: Vec<(Node, Edge)>,
    /// Whether each of them opens the knot alone, or all of them are needed.
    pub each_alone: bool,
}

/// Knots with more edges than this are not searched: every trial looks at all of them.
const LARGEST: usize = 5_000;
/// More openings than this are no advice.
const MOST: usize = 6;

/// Needs on the given ring that open the whole knot alone; if there are none, some that open it together:
/// from one shortest ring after another the need that most others of the knot lead to (a greedy choice, not
/// always the fewest). `None` for knots too large to try.
pub fn openings(
    graph: &Graph,
    knot: &[Node],
    ring: &Ring,
    keep: impl Fn(Node, Edge) -> bool + Copy,
) -> Option<Openings> {
    let edges: usize = knot.iter().map(|&node| graph.needs(node).len()).sum();
    if edges > LARGEST {
        return None;
    }
    let mut removed = HashSet::new();
    let mut alone = Vec::new();
    for &(node, edge) in ring {
        let Some(need) = edge.need() else { continue };
        removed.insert((node, need));
        if is_open(graph, knot, &removed, keep) {
            alone.push((node, edge));
        }
        removed.clear();
    }
    if !alone.is_empty() {
        return Some(Openings { edges: alone, each_alone: true });
    }
    let mut chosen = Vec::new();
    while chosen.len() < MOST {
        let left = |node: Node, edge: Edge| {
            keep(node, edge) && edge.need().is_none_or(|need| !removed.contains(&(node, need)))
        };
        let (ring, _) = shortest_ring(graph, knot, left);
        if ring.is_empty() {
            return Some(Openings { edges: chosen, each_alone: false });
        }
        let users = |&(_, edge): &&(Node, Edge)| graph.needed_by(edge.node).len();
        let &(node, edge) = ring.iter().filter(|(_, edge)| edge.need().is_some()).max_by_key(users)?;
        removed.insert((node, edge.need()?));
        chosen.push((node, edge));
    }
    None
}

/// Whether a knot without some edges holds no ring: nodes that nothing left leads to are taken away until
/// none is left (A. B. Kahn, 1962).
fn is_open(
    graph: &Graph,
    knot: &[Node],
    removed: &HashSet<(Node, crate::wiring::NeedIndex)>,
    keep: impl Fn(Node, Edge) -> bool,
) -> bool {
    let mut leading: HashMap<Node, usize> = HashMap::with_capacity(knot.len());
    leading.extend(knot.iter().map(|&node| (node, 0)));
    let left = |node: Node, edge: Edge| {
        keep(node, edge) && edge.need().is_none_or(|need| !removed.contains(&(node, need)))
    };
    for &node in knot {
        for edge in graph.needs(node).iter().filter(|&&edge| left(node, edge)) {
            leading.entry(edge.node).and_modify(|count| *count += 1);
        }
    }
    let mut free: Vec<Node> = knot.iter().copied().filter(|node| leading[node] == 0).collect();
    let mut gone = 0;
    while let Some(node) = free.pop() {
        gone += 1;
        for edge in graph.needs(node).iter().filter(|&&edge| left(node, edge)) {
            if let Some(count) = leading.get_mut(&edge.node) {
                *count -= 1;
                if *count == 0 {
                    free.push(edge.node);
                }
            }
        }
    }
    gone == knot.len()
}
