//! The account of a file: what a reader took, what it left over, and what it could not take.

use super::CustomReader;
use super::path::Selected;
use super::session::Session;
use crate::syntax::{NodeId, NodeKind, Tree};
use crate::words;
use corvant_core::account::{LeftOver, TreeLine};
use corvant_core::facts::{Facts, Trouble, TroubleKind};
use corvant_core::finding::Fix;
use corvant_core::near::meanings;
use corvant_core::source::{SourceIndex, Span};
use foldhash::{HashMap, HashMapExt};

/// How many facts of each kind there are, without those of which there are none.
pub(crate) fn taken(all: &[&Facts]) -> Vec<(&'static str, usize)> {
    let count = |of: fn(&Facts) -> usize| all.iter().map(|facts| of(facts)).sum::<usize>();
    let kinds = [
        ("services", count(|facts| facts.services.len())),
        ("needs", count(|facts| facts.parts.needs.len())),
        ("tags on services", count(|facts| facts.parts.taggings.len())),
        ("settings", count(|facts| facts.settings.len())),
        ("contracts", count(|facts| facts.contracts.len())),
        ("tags", count(|facts| facts.tags.len())),
        ("choices", count(|facts| facts.choices.len())),
        ("providers", count(|facts| facts.providers.len())),
        ("rosters", count(|facts| facts.rosters.len())),
        ("entries", count(|facts| facts.entries.len())),
        ("expectations", count(|facts| facts.expectations.len())),
        ("supplied names", count(|facts| facts.supplied.len())),
        ("allowances", count(|facts| facts.allowances.len())),
        ("imports", count(|facts| facts.imports.len())),
        ("removals", count(|facts| facts.removed.len())),
        ("types", count(|facts| facts.types.len())),
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

/// The tree of a file, line by line, with what was taken of it.
pub(crate) fn tree_lines(
    session: &Session<'_>,
    reader: &CustomReader,
    line_of: impl Fn(u32) -> u32,
) -> Vec<TreeLine> {
    let tree = session.tree;
    let mut lines = Vec::new();
    let patterns = reader.patterns_by_key();
    visit(tree, |node, steps| {
        let Some(step) = steps.last() else { return };
        let key = match step.key {
            Some(key) => patterns.get(tree.text(key)).map_or(tree.text(key), String::as_str).to_owned(),
            None => format!("[{}]", step.number - 1),
        };
        lines.push(TreeLine {
            depth: steps.len() - 1,
            key,
            text: tree.is_plain(node).then(|| tree.text(node).to_owned()),
            line: line_of(tree.span(node).start),
            is_item: session.items[node.index()],
            is_taken: session.taken[node.index()],
        });
    });
    lines
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

/// Keys of a map that stand in it before, each once.
fn repeated(tree: &Tree<'_>, map: NodeId) -> Vec<(NodeId, NodeId)> {
    let mut times: HashMap<&str, u32> = HashMap::new();
    let mut children = tree.children(map);
    let mut repeated = Vec::new();
    while let (Some(key), Some(value)) = (children.next(), children.next()) {
        let times = times.entry(tree.text(key)).or_default();
        *times += 1;
        if *times == 2 && !tree.is_merge_key(key) {
            repeated.push((key, value));
        }
    }
    repeated
}

/// Notes, for a reader that looks at all there is, what it does not look at: a misspelt section or field, mostly. Of what
/// stands in one another the outermost is told.
pub(crate) fn unknown(session: &mut Session<'_>, reader: &CustomReader, roots: &[Selected]) {
    let tree = session.tree;
    let looked_at = looked_at(session, reader, roots);
    let mut unknown: Vec<(NodeId, Option<NodeId>, String)> = Vec::new();
    let mut told = 0;
    visit(tree, |node, steps| {
        let is_inside_told = node.index() < told;
        if is_inside_told || looked_at[node.index()] || tree.kind(node) == NodeKind::Null {
            return;
        }
        told = node.index() + tree.size(node);
        unknown.push((node, steps.last().and_then(|step| step.key), subject(tree, steps)));
    });
    let names = reader.known_names();
    let written: Vec<&str> = unknown.iter().map(|(_, key, _)| key.map_or("", |key| tree.text(key))).collect();
    let meant = meanings(&written, &names);
    for ((node, key, subject), meant) in unknown.into_iter().zip(meant) {
        let is_item = session.items[node.index()];
        let what = key.map_or("this", |key| tree.text(key));
        let message = if is_item {
            format!(
                "the reader {} takes nothing from {what}: it lacks what such an item must have",
                reader.name
            )
        } else {
            format!("the reader {} does not look at {what}", reader.name)
        };
        let span = tree.span(key.unwrap_or(node));
        let fix = meant.filter(|_| !is_item).map(|meant| {
            let (place, to) = ((SourceIndex::OWN, span), names[meant.known]);
            Fix::rename(format!("write {to}"), [place], what, to, meant.likeness)
        });
        let fixes =
            vec![fix.unwrap_or_else(|| Fix::advice("take it out, or name it under `ignore` of the reader"))];
        let unread = words::of_value(tree, node, session.interner);
        let trouble =
            Trouble::new(TroubleKind::UnknownField, subject, message, (span, "not looked at")).hiding(unread);
        session.facts.report(Trouble { fixes, ..trouble });
    }
}

/// By node whether anything in it was looked at, or need not be.
fn looked_at(session: &mut Session<'_>, reader: &CustomReader, roots: &[Selected]) -> Vec<bool> {
    let tree = session.tree;
    let mut looked_at = session.taken.clone();
    for (path, &root) in reader.how.ignore.iter().flat_map(|path| roots.iter().map(move |root| (path, root)))
    {
        for ignored in session.select(path, root) {
            let at = ignored.node.index();
            looked_at[at..at + tree.size(ignored.node)].fill(true);
        }
    }
    // From the inside out: what holds something that was looked at was looked at, and its key with it.
    for at in (0..tree.len()).rev() {
        let node = NodeId::new(at);
        let has_any = match tree.kind(node) {
            NodeKind::List => tree.children(node).any(|inner| looked_at[inner.index()]),
            NodeKind::Map => {
                tree.fields(node).any(|(key, value)| looked_at[value.index()] || looked_at[key.index()])
            }
            _ => false,
        };
        looked_at[at] |= has_any;
        if let NodeKind::Map = tree.kind(node) {
            for (key, value) in tree.fields(node) {
                looked_at[value.index()] |= session.taken[key.index()];
            }
        }
        // An item may say all by being there.
        looked_at[at] |= session.items[at] && tree.children(node).next().is_none();
    }
    looked_at
}

/// A value in which no reference was found.
#[derive(Debug)]
pub(crate) struct Unmatched {
    pub(crate) text: String,
    pub(crate) span: Span,
    /// The path of the value, as findings have it.
    pub(crate) subject: String,
    /// Whether it begins or ends as references do.
    pub(crate) looks_like_one: bool,
}

/// Values in which no reference was found, in the order in which they stand.
pub(crate) fn unmatched(session: &Session<'_>) -> Vec<Unmatched> {
    let tree = session.tree;
    if session.unmatched.is_empty() {
        return Vec::new();
    }
    let by_node: HashMap<usize, bool> =
        session.unmatched.iter().map(|(node, looks_like_one)| (node.index(), *looks_like_one)).collect();
    let mut unmatched = Vec::new();
    visit(tree, |node, steps| {
        if let Some(&looks_like_one) = by_node.get(&node.index()) {
            let (text, span) = (tree.text(node).to_owned(), tree.span(node));
            unmatched.push(Unmatched { text, span, subject: subject(tree, steps), looks_like_one });
        }
    });
    unmatched
}

impl Unmatched {
    /// The finding about it; `is_id`: it is the id of a service.
    pub(crate) fn trouble(&self, is_id: bool) -> Trouble {
        let what = if is_id { "is the id of a service" } else { "looks like a reference" };
        let message =
            format!("{} {what}, and no expression of the reader finds a reference in it", self.text);
        let trouble =
            Trouble::new(TroubleKind::WrongShape, self.subject.clone(), message, (self.span, "this value"));
        trouble.advice("write it as references are written, or give the reader an expression for it")
    }
}

fn subject(tree: &Tree<'_>, steps: &[ParentStep]) -> String {
    let step = |step: &ParentStep| match step.key {
        // What patterns match stands under a key that is nobody's business.
        Some(key) if tree.text(key).starts_with('#') => "code".to_owned(),
        Some(key) => tree.text(key).to_owned(),
        None => step.number.to_string(),
    };
    match steps {
        [] => ".".to_owned(),
        steps => steps.iter().map(step).collect::<Vec<_>>().join("."),
    }
}
