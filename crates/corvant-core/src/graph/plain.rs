//! Knots and rings of small graphs that are not the graph of needs: modules, settings, aliases, providers.

use std::collections::VecDeque;

/// A graph by numbers: for each node those it leads to.
pub type Plain = Vec<Vec<u32>>;

/// In knots of more nodes than this, rings are searched from a few nodes only.
const LARGE: usize = 500;
const FEW: usize = 4;

/// One shortest ring of each knot (in very large knots: a short one), beginning at its smallest node, and how many
/// nodes the knot has; the knots by their smallest nodes. Of several shortest rings the first by its nodes, where
/// each node's are in order.
pub fn rings(graph: &Plain) -> Vec<(Vec<u32>, usize)> {
    let mut rings = Vec::new();
    for knot in knots(graph) {
        let starts = if knot.len() > LARGE { FEW } else { knot.len() };
        let shortest = knot.iter().take(starts).filter_map(|&start| ring_through(graph, &knot, start));
        if let Some(mut ring) = shortest.min_by_key(Vec::len) {
            let smallest = ring.iter().enumerate().min_by_key(|(_, node)| **node).map_or(0, |(at, _)| at);
            ring.rotate_left(smallest);
            rings.push((ring, knot.len()));
        }
    }
    rings
}

/// The knots of a graph, smallest nodes first: S. R. Kosaraju's two searches (1978), with stacks of their own.
pub(crate) fn knots(graph: &Plain) -> Vec<Vec<u32>> {
    let mut order = Vec::with_capacity(graph.len());
    let mut seen = vec![false; graph.len()];
    for root in 0..graph.len() as u32 {
        let mut path = vec![(root, 0)];
        while let Some((node, next)) = path.last_mut() {
            if *next == 0 && std::mem::replace(&mut seen[*node as usize], true) {
                path.pop();
                continue;
            }
            if let Some(&to) = graph[*node as usize].get(*next) {
                *next += 1;
                if !seen[to as usize] {
                    path.push((to, 0));
                }
            } else {
                order.push(*node);
                path.pop();
            }
        }
    }
    let mut back: Plain = vec![Vec::new(); graph.len()];
    for (from, tos) in graph.iter().enumerate() {
        for &to in tos {
            back[to as usize].push(from as u32);
        }
    }
    let mut knots = Vec::new();
    let mut taken = vec![false; graph.len()];
    for &root in order.iter().rev() {
        let mut knot = Vec::new();
        let mut waiting = vec![root];
        while let Some(node) = waiting.pop() {
            if !std::mem::replace(&mut taken[node as usize], true) {
                knot.push(node);
                waiting.extend(&back[node as usize]);
            }
        }
        if knot.len() > 1 || graph[root as usize].contains(&root) && !knot.is_empty() {
            knot.sort_unstable();
            knots.push(knot);
        }
    }
    knots.sort_unstable();
    knots
}

/// A shortest ring through a node, within its knot.
fn ring_through(graph: &Plain, knot: &[u32], start: u32) -> Option<Vec<u32>> {
    let position = |node: u32| knot.binary_search(&node).ok();
    let mut came_from: Vec<Option<u32>> = vec![None; knot.len()];
    let mut waiting = VecDeque::from([start]);
    while let Some(node) = waiting.pop_front() {
        for &to in &graph[node as usize] {
            let Some(at) = position(to) else { continue };
            if to == start {
                let before = |&node: &u32| if node == start { None } else { came_from[position(node)?] };
                let mut ring: Vec<u32> = std::iter::successors(Some(node), before).collect();
                ring.reverse();
                return Some(ring);
            }
            if came_from[at].is_none() {
                came_from[at] = Some(node);
                waiting.push_back(to);
            }
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// A graph out of words such as `0:1,2`: each node with those it leads to.
    fn graph(text: &str) -> Plain {
        let mut graph: Plain = Vec::new();
        for word in text.split_whitespace() {
            let (_, to) = word.split_once(':').unwrap();
            graph.push(to.split(',').filter(|to| !to.is_empty()).map(|to| to.parse().unwrap()).collect());
        }
        graph
    }

    #[rstest]
    #[case::nothing("0: 1:", "[]")]
    #[case::itself("0:0", "[([0], 1)]")]
    #[case::line("0:1 1:2 2:", "[]")]
    #[case::ring("0:1 1:2 2:0", "[([0, 1, 2], 3)]")]
    #[case::shorter_inside("0:1 1:2,0 2:0", "[([0, 1], 3)]")]
    #[case::two_knots("0:1 1:0 2:3 3:2,0", "[([0, 1], 2), ([2, 3], 2)]")]
    #[case::one_leads_to_itself("0:1 1:1", "[([1], 1)]")]
    #[case::found_late("0:2 1:0 2:1,3 3:", "[([0, 2, 1], 3)]")]
    fn each_knot_gives_its_shortest_ring(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(format!("{:?}", rings(&graph(text))), expected);
    }

    #[test]
    fn a_large_ring_is_found() {
        let count = 100_000;
        let ring: Plain = (0..count).map(|node| vec![(node + 1) % count]).collect();
        let found = rings(&ring);
        assert_eq!((found.len(), found[0].0.len()), (1, count as usize));
    }

    #[test]
    fn depth_does_not_matter() {
        let count = 200_000;
        let line: Plain =
            (0..count).map(|node| if node + 1 < count { vec![node + 1] } else { vec![] }).collect();
        assert_eq!(rings(&line), []);
    }
}
