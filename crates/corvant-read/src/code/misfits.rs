//! What a parser cannot fit into a file, taken out of its text.

use super::Grammar;
use super::grammar::Piece;
use crate::types::Language;
use std::ops::Range;

/// Longer texts are not looked at, in bytes: with mistakes in them parsers take their time.
const LIMIT: usize = 1 << 20;

/// A text without what a parser cannot fit in, every other letter in its place, and with the signs that it misses where
/// there is room for them. First without what is wrong in one line or is nothing but words and signs; then also without
/// those that stand in larger wrong pieces outside of any piece that is whole. None: no parser has anything to say.
pub(crate) fn without_misfits(text: &str, path: &str, language: Language) -> Vec<String> {
    let grammar = Grammar::of_file(path, language).filter(|grammar| grammar.is_built_in());
    let parsed = grammar.filter(|_| text.len() <= LIMIT).map(|grammar| grammar.parse(text, language));
    let Some(Ok(parsed)) = parsed else { return Vec::new() };
    let without = |is_all: bool| {
        let mut bytes = text.as_bytes().to_vec();
        for piece in parsed.root().dfs() {
            if piece.is_missing() {
                put(&mut bytes, &piece);
            } else if piece.is_error() && is_small(&piece) {
                blank(&mut bytes, piece.range());
            } else if piece.is_error() && is_all {
                let loose = piece.children().filter(Piece::is_leaf);
                loose.for_each(|piece| blank(&mut bytes, piece.range()));
            }
        }
        String::from_utf8(bytes).ok().filter(|other| other != text)
    };
    let mut texts: Vec<String> = [false, true].into_iter().filter_map(without).collect();
    texts.dedup();
    texts
}

fn is_small(piece: &Piece<'_>) -> bool {
    !piece.text().trim_end().contains('\n') || piece.children().all(|inner| inner.is_leaf())
}

/// Spaces in place of all but the ends of lines.
fn blank(bytes: &mut [u8], range: Range<usize>) {
    let signs = bytes[range].iter_mut().filter(|byte| !byte.is_ascii_whitespace());
    signs.for_each(|byte| *byte = b' ');
}

/// Puts a sign that is missed in place of a space beside where it is, or at the end.
fn put(bytes: &mut Vec<u8>, missing: &Piece<'_>) {
    let kind = missing.kind();
    let [sign] = kind.as_bytes() else { return };
    let at = missing.range().start;
    if at >= bytes.len() {
        return bytes.push(*sign);
    }
    let is_room = |at: &usize| bytes[*at].is_ascii_whitespace();
    if let Some(room) = [Some(at), at.checked_sub(1)].into_iter().flatten().find(is_room) {
        bytes[room] = *sign;
    }
}
