//! Needs: what an item says it takes, as targets of their own or as references inside values.

use super::field::{Field, FoundText};
use super::item::Item;
use super::path::{Path, Selected};
use super::reference::{self, Expression, TARGETS, references};
use super::session::{Nested, Session};
use crate::code::CodeNeeds;
use crate::native::format::VIA;
use crate::syntax::NodeKind;
use corvant_core::facts::{Many, Named, Need, Target, Via};
use corvant_core::name::Name;
use corvant_core::source::SourceIndex;

/// Needs of the items of a take.
#[derive(Debug, Clone)]
pub(crate) struct NeedTake {
    pub(crate) each: Path,
    /// Expressions for its values, in place of the reader's.
    pub(crate) expressions: Vec<Expression>,
    pub(crate) fields: Vec<(&'static str, Field)>,
    /// Definitions inside the value, which meet it.
    pub(crate) nested: Option<Path>,
    /// The code in the item that the needs are.
    pub(crate) code: Option<CodeNeeds>,
}

/// A need that nothing is said of but its target.
pub(crate) fn need(slot: Named, target: Target, at: Named) -> Need {
    let (key, via, method) = (None, Via::default(), None);
    Need {
        source: SourceIndex::default(),
        slot,
        target,
        span: at.span,
        key,
        via,
        method,
        optional: false,
        lazy: false,
        by_type: false,
        is_repeated: false,
        registered_before: Need::UNORDERED,
    }
}

/// The needs of an item, by several takes.
pub(crate) fn needs(
    session: &mut Session<'_>,
    takes: &[NeedTake],
    expressions: &[Expression],
    holder: Selected,
) -> Many<Need> {
    let start = session.facts.parts.needs.len();
    for take in takes {
        for at in session.parts(&take.each, holder) {
            if take.nested.as_ref().is_some_and(|nested| needs_nested(session, take, nested, at)) {
                continue;
            }
            let item = Item { session: &mut *session, fields: &take.fields, at, others: &[] };
            let expressions = if take.expressions.is_empty() { expressions } else { &take.expressions };
            needs_of(item, expressions, at == holder);
        }
    }
    Many::since(start, &session.facts.parts)
}

/// The needs that one value stands for; `is_holder`: the value is the item that has them.
fn needs_of(mut item: Item<'_, '_>, expressions: &[Expression], is_holder: bool) {
    // With the slot that a reference says itself.
    let mut needs: Vec<(Need, Option<Named>)> = Vec::new();
    for kind in TARGETS {
        let Some(field) = item.field(kind).cloned() else { continue };
        for found in field.all(item.session, item.at) {
            let named = found.named(item.session);
            let target = reference::target(kind, named.name);
            let mut need = need(named, target, named);
            need.key = item.name("key").filter(|_| matches!(target, Target::Contract(_)));
            needs.push((need, None));
        }
    }
    if item.flag("wrapped") {
        let slot = Named {
            name: item.session.interner.intern("wrapped"),
            span: item.session.tree.span(item.at.node),
        };
        needs.push((need(slot, Target::Wrapped, slot), None));
    }
    let values = match item.field("value").cloned() {
        Some(value) => value.all(item.session, item.at),
        None if needs.is_empty() && is_plain(&item) => vec![item.session.plain(item.at.node)],
        None => Vec::new(),
    };
    for found in &values {
        for reference in references(item.session, expressions, found) {
            let name = name_of(reference.target).unwrap_or_else(|| item.session.interner.intern("wrapped"));
            let named = Named { name, span: reference.span };
            let mut need = need(named, reference.target, named);
            need.key = reference.key;
            need.optional = reference.optional;
            need.lazy = reference.lazy;
            needs.push((need, reference.slot));
        }
    }
    if needs.is_empty() {
        return;
    }
    if item.is_computed(&["key"]) {
        return;
    }
    let slot = slot(&mut item, is_holder);
    let tree = item.session.tree;
    let is_repeated = item.session.is_code
        && tree.field(item.at.node, "@repeated").is_some_and(|repeated| tree.text(repeated) == "true");
    let how = manner(&mut item);
    for (mut need, own_slot) in needs {
        need.slot = own_slot.or(slot).unwrap_or(need.slot);
        // What calls name by an id is as sure as anything that is written by hand.
        let is_called =
            item.session.code.is_some() && !matches!(need.target, Target::Contract(_) | Target::All(_));
        need.by_type = item.session.is_code && !is_called;
        need.is_repeated = is_repeated;
        if item.session.code.is_some() {
            let is_new = item.session.needed_at.insert(need.span.start);
            item.session.needed_again += usize::from(!is_new);
        }
        item.session.facts.parts.needs.push(how.of(need));
    }
}

/// How needs are met.
struct Manner {
    via: Via,
    method: Option<Named>,
    optional: bool,
    lazy: bool,
}

impl Manner {
    /// A need that is met so.
    fn of(&self, need: Need) -> Need {
        let (optional, lazy) = (need.optional | self.optional, need.lazy | self.lazy);
        Need { via: self.via, method: self.method, optional, lazy, ..need }
    }
}

fn manner(item: &mut Item<'_, '_>) -> Manner {
    let via = item.one_of("via", VIA).and_then(|found| Via::of(&found.text)).unwrap_or_default();
    let method = item.name("method");
    Manner { via, method, optional: item.flag("optional"), lazy: item.flag("lazy") }
}

/// Needs that are met by definitions inside their value; whether there are any.
fn needs_nested(session: &mut Session<'_>, take: &NeedTake, nested: &Path, at: Selected) -> bool {
    let selected = session.select(nested, at);
    let is_item: Vec<bool> = selected.iter().map(|inner| session.items[inner.node.index()]).collect();
    let definitions = session.parts(nested, at);
    for (number, &inner) in definitions.iter().enumerate() {
        let mut item = Item { session: &mut *session, fields: &take.fields, at, others: &[] };
        let slot = slot_of_value(&mut item);
        let how = manner(&mut item);
        let slot_text = session.interner.text(slot.name);
        let further = if number == 0 { String::new() } else { format!(".{}", number + 1) };
        let made = format!("{}.{slot_text}{further}", session.holder_text());
        // A path that looks into all that is inside meets what is deeper inside several times.
        let known = session.nested_ids.get(&inner.node).copied();
        let id = known.unwrap_or_else(|| {
            let found = FoundText { is_made: true, ..session.nowhere(inner, made) };
            found.named(session)
        });
        let target = Target::Service(id.name);
        session.facts.parts.needs.push(Need { slot, ..how.of(need(slot, target, id)) });
        if known.is_none() {
            let need = session.facts.parts.needs.len() - 1;
            let is_item = is_item.get(number).copied().unwrap_or(false);
            session.nested_ids.insert(inner.node, id);
            session.nested.push(Nested { at: inner, id, need, is_item });
        }
    }
    !definitions.is_empty()
}

fn is_plain(item: &Item<'_, '_>) -> bool {
    !matches!(item.session.tree.kind(item.at.node), NodeKind::List | NodeKind::Map | NodeKind::Null)
}

/// The slot: what the reader says, or the key that the value stands under, or its number; `None`: it is called
/// after its target.
fn slot(item: &mut Item<'_, '_>, is_holder: bool) -> Option<Named> {
    if is_holder { item.name("slot") } else { Some(slot_of_value(item)) }
}

fn slot_of_value(item: &mut Item<'_, '_>) -> Named {
    if let Some(said) = item.name("slot") {
        return said;
    }
    let found = match item.at.key {
        Some(key) => item.session.plain(key),
        None => item.session.nowhere(item.at, item.at.number.to_string()),
    };
    found.named(item.session)
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
