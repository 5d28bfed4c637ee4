//! The account of a file: what a reader took, what it left over, and what it could not take.

use super::session::Session;
use crate::syntax::{NodeId, NodeKind, Tree};
use crate::words;
use corvant_core::account::LeftOver;
use corvant_core::facts::{Facts, Trouble, TroubleKind};
use corvant_core::source::Span;
use foldhash::{HashMap, HashMapExt};

/// How many facts of each kind there are, without those of which there are none.
pub(crate) fn taken(facts: &Facts) -> Vec<(&'static str, usize)> {
    let kinds = [
        ("services", facts.services.len()),
        ("needs", facts.parts.needs.len()),
        ("tags on services", facts.parts.taggings.len()),
        ("settings", facts.settings.len()),
        ("contracts", facts.contracts.len()),
        ("tags", facts.tags.len()),
        ("choices", facts.choices.len()),
        ("providers", facts.providers.len()),
        ("rosters", facts.rosters.len()),
        ("entries", facts.entries.len()),
        ("expectations", facts.expectations.len()),
        ("supplied names", facts.supplied.len()),
        ("allowances", facts.allowances.len()),
        ("types", facts.types.len()),
    ];
    kinds.into_iter().filter(|(_, count)| *count > 0).collect()
}

/// One step from the root to a node: the key, or the number of an item.
#[derive(Clone, Copy)]
struct ParentStep {
    node: NodeId,
    key: Option<NodeId>,
    number: usize,
}

/// Visits every node of a tree, with the steps that lead to it, on a stack of its own.
fn visit(tree: &Tree<'_>, mut each: impl FnMut(NodeId, &[ParentStep])) {
    let Some(root) = tree.root() else { return };
    let mut steps: Vec<ParentStep> = Vec::new();
    let mut waiting = vec![(ParentStep { node: root, key: None, number: 0 }, 0)];
    while let Some((step, depth)) = waiting.pop() {
        steps.truncate(depth);
        if depth > 0 || step.number > 0 {
            steps.push(step);
        }
        each(step.node, &steps);
        let depth = steps.len();
        let first = waiting.len();
        match tree.kind(step.node) {
            NodeKind::List => {
                let items = tree.children(step.node).enumerate();
                waiting
                    .extend(items.map(|(at, node)| (ParentStep { node, key: None, number: at + 1 }, depth)));
            }
            NodeKind::Map => {
                let mut children = tree.children(step.node);
                while let (Some(key), Some(node)) = (children.next(), children.next()) {
                    waiting.push((ParentStep { node, key: Some(key), number: 1 }, depth));
                }
            }
            _ => {}
        }
        waiting[first..].reverse();
    }
}

/// How many values nothing looked at.
pub(crate) fn count_left_over(session: &Session<'_>) -> u32 {
    let mut count = 0;
    visit(session.tree, |node, _| count += u32::from(is_left(session, node)));
    count
}

fn is_left(session: &Session<'_>, node: NodeId) -> bool {
    let is_value = !matches!(session.tree.kind(node), NodeKind::List | NodeKind::Map | NodeKind::Null);
    is_value && !session.taken[node.index()]
}

/// What nothing looked at, values that stand in the same way together.
pub(crate) fn left_over(session: &Session<'_>, line_of: impl Fn(u32) -> u32) -> Vec<LeftOver> {
    let mut left: Vec<LeftOver> = Vec::new();
    let mut numbers: HashMap<String, usize> = HashMap::new();
    let tree = session.tree;
    visit(tree, |node, steps| {
        if !is_left(session, node) {
            return;
        }
        let mut path = String::from("$");
        for step in steps {
            match step.key {
                Some(key) if !session.items[step.node.index()] => push_name(&mut path, tree.text(key)),
                Some(_) => path.push_str(".*"),
                None => path.push_str("[*]"),
            }
        }
        let number = *numbers.entry(path.clone()).or_insert_with(|| {
            left.push(LeftOver { path, count: 0, line: line_of(tree.span(node).start) });
            left.len() - 1
        });
        left[number].count += 1;
    });
    left
}

/// Adds a name to a path, as the standard writes it.
fn push_name(path: &mut String, name: &str) {
    let is_plain = name.starts_with(|letter: char| letter.is_alphabetic() || letter == '_')
        && name.chars().all(|letter| letter.is_alphanumeric() || letter == '_');
    if is_plain {
        path.push('.');
        path.push_str(name);
    } else {
        path.push_str("['");
        path.push_str(&name.replace('\\', "\\\\").replace('\'', "\\'"));
        path.push_str("']");
    }
}

/// Findings on what could not be taken, and on keys that stand twice in one map.
pub(crate) fn troubles(session: &Session<'_>) -> Vec<Trouble> {
    let tree = session.tree;
    let mut messages: HashMap<usize, &str> = HashMap::new();
    for (node, message) in &session.misshapen {
        messages.entry(node.index()).or_insert(message);
    }
    let mut facts = Facts::default();
    let mut trouble = |kind, subject: String, message: String, at, unread| {
        let unread = words::of_value(tree, unread, session.interner);
        facts.report(Trouble::new(kind, subject, message, at).hiding(unread));
    };
    visit(tree, |node, steps| {
        if let Some(message) = messages.get(&node.index()) {
            let at = (tree.span(node), "this value");
            trouble(TroubleKind::WrongShape, subject(tree, steps), (*message).to_owned(), at, node);
        }
        if tree.kind(node) == NodeKind::Map {
            for (key, value) in repeated(tree, node) {
                let mut subject = subject(tree, steps);
                if subject == "." {
                    subject.clear();
                } else {
                    subject.push('.');
                }
                subject.push_str(tree.text(key));
                let message = format!("`{}` stands twice in one map; one of them is lost", tree.text(key));
                let at: (Span, &'static str) = (tree.span(key), "again here");
                trouble(TroubleKind::RepeatedField, subject, message, at, value);
            }
        }
    });
    facts.troubles
}

/// Keys of a map that stand in it before.
fn repeated(tree: &Tree<'_>, map: NodeId) -> Vec<(NodeId, NodeId)> {
    let mut known = foldhash::HashSet::default();
    let mut children = tree.children(map);
    let mut repeated = Vec::new();
    while let (Some(key), Some(value)) = (children.next(), children.next()) {
        if !known.insert(tree.text(key)) && !tree.is_merge_key(key) {
            repeated.push((key, value));
        }
    }
    repeated
}

fn subject(tree: &Tree<'_>, steps: &[ParentStep]) -> String {
    let step = |step: &ParentStep| match step.key {
        Some(key) => tree.text(key).to_owned(),
        None => step.number.to_string(),
    };
    match steps {
        [] => ".".to_owned(),
        steps => steps.iter().map(step).collect::<Vec<_>>().join("."),
    }
}
