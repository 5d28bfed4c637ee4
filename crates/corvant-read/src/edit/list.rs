//! Items of lists: added, taken out and moved.

use super::document::{Outline, Owner};
use super::map::between_brackets;
use super::value::Patch;
use crate::syntax::{NodeId, NodeKind};

/// Over more items than this an item moves alone.
const FAR: usize = 32;

impl Outline<'_> {
    /// The item of a list or the field of a map that stands at a node less.
    pub(super) fn taken_out(&self, node: NodeId) -> Option<Patch> {
        let link = self.link(node);
        let parent = link.parent?;
        match self.tree.kind(parent) {
            NodeKind::Map if link.is_key => self.field_taken_out(node),
            NodeKind::List if self.is_flow(parent) => {
                Some(between_brackets(self.lines, self.start(node), self.end(node)))
            }
            NodeKind::List if self.is_header(node) => self.section_taken_out(node),
            NodeKind::List => self.line_taken_out(parent, node),
            _ => None,
        }
    }

    /// The item of a list in which a node is, however deep, less.
    pub(super) fn item_taken_out(&self, node: NodeId) -> Option<Patch> {
        let is_item = |node: &NodeId| {
            let parent = self.link(*node).parent;
            parent.is_some_and(|parent| self.tree.kind(parent) == NodeKind::List)
        };
        let item = std::iter::successors(Some(node), |&node| self.link(node).parent).find(is_item)?;
        self.taken_out(item)
    }

    /// A list without what stands in it behind a node.
    pub(super) fn taken_out_behind(&self, node: NodeId) -> Option<Patch> {
        let list = self.link(node).parent.filter(|&parent| self.tree.kind(parent) == NodeKind::List)?;
        let (end, last) = (self.end(node), self.link(list).last?);
        if self.is_flow(list) {
            return Some((end..self.end(last), String::new()));
        }
        let are_lines =
            self.lines.dash(self.start(node)).is_some() && self.lines.dash(self.start(last)).is_some();
        let lines = self.lines.next(end)..self.lines.next(self.end(last));
        (are_lines && self.lines.ends_after(end) && self.lines.ends_after(self.end(last)))
            .then_some((lines, String::new()))
    }

    /// An item with a dash on lines of its own.
    fn line_taken_out(&self, list: NodeId, item: NodeId) -> Option<Patch> {
        let (start, end) = (self.start(item), self.end(item));
        self.lines.dash(start).filter(|_| self.lines.ends_after(end))?;
        if self.tree.children(list).nth(1).is_some() {
            return Some((self.lines.start(start)..self.lines.next(end), String::new()));
        }
        // A list that was emptied is a list still.
        let key = self.link(list).partner?;
        let colon = self.end(key) + self.lines.text[self.end(key)..].find(':')? + 1;
        Some((colon..self.lines.end(end), " []".to_owned()))
    }

    /// One more name in the list under a field.
    pub(super) fn appended(&self, owner: Owner, field: &str, name: &str) -> Option<Patch> {
        let Some(key) = self.field(owner.value, field) else {
            return self.given(owner, field, &format!("[{}]", self.writing.text(name)?));
        };
        self.appended_to(self.link(key).partner?, &[name])
    }

    /// More names in a list.
    pub(super) fn appended_to(&self, list: NodeId, names: &[impl AsRef<str>]) -> Option<Patch> {
        if self.tree.kind(list) != NodeKind::List {
            return None;
        }
        let names: Option<Vec<String>> = names.iter().map(|name| self.writing.text(name.as_ref())).collect();
        let names = names?;
        let Some(last) = self.link(list).last else {
            let inside = self.start(list) + 1;
            return Some((inside..self.end(list) - 1, names.join(", ")));
        };
        let (start, end) = (self.start(last), self.end(last));
        let (before, at) = if self.is_flow(list) {
            (format!(",{}", self.before_next(start)), end)
        } else {
            (format!("{}{}", self.lines.line_break, self.lines.dash(start)?), self.lines.end(end))
        };
        Some((at..at, names.iter().map(|name| format!("{before}{name}")).collect()))
    }

    /// What stands between a comma and the next item of a list in brackets that is written as one of its items is.
    pub(super) fn before_next(&self, item: usize) -> String {
        match self.lines.indent(item) {
            Some(indent) => format!("{}{indent}", self.lines.line_break),
            None => " ".to_owned(),
        }
    }

    /// An item before an earlier one of the same list: each text between goes one place down, so that layout stays.
    /// Over many items it is the item alone that moves: edits do not grow with the way.
    pub(super) fn moved(&self, item: NodeId, before: NodeId) -> Option<Vec<Patch>> {
        let list = self.link(item).parent.filter(|_| self.link(before).parent == self.link(item).parent)?;
        if self.tree.kind(list) != NodeKind::List || item.index() <= before.index() {
            return None;
        }
        if item.index() - before.index() > FAR {
            return self.moved_far(list, item, before);
        }
        let between: Vec<NodeId> = (before.index()..=item.index()).map(NodeId::new).collect();
        if !between.iter().all(|&node| self.tree.is_plain(node)) {
            return None;
        }
        let written = |node: NodeId| self.tree.source_of(node).to_owned();
        let texts = std::iter::once(item).chain(between.iter().copied());
        let patches = between
            .iter()
            .zip(texts)
            .map(|(&place, text)| (self.start(place)..self.end(place), written(text)));
        Some(patches.collect())
    }

    /// An item before another, and gone where it was. With a dash its line moves as it is.
    fn moved_far(&self, list: NodeId, item: NodeId, before: NodeId) -> Option<Vec<Patch>> {
        let is_simple = self.tree.is_plain(item) && self.tree.is_plain(before);
        let gone = self.taken_out(item).filter(|_| is_simple)?;
        let at = self.start(before);
        let come = if self.is_flow(list) {
            (at..at, format!("{},{}", self.tree.source_of(item), self.before_next(at)))
        } else {
            let at = at - self.lines.dash(at)?.len();
            let line = self.lines.text[gone.0.clone()].trim_end_matches(['\r', '\n']);
            (at..at, format!("{line}{}", self.lines.line_break))
        };
        Some(vec![come, gone])
    }
}
