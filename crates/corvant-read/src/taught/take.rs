//! Takes: from the items of a file to facts.

use super::field::{Field, Found, Origin};
use super::path::{Path, Selected};
use super::reference::{self, Expression, TARGETS, references};
use super::session::Session;
use crate::carrier::{Kind, NodeId};
use crate::native::format::{MEANT_FOR, VIA};
use corvant_core::facts::{
    Attribute, Choice, Contract, Entry, Expectation, Many, Named, Need, Provider, Roster, Scalar, Service,
    Setting, StageValue, Tag, Tagging, Target, Via,
};
use corvant_core::name::Name;
use corvant_core::source::SourceIndex;

/// Facts are given their file when they are appended to those of all files.
const HERE: SourceIndex = SourceIndex(0);

/// What a take makes of each of its items.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum What {
    Service,
    Contract,
    Setting,
    Tag,
    Provider,
    Roster,
    Choice,
    Entry,
    LookUp,
    Expectation,
}

/// A list of names of fields.
type Names = &'static [&'static str];

impl What {
    /// All of them: the word, what it is, the fields it can have, those it must have, and the lists of other
    /// things that it can hold.
    pub(crate) const ALL: [(&'static str, Self, Names, Names, Names); 10] = [
        (
            "service",
            Self::Service,
            &[
                "id", "type", "offers", "key", "default", "lifetime", "internal", "template", "like",
                "alias-of", "wraps", "replaces", "stages", "built-by", "method",
            ],
            &["id"],
            &["need", "tag"],
        ),
        ("contract", Self::Contract, &["id", "extends", "meant-for", "keys"], &["id"], &[]),
        ("setting", Self::Setting, &["id", "value", "stage", "required"], &["id"], &[]),
        ("tag", Self::Tag, &["id", "contract", "carried-by-all", "collected-by", "at-least"], &["id"], &[]),
        ("provider", Self::Provider, &["id", "type", "registers", "after"], &["id"], &["register", "start"]),
        ("roster", Self::Roster, &["provider", "stage"], &["provider"], &[]),
        ("choice", Self::Choice, &["contract", "key", "service", "stage"], &["contract", "service"], &[]),
        ("entry", Self::Entry, &["id", "type", "at", "lifetime"], &["id"], &["need"]),
        ("lookup", Self::LookUp, &["id"], &[], &["need"]),
        (
            "expectation",
            Self::Expectation,
            &["service", "contract", "key", "met-by", "type", "lifetime"],
            &[],
            &[],
        ),
    ];
}

/// One thing to take from files.
#[derive(Debug, Clone)]
pub(crate) struct Take {
    pub(crate) what: What,
    pub(crate) each: Path,
    pub(crate) fields: Vec<(&'static str, Field)>,
    pub(crate) needs: Vec<NeedTake>,
    pub(crate) register: Vec<NeedTake>,
    pub(crate) start: Vec<NeedTake>,
    pub(crate) tags: Vec<TagTake>,
}

/// Needs of the items of a take.
#[derive(Debug, Clone)]
pub(crate) struct NeedTake {
    pub(crate) each: Path,
    pub(crate) fields: Vec<(&'static str, Field)>,
}

/// Tags on the items of a take.
#[derive(Debug, Clone)]
pub(crate) struct TagTake {
    pub(crate) each: Path,
    /// Its name; `None`: the item itself, if it is a text.
    pub(crate) name: Option<Field>,
    pub(crate) attributes: Attributes,
}

/// Where the attributes of a tag stand.
#[derive(Debug, Clone)]
pub(crate) enum Attributes {
    /// Each in a field of its own.
    Named(Vec<(String, Field)>),
    /// All plain fields of a map; a leading `@` is no part of a name.
    Of(Path),
}

/// The fields of one item, as the takes below them ask for them.
struct Item<'a, 'tree> {
    session: &'a mut Session<'tree>,
    fields: &'a [(&'static str, Field)],
    at: Selected,
}

impl<'tree> Item<'_, 'tree> {
    fn field(&self, name: &str) -> Option<&Field> {
        self.fields.iter().find(|(known, _)| *known == name).map(|(_, field)| field)
    }

    fn found(&mut self, name: &str) -> Option<Found<'tree>> {
        self.all(name).into_iter().next()
    }

    fn all(&mut self, name: &str) -> Vec<Found<'tree>> {
        let field = self.fields.iter().find(|(known, _)| *known == name);
        field.map(|(_, field)| field.all(self.session, self.at)).unwrap_or_default()
    }

    fn name(&mut self, name: &str) -> Option<Named> {
        Some(self.found(name)?.named(self.session))
    }

    fn names(&mut self, name: &str) -> Many<Named> {
        let all = self.all(name);
        let named: Vec<Named> = all.iter().map(|found| found.named(self.session)).collect();
        let start = self.session.facts.named.len();
        self.session.facts.named.extend(named);
        Many::since(start, &self.session.facts.named)
    }

    /// Whether anything stands where a field is looked for.
    fn is_written(&self, name: &str) -> bool {
        self.field(name).is_some_and(|field| match &field.origin {
            Origin::Path(path) => !path.select(self.session.tree, self.at).is_empty(),
            Origin::Key(_) | Origin::Constant(_) => true,
        })
    }

    fn word(&mut self, name: &str) -> Option<Name> {
        Some(self.name(name)?.name)
    }

    /// Whether something is said to be so.
    fn flag(&mut self, name: &str) -> bool {
        let Some(found) = self.found(name) else { return false };
        match found.text.to_lowercase().as_str() {
            "true" | "yes" | "on" | "1" | "y" => true,
            "false" | "no" | "off" | "0" | "n" => false,
            _ => {
                self.strange(&found, format!("`{name}` is yes or no, and here is {}", found.text));
                false
            }
        }
    }

    /// One of a closed set of words.
    fn one_of(&mut self, name: &str, words: &[&str]) -> Option<Found<'tree>> {
        let found = self.found(name)?;
        if words.contains(&found.text.as_ref()) {
            return Some(found);
        }
        self.strange(&found, format!("`{name}` is one of {}, and here is {}", words.join(", "), found.text));
        None
    }

    /// How many there are of something.
    fn count(&mut self, name: &str) -> Option<u32> {
        let found = self.found(name)?;
        let count = found.text.parse().ok();
        if count.is_none() {
            self.strange(&found, format!("`{name}` is a number, and here is {}", found.text));
        }
        count
    }

    fn strange(&mut self, found: &Found<'_>, message: String) {
        self.session.misshapen.push((found.node.unwrap_or(self.at.node), message));
    }
}

impl Take {
    /// Takes all items of a file.
    pub(crate) fn take(&self, session: &mut Session<'_>, expressions: &[Expression], root: Selected) {
        let items = session.items(&self.each, root);
        if self.what == What::Roster {
            return self.rosters(session, &items);
        }
        for at in items {
            self.item(session, expressions, at);
        }
    }

    /// One item; without what it must have, it stays among what is left over.
    fn item(&self, session: &mut Session<'_>, expressions: &[Expression], at: Selected) {
        let mut item = Item { session, fields: &self.fields, at };
        match self.what {
            What::Service => self.service(item, expressions),
            What::Contract => contract(item),
            What::Setting => setting(item, expressions),
            What::Tag => tag(item),
            What::Provider => self.provider(item, expressions),
            What::Choice => choice(item),
            What::Entry => self.entry(item, expressions),
            What::LookUp => self.look_up(item, expressions),
            What::Expectation => expectation(&mut item),
            What::Roster => {}
        }
    }

    fn service(&self, mut item: Item<'_, '_>, expressions: &[Expression]) {
        let Some(id) = item.name("id") else { return };
        let mut service = Service::new(id);
        service.type_name = item.name("type");
        service.offers = item.names("offers");
        service.key = item.name("key");
        service.is_default = item.flag("default");
        service.lifetime = item.name("lifetime");
        service.internal = item.flag("internal");
        service.template = item.flag("template");
        service.like = item.name("like");
        service.alias_of = item.name("alias-of");
        service.wraps = item.name("wraps");
        service.replaces = item.name("replaces");
        service.stages = item.names("stages");
        service.needs_given = !self.needs.is_empty();
        let start = item.session.facts.needs.len();
        let factory = item.name("built-by");
        let method = item.word("method");
        needs(item.session, &self.needs, expressions, item.at);
        if let Some(factory) = factory {
            let slot = Named { name: item.session.interner.intern("built-by"), span: factory.span };
            let mut need = need(slot, Target::Service(factory.name), factory);
            need.via = Via::Factory;
            need.method = method;
            item.session.facts.needs.push(need);
        }
        service.needs = Many::since(start, &item.session.facts.needs);
        service.taggings = taggings(item.session, &self.tags, item.at);
        item.session.facts.services.push(service);
    }

    fn provider(&self, mut item: Item<'_, '_>, expressions: &[Expression]) {
        let Some(id) = item.name("id") else { return };
        let type_name = item.name("type");
        // An empty list is a promise of nothing; no list is one of everything.
        let registers = item.is_written("registers").then(|| item.names("registers"));
        let after = item.names("after");
        let register = needs(item.session, &self.register, expressions, item.at);
        let start = needs(item.session, &self.start, expressions, item.at);
        let provider = Provider { source: HERE, id, type_name, registers, register, start, after };
        item.session.facts.providers.push(provider);
    }

    fn entry(&self, mut item: Item<'_, '_>, expressions: &[Expression]) {
        let Some(id) = item.name("id") else { return };
        let type_name = item.name("type");
        let at = item.word("at");
        let lifetime = item.name("lifetime");
        let needs = needs(item.session, &self.needs, expressions, item.at);
        item.session.facts.entries.push(Entry { source: HERE, id, type_name, at, lifetime, needs });
    }

    /// A look-up at run time is something outside of the wiring that uses it, as an entry is.
    fn look_up(&self, mut item: Item<'_, '_>, expressions: &[Expression]) {
        let id = item.name("id").unwrap_or_else(|| {
            let path = item.session.path.to_owned();
            item.session.nowhere(item.at, path).named(item.session)
        });
        let needs = needs(item.session, &self.needs, expressions, item.at);
        if needs.is_empty() {
            return;
        }
        for need in &mut item.session.facts.needs[needs.range()] {
            need.via = Via::LookUp;
        }
        let (type_name, at, lifetime) = (None, None, None);
        item.session.facts.entries.push(Entry { source: HERE, id, type_name, at, lifetime, needs });
    }

    /// All items of a file and stage are one list.
    fn rosters(&self, session: &mut Session<'_>, items: &[Selected]) {
        let mut lists: Vec<(Option<Name>, Vec<Named>)> = Vec::new();
        let misshapen = session.misshapen.len();
        for &at in items {
            let mut item = Item { session, fields: &self.fields, at };
            let stage = item.word("stage");
            let providers = item.names("provider");
            let providers = providers.of(&item.session.facts.named).to_vec();
            match lists.iter_mut().find(|(known, _)| *known == stage) {
                Some((_, list)) => list.extend(providers),
                None => lists.push((stage, providers)),
            }
        }
        let is_whole = session.misshapen.len() == misshapen;
        for (stage, list) in lists {
            let start = session.facts.named.len();
            session.facts.named.extend(list);
            let providers = Many::since(start, &session.facts.named);
            session.facts.rosters.push(Roster { source: HERE, stage, is_whole, providers });
        }
    }
}

fn contract(mut item: Item<'_, '_>) {
    let Some(contract) = item.name("id") else { return };
    let extends = item.names("extends");
    let meant_for = item.one_of("meant-for", MEANT_FOR).map(|found| found.named(item.session));
    let keys = item.names("keys");
    item.session.facts.contracts.push(Contract { source: HERE, contract, extends, meant_for, keys });
}

fn setting(mut item: Item<'_, '_>, expressions: &[Expression]) {
    let Some(setting) = item.name("id") else { return };
    let required = item.flag("required");
    let stage = item.name("stage");
    let found = item.all("value");
    let mut referred: Vec<Named> = Vec::new();
    for found in &found {
        for reference in references(item.session, expressions, found) {
            if let Target::Setting(name) = reference.target {
                referred.push(Named { name, span: reference.span });
            }
        }
    }
    let facts = &mut item.session.facts;
    let start = facts.named.len();
    facts.named.extend(referred);
    let references = Many::since(start, &facts.named);
    let start = facts.stage_values.len();
    let mut value = found.first().map(|found| found.span);
    let mut base_references = references;
    if let Some(stage) = stage {
        facts.stage_values.extend(value.take().map(|value| StageValue { stage, value, references }));
        base_references = Many::default();
    }
    let stages = Many::since(start, &facts.stage_values);
    let references = base_references;
    facts.settings.push(Setting { source: HERE, setting, value, references, stages, required });
}

fn tag(mut item: Item<'_, '_>) {
    let Some(tag) = item.name("id") else { return };
    let contract = item.name("contract");
    let carried_by_all = item.flag("carried-by-all");
    let collected_by = item.name("collected-by");
    let at_least = item.count("at-least").unwrap_or(0);
    let attributes = None;
    let tag = Tag { source: HERE, tag, contract, carried_by_all, collected_by, at_least, attributes };
    item.session.facts.tags.push(tag);
}

fn choice(mut item: Item<'_, '_>) {
    let (Some(contract), Some(service)) = (item.name("contract"), item.name("service")) else { return };
    let key = item.name("key");
    let stage = item.word("stage");
    item.session.facts.choices.push(Choice { source: HERE, contract, key, service, stage });
}

fn expectation(item: &mut Item<'_, '_>) {
    let (service, contract) = (item.name("service"), item.name("contract"));
    if service.is_some() == contract.is_some() {
        return;
    }
    let key = item.name("key");
    let met_by = item.name("met-by");
    let type_name = item.name("type");
    let lifetime = item.name("lifetime");
    let expectation = Expectation { source: HERE, service, contract, key, met_by, type_name, lifetime };
    item.session.facts.expectations.push(expectation);
}

fn need(slot: Named, target: Target, at: Named) -> Need {
    let (key, via, method) = (None, Via::default(), None);
    Need { source: HERE, slot, target, span: at.span, key, via, method, optional: false, lazy: false }
}

/// The needs of an item, by several takes.
fn needs(
    session: &mut Session<'_>,
    takes: &[NeedTake],
    expressions: &[Expression],
    holder: Selected,
) -> Many<Need> {
    let start = session.facts.needs.len();
    for take in takes {
        for at in session.parts(&take.each, holder) {
            let item = Item { session: &mut *session, fields: &take.fields, at };
            needs_of(item, expressions, at == holder);
        }
    }
    Many::since(start, &session.facts.needs)
}

/// The needs that one value stands for; `is_holder`: the value is the item that has them.
fn needs_of(mut item: Item<'_, '_>, expressions: &[Expression], is_holder: bool) {
    let mut needs: Vec<Need> = Vec::new();
    for kind in TARGETS {
        let Some(field) = item.field(kind).cloned() else { continue };
        for found in field.all(item.session, item.at) {
            let named = found.named(item.session);
            let target = reference::target(kind, named.name);
            let mut need = need(named, target, named);
            need.key = item.name("key").filter(|_| matches!(target, Target::Contract(_)));
            needs.push(need);
        }
    }
    let values = match item.field("value").cloned() {
        Some(value) => value.all(item.session, item.at),
        None if needs.is_empty() && is_plain(&item) => vec![item.session.plain(item.at.node)],
        None => Vec::new(),
    };
    for found in &values {
        for reference in references(item.session, expressions, found) {
            let Some(name) = name_of(reference.target) else { continue };
            let named = Named { name, span: reference.span };
            let mut need = need(named, reference.target, named);
            need.key = reference.key;
            need.optional = reference.optional;
            need.lazy = reference.lazy;
            needs.push(need);
        }
    }
    if needs.is_empty() {
        return;
    }
    let slot = slot(&mut item, is_holder);
    let via = item.one_of("via", VIA).map_or(Via::default(), |found| via(&found.text));
    let method = item.word("method");
    let (optional, lazy) = (item.flag("optional"), item.flag("lazy"));
    for mut need in needs {
        need.slot = slot.unwrap_or(need.slot);
        need.via = via;
        need.method = method;
        need.optional |= optional;
        need.lazy |= lazy;
        item.session.facts.needs.push(need);
    }
}

fn is_plain(item: &Item<'_, '_>) -> bool {
    !matches!(item.session.tree.kind(item.at.node), Kind::List | Kind::Map | Kind::Null)
}

/// The slot: what the reader says, or the key that the value stands under, or its number; `None`: it is called
/// after its target.
fn slot(item: &mut Item<'_, '_>, is_holder: bool) -> Option<Named> {
    let said = item.name("slot");
    if said.is_some() || is_holder {
        return said;
    }
    let found = match item.at.key {
        Some(key) => item.session.plain(key),
        None => item.session.nowhere(item.at, item.at.number.to_string()),
    };
    Some(found.named(item.session))
}

fn name_of(target: Target) -> Option<Name> {
    match target {
        Target::Service(name)
        | Target::Contract(name)
        | Target::All(name)
        | Target::Tag(name)
        | Target::Setting(name) => Some(name),
        Target::Wrapped => None,
    }
}

/// The words for how a need is met.
fn via(word: &str) -> Via {
    match word {
        "setter" => Via::Setter,
        "property" => Via::Property,
        "factory" => Via::Factory,
        "look-up" => Via::LookUp,
        _ => Via::Constructor,
    }
}

fn taggings(session: &mut Session<'_>, takes: &[TagTake], at: Selected) -> Many<Tagging> {
    let mut taken: Vec<(Named, Many<Attribute>)> = Vec::new();
    for take in takes {
        for item in session.parts(&take.each, at) {
            let is_plain = !matches!(session.tree.kind(item.node), Kind::List | Kind::Map | Kind::Null);
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
    let start = session.facts.taggings.len();
    let taggings = taken.into_iter().map(|(tag, attributes)| Tagging { source: HERE, tag, attributes });
    session.facts.taggings.extend(taggings);
    Many::since(start, &session.facts.taggings)
}

impl Attributes {
    /// The attributes of a tag; `own` are the nodes that name the tag itself.
    fn take(&self, session: &mut Session<'_>, item: Selected, own: &[NodeId]) -> Many<Attribute> {
        let start = session.facts.attributes.len();
        match self {
            Self::Named(fields) => {
                for (name, field) in fields {
                    let Some(found) = field.one(session, item) else { continue };
                    let attribute = Named { name: session.interner.intern(name), span: found.span };
                    let kind = kind(session, found.node, &found.text);
                    let value = found.named(session);
                    session.facts.attributes.push(Attribute { attribute, value, kind });
                }
            }
            Self::Of(path) => {
                let tree = session.tree;
                for map in path.select(tree, item).into_iter().filter(|map| tree.kind(map.node) == Kind::Map)
                {
                    session.take(map.node);
                    for (key, value) in tree.fields(map.node) {
                        let is_plain = !matches!(tree.kind(value), Kind::List | Kind::Map | Kind::Null);
                        if !is_plain || own.contains(&value) {
                            continue;
                        }
                        let name = tree.text(key).trim_start_matches('@');
                        let attribute = Named { name: session.interner.intern(name), span: tree.span(key) };
                        let kind = kind(session, Some(value), tree.text(value));
                        let value = session.plain(value).named(session);
                        session.facts.attributes.push(Attribute { attribute, value, kind });
                    }
                }
            }
        }
        Many::since(start, &session.facts.attributes)
    }
}

/// What kind of value an attribute is. Where all values are texts, what looks like a number is one.
fn kind(session: &Session<'_>, node: Option<NodeId>, text: &str) -> Scalar {
    match node.map(|node| session.tree.kind(node)) {
        Some(Kind::Integer) => Scalar::Integer,
        Some(Kind::Number) => Scalar::Number,
        Some(Kind::Boolean) => Scalar::Boolean,
        _ if session.has_kinds => Scalar::Text,
        _ if text.parse::<i64>().is_ok() => Scalar::Integer,
        _ if text.parse::<f64>().is_ok() => Scalar::Number,
        _ if matches!(text, "true" | "false") => Scalar::Boolean,
        _ => Scalar::Text,
    }
}
