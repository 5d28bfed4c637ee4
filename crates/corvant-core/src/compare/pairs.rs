//! Services and entries that are in both of two states: how long they live in each, and what entries come to use.

use super::effects::{Came, EffectKind, Turned};
use super::numbers::{Numbers, Side};
use crate::answers::View;
use crate::graph::{Node, What};
use crate::name::Name;
use foldhash::{HashMap, HashMapExt};
use rayon::prelude::*;
use std::collections::VecDeque;
use std::hash::BuildHasher;

const NONE: u32 = u32::MAX;
/// Entries that are followed at a time: a bit each.
const TOGETHER: usize = 64;

/// What a node is, and the number of its name.
type Called = (Kind, u32);

#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
enum Kind {
    Service,
    Entry,
    Provider,
    Tag,
    All,
}

/// What a node is called; `None`: it is a question, which differ between stages.
fn called(view: &View<'_>, node: Node, number: impl Fn(Name) -> u32) -> Option<Called> {
    let facts = &view.wiring.facts;
    let (kind, name) = match view.graph.what(node) {
        What::Service(service) => (Kind::Service, view.wiring.service(service).id.name),
        What::Entry(entry) => (Kind::Entry, facts.entries[entry.index()].id.name),
        What::Provider(provider) => (Kind::Provider, facts.providers[provider.index()].id.name),
        What::Tag(name) => (Kind::Tag, name),
        What::All(name) => (Kind::All, name),
        What::Question(_) => return None,
    };
    Some((kind, number(name)))
}

/// The same things in two states, in whichever stage: a number for all that is called the same.
#[derive(Debug)]
pub(super) struct Pairs<'n, 'a> {
    /// The names of both.
    pub(super) names: &'n Numbers<'a>,
    /// By number what it is called.
    called: Vec<Called>,
    /// By node of each state its number; questions have none.
    numbers: [Vec<u32>; 2],
}

/// What of the things that have a number is there in one stage of one state: by number its node.
struct There(Vec<u32>);

impl There {
    fn node(&self, number: u32) -> Option<Node> {
        Some(self.0[number as usize]).filter(|&node| node != NONE).map(|node| Node::new(node as usize))
    }
}

impl<'n, 'a> Pairs<'n, 'a> {
    /// Gives all in two states its number.
    pub(super) fn new(old: &View<'a>, new: &View<'a>, names: &'n Numbers<'a>) -> Self {
        let count = old.graph.len().max(new.graph.len());
        let (mut all, mut known) = (Vec::with_capacity(count), HashMap::with_capacity(count));
        let numbers = [(old, Side::Old), (new, Side::New)].map(|(view, side)| {
            // Questions come after all others.
            let called = view.graph.nodes().map_while(|node| called(view, node, |name| names.of(side, name)));
            let number = |called| {
                *known.entry(called).or_insert_with(|| {
                    all.push(called);
                    all.len() as u32 - 1
                })
            };
            called.map(number).collect()
        });
        Self { names, called: all, numbers }
    }

    fn text(&self, number: usize) -> &'a str {
        self.names.text(self.called[number].1)
    }

    /// Services that live otherwise, and entries that come to use others, in two views of the states.
    pub(super) fn turned(&self, old: &View<'a>, new: &View<'a>) -> Vec<Turned<'a>> {
        let views = [old, new];
        let there = [self.there(old, 0), self.there(new, 1)];
        let mut turned = self.lifetimes(views, &there);
        turned.extend(self.uses(views, &there));
        turned
    }

    /// Of several with one name the last.
    fn there(&self, view: &View<'a>, side: usize) -> There {
        let mut there = vec![NONE; self.called.len()];
        for (node, &number) in self.numbers[side].iter().enumerate() {
            let is_there = match view.graph.what(Node::new(node)) {
                What::Service(service) => view.resolution.ids.is_built(service),
                _ => true,
            };
            if is_there {
                there[number as usize] = node as u32;
            }
        }
        There(there)
    }

    /// Services that are on both sides and live otherwise, by whatever it is said.
    fn lifetimes(&self, views: [&View<'a>; 2], there: &[There; 2]) -> Vec<Turned<'a>> {
        let lives = |side: usize, number: u32| -> Option<Option<&'a str>> {
            let View { wiring, graph, .. } = views[side];
            let What::Service(service) = graph.what(there[side].node(number)?) else { return None };
            let own = wiring.service(service).lifetime.map(|lifetime| wiring.text(lifetime.name));
            Some(own.or(wiring.policy.lifetimes.default.as_deref()))
        };
        let came = |word: Option<&'a str>| word.map_or(Came::Nothing, Came::Name);
        let turned = (0..self.called.len() as u32).filter_map(|number| {
            let (was, is) = (lives(0, number)?, lives(1, number)?);
            let subject = || (EffectKind::Lifetime, self.text(number as usize), None);
            (was != is).then(|| (subject(), came(was), came(is)))
        });
        turned.collect()
    }

    /// Entries that come to use other services than before: of each those that the other side has not. Only those are looked at
    /// from which something leads to a node whose edges are others.
    fn uses(&self, views: [&View<'a>; 2], there: &[There; 2]) -> Vec<Turned<'a>> {
        let digests =
            rayon::join(|| self.digests(views[0], 0, &there[0]), || self.digests(views[1], 1, &there[1]));
        let changed: Vec<u32> = (0..self.called.len() as u32)
            .filter(|&number| digests.0[number as usize] != digests.1[number as usize])
            .collect();
        if changed.is_empty() {
            return Vec::new();
        }
        let mut entries: Vec<u32> = (0..2)
            .flat_map(|side| {
                let nodes = changed.iter().filter_map(|&number| there[side].node(number)).collect();
                self.entries_above(views[side], side, nodes)
            })
            .collect();
        entries.sort_unstable();
        entries.dedup();
        // One that is new or gone is told by its definition.
        entries.retain(|&entry| there.iter().all(|there| there.node(entry).is_some()));
        let together = entries.par_chunks(TOGETHER).flat_map_iter(|entries| {
            let reached = [0, 1].map(|side| self.reached(views[side], side, &there[side], entries));
            self.differences(entries, &reached)
        });
        together.collect()
    }

    /// By number a digest of what the edges of what is there lead to; nothing is 0.
    fn digests(&self, view: &View<'a>, side: usize, there: &There) -> Vec<u64> {
        let state = foldhash::fast::FixedState::default();
        let end = |node: Node| match self.numbers[side].get(node.index()) {
            Some(&number) => state.hash_one(number),
            None => state.hash_one(view.sort_key(node)),
        };
        let digest = |number: u32| {
            let edges = there.node(number).map(|node| view.graph.needs(node));
            // In whichever order they stand.
            edges.map_or(0, |edges| edges.iter().fold(1, |sum: u64, edge| sum.wrapping_add(end(edge.node))))
        };
        (0..self.called.len() as u32).into_par_iter().map(digest).collect()
    }

    /// The entries that come to use some nodes.
    fn entries_above(&self, view: &View<'a>, side: usize, nodes: Vec<Node>) -> Vec<u32> {
        let mut seen = vec![false; view.graph.len()];
        for node in &nodes {
            seen[node.index()] = true;
        }
        let mut waiting = nodes;
        let mut entries = Vec::new();
        while let Some(node) = waiting.pop() {
            if let What::Entry(_) = view.graph.what(node) {
                entries.push(self.numbers[side][node.index()]);
            }
            for edge in view.graph.needed_by(node) {
                if !std::mem::replace(&mut seen[edge.node.index()], true) {
                    waiting.push(edge.node);
                }
            }
        }
        entries
    }

    /// Which of some entries come to use each service, a bit each, by its number.
    fn reached(&self, view: &View<'a>, side: usize, there: &There, entries: &[u32]) -> Vec<u64> {
        let mut by_node = vec![0_u64; view.graph.len()];
        let mut waiting = VecDeque::new();
        for (bit, node) in
            entries.iter().enumerate().filter_map(|(bit, &entry)| Some((bit, there.node(entry)?)))
        {
            by_node[node.index()] |= 1 << bit;
            waiting.push_back(node);
        }
        while let Some(node) = waiting.pop_front() {
            // A question says who may be meant, not who is used.
            if view.graph.is_question(node) {
                continue;
            }
            let bits = by_node[node.index()];
            for edge in view.graph.needs(node) {
                let known = &mut by_node[edge.node.index()];
                if *known | bits != *known {
                    *known |= bits;
                    waiting.push_back(edge.node);
                }
            }
        }
        let mut by_number = vec![0; self.called.len()];
        for (&number, bits) in self.numbers[side].iter().zip(by_node) {
            if self.called[number as usize].0 == Kind::Service {
                by_number[number as usize] |= bits;
            }
        }
        by_number
    }

    fn differences(&self, entries: &[u32], reached: &[Vec<u64>; 2]) -> Vec<Turned<'a>> {
        let mut only: Vec<[Vec<&'a str>; 2]> = vec![Default::default(); entries.len()];
        for (number, (&was, &is)) in
            reached[0].iter().zip(&reached[1]).enumerate().filter(|(_, (was, is))| was != is)
        {
            let bits = (0..entries.len()).filter(|bit| (was ^ is) >> bit & 1 == 1);
            bits.for_each(|bit| only[bit][usize::from(is >> bit & 1 == 1)].push(self.text(number)));
        }
        let turned =
            entries.iter().zip(only).filter(|(_, [gone, come])| !gone.is_empty() || !come.is_empty());
        let turned = turned.map(|(&entry, names)| {
            let [gone, come] = names.map(|mut names| {
                names.sort_unstable();
                Came::Names(names)
            });
            ((EffectKind::Uses, self.text(entry as usize), None), gone, come)
        });
        turned.collect()
    }
}
