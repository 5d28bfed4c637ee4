//! What a piece of code is as a value: a text, a number, a list, a map; or something computed.

use super::grammar::Piece;
use crate::syntax::{NodeKind, Tree};
use crate::types::outline::Value;
use crate::types::{self, Language, Resolver, TypePlace};
use corvant_core::source::Span;

/// How deep lists and maps in code are followed.
const DEEPEST: usize = 64;

/// Longer pieces of code, in bytes, are no names.
const LONGEST: usize = 4 << 10;

/// What writing values has at hand.
pub(super) struct Values<'a> {
    pub(super) language: Language,
    pub(super) resolver: &'a Resolver<'a>,
    /// Values that are known only once the code runs.
    pub(super) computed: Vec<Span>,
}

pub(super) fn span(piece: &Piece<'_>) -> Span {
    let at = piece.range();
    Span::new(at.start, at.end)
}

impl Values<'_> {
    /// Writes what a piece is worth.
    pub(super) fn write(&mut self, tree: &mut Tree<'_>, piece: &Piece<'_>, place: TypePlace<'_>) {
        self.write_at(tree, piece, place, 0);
    }

    fn write_at(&mut self, tree: &mut Tree<'_>, piece: &Piece<'_>, place: TypePlace<'_>, depth: usize) {
        if let Some((name, value)) = named(piece) {
            tree.open(NodeKind::Map, span(piece));
            tree.scalar(NodeKind::Text, span(&name), &name.text());
            self.write_at(tree, &value, place, depth + 1);
            tree.close(span(piece).end);
            return;
        }
        if let Some(inner) = unwrapped(piece) {
            return self.write_at(tree, &inner, place, depth);
        }
        match collection(piece).filter(|_| depth < DEEPEST) {
            Some(Collection::List(all)) => {
                tree.open(NodeKind::List, span(piece));
                for one in &all {
                    self.write_at(tree, one, place, depth + 1);
                }
                tree.close(span(piece).end);
            }
            Some(Collection::Map(all)) => {
                tree.open(NodeKind::Map, span(piece));
                for (key, value) in &all {
                    let text = self.text(key, place).unwrap_or_else(|| key.text().into_owned());
                    tree.scalar(NodeKind::Text, span(key), &text);
                    self.write_at(tree, value, place, depth + 1);
                }
                tree.close(span(piece).end);
            }
            None => self.scalar(tree, piece, place),
        }
    }

    fn scalar(&mut self, tree: &mut Tree<'_>, piece: &Piece<'_>, place: TypePlace<'_>) {
        let written = piece.text();
        if written.len() > LONGEST {
            tree.scalar(NodeKind::Text, span(piece), &written);
            self.computed.push(span(piece));
            return;
        }
        let literal = types::literal_of(&written, self.language);
        match literal.map(|literal| literal.value) {
            Some(Value::Number(text)) => _ = tree.scalar(NodeKind::Number, span(piece), &text),
            Some(Value::Flag(is)) => {
                _ = tree.scalar(NodeKind::Boolean, span(piece), if is { "true" } else { "false" });
            }
            _ if is_nothing(&written) => _ = tree.scalar(NodeKind::Null, span(piece), &written),
            _ => {
                if let Some(text) = self.text(piece, place) {
                    tree.scalar(NodeKind::Text, inside_quotes(piece, &text), &text);
                } else {
                    tree.scalar(NodeKind::Text, span(piece), &written);
                    self.computed.push(span(piece));
                }
            }
        }
    }

    /// The text that a piece stands for; `None`: it is computed.
    fn text(&self, piece: &Piece<'_>, place: TypePlace<'_>) -> Option<String> {
        let written = piece.text();
        let kind = piece.kind();
        match types::literal_of(&written, self.language).map(|literal| literal.value) {
            Some(Value::Text(text) | Value::Number(text) | Value::Type(text)) => return Some(text),
            Some(Value::Flag(is)) => return Some(is.to_string()),
            Some(Value::Name(name)) => return self.name(&name, piece, place),
            Some(Value::List(_)) => return None,
            None => {}
        }
        let is_type = ["type", "generic", "qualified", "scoped"].iter().any(|word| kind.contains(word));
        (is_type && !kind.contains("call") && types::type_of(&written, self.language).is_some())
            .then(|| written.into_owned())
    }

    /// What a name stands for: a constant's text, the name of a type, or of a member.
    fn name(&self, name: &str, piece: &Piece<'_>, place: TypePlace<'_>) -> Option<String> {
        let written = piece.text();
        // What ends with the class itself is the name of it.
        if let Some(class) = name.strip_suffix(".class") {
            return Some(class.to_owned());
        }
        if let Some(text) = self.resolver.constant(&name.replace('\\', "."), place) {
            return Some(text.to_owned());
        }
        if let Some((of, member)) = name.rsplit_once('.') {
            let is_member = self.resolver.is_enumeration(&self.resolver.full(of, place));
            return Some(if is_member { member } else { &written }.to_owned());
        }
        let is_variable = written.starts_with('$')
            || name.starts_with(|first: char| first.is_lowercase() || first == '_') && is_value(piece);
        (!is_variable).then(|| written.into_owned())
    }
}

/// The place of a text: without its quotes, where it stands between them as it is.
fn inside_quotes(piece: &Piece<'_>, text: &str) -> Span {
    let written = piece.text();
    let is_quoted = written.ends_with(['"', '\'', '`']) && !text.is_empty();
    match written.find(text).filter(|_| is_quoted) {
        Some(at) => Span::new(piece.range().start + at, piece.range().start + at + text.len()),
        None => span(piece),
    }
}

/// Whether a word stands where a value does, and not where something is called by its name.
fn is_value(piece: &Piece<'_>) -> bool {
    if !matches!(&*piece.kind(), "identifier" | "simple_identifier" | "name" | "expression") {
        return false;
    }
    let Some(parent) = piece.parent() else { return false };
    // What is called has a name of its own.
    let is_called = parent.kind().contains("call") || parent.kind() == "invocation_expression";
    if is_called && parent.child(0).is_some_and(|first| first.range() == piece.range()) {
        return false;
    }
    let names = ["name", "property", "attribute", "type"];
    let is_name =
        names.iter().any(|field| parent.field(field).is_some_and(|named| named.range() == piece.range()));
    !is_name && !parent.kind().contains("type")
}

fn is_nothing(text: &str) -> bool {
    matches!(text, "null" | "NULL" | "None" | "undefined" | "default")
}

/// A value that is given under a name: an argument, mostly.
fn named<'r>(piece: &Piece<'r>) -> Option<(Piece<'r>, Piece<'r>)> {
    let kind = piece.kind();
    if !matches!(&*kind, "argument" | "value_argument" | "keyword_argument") {
        return None;
    }
    let inside: Vec<Piece<'r>> = piece.children().filter(Piece::is_named).collect();
    let has_sign = piece.children().any(|child| matches!(&*child.text(), ":" | "="));
    match inside.as_slice() {
        [name, value] if has_sign || name.kind() == "name_colon" => {
            let name = if name.kind() == "name_colon" { name.child(0)? } else { name.clone() };
            Some((name, value.clone()))
        }
        _ => None,
    }
}

/// What stands in brackets, or is said of a value without changing it.
fn unwrapped<'r>(piece: &Piece<'r>) -> Option<Piece<'r>> {
    let kind = piece.kind();
    let is_around = matches!(
        &*kind,
        "argument"
            | "value_argument"
            | "parenthesized_expression"
            | "as_expression"
            | "satisfies_expression"
            | "non_null_expression"
            | "variable_declaration"
            | "type"
    );
    if !is_around {
        return None;
    }
    let mut inside = piece.children().filter(Piece::is_named);
    let first = inside.next()?;
    // Of `x as const` the first counts; of others there is one.
    (matches!(&*kind, "as_expression" | "satisfies_expression") || inside.next().is_none()).then_some(first)
}

enum Collection<'r> {
    List(Vec<Piece<'r>>),
    Map(Vec<(Piece<'r>, Piece<'r>)>),
}

/// The list or map that a piece writes out.
fn collection<'r>(piece: &Piece<'r>) -> Option<Collection<'r>> {
    let named = |piece: &Piece<'r>| -> Vec<Piece<'r>> {
        let is_said = |child: &Piece<'r>| child.is_named() && !child.kind().contains("comment");
        piece.children().filter(is_said).collect()
    };
    let kind = piece.kind();
    match &*kind {
        "array"
        | "list"
        | "tuple"
        | "set"
        | "array_initializer"
        | "collection_literal"
        | "initializer_expression"
        | "collection_expression" => entries(&named(piece)).or_else(|| Some(Collection::List(named(piece)))),
        "array_creation_expression" | "implicit_array_creation_expression" => {
            let inside = named(piece);
            if inside.iter().all(|child| child.kind() == "array_element_initializer") {
                let parts: Vec<Vec<Piece<'r>>> = inside.iter().map(&named).collect();
                return pairs(&parts);
            }
            collection(inside.last()?)
        }
        "object" | "dictionary" => {
            let pairs = named(piece).into_iter().filter_map(|pair| match &*pair.kind() {
                "pair" => Some((pair.field("key")?, pair.field("value")?)),
                "shorthand_property_identifier" => Some((pair.clone(), pair)),
                _ => None,
            });
            Some(Collection::Map(pairs.collect()))
        }
        "object_creation_expression" | "implicit_object_creation_expression" => {
            let initializer = piece.field("initializer")?;
            let inside = named(&initializer);
            entries(&inside).or(Some(Collection::List(inside)))
        }
        "call_expression" | "method_invocation" => called(piece),
        _ => None,
    }
}

/// The entries of a dictionary: `["a"] = 1`, or `{ "a", 1 }`.
fn entries<'r>(inside: &[Piece<'r>]) -> Option<Collection<'r>> {
    let entry = |piece: &Piece<'r>| -> Option<(Piece<'r>, Piece<'r>)> {
        match &*piece.kind() {
            "assignment_expression" => {
                let left = piece.field("left")?;
                let key = left.children().filter(Piece::is_named).last().unwrap_or(left.clone());
                let inner = key.children().find(Piece::is_named);
                let key = if key.kind() == "argument" { inner.unwrap_or(key) } else { key };
                Some((if left.is_leaf() { left } else { key }, piece.field("right")?))
            }
            "initializer_expression" => {
                let inside: Vec<_> = piece.children().filter(Piece::is_named).collect();
                match inside.as_slice() {
                    [key, value] => Some((key.clone(), value.clone())),
                    _ => None,
                }
            }
            _ => None,
        }
    };
    let all: Option<Vec<_>> = inside.iter().map(entry).collect();
    all.filter(|all| !all.is_empty()).map(Collection::Map)
}

/// A list of values, or a map if each has a key before it.
fn pairs<'r>(parts: &[Vec<Piece<'r>>]) -> Option<Collection<'r>> {
    if !parts.is_empty() && parts.iter().all(|part| part.len() == 2) {
        return Some(Collection::Map(parts.iter().map(|part| (part[0].clone(), part[1].clone())).collect()));
    }
    let all: Option<Vec<_>> = parts.iter().map(|part| part.last().cloned()).collect();
    Some(Collection::List(all?))
}

/// What functions of the language's own library make a list or a map of.
fn called<'r>(piece: &Piece<'r>) -> Option<Collection<'r>> {
    let is_said = |child: &Piece<'r>| child.is_named() && !child.kind().contains("comment");
    let list =
        piece.children().find(|child| matches!(&*child.kind(), "argument_list" | "value_arguments"))?;
    let arguments: Vec<Piece<'r>> = list.children().filter(is_said).collect();
    let before = list.range().start - piece.range().start;
    let called = piece.text();
    let name = called[..before].split('<').next().unwrap_or_default();
    match name.trim() {
        "listOf" | "setOf" | "arrayOf" | "mutableListOf" | "mutableSetOf" | "List.of" | "Set.of"
        | "Arrays.asList" => Some(Collection::List(arguments)),
        "mapOf" | "mutableMapOf" | "linkedMapOf" => {
            let pair = |argument: &Piece<'r>| {
                let infix = argument.children().find(is_said)?;
                let inside: Vec<_> = infix.children().filter(is_said).collect();
                match inside.as_slice() {
                    [key, to, value] if to.text() == "to" => Some((key.clone(), value.clone())),
                    [key, value] => Some((key.clone(), value.clone())),
                    _ => None,
                }
            };
            arguments.iter().map(pair).collect::<Option<Vec<_>>>().map(Collection::Map)
        }
        "Map.of" if arguments.len().is_multiple_of(2) => {
            let pairs = arguments.chunks(2).map(|pair| (pair[0].clone(), pair[1].clone()));
            Some(Collection::Map(pairs.collect()))
        }
        "Map.ofEntries" => {
            let entry = |argument: &Piece<'r>| {
                let list = argument.field("arguments")?;
                let inside: Vec<_> = list.children().filter(is_said).collect();
                match inside.as_slice() {
                    [key, value] => Some((key.clone(), value.clone())),
                    _ => None,
                }
            };
            arguments.iter().map(entry).collect::<Option<Vec<_>>>().map(Collection::Map)
        }
        _ => None,
    }
}
