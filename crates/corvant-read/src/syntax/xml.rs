//! XML 1.0: text to a tree.
//!
//! An element is a map of `@attribute`, child elements by name (always lists, in the order of the first of
//! each) and `#text`. The outermost element stands in the root map under its name, without a list. Names keep
//! the prefixes they are written with; a document type is passed over, and entities it declares are not known.

use super::{DEPTH_LIMIT, NodeKind, SyntaxError, Tree};
use corvant_core::source::{Span, cut};
use foldhash::{HashMap, HashMapExt};
use quick_xml::Reader;
use quick_xml::errors::{Error, SyntaxError as XmlError};
use quick_xml::escape;
use quick_xml::events::{BytesStart, Event};
use std::borrow::Cow;

/// A name or value, and where it stands.
type Placed<'text> = (Cow<'text, str>, Span);

struct Element<'text> {
    name: Placed<'text>,
    span: Span,
    attributes: Vec<(Placed<'text>, Placed<'text>)>,
    children: Vec<usize>,
    text: Option<Placed<'text>>,
}

/// The tree of an XML text.
pub fn parse(text: &str) -> Result<Tree<'_>, SyntaxError> {
    let elements = Document::read(text)?.elements;
    let mut tree = Tree::new(text);
    emit(&elements, &mut tree);
    Ok(tree)
}

/// The same tree, with names of elements and attributes without the prefixes of their namespaces.
pub(crate) fn parse_without_prefixes(text: &str) -> Result<Tree<'_>, SyntaxError> {
    let mut elements = Document::read(text)?.elements;
    for element in &mut elements {
        drop_prefix(&mut element.name, "");
        element.attributes.iter_mut().for_each(|(key, _)| drop_prefix(key, "@"));
    }
    let mut tree = Tree::new(text);
    emit(&elements, &mut tree);
    Ok(tree)
}

/// Takes the prefix from a name behind a sign; what declares a prefix keeps it.
fn drop_prefix((name, place): &mut (Cow<'_, str>, Span), sign: &str) {
    let Some((prefix, local)) = name.strip_prefix(sign).and_then(|name| name.split_once(':')) else { return };
    if prefix != "xmlns" {
        place.start += prefix.len() as u32 + 1;
        *name = Cow::Owned(format!("{sign}{local}"));
    }
}

struct Document<'text> {
    text: &'text str,
    elements: Vec<Element<'text>>,
    open: Vec<usize>,
}

impl<'text> Document<'text> {
    fn read(text: &'text str) -> Result<Self, SyntaxError> {
        // The library passes over a byte-order mark, and all its places with it; the file's own is gone by now.
        if text.starts_with('\u{feff}') {
            return Err(malformed("there is text outside of the outermost element", Span::new(0, 3)));
        }
        let mut document = Self { text, elements: Vec::new(), open: Vec::new() };
        let mut reader = Reader::from_str(text);
        reader.config_mut().expand_empty_elements = true;
        loop {
            let start = reader.buffer_position() as usize;
            let event = reader.read_event().map_err(|error| {
                malformed(&reason(&error), Span::at((reader.error_position() as usize).min(text.len())))
            })?;
            let span = Span::new(start, reader.buffer_position() as usize);
            match event {
                Event::Start(begin) => document.start(&begin, span)?,
                Event::End(_) => {
                    if let Some(element) = document.open.pop() {
                        document.elements[element].span.end = span.end;
                    }
                }
                Event::Text(part) => document.text(&part, span)?,
                Event::CData(part) => document.text(&part, span)?,
                Event::GeneralRef(name) => {
                    let reference = format!("&{};", &*name);
                    let value = escape::unescape(&reference)
                        .map_err(|_| malformed(&format!("the entity {reference} is not known"), span))?;
                    document.text(&value, span)?;
                }
                Event::Eof => break,
                Event::Empty(_) | Event::Comment(_) | Event::Decl(_) | Event::PI(_) | Event::DocType(_) => {}
            }
        }
        if let Some(&open) = document.open.last() {
            let name = &document.elements[open].name;
            return Err(malformed(&format!("the element <{}> does not end", name.0), name.1));
        }
        if document.elements.is_empty() {
            return Err(malformed("there is no element", Span::at(0)));
        }
        Ok(document)
    }

    fn start(&mut self, begin: &BytesStart<'_>, span: Span) -> Result<(), SyntaxError> {
        if self.open.len() >= DEPTH_LIMIT {
            return Err(SyntaxError::too_deep(span));
        }
        if self.open.is_empty() && !self.elements.is_empty() {
            return Err(malformed("there is a second outermost element", span));
        }
        // The name stands behind its bracket, and attributes behind it.
        let at = span.start as usize + 1;
        let name = begin.name().as_ref().to_owned();
        let name = (Cow::Owned(name.clone()), Span::new(at, at + name.len()));
        let mut attributes = Vec::new();
        let base = begin.as_ref().as_ptr() as usize;
        let place = |part: &str| {
            let start = at + (part.as_ptr() as usize - base);
            Span::new(start, start + part.len())
        };
        for attribute in begin.attributes() {
            let attribute = attribute.map_err(|error| malformed(&error.to_string(), span))?;
            let (key, value) = (attribute.key.as_ref(), attribute.value.as_ref());
            let written = escape::unescape(value)
                .map_err(|error| malformed(&format!("in an attribute: {error}"), place(value)))?;
            let key = (Cow::Owned(format!("@{key}")), place(key));
            attributes.push((key, (Cow::Owned(written.into_owned()), place(value))));
        }
        let number = self.elements.len();
        if let Some(&parent) = self.open.last() {
            self.elements[parent].children.push(number);
        }
        self.elements.push(Element { name, span, attributes, children: Vec::new(), text: None });
        self.open.push(number);
        Ok(())
    }

    /// Adds a part of the text of the open element; white space between elements is none.
    fn text(&mut self, part: &str, span: Span) -> Result<(), SyntaxError> {
        let Some(&open) = self.open.last() else {
            return match part.trim() {
                "" => Ok(()),
                _ => Err(malformed("there is text outside of the outermost element", span)),
            };
        };
        let known = &mut self.elements[open].text;
        match known {
            Some((text, place)) => {
                text.to_mut().push_str(part);
                if !part.trim().is_empty() {
                    place.end = span.end;
                }
            }
            None if part.trim().is_empty() => {}
            None => {
                let written = cut(self.text, span);
                let start = span.start as usize + (written.len() - written.trim_start().len());
                *known = Some((Cow::Owned(part.to_owned()), Span::new(start, span.end as usize)));
            }
        }
        Ok(())
    }
}

fn malformed(message: &str, span: Span) -> SyntaxError {
    SyntaxError::malformed("XML", message, span)
}

fn reason(error: &Error) -> String {
    match error {
        Error::Syntax(XmlError::UnclosedTag) => "a tag does not end with `>`".to_owned(),
        error => error.to_string(),
    }
}

enum Emit {
    Element(usize),
    Close(u32),
}

/// Writes elements into a tree, children grouped by name; on a stack of its own.
fn emit(elements: &[Element<'_>], tree: &mut Tree<'_>) {
    let root = &elements[0];
    tree.open(NodeKind::Map, root.span);
    tree.scalar(NodeKind::Text, root.name.1, &root.name.0);
    let mut waiting = vec![Emit::Close(root.span.end), Emit::Element(0)];
    let mut key_of: HashMap<usize, Placed<'_>> = HashMap::new();
    while let Some(step) = waiting.pop() {
        let number = match step {
            Emit::Close(end) => {
                tree.close(end);
                continue;
            }
            Emit::Element(number) => number,
        };
        if let Some((name, span)) = key_of.remove(&number) {
            tree.scalar(NodeKind::Text, span, &name);
            tree.open(NodeKind::List, elements[number].span);
        }
        let element = &elements[number];
        tree.open(NodeKind::Map, element.span);
        for ((key, key_span), (value, value_span)) in &element.attributes {
            tree.scalar(NodeKind::Text, *key_span, key);
            tree.scalar(NodeKind::Text, *value_span, value);
        }
        if let Some((text, span)) = &element.text {
            let text = text.trim();
            tree.scalar(NodeKind::Text, Span::at(span.start as usize), "#text");
            tree.scalar(NodeKind::Text, Span::new(span.start as usize, trimmed_end(tree, *span)), text);
        }
        waiting.push(Emit::Close(element.span.end));
        for mut group in groups(elements, &element.children).into_iter().rev() {
            let (first, last) = (group[0], *group.last().expect("no group is empty"));
            key_of.insert(first, elements[first].name.clone());
            waiting.push(Emit::Close(elements[last].span.end));
            group.reverse();
            waiting.extend(group.into_iter().map(Emit::Element));
        }
    }
    tree.close(root.span.end);
}

fn trimmed_end(tree: &Tree<'_>, span: Span) -> usize {
    let written = tree.written(span);
    span.start as usize + written.trim_end().len()
}

/// Children by name, in the order in which the names come up.
fn groups(elements: &[Element<'_>], children: &[usize]) -> Vec<Vec<usize>> {
    let mut numbers: HashMap<&str, usize> = HashMap::new();
    let mut groups: Vec<Vec<usize>> = Vec::new();
    for &child in children {
        let number = *numbers.entry(&elements[child].name.0).or_insert_with(|| {
            groups.push(Vec::new());
            groups.len() - 1
        });
        groups[number].push(child);
    }
    groups
}

#[cfg(test)]
mod tests {
    use crate::syntax::tests::{outline, places};
    use rstest::rstest;

    #[rstest]
    #[case::attributes_children_and_text(
        "<objects unit=\"depot\"><object name='a'>x</object><arg/><object>y &amp; z</object></objects>",
        "{objects: {@unit: depot, object: [{@name: a, #text: x}, {#text: y & z}], arg: [{}]}}"
    )]
    #[case::declarations_comments_and_types(
        "<?xml version=\"1.0\"?><!DOCTYPE a [<!ENTITY e \"x\">]><!-- a --><a><![CDATA[<b>]]></a>\n",
        "{a: {#text: <b>}}"
    )]
    #[case::prefixes_stay("<s:a xmlns:s='u'><s:b/></s:a>", "{s:a: {@xmlns:s: u, s:b: [{}]}}")]
    #[case::white_space_is_no_text("<a>\n  <b> c\n d </b>\n</a>", "{a: {b: [{#text: c\n d}]}}")]
    #[case::escapes("<a b='&lt;&#x41;&quot;'/>", "{a: {@b: <A\"}}")]
    fn elements_are_maps(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(outline(&super::parse(text).unwrap()), expected);
    }

    #[rstest]
    #[case::unknown_entity("<a>&e;</a>", "the entity &e; is not known", 3)]
    #[case::no_end("<a><b></a>", "", 6)]
    #[case::cut_off("<a><b>", "the element <b> does not end", 4)]
    #[case::two_roots("<a/><b/>", "second outermost", 4)]
    #[case::only_text("hello", "text outside", 0)]
    #[case::second_byte_order_mark("\u{feff}<a>\u{17e}</a>", "text outside", 0)]
    #[case::nothing("", "there is no element", 0)]
    #[case::tag_cut_off("<a b", "", 0)]
    #[case::attribute_twice("<a b='1' b='2'/>", "", 0)]
    fn what_is_not_well_formed_has_a_place(#[case] text: &str, #[case] part: &str, #[case] at: u32) {
        let error = super::parse(text).unwrap_err();
        assert!(error.message.starts_with("not well-formed XML: "), "{}", error.message);
        assert!(error.message.contains(part), "{}", error.message);
        assert_eq!(error.span.start, at, "{}", error.message);
    }

    #[test]
    fn everything_has_its_place() {
        let text = "<a>\n <ž n = \"v&amp;\">  t </ž>\n</a>";
        let tree = super::parse(text).unwrap();
        for (key, written) in [("@n", "n"), ("v&", "v&amp;"), ("ž", "ž"), ("t", "t")] {
            assert!(
                places(&tree).contains(&(key.to_owned(), written.to_owned())),
                "{key}: {:?}",
                places(&tree)
            );
        }
    }

    #[test]
    fn nesting_ends_somewhere() {
        let text = "<a>".repeat(100_000);
        assert!(super::parse(&text).unwrap_err().message.contains("nested more than 250 deep"));
    }
}
