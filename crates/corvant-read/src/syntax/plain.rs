//! The plain subset of YAML that nearly all manifests are written in, read without the library.
//!
//! Block maps and lists, plain and quoted texts on one line, flow collections on one line, comments. Whatever
//! else a text holds — anything at all that is doubtful — makes the answer [`None`], and the library reads the
//! whole text. What is answered is the library's tree, node for node and place for place: tests hold the one
//! against the other, on good, bad and spoilt files.

use super::scalar::kind_of_plain;
use super::{NodeKind, Tree};
use corvant_core::source::Span;

/// Deeper nesting, and longer keys, are left to the library, which has limits of its own.
const DEPTH: usize = 100;
const KEY: usize = 1_000;

/// The tree of a text, if it is plain.
pub(super) fn parse(text: &str) -> Option<Tree<'_>> {
    if !is_plain_text(text) {
        return None;
    }
    let mut parser =
        Parser { text, bytes: text.as_bytes(), tree: Tree::new(text), blocks: Vec::new(), open: None };
    parser.lines()?;
    Some(parser.tree)
}

/// Whether a text has none of the characters that YAML gives a meaning of its own, or forbids.
fn is_plain_text(text: &str) -> bool {
    // Tabs and carriage returns among them.
    let is_control = |byte: &u8| (*byte < 0x20 && *byte != b'\n') || *byte == 0x7f;
    if text.as_bytes().iter().any(is_control) {
        return false;
    }
    text.is_ascii()
        || !text.chars().any(|letter| {
            matches!(
                letter,
                '\u{80}'..='\u{9f}' | '\u{2028}' | '\u{2029}' | '\u{feff}' | '\u{fffe}' | '\u{ffff}'
            )
        })
}

/// A block map or list that has begun and not ended.
struct Block {
    kind: NodeKind,
    indent: usize,
    /// A list whose items stand in the column of the map it is a value in.
    indentless: bool,
}

struct Parser<'text> {
    text: &'text str,
    bytes: &'text [u8],
    tree: Tree<'text>,
    blocks: Vec<Block>,
    /// A key without a value so far, by the place of its colon.
    open: Option<usize>,
}

/// What a line, or what follows a dash on it, holds.
enum Content {
    /// A field, whose key ends at the colon there.
    Field(usize),
    /// A value.
    Value,
}

/// A line with content: its first column, and the range of its bytes from the first that is no space.
#[derive(Clone, Copy)]
struct PlainLine {
    indent: usize,
    start: usize,
    end: usize,
}

impl Parser<'_> {
    fn lines(&mut self) -> Option<()> {
        let mut line = self.line_from(0)?;
        if line.indent != 0 {
            return None;
        }
        let kind = if self.begins_item(line) { NodeKind::List } else { NodeKind::Map };
        self.begin(kind, line.indent, line.start, false)?;
        loop {
            self.entry(line)?;
            let Some(next) = self.line_from(line.end) else { break };
            self.turn_to(next)?;
            line = next;
        }
        self.end_open();
        while self.blocks.pop().is_some() {
            self.tree.close(self.bytes.len() as u32);
        }
        Some(())
    }

    /// The first line with content from `at` on; `None` at the end.
    fn line_from(&self, mut at: usize) -> Option<PlainLine> {
        loop {
            let begin = at;
            while self.bytes.get(at) == Some(&b' ') {
                at += 1;
            }
            let end =
                memchr::memchr(b'\n', self.bytes.get(at..)?).map_or(self.bytes.len(), |length| at + length);
            match self.bytes.get(at)? {
                b'\n' => at += 1,
                b'#' => at = end,
                _ => return Some(PlainLine { indent: at - begin, start: at, end }),
            }
        }
    }

    fn begins_item(&self, line: PlainLine) -> bool {
        self.bytes[line.start] == b'-' && (line.start + 1 == line.end || self.bytes[line.start + 1] == b' ')
    }

    fn begin(&mut self, kind: NodeKind, indent: usize, start: usize, indentless: bool) -> Option<()> {
        if self.blocks.len() == DEPTH {
            return None;
        }
        self.tree.open(kind, Span::at(start));
        self.blocks.push(Block { kind, indent, indentless });
        Some(())
    }

    /// Gives a key without a value its null, which stands where its colon does.
    fn end_open(&mut self) {
        if let Some(colon) = self.open.take() {
            self.tree.scalar(NodeKind::Null, Span::at(colon), "");
        }
    }

    /// Begins and ends blocks, so that the innermost is the one that a line belongs to.
    fn turn_to(&mut self, line: PlainLine) -> Option<()> {
        let is_item = self.begins_item(line);
        let kind = if is_item { NodeKind::List } else { NodeKind::Map };
        let top = self.blocks.last()?;
        if self.open.is_some() {
            let indentless = is_item && top.kind == NodeKind::Map && line.indent == top.indent;
            if line.indent > top.indent || indentless {
                self.open = None;
                // Such a list begins, for the library, with what its first item holds.
                let start = if indentless { self.after_dash(line)? } else { line.start };
                return self.begin(kind, line.indent, start, indentless);
            }
            self.end_open();
        }
        while let Some(top) = self.blocks.last() {
            let ends = top.indent > line.indent || (top.indentless && top.indent == line.indent && !is_item);
            if !ends {
                break;
            }
            self.blocks.pop();
            self.tree.close(line.start as u32);
        }
        let top = self.blocks.last()?;
        (top.indent == line.indent && top.kind == kind).then_some(())
    }

    /// Where the content of an item begins, on its own line.
    fn after_dash(&self, line: PlainLine) -> Option<usize> {
        let start = self.skip_spaces(line.start + 1, line.end);
        (start < line.end && self.bytes[start] != b'#').then_some(start)
    }

    fn skip_spaces(&self, mut at: usize, end: usize) -> usize {
        while at < end && self.bytes[at] == b' ' {
            at += 1;
        }
        at
    }

    /// Reads a line that belongs to the innermost block.
    fn entry(&mut self, line: PlainLine) -> Option<()> {
        if self.blocks.last()?.kind == NodeKind::Map {
            return self.field(line.start, line.end);
        }
        // An item that goes on in the next line, or is empty, is left to the library.
        let start = self.after_dash(line)?;
        let content = PlainLine { start, ..line };
        if self.begins_item(content) {
            return None;
        }
        if let Content::Field(_) = self.content(start, line.end)? {
            let indent = line.indent + (start - line.start);
            self.begin(NodeKind::Map, indent, start, false)?;
            return self.field(start, line.end);
        }
        self.value(start, line.end)
    }

    /// Reads a key, its colon, and the value on the same line.
    fn field(&mut self, start: usize, end: usize) -> Option<()> {
        let Content::Field(key_end) = self.content(start, end)? else { return None };
        if key_end - start > KEY || self.is_marker(start) {
            return None;
        }
        self.scalar(start, key_end);
        let value = self.skip_spaces(key_end + 1, end);
        if value == end || self.bytes[value] == b'#' {
            self.open = Some(key_end);
            return Some(());
        }
        self.value(value, end)
    }

    /// Whether a line may be a marker of documents or a directive.
    fn is_marker(&self, start: usize) -> bool {
        let rest = &self.bytes[start..];
        rest.starts_with(b"---") || rest.starts_with(b"...")
    }

    /// What the rest of a line holds.
    fn content(&self, start: usize, end: usize) -> Option<Content> {
        let is_colon = |at: usize| {
            self.bytes.get(at) == Some(&b':') && (at + 1 == end || self.bytes.get(at + 1) == Some(&b' '))
        };
        if matches!(self.bytes[start], b'"' | b'\'') {
            let after = self.quoted_end(start, end)?;
            return Some(if is_colon(after) { Content::Field(after) } else { Content::Value });
        }
        if matches!(self.bytes[start], b'[' | b'{') {
            return Some(Content::Value);
        }
        self.begins_plain(start, end)?;
        for at in start..end {
            match self.bytes[at] {
                b':' if is_colon(at) => {
                    let has_space_before = self.bytes[at - 1] == b' ';
                    return if has_space_before { None } else { Some(Content::Field(at)) };
                }
                b'#' if at > start && self.bytes[at - 1] == b' ' => break,
                _ => {}
            }
        }
        Some(Content::Value)
    }

    /// Whether a plain text may begin here.
    fn begins_plain(&self, start: usize, end: usize) -> Option<()> {
        let next = self.bytes.get(start + 1).copied().filter(|_| start + 1 < end);
        let begins = match self.bytes[start] {
            b'-' => next.is_some_and(|next| next.is_ascii_alphanumeric() || next == b'.'),
            b'.' => next.is_some_and(|next| next != b'.'),
            byte => {
                byte.is_ascii_alphanumeric()
                    || byte >= 0x80
                    || matches!(byte, b'_' | b'/' | b'$' | b'+' | b'(' | b'~' | b'=' | b'^' | b';')
            }
        };
        begins.then_some(())
    }

    /// The end of a text in quotes without escapes, on one line.
    fn quoted_end(&self, start: usize, end: usize) -> Option<usize> {
        let quote = self.bytes[start];
        let length = memchr::memchr2(quote, b'\\', &self.bytes[start + 1..end])?;
        let close = start + 1 + length;
        if quote == b'\'' && self.bytes[close] == b'\\' {
            // A backslash says nothing here, and may be followed by the end.
            return None;
        }
        let is_end = self.bytes[close] == quote && self.bytes.get(close + 1) != Some(&quote);
        is_end.then_some(close + 1)
    }

    /// Reads the value that fills the rest of a line.
    fn value(&mut self, start: usize, end: usize) -> Option<()> {
        let after = match self.bytes[start] {
            b'"' | b'\'' => {
                let after = self.quoted_end(start, end)?;
                self.scalar(start, after);
                after
            }
            b'[' | b'{' => self.flow(start, end, 0)?,
            _ => {
                let after = self.plain_end(start, end)?;
                self.scalar(start, after);
                after
            }
        };
        let rest = self.skip_spaces(after, end);
        (rest == end || (self.bytes[rest] == b'#' && rest > after)).then_some(())
    }

    /// The end of a plain text outside of brackets: that of the line, or of what stands before a comment.
    fn plain_end(&self, start: usize, end: usize) -> Option<usize> {
        self.begins_plain(start, end)?;
        let mut last = start;
        for at in start..end {
            match self.bytes[at] {
                b' ' => {}
                b'#' if self.bytes[at - 1] == b' ' => break,
                b':' if at + 1 == end || self.bytes[at + 1] == b' ' => return None,
                _ => last = at + 1,
            }
        }
        Some(last)
    }

    /// Reads a list or map in brackets that ends on the same line, and gives where it ends.
    fn flow(&mut self, start: usize, end: usize, depth: usize) -> Option<usize> {
        if depth == DEPTH {
            return None;
        }
        let (kind, close) = match self.bytes[start] {
            b'[' => (NodeKind::List, b']'),
            _ => (NodeKind::Map, b'}'),
        };
        self.tree.open(kind, Span::new(start, start + 1));
        let mut at = self.skip_spaces(start + 1, end);
        if at < end && self.bytes[at] == close {
            self.tree.close(at as u32 + 1);
            return Some(at + 1);
        }
        loop {
            if kind == NodeKind::Map {
                at = self.flow_scalar(at, end)?;
                let is_colon = self.bytes.get(at) == Some(&b':') && self.bytes.get(at + 1) == Some(&b' ');
                if !is_colon {
                    return None;
                }
                at = self.skip_spaces(at + 1, end);
            }
            at = match self.bytes.get(at).filter(|_| at < end)? {
                b'[' | b'{' => self.flow(at, end, depth + 1)?,
                _ => self.flow_scalar(at, end)?,
            };
            at = self.skip_spaces(at, end);
            match self.bytes.get(at).filter(|_| at < end)? {
                b',' => at = self.skip_spaces(at + 1, end),
                &byte if byte == close => {
                    self.tree.close(at as u32 + 1);
                    return Some(at + 1);
                }
                _ => return None,
            }
        }
    }

    /// Reads a text inside of brackets, and gives where it ends.
    fn flow_scalar(&mut self, start: usize, end: usize) -> Option<usize> {
        if start >= end {
            return None;
        }
        if matches!(self.bytes[start], b'"' | b'\'') {
            let after = self.quoted_end(start, end)?;
            self.scalar(start, after);
            return Some(after);
        }
        self.begins_plain(start, end)?;
        let mut last = start;
        for at in start..end {
            match self.bytes[at] {
                b' ' => {}
                b',' | b']' | b'}' => break,
                b'[' | b'{' => return None,
                b'#' if self.bytes[at - 1] == b' ' => return None,
                b':' => match self.bytes.get(at + 1) {
                    Some(b' ') => break,
                    Some(b',' | b'[' | b']' | b'{' | b'}') | None => return None,
                    _ if at + 1 == end => return None,
                    _ => last = at + 1,
                },
                _ => last = at + 1,
            }
        }
        // Between a key and its colon there is nothing.
        let next = self.skip_spaces(last, end);
        if next > last && next < end && self.bytes[next] == b':' {
            return None;
        }
        self.scalar(start, last);
        Some(last)
    }

    fn scalar(&mut self, start: usize, end: usize) {
        let written = &self.text[start..end];
        let (kind, text) = match self.bytes[start] {
            b'"' | b'\'' => (NodeKind::Text, &written[1..written.len() - 1]),
            _ => (kind_of_plain(written), written),
        };
        self.tree.scalar(kind, Span::new(start, end), text);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::yaml::parse_with_library;
    use rstest::rstest;

    #[rstest]
    #[case::maps("a: 1   # c\nb:\n  c: x y\n  d:\n    e: true\nf: ~\n")]
    #[case::lists("- a\n- b # c\n- [c, d]\n")]
    #[case::list_in_a_map("a:\n  - b\n  - c: 1\n    d:\n      - e\n  - f\ng: h")]
    #[case::list_in_the_column_of_its_map("a:\n- b\n- c:\n    d: 1\ne:\n- f\n")]
    #[case::empty_values("a:\nb:\n\n  # c\nc:")]
    #[case::quotes("\"a b\": 'c # d'\n'e': \"f: g\"\n")]
    #[case::flow("a: { b: [c, \"d e\", {}], 'f': { g: -1.5, h: x/y } } # i\nj: []\n")]
    #[case::signs_inside("a: GET /stops/{stop}\nb: x#y\nc: a:b\nd: Store<*>\ne: ${f}\ng: [a:b, x#y]\n")]
    #[case::numbers("a: [1, -2, +3, .5, 0x1f, 1e3, .inf]\n")]
    #[case::other_scripts("žluť: 停車\nb: [ů, é]\n")]
    #[case::comments_and_blank_lines("# a\n\nb: 1\n\n   # c\nd:\n    # e\n    f: 2\n\n# g")]
    #[case::trailing_spaces("a: b   \nc:   \n  d: e  \n   ")]
    fn plain_texts_are_read_as_the_library_does(#[case] text: &str) {
        let tree = parse(text).expect("it is plain");
        let other = parse_with_library(text).unwrap();
        assert!(tree.is_as(&other), "{tree:?}\n{other:?}");
    }

    #[rstest]
    #[case::nothing("")]
    #[case::only_comments("# a\n")]
    #[case::anchor("a: &b c")]
    #[case::alias("a: *b")]
    #[case::tag("a: !!str b")]
    #[case::merge_key("<<: a")]
    #[case::block_text("a: |\n  b")]
    #[case::text_on_two_lines("a: b\n  c")]
    #[case::quotes_on_two_lines("a: \"b\n  c\"")]
    #[case::flow_on_two_lines("a: [b,\n  c]")]
    #[case::escape("a: \"b\\n\"")]
    #[case::doubled_quote("a: 'b''c'")]
    #[case::complex_key("? a\n: b")]
    #[case::document_marker("---\na: b")]
    #[case::directive("%YAML 1.2\n---\na: b")]
    #[case::tab("a:\tb")]
    #[case::carriage_return("a: b\r\n")]
    #[case::byte_order_mark("a: \u{feff}b")]
    #[case::line_separator("a: b\u{2028}c")]
    #[case::map_on_one_line("a: b: c")]
    #[case::item_in_an_item("- - a")]
    #[case::empty_item("-\n- a")]
    #[case::bad_indent("a:\n    b: 1\n  c: 2")]
    #[case::text_after_a_bracket("a: [b] c")]
    #[case::no_colon("a: b\nc\n")]
    #[case::reserved("a: @b")]
    #[case::key_in_brackets("[a]: b")]
    #[case::flow_without_value("a: { b }")]
    #[case::trailing_comma("a: [b, ]")]
    #[case::second_root("a: b\n- c")]
    fn doubtful_texts_are_left_to_the_library(#[case] text: &str) {
        assert!(parse(text).is_none());
    }

    #[test]
    fn what_manifests_are_made_of_is_plain() {
        let demo = include_str!("../../../corvant/demo/timetable/timetable.wiring.yaml");
        assert!(parse(demo).is_some());
        let made = corvant_testing::corpus::Made { services: 400, faults: 2, stages: 3, seed: 1 };
        for file in
            made.files().filter(|file| file.path.contains(".wiring.yaml") && !file.path.contains("broken"))
        {
            assert!(parse(&file.text).is_some(), "{}", file.text);
        }
    }

    /// Short texts of nothing but signs that decide something: every doubtful corner is among them.
    #[rstest]
    #[case::signs(&[
        "a", "b1", ": ", ":", "- ", "-", "\n", "\n  ", "\n    ", " ", "  ", "#", " # c", "[", "]", "{", "}", ", ",
        ",", "\"", "'", "1", "~", "<", ".", "ž",
    ])]
    #[case::pieces(&[
        "a: ", "\na: ", "\n  b: ", "\nc:", "\n  d:", "\n    e: ", "\n- ", "\n  - ", "\n    - ", "f", "g h", "\"i\"", "'j'",
        "[k, l]", "{ m: n }", " # o", "\n# p", "\n\n", " ", "{ q: [r] }", "- ", ":",
    ])]
    fn texts_of_few_signs_are_read_as_the_library_does(#[case] signs: &[&str]) {
        let rounds =
            std::env::var("FUZZ_ROUNDS").ok().and_then(|rounds| rounds.parse().ok()).unwrap_or(40_000);
        let mut random = corvant_testing::corpus::Random::new(7);
        let mut plain = 0;
        for _ in 0..rounds {
            let length = 1 + random.below(24);
            let text: String = (0..length).map(|_| signs[random.below(signs.len())]).collect();
            if let Some(tree) = parse(&text) {
                plain += 1;
                let other = parse_with_library(&text);
                assert!(other.as_ref().is_ok_and(|other| tree.is_as(other)), "{text:?}\n{tree:?}\n{other:?}");
            }
        }
        assert!(plain > rounds / 200, "{plain}");
    }
}
