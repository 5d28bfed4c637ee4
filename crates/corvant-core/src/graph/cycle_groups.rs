//! Cycle groups: largest sets of nodes that all need one another.

use super::{Edge, Graph, Node};

/// A directed graph whose nodes are numbers from 0.
pub(crate) trait Directed {
    fn len(&self) -> usize;

    /// The nodes that one leads to.
    fn successors(&self, node: u32) -> impl Iterator<Item = u32>;
}

/// The part of a graph of needs whose edges `keep` accepts.
struct KeptEdges<'g, K> {
    graph: &'g Graph,
    keep: K,
}

impl<K: Fn(Node, Edge) -> bool> Directed for KeptEdges<'_, K> {
    fn len(&self) -> usize {
        self.graph.len()
    }

    fn successors(&self, node: u32) -> impl Iterator<Item = u32> {
        let node = Node(node);
        let edges = self.graph.needs(node).iter();
        edges.filter(move |edge| (self.keep)(node, **edge)).map(|edge| edge.node.0)
    }
}

/// The cycle groups of the part of a graph whose edges `keep` accepts: each with its nodes in ascending order, the
/// cycle groups by their first nodes. A node alone is a cycle group if it needs itself.
pub(crate) fn cycle_groups(graph: &Graph, keep: impl Fn(Node, Edge) -> bool) -> Vec<Vec<Node>> {
    cycle_groups_from(graph, graph.nodes(), keep)
}

/// The same, of what can be reached from some nodes.
pub(crate) fn cycle_groups_from(
    graph: &Graph,
    roots: impl Iterator<Item = Node>,
    keep: impl Fn(Node, Edge) -> bool,
) -> Vec<Vec<Node>> {
    let groups = search(&KeptEdges { graph, keep }, roots.map(|root| root.0));
    groups.into_iter().map(|group| group.into_iter().map(Node).collect()).collect()
}

/// The cycle groups of what can be reached from some nodes, in the same order.
///
/// R. Tarjan's algorithm for strongly connected components (1972), with a stack of its own in place of
/// recursion: work grows with nodes and edges, whatever the depth.
pub(crate) fn search(graph: &impl Directed, roots: impl Iterator<Item = u32>) -> Vec<Vec<u32>> {
    let mut search = GroupSearch {
        number: vec![UNSEEN; graph.len()],
        low: vec![0; graph.len()],
        stack: Vec::new(),
        count: 0,
        cycle_groups: Vec::new(),
    };
    for root in roots {
        if search.number[root as usize] == UNSEEN && graph.successors(root).next().is_some() {
            search.run(graph, root);
        }
    }
    search.cycle_groups.sort_unstable_by_key(|cycle_group| cycle_group[0]);
    search.cycle_groups
}

const UNSEEN: u32 = u32::MAX;
const DONE: u32 = u32::MAX - 1;

struct GroupSearch {
    /// Order in which nodes were reached; `DONE` once their cycle group is known.
    number: Vec<u32>,
    low: Vec<u32>,
    stack: Vec<u32>,
    count: u32,
    cycle_groups: Vec<Vec<u32>>,
}

impl GroupSearch {
    fn run(&mut self, graph: &impl Directed, root: u32) {
        self.reach(root);
        let mut path = vec![(root, graph.successors(root))];
        while let Some((node, successors)) = path.last_mut() {
            let node = *node;
            let Some(next) = successors.next() else {
                path.pop();
                self.leave(graph, node);
                if let Some(&(parent, _)) = path.last() {
                    self.low[parent as usize] = self.low[parent as usize].min(self.low[node as usize]);
                }
                continue;
            };
            match self.number[next as usize] {
                DONE => {}
                UNSEEN => {
                    self.reach(next);
                    path.push((next, graph.successors(next)));
                }
                number => self.low[node as usize] = self.low[node as usize].min(number),
            }
        }
    }

    fn reach(&mut self, node: u32) {
        self.number[node as usize] = self.count;
        self.low[node as usize] = self.count;
        self.count += 1;
        self.stack.push(node);
    }

    fn leave(&mut self, graph: &impl Directed, node: u32) {
        if self.low[node as usize] != self.number[node as usize] {
            return;
        }
        let start = self.stack.iter().rposition(|&member| member == node).unwrap_or(0);
        let mut members = self.stack.split_off(start);
        for &member in &members {
            self.number[member as usize] = DONE;
        }
        if members.len() > 1 || graph.successors(node).any(|next| next == node) {
            members.sort_unstable();
            self.cycle_groups.push(members);
        }
    }
}
