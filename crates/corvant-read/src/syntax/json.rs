//! JSON (RFC 8259) to a tree. The only module that knows the JSON lexer.
//!
//! The crate reads texts, numbers and words; how they stand in one another is followed here, with a stack of
//! its own, so that depth is bounded by [`DEPTH_LIMIT`] and nothing else.

use super::{DEPTH_LIMIT, NodeKind, SyntaxError, Tree};
use corvant_core::source::Span;
use hifijson::str::{Error as TextError, LexAlloc};
use hifijson::{SliceLexer, num::LexWrite, token::Lex};

/// The tree of a text without byte-order mark. A text of nothing but white space is an empty tree.
pub fn parse(text: &str) -> Result<Tree<'_>, SyntaxError> {
    let lexer = SliceLexer::new(text.as_bytes());
    let mut builder = JsonBuilder { text, lexer, tree: Tree::new(text), open: Vec::new() };
    if builder.peek().is_some() {
        builder.values()?;
    }
    Ok(builder.tree)
}

struct JsonBuilder<'text> {
    text: &'text str,
    lexer: SliceLexer<'text>,
    tree: Tree<'text>,
    /// The lists and maps that have begun and not ended.
    open: Vec<NodeKind>,
}

impl JsonBuilder<'_> {
    fn values(&mut self) -> Result<(), SyntaxError> {
        loop {
            let has_begun = self.value()?;
            if has_begun && self.begins_with_a_value()? {
                continue;
            }
            // After a value: the lists and maps that end here, then a comma or the end of the text.
            loop {
                let Some(&outer) = self.open.last() else { return self.end() };
                let (end, name) = if outer == NodeKind::List { (b']', "list") } else { (b'}', "map") };
                match self.peek() {
                    Some(b',') => {
                        self.lexer.discarded();
                        if outer == NodeKind::Map {
                            self.key("a comma is followed by a name in quotes")?;
                        }
                        break;
                    }
                    Some(found) if found == end => self.close(),
                    _ => return Err(self.unexpected(&format!("a {name} goes on with a comma or ends here"))),
                }
            }
        }
    }

    /// Reads one plain value, or the bracket that begins a list or map: then true.
    fn value(&mut self) -> Result<bool, SyntaxError> {
        let Some(next) = self.peek() else {
            return Err(self.unexpected("a value is expected, and the text ends"));
        };
        let start = self.offset();
        match next {
            b'[' | b'{' => {
                if self.open.len() == DEPTH_LIMIT {
                    return Err(SyntaxError::too_deep(self.here()));
                }
                let kind = if next == b'[' { NodeKind::List } else { NodeKind::Map };
                self.lexer.discarded();
                self.tree.open(kind, Span::at(start));
                self.open.push(kind);
                return Ok(true);
            }
            b'"' => self.string()?,
            b'0'..=b'9' | b'-' => {
                let number = self.lexer.num_string();
                let Ok((digits, parts)) = number.validated() else {
                    return Err(self.unexpected("a number goes on with a digit here"));
                };
                let kind = if parts.is_int() { NodeKind::Integer } else { NodeKind::Number };
                self.tree.scalar(kind, Span::new(start, self.offset()), digits);
            }
            b'n' | b't' | b'f' => {
                let here = self.here();
                let Some(word) = self.lexer.null_or_bool() else {
                    let message = "no value of JSON: only true, false and null stand without quotes";
                    return Err(SyntaxError::malformed("JSON", message, here));
                };
                let kind = word.map_or(NodeKind::Null, |_| NodeKind::Boolean);
                let span = Span::new(start, self.offset());
                let text = if kind == NodeKind::Null { "" } else { &self.text[start..self.offset()] };
                self.tree.scalar(kind, span, text);
            }
            b']' | b'}' => return Err(self.unexpected("a value is expected before this; take out the comma")),
            _ => return Err(self.unexpected("a value is expected")),
        }
        Ok(false)
    }

    /// After an opening bracket: reads the first name of a map. False if the list or map is empty, and is
    /// left for the caller to close.
    fn begins_with_a_value(&mut self) -> Result<bool, SyntaxError> {
        let next = self.peek();
        match (self.open.last(), next) {
            (Some(NodeKind::List), Some(b']')) | (Some(NodeKind::Map), Some(b'}')) => Ok(false),
            (Some(NodeKind::Map), _) => {
                self.key("a map begins with a name in quotes, or ends").map(|()| true)
            }
            _ => Ok(true),
        }
    }

    fn key(&mut self, otherwise: &str) -> Result<(), SyntaxError> {
        if self.peek() != Some(b'"') {
            return Err(self.unexpected(otherwise));
        }
        self.string()?;
        let colon = self.lexer.expect(Lex::ws_peek, b':');
        colon.ok_or_else(|| self.unexpected("a name is followed by a colon"))
    }

    fn string(&mut self) -> Result<(), SyntaxError> {
        let start = self.offset();
        let text = self.lexer.discarded().str_string().map_err(|error| match error {
            TextError::Eof => {
                let message = "the text in quotes that begins here never ends";
                SyntaxError::malformed("JSON", message, Span::new(start, start + 1))
            }
            TextError::Control => self.unexpected("a text in quotes holds a line break or control character"),
            _ => self.unexpected("this is no escape that JSON knows"),
        })?;
        self.tree.scalar(NodeKind::Text, Span::new(start, self.offset()), &text);
        Ok(())
    }

    fn close(&mut self) {
        self.lexer.discarded();
        self.open.pop();
        self.tree.close(self.offset() as u32);
    }

    fn end(&mut self) -> Result<(), SyntaxError> {
        match self.peek() {
            None => Ok(()),
            Some(_) => Err(self.unexpected("a manifest is one value, and this is a second")),
        }
    }

    fn peek(&mut self) -> Option<u8> {
        self.lexer.ws_peek()
    }

    fn offset(&self) -> usize {
        self.text.len() - self.lexer.as_slice().len()
    }

    /// The next character.
    fn here(&self) -> Span {
        // An error inside a character counts as that character's.
        let start = (0..=self.offset()).rev().find(|&at| self.text.is_char_boundary(at)).unwrap_or(0);
        let next = self.text[start..].chars().next().filter(|next| !next.is_control());
        Span::new(start, start + next.map_or(0, char::len_utf8))
    }

    fn unexpected(&self, message: &str) -> SyntaxError {
        let hint = match self.lexer.as_slice().first() {
            Some(b'/' | b'#') => "; JSON has no comments",
            Some(b'\'') => "; JSON takes double quotes only",
            _ => "",
        };
        SyntaxError::malformed("JSON", &format!("{message}{hint}"), self.here())
    }
}

#[cfg(test)]
mod tests {
    use crate::syntax::tests::{drawn, value_text};
    use rstest::rstest;

    #[rstest]
    #[case::kinds(
        r#"{"a": 1, "b": -1.5e3, "c": "yes", "d": true, "e": null}"#,
        "{a=i:1 b=n:-1.5e3 c='yes' d=b:true e=-}"
    )]
    #[case::nested(r#"[[], {}, [{"a": [1, []]}]]"#, "[[] {} [{a=[i:1 []]}]]")]
    #[case::escapes(r#"["x\u0041\n", "\ud83d\ude8b", "a\"b"]"#, "['xA\n' '🚋' 'a\"b']")]
    #[case::repeated_keys_stay_visible(r#"{"a": 1, "a": 2}"#, "{a=i:1 a=i:2}")]
    #[case::quoted_merge_key_is_none(r#"{"<<": {"a": 1}}"#, "{<<={a=i:1}}")]
    #[case::empty(" \n", "")]
    #[case::trailing_comma(
        r#"{"a": [1, ]}"#,
        "error at 10: not well-formed JSON: a value is expected before this; take out the comma"
    )]
    #[case::trailing_comma_in_a_map(
        r#"{"a": 1, }"#,
        "error at 9: not well-formed JSON: a comma is followed by a name in quotes"
    )]
    #[case::comment("// x\n1", "error at 0: not well-formed JSON: a value is expected; JSON has no comments")]
    #[case::single_quotes(
        "['a']",
        "error at 1: not well-formed JSON: a value is expected; JSON takes double quotes only"
    )]
    #[case::bare_name(
        "{a: 1}",
        "error at 1: not well-formed JSON: a map begins with a name in quotes, or ends"
    )]
    #[case::no_colon(r#"{"a" 1}"#, "error at 5: not well-formed JSON: a name is followed by a colon")]
    #[case::no_comma("[1 2]", "error at 3: not well-formed JSON: a list goes on with a comma or ends here")]
    #[case::two_values(
        "{} {}",
        "error at 3: not well-formed JSON: a manifest is one value, and this is a second"
    )]
    #[case::wrong_end("[1}", "error at 2: not well-formed JSON: a list goes on with a comma or ends here")]
    #[case::unended(
        r#"{"a": [1"#,
        "error at 8: not well-formed JSON: a list goes on with a comma or ends here"
    )]
    #[case::unended_text(
        r#"["ab"#,
        "error at 1: not well-formed JSON: the text in quotes that begins here never ends"
    )]
    #[case::line_break_in_text(
        "[\"a\nb\"]",
        "error at 4: not well-formed JSON: a text in quotes holds a line break or control character"
    )]
    #[case::bad_escape(r#"["\q"]"#, "error at 4: not well-formed JSON: this is no escape that JSON knows")]
    #[case::bad_number("[1.]", "error at 3: not well-formed JSON: a number goes on with a digit here")]
    #[case::bad_word(
        "[none]",
        "error at 1: not well-formed JSON: no value of JSON: only true, false and null stand without quotes"
    )]
    fn a_text_becomes_a_tree(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(drawn(super::parse(text)), expected);
    }

    #[rstest]
    #[case::text(r#"{"k": "a b"}"#, r#""a b""#)]
    #[case::after_other_scripts(r#"{"ž": "ů", "k": "停車"}"#, r#""停車""#)]
    #[case::list(r#"{"k": [1, {"a": 2}] }"#, r#"[1, {"a": 2}]"#)]
    #[case::number(r#"{"k": -12 }"#, "-12")]
    #[case::word(r#"{"k": null }"#, "null")]
    fn a_value_keeps_its_place(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(value_text(&super::parse(text).unwrap()), expected);
    }

    #[rstest]
    #[case::lists("[")]
    #[case::maps("{\"a\":")]
    fn deep_nesting_is_an_error_with_a_place(#[case] opening: &str) {
        let error = super::parse(&opening.repeat(100_000)).unwrap_err();
        assert!(error.message.contains("nested more than 250 deep"), "{}", error.message);
        assert_eq!(error.span.start as usize, 250 * opening.len());
    }
}
