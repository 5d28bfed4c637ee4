//! What files look like inside: which lists and maps hold items, what their ids are, and which fields items have.
//!
//! Nodes at one path are looked at together, from the roots of all files of a family down. A map whose keys are others in each
//! instance, or whose values are all of one shape, holds items under their keys; a list whose elements have a field that is
//! unique holds items too. All else is a record: its fields are gone into one by one.

use super::clauses::Clause;
use super::elements::{GROUPED, Sort, text_in};
use super::families::Family;
use super::files::Document;
use super::grouped::Groups;
use super::names::Names;
use super::statements::Statements;
use super::study::is_type;
use crate::custom::ReaderSyntax;
use crate::syntax::{NodeId, NodeKind, Tree};
use foldhash::{HashMap, HashSet};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// A node of a file of the family, and the key that it stands under.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Spot {
    pub(super) file: usize,
    pub(super) node: NodeId,
    pub(super) key: Option<NodeId>,
}

impl Spot {
    /// By what it is told from all others: its file and its node.
    pub(super) fn place(&self) -> (usize, usize) {
        (self.file, self.node.index())
    }
}

/// What the id of an item may be.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) enum IdFrom {
    /// The key that it stands under.
    Key,
    /// What comes behind a word in that key, with the sign after it: `service depot.gate`.
    KeyBehind(String),
    /// What a line begins with, or what stands behind the first word of it, if that is said.
    Said(bool),
    /// What stands in its key between a beginning and one of some endings, each with a dot: `part.depot.gate.needs`.
    Stem(Flat),
    /// The keys that lead to it, behind these; with what they make by file and node.
    KeyPath(String, Arc<HashMap<(usize, usize), String>>),
    /// The field with this key, or the text of the one element of this name.
    Field(String),
    /// What stands in this place, counted from none, of the list that it is.
    Column(usize),
    /// A field of the map under a key: `meta: { name: depot.gate }`.
    Below(String, String),
    /// What the group that it is in is called, with a sign between that and the other.
    InGroup(Box<IdFrom>, Arc<Groups>, &'static str),
    /// Two fields, with a sign between.
    Joined(Place, Place, &'static str),
    /// The name of the file, without its endings: the file is the item.
    File,
}

impl IdFrom {
    /// What it is in its group.
    pub(super) fn own(&self) -> &Self {
        if let Self::InGroup(own, ..) = self { own } else { self }
    }
}

/// Where in an item a text stands.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Place {
    /// The key of the map that it stands in; `None`: the item itself.
    pub(super) outer: Option<String>,
    pub(super) name: String,
}

impl Place {
    /// Whether an id that is made so is this text.
    pub(super) fn is(&self, from: &IdFrom) -> bool {
        match from {
            IdFrom::Field(name) => self.outer.is_none() && *name == self.name,
            IdFrom::Below(outer, name) => self.outer.as_ref() == Some(outer) && *name == self.name,
            _ => false,
        }
    }
}

/// How numbers stand behind words in keys of a flat file.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub(super) enum Numbers {
    #[default]
    None,
    /// `depot.gate.needs.0`
    Dotted,
    /// `depot.gate.needs[0]`
    InBrackets,
}

impl Numbers {
    /// A key without the number behind it.
    pub(super) fn cut(self, key: &str) -> &str {
        let parts = match self {
            Self::None => None,
            Self::Dotted => key.rsplit_once('.'),
            Self::InBrackets => key.strip_suffix(']').and_then(|key| key.rsplit_once('[')),
        };
        let digits = |last: &str| !last.is_empty() && last.bytes().all(|byte| byte.is_ascii_digit());
        parts.filter(|(_, last)| digits(last)).map_or(key, |(before, _)| before)
    }
}

/// How keys of a flat file are made: what they begin with, and the words that stand behind the id.
#[derive(Clone, PartialEq, Eq, Default, Debug)]
pub(super) struct Flat {
    /// With its dot; empty: ids come first.
    pub(super) before: String,
    pub(super) behind: BTreeSet<String>,
    /// Whether one word stands behind each id, and any may.
    pub(super) has_slots: bool,
    /// How numbers stand behind the words, in lists.
    pub(super) numbers: Numbers,
    /// Of the words those that have another behind them, of the items' own choice: `depot.gate.given.clock`.
    pub(super) with_slots: BTreeSet<String>,
}

impl Flat {
    /// A key as an id, and the word behind it.
    pub(super) fn split<'k>(&self, key: &'k str) -> (&'k str, Option<&'k str>) {
        let rest = key.strip_prefix(self.before.as_str()).unwrap_or(key);
        let rest = without_slot(self.numbers.cut(rest), &self.with_slots);
        match rest.rsplit_once('.') {
            Some((id, word)) if self.has_slots || self.behind.contains(word) => (id, Some(word)),
            _ => (rest, None),
        }
    }
}

/// Many things of one shape.
#[derive(Default, Debug)]
pub(super) struct Collection {
    /// The path of its items from the root of the file; empty: the file is the item.
    pub(super) each: String,
    /// Of several sorts at one path which it is.
    pub(super) sort: Option<Sort>,
    /// Keys at that path that are none of them.
    pub(super) skipped: Vec<String>,
    /// In a flat file an expression for what stands under their ids, where others have something else there.
    pub(super) values_like: Option<&'static str>,
    /// Whether lists and maps at that path are none of them.
    pub(super) only_plain: bool,
    /// Whether they say what items of others need, and their ids are those of whom they speak.
    pub(super) is_edges: bool,
    /// What ids may be, the likeliest first.
    pub(super) ids: Vec<IdFrom>,
    /// The groups that its items are in, where names of others begin with what those are called.
    pub(super) groups: Option<Arc<Groups>>,
    pub(super) items: Vec<Spot>,
    /// By path from the item what stands there.
    pub(super) fields: BTreeMap<String, Vec<Leaf>>,
    /// Where in lines fields stand, if lines are the items.
    pub(super) statements: Option<Statements>,
    /// By path what stands under keys of the items' own choice.
    pub(super) keyed: BTreeMap<String, Vec<Leaf>>,
}

impl Collection {
    /// Where in lines a field stands.
    pub(super) fn clause(&self, path: &str) -> Option<&Clause> {
        self.statements.as_ref()?.clauses.get(path)
    }
}

/// A plain value in an item.
#[derive(Clone, Copy, Debug)]
pub(super) struct Leaf {
    /// The number of the item.
    pub(super) item: usize,
    pub(super) spot: Spot,
}

/// All that is in the files of a family.
#[derive(Debug, Default)]
pub(super) struct Shape {
    pub(super) collections: Vec<Collection>,
    /// Plain values outside of all items, by path from the root.
    pub(super) loose: BTreeMap<String, Vec<Spot>>,
    /// Whether files are items.
    pub(super) is_whole: bool,
}

/// Maps with the same keys, for those to be fields.
const RECORDS: usize = 3;
/// A map or list that is gone into at most so deep.
const DEPTH: usize = 12;
/// Items that are looked at where many ways are tried.
pub(super) const SAMPLE: usize = 1_000;
/// Fields of an item that are looked at on a path at most.
const FIELD_PATHS: usize = 400;

/// Looks at the files of a family. What stands at some paths is no item.
pub(super) fn shape(family: &Family<'_>, names: &Names<'_>, no_items: &HashSet<String>) -> Shape {
    let mut looking = Looking { family, names, no_items, slots: HashSet::default(), shape: Shape::default() };
    if family.syntax == ReaderSyntax::Lines {
        looking.statements();
        return looking.shape;
    }
    let has_documents = family.has_documents();
    if has_documents {
        looking.files_as_items(true);
        if looking.shape.is_whole {
            return looking.shape;
        }
    }
    let (whole, others) = looking.sorts_of_files();
    let mut waiting = vec![("$".to_owned(), others, 0)];
    while let Some((path, spots, depth)) = waiting.pop() {
        if depth < DEPTH {
            looking.at(&path, &spots, depth, &mut waiting);
        }
    }
    looking.slots_of_all();
    looking.names_in_groups();
    looking.shape.collections.sort_by(|one, other| one.each.cmp(&other.each));
    if family.syntax == ReaderSyntax::Xml {
        looking.join_nested();
    }
    // In XML the outermost element stands around it.
    let depth = if family.syntax == ReaderSyntax::Xml { 3 } else { 2 };
    let is_record = |path: &String| path.matches(['.', '[']).count() < depth;
    let are_typed = || {
        if family.syntax == ReaderSyntax::Xml {
            looking.have_types(&looking.by_key(&looking.roots()))
        } else {
            looking.are_typed_files()
        }
    };
    let are_records = || looking.shape.collections.is_empty() && looking.shape.loose.keys().any(is_record);
    if !has_documents && whole.is_empty() && (are_typed() || are_records()) {
        looking.files_as_items(false);
    }
    for (sort, items) in whole {
        let ids = looking.id_fields(&items);
        looking.collect(String::new(), Some(sort), ids, items);
    }
    looking.shape
}

pub(super) type Waiting = Vec<(String, Vec<Spot>, usize)>;

pub(super) struct Looking<'f, 't> {
    pub(super) family: &'f Family<'t>,
    pub(super) names: &'f Names<'f>,
    no_items: &'f HashSet<String>,
    /// Paths in items of maps with keys of the items' own choice.
    slots: HashSet<String>,
    pub(super) shape: Shape,
}

impl<'t> Looking<'_, 't> {
    pub(super) fn tree(&self, spot: Spot) -> &Tree<'t> {
        &self.family.documents[spot.file].tree
    }

    pub(super) fn kind(&self, spot: Spot) -> NodeKind {
        self.tree(spot).kind(spot.node)
    }

    pub(super) fn text(&self, spot: Spot) -> &str {
        self.tree(spot).text(spot.node)
    }

    pub(super) fn key(&self, spot: Spot) -> &str {
        spot.key.map_or("", |key| self.tree(spot).text(key))
    }

    pub(super) fn fields(&self, spot: Spot) -> impl Iterator<Item = Spot> + '_ {
        let is_map = self.kind(spot) == NodeKind::Map;
        let fields = is_map.then(|| self.tree(spot).fields(spot.node)).into_iter().flatten();
        fields.map(move |(key, node)| Spot { file: spot.file, node, key: Some(key) })
    }

    pub(super) fn elements(&self, spot: Spot) -> impl Iterator<Item = Spot> + '_ {
        let is_list = self.kind(spot) == NodeKind::List;
        let elements = is_list.then(|| self.tree(spot).children(spot.node)).into_iter().flatten();
        elements.map(move |node| Spot { file: spot.file, node, key: None })
    }

    pub(super) fn roots(&self) -> Vec<Spot> {
        let documents = self.family.documents.iter().enumerate();
        let root = |(file, document): (usize, &Document<'_>)| Spot { file, node: document.root, key: None };
        documents.map(root).collect()
    }

    /// Looks at all nodes of a path outside of items.
    fn at(&mut self, path: &str, spots: &[Spot], depth: usize, waiting: &mut Waiting) {
        let (maps, lists, plain) = self.by_kind(spots);
        if !plain.is_empty() {
            self.shape.loose.entry(path.to_owned()).or_default().extend(plain);
        }
        if !lists.is_empty() {
            let elements: Vec<Spot> = lists.iter().flat_map(|&list| self.elements(list)).collect();
            self.list(&format!("{path}[*]"), &elements, depth, waiting);
        }
        if !maps.is_empty() {
            self.map(path, &maps, depth, waiting);
        }
    }

    fn by_kind(&self, spots: &[Spot]) -> (Vec<Spot>, Vec<Spot>, Vec<Spot>) {
        let of = |kind| spots.iter().copied().filter(|&spot| self.kind(spot) == kind).collect();
        let plain = spots.iter().copied().filter(|&spot| self.tree(spot).is_plain(spot.node)).collect();
        (of(NodeKind::Map), of(NodeKind::List), plain)
    }

    fn map(&mut self, path: &str, maps: &[Spot], depth: usize, waiting: &mut Waiting) {
        let mut by_key = self.by_key(maps);
        if self.family.syntax == ReaderSyntax::Properties && self.flat(&by_key) {
            return;
        }
        if self.family.syntax == ReaderSyntax::Ini && path == "$" {
            for (word, sections) in behind_words(&by_key) {
                // What is asked for with the word is called so.
                let asked = sections.iter().filter(|section| self.names.is_used(section)).count();
                if word.ends_with(':') && asked * 3 >= sections.len() {
                    continue;
                }
                for section in &sections {
                    by_key.remove(section);
                }
                let items: Vec<Spot> = maps
                    .iter()
                    .flat_map(|&map| self.fields(map))
                    .filter(|&field| self.key(field).starts_with(&word))
                    .collect();
                self.collect(format!("{path}.*"), None, vec![IdFrom::KeyBehind(word)], items);
            }
        }
        if self.key_paths(path, maps) || self.map_paths(path, maps) {
            return;
        }
        if self.are_wrapped(maps) {
            waiting.push((format!("{path}.*"), by_key.into_values().flatten().collect(), depth + 1));
            return;
        }
        if self.go_into_groups(path, &by_key, (depth, waiting)) {
            return;
        }
        if self.are_sections_of_groups(&by_key) {
            for (key, sections) in by_key {
                let groups = sections.iter().flat_map(|&section| self.fields(section)).collect();
                waiting.push((format!("{path}{}.*", step(&key)), groups, depth + 2));
            }
            return;
        }
        let skipped = if self.family.syntax == ReaderSyntax::Xml {
            Vec::new()
        } else {
            self.sections(maps.len(), &by_key)
        };
        for key in &skipped {
            let values = by_key.remove(key).unwrap_or_default();
            waiting.push((format!("{path}{}", step(key)), values, depth + 1));
        }
        if self.holds_items(maps.len(), &by_key) {
            let items: Vec<Spot> = by_key.into_values().flatten().collect();
            let each = format!("{path}.*");
            // Groups of items are gone into as if they were one.
            let inner: Vec<Spot> =
                items.iter().copied().filter(|&item| self.kind(item) == NodeKind::Map).collect();
            let is_group = inner.len() == items.len() && inner.len() > 1 && {
                let keys = self.by_key(&inner);
                self.are_maps(&keys) && self.holds_items(inner.len(), &keys)
                    || self.have_sections_of_items(&keys)
                    || self.are_groups(&inner)
            };
            if is_group {
                waiting.push((each, inner, depth + 1));
            } else {
                let are_maps = inner.len() == items.len();
                self.items_under_keys(path, items, are_maps, skipped);
            }
            return;
        }
        for (key, values) in by_key {
            waiting.push((format!("{path}{}", step(&key)), values, depth + 1));
        }
    }

    /// Keeps what stands under the keys of maps: items of one sort, or of several.
    fn items_under_keys(&mut self, path: &str, items: Vec<Spot>, are_maps: bool, skipped: Vec<String>) {
        // What is known by another name than its key says so.
        let sample = &items[..items.len().min(SAMPLE)];
        let asked = sample.iter().filter(|&&item| self.names.is_used(self.key(item))).count();
        let others = if asked * 3 > sample.len() { Vec::new() } else { self.id_fields(&items) };
        let ids: Vec<IdFrom> = std::iter::once(IdFrom::Key).chain(others).collect();
        let sorts = if are_maps && skipped.is_empty() { self.sorts(&items) } else { None };
        // One with a field that no other has is no sort.
        match sorts.filter(|sorts| sorts.iter().all(|(_, items)| items.len() >= GROUPED)) {
            None => self.collect(format!("{path}.*"), None, ids, items).skipped = skipped,
            Some(sorts) => {
                for (sort, items) in sorts {
                    self.collect(format!("{path}[?{}]", sort.filter()), None, ids.clone(), items);
                }
            }
        }
    }

    pub(super) fn are_maps(&self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        by_key.values().flatten().all(|&value| self.kind(value) == NodeKind::Map)
    }

    /// Whether one of the keys of several maps has many maps below it that are items.
    fn have_sections_of_items(&self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        by_key.values().any(|sections| {
            let inside = self.by_key(sections);
            let count: usize = inside.values().map(Vec::len).sum();
            count >= sections.len() * GROUPED
                && self.are_maps(&inside)
                && self.holds_items(sections.len(), &inside)
        })
    }

    /// Whether each of several maps has one key of its own, and under that nothing but further maps and lists: the key is
    /// what the file is about.
    fn are_wrapped(&self, maps: &[Spot]) -> bool {
        let inside: Vec<Spot> = maps.iter().flat_map(|&map| self.fields(map)).collect();
        let keys: HashSet<&str> = inside.iter().map(|&value| self.key(value)).collect();
        let holds = |value: Spot| {
            let many = |field: &Spot| {
                let maps = self.fields(*field).chain(self.elements(*field));
                self.kind(*field) == NodeKind::Map
                    || maps.into_iter().any(|map| self.kind(map) == NodeKind::Map)
            };
            self.fields(value).count() > 1
                && self.fields(value).filter(many).count() * 10 >= self.fields(value).count() * 6
        };
        self.family.syntax != ReaderSyntax::Xml
            && maps.len() > 2
            && inside.len() == maps.len()
            && keys.len() == maps.len()
            && inside.iter().all(|&value| holds(value))
    }

    pub(super) fn by_key(&self, maps: &[Spot]) -> BTreeMap<String, Vec<Spot>> {
        let mut by_key: BTreeMap<String, Vec<Spot>> = BTreeMap::new();
        for field in maps.iter().flat_map(|&map| self.fields(map)) {
            let key = self.key(field);
            match by_key.get_mut(key) {
                Some(values) => values.push(field),
                None => _ = by_key.insert(key.to_owned(), vec![field]),
            }
        }
        by_key
    }

    /// Whether maps at one path hold items under their keys, and are no records.
    fn holds_items(&self, maps: usize, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        // An element of XML is a record, whatever it is called.
        if self.family.syntax == ReaderSyntax::Xml || by_key.is_empty() {
            return false;
        }
        let total: usize = by_key.values().map(Vec::len).sum();
        let distinct = by_key.len();
        let kinds = |of: fn(NodeKind) -> bool| {
            by_key.values().flatten().filter(|&&value| of(self.kind(value))).count()
        };
        let maps_inside = kinds(|kind| kind == NodeKind::Map);
        let lists_inside = kinds(|kind| kind == NodeKind::List);
        let of_one_kind = [maps_inside, lists_inside, total - maps_inside - lists_inside];
        if of_one_kind.iter().all(|&count| count * 10 < total * 9) {
            return false;
        }
        if distinct > 3 && maps_inside * 10 >= total * 9 && self.have_types(by_key) {
            return true;
        }
        let count = |is_so: &dyn Fn(&str) -> bool| by_key.keys().filter(|key| is_so(key)).count();
        let are_plain = maps_inside + lists_inside == 0;
        let behind = if are_plain { count(&|key| self.names.is_used_behind(key)) } else { 0 };
        let known = count(&|key| self.names.is_used(key)).max(behind);
        let odd = by_key.keys().filter(|key| key.contains(['.', '/', ':', '-', '\\'])).count();
        // Sections that all files have are no items, unless most are asked for by names of several parts.
        let parted = by_key.keys().filter(|key| key.contains(['.', '/', ':', '-', '\\', '_'])).count();
        let are_of_one_kind = maps_inside == total || are_plain;
        let are_asked = are_of_one_kind && distinct > 1 && known * 2 > distinct && parted * 2 >= distinct;
        if maps > 2 && total * 10 >= distinct * maps * 9 && behind * 2 <= distinct && !are_asked {
            return false;
        }
        if maps_inside * 10 >= total * 9 && distinct > 1 && self.are_alike(by_key.values().flatten().copied())
        {
            // Sections that all files have are no items, however much they look alike.
            return maps == 1 || total < distinct * maps.min(3) || known * 2 > distinct;
        }
        if maps > 1 && distinct * 2 <= total && distinct < 12 && known * 2 < distinct {
            return false;
        }
        let repeats = by_key.values().map(Vec::len).max().unwrap_or(0);
        if maps > 2 && repeats * 10 > maps * 6 && known * 2 < distinct {
            return false;
        }
        known * 3 >= distinct && known > 0
            || odd * 2 >= distinct
            || maps > 3 && distinct * 10 >= total * 8 && distinct > 3
    }

    /// Whether most maps have a field with the name of a type, another in each.
    fn have_types(&self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        let mut types: HashMap<&str, HashSet<&str>> = HashMap::default();
        let mut all = 0;
        for map in by_key.values().flatten().take(SAMPLE) {
            all += 1;
            for field in self.fields(*map) {
                let text = text_in(self.tree(field), field.node).or_else(|| self.type_of_element(field));
                if let Some(text) = text.filter(|text| is_type(text)) {
                    types.entry(self.key(field)).or_default().insert(text);
                }
            }
        }
        types.values().any(|types| types.len() * 5 >= all * 4)
    }

    /// The type that an attribute of the one element of a name has.
    fn type_of_element(&self, elements: Spot) -> Option<&str> {
        let mut elements = self.elements(elements).filter(|_| self.family.syntax == ReaderSyntax::Xml);
        let only = elements.next().filter(|_| elements.next().is_none())?;
        self.fields(only).map(|attribute| self.text(attribute)).find(|text| is_type(text))
    }

    /// Whether maps have mostly fields of the same names.
    pub(super) fn are_alike(&self, maps: impl Iterator<Item = Spot>) -> bool {
        let mut counts: HashMap<&str, usize> = HashMap::default();
        let (mut filled, mut all) = (0, 0);
        for value in maps {
            let mut any = false;
            for field in self.fields(value) {
                *counts.entry(self.key(field)).or_default() += 1;
                all += 1;
                any = true;
            }
            filled += usize::from(any);
        }
        let shared: usize = counts.values().filter(|&&count| count > 1).sum();
        filled > 1 && shared * 2 >= all && counts.len() <= 60
    }

    /// A list: items, if the elements have a field that is unique, or are of sorts that begin with different fields.
    fn list(&mut self, path: &str, elements: &[Spot], depth: usize, waiting: &mut Waiting) {
        let (maps, lists, plain) = self.by_kind(elements);
        if lists.len() == elements.len()
            && !self.no_items.contains(path)
            && let Some((id, are_edges)) = self.id_of_rows(&lists)
        {
            self.collect(path.to_owned(), None, vec![IdFrom::Column(id)], lists).is_edges = are_edges;
            return;
        }
        if maps.len() * 10 < elements.len() * 9 || maps.is_empty() {
            self.shape.loose.entry(path.to_owned()).or_default().extend(plain);
            if !lists.is_empty() || !maps.is_empty() {
                waiting.push((path.to_owned(), lists.into_iter().chain(maps).collect(), depth + 1));
            }
            return;
        }
        let sorts = if self.family.syntax == ReaderSyntax::Xml { None } else { self.sorts(&maps) };
        let Some(sorts) = sorts else {
            let mut ids = self.id_fields(&maps);
            if ids.is_empty() {
                let each = path.to_owned();
                let unnamed = Collection { each, items: maps.clone(), ..Collection::default() };
                ids.extend(self.id_in_group(&unnamed));
            }
            let is_edges = ids.is_empty();
            if is_edges {
                ids.extend(self.edges(&maps));
            }
            if ids.is_empty()
                || self.no_items.contains(path)
                || self.are_texts(&maps)
                || self.are_groups(&maps)
            {
                self.map(path, &maps, depth, waiting);
            } else {
                self.collect(path.to_owned(), None, ids, maps).is_edges = is_edges;
            }
            return;
        };
        let stem = path.strip_suffix("[*]").unwrap_or(path);
        for (sort, items) in sorts {
            let each = format!("{stem}[?{}]", sort.filter());
            let ids = self.id_fields(&items);
            // One in each file says something of the file.
            if ids.is_empty() || self.is_one_a_file(&items) {
                waiting.push((each, items, depth + 1));
            } else {
                self.collect(each, None, ids, items);
            }
        }
    }

    /// Whether maps are elements with nothing but a text: what holds them is the item.
    fn are_texts(&self, maps: &[Spot]) -> bool {
        self.family.syntax == ReaderSyntax::Xml
            && maps.iter().all(|&map| self.fields(map).all(|field| self.key(field) == "#text"))
    }

    /// Whether items are the first of what stands in each file: they speak of the file.
    fn is_one_a_file(&self, items: &[Spot]) -> bool {
        let is_first = |item: &Spot| item.node.index() == self.family.documents[item.file].root.index() + 1;
        items.len() == self.family.documents.len() && items.iter().all(is_first)
    }

    /// Keeps items, with all fields in them.
    pub(super) fn collect(
        &mut self,
        each: String,
        sort: Option<Sort>,
        ids: Vec<IdFrom>,
        items: Vec<Spot>,
    ) -> &mut Collection {
        let mut fields: BTreeMap<String, Vec<Leaf>> = BTreeMap::new();
        let mut keyed: BTreeMap<String, Vec<Leaf>> = BTreeMap::new();
        let are_rows = matches!(ids.first(), Some(IdFrom::Column(_)));
        let starts: Vec<Leaf> = items.iter().enumerate().map(|(item, &spot)| Leaf { item, spot }).collect();
        let mut waiting: Vec<(String, Vec<Leaf>, usize)> = vec![("$".to_owned(), starts, 0)];
        while let Some((path, leaves, depth)) = waiting.pop() {
            if depth > DEPTH || fields.len() > FIELD_PATHS {
                continue;
            }
            let plain: Vec<Leaf> =
                leaves.iter().copied().filter(|leaf| self.tree(leaf.spot).is_plain(leaf.spot.node)).collect();
            if !plain.is_empty() {
                fields.entry(path.clone()).or_default().extend(plain);
            }
            let of = |kind: NodeKind| {
                leaves.iter().copied().filter(|leaf| self.kind(leaf.spot) == kind).collect::<Vec<_>>()
            };
            let lists = of(NodeKind::List);
            if depth == 0 && are_rows || path.ends_with("[*]") && self.are_rows(&lists) {
                let columns = self.columns(&lists).into_iter().enumerate();
                waiting
                    .extend(columns.map(|(column, cells)| (format!("{path}[{column}]"), cells, depth + 1)));
            } else if depth == 0 && self.begin_with_types(&lists) {
                let (types, rest) = self.first_and_rest(&lists);
                waiting
                    .extend([("$[0]".to_owned(), types, depth + 1), ("$[1:]".to_owned(), rest, depth + 1)]);
            } else {
                let elements = lists.iter().flat_map(|leaf| {
                    self.elements(leaf.spot).map(move |spot| Leaf { item: leaf.item, spot })
                });
                let elements: Vec<Leaf> = elements.collect();
                if !elements.is_empty() {
                    waiting.push((format!("{path}[*]"), elements, depth + 1));
                }
            }
            let maps: Vec<Leaf> = of(NodeKind::Map);
            let mut under: BTreeMap<String, Vec<Leaf>> = BTreeMap::new();
            for leaf in &maps {
                for spot in self.fields(leaf.spot) {
                    let (key, leaf) = (self.key(spot), Leaf { item: leaf.item, spot });
                    match under.get_mut(key) {
                        Some(leaves) => leaves.push(leaf),
                        None => _ = under.insert(key.to_owned(), vec![leaf]),
                    }
                }
            }
            // The item itself is a record.
            let is_element = path.ends_with("[*]") || path.ends_with(".*");
            let are_slots = self.slots.contains(&path) || self.holds_slots(maps.len(), &under, is_element);
            if depth > 0 && are_slots && !under.is_empty() {
                self.slots.insert(path.clone());
                let inside: Vec<Leaf> = under.into_values().flatten().collect();
                keyed.insert(format!("{path}.*"), inside.clone());
                waiting.push((format!("{path}.*"), inside, depth + 1));
            } else {
                waiting.extend(
                    under
                        .into_iter()
                        .map(|(key, leaves)| (format!("{path}{}", step(&key)), leaves, depth + 1)),
                );
            }
        }
        // What may stand alone or in a list is one field.
        let lists: Vec<String> =
            fields.keys().filter_map(|path| path.strip_suffix("[*]")).map(str::to_owned).collect();
        for path in lists
            .into_iter()
            .filter(|path| !path.ends_with("[*]") && fields.contains_key(path))
            .collect::<Vec<_>>()
        {
            let more = fields.remove(&format!("{path}[*]")).unwrap_or_default();
            let leaves = fields.entry(path).or_default();
            leaves.extend(more);
            leaves.sort_by_key(|leaf| (leaf.item, leaf.spot.node.index()));
        }
        self.shape.collections.push(Collection {
            each,
            sort,
            ids,
            items,
            fields,
            keyed,
            ..Collection::default()
        });
        let last = self.shape.collections.len() - 1;
        &mut self.shape.collections[last]
    }

    /// What few items have under one key says little: where those of another collection have slots under it, these have too.
    fn slots_of_all(&mut self) {
        let paths: Vec<String> = self.slots.iter().map(|path| format!("{path}.")).collect();
        let has_fields = |collection: &Collection| {
            let other = |field: &String, path: &String| {
                field.strip_prefix(path.as_str()).is_some_and(|rest| !rest.starts_with('*'))
            };
            collection.fields.keys().any(|field| paths.iter().any(|path| other(field, path)))
        };
        for collection in std::mem::take(&mut self.shape.collections) {
            if has_fields(&collection) {
                let Collection { each, sort, ids, items, skipped, only_plain, .. } = collection;
                let again = self.collect(each, sort, ids, items);
                (again.skipped, again.only_plain) = (skipped, only_plain);
            } else {
                self.shape.collections.push(collection);
            }
        }
    }

    /// Whether maps inside items have keys of the items' own choice: many different ones with values of one shape.
    fn holds_slots(&self, maps: usize, by_key: &BTreeMap<String, Vec<Leaf>>, is_element: bool) -> bool {
        if self.family.syntax == ReaderSyntax::Xml {
            return false;
        }
        let total: usize = by_key.values().map(Vec::len).sum();
        // Elements of a list are records, unless each has but one key.
        if is_element && (total * 10 > maps * 12 || by_key.len() < 4) {
            return false;
        }
        if are_numbered(by_key.keys()) || self.are_references(by_key) {
            return true;
        }
        // Where each of many maps has one of few keys, that says what its value is.
        if by_key.len() <= 4 && by_key.len() * 4 <= total && total * 10 <= maps * 11 {
            return false;
        }
        // What nearly all of many maps have is no key of their own choice; nor is one that all types stand under.
        let has_type = |leaf: &Leaf| is_type(self.text(leaf.spot));
        let are_types = |leaves: &Vec<Leaf>| leaves.len() * 10 >= maps * 9 && leaves.iter().all(has_type);
        if maps > RECORDS && (total * 10 >= by_key.len() * maps * 9 || by_key.values().any(are_types)) {
            return false;
        }
        let most = by_key.values().map(Vec::len).max().unwrap_or(0);
        let values = || by_key.values().flatten().map(|leaf| leaf.spot);
        let are_maps = |spot: &Spot| self.kind(*spot) == NodeKind::Map;
        let maps_inside = values().filter(are_maps).count();
        // Plain values may stand beside maps that name something.
        let with_maps =
            by_key.values().filter(|leaves| leaves.iter().any(|leaf| are_maps(&leaf.spot))).count();
        let is_alike = maps_inside == 0
            || (maps_inside == total || with_maps > RECORDS) && self.are_alike(values().filter(are_maps));
        let is_varied = by_key.len() > 3 && most * 10 < maps * 7;
        let named = if maps_inside > 0 {
            0
        } else {
            values().filter(|&value| self.names.mentions(self.text(value))).count()
        };
        let is_told = is_varied && (maps_inside > 0 || by_key.len() > 8) || named * 2 > total;
        by_key.len() > 1 && is_alike && is_told
    }

    /// Whether each of several keys leads to a map with one key alone, of few: that says what the value is.
    fn are_references(&self, by_key: &BTreeMap<String, Vec<Leaf>>) -> bool {
        let only = |leaf: &Leaf| {
            let mut fields = self.fields(leaf.spot);
            fields.next().filter(|_| fields.next().is_none()).map(|field| self.key(field))
        };
        let keys: Option<Vec<&str>> = by_key.values().flatten().map(only).collect();
        let Some(keys) = keys else { return false };
        let distinct: HashSet<&str> = keys.iter().copied().collect();
        by_key.len() > 2
            && distinct.len() > 1
            && distinct.len() <= by_key.len()
            && distinct.len() * 3 <= keys.len()
    }
}

/// Keys that share a first word and are else of their own, by that word with what separates it.
fn behind_words(by_key: &BTreeMap<String, Vec<Spot>>) -> BTreeMap<String, Vec<String>> {
    let mut by_word: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for key in by_key.keys() {
        if let Some(at) = key.find([' ', ':'])
            && key.len() > at + 1
        {
            // Names may stand between quotation marks.
            let is_quoted = key[at + 1..].starts_with('"') && key.ends_with('"');
            by_word.entry(key[..=at + usize::from(is_quoted)].to_owned()).or_default().push(key.clone());
        }
    }
    // One alone is a name that has such a sign.
    by_word.retain(|word, keys| keys.len() > 1 || word.ends_with([' ', '"']));
    by_word
}

/// A key without the word behind one of some.
pub(super) fn without_slot<'k>(key: &'k str, words: &BTreeSet<String>) -> &'k str {
    let before = key.rsplit_once('.').map(|(before, _)| before).filter(|_| !words.is_empty());
    let has_word = |before: &&str| before.rsplit_once('.').is_some_and(|(_, word)| words.contains(word));
    before.filter(has_word).unwrap_or(key)
}

/// What stands before the number that a key ends with.
pub(super) fn without_number(key: &str) -> &str {
    key.trim_end_matches(|digit: char| digit.is_ascii_digit())
}

/// Whether keys are one word with a number behind each, or numbers alone.
fn are_numbered<'k>(mut keys: impl Iterator<Item = &'k String>) -> bool {
    let Some(first) = keys.next() else { return false };
    let is_one = |key: &'k String| {
        without_number(key) == without_number(first) && without_number(key).len() < key.len()
    };
    let mut rest = keys.peekable();
    is_one(first) && rest.peek().is_some() && rest.all(is_one)
}

/// A key as a step of a path.
pub(super) fn step(key: &str) -> String {
    let mut letters = key.chars();
    let is_plain = letters.next().is_some_and(|first| first.is_ascii_alphabetic() || first == '_')
        && letters.all(|letter| letter.is_ascii_alphanumeric() || letter == '_');
    if is_plain { format!(".{key}") } else { format!("[{}]", quoted(key)) }
}

/// A text in quotes, as paths have it.
pub(super) fn quoted(text: &str) -> String {
    format!("'{}'", text.replace('\\', "\\\\").replace('\'', "\\'"))
}
