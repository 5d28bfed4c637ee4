//! A file to be edited: its text, and who stands where in it.

use super::value::{Patch, Writing};
use crate::syntax::{ManifestSyntax, NodeId, NodeKind, Tree};
use corvant_core::finding::{Action, Change, Edit};
use corvant_core::source::{SourceIndex, Span, cut};
use corvant_core::work;
use foldhash::HashMap;
use std::cell::OnceCell;
use std::ops::Range;

/// A file to be edited.
pub(super) struct Document<'a> {
    source: SourceIndex,
    text: &'a str,
    writing: Writing,
    /// Made when it is first asked for: a name is exchanged without it. Nothing, if the text cannot be parsed.
    outline: OnceCell<Option<Outline<'a>>>,
}

/// The tree of a file, with the way back from each place.
pub(super) struct Outline<'a> {
    pub(super) lines: Lines<'a>,
    pub(super) writing: Writing,
    pub(super) tree: Tree<'a>,
    pub(super) links: Vec<Around>,
    by_span: HashMap<Span, NodeId>,
    /// What is neither a list nor a map, in the order of the text. Made when it is first asked for.
    plain: OnceCell<Vec<NodeId>>,
}

/// What a node is to the one around it.
#[derive(Clone, Copy)]
pub(super) struct Around {
    pub(super) parent: Option<NodeId>,
    /// Of a field's key its value, of a value its key.
    pub(super) partner: Option<NodeId>,
    pub(super) is_key: bool,
    /// The last of what is in it.
    pub(super) last: Option<NodeId>,
}

impl<'a> Outline<'a> {
    fn new(lines: Lines<'a>, writing: Writing, tree: Tree<'a>) -> Self {
        let none = Around { parent: None, partner: None, is_key: false, last: None };
        let mut links = vec![none; tree.len()];
        let mut by_span = HashMap::default();
        let mut waiting: Vec<NodeId> = tree.root().into_iter().collect();
        while let Some(node) = waiting.pop() {
            // What came in through an alias has the place of its anchor: that is written first.
            by_span
                .entry(tree.span(node))
                .and_modify(|known: &mut NodeId| {
                    // A block list and its first item may begin and end together: what is inside is meant.
                    if node.index() < known.index() || !tree.is_plain(*known) && tree.is_plain(node) {
                        *known = node;
                    }
                })
                .or_insert(node);
            let children: Vec<NodeId> = tree.children(node).collect();
            let is_map = tree.kind(node) == NodeKind::Map;
            for (number, &child) in children.iter().enumerate() {
                let is_key = is_map && number % 2 == 0;
                let partner = is_map.then(|| children.get(number ^ 1).copied()).flatten();
                links[child.index()] = Around { parent: Some(node), partner, is_key, last: None };
            }
            links[node.index()].last = children.last().copied();
            waiting.extend(children);
        }
        Self { lines, writing, tree, links, by_span, plain: OnceCell::new() }
    }

    /// What is neither a list nor a map and begins in a part of the text.
    pub(super) fn plain_in(&self, range: Range<usize>) -> impl Iterator<Item = NodeId> {
        let all = self.plain.get_or_init(|| {
            let nodes = (0..self.tree.len()).map(NodeId::new);
            let mut plain: Vec<NodeId> = nodes.filter(|&node| self.tree.is_plain(node)).collect();
            plain.sort_by_key(|&node| self.start(node));
            plain
        });
        let first = all.partition_point(|&node| self.start(node) < range.start);
        all[first..].iter().copied().take_while(move |&node| self.start(node) < range.end)
    }

    pub(super) fn link(&self, node: NodeId) -> Around {
        self.links[node.index()]
    }

    /// The map that a place belongs to: that under the key there, or the whole file's for an empty place at the start.
    pub(super) fn owner(&self, span: Span) -> Option<Owner> {
        if span == Span::at(0) {
            return Some(Owner { key: None, value: self.tree.root()? });
        }
        let node = *self.by_span.get(&span)?;
        let link = self.link(node);
        link.is_key.then_some(())?;
        Some(Owner { key: Some(node), value: link.partner? })
    }

    pub(super) fn at(&self, span: Span) -> Option<NodeId> {
        self.by_span.get(&span).copied()
    }

    pub(super) fn field(&self, map: NodeId, name: &str) -> Option<NodeId> {
        let mut keys = self.tree.children(map).step_by(2);
        keys.find(|&key| self.tree.text(key) == name).filter(|_| self.tree.kind(map) == NodeKind::Map)
    }

    /// Where the plain value of a field is written.
    fn value_of(&self, key: NodeId) -> Option<Range<usize>> {
        let value = self.link(key).partner.filter(|&value| self.tree.is_plain(value))?;
        let span = self.tree.span(value);
        (span.start < span.end).then_some(span.start as usize..span.end as usize)
    }

    /// Whether a list or map is written between brackets or braces.
    pub(super) fn is_flow(&self, node: NodeId) -> bool {
        let written = self.tree.source_of(node);
        match self.tree.kind(node) {
            NodeKind::Map => written.starts_with('{'),
            NodeKind::List => {
                written.starts_with('[')
                    && !self.tree.children(node).next().is_some_and(|item| self.is_header(item))
            }
            _ => false,
        }
    }

    /// Whether a map is begun by a header in brackets.
    pub(super) fn is_header(&self, node: NodeId) -> bool {
        self.tree.kind(node) == NodeKind::Map && self.tree.source_of(node).starts_with('[')
    }

    /// Where what is written of a node ends. Lists and maps without brackets end with what is in them.
    pub(super) fn end(&self, node: NodeId) -> usize {
        let inside = (node.index()..node.index() + self.tree.size(node)).map(NodeId::new);
        let ends =
            inside.filter(|&node| self.tree.is_plain(node) || self.is_flow(node) || self.is_header(node));
        ends.map(|node| self.tree.span(node).end as usize).max().unwrap_or(0)
    }

    pub(super) fn start(&self, node: NodeId) -> usize {
        self.tree.span(node).start as usize
    }
}

/// A map that gains or loses something.
#[derive(Clone, Copy)]
pub(super) struct Owner {
    /// The key that it stands under; `None`: it is the whole file.
    pub(super) key: Option<NodeId>,
    pub(super) value: NodeId,
}

impl<'a> Document<'a> {
    /// `syntax` is that of a manifest; `None`: another, of which nothing is known.
    pub(super) fn new(source: SourceIndex, text: &'a str, syntax: Option<ManifestSyntax>) -> Self {
        Self { source, text, writing: Writing(syntax), outline: OnceCell::new() }
    }

    /// What a change is in bytes; `None`: it cannot be made.
    pub(super) fn edits(&self, change: &Change) -> Option<Vec<Edit>> {
        let place = change.span;
        let range = place.start as usize..place.end as usize;
        let patches = match &change.action {
            Action::Rename { from, to } => {
                vec![self.writing.renamed(cut(self.text, place), range, from, to)?]
            }
            Action::Set(value) => vec![(range, self.writing.value(value)?)],
            action => {
                let outline = self.outline()?;
                match action {
                    Action::TakeOut => vec![outline.taken_out(outline.at(place)?)?],
                    Action::TakeOutItem => vec![outline.item_taken_out(outline.at(place)?)?],
                    Action::Withdraw(field) => {
                        let key = outline.field(outline.owner(place)?.value, field)?;
                        vec![outline.taken_out(key)?]
                    }
                    Action::Give(field, value) => {
                        let value = outline.writing.value(value)?;
                        let owner = outline.owner(place)?;
                        match outline.field(owner.value, field) {
                            Some(key) => vec![(outline.value_of(key)?, value)],
                            None => vec![outline.given(owner, field, &value)?],
                        }
                    }
                    Action::Append(field, name) => {
                        vec![outline.appended(outline.owner(place)?, field, name)?]
                    }
                    Action::TakeOutBehind => vec![outline.taken_out_behind(outline.at(place)?)?],
                    Action::AppendBeside(names) => {
                        let list = outline.link(outline.at(place)?).parent?;
                        vec![outline.appended_to(list, names)?]
                    }
                    Action::MoveBefore(other) => outline.moved(outline.at(place)?, outline.at(*other)?)?,
                    Action::Rename { .. } | Action::Set(_) => return None,
                }
            }
        };
        work::count(patches.len());
        let source = self.source;
        let edit = |(range, text): Patch| Edit { source, span: Span::new(range.start, range.end), text };
        Some(patches.into_iter().map(edit).collect())
    }

    fn outline(&self) -> Option<&Outline<'a>> {
        let (text, writing) = (self.text, self.writing);
        let syntax = writing.0?;
        let new = |tree| Outline::new(Lines::new(text), writing, tree);
        self.outline.get_or_init(|| syntax.parse(text).ok().map(new)).as_ref()
    }
}

/// A text by its lines. Everything may stand on one: what is asked of many places is found without going to its ends.
#[derive(Clone, Copy)]
pub(super) struct Lines<'a> {
    pub(super) text: &'a str,
    /// The line break that the text uses.
    pub(super) line_break: &'static str,
}

impl<'a> Lines<'a> {
    fn new(text: &'a str) -> Self {
        let first = text.find('\n').unwrap_or(0);
        let line_break = if text[..first].ends_with('\r') { "\r\n" } else { "\n" };
        Self { text, line_break }
    }

    /// Where the line of an offset begins.
    pub(super) fn start(self, at: usize) -> usize {
        let start = self.text[..at].rfind('\n').map_or(0, |newline| newline + 1);
        work::count(at - start);
        start
    }

    /// Where the line of an offset ends, before its line break.
    pub(super) fn end(self, at: usize) -> usize {
        let end = self.text[at..].find('\n').map_or(self.text.len(), |newline| at + newline);
        work::count(end - at);
        if self.text[at..end].ends_with('\r') { end - 1 } else { end }
    }

    /// Where the line after that of an offset begins.
    pub(super) fn next(self, at: usize) -> usize {
        let next = self.text[at..].find('\n').map_or(self.text.len(), |newline| at + newline + 1);
        work::count(next - at);
        next
    }

    /// What stands before an offset on its line.
    pub(super) fn before(self, at: usize) -> &'a str {
        &self.text[self.start(at)..at]
    }

    /// What stands before an offset on its line, if that is nothing but space.
    pub(super) fn indent(self, at: usize) -> Option<&'a str> {
        self.before_of(at, char::is_whitespace)
    }

    /// What stands before an offset on its line, if that is the dash of a list's item.
    pub(super) fn dash(self, at: usize) -> Option<&'a str> {
        let before = self.before_of(at, |letter| letter.is_whitespace() || letter == '-')?;
        (before.trim() == "-").then_some(before)
    }

    /// What stands before an offset on its line, if it is made of some letters only.
    fn before_of(self, at: usize, is_one: impl Fn(char) -> bool) -> Option<&'a str> {
        let rest = self.text[..at].trim_end_matches(|letter| letter != '\n' && is_one(letter));
        work::count(at - rest.len());
        (rest.is_empty() || rest.ends_with('\n')).then(|| &self.text[rest.len()..at])
    }

    /// Whether nothing but a comment stands on the line behind an offset.
    pub(super) fn ends_after(self, at: usize) -> bool {
        let is_space = |letter: char| letter != '\n' && letter.is_whitespace();
        let rest = self.text[at..].trim_start_matches(is_space);
        rest.is_empty() || rest.starts_with(['\n', '#'])
    }
}
