//! What stands before a declaration: modifiers, and marks with their literal arguments.

use super::Language;
use super::lexer::{CODED_TEXT, NUMBER, TEXT};
use super::outline::{Literal, Mark, Value};
use super::tokens::Tokens;
use std::ops::Range;

/// How deep lists of literals are followed.
const DEEP: usize = 10;

/// What stands before a declaration.
#[derive(Debug, Default)]
pub(super) struct Before<'t> {
    pub(super) modifiers: Vec<&'t str>,
    pub(super) marks: Vec<Mark>,
}

impl Before<'_> {
    pub(super) fn has(&self, modifier: &str) -> bool {
        self.modifiers.contains(&modifier)
    }
}

impl<'t> Tokens<'t> {
    /// What stands before a token.
    pub(super) fn before(&self, token: usize) -> Before<'t> {
        let mut before = Before::default();
        let mut at = token;
        while at > 0 {
            // The end of the name of a package is none.
            let is_part = at > 1 && self.is_sign(at - 2, b'.');
            if let Some(word) = self.word(at - 1).filter(|word| !is_part && is_modifier(word)) {
                before.modifiers.push(word);
                at -= 1;
            } else if let Some((start, marks)) = self.mark_before(at) {
                before.marks.splice(0..0, marks);
                at = start;
            } else {
                break;
            }
        }
        before
    }

    /// The mark that ends before a token, and where it begins.
    fn mark_before(&self, end: usize) -> Option<(usize, Vec<Mark>)> {
        let last = end.checked_sub(1)?;
        match (self.language, self.all[last].sign) {
            (Language::CSharp | Language::Php, b']') => {
                let open = self.partner(last)?;
                let start = if self.language == Language::Php {
                    open.checked_sub(1).filter(|&before| self.is_sign(before, b'#'))?
                } else {
                    // What stands behind a name is an index.
                    let is_index = open.checked_sub(1).is_some_and(|before| self.word(before).is_some());
                    if is_index {
                        return None;
                    }
                    open
                };
                Some((start, self.marks_in(open + 1..last)))
            }
            (Language::CSharp | Language::Php, _) => None,
            (_, b')') => {
                let open = self.partner(last)?;
                let start = self.mark_start(open)?;
                Some((start, self.mark(start + 1, end).into_iter().collect()))
            }
            (_, 0) => {
                let start = self.mark_start(end)?;
                Some((start, self.mark(start + 1, end).into_iter().collect()))
            }
            _ => None,
        }
    }

    /// Where the mark begins whose name ends before a token.
    fn mark_start(&self, end: usize) -> Option<usize> {
        let mut at = end;
        loop {
            at = at.checked_sub(1)?;
            self.word(at)?;
            let before = at.checked_sub(1)?;
            match self.all[before].sign {
                b'@' => return Some(before),
                b'.' | b':' => at = before,
                _ => return None,
            }
        }
    }

    /// The number behind the name of a mark.
    pub(super) fn behind_mark_name(&self, mut at: usize) -> usize {
        while self.word(at).is_some() {
            at += 1;
            if (self.is_sign(at, b'.') || self.is_sign(at, b':')) && self.word(at + 1).is_some() {
                at += 1;
            } else {
                break;
            }
        }
        at
    }

    /// The number behind the mark whose name a token belongs to; `None`: it belongs to none.
    pub(super) fn behind_mark(&self, at: usize) -> Option<usize> {
        let is_mark = at > 0
            && (self.is_sign(at - 1, b'@')
                || self.is_sign(at - 1, b'.') && self.mark_start(at + 1).is_some());
        is_mark.then(|| self.behind_mark_name(at))
    }

    /// Several marks in one pair of brackets.
    fn marks_in(&self, within: Range<usize>) -> Vec<Mark> {
        self.elements(within)
            .into_iter()
            .filter_map(|element| self.mark(element.start, element.end))
            .collect()
    }

    /// All marks that some tokens begin with, and the number behind them.
    pub(super) fn leading_marks(&self, mut at: usize, end: usize) -> (Vec<Mark>, usize) {
        let mut marks = Vec::new();
        loop {
            let hash = usize::from(self.language == Language::Php && self.is_sign(at, b'#'));
            let is_list = self.language == Language::CSharp || hash == 1;
            if is_list && self.is_sign(at + hash, b'[') {
                let Some(behind) = self.behind(at + hash).filter(|&behind| behind <= end) else { break };
                marks.extend(self.marks_in(at + hash + 1..behind - 1));
                at = behind;
            } else if self.is_sign(at, b'@') && self.word(at + 1).is_some() && at + 1 < end {
                let name = self.behind_mark_name(at + 1);
                let behind = if self.is_sign(name, b'(') { self.behind(name) } else { Some(name) };
                let Some(behind) = behind.filter(|&behind| behind <= end) else { break };
                marks.extend(self.mark(at + 1, behind));
                at = behind;
            } else {
                break;
            }
        }
        (marks, at)
    }

    /// A mark from its name to its end.
    fn mark(&self, start: usize, end: usize) -> Option<Mark> {
        let mut at = start;
        // `@field:Key`, `[return: Key]`: what it is meant for.
        if self.word(at).is_some() && self.is_sign(at + 1, b':') && !self.are_signs(at + 1, b"::") {
            at += 2;
        }
        let begin = at;
        let mut name = String::new();
        while let Some(word) = self.word(at).filter(|_| at < end) {
            name.push_str(word);
            at += 1;
            if !self.is_sign(at, b'.') || at + 1 >= end {
                break;
            }
            name.push('.');
            at += 1;
        }
        if name.is_empty() {
            return None;
        }
        let mut mark = Mark { name, at: self.ranges(begin..at), ..Mark::default() };
        if self.language == Language::TypeScript && !self.is_sign(at, b'(') && at < end {
            return None;
        }
        if self.is_sign(at, b'(') && at < end {
            let close = self.partner(at)?;
            for element in self.elements(at + 1..close) {
                self.argument(element, &mut mark);
            }
        }
        Some(mark)
    }

    fn argument(&self, element: Range<usize>, mark: &mut Mark) {
        let value = element.start + 2;
        let is_named = self.word(element.start).is_some()
            && value < element.end
            && (self.is_sign(value - 1, b'=') || self.is_sign(value - 1, b':'))
            && !self.are_signs(value - 1, b"::")
            && !self.are_signs(value - 1, b"==");
        match self.word(element.start).filter(|_| is_named) {
            Some(name) => {
                let literal = self.literal(value..element.end);
                mark.named.extend(literal.map(|literal| (name.to_owned(), literal)));
            }
            None if self.is_sign(element.start, b'{') && self.language == Language::TypeScript => {
                let Some(close) = self.partner(element.start) else { return };
                for field in self.elements(element.start + 1..close) {
                    self.argument(field, mark);
                }
            }
            None => mark.arguments.extend(self.literal(element)),
        }
    }

    /// What some tokens are worth; `None`: that is computed.
    pub(super) fn literal(&self, within: Range<usize>) -> Option<Literal> {
        self.literal_at(within, 0)
    }

    fn literal_at(&self, within: Range<usize>, depth: usize) -> Option<Literal> {
        let range = self.ranges(within.clone());
        let value = match self.all.get(within.start).filter(|_| !within.is_empty())?.sign {
            TEXT => self.text_value(within.clone())?,
            CODED_TEXT => return None,
            NUMBER | b'-' => {
                let is_part = |at: usize| {
                    let sign = self.all[at].sign;
                    matches!(sign, NUMBER | b'.') || sign == b'-' && at == within.start
                };
                within.clone().all(is_part).then_some(())?;
                Value::Number(self.text.get(range.clone())?.to_owned())
            }
            b'{' | b'[' if depth < DEEP => {
                let close = self.partner(within.start).filter(|&close| close + 1 == within.end)?;
                let elements = self.elements(within.start + 1..close).into_iter();
                Value::List(
                    elements.map(|element| self.literal_at(element, depth + 1)).collect::<Option<_>>()?,
                )
            }
            0 => self.name_value(within.clone())?,
            _ => return None,
        };
        Some(Literal { value, at: range })
    }

    /// A text, or several one behind the other.
    fn text_value(&self, within: Range<usize>) -> Option<Value> {
        let mut text = String::new();
        for (number, at) in within.enumerate() {
            if number % 2 == 1 {
                let joins =
                    self.is_sign(at, b'+') || self.is_sign(at, b'.') && self.language == Language::Php;
                joins.then_some(())?;
            } else {
                let token = self.all.get(at).filter(|token| token.is(TEXT))?;
                text.push_str(&unquoted(&self.text[token.range()], self.language));
            }
        }
        Some(Value::Text(text))
    }

    /// A constant, a type, or a word for a value.
    fn name_value(&self, within: Range<usize>) -> Option<Value> {
        let range = within.clone();
        let first = self.word(within.start)?;
        if within.len() == 1 {
            match first {
                "true" | "True" => return Some(Value::Flag(true)),
                "false" | "False" => return Some(Value::Flag(false)),
                "null" | "NULL" | "None" | "undefined" | "default" => return None,
                _ => {}
            }
        }
        if matches!(first, "typeof" | "nameof") && self.is_sign(within.start + 1, b'(') {
            let close = self.partner(within.start + 1)?;
            let inside = self.whole_type(within.start + 2..close)?;
            return Some(Value::Type(inside.name));
        }
        let mut name = String::new();
        for at in within {
            match self.all[at].sign {
                0 => name.push_str(self.word(at)?),
                b'.' => name.push('.'),
                b':' => name.push(':'),
                _ => return None,
            }
        }
        let name = name.replace("::", ".");
        match name.strip_suffix(".class") {
            Some(named) => Some(Value::Type(named.to_owned())),
            None if self.language == Language::Kotlin
                && range.len() > 1
                && self.is_sign(range.end - 2, b':') =>
            {
                Some(Value::Type(name))
            }
            None => Some(Value::Name(name)),
        }
    }
}

/// A text without its quotes.
pub(super) fn unquoted(written: &str, language: Language) -> String {
    let written = written.trim_start_matches(['@', '$']);
    let inner = written.get(1..written.len().saturating_sub(1)).unwrap_or_default();
    if written.starts_with('\'') && language == Language::Php {
        return inner.replace("\\'", "'").replace("\\\\", "\\");
    }
    if !inner.contains('\\') {
        return inner.to_owned();
    }
    let mut text = String::with_capacity(inner.len());
    let mut letters = inner.chars();
    while let Some(letter) = letters.next() {
        match (letter, letter == '\\') {
            (_, true) => match letters.next() {
                Some('n') => text.push('\n'),
                Some('t') => text.push('\t'),
                Some('r') => text.push('\r'),
                // It goes on in the next line, or is cut.
                Some('\n') | None => {}
                Some(other) => text.push(other),
            },
            (letter, false) => text.push(letter),
        }
    }
    text
}

/// Whether a word says something of a declaration, and is no type.
pub(super) fn is_modifier_alone(word: &str) -> bool {
    is_modifier(word) && !matches!(word, "file" | "value" | "data" | "open" | "default" | "inner")
}

/// Words that may stand before the name of what is declared, or before its type.
fn is_modifier(word: &str) -> bool {
    matches!(
        word,
        "public"
            | "private"
            | "protected"
            | "internal"
            | "abstract"
            | "final"
            | "sealed"
            | "static"
            | "open"
            | "override"
            | "virtual"
            | "readonly"
            | "partial"
            | "async"
            | "suspend"
            | "data"
            | "inner"
            | "inline"
            | "value"
            | "annotation"
            | "companion"
            | "export"
            | "default"
            | "declare"
            | "native"
            | "synchronized"
            | "transient"
            | "volatile"
            | "strictfp"
            | "extern"
            | "unsafe"
            | "new"
            | "required"
            | "lateinit"
            | "const"
            | "operator"
            | "infix"
            | "tailrec"
            | "external"
            | "expect"
            | "actual"
            | "fun"
            | "file"
            | "ref"
            | "enum"
            | "var"
    )
}
