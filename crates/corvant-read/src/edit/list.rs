//! Items of lists: added, taken out and moved.

use super::document::{Outline, Owner};
use super::map::between_brackets;
use super::value::Patch;
use crate::syntax::{NodeId, NodeKind};

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

    /// An item with a dash on lines of its own.
    fn line_taken_out(&self, list: NodeId, item: NodeId) -> Option<Patch> {
        let (start, end) = (self.start(item), self.end(item));
        let is_dash = self.lines.before(start).trim() == "-";
        if !is_dash || !self.lines.ends_after(end) {
            return None;
        }
        if self.tree.children(list).count() > 1 {
            return Some((self.lines.start(start)..self.lines.next(end), String::new()));
        }
        // A list that was emptied is a list still.
        let key = self.link(list).partner?;
        let colon = self.end(key) + self.lines.0[self.end(key)..].find(':')? + 1;
        Some((colon..self.lines.end(end), " []".to_owned()))
    }

    /// One more name in the list under a field.
    pub(super) fn appended(&self, owner: Owner, field: &str, name: &str) -> Option<Patch> {
        let name = self.writing.text(name)?;
        let Some(key) = self.field(owner.value, field) else {
            return self.given(owner, field, &format!("[{name}]"));
        };
        let list = self.link(key).partner?;
        if self.tree.kind(list) != NodeKind::List {
            return None;
        }
        let Some(last) = self.tree.children(list).last() else {
            let inside = self.start(list) + 1;
            return Some((inside..self.end(list) - 1, name));
        };
        let (start, end) = (self.start(last), self.end(last));
        let before = self.lines.before(start);
        if self.is_flow(list) {
            let has_own_line = before.trim().is_empty() && start > self.start(list);
            let between =
                if has_own_line { format!(",{}{before}", self.lines.line_break()) } else { ", ".to_owned() };
            return Some((end..end, format!("{between}{name}")));
        }
        let at = self.lines.end(end);
        (before.trim() == "-").then(|| (at..at, format!("{}{before}{name}", self.lines.line_break())))
    }

    /// An item before an earlier one of the same list: each text between goes one place down, so that layout stays.
    pub(super) fn moved(&self, item: NodeId, before: NodeId) -> Option<Vec<Patch>> {
        let list = self.link(item).parent.filter(|_| self.link(before).parent == self.link(item).parent)?;
        let is_between = |node: &NodeId| (before.index()..=item.index()).contains(&node.index());
        let between: Vec<NodeId> = self.tree.children(list).filter(is_between).collect();
        let is_simple =
            self.tree.kind(list) == NodeKind::List && between.iter().all(|&node| self.tree.is_plain(node));
        if !is_simple || between.len() < 2 {
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
}
