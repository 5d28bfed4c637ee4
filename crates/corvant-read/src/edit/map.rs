//! Fields of maps: given, and taken out.

use super::document::{Lines, Outline, Owner};
use super::value::Patch;
use crate::syntax::{ManifestSyntax, NodeId, NodeKind};

impl Outline<'_> {
    /// A map with one more field.
    pub(super) fn given(&self, owner: Owner, name: &str, value: &str) -> Option<Patch> {
        let field = self.writing.field(name, value)?;
        match self.tree.kind(owner.value) {
            NodeKind::Map if self.is_flow(owner.value) => {
                Some(self.given_between_braces(owner.value, &field))
            }
            NodeKind::Map => self.given_on_a_line(owner.value, &field),
            NodeKind::Null if self.writing.0 == Some(ManifestSyntax::Yaml) => {
                let colon = self.colon(owner)?;
                Some((colon..colon, format!(" {{ {field} }}")))
            }
            _ => None,
        }
    }

    /// The place behind the colon of a key that has no value.
    fn colon(&self, owner: Owner) -> Option<usize> {
        let span = self.tree.span(owner.value);
        let end = self.end(owner.key?);
        let rest = &self.lines.text[end..];
        let at = end + rest.len() - rest.trim_start_matches([' ', '\t']).len();
        (span.start == span.end && self.lines.text[at..].starts_with(':') && self.lines.ends_after(at + 1))
            .then_some(at + 1)
    }

    fn given_between_braces(&self, map: NodeId, field: &str) -> Patch {
        let Some(last) = self.link(map).last else {
            let inside = self.start(map) + 1;
            return (inside..self.end(map) - 1, format!(" {field} "));
        };
        let at = self.end(last);
        let key = self.link(last).partner.unwrap_or(last);
        (at..at, format!(",{}{field}", self.before_next(self.start(key))))
    }

    /// Whether a field is written out where it stands, and its line ends with it.
    fn is_on_a_line(&self, key: NodeId, value: NodeId) -> bool {
        let is_here = !self.tree.is_behind_a_dot(key) && !self.is_header(value);
        let is_plain = self.tree.is_plain(value) || self.is_flow(value);
        is_here && is_plain && self.lines.ends_after(self.end(value).max(self.end(key)))
    }

    /// Fields that stand on lines of their own: the new one follows the first that ends on the line where it begins.
    fn given_on_a_line(&self, map: NodeId, field: &str) -> Option<Patch> {
        let children: Vec<NodeId> = self.tree.children(map).collect();
        let Some(pair) = children.chunks_exact(2).find(|pair| self.is_on_a_line(pair[0], pair[1])) else {
            let at = self.lines.end(self.end(map).min(self.start(map) + self.tree.source_of(map).len()));
            return self.is_header(map).then(|| (at..at, format!("{}{field}", self.lines.line_break)));
        };
        let before = self.lines.before(self.start(pair[0]));
        // The first field of a list's item stands behind its dash.
        let indent: String = before.chars().map(|letter| if letter == '\t' { '\t' } else { ' ' }).collect();
        let at = self.lines.end(self.end(pair[1]).max(self.end(pair[0])));
        Some((at..at, format!("{}{indent}{field}", self.lines.line_break)))
    }

    /// A field less; of a map that is then empty in a list, the item.
    pub(super) fn field_taken_out(&self, key: NodeId) -> Option<Patch> {
        let link = self.link(key);
        let (map, value) = (link.parent?, link.partner?);
        let is_only = self.tree.children(map).nth(2).is_none();
        if is_only && self.link(map).parent.is_some_and(|list| self.tree.kind(list) == NodeKind::List) {
            return self.taken_out(map);
        }
        if self.is_flow(map) {
            return Some(between_brackets(self.lines, self.start(key), self.end(value).max(self.end(key))));
        }
        if self.is_header(value)
            || self.tree.kind(value) == NodeKind::List && !self.is_flow(value) && self.is_under_headers(value)
        {
            return self.section_taken_out(value);
        }
        let end = self.end(value).max(self.end(key));
        let stands_alone = self.lines.indent(self.start(key)).is_some() && self.lines.ends_after(end);
        stands_alone.then(|| (self.lines.start(self.start(key))..self.lines.next(end), String::new()))
    }

    fn is_under_headers(&self, list: NodeId) -> bool {
        self.tree.children(list).next().is_some_and(|item| self.is_header(item))
    }

    /// What is under a header less, if nothing else is written between.
    pub(super) fn section_taken_out(&self, section: NodeId) -> Option<Patch> {
        let inside = section.index()..section.index() + self.tree.size(section);
        let starts = inside.clone().map(|node| self.start(NodeId::new(node)));
        let start = self.lines.start(starts.min()?);
        let mut end = self.lines.next(self.end(section));
        let is_outside = |node: NodeId| !inside.contains(&node.index()) && !self.is_on_the_way(node, section);
        if self.plain_in(start..end).any(is_outside) {
            return None;
        }
        if self.lines.text[end..self.lines.end(end)].trim().is_empty() {
            end = self.lines.next(end);
        }
        Some((start..end, String::new()))
    }

    /// Whether a key is one that leads to a node: it stands in the same header.
    fn is_on_the_way(&self, key: NodeId, node: NodeId) -> bool {
        let mut around = std::iter::successors(Some(node), |&node| self.link(node).parent);
        around.any(|node| self.link(node).partner == Some(key))
    }
}

/// A part between brackets less, with its comma, and with its line if it has one to itself.
pub(super) fn between_brackets(lines: Lines<'_>, start: usize, end: usize) -> Patch {
    let text = lines.text;
    let after = end + text[end..].len() - text[end..].trim_start().len();
    let before = text[..start].trim_end().len();
    if text[after..].starts_with(',') {
        let comma = after + 1;
        if lines.indent(start).is_some() && lines.ends_after(comma) {
            return (lines.start(start)..lines.next(comma), String::new());
        }
        let spaces = text[comma..].len() - text[comma..].trim_start_matches(' ').len();
        return (start..comma + spaces, String::new());
    }
    if text[..before].ends_with(',') {
        return (before - 1..end, String::new());
    }
    (before..after, String::new())
}
