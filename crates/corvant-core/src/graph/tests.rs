//! The searches on graphs, compared with slow and plain ones.

use super::cycle_groups::cycle_groups;
use super::reach::ReachSearch;
use super::{Cycles, Edge, Graph, Node, count_cycles, openings, shortest_cycle};
use crate::facts::{Entry, Facts, Header, Many, Named, Need, Service, Target, Via};
use crate::finding::Origin;
use crate::name::Interner;
use crate::resolve::Resolution;
use crate::source::{Source, SourceIndex, Span};
use crate::wiring::{Manifest, Policy, Wiring, link};
use proptest::prelude::*;
use std::collections::BTreeSet;

/// A wiring of `count` services whose needs are the given pairs; `lazy` says which of them are. An entry needs the
/// first service.
fn wired(count: usize, edges: &[(usize, usize)], lazy: &[bool]) -> Wiring {
    let names = Interner::default();
    let named = |text: &str, at: usize| Named { name: names.intern(text), span: Span::at(at) };
    let id = |number: usize| format!("s{number:05}");
    let need = |slot: usize, to: usize| Need {
        source: SourceIndex::OWN,
        slot: named(&format!("n{slot}"), slot),
        target: Target::Service(names.intern(&id(to))),
        span: Span::at(slot),
        key: None,
        via: Via::Constructor,
        method: None,
        optional: false,
        lazy: lazy.get(slot).copied().unwrap_or(false),
        by_type: false,
        is_repeated: false,
        registered_before: Need::UNORDERED,
    };
    let mut by_holder = vec![Vec::new(); count];
    for (slot, &(from, to)) in edges.iter().enumerate() {
        by_holder[from].push(need(slot, to));
    }
    let mut facts = Facts::default();
    for (number, needs) in by_holder.into_iter().enumerate() {
        let start = facts.parts.needs.len();
        facts.parts.needs.extend(needs);
        let needs = Many::since(start, &facts.parts);
        facts.services.push(Service { needs, needs_given: true, ..Service::new(named(&id(number), number)) });
    }
    let start = facts.parts.needs.len();
    facts.parts.needs.push(need(edges.len(), 0));
    facts.entries.push(Entry {
        source: SourceIndex::OWN,
        id: named("e", count),
        type_name: None,
        at: None,
        lifetime: None,
        needs: Many::since(start, &facts.parts),
        is_look_up: false,
    });
    let source = Source::new("m.wiring.yaml".to_owned(), String::new());
    link(
        vec![Manifest { source, header: Header::default(), facts }],
        names.freeze().into(),
        Policy::default(),
    )
}

fn graph_of(wiring: &Wiring) -> Graph {
    Graph::new(wiring, &Resolution::new(wiring, None))
}
/// Which node reaches which over at least one edge, by closing over and over.
fn closure(count: usize, edges: &[(usize, usize)]) -> Vec<Vec<bool>> {
    let mut reaches = vec![vec![false; count]; count];
    for &(from, to) in edges {
        reaches[from][to] = true;
    }
    for middle in 0..count {
        for from in 0..count {
            for to in 0..count {
                reaches[from][to] |= reaches[from][middle] && reaches[middle][to];
            }
        }
    }
    reaches
}
/// The length of a shortest cycle through a node, by steps.
fn cycle_length(count: usize, edges: &[(usize, usize)], start: usize) -> Option<usize> {
    let mut at = BTreeSet::from([start]);
    for length in 1..=count {
        at = edges.iter().filter(|(from, _)| at.contains(from)).map(|&(_, to)| to).collect();
        if at.contains(&start) {
            return Some(length);
        }
    }
    None
}
fn leaves_no_cycle(cycle_group: &[Node], edges: &[(Node, Edge)], removed: &[(Node, Edge)]) -> bool {
    let left = edges.iter().filter(|edge| !removed.contains(edge));
    let place = |node: Node| cycle_group.iter().position(|&other| other == node).unwrap();
    let pairs: Vec<(usize, usize)> = left.map(|(from, edge)| (place(*from), place(edge.node))).collect();
    let reaches = closure(cycle_group.len(), &pairs);
    (0..cycle_group.len()).all(|node| !reaches[node][node])
}
/// Size and cost of the smallest and then cheapest set of up to three edges that opens a cycle group, by trying all.
fn smallest(
    cycle_group: &[Node],
    edges: &[(Node, Edge)],
    cost: impl Fn(Edge) -> Option<u32>,
) -> Option<(usize, u32)> {
    let open: Vec<(Node, Edge)> = edges.iter().copied().filter(|(_, edge)| cost(*edge).is_some()).collect();
    let mut sets: Vec<Vec<usize>> = vec![Vec::new()];
    for size in 1..=3 {
        sets = sets
            .iter()
            .flat_map(|set| {
                let first = set.last().map_or(0, |last| last + 1);
                (first..open.len()).map(move |next| [set.clone(), vec![next]].concat())
            })
            .collect();
        let opening = sets.iter().filter_map(|set| {
            let set: Vec<_> = set.iter().map(|&at| open[at]).collect();
            let total = set.iter().filter_map(|(_, edge)| cost(*edge)).sum();
            leaves_no_cycle(cycle_group, edges, &set).then_some(total)
        });
        if let Some(least) = opening.min() {
            return Some((size, least));
        }
    }
    None
}
/// How many paths lead from a node back to it over greater nodes, each at most once.
fn paths_back(edges: &[(usize, usize)], start: usize) -> usize {
    let mut count = 0;
    let mut waiting = vec![vec![start]];
    while let Some(path) = waiting.pop() {
        let end = path[path.len() - 1];
        for &(_, to) in edges.iter().filter(|(from, _)| *from == end) {
            if to == start {
                count += 1;
            } else if to > start && !path.contains(&to) {
                waiting.push([path.clone(), vec![to]].concat());
            }
        }
    }
    count
}
fn graphs() -> impl Strategy<Value = (usize, Vec<(usize, usize)>)> {
    (2_usize..12)
        .prop_flat_map(|count| (Just(count), proptest::collection::vec((0..count, 0..count), 0..count * 3)))
}
proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn cycle_groups_are_what_reaches_itself((count, edges) in graphs()) {
        let wiring = wired(count, &edges, &[]);
        let found = cycle_groups(&graph_of(&wiring), |_, _| true);
        let reaches = closure(count, &edges);
        let mut expected: BTreeSet<Vec<Node>> = BTreeSet::new();
        for node in (0..count).filter(|&node| reaches[node][node]) {
            let together = (0..count).filter(|&other| reaches[node][other] && reaches[other][node]);
            expected.insert(together.map(Node::new).collect());
        }
        prop_assert_eq!(found.into_iter().collect::<BTreeSet<_>>(), expected);
    }

    #[test]
    fn the_shortest_cycle_is_one_and_shortest((count, edges) in graphs()) {
        let wiring = wired(count, &edges, &[]);
        let graph = graph_of(&wiring);
        for cycle_group in cycle_groups(&graph, |_, _| true) {
            let (cycle, certain) = shortest_cycle(&graph, &cycle_group, |_| true, |_, _| true);
            prop_assert!(certain);
            for (position, (_, edge)) in cycle.iter().enumerate() {
                prop_assert_eq!(edge.node, cycle[(position + 1) % cycle.len()].0);
            }
            let shortest = cycle_group.iter().filter_map(|&node| cycle_length(count, &edges, node.index())).min();
            prop_assert_eq!(Some(cycle.len()), shortest);
        }
    }

    #[test]
    fn openings_are_the_fewest_and_cheapest_that_leave_no_cycle((count, edges) in graphs()) {
        let wiring = wired(count, &edges, &[]);
        let graph = graph_of(&wiring);
        // Needs on even services are cheap, and one in five cannot be opened.
        let cost = |edge: Edge| edge.need().filter(|need| need.0 % 5 != 0).map(|_| 1 + edge.node.0 % 2);
        for cycle_group in cycle_groups(&graph, |_, _| true) {
            let inside: Vec<(Node, Edge)> = cycle_group
                .iter()
                .flat_map(|&node| graph.needs(node).iter().map(move |&edge| (node, edge)))
                .filter(|(_, edge)| cycle_group.contains(&edge.node))
                .collect();
            let expected = smallest(&cycle_group, &inside, cost);
            let opened = openings(&graph, &cycle_group, |_, _| true, cost);
            let Some((size, least)) = expected else {
                prop_assert!(opened.is_none_or(|opened| opened.edges.len() > 3));
                continue;
            };
            let opened = opened.expect("it can be opened");
            prop_assert!(opened.fewest);
            let sets: Vec<Vec<_>> = if opened.each_alone {
                opened.edges.iter().map(|edge| vec![*edge]).collect()
            } else {
                vec![opened.edges.clone()]
            };
            for set in sets {
                let total: u32 = set.iter().filter_map(|(_, edge)| cost(*edge)).sum();
                prop_assert_eq!((set.len(), total), (size, least));
                prop_assert!(leaves_no_cycle(&cycle_group, &inside, &set));
            }
        }
    }

    #[test]
    fn cycles_are_counted((count, edges) in graphs()) {
        let wiring = wired(count, &edges, &[]);
        let graph = graph_of(&wiring);
        let pairs: BTreeSet<(usize, usize)> = edges.iter().copied().collect();
        for cycle_group in cycle_groups(&graph, |_, _| true) {
            let inside: Vec<(usize, usize)> = pairs
                .iter()
                .copied()
                .filter(|(from, to)| cycle_group.contains(&(Node::new(*from))) && cycle_group.contains(&(Node::new(*to))))
                .collect();
            let expected: usize = cycle_group.iter().map(|&start| paths_back(&inside, start.index())).sum();
            let expected = if expected < 1_000 { Cycles::Exactly(expected) } else { Cycles::MoreThan(1_000) };
            prop_assert_eq!(count_cycles(&graph, &cycle_group, |_, _| true), expected);
        }
    }

    #[test]
    fn reach_counts_what_depends_on_a_fault(
        (count, edges) in graphs(),
        lazy in proptest::collection::vec(any::<bool>(), 40),
        fault in 0_usize..12,
    ) {
        let fault = fault % count;
        let wiring = wired(count, &edges, &lazy);
        let graph = graph_of(&wiring);
        let origin = Origin { node: Node::new(fault), while_building: true };
        let (reach, _) = ReachSearch::new(&wiring, &graph).reach(&[origin], usize::MAX);
        let reaches = closure(count, &edges);
        let services = (0..count).filter(|&node| node == fault || reaches[node][fault]).count();
        let entry = fault == 0 || reaches[0][fault];
        prop_assert_eq!((reach.services as usize, reach.entries == 1), (services, entry));
        prop_assert!(!reach.at_least);
        // With fewer steps the numbers are the least there are, and say so.
        for most in 1..20 {
            let (part, steps) = ReachSearch::new(&wiring, &graph).reach(&[origin], most);
            prop_assert!(steps <= most && part.services <= reach.services && part.entries <= reach.entries);
            prop_assert!(part.at_least || part == reach);
        }
    }
}
/// A cycle group of `count` services in one cycle, with as many further needs at random again.
fn large_cycle_group(count: usize) -> Wiring {
    // Numbers that look like chance: multiples of a prime, far apart.
    let at_random = |number: usize| number * 7_919 % count * 31 % count;
    let edges: Vec<(usize, usize)> =
        (0..count).flat_map(|from| [(from, (from + 1) % count), (from, at_random(from))]).collect();
    wired(count, &edges, &[])
}
#[test]
fn a_large_cycle_group_is_opened_by_the_heuristic() {
    let wiring = large_cycle_group(3_000);
    let graph = graph_of(&wiring);
    let cycle_group = cycle_groups(&graph, |_, _| true).remove(0);
    assert_eq!(count_cycles(&graph, &cycle_group, |_, _| true), Cycles::Uncounted);
    let opened = openings(&graph, &cycle_group, |_, _| true, |_| Some(1)).unwrap();
    assert!(!opened.fewest && !opened.each_alone);
    // At least one need must go, and half of all is what no order needs.
    assert!(opened.edges.len() < graph.edge_count() / 4, "{}", opened.edges.len());
    let removed: BTreeSet<u32> =
        opened.edges.iter().filter_map(|(_, edge)| edge.need()).map(|need| need.0).collect();
    assert!(
        cycle_groups(&graph, |_, edge| edge.need().is_none_or(|need| !removed.contains(&need.0))).is_empty()
    );
}
#[test]
fn what_cannot_be_opened_is_opened_by_what_leads_to_it() {
    let wiring = large_cycle_group(3_000);
    let graph = graph_of(&wiring);
    let cycle_group = cycle_groups(&graph, |_, _| true).remove(0);
    // Every second service's needs are there to stay.
    let cost = |edge: Edge| {
        edge.need()
            .filter(|need| wiring.facts.parts.needs[need.index()].slot.span.start.is_multiple_of(2))
            .map(|_| 1)
    };
    if let Some(opened) = openings(&graph, &cycle_group, |_, _| true, cost) {
        assert!(opened.edges.iter().all(|(_, edge)| cost(*edge).is_some()));
        let removed: BTreeSet<u32> =
            opened.edges.iter().filter_map(|(_, edge)| edge.need()).map(|need| need.0).collect();
        assert!(
            cycle_groups(&graph, |_, edge| edge.need().is_none_or(|need| !removed.contains(&need.0)))
                .is_empty()
        );
    }
    assert!(openings(&graph, &cycle_group, |_, _| true, |_| None).is_none());
}
