//! TOML 1.1 to a tree. The only module that knows the TOML parser.
//!
//! The crate reports events with places; what they say of one another is worked out here: headers and dotted
//! keys are put where they belong, so that the tree is that of a map of maps. What TOML forbids because it
//! would define something twice stands in the tree twice, for the reader to report as any repeated key; the
//! rest of the file still counts.

use super::{DEPTH_LIMIT, NodeKind, SyntaxError, Tree};
use corvant_core::source::Span;
use foldhash::{HashMap, HashMapExt};
use std::borrow::Cow;
use toml_parser::decoder::{Encoding, ScalarKind};
use toml_parser::parser::{EventReceiver, RecursionGuard, ValidateWhitespace, parse_document};
use toml_parser::{ErrorSink, ParseError, Source, Span as Range};

/// The tree of a text without byte-order mark. A text without any key is an empty tree.
pub fn parse(text: &str) -> Result<Tree<'_>, SyntaxError> {
    let source = Source::new(text);
    let tokens = source.lex().into_vec();
    let mut builder = TomlBuilder::new(source);
    let mut error: Option<ParseError> = None;
    {
        let mut guarded = RecursionGuard::new(&mut builder, DEPTH_LIMIT as u32 - 1);
        parse_document(&tokens, &mut ValidateWhitespace::new(&mut guarded, source), &mut error);
    }
    if let Some(error) = builder.error {
        return Err(error);
    }
    if let Some(error) = error {
        return Err(parse_error(text, &error));
    }
    Ok(builder.tree(text))
}

fn parse_error(text: &str, error: &ParseError) -> SyntaxError {
    let range = error.unexpected().or(error.context());
    let (start, end) = range.map_or((0, 0), |range| (range.start(), range.end()));
    // A place never runs over the end of its line.
    let line = text.get(start..end).map_or(0, |there| there.lines().next().unwrap_or("").len());
    let span = Span::new(start, start + line);
    if error.description().contains("recursion depth") {
        return SyntaxError::too_deep(span);
    }
    let expected = error.expected().unwrap_or_default().iter().map(|expected| match expected {
        toml_parser::Expected::Literal(text) => format!("`{}`", text.replace('\n', "\\n")),
        toml_parser::Expected::Description(text) => (*text).to_owned(),
        _ => String::new(),
    });
    let expected: Vec<String> = expected.filter(|expected| !expected.is_empty()).collect();
    let mut message = error.description().to_owned();
    if !expected.is_empty() {
        message = format!("{message}; expected {}", expected.join(" or "));
    }
    SyntaxError::malformed("TOML", &message, span)
}

/// How a table came to be, which decides what may still be added to it.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum TableOrigin {
    /// By a header of its own, or it is the root.
    Header,
    /// On the way to another header.
    Way,
    /// By a dotted key.
    Dotted,
    /// Between braces.
    Inline,
}

#[derive(Debug)]
enum Content<'text> {
    Plain(NodeKind, Cow<'text, str>),
    /// Elements.
    List(Vec<u32>),
    /// Keys and values in turn.
    Table(TableOrigin, Vec<u32>),
}

#[derive(Debug)]
struct Draft<'text> {
    span: Span,
    content: Content<'text>,
}

struct TomlBuilder<'text> {
    source: Source<'text>,
    drafts: Vec<Draft<'text>>,
    /// By table and key: the table, or list of tables, that headers and dotted keys may go on with.
    tables: HashMap<(u32, Cow<'text, str>), u32>,
    /// The table of the header above.
    table: u32,
    /// Lists and inline tables that have begun, innermost last.
    open: Vec<u32>,
    /// For each open inline table, and for the table of the header: the keys before an equals sign.
    keys: Vec<Vec<Key<'text>>>,
    /// Where a header begins, while its keys are read.
    header: Option<usize>,
    error: Option<SyntaxError>,
}

type Key<'text> = (Cow<'text, str>, Span);

impl<'text> TomlBuilder<'text> {
    fn new(source: Source<'text>) -> Self {
        let root = Draft { span: Span::at(0), content: Content::Table(TableOrigin::Header, Vec::new()) };
        Self {
            source,
            drafts: vec![root],
            tables: HashMap::new(),
            table: 0,
            open: Vec::new(),
            keys: vec![Vec::new()],
            header: None,
            error: None,
        }
    }

    fn add(&mut self, span: Span, content: Content<'text>) -> u32 {
        self.drafts.push(Draft { span, content });
        self.drafts.len() as u32 - 1
    }

    fn members(&mut self, of: u32) -> &mut Vec<u32> {
        match &mut self.drafts[of as usize].content {
            Content::List(members) | Content::Table(_, members) => members,
            Content::Plain(..) => unreachable!("only lists and tables are given members"),
        }
    }

    /// Puts a value under a key into a table.
    fn put(&mut self, table: u32, (key, span): Key<'text>, value: u32) {
        let key = self.add(span, Content::Plain(NodeKind::Text, key));
        self.members(table).extend([key, value]);
    }

    /// A new table under a key.
    fn put_table(&mut self, table: u32, key: Key<'text>, origin: TableOrigin) -> u32 {
        let new = self.add(key.1, Content::Table(origin, Vec::new()));
        self.tables.insert((table, key.0.clone()), new);
        self.put(table, key, new);
        new
    }

    /// The table under a key that a header or dotted key passes through: the one there, or a new one where
    /// there is none or it may not be added to.
    fn pass(&mut self, table: u32, key: Key<'text>, origin: TableOrigin) -> u32 {
        let known = self.tables.get(&(table, key.0.clone())).copied();
        let last = known.map(|known| match &self.drafts[known as usize].content {
            Content::List(elements) => *elements.last().expect("a list of tables is never empty"),
            _ => known,
        });
        let may_pass = |&last: &u32| match &self.drafts[last as usize].content {
            Content::Table(TableOrigin::Dotted, _) => true,
            Content::Table(..) => origin == TableOrigin::Way,
            _ => false,
        };
        match last.filter(may_pass) {
            Some(last) => last,
            None => self.put_table(table, key, origin),
        }
    }

    fn header_end(&mut self, end: usize, is_list: bool) {
        let start = self.header.take().unwrap_or(end);
        let mut keys = std::mem::take(&mut self.keys[0]);
        let Some(last) = keys.pop() else { return };
        if self.is_too_deep(keys.len(), last.1) {
            return;
        }
        let parent = keys.into_iter().fold(0, |table, key| self.pass(table, key, TableOrigin::Way));
        let span = Span::new(start, end);
        let known = self.tables.get(&(parent, last.0.clone())).copied();
        self.table = match known.map(|known| (known, &mut self.drafts[known as usize])) {
            Some((known, Draft { content: Content::Table(origin @ TableOrigin::Way, _), span: place }))
                if !is_list =>
            {
                *origin = TableOrigin::Header;
                *place = span;
                known
            }
            Some((known, Draft { content: Content::List(_), .. })) if is_list => {
                let element = self.add(span, Content::Table(TableOrigin::Header, Vec::new()));
                self.members(known).push(element);
                element
            }
            _ if is_list => {
                let element = self.add(span, Content::Table(TableOrigin::Header, Vec::new()));
                let list = self.add(span, Content::List(vec![element]));
                self.tables.insert((parent, last.0.clone()), list);
                self.put(parent, last, list);
                element
            }
            _ => {
                let table = self.put_table(parent, last, TableOrigin::Header);
                self.drafts[table as usize].span = span;
                table
            }
        };
    }

    /// Puts a finished or begun value where it belongs: into the open list, or under the keys before it.
    fn place(&mut self, value: u32) {
        let outer = self.open.last().copied();
        if let Some(list) = outer
            && matches!(self.drafts[list as usize].content, Content::List(_))
        {
            self.members(list).push(value);
            return;
        }
        let Some(mut keys) = self.keys.last_mut().map(std::mem::take) else { return };
        let Some(last) = keys.pop() else { return };
        if self.is_too_deep(keys.len(), last.1) {
            return;
        }
        let table = outer.unwrap_or(self.table);
        let table = keys.into_iter().fold(table, |table, key| self.pass(table, key, TableOrigin::Dotted));
        self.put(table, last, value);
    }

    fn is_too_deep(&mut self, keys: usize, span: Span) -> bool {
        if keys >= DEPTH_LIMIT {
            self.error.get_or_insert(SyntaxError::too_deep(span));
        }
        keys >= DEPTH_LIMIT
    }

    fn begin(&mut self, span: Range, content: Content<'text>) -> bool {
        if matches!(content, Content::Table(..)) {
            let value = self.add(place_of(span), content);
            self.place(value);
            self.open.push(value);
            self.keys.push(Vec::new());
        } else {
            let value = self.add(place_of(span), content);
            self.place(value);
            self.open.push(value);
        }
        true
    }

    fn end(&mut self, span: Range) {
        if let Some(value) = self.open.pop() {
            let draft = &mut self.drafts[value as usize];
            draft.span.end = span.end() as u32;
            if matches!(draft.content, Content::Table(..)) {
                self.keys.pop();
            }
        }
    }

    /// The drafts as a tree, in the order in which they were begun.
    fn tree(self, text: &'text str) -> Tree<'text> {
        let mut tree = Tree::new(text);
        if matches!(&self.drafts[0].content, Content::Table(_, members) if members.is_empty()) {
            return tree;
        }
        let mut waiting = vec![(0_u32, false)];
        while let Some((number, has_ended)) = waiting.pop() {
            let draft = &self.drafts[number as usize];
            if has_ended {
                tree.close(draft.span.end);
                continue;
            }
            let (kind, members) = match &draft.content {
                Content::Plain(kind, text) => {
                    tree.scalar(*kind, draft.span, text);
                    continue;
                }
                Content::List(members) => (NodeKind::List, members),
                Content::Table(_, members) => (NodeKind::Map, members),
            };
            tree.open(kind, draft.span);
            waiting.push((number, true));
            waiting.extend(members.iter().rev().map(|&member| (member, false)));
        }
        tree
    }
}

fn place_of(range: Range) -> Span {
    Span::new(range.start(), range.end())
}

impl EventReceiver for TomlBuilder<'_> {
    fn std_table_open(&mut self, span: Range, _: &mut dyn ErrorSink) {
        self.header = Some(span.start());
        self.keys[0].clear();
    }

    fn std_table_close(&mut self, span: Range, _: &mut dyn ErrorSink) {
        self.header_end(span.end(), false);
    }

    fn array_table_open(&mut self, span: Range, _: &mut dyn ErrorSink) {
        self.header = Some(span.start());
        self.keys[0].clear();
    }

    fn array_table_close(&mut self, span: Range, _: &mut dyn ErrorSink) {
        self.header_end(span.end(), true);
    }

    fn inline_table_open(&mut self, span: Range, _: &mut dyn ErrorSink) -> bool {
        self.begin(span, Content::Table(TableOrigin::Inline, Vec::new()))
    }

    fn inline_table_close(&mut self, span: Range, _: &mut dyn ErrorSink) {
        self.end(span);
    }

    fn array_open(&mut self, span: Range, _: &mut dyn ErrorSink) -> bool {
        self.begin(span, Content::List(Vec::new()))
    }

    fn array_close(&mut self, span: Range, _: &mut dyn ErrorSink) {
        self.end(span);
    }

    fn simple_key(&mut self, span: Range, encoding: Option<Encoding>, error: &mut dyn ErrorSink) {
        let mut key = Cow::Borrowed("");
        let Some(raw) = self.source.get(span) else { return };
        toml_parser::Raw::new_unchecked(raw.as_str(), encoding, span).decode_key(&mut key, error);
        if let Some(keys) = self.keys.last_mut() {
            keys.push((key, place_of(span)));
        }
    }

    fn scalar(&mut self, span: Range, encoding: Option<Encoding>, error: &mut dyn ErrorSink) {
        let mut text = Cow::Borrowed("");
        let Some(raw) = self.source.get(span) else { return };
        let raw = toml_parser::Raw::new_unchecked(raw.as_str(), encoding, span);
        let (kind, text) = match raw.decode_scalar(&mut text, error) {
            // A date is text that looks like one, as in the other syntaxes.
            ScalarKind::String | ScalarKind::DateTime => (NodeKind::Text, text),
            ScalarKind::Boolean(_) => (NodeKind::Boolean, text),
            ScalarKind::Float => (NodeKind::Number, text),
            ScalarKind::Integer(radix) => {
                let other = (radix.value() != 10).then(|| i64::from_str_radix(&text, radix.value()).ok());
                (NodeKind::Integer, other.flatten().map_or(text, |number| Cow::Owned(number.to_string())))
            }
        };
        let value = self.add(place_of(span), Content::Plain(kind, text));
        self.place(value);
    }
}

#[cfg(test)]
mod tests {
    use crate::syntax::tests::{drawn, value_text};
    use rstest::rstest;

    #[rstest]
    #[case::kinds(
        "a = 1\nb = 1.5\nc = 'yes'\nd = true\ne = 2027-04-30\nf = -1_000\ng = 0xff",
        "{a=i:1 b=n:1.5 c='yes' d=b:true e='2027-04-30' f=i:-1000 g=i:255}"
    )]
    #[case::texts(
        "a = \"x\\u0041\\n\"\nb = '''\none\ntwo'''\nc = \"\"\"\\\n  x\"\"\"",
        "{a='xA\n' b='one\ntwo' c='x'}"
    )]
    #[case::headers("[a.b]\nc = 1\n[a]\nd = 2\n[e]", "{a={b={c=i:1} d=i:2} e={}}")]
    #[case::dotted_keys("a.b.c = 1\na.d = 2\n'x.y' = 3", "{a={b={c=i:1} d=i:2} x.y=i:3}")]
    #[case::dotted_below_a_header("[s]\na.b = 1\n[s.a.c]\nd = 2", "{s={a={b=i:1 c={d=i:2}}}}")]
    #[case::inline("a = { b = 1, c.d = [2, { e = 3 }] }", "{a={b=i:1 c={d=[i:2 {e=i:3}]}}}")]
    #[case::lists_of_tables(
        "[[a]]\nb = 1\n[[a]]\nb = 2\n[a.c]\nd = 3\n[[a.e]]",
        "{a=[{b=i:1} {b=i:2 c={d=i:3} e=[{}]}]}"
    )]
    #[case::empty("", "")]
    #[case::only_comments("# nothing\n", "")]
    #[case::repeated_keys_stay_visible("a = 1\na = 2", "{a=i:1 a=i:2}")]
    #[case::repeated_headers_stay_visible("[a]\nb = 1\n[a]\nc = 2", "{a={b=i:1} a={c=i:2}}")]
    #[case::header_over_a_value("a = 1\n[a]\nb = 2", "{a=i:1 a={b=i:2}}")]
    #[case::header_over_dotted("a.b = 1\n[a]\nc = 2", "{a={b=i:1} a={c=i:2}}")]
    #[case::header_over_inline("a = { b = 1 }\n[a.c]\nd = 2", "{a={b=i:1} a={c={d=i:2}}}")]
    #[case::dotted_over_a_header("[a]\nb = 1\n[c]\n[a.d]\n", "{a={b=i:1 d={}} c={}}")]
    #[case::table_over_a_list("[[a]]\nb = 1\n[a]\nc = 2", "{a=[{b=i:1}] a={c=i:2}}")]
    #[case::list_over_a_table("[a]\nb = 1\n[[a]]\nc = 2", "{a={b=i:1} a=[{c=i:2}]}")]
    fn a_text_becomes_a_tree(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(drawn(super::parse(text)), expected);
    }

    #[rstest]
    #[case::no_value("a =\n", 3)]
    #[case::no_key("= 1", 0)]
    #[case::unclosed_list("a = [1,\nb = 2", 8)]
    #[case::unclosed_text("a = \"b\n", 6)]
    #[case::two_on_a_line("a = 1 b = 2", 4)]
    #[case::bare_text("a = yes", 4)]
    #[case::control_character("a = \"\u{1}\"", 5)]
    fn what_is_not_well_formed_is_an_error_with_a_place(#[case] text: &str, #[case] at: u32) {
        let error = super::parse(text).unwrap_err();
        assert!(error.message.starts_with("not well-formed TOML: "), "{}", error.message);
        assert_eq!(error.span.start, at, "{}", error.message);
    }

    #[rstest]
    #[case::text("k = \"a b\" # x", "\"a b\"")]
    #[case::after_other_scripts("\"ž\" = 'ů'\nk = '停車'", "'停車'")]
    #[case::list("k = [1, [2]] # x", "[1, [2]]")]
    #[case::inline_table("k = { a = 1 } # x", "{ a = 1 }")]
    #[case::header("[k]\na = 1", "[k]")]
    fn a_value_keeps_its_place(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(value_text(&super::parse(text).unwrap()), expected);
    }

    #[rstest]
    #[case::lists("a = ".to_owned() + &"[".repeat(100_000))]
    #[case::inline_tables("a = ".to_owned() + &"{ a = ".repeat(100_000))]
    #[case::dotted_keys("a.".repeat(100_000) + "a = 1")]
    #[case::headers(format!("[{}a]", "a.".repeat(100_000)))]
    fn deep_nesting_is_an_error_with_a_place(#[case] text: String) {
        let error = super::parse(&text).unwrap_err();
        assert!(error.message.contains("nested more than 250 deep"), "{}", error.message);
    }
}
