//! Source code as words, literals and signs: comments are left out, and nothing else is understood.
//!
//! Where a text does not end, or is of a form that is not known for sure, the lexer says that it is in doubt. It goes over
//! each byte a few times at most, and keeps a stack of its own for code inside strings.

use super::Language;
use std::ops::Range;

/// Signs for lines that begin, part and end what only one of several conditions brings in.
pub(super) const BRANCH_BEGINS: u8 = 1;
pub(super) const BRANCH_AGAIN: u8 = 2;
pub(super) const BRANCHES_END: u8 = 3;
/// A text in quotes, as it is written.
pub(super) const TEXT: u8 = 4;
/// A text in which code stands, or one over several lines: what it is worth is not known.
pub(super) const CODED_TEXT: u8 = 5;
pub(super) const NUMBER: u8 = 6;

/// A word, a literal, or a sign of one byte.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Token {
    pub(super) start: u32,
    pub(super) end: u32,
    /// The sign; 0 for a word.
    pub(super) sign: u8,
}

impl Token {
    fn new(start: usize, end: usize, sign: u8) -> Self {
        Self { start: start as u32, end: end as u32, sign }
    }

    /// The bytes of it.
    pub(super) fn range(self) -> Range<usize> {
        self.start as usize..self.end as usize
    }

    pub(super) fn is(self, sign: u8) -> bool {
        self.sign == sign
    }
}

/// Why the words of a text are not known, and where.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct Doubt {
    pub(super) at: usize,
    pub(super) why: &'static str,
}

/// How a kind of string ends, and what stands in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct StringKind {
    quote: u8,
    /// How many quotes end it.
    quotes: usize,
    /// Whether a backslash takes the next letter's meaning away.
    escapes: bool,
    /// Whether two quotes are one.
    doubled: bool,
    /// What begins code inside it.
    code: &'static [u8],
    /// Whether it may go on over lines.
    lines: bool,
}

const PLAIN: StringKind =
    StringKind { quote: b'"', quotes: 1, escapes: true, doubled: false, code: b"", lines: false };

/// A string in which code stands, and how many braces are open there.
struct Inside {
    string: StringKind,
    braces: usize,
}

pub(super) struct Lexer<'t> {
    bytes: &'t [u8],
    language: Language,
    at: usize,
    inside: Vec<Inside>,
    /// Where the outermost string around begins, and whether code was met in it.
    text: (usize, bool),
    tokens: Vec<Token>,
}

/// The words and signs of a text, up to where it is in doubt.
pub(super) fn tokens(text: &str, language: Language) -> (Vec<Token>, Option<Doubt>) {
    let mut lexer = Lexer {
        bytes: text.as_bytes(),
        language,
        at: 0,
        inside: Vec::new(),
        text: (0, false),
        tokens: Vec::new(),
    };
    if language == Language::Php {
        lexer.page();
    }
    while lexer.at < lexer.bytes.len() {
        if let Err(doubt) = lexer.step() {
            return (lexer.tokens, Some(doubt));
        }
    }
    let doubt = (!lexer.inside.is_empty()).then(|| lexer.doubt(lexer.at, "a string does not end"));
    (lexer.tokens, doubt)
}

impl Lexer<'_> {
    fn doubt(&self, at: usize, why: &'static str) -> Doubt {
        Doubt { at: at.min(self.bytes.len()), why }
    }

    fn starts(&self, with: &[u8]) -> bool {
        self.bytes[self.at..].starts_with(with)
    }

    fn find(&self, from: usize, what: &[u8]) -> Option<usize> {
        let rest = self.bytes.get(from..)?;
        memchr::memmem::find(rest, what).map(|at| from + at)
    }

    fn skip_line(&mut self) {
        let rest = &self.bytes[self.at..];
        self.at += memchr::memchr2(b'\n', b'\r', rest).unwrap_or(rest.len());
    }

    fn step(&mut self) -> Result<(), Doubt> {
        let byte = self.bytes[self.at];
        match byte {
            _ if byte.is_ascii_whitespace() => self.at += 1,
            b'/' if self.language == Language::Python => self.sign(byte)?,
            b'/' if self.starts(b"//") => self.comment(),
            b'/' if self.starts(b"/*") => self.block_comment()?,
            b'#' if self.language == Language::Php && !self.starts(b"#[") => self.comment(),
            b'#' if self.language == Language::Python => self.skip_line(),
            b'#' if self.language == Language::CSharp && self.begins_line() => self.directive(),
            b'/' if self.language == Language::TypeScript && self.begins_pattern() => self.pattern()?,
            b'?' if self.language == Language::Php && self.starts(b"?>") => {
                self.at += 2;
                self.page();
            }
            b'<' if self.language == Language::Php && self.starts(b"<<<") => self.here_text()?,
            _ if self.is_name(byte) => self.word(),
            b'"' | b'\'' | b'`' | b'@' | b'$' => self.quoted(byte)?,
            _ => self.sign(byte)?,
        }
        Ok(())
    }

    /// A line for the preprocessor, of which those count that say what follows is one of several.
    fn directive(&mut self) {
        let start = self.at;
        self.skip_line();
        let line = self.bytes[start + 1..self.at].trim_ascii_start();
        let word = line.split(|byte| !byte.is_ascii_alphabetic()).next().unwrap_or_default();
        let sign = match word {
            b"if" => BRANCH_BEGINS,
            b"elif" | b"else" => BRANCH_AGAIN,
            b"endif" => BRANCHES_END,
            _ => return,
        };
        if self.inside.is_empty() {
            self.tokens.push(Token::new(start, self.at, sign));
        }
    }

    /// To the end of the line; in PHP a comment ends where the code does.
    fn comment(&mut self) {
        let start = self.at;
        self.skip_line();
        if self.language == Language::Php
            && let Some(end) = memchr::memmem::find(&self.bytes[start..self.at], b"?>")
        {
            self.at = start + end;
        }
    }

    fn block_comment(&mut self) -> Result<(), Doubt> {
        let start = self.at;
        let mut open = 1_usize;
        self.at += 2;
        while open > 0 {
            let Some(end) = self.find(self.at, b"*/") else {
                return Err(self.doubt(start, "a comment does not end"));
            };
            // In Kotlin they stand in one another.
            if self.language == Language::Kotlin {
                open += memchr::memmem::find_iter(&self.bytes[self.at..end], b"/*").count();
            }
            open -= 1;
            self.at = end + 2;
        }
        Ok(())
    }

    fn begins_line(&self) -> bool {
        let before = self.bytes[..self.at].iter().rev();
        before.take_while(|&&byte| byte != b'\n').all(u8::is_ascii_whitespace)
    }

    /// Whether a slash begins a pattern: where a value may begin, and nothing can be divided.
    fn begins_pattern(&self) -> bool {
        let before = self.bytes[..self.at].trim_ascii_end();
        match before.last() {
            None => true,
            Some(&last) if is_word(last) || last == b'$' => {
                let start = before.iter().rposition(|&byte| !is_word(byte)).map_or(0, |at| at + 1);
                let word = &before[start..];
                [&b"return"[..], b"case", b"typeof", b"in", b"of", b"void", b"delete"].contains(&word)
            }
            // Behind a value it says that there is one.
            Some(b'!') => {
                before.iter().rev().nth(1).is_none_or(|&byte| !is_word(byte) && !matches!(byte, b')' | b']'))
            }
            // What counts up or down stands behind a value.
            Some(b'+' | b'-') => !before.ends_with(b"++") && !before.ends_with(b"--"),
            // An arrow leads to a value.
            Some(b'>') => before.ends_with(b"=>"),
            Some(last) => !matches!(last, b')' | b']' | b'}' | b'"' | b'\'' | b'`' | b'<'),
        }
    }

    fn pattern(&mut self) -> Result<(), Doubt> {
        let start = self.at;
        let mut is_class = false;
        self.at += 1;
        while let Some(&byte) = self.bytes.get(self.at) {
            match byte {
                b'\\' => self.at += 1,
                b'[' => is_class = true,
                b']' => is_class = false,
                b'/' if !is_class => {
                    self.at += 1;
                    if self.inside.is_empty() {
                        self.tokens.push(Token::new(start, self.at, CODED_TEXT));
                    }
                    return Ok(());
                }
                b'\n' => break,
                _ => {}
            }
            self.at += 1;
        }
        Err(self.doubt(start, "a pattern does not end in its line"))
    }

    /// What stands around the code of a page.
    fn page(&mut self) {
        self.at = self.find(self.at, b"<?").map_or(self.bytes.len(), |at| at + 2);
        if self.bytes[self.at..].get(..3).is_some_and(|word| word.eq_ignore_ascii_case(b"php")) {
            self.at += 3;
        }
    }

    /// A text between a name and a line that begins with it.
    fn here_text(&mut self) -> Result<(), Doubt> {
        let start = self.at;
        self.at += 3;
        while self.bytes.get(self.at).is_some_and(|byte| matches!(byte, b' ' | b'\t' | b'\'' | b'"')) {
            self.at += 1;
        }
        let name_start = self.at;
        while self.bytes.get(self.at).copied().is_some_and(is_word) {
            self.at += 1;
        }
        let name = &self.bytes[name_start..self.at];
        if name.is_empty() {
            return Err(self.doubt(start, "a text has no name that it ends with"));
        }
        loop {
            self.skip_line();
            while self.bytes.get(self.at).is_some_and(u8::is_ascii_whitespace) {
                self.at += 1;
            }
            if self.at >= self.bytes.len() {
                return Err(self.doubt(start, "a text does not end"));
            }
            let rest = &self.bytes[self.at..];
            if rest.starts_with(name) && !rest.get(name.len()).copied().is_some_and(is_word) {
                self.at += name.len();
                if self.inside.is_empty() {
                    self.tokens.push(Token::new(start, self.at, CODED_TEXT));
                }
                return Ok(());
            }
        }
    }

    /// Whether a byte can be in a name of the language.
    fn is_name(&self, byte: u8) -> bool {
        let more = match self.language {
            Language::Php => b'\\',
            Language::Java | Language::TypeScript => b'$',
            _ => return is_word(byte),
        };
        is_word(byte) || byte == more
    }

    fn word(&mut self) {
        let start = self.at;
        let length = self.bytes[start..].iter().take_while(|&&byte| self.is_name(byte)).count();
        self.at += length;
        // What stands right before a text in quotes says how it is to be read.
        if self.language == Language::Python
            && length <= 2
            && matches!(self.bytes.get(self.at), Some(b'"' | b'\''))
            && self.bytes[start..self.at].iter().all(|byte| b"rbfuRBFU".contains(byte))
        {
            return;
        }
        if self.inside.is_empty() {
            let sign = if self.bytes[start].is_ascii_digit() { NUMBER } else { 0 };
            self.tokens.push(Token::new(start, self.at, sign));
        }
    }

    fn sign(&mut self, byte: u8) -> Result<(), Doubt> {
        self.at += 1;
        let Some(inside) = self.inside.last_mut() else {
            self.tokens.push(Token::new(self.at - 1, self.at, byte));
            return Ok(());
        };
        match byte {
            b'{' => inside.braces += 1,
            b'}' if inside.braces > 0 => inside.braces -= 1,
            // The code is at its end, and the string goes on.
            b'}' => {
                let string = inside.string;
                self.inside.pop();
                return self.string(self.at - 1, string);
            }
            _ => {}
        }
        Ok(())
    }

    /// Something that begins a string, or only looks like it.
    fn quoted(&mut self, byte: u8) -> Result<(), Doubt> {
        let start = self.at;
        let rest = &self.bytes[self.at..];
        let signs = rest.iter().take(SIGNS).take_while(|&&byte| matches!(byte, b'@' | b'$')).count();
        // However many there are, in most languages a few say all: what follows is looked at from each of them.
        let most = if self.language == Language::CSharp { rest.len() } else { 6 };
        let quotes = rest[signs..].iter().take(most).take_while(|&&byte| byte == b'"').count();
        let before = &rest[..signs];
        let (string, length) = match (self.language, byte) {
            (Language::Kotlin, b'`') => (StringKind { quote: b'`', escapes: false, ..PLAIN }, 1),
            (Language::Php, b'"') => (StringKind { lines: true, code: b"{$", ..PLAIN }, 1),
            (Language::Python, b'"' | b'\'') => {
                let triple = rest.starts_with(&[byte; 3]);
                let quotes = if triple { 3 } else { 1 };
                (StringKind { quote: byte, quotes, lines: triple, ..PLAIN }, quotes)
            }
            (Language::TypeScript, b'`') => {
                (StringKind { quote: b'`', lines: true, code: b"${", ..PLAIN }, 1)
            }
            (Language::Php, b'\'' | b'`') => (StringKind { quote: byte, lines: true, ..PLAIN }, 1),
            (Language::Java, b'"') if quotes >= 3 && quotes != 4 && quotes != 5 => {
                (StringKind { quotes: 3, lines: true, ..PLAIN }, 3)
            }
            (Language::Kotlin, b'"') if quotes >= 3 => {
                (StringKind { quotes: 3, escapes: false, lines: true, code: b"${", ..PLAIN }, 3)
            }
            (Language::Kotlin, b'"') => (StringKind { code: b"${", ..PLAIN }, 1),
            (Language::CSharp, _) if quotes >= 3 && !before.contains(&b'@') => {
                (StringKind { quotes, escapes: false, lines: true, ..PLAIN }, signs + quotes)
            }
            (Language::CSharp, _) if quotes > 0 => {
                let is_verbatim = before.contains(&b'@');
                let code: &[u8] = if before.contains(&b'$') { b"{" } else { b"" };
                let (escapes, doubled) = (!is_verbatim, is_verbatim);
                (StringKind { escapes, doubled, lines: is_verbatim, code, ..PLAIN }, signs + 1)
            }
            (Language::Java | Language::TypeScript, b'"') => (PLAIN, 1),
            (_, b'\'') => (StringKind { quote: b'\'', ..PLAIN }, 1),
            _ => return self.sign(byte),
        };
        self.at += length;
        if self.inside.is_empty() {
            self.text = (start, string.quotes > 1);
        }
        self.string(start, string)
    }

    /// A string is at its end.
    fn end_of_string(&mut self, quote: u8) {
        if self.inside.is_empty() {
            let (start, is_coded) = self.text;
            // A name in quotes is a name.
            let sign = if quote == b'`' && self.language == Language::Kotlin { 0 } else { TEXT };
            let sign = if is_coded { CODED_TEXT } else { sign };
            self.tokens.push(Token::new(start, self.at, sign));
        }
    }

    /// To the end of a string, or to the code in it.
    fn string(&mut self, start: usize, string: StringKind) -> Result<(), Doubt> {
        let StringKind { quote, quotes, escapes, doubled, code, lines } = string;
        while let Some(&byte) = self.bytes.get(self.at) {
            let is_doubled = |lexer: &Self| lexer.bytes.get(lexer.at + 1) == Some(&byte);
            if byte == b'\\' && escapes || byte == quote && doubled && is_doubled(self) {
                // An escaped end of a line may be two bytes.
                let is_two = self.bytes[self.at + 1..].starts_with(b"\r\n");
                self.at += if is_two { 3 } else { 2 };
            } else if byte == quote && quotes == 1 {
                self.at += 1;
                self.end_of_string(quote);
                return Ok(());
            } else if byte == quote {
                let closing = self.bytes[self.at..].iter().take_while(|&&byte| byte == quote).count();
                if closing >= quotes {
                    // Of more quotes than end it the first belong to it.
                    self.at += closing;
                    self.end_of_string(quote);
                    return Ok(());
                }
                self.at += closing;
            } else if !code.is_empty() && self.starts(code) {
                if code == b"{" && is_doubled(self) {
                    self.at += 2;
                    continue;
                }
                self.at += code.len();
                self.text.1 = true;
                self.inside.push(Inside { string, braces: 0 });
                return Ok(());
            } else if byte == b'\n' && !lines {
                return Err(self.doubt(start, "a string does not end in its line"));
            } else {
                self.at += 1;
            }
        }
        Err(self.doubt(start, "a string does not end"))
    }
}

/// How many signs may stand before the quotes of a string.
const SIGNS: usize = 16;

/// Whether a byte can be in a word: letters beyond ASCII are.
fn is_word(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || byte == b'_' || byte >= 0x80
}
