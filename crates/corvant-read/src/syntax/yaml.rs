//! YAML 1.2 text to a tree. The only module that knows the YAML crate.
//!
//! The crate reports events with byte places; what it leaves to its caller is done here: the kinds of plain
//! values (YAML 1.2 core schema), aliases and merge keys within a bounded size, and what a second document means.

use super::scalar::kind_of_plain;
use super::{DEPTH_LIMIT, NodeId, NodeKind, SyntaxError, Tree, plain};
use corvant_core::source::Span;
use foldhash::{HashMap, HashMapExt};
use granit_parser::{ErrorKind, Event, Parser, ScalarStyle, ScanError, Tag, options};

/// How many nodes aliases and merge keys may add to one file. A file of a few hundred bytes can ask for
/// billions; a million is far beyond what a manifest has and takes some ten milliseconds.
pub const ALIAS_LIMIT: usize = 1_000_000;

/// The tree of a text without byte-order mark. What follows a first document is refused.
///
/// A plain text, as nearly all are, is read without the library, to the same tree.
pub fn parse(text: &str) -> Result<Tree<'_>, SyntaxError> {
    plain::parse(text).map_or_else(|| parse_with_library(text), Ok)
}

/// The tree of a text, read with the library whatever it holds.
pub fn parse_with_library(text: &str) -> Result<Tree<'_>, SyntaxError> {
    parse_as(text, Manner::default())
}

/// What else is read than one document of plain values.
#[derive(Debug, Default, Clone, Copy)]
pub struct Manner {
    /// A value with a tag of its own (`!ref gate`) is a map with the tag as key: `{ "!ref": gate }`.
    pub local_tags: bool,
    /// There may be several documents: they are the items of a list.
    pub documents: bool,
}

/// The tree of a text that may hold more.
pub fn parse_as(text: &str, manner: Manner) -> Result<Tree<'_>, SyntaxError> {
    let options = options! {
        flow_nesting_limit: DEPTH_LIMIT,
        block_nesting_limit: DEPTH_LIMIT,
        emit_unresolved_aliases: true,
    };
    let mut builder = YamlBuilder {
        tree: Tree::new(text),
        anchors: HashMap::new(),
        merging: Vec::new(),
        added: 0,
        documents: 0,
        manner,
        tagged: Vec::new(),
    };
    if manner.documents {
        builder.tree.open(NodeKind::List, Span::at(0));
    }
    for event in Parser::new_from_str_with_options(text, options) {
        let (event, span) = event.map_err(|error| scan_error(text, &error))?;
        let bytes = span.byte_range().unwrap_or(0..0);
        builder.event(event, Span::new(bytes.start, bytes.end.max(bytes.start)))?;
    }
    if manner.documents {
        builder.tree.close(text.len() as u32);
    }
    Ok(builder.tree)
}

fn scan_error(text: &str, error: &ScanError) -> SyntaxError {
    let offset = error.marker().byte_offset().unwrap_or(0).min(text.len());
    let length = text[offset..].chars().next().filter(|next| !next.is_control()).map_or(0, char::len_utf8);
    let span = Span::new(offset, offset + length);
    match error.kind() {
        ErrorKind::RecursionLimitExceeded => SyntaxError::too_deep(span),
        _ => SyntaxError::malformed("YAML", &error.info(), span),
    }
}

struct YamlBuilder<'text> {
    tree: Tree<'text>,
    anchors: HashMap<usize, NodeId>,
    /// For every open map: whether it has a merge key.
    merging: Vec<bool>,
    added: usize,
    documents: usize,
    manner: Manner,
    /// For every open list and map: whether a map with its tag is around it.
    tagged: Vec<bool>,
}

impl YamlBuilder<'_> {
    fn event(&mut self, event: Event<'_>, span: Span) -> Result<(), SyntaxError> {
        match event {
            Event::DocumentStart(..) => {
                self.documents += 1;
                if self.documents > 1 && !self.manner.documents {
                    let message = "a second document begins here; a manifest is one document";
                    return Err(SyntaxError::new(message, span));
                }
            }
            Event::Scalar(text, style, anchor, tag) => {
                let empty = style == ScalarStyle::Plain && span.start == span.end;
                let (text, kind) = if empty { ("", NodeKind::Null) } else { (&*text, kind_of(&text, style)) };
                let around = self.open_tag(tag.as_deref(), span);
                let kind = tag.and_then(|tag| tag.core_suffix().and_then(kind_of_tag)).unwrap_or(kind);
                let id = self.tree.scalar(kind, span, text);
                if around.is_some() {
                    self.tree.close(span.end);
                }
                if text == "<<" && style == ScalarStyle::Plain && self.merging.last() == Some(&false) {
                    *self.merging.last_mut().expect("looked at above") = true;
                }
                self.remember(anchor, around.unwrap_or(id));
            }
            Event::SequenceStart(_, anchor, tag) => {
                let around = self.open_tag(tag.as_deref(), span);
                self.tagged.push(around.is_some());
                let id = self.tree.open(NodeKind::List, span);
                self.remember(anchor, around.unwrap_or(id));
            }
            Event::MappingStart(_, anchor, tag) => {
                let around = self.open_tag(tag.as_deref(), span);
                self.tagged.push(around.is_some());
                let id = self.tree.open(NodeKind::Map, span);
                self.remember(anchor, around.unwrap_or(id));
                self.merging.push(false);
            }
            Event::SequenceEnd => {
                self.tree.close(span.end);
                self.close_tag(span);
            }
            Event::MappingEnd => {
                let id = self.tree.close(span.end);
                if let (Some(true), Some(id)) = (self.merging.pop(), id) {
                    self.merge(id)?;
                }
                self.close_tag(span);
            }
            Event::Alias(anchor) => self.alias(anchor, span)?,
            Event::UnresolvedAlias(name) => {
                let message = format!("the alias *{name} has no anchor &{name} before it");
                return Err(SyntaxError::new(message, span));
            }
            _ => {}
        }
        Ok(())
    }

    /// Begins the map around a value with a tag that is not one of the standard's, if such maps are asked for.
    fn open_tag(&mut self, tag: Option<&Tag>, span: Span) -> Option<NodeId> {
        let tag = tag.filter(|tag| self.manner.local_tags && !tag.is_yaml_core_schema())?;
        let around = self.tree.open(NodeKind::Map, span);
        self.tree.scalar(NodeKind::Text, span, &tag.to_string());
        Some(around)
    }

    fn close_tag(&mut self, span: Span) {
        if self.tagged.pop() == Some(true) {
            self.tree.close(span.end);
        }
    }

    fn remember(&mut self, anchor: usize, id: NodeId) {
        if anchor > 0 {
            self.anchors.insert(anchor, id);
        }
    }

    fn alias(&mut self, anchor: usize, span: Span) -> Result<(), SyntaxError> {
        let Some(&id) = self.anchors.get(&anchor) else {
            return Err(SyntaxError::new("an alias has no anchor before it", span));
        };
        if self.tree.is_open(id) {
            return Err(SyntaxError::new("an alias stands inside its own anchor, without end", span));
        }
        self.count(self.tree.size(id), span)?;
        self.tree.copy(id);
        Ok(())
    }

    fn count(&mut self, nodes: usize, span: Span) -> Result<(), SyntaxError> {
        self.added += nodes;
        if self.added > ALIAS_LIMIT {
            let message = format!("its aliases repeat more than {ALIAS_LIMIT} values");
            return Err(SyntaxError::new(message, span));
        }
        Ok(())
    }

    /// Sees to it that every merge key of a map has maps to merge.
    fn merge(&mut self, map: NodeId) -> Result<(), SyntaxError> {
        let tree = &self.tree;
        let mut children = tree.children(map);
        while let (Some(key), Some(value)) = (children.next(), children.next()) {
            let wrong = match tree.kind(value) {
                _ if !tree.is_merge_key(key) => None,
                NodeKind::List => tree.children(value).find(|&item| tree.kind(item) != NodeKind::Map),
                NodeKind::Map => None,
                _ => Some(value),
            };
            if let Some(wrong) = wrong {
                let message = "a merge key takes a map or a list of maps";
                return Err(SyntaxError::new(message, tree.span(wrong)));
            }
        }
        drop(children);
        self.tree.set_merging(map);
        Ok(())
    }
}

/// The kind of a plain value: YAML 1.2.2, section 10.3.2 (core schema). Anything quoted is text.
fn kind_of(text: &str, style: ScalarStyle) -> NodeKind {
    if style == ScalarStyle::Plain { kind_of_plain(text) } else { NodeKind::Text }
}

fn kind_of_tag(suffix: &str) -> Option<NodeKind> {
    match suffix {
        "str" => Some(NodeKind::Text),
        "int" => Some(NodeKind::Integer),
        "float" => Some(NodeKind::Number),
        "bool" => Some(NodeKind::Boolean),
        "null" => Some(NodeKind::Null),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::tests::{drawn, value_text};
    use rstest::rstest;
    use std::fmt::Write;

    #[rstest]
    #[case::kinds(
        "a: 1\nb: 1.5\nc: yes\nd: true\ne:\nf: ~\ng: '1'",
        "{a=i:1 b=n:1.5 c='yes' d=b:true e=- f=- g='1'}"
    )]
    #[case::odd_numbers(
        "[0o17, 0o9, 0xFf, -1, +2, .5, 1e3, 1., ., .inf, 1_0]",
        "[i:0o17 '0o9' i:0xFf i:-1 i:+2 n:.5 n:1e3 n:1. '.' n:.inf '1_0']"
    )]
    #[case::block_and_flow("a:\n  - b\n  - {c: [d, e]}", "{a=['b' {c=['d' 'e']}]}")]
    #[case::escapes("a: \"x\\u0041\\n\"\nb: 'it''s'", "{a='xA\n' b='it's'}")]
    #[case::folded("a: >-\n  one\n  two\nb: |\n  x\n", "{a='one two' b='x\n'}")]
    #[case::tags("a: !!str 12\nb: !velmora text", "{a='12' b='text'}")]
    #[case::alias("a: &x {b: 1}\nc: *x", "{a={b=i:1} c={b=i:1}}")]
    #[case::alias_of_a_key("&k a: 1\nb: *k", "{a=i:1 b='a'}")]
    #[case::merge_own_wins("a: &x {b: 1, c: 2}\nd: {c: 3, <<: *x}", "{a={b=i:1 c=i:2} d={c=i:3 b=i:1}}")]
    #[case::merge_earlier_wins(
        "- &x {b: 1}\n- &y {b: 2, c: 3}\n- <<: [*x, *y]",
        "[{b=i:1} {b=i:2 c=i:3} {b=i:1 c=i:3}]"
    )]
    #[case::merge_of_merge(
        "- &x {b: 1}\n- &y {<<: *x, c: 2}\n- {<<: *y, d: 3}",
        "[{b=i:1} {c=i:2 b=i:1} {d=i:3 c=i:2 b=i:1}]"
    )]
    #[case::anchor_inside_a_merged_map(
        "- &x {b: &i 1}\n- {<<: &y {c: &j 2}, d: &k 3}\n- [*i, *j, *k, *y]",
        "[{b=i:1} {d=i:3 c=i:2} [i:1 i:2 i:3 {c=i:2}]]"
    )]
    #[case::quoted_is_no_merge("a: {'<<': 1}", "{a={<<=i:1}}")]
    #[case::repeated_keys_stay_visible("a: 1\na: 2", "{a=i:1 a=i:2}")]
    #[case::empty("", "")]
    #[case::only_comments("# nothing\n", "")]
    #[case::merge_of_text("a: {<<: b}", "error at 8: a merge key takes a map or a list of maps")]
    #[case::alias_in_itself("a: &x [*x]", "error at 7: an alias stands inside its own anchor, without end")]
    #[case::unknown_alias("a: *x", "error at 3: the alias *x has no anchor &x before it")]
    #[case::two_documents(
        "a: 1\n---\nb: 2",
        "error at 5: a second document begins here; a manifest is one document"
    )]
    fn a_text_becomes_a_tree(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(drawn(parse(text)), expected);
    }

    #[rstest]
    #[case::plain("k: vehicles.fleet # x", "vehicles.fleet")]
    #[case::single_quoted("k: 'a b' # x", "'a b'")]
    #[case::double_quoted("k: \"a\\tb\"", "\"a\\tb\"")]
    #[case::after_other_scripts("ž: 'ů'\nk: 停車", "停車")]
    #[case::list("k: [a, b] # x", "[a, b]")]
    #[case::map("k: {a: b}", "{a: b}")]
    fn a_value_keeps_its_place(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(value_text(&parse(text).unwrap()), expected);
    }

    #[rstest]
    #[case::flow_lists("[", 100_000)]
    #[case::flow_maps("{a: ", 100_000)]
    #[case::block_lists("- ", 100_000)]
    fn deep_nesting_is_an_error_with_a_place(#[case] opening: &str, #[case] depth: usize) {
        let error = parse(&opening.repeat(depth)).unwrap_err();
        assert!(error.message.contains("nested more than 250 deep"), "{}", error.message);
        assert!((error.span.start as usize) < 300 * opening.len());
    }

    #[test]
    fn an_alias_bomb_is_an_error_with_a_place() {
        let mut text = "a0: &a0 [x, x, x, x, x, x, x, x, x]\n".to_owned();
        for level in 1..12 {
            let item = format!("*a{},", level - 1).repeat(9);
            writeln!(text, "a{level}: &a{level} [{item}]").unwrap();
        }
        let error = parse(&text).unwrap_err();
        assert!(error.message.contains("aliases repeat more than 1000000 values"), "{}", error.message);
    }
}
