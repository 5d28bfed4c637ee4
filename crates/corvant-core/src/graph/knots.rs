//! Knots: largest sets of nodes that all need one another.

use super::{Edge, Graph, Node};

/// The knots of the part of a graph whose edges `keep` accepts: each with its nodes in ascending order, the
/// knots by their first nodes. A node alone is a knot if it needs itself.
///
/// R. Tarjan's algorithm for strongly connected components (1972), with a stack of its own in place of
/// recursion: work grows with nodes and edges, whatever the depth.
pub fn knots(graph: &Graph, keep: impl Fn(Node, Edge) -> bool) -> Vec<Vec<Node>> {
    knots_from(graph, 0..graph.len() as u32, keep)
}

/// The same, of what can be reached from some nodes.
pub fn knots_from(
    graph: &Graph,
    roots: impl Iterator<Item = Node>,
    keep: impl Fn(Node, Edge) -> bool,
) -> Vec<Vec<Node>> {
    let mut search = Search {
        number: vec![UNSEEN; graph.len()],
        low: vec![0; graph.len()],
        stack: Vec::new(),
        count: 0,
        knots: Vec::new(),
    };
    for root in roots {
        if search.number[root as usize] == UNSEEN && !graph.needs(root).is_empty() {
            search.run(graph, root, &keep);
        }
    }
    search.knots.sort_unstable_by_key(|knot| knot[0]);
    search.knots
}

const UNSEEN: u32 = u32::MAX;
const DONE: u32 = u32::MAX - 1;

struct Search {
    /// Order in which nodes were reached; `DONE` once their knot is known.
    number: Vec<u32>,
    low: Vec<u32>,
    stack: Vec<Node>,
    count: u32,
    knots: Vec<Vec<Node>>,
}

impl Search {
    fn run(&mut self, graph: &Graph, root: Node, keep: &impl Fn(Node, Edge) -> bool) {
        let mut path: Vec<(Node, std::slice::Iter<'_, Edge>)> = Vec::new();
        self.reach(root);
        path.push((root, graph.needs(root).iter()));
        while let Some((node, edges)) = path.last_mut() {
            let node = *node;
            let Some(&edge) = edges.next() else {
                path.pop();
                self.leave(graph, node, keep);
                if let Some(&(parent, _)) = path.last() {
                    self.low[parent as usize] = self.low[parent as usize].min(self.low[node as usize]);
                }
                continue;
            };
            if !keep(node, edge) {
                continue;
            }
            match self.number[edge.node as usize] {
                DONE => {}
                UNSEEN => {
                    self.reach(edge.node);
                    path.push((edge.node, graph.needs(edge.node).iter()));
                }
                number => self.low[node as usize] = self.low[node as usize].min(number),
            }
        }
    }

    fn reach(&mut self, node: Node) {
        self.number[node as usize] = self.count;
        self.low[node as usize] = self.count;
        self.count += 1;
        self.stack.push(node);
    }

    fn leave(&mut self, graph: &Graph, node: Node, keep: &impl Fn(Node, Edge) -> bool) {
        if self.low[node as usize] != self.number[node as usize] {
            return;
        }
        let start = self.stack.iter().rposition(|&member| member == node).unwrap_or(0);
        let mut members = self.stack.split_off(start);
        for &member in &members {
            self.number[member as usize] = DONE;
        }
        let needs_itself = |edge: &Edge| edge.node == node && keep(node, *edge);
        if members.len() > 1 || graph.needs(node).iter().any(needs_itself) {
            members.sort_unstable();
            self.knots.push(members);
        }
    }
}
