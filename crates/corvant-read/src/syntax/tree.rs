//! The tree with places: one flat array of nodes in the order they are written.
//!
//! A list or map is followed by its children; `next` of a node is the first node after all that is in it.
//! Children of a map are keys and values in turn. Texts are slices of the source wherever they can be.

use corvant_core::source::{Span, cut};
use corvant_core::work;
use foldhash::{HashMap, HashSet, HashSetExt};
use std::ops::Range;

/// What a node is. Plain values are told apart as the syntax's standard says.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum NodeKind {
    /// Nothing at all, or a written null.
    Null,
    /// `true` or `false`.
    Boolean,
    /// A whole number.
    Integer,
    /// A number with a fraction or an exponent.
    Number,
    /// Text.
    Text,
    /// A list.
    List,
    /// A map.
    Map,
}

impl NodeKind {
    /// The kind with its article, for messages.
    pub fn words(self) -> &'static str {
        match self {
            Self::Null => "nothing",
            Self::Boolean => "true or false",
            Self::Integer => "a whole number",
            Self::Number => "a number",
            Self::Text => "text",
            Self::List => "a list",
            Self::Map => "a map",
        }
    }
}

/// The position of a node in its tree.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Hash)]
pub struct NodeId(u32);

impl NodeId {
    /// The node at a position.
    pub(crate) fn new(index: usize) -> Self {
        Self(index as u32)
    }

    /// Its position among the nodes of its tree, in the order in which they are written.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

const SPILLED: u32 = 1 << 31;

#[derive(Clone, Copy, PartialEq, Debug)]
struct Node {
    kind: NodeKind,
    merging: bool,
    span: Span,
    next: u32,
    text_start: u32,
    /// Length of the text; the top bit says that it stands in `spill`, not in the source.
    text_len: u32,
}

/// What is to be written into a tree.
enum Emit {
    Node(NodeId),
    /// The beginning of a list.
    Open(Span),
    /// The end of a list or map.
    Close(u32),
}

/// A file as a tree. Made by a syntax, read by a reader, then dropped.
#[derive(Debug)]
pub struct Tree<'text> {
    source: &'text str,
    spill: String,
    nodes: Vec<Node>,
    open: Vec<u32>,
}

impl<'text> Tree<'text> {
    /// Whether two trees hold the same nodes with the same texts at the same places.
    pub fn is_as(&self, other: &Self) -> bool {
        self.nodes == other.nodes && self.spill == other.spill
    }

    /// An empty tree over `source`.
    pub(crate) fn new(source: &'text str) -> Self {
        Self { source, spill: String::new(), nodes: Vec::with_capacity(source.len() / 8), open: Vec::new() }
    }

    /// The text that it is of.
    pub(crate) fn source(&self) -> &'text str {
        self.source
    }

    /// The outermost node, if the text holds any.
    pub fn root(&self) -> Option<NodeId> {
        (!self.nodes.is_empty()).then_some(NodeId(0))
    }

    /// How many nodes there are.
    pub fn len(&self) -> usize {
        self.nodes.len()
    }

    /// Whether there is no node.
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty()
    }

    /// Whether a node is neither a list nor a map.
    pub(crate) fn is_plain(&self, id: NodeId) -> bool {
        !matches!(self.kind(id), NodeKind::List | NodeKind::Map)
    }

    /// What a node is.
    pub fn kind(&self, id: NodeId) -> NodeKind {
        self.node(id).kind
    }

    /// Where a node is written. What came in through an alias has the place of its anchor's text.
    pub fn span(&self, id: NodeId) -> Span {
        self.node(id).span
    }

    /// The text of a plain value, without quotes and with escapes resolved; empty for lists and maps.
    pub fn text(&self, id: NodeId) -> &str {
        let node = self.node(id);
        let span = Span { start: node.text_start, end: node.text_start + (node.text_len & !SPILLED) };
        cut(if node.text_len & SPILLED == 0 { self.source } else { &self.spill }, span)
    }

    /// The source text of a node, as it is written.
    pub fn source_of(&self, id: NodeId) -> &'text str {
        cut(self.source, self.node(id).span)
    }

    /// The source text of a place.
    pub(crate) fn written(&self, span: Span) -> &'text str {
        cut(self.source, span)
    }

    /// Whether a key is a part of a dotted one, behind its first dot.
    pub fn is_behind_a_dot(&self, key: NodeId) -> bool {
        self.written(Span { start: 0, end: self.node(key).span.start }).ends_with('.')
    }

    /// The place of a part of a plain value's text, given in bytes of the text; the whole value's place if
    /// the text is not written as it is (escapes, folded lines).
    pub fn part(&self, id: NodeId, part: Range<usize>) -> Span {
        let node = self.node(id);
        if node.text_len & SPILLED != 0 {
            return node.span;
        }
        let start = node.text_start as usize;
        Span::new(start + part.start, start + part.end)
    }

    /// The elements of a list; for a map keys and values in turn; nothing for a plain value.
    pub fn children(&self, id: NodeId) -> impl Iterator<Item = NodeId> + '_ {
        let end = self.node(id).next;
        let mut at = id.0 + 1;
        std::iter::from_fn(move || {
            (at < end).then(|| {
                work::count(1);
                let child = NodeId(at);
                at = self.node(child).next;
                child
            })
        })
    }

    /// Keys and values of a map, in the order they are written; then what merge keys bring, own keys first
    /// and earlier maps before later ones.
    pub fn fields(&self, id: NodeId) -> impl Iterator<Item = (NodeId, NodeId)> + '_ {
        let merging = self.node(id).merging;
        let merged = if merging { self.merged_fields(id) } else { Vec::new() };
        let mut children = (!merging).then(|| self.children(id)).into_iter().flatten();
        std::iter::from_fn(move || Some((children.next()?, children.next()?))).chain(merged)
    }

    /// The first value of a map under a key; nothing else has any.
    pub(crate) fn field(&self, id: NodeId, name: &str) -> Option<NodeId> {
        let is_map = self.kind(id) == NodeKind::Map;
        let mut fields = is_map.then(|| self.fields(id)).into_iter().flatten();
        fields.find(|(key, _)| self.text(*key) == name).map(|(_, value)| value)
    }

    fn merged_fields(&self, id: NodeId) -> Vec<(NodeId, NodeId)> {
        let mut known = HashSet::new();
        let mut fields = Vec::new();
        let mut waiting = vec![id];
        while let Some(map) = waiting.pop() {
            let mut brought = Vec::new();
            let mut children = self.children(map);
            while let (Some(key), Some(value)) = (children.next(), children.next()) {
                if self.node(map).merging && self.is_merge_key(key) {
                    match self.kind(value) {
                        NodeKind::List => brought.extend(self.children(value)),
                        _ => brought.push(value),
                    }
                } else if known.insert(self.text(key)) || map == id {
                    // A key that the map itself repeats stays visible: that is a finding.
                    fields.push((key, value));
                }
            }
            waiting.extend(brought.into_iter().rev());
        }
        fields
    }

    /// Whether a key is `<<`, written without quotes.
    pub(crate) fn is_merge_key(&self, key: NodeId) -> bool {
        let node = self.node(key);
        node.kind == NodeKind::Text && node.span.end - node.span.start == 2 && self.text(key) == "<<"
    }

    fn node(&self, id: NodeId) -> &Node {
        &self.nodes[id.0 as usize]
    }

    /// Begins a list or map.
    pub(crate) fn open(&mut self, kind: NodeKind, span: Span) -> NodeId {
        let id = self.push(kind, span, 0, 0);
        self.open.push(id.0);
        id
    }

    /// Ends the innermost open list or map at byte `end`, and says which it was.
    pub(crate) fn close(&mut self, end: u32) -> Option<NodeId> {
        let id = self.open.pop()?;
        let next = self.nodes.len() as u32;
        let node = &mut self.nodes[id as usize];
        node.next = next;
        node.span.end = node.span.end.max(end);
        Some(NodeId(id))
    }

    /// Adds a plain value. `text` is kept as a slice of the source if it stands there as it is.
    pub(crate) fn scalar(&mut self, kind: NodeKind, span: Span, text: &str) -> NodeId {
        let written = self.written(span);
        let at = if text.len() > written.len() {
            None
        } else if written.starts_with(text) {
            Some(0)
        } else {
            // A quoted text without escapes begins after its quote.
            written.get(1..).filter(|rest| rest.starts_with(text)).map(|_| 1)
        };
        if let Some(offset) = at {
            return self.push(kind, span, span.start + offset, text.len() as u32);
        }
        let start = self.spill.len() as u32;
        self.spill.push_str(text);
        self.push(kind, span, start, text.len() as u32 | SPILLED)
    }

    fn push(&mut self, kind: NodeKind, span: Span, text_start: u32, text_len: u32) -> NodeId {
        let id = self.nodes.len() as u32;
        work::count(1);
        self.nodes.push(Node { kind, merging: false, span, next: id + 1, text_start, text_len });
        NodeId(id)
    }

    /// How many nodes a node and all that is in it are.
    pub(crate) fn size(&self, id: NodeId) -> usize {
        (self.node(id).next - id.0) as usize
    }

    /// Whether a list or map has begun and not ended.
    pub(super) fn is_open(&self, id: NodeId) -> bool {
        self.open.contains(&id.0)
    }

    /// Adds a copy of a finished node and all that is in it, with the places of the original.
    pub(super) fn copy(&mut self, id: NodeId) -> NodeId {
        let from = id.0 as usize..self.node(id).next as usize;
        let to = self.nodes.len() as u32;
        self.nodes.extend_from_within(from);
        for node in &mut self.nodes[to as usize..] {
            node.next = node.next - id.0 + to;
        }
        NodeId(to)
    }

    /// The same tree with a key that stands several times in one map standing there once, with a list of its values.
    #[must_use]
    pub fn with_repeated_as_lists(mut self) -> Self {
        let old = std::mem::take(&mut self.nodes);
        let old = Self {
            source: self.source,
            spill: std::mem::take(&mut self.spill),
            nodes: old,
            open: Vec::new(),
        };
        let mut waiting: Vec<Emit> = old.root().map(Emit::Node).into_iter().collect();
        while let Some(next) = waiting.pop() {
            match next {
                Emit::Close(end) => _ = self.close(end),
                Emit::Open(span) => _ = self.open(NodeKind::List, span),
                Emit::Node(id) => old.emit(id, &mut self, &mut waiting),
            }
        }
        Self { spill: old.spill, ..self }
    }

    /// Begins to write a node into another tree, and says what comes then, the last first.
    fn emit(&self, id: NodeId, to: &mut Self, waiting: &mut Vec<Emit>) {
        let node = *self.node(id);
        let at = to.nodes.len() as u32;
        to.nodes.push(Node { next: at + 1, ..node });
        if !matches!(node.kind, NodeKind::List | NodeKind::Map) {
            return;
        }
        to.open.push(at);
        let mut then: Vec<Emit> = Vec::new();
        if node.kind == NodeKind::List {
            then.extend(self.children(id).map(Emit::Node));
        } else {
            for (key, values) in self.values_by_key(id) {
                then.push(Emit::Node(key));
                let span =
                    Span { start: self.span(values[0]).start, end: self.span(values[values.len() - 1]).end };
                then.extend((values.len() > 1).then_some(Emit::Open(span)));
                then.extend(values.iter().copied().map(Emit::Node));
                then.extend((values.len() > 1).then_some(Emit::Close(span.end)));
            }
        }
        then.push(Emit::Close(node.span.end));
        waiting.extend(then.into_iter().rev());
    }

    /// The keys of a map, each once, with all their values; merge keys stay as they are.
    fn values_by_key(&self, map: NodeId) -> Vec<(NodeId, Vec<NodeId>)> {
        let mut values: Vec<(NodeId, Vec<NodeId>)> = Vec::new();
        let mut numbers: HashMap<&str, usize> = HashMap::default();
        let mut children = self.children(map);
        while let (Some(key), Some(value)) = (children.next(), children.next()) {
            let is_new = self.is_merge_key(key) || !self.is_plain(key);
            let number =
                if is_new { values.len() } else { *numbers.entry(self.text(key)).or_insert(values.len()) };
            match values.get_mut(number) {
                Some((_, known)) => known.push(value),
                None => values.push((key, vec![value])),
            }
        }
        values
    }

    /// Says that a map has merge keys, which [`Tree::fields`] then follows.
    pub(super) fn set_merging(&mut self, id: NodeId) {
        self.nodes[id.0 as usize].merging = true;
    }
}
