//! Takes: from the items of a file to facts.

use super::CustomReader;
use super::field::{Field, Origin};
use super::item::Item;
use super::need::{NeedTake, need, needs};
use super::path::{Path, Selected};
use super::reference::{Expression, references};
use super::session::{Nested, Registered, Session};
use super::tagging::{AttributeTake, TagTake, attribute_rules, taggings};
use crate::code::{self, AskedItems, CodeItems, CodePlace, When};
use crate::native::format::MEANT_FOR;
use crate::syntax::{NodeId, Tree};
use corvant_core::facts::{
    Choice, Contract, Entry, Expectation, FieldOf, Import, Many, MeantFor, Named, Need, Provider, Removed,
    Roster, ScannedMark, Service, ServiceField, Setting, StageValue, Supplied, SuppliedBy, SuppliedKind, Tag,
    Target, Via,
};
use corvant_core::name::Name;
use corvant_core::source::SourceIndex;
use foldhash::HashMap;
use regex::Regex;

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
    Supplied,
    Import,
}

/// A list of names of fields.
type Names = &'static [&'static str];

/// What can be said of one sort of items.
pub(crate) struct Sort {
    /// The word for it.
    pub(crate) word: &'static str,
    pub(crate) what: What,
    /// The fields that items must have.
    pub(crate) required: Names,
    /// Those that they may have beside them.
    pub(crate) optional: Names,
    /// The lists of other things that they may hold.
    pub(crate) lists: Names,
}

const fn sort(word: &'static str, what: What, required: Names, optional: Names, lists: Names) -> Sort {
    Sort { word, what, required, optional, lists }
}

/// All sorts of items.
pub(crate) const SORTS: [Sort; 12] = [
    sort(
        "service",
        What::Service,
        &["id"],
        &[
            "built-by",
            "method",
            "amends",
            "removed",
            "needs",
            "module",
            "merge",
            "provider",
            "default-unless-offered",
        ],
        &["need", "tag"],
    ),
    sort("contract", What::Contract, &["id"], &["extends", "meant-for", "keys", "module", "merge"], &[]),
    sort("setting", What::Setting, &["id"], &["value", "stage", "required", "module", "merge"], &[]),
    sort(
        "tag",
        What::Tag,
        &["id"],
        &["contract", "carried-by-all", "collected-by", "at-least", "module"],
        &["attribute"],
    ),
    sort(
        "provider",
        What::Provider,
        &["id"],
        &["type", "registers", "after", "module", "merge"],
        &["register", "start"],
    ),
    sort("roster", What::Roster, &["provider"], &["stage"], &[]),
    sort("choice", What::Choice, &["contract", "service"], &["key", "stage", "for", "module"], &[]),
    sort("entry", What::Entry, &["id"], &["type", "at", "lifetime", "module", "merge"], &["need"]),
    sort("lookup", What::LookUp, &[], &["id", "module"], &["need"]),
    sort(
        "expectation",
        What::Expectation,
        &[],
        &["service", "contract", "key", "met-by", "type", "lifetime"],
        &[],
    ),
    sort("supplied", What::Supplied, &[], &["service", "contract", "setting", "tag-name"], &[]),
    sort("import", What::Import, &["path"], &[], &[]),
];

impl Sort {
    /// Whether anything can be said of such items under a name.
    pub(crate) fn takes(&self, field: &str) -> bool {
        self.names().any(|known| known == field)
    }

    /// What to say of a field that belongs to other sorts.
    pub(crate) fn refusal(&self, field: &str) -> String {
        let names: Vec<&str> = self.names().collect();
        format!("a take of {} has no field `{field}`; it has {}", self.word, names.join(", "))
    }

    fn names(&self) -> impl Iterator<Item = &'static str> {
        // What can be said of services is a list of its own.
        let plain = ServiceField::ALL.iter().filter(|_| self.what == What::Service).map(|field| field.name);
        let own = [self.optional, self.lists].into_iter().flatten().copied();
        self.required.iter().copied().chain(plain).chain(own)
    }
}

/// One thing to take from files.
#[derive(Debug, Clone)]
pub(crate) struct Take {
    pub(crate) what: What,
    pub(crate) each: Path,
    /// The code that its items are.
    pub(crate) code: Option<CodeItems>,
    /// Where in code they stand.
    pub(crate) within: CodePlace,
    pub(crate) when: When,
    /// Whether they are registered only where nothing else offers the same.
    pub(crate) yields: bool,
    /// Items under such keys are none.
    pub(crate) skip: Option<Regex>,
    /// Items stand under such keys alone.
    pub(crate) only: Option<Regex>,
    /// What items must have.
    pub(crate) only_where: Option<Field>,
    /// The mark that items carry, where they are types.
    pub(crate) marked: Option<String>,
    pub(crate) fields: Vec<(&'static str, Field)>,
    pub(crate) needs: Vec<NeedTake>,
    pub(crate) register: Vec<NeedTake>,
    pub(crate) start: Vec<NeedTake>,
    pub(crate) tags: Vec<TagTake>,
    pub(crate) attributes: Vec<AttributeTake>,
    /// Its items belong to what has their id in the same file.
    pub(crate) merge: bool,
}

/// Something that says what a definition is: an item, and the take that it is one of.
type Said<'a> = (&'a Take, Selected);

/// Takes all that a reader says out of a file, or out of one document of it.
pub(crate) fn all(reader: &CustomReader, session: &mut Session<'_>, root: Selected) {
    let mut together: Vec<What> = Vec::new();
    for take in &reader.takes {
        let is_merged = reader.takes.iter().any(|other| other.merge && other.what == take.what);
        if !is_merged {
            let items = take.items(session, root);
            if take.what == What::Roster {
                take.rosters(session, &items);
            } else {
                for at in items {
                    definition(reader, session, &[(take, at)]);
                }
            }
        } else if !together.contains(&take.what) {
            together.push(take.what);
            for said in merged(reader, take.what, session, root) {
                definition(reader, session, &said);
            }
        }
    }
}

/// Items of one sort by their ids: those of takes that merge belong to what has the id in the same file. Of each the one
/// that others belong to comes first.
fn merged<'r>(
    reader: &'r CustomReader,
    what: What,
    session: &mut Session<'_>,
    root: Selected,
) -> Vec<Vec<Said<'r>>> {
    let mut by_id: HashMap<String, usize> = HashMap::default();
    let mut groups: Vec<Vec<Said<'r>>> = Vec::new();
    for take in reader.takes.iter().filter(|take| take.what == what) {
        for at in take.items(session, root) {
            let mut item = Item { session: &mut *session, fields: &take.fields, at, others: &[] };
            let Some(id) = item.found("id") else { continue };
            let known = by_id.get(id.text.as_ref()).copied();
            let belongs = |group: &usize| take.merge || groups[*group].iter().all(|(take, _)| take.merge);
            if let Some(group) = known.filter(belongs) {
                let first = if take.merge { groups[group].len() } else { 0 };
                groups[group].insert(first, (take, at));
            } else {
                by_id.insert(id.text.into_owned(), groups.len());
                groups.push(vec![(take, at)]);
            }
        }
    }
    groups
}

/// Takes one definition, for the module that it says it belongs to; and those without a name inside it.
fn definition(reader: &CustomReader, session: &mut Session<'_>, said: &[Said<'_>]) {
    let (take, at) = said[0];
    let others: Vec<_> = said[1..].iter().map(|(take, at)| (take.fields.as_slice(), *at)).collect();
    let module = Item { session: &mut *session, fields: &take.fields, at, others: &others }.name("module");
    session.for_module(module, |session| {
        session.holder = None;
        let item = Item { session: &mut *session, fields: &take.fields, at, others: &others };
        take.item(item, &reader.expressions, said);
        let services = [take].into_iter().chain(&reader.takes).find(|take| take.what == What::Service);
        let Some(services) = services else { return };
        while !session.nested.is_empty() {
            for nested in std::mem::take(&mut session.nested) {
                services.nested(session, &reader.expressions, &nested);
            }
        }
    });
}

/// Whether something that code declares carries a mark.
fn carries(tree: &Tree<'_>, node: NodeId, mark: &str) -> bool {
    let Some(marks) = tree.field(node, "marks") else { return false };
    tree.children(marks).any(|one| tree.field(one, "name").is_some_and(|name| tree.text(name) == mark))
}

/// Whether a type that code declares is one of another.
fn is_one_of(session: &Session<'_>, node: NodeId, wanted: &str) -> bool {
    let (tree, Some(code)) = (session.tree, &session.code) else { return false };
    let Some(supers) = tree.field(node, "supers") else { return false };
    tree.children(supers).any(|one| code::is_called(tree.text(one), wanted, code.file))
}

impl Take {
    /// All items of a file.
    fn items(&self, session: &mut Session<'_>, root: Selected) -> Vec<Selected> {
        if let Some(mark) = &self.marked {
            let mark = session.interner.intern(mark);
            session.facts.scanned_marks.push(ScannedMark { source: SourceIndex::OWN, mark });
        }
        if !session.is_code {
            let mut items = session.items(&self.each, root);
            items.retain(|item| self.is_item(session, *item));
            return items;
        }
        // Of all types that there are, only some are meant.
        let mut items = session.select(&self.each, root);
        items.retain(|item| self.is_item(session, *item));
        for item in &items {
            session.items[item.node.index()] = true;
        }
        items
    }

    /// Whether something is an item by the key that it stands under, and by what it must have.
    fn is_item(&self, session: &mut Session<'_>, item: Selected) -> bool {
        let key = item.key.map_or("", |key| session.tree.text(key));
        if self.code.is_none()
            && self.within.class_extends.as_ref().is_some_and(|wanted| !is_one_of(session, item.node, wanted))
        {
            return false;
        }
        if self.marked.as_ref().is_some_and(|mark| !carries(session.tree, item.node, mark)) {
            return false;
        }
        let is_skipped = self.skip.as_ref().is_some_and(|skip| skip.is_match(key));
        !is_skipped
            && self.only.as_ref().is_none_or(|only| only.is_match(key))
            && self.only_where.as_ref().is_none_or(|field| field.finds(session, item))
    }

    /// What it asks of code.
    pub(crate) fn asked(&self) -> AskedItems<'_> {
        let needs = [&self.needs, &self.register, &self.start].into_iter().flatten();
        AskedItems {
            items: self.code.as_ref(),
            within: &self.within,
            when: &self.when,
            needs: needs.filter_map(|need| need.code.as_ref()).collect(),
        }
    }

    /// Whether it says where a field of its items is.
    pub(crate) fn has(&self, field: &str) -> bool {
        self.fields.iter().any(|(known, _)| *known == field)
    }

    /// All paths in it.
    pub(crate) fn paths(&self) -> impl Iterator<Item = &Path> {
        let needs = [&self.needs, &self.register, &self.start].into_iter().flatten();
        let of_needs = needs.clone().flat_map(|need| &need.fields).map(|(_, field)| field);
        let of_tags = self.tags.iter().flat_map(|tag| tag.fields());
        let of_attributes = self.attributes.iter().flat_map(|take| &take.fields).map(|(_, field)| field);
        let own = self.fields.iter().map(|(_, field)| field).chain(&self.only_where);
        let fields = own.chain(of_needs).chain(of_tags).chain(of_attributes);
        let nested = needs.clone().filter_map(|need| need.nested.as_ref());
        let each = [&self.each].into_iter().chain(needs.map(|need| &need.each)).chain(nested);
        let of_tags = self.tags.iter().map(|tag| &tag.each);
        let of_attributes = self.attributes.iter().map(|take| &take.each);
        each.chain(of_tags).chain(of_attributes).chain(fields.flat_map(Field::paths))
    }

    /// One item; without what it must have, it stays among what is left over.
    fn item(&self, mut item: Item<'_, '_>, expressions: &[Expression], said: &[Said<'_>]) {
        match self.what {
            What::Service => {
                if let Some(id) = item.name("id") {
                    service(item, id, expressions, said);
                }
            }
            What::Contract => contract(item),
            What::Setting => setting(item, expressions),
            What::Tag => self.tag(item),
            What::Provider => provider(item, expressions, said),
            What::Choice => choice(item),
            What::Entry => entry(item, expressions, said),
            What::LookUp => look_up(item, expressions, said),
            What::Expectation => expectation(&mut item),
            What::Supplied => supplied(item),
            What::Import => import(&mut item),
            What::Roster => {}
        }
    }

    /// A definition inside another, which may have a name of its own all the same.
    fn nested(&self, session: &mut Session<'_>, expressions: &[Expression], nested: &Nested) {
        let mut item = Item { session: &mut *session, fields: &self.fields, at: nested.at, others: &[] };
        // The key that it stands under is the slot's.
        let is_own =
            |field: &Field| matches!(field.origin, Origin::Path(_) | Origin::Any(_) | Origin::Joined(_));
        let own = if item.field("id").is_some_and(is_own) { item.name("id") } else { None };
        if let Some(own) = own {
            item.session.nested_ids.insert(nested.at.node, own);
            let need = &mut item.session.facts.parts.needs[nested.need];
            (need.target, need.span) = (Target::Service(own.name), own.span);
            if nested.is_item {
                return;
            }
        }
        service(item, own.unwrap_or(nested.id), expressions, &[(self, nested.at)]);
    }

    fn tag(&self, mut item: Item<'_, '_>) {
        let Some(tag) = item.name("id") else { return };
        let contract = item.name("contract");
        let carried_by_all = item.flag("carried-by-all");
        let collected_by = item.name("collected-by");
        let at_least = item.count("at-least").unwrap_or(0);
        let attributes =
            (!self.attributes.is_empty()).then(|| attribute_rules(item.session, &self.attributes, item.at));
        let source = SourceIndex::OWN;
        let tag = Tag { source, tag, contract, carried_by_all, collected_by, at_least, attributes };
        item.session.facts.tags.push(tag);
    }

    /// All items of a file and stage are one list.
    fn rosters(&self, session: &mut Session<'_>, items: &[Selected]) {
        let mut lists: Vec<(Option<Name>, Vec<Named>)> = Vec::new();
        let misshapen = session.misshapen.len();
        for &at in items {
            let mut item = Item { session, fields: &self.fields, at, others: &[] };
            let stage = item.word("stage");
            let providers = item.names("provider");
            let providers = providers.of(&item.session.facts.parts).to_vec();
            match lists.iter_mut().find(|(known, _)| *known == stage) {
                Some((_, list)) => list.extend(providers),
                None => lists.push((stage, providers)),
            }
        }
        let is_whole = session.misshapen.len() == misshapen;
        for (stage, list) in lists {
            let start = session.facts.parts.named.len();
            session.facts.parts.named.extend(list);
            let providers = Many::since(start, &session.facts.parts);
            session.facts.rosters.push(Roster { source: SourceIndex::OWN, stage, is_whole, providers });
        }
    }
}

fn service(mut item: Item<'_, '_>, id: Named, expressions: &[Expression], said: &[Said<'_>]) {
    if item.flag("removed") {
        return removed(item, id);
    }
    let mut service = Service::new(id);
    for field in ServiceField::ALL {
        match field.of {
            FieldOf::Name(of) if field.name == "lifetime" => *of(&mut service) = item.lifetime(field.name),
            FieldOf::Name(of) => *of(&mut service) = item.name(field.name),
            FieldOf::Word(words, of) => {
                let found = item.one_of(field.name, words);
                *of(&mut service) = found.map(|found| found.named(item.session));
            }
            FieldOf::Names(of) => *of(&mut service) = item.names(field.name),
            FieldOf::Flag(of) => *of(&mut service) = item.flag(field.name),
        }
    }
    service.maybe = item.flag("maybe");
    service.yields = said.iter().any(|(take, _)| take.yields);
    if item.is_computed(&["key", "offers"]) {
        return;
    }
    if let Some(provider) = item.name("provider") {
        let order = item.session.order(item.session.tree.span(item.at.node).start);
        item.session.registered.push(Registered { provider: provider.name, id, order });
    }
    service.amends = item.flag("amends");
    service.needs_unknown = item.one_of("needs", &["unknown"]).is_some();
    service.needs_given = service.needs_unknown || said.iter().any(|(take, _)| !take.needs.is_empty());
    let factory = item.name("built-by");
    let method = item.name("method");
    let session = item.session;
    let start = session.facts.parts.needs.len();
    needs_of(session, id, said, expressions, |take| &take.needs);
    if let Some(factory) = factory {
        let slot = Named { name: session.interner.intern("built-by"), span: factory.span };
        let mut need = need(slot, Target::Service(factory.name), factory);
        need.via = Via::Factory;
        need.method = method;
        session.facts.parts.needs.push(need);
    }
    service.needs = Many::since(start, &session.facts.parts);
    let start = session.facts.parts.taggings.len();
    for (take, at) in said {
        taggings(session, &take.tags, *at);
    }
    service.taggings = Many::since(start, &session.facts.parts);
    session.facts.services.push(service);
}

/// A definition that takes others of its id away, in its stages.
fn removed(mut item: Item<'_, '_>, id: Named) {
    let stages = item.names("stages");
    if stages.is_empty() {
        let message =
            format!("{} is taken away, and nothing says in which stage", item.session.interner.text(id.name));
        item.session.misshapen.push((item.at.node, message));
        return;
    }
    item.session.facts.removed.push(Removed { source: SourceIndex::OWN, id, stages });
}

/// The needs of what has an id, by all that says something of it.
fn needs_of(
    session: &mut Session<'_>,
    id: Named,
    said: &[Said<'_>],
    expressions: &[Expression],
    of: fn(&Take) -> &[NeedTake],
) -> Many<Need> {
    session.holder = Some(id.name);
    let start = session.facts.parts.needs.len();
    for (take, at) in said {
        needs(session, of(take), expressions, *at);
    }
    Many::since(start, &session.facts.parts)
}

fn provider(mut item: Item<'_, '_>, expressions: &[Expression], said: &[Said<'_>]) {
    let Some(id) = item.name("id") else { return };
    let type_name = item.name("type");
    // An empty list is a promise of nothing; no list is one of everything.
    let registers = item.is_written("registers").then(|| item.names("registers"));
    let after = item.names("after");
    let register = needs_of(item.session, id, said, expressions, |take| &take.register);
    let start = needs_of(item.session, id, said, expressions, |take| &take.start);
    let provider = Provider { source: SourceIndex::OWN, id, type_name, registers, register, start, after };
    item.session.facts.providers.push(provider);
}

fn entry(mut item: Item<'_, '_>, expressions: &[Expression], said: &[Said<'_>]) {
    let Some(id) = item.name("id") else { return };
    let type_name = item.name("type");
    let at = item.word("at");
    let lifetime = item.lifetime("lifetime");
    let needs = needs_of(item.session, id, said, expressions, |take| &take.needs);
    let entry = Entry { type_name, at, lifetime, ..plain_entry(id, needs) };
    item.session.facts.entries.push(entry);
}

/// A look-up at run time is something outside of the wiring that uses it, as an entry is.
fn look_up(mut item: Item<'_, '_>, expressions: &[Expression], said: &[Said<'_>]) {
    let id = item.name("id").unwrap_or_else(|| {
        let path = item.session.path.to_owned();
        item.session.nowhere(item.at, path).named(item.session)
    });
    let again = item.session.needed_again;
    let needs = needs_of(item.session, id, said, expressions, |take| &take.needs);
    // What a take before it took as a need is none besides.
    if item.session.needed_again - again == needs.len() {
        item.session.facts.parts.needs.truncate(needs.range().start);
        return;
    }
    for need in &mut item.session.facts.parts.needs[needs.range()] {
        need.via = Via::LookUp;
    }
    let entry = Entry { is_look_up: true, ..plain_entry(id, needs) };
    item.session.facts.entries.push(entry);
}

/// An entry of which only its needs are known.
fn plain_entry(id: Named, needs: Many<Need>) -> Entry {
    Entry {
        source: SourceIndex::OWN,
        id,
        type_name: None,
        at: None,
        lifetime: None,
        needs,
        is_look_up: false,
    }
}

fn contract(mut item: Item<'_, '_>) {
    let Some(contract) = item.name("id") else { return };
    let extends = item.names("extends");
    let meant_for = item.one_of("meant-for", MEANT_FOR);
    let meant_for = meant_for.and_then(|found| Some((MeantFor::of(&found.text)?, found.span)));
    let keys = item.names("keys");
    item.session.facts.contracts.push(Contract {
        source: SourceIndex::OWN,
        contract,
        extends,
        meant_for,
        keys,
    });
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
    let start = facts.parts.named.len();
    facts.parts.named.extend(referred);
    let references = Many::since(start, &facts.parts);
    let start = facts.parts.stage_values.len();
    let texts: Vec<&str> = found.iter().map(|found| &*found.text).collect();
    let text = item.session.interner.intern(&texts.join(", "));
    let mut value = found.first().map(|found| Named { name: text, span: found.span });
    let mut base_references = references;
    if let Some(stage) = stage {
        facts.parts.stage_values.extend(value.take().map(|value| StageValue { stage, value, references }));
        base_references = Many::default();
    }
    let stages = Many::since(start, &facts.parts);
    let references = base_references;
    facts.settings.push(Setting { source: SourceIndex::OWN, setting, value, references, stages, required });
}

fn choice(mut item: Item<'_, '_>) {
    let (Some(contract), Some(service)) = (item.name("contract"), item.name("service")) else { return };
    let key = item.name("key");
    let stage = item.word("stage");
    let holder = item.name("for");
    if item.is_computed(&["key", "for"]) {
        return;
    }
    item.session.facts.choices.push(Choice {
        source: SourceIndex::OWN,
        contract,
        key,
        service,
        holder,
        stage,
    });
}

/// Files that must be there.
fn import(item: &mut Item<'_, '_>) {
    for found in item.all("path") {
        let written = found.named(item.session);
        let path = found.text.replace('\\', "/");
        let folder = item.session.path.rsplit_once('/').map_or("", |(folder, _)| folder);
        let path = path.strip_prefix('/').map_or_else(|| format!("{folder}/{path}"), str::to_owned);
        let path = item.session.interner.intern(&plain_path(&path));
        item.session.facts.imports.push(Import { source: SourceIndex::OWN, written, path });
    }
}

/// A path without steps back and forth.
fn plain_path(path: &str) -> String {
    let mut parts: Vec<&str> = Vec::new();
    for part in path.split('/') {
        match part {
            "" | "." => {}
            ".." if parts.last().is_some_and(|last| *last != "..") => _ = parts.pop(),
            part => parts.push(part),
        }
    }
    parts.join("/")
}

/// Names that the host brings.
fn supplied(mut item: Item<'_, '_>) {
    let kinds = [
        ("service", SuppliedKind::Service),
        ("contract", SuppliedKind::Contract),
        ("setting", SuppliedKind::Setting),
        ("tag-name", SuppliedKind::Tag),
    ];
    for (field, kind) in kinds {
        for found in item.all(field) {
            let name = found.named(item.session);
            let (source, by) = (SourceIndex::OWN, SuppliedBy::Platform);
            item.session.facts.supplied.push(Supplied { source, kind, name, by });
        }
    }
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
    let expectation =
        Expectation { source: SourceIndex::OWN, service, contract, key, met_by, type_name, lifetime };
    item.session.facts.expectations.push(expectation);
}
