//! Cycle groups and cycles of small graphs that are not the graph of needs: modules, settings, aliases, providers.

use super::cycle_groups::{Directed, search};
use std::collections::VecDeque;

/// A graph by numbers: for each node those it leads to.
pub(crate) type Plain = Vec<Vec<u32>>;

/// In cycle groups of more nodes than this, cycles are searched from a few nodes only.
const LARGE: usize = 500;
const FEW: usize = 4;

/// One shortest cycle of each cycle group (in very large cycle groups: a short one), beginning at its smallest node, and how many
/// nodes the cycle group has; the cycle groups by their smallest nodes. Of several shortest cycles the first by its nodes, where
/// each node's are in order.
pub(crate) fn cycles(graph: &Plain) -> Vec<(Vec<u32>, usize)> {
    let mut cycles = Vec::new();
    for cycle_group in cycle_groups(graph) {
        let starts = if cycle_group.len() > LARGE { FEW } else { cycle_group.len() };
        let shortest =
            cycle_group.iter().take(starts).filter_map(|&start| cycle_through(graph, &cycle_group, start));
        if let Some(mut cycle) = shortest.min_by_key(Vec::len) {
            let smallest = cycle.iter().enumerate().min_by_key(|(_, node)| **node).map_or(0, |(at, _)| at);
            cycle.rotate_left(smallest);
            cycles.push((cycle, cycle_group.len()));
        }
    }
    cycles
}

impl Directed for Plain {
    fn len(&self) -> usize {
        self.len()
    }

    fn successors(&self, node: u32) -> impl Iterator<Item = u32> {
        self[node as usize].iter().copied()
    }
}

/// The cycle groups of a graph, smallest nodes first.
pub(crate) fn cycle_groups(graph: &Plain) -> Vec<Vec<u32>> {
    search(graph, 0..graph.len() as u32)
}

/// A shortest cycle through a node, within its cycle group.
fn cycle_through(graph: &Plain, cycle_group: &[u32], start: u32) -> Option<Vec<u32>> {
    let position = |node: u32| cycle_group.binary_search(&node).ok();
    let mut came_from: Vec<Option<u32>> = vec![None; cycle_group.len()];
    let mut waiting = VecDeque::from([start]);
    while let Some(node) = waiting.pop_front() {
        for &to in &graph[node as usize] {
            let Some(at) = position(to) else { continue };
            if to == start {
                let before = |&node: &u32| if node == start { None } else { came_from[position(node)?] };
                let mut cycle: Vec<u32> = std::iter::successors(Some(node), before).collect();
                cycle.reverse();
                return Some(cycle);
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
    #[case::cycle("0:1 1:2 2:0", "[([0, 1, 2], 3)]")]
    #[case::shorter_inside("0:1 1:2,0 2:0", "[([0, 1], 3)]")]
    #[case::two_cycle_groups("0:1 1:0 2:3 3:2,0", "[([0, 1], 2), ([2, 3], 2)]")]
    #[case::one_leads_to_itself("0:1 1:1", "[([1], 1)]")]
    #[case::found_late("0:2 1:0 2:1,3 3:", "[([0, 2, 1], 3)]")]
    fn each_cycle_group_gives_its_shortest_cycle(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(format!("{:?}", cycles(&graph(text))), expected);
    }

    #[test]
    fn a_large_cycle_is_found() {
        let count = 100_000;
        let cycle: Plain = (0..count).map(|node| vec![(node + 1) % count]).collect();
        let found = cycles(&cycle);
        assert_eq!((found.len(), found[0].0.len()), (1, count as usize));
    }

    #[test]
    fn depth_does_not_matter() {
        let count = 200_000;
        let line: Plain =
            (0..count).map(|node| if node + 1 < count { vec![node + 1] } else { vec![] }).collect();
        assert_eq!(cycles(&line), []);
    }
}
