//! Properties, as the Java platform's class documentation describes them: a flat map of texts.
//!
//! `key=value`, `key:value` or `key value`; lines that begin with `#` or `!` are comments; a backslash at the end
//! of a line goes on with the next; `\t`, `\n`, `\r`, `\f`, `\uXXXX` and a backslash before any other letter are
//! escapes. Files are read as UTF-8.

use super::{NodeKind, SyntaxError, Tree};
use corvant_core::source::{Span, cut};

/// What stands between a key and its value.
const BLANK: [char; 3] = [' ', '\t', '\u{c}'];

/// The tree of a properties text.
pub fn parse(text: &str) -> Result<Tree<'_>, SyntaxError> {
    let mut tree = Tree::new(text);
    tree.open(NodeKind::Map, Span::new(0, text.len()));
    let mut at = 0;
    while at < text.len() {
        at += text[at..].len() - text[at..].trim_start().len();
        if text[at..].starts_with(['#', '!']) {
            at += text[at..].find(['\n', '\r']).unwrap_or(text.len() - at);
            continue;
        }
        let end = logical_end(text, at);
        if at < end {
            pair(&mut tree, text, at, end)?;
        }
        at = end;
    }
    tree.close(text.len() as u32);
    Ok(tree)
}

/// Where the line that begins at `at` ends, with the lines that go on with it.
fn logical_end(text: &str, at: usize) -> usize {
    let bytes = text.as_bytes();
    let mut end = at;
    while end < bytes.len() && !matches!(bytes[end], b'\n' | b'\r') {
        if bytes[end] == b'\\' {
            end +=
                if bytes.get(end + 1) == Some(&b'\r') && bytes.get(end + 2) == Some(&b'\n') { 2 } else { 1 };
        }
        end += 1;
    }
    end.min(bytes.len())
}

fn pair(tree: &mut Tree<'_>, text: &str, start: usize, end: usize) -> Result<(), SyntaxError> {
    let line = &text[start..end];
    let mut escaped = false;
    let key_end = line.find(|letter: char| {
        let ends = !escaped && matches!(letter, '=' | ':' | ' ' | '\t' | '\u{c}');
        escaped = !escaped && letter == '\\';
        ends
    });
    let key_end = key_end.unwrap_or(line.len());
    let rest = line[key_end..].trim_start_matches(BLANK);
    let rest = rest.strip_prefix(['=', ':']).map_or(rest, |rest| rest.trim_start_matches(BLANK));
    let key = Span::new(start, start + key_end);
    let value = Span::new(end - rest.len(), end);
    for span in [key, value] {
        let written = unescaped(cut(text, span), span.start as usize)?;
        tree.scalar(NodeKind::Text, span, &written);
    }
    Ok(())
}

fn unescaped(written: &str, start: usize) -> Result<String, SyntaxError> {
    let mut text = String::with_capacity(written.len());
    let mut units: Vec<u16> = Vec::new();
    let mut at = 0;
    while let Some(letter) = written[at..].chars().next() {
        let after = at + letter.len_utf8();
        let escape = written[after..].chars().next().filter(|_| letter == '\\');
        if escape == Some('u') {
            let digits = written.get(at + 2..at + 6);
            let unit = digits.and_then(|digits| u16::from_str_radix(digits, 16).ok()).ok_or_else(|| {
                let length = written[at..].chars().take(6).map(char::len_utf8).sum::<usize>();
                let span = Span::new(start + at, start + at + length);
                SyntaxError::malformed("properties", "four hexadecimal digits follow `\\u`", span)
            })?;
            units.push(unit);
            at += 6;
            continue;
        }
        push_units(&mut text, &mut units);
        at = after + escape.map_or(0, char::len_utf8);
        match escape {
            None => text.extend((letter != '\\').then_some(letter)),
            Some('t') => text.push('\t'),
            Some('n') => text.push('\n'),
            Some('r') => text.push('\r'),
            Some('f') => text.push('\u{c}'),
            Some(end @ ('\n' | '\r')) => {
                // The line goes on behind the white space of the next.
                let rest = &written[at..];
                let rest = rest.strip_prefix('\n').filter(|_| end == '\r').unwrap_or(rest);
                at = written.len() - rest.trim_start_matches(BLANK).len();
            }
            Some(letter) => text.push(letter),
        }
    }
    push_units(&mut text, &mut units);
    Ok(text)
}

/// Adds characters that were written as UTF-16 units.
fn push_units(text: &mut String, units: &mut Vec<u16>) {
    let decoded = char::decode_utf16(units.drain(..));
    text.extend(decoded.map(|unit| unit.unwrap_or(char::REPLACEMENT_CHARACTER)));
}

#[cfg(test)]
mod tests {
    use crate::syntax::tests::{outline, places};
    use rstest::rstest;

    #[rstest]
    #[case::separators("a=1\nb: 2\nc 3\nd\n e = f = g", "{a: 1, b: 2, c: 3, d: , e: f = g}")]
    #[case::comments("# x\n  ! y\na=1 # z\n", "{a: 1 # z}")]
    #[case::lines_that_go_on("a=1,\\\n   2,\\\r\n 3\nb=x", "{a: 1,2,3, b: x}")]
    #[case::escapes("a\\ b\\==\\u017Elu\\tx\\q\\\\", "{a b=: žlu\txq\\}")]
    #[case::pairs_of_units("a=\\uD83D\\uDE8A!", "{a: 🚊!}")]
    #[case::nothing("\n\n", "{}")]
    #[case::a_backslash_at_the_end("a=b\\", "{a: b}")]
    fn a_flat_map(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(outline(&super::parse(text).unwrap()), expected);
    }

    #[test]
    fn places_are_those_of_key_and_value() {
        let tree = super::parse("x=1\nž\\u0041 : wärme \n").unwrap();
        assert!(places(&tree).contains(&("wärme ".to_owned(), "wärme ".to_owned())), "{:?}", places(&tree));
        assert!(places(&tree).contains(&("žA".to_owned(), "ž\\u0041".to_owned())), "{:?}", places(&tree));
    }

    #[test]
    fn a_broken_escape_has_a_place() {
        let error = super::parse("a=b\\u12x").unwrap_err();
        assert_eq!(error.span.start, 3);
    }
}
