//! Tags on an item, with their attributes.

use super::field::Field;
use super::item::Item;
use super::path::{Path, Selected};
use super::session::Session;
use crate::syntax::{NodeId, NodeKind};
use corvant_core::facts::{Attribute, AttributeRule, Many, Named, Scalar, Tagging};
use corvant_core::source::SourceIndex;
use corvant_core::word::Word;

/// Tags on the items of a take.
#[derive(Debug, Clone)]
pub(crate) struct TagTake {
    pub(crate) each: Path,
    /// Its name; `None`: the item itself, if it is a text.
    pub(crate) name: Option<Field>,
    /// What the item must be one of, by its full name.
    pub(crate) when_offers: Option<String>,
    pub(crate) attributes: Attributes,
}

impl TagTake {
    /// The fields in it.
    pub(crate) fn fields(&self) -> Vec<&Field> {
        let attributes = match &self.attributes {
            Attributes::Named(named) => named.iter().map(|(_, field)| field).collect(),
            Attributes::Of(_) => Vec::new(),
        };
        self.name.iter().chain(attributes).collect()
    }
}

/// What tag declarations say of attributes.
#[derive(Debug, Clone)]
pub(crate) struct AttributeTake {
    pub(crate) each: Path,
    pub(crate) fields: Vec<(&'static str, Field)>,
}

/// What a tag declaration says of its attributes, by several takes.
pub(crate) fn attribute_rules(
    session: &mut Session<'_>,
    takes: &[AttributeTake],
    at: Selected,
) -> Many<AttributeRule> {
    let mut rules = Vec::new();
    for take in takes {
        for at in session.parts(&take.each, at) {
            let mut item = Item { session: &mut *session, fields: &take.fields, at, others: &[] };
            let Some(attribute) = item.name("name") else { continue };
            let kind = item.one_of("kind", Scalar::WORDS).and_then(|found| Scalar::of(&found.text));
            let (required, unique) = (item.flag("required"), item.flag("unique"));
            let one_of = item.names("one-of");
            rules.push(AttributeRule { attribute, kind, required, unique, one_of });
        }
    }
    let start = session.facts.parts.attribute_rules.len();
    session.facts.parts.attribute_rules.extend(rules);
    Many::since(start, &session.facts.parts)
}

/// Where the attributes of a tag stand.
#[derive(Debug, Clone)]
pub(crate) enum Attributes {
    /// Each in a field of its own.
    Named(Vec<(String, Field)>),
    /// All plain fields of a map; a leading `@` is no part of a name.
    Of(Path),
}

/// The tags of an item, by several takes.
pub(crate) fn taggings(session: &mut Session<'_>, takes: &[TagTake], at: Selected) -> Many<Tagging> {
    let mut taken: Vec<(Named, Many<Attribute>)> = Vec::new();
    for take in takes {
        if take.when_offers.as_ref().is_some_and(|wanted| !is_of(session, at.node, wanted)) {
            continue;
        }
        for item in session.parts(&take.each, at) {
            let is_plain =
                !matches!(session.tree.kind(item.node), NodeKind::List | NodeKind::Map | NodeKind::Null);
            let names = match &take.name {
                Some(name) => name.all(session, item),
                None if is_plain => vec![session.plain(item.node)],
                None => continue,
            };
            let own: Vec<_> = names.iter().filter_map(|found| found.node).collect();
            let attributes = take.attributes.take(session, item, &own);
            for found in names {
                taken.push((found.named(session), attributes));
            }
        }
    }
    let start = session.facts.parts.taggings.len();
    let taggings = taken.into_iter().map(|(tag, attributes)| Tagging {
        source: SourceIndex::default(),
        tag,
        attributes,
    });
    session.facts.parts.taggings.extend(taggings);
    Many::since(start, &session.facts.parts)
}

/// Whether a type in a tree of code is another, or one of it.
fn is_of(session: &Session<'_>, node: NodeId, wanted: &str) -> bool {
    let tree = session.tree;
    tree.field(node, "name").is_some_and(|name| tree.text(name) == wanted)
        || tree
            .field(node, "supers")
            .is_some_and(|all| tree.children(all).any(|above| tree.text(above) == wanted))
}

impl Attributes {
    /// The attributes of a tag; `own` are the nodes that name the tag itself.
    fn take(&self, session: &mut Session<'_>, item: Selected, own: &[NodeId]) -> Many<Attribute> {
        let start = session.facts.parts.attributes.len();
        match self {
            Self::Named(fields) => {
                for (name, field) in fields {
                    let Some(found) = field.one(session, item) else { continue };
                    let attribute = Named { name: session.interner.intern(name), span: found.span };
                    let kind = kind(session, found.node, &found.text);
                    let value = found.named(session);
                    session.facts.parts.attributes.push(Attribute { attribute, value, kind });
                }
            }
            Self::Of(path) => {
                let tree = session.tree;
                for map in
                    session.select(path, item).into_iter().filter(|map| tree.kind(map.node) == NodeKind::Map)
                {
                    session.take(map.node);
                    for (key, value) in tree.fields(map.node) {
                        let is_plain =
                            !matches!(tree.kind(value), NodeKind::List | NodeKind::Map | NodeKind::Null);
                        if !is_plain || own.contains(&value) {
                            continue;
                        }
                        let name = tree.text(key).trim_start_matches('@');
                        let attribute = Named { name: session.interner.intern(name), span: tree.span(key) };
                        let kind = kind(session, Some(value), tree.text(value));
                        let value = session.plain(value).named(session);
                        session.facts.parts.attributes.push(Attribute { attribute, value, kind });
                    }
                }
            }
        }
        Many::since(start, &session.facts.parts)
    }
}

/// What kind of value an attribute is. Where all values are texts, what looks like a number is one.
fn kind(session: &Session<'_>, node: Option<NodeId>, text: &str) -> Scalar {
    match node.map(|node| session.tree.kind(node)) {
        Some(NodeKind::Integer) => Scalar::Integer,
        Some(NodeKind::Number) => Scalar::Number,
        Some(NodeKind::Boolean) => Scalar::Boolean,
        _ if session.has_kinds => Scalar::Text,
        _ if text.parse::<i64>().is_ok() => Scalar::Integer,
        _ if text.parse::<f64>().is_ok() => Scalar::Number,
        _ if matches!(text, "true" | "false") => Scalar::Boolean,
        _ => Scalar::Text,
    }
}
