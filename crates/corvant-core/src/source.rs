//! Source files and places in them.
//!
//! Facts carry byte spans only (eight bytes each); lines and columns are worked out when a finding is
//! written down, for the few places that need them.

use crate::work;
use std::ops::Deref;
use std::sync::{Arc, OnceLock};

/// The number of a source in [`crate::wiring::Wiring::sources`]; sources are sorted by path.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Default)]
pub struct SourceIndex(pub u32);

impl SourceIndex {
    /// The file itself: what the facts of one file say of where they stand, until they are put behind those of others.
    pub const OWN: Self = Self(0);

    /// The position in an array of sources.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// A range of bytes in a source's text, end exclusive. Files of 4 GiB and more are refused when read.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Default)]
pub struct Span {
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// The span from `start` to `end`, in bytes.
    pub fn new(start: usize, end: usize) -> Self {
        Self { start: start as u32, end: end as u32 }
    }

    /// An empty span at `offset`.
    pub fn at(offset: usize) -> Self {
        Self::new(offset, offset)
    }
}

/// The part of a text that a span means. Of a span that does not fit, as much as does: text that came from outside is
/// cut in many places, and none of them is worth a panic.
#[inline]
pub fn cut(text: &str, span: Span) -> &str {
    text.get(span.start as usize..span.end as usize).unwrap_or_else(|| cut_to_fit(text, span))
}

#[cold]
fn cut_to_fit(text: &str, span: Span) -> &str {
    let start = boundary(text, span.start as usize);
    &text[start..boundary(text, span.end as usize).max(start)]
}

/// The nearest place at or before an offset where a character begins, or the end of the text.
pub fn boundary(text: &str, offset: usize) -> usize {
    let offset = offset.min(text.len());
    (0..=offset).rev().find(|&at| text.is_char_boundary(at)).unwrap_or(0)
}

/// A line and a column, both from 1; columns count characters (Unicode scalar values).
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Position {
    /// Line, from 1.
    pub line: u32,
    /// Column in characters, from 1.
    pub column: u32,
}

/// One file (or folder) that facts or reading troubles came from, or what of it belongs to one module.
#[derive(Clone, Debug, Default)]
pub struct Source {
    /// Path relative to the workspace root, with `/`; `.` is the root itself.
    pub path: String,
    file: Arc<SourceText>,
}

/// The text of a file, and where its lines are. A source is one with its path.
#[derive(Debug, Default)]
pub struct SourceText {
    /// What was read, without a byte-order mark; empty if nothing could be.
    pub text: String,
    line_starts: OnceLock<Vec<u32>>,
    /// What begins before each block of bytes.
    blocks: OnceLock<Vec<Characters>>,
}

impl Deref for Source {
    type Target = SourceText;

    fn deref(&self) -> &SourceText {
        &self.file
    }
}

/// How many characters begin in a part of a text, and how many of them are two units of UTF-16.
#[derive(Clone, Copy, Debug, Default)]
struct Characters {
    all: u32,
    wide: u32,
}

impl Characters {
    fn and(self, more: Self) -> Self {
        Self { all: self.all + more.all, wide: self.wide + more.wide }
    }
}

/// Bytes that are gone over for a column at most.
const BLOCK: usize = 4096;

impl Source {
    /// A source of the given path and text.
    pub fn new(path: String, text: String) -> Self {
        Self { path, file: Arc::new(SourceText { text, ..SourceText::default() }) }
    }

    /// The same file once more, for what of it belongs to another module.
    #[must_use]
    pub fn again(&self) -> Self {
        Self { path: self.path.clone(), file: Arc::clone(&self.file) }
    }

    /// Whether another says the same.
    pub fn has_text_of(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.file, &other.file) || self.text == other.text
    }
}

impl SourceText {
    /// Line and column of a byte offset. An offset inside a character counts as that character's.
    pub fn position(&self, offset: u32) -> Position {
        let (line, before) = self.before(offset);
        Position { line, column: before.all + 1 }
    }

    /// The same with the column in units of UTF-16, as editors and viewers count.
    pub fn utf16_position(&self, offset: u32) -> Position {
        let (line, before) = self.before(offset);
        Position { line, column: before.all + before.wide + 1 }
    }

    /// The line of an offset, and what begins on it before the offset.
    fn before(&self, offset: u32) -> (u32, Characters) {
        let starts = self.line_starts();
        let line = starts.partition_point(|&start| start <= offset);
        let end = (offset as usize).min(self.text.len());
        let begin = (starts[line - 1] as usize).min(end);
        let before = if end - begin < BLOCK {
            self.characters(begin, end)
        } else {
            let (end, begin) = (self.characters_before(end), self.characters_before(begin));
            Characters { all: end.all - begin.all, wide: end.wide - begin.wide }
        };
        (line as u32, before)
    }

    /// The characters that begin between two offsets.
    fn characters(&self, begin: usize, end: usize) -> Characters {
        work::count(end - begin);
        let bytes = &self.text.as_bytes()[begin..end];
        // Every byte that does not continue a character starts one; one of four bytes is two units of UTF-16.
        let all = bytes.iter().filter(|&&byte| byte & 0xC0 != 0x80).count() as u32;
        Characters { all, wide: bytes.iter().filter(|&&byte| byte >= 0xF0).count() as u32 }
    }

    /// The characters that begin before an offset, counted once a block: a file may be one line.
    fn characters_before(&self, offset: usize) -> Characters {
        let blocks = self.blocks.get_or_init(|| {
            let whole = (0..self.text.len() / BLOCK).map(|block| block * BLOCK);
            let mut before = vec![Characters::default()];
            before.extend(whole.scan(Characters::default(), |sum, begin| {
                *sum = sum.and(self.characters(begin, begin + BLOCK));
                Some(*sum)
            }));
            before
        });
        blocks[offset / BLOCK].and(self.characters(offset / BLOCK * BLOCK, offset))
    }

    /// The text of a line (from 1) without its line break, and the byte offset where it starts.
    pub fn line(&self, line: u32) -> (&str, u32) {
        let starts = self.line_starts();
        let index = (line as usize).saturating_sub(1).min(starts.len() - 1);
        let begin = starts[index] as usize;
        let end = starts.get(index + 1).map_or(self.text.len(), |&next| next as usize);
        (self.text[begin..end].trim_end_matches(['\n', '\r']), begin as u32)
    }

    /// Byte offsets at which lines start. `\n`, `\r\n` and a lone `\r` end a line, as YAML 1.2 says.
    fn line_starts(&self) -> &[u32] {
        self.line_starts.get_or_init(|| {
            let bytes = self.text.as_bytes();
            let ends = memchr::memchr2_iter(b'\n', b'\r', bytes)
                .filter(|&at| bytes[at] == b'\n' || bytes.get(at + 1) != Some(&b'\n'));
            std::iter::once(0).chain(ends.map(|at| at as u32 + 1)).collect()
        })
    }
}

/// A span in a source, and the part it plays in a finding.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Place {
    /// The source.
    pub source: SourceIndex,
    /// The text in it.
    pub span: Span,
    /// Its role in the finding, as read by a person: "needed here", "first definition".
    pub role: String,
}

impl Place {
    /// A place with its role.
    pub fn new(source: SourceIndex, span: Span, role: impl Into<String>) -> Self {
        Self { source, span, role: role.into() }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::whole("žluť", 0, 6, "žluť")]
    #[case::inside("žluť", 2, 4, "lu")]
    #[case::in_the_middle_of_characters("žluť", 1, 5, "žlu")]
    #[case::too_long("ab", 1, 9, "b")]
    #[case::behind_the_end("ab", 7, 9, "")]
    #[case::turned_round("ab", 2, 1, "")]
    fn any_span_cuts_something(
        #[case] text: &str,
        #[case] start: usize,
        #[case] end: usize,
        #[case] expected: &str,
    ) {
        assert_eq!(cut(text, Span::new(start, end)), expected);
    }

    #[rstest]
    #[case::start("ab\ncd", 0, 1, 1)]
    #[case::second_line("ab\ncd", 4, 2, 2)]
    #[case::carriage_return_and_line_feed("ab\r\ncd", 4, 2, 1)]
    #[case::lone_carriage_return("ab\rcd", 3, 2, 1)]
    #[case::characters_not_bytes("žluť: x", 8, 1, 7)]
    #[case::end_of_text("ab\n", 3, 2, 1)]
    #[case::past_the_end("ab", 9, 1, 3)]
    fn offsets_become_lines_and_columns(
        #[case] text: &str,
        #[case] offset: u32,
        #[case] line: u32,
        #[case] column: u32,
    ) {
        let source = Source::new("a".into(), text.into());
        assert_eq!(source.position(offset), Position { line, column });
    }

    #[rstest]
    #[case::in_the_first_block(4_000)]
    #[case::at_the_end_of_a_block(4_096)]
    #[case::in_a_later_block(30_001)]
    #[case::past_the_end(40_000)]
    fn columns_of_a_line_of_many_blocks_are_those_of_counting(#[case] offset: usize) {
        let line = "žluť: x, ".repeat(3_000);
        let source = Source::new("a".into(), format!("first\n{line}"));
        let before = source.text.bytes().take(offset).skip(6).filter(|byte| byte & 0xC0 != 0x80).count();
        assert_eq!(source.position(offset as u32), Position { line: 2, column: before as u32 + 1 });
    }

    #[rstest]
    #[case::plain("ab", 1, 2)]
    #[case::two_bytes("žb", 2, 2)]
    #[case::two_units("𝄞b", 4, 3)]
    #[case::on_the_next_line("𝄞\n𝄞𝄞b", 13, 5)]
    fn columns_of_utf_16_count_units(#[case] text: &str, #[case] offset: u32, #[case] column: u32) {
        assert_eq!(Source::new("a".into(), text.into()).utf16_position(offset).column, column);
    }

    #[test]
    fn a_line_comes_without_its_break() {
        let source = Source::new("a".into(), "ab\r\ncd\n".into());
        assert_eq!(source.line(1), ("ab", 0));
        assert_eq!(source.line(2), ("cd", 4));
        assert_eq!(source.line(9), ("", 7));
    }
}
