//! Elements of lists: whether they are items or groups of items, of which sorts they are, and what their ids may be.

use super::lines::text;
use super::shape::{Collection, IdFrom, Looking, Place, SAMPLE, Spot, quoted, step};
use super::study::is_type;
use crate::syntax::{NodeId, NodeKind, Tree};
use foldhash::{HashMap, HashSet};
use std::cmp::Reverse;
use std::collections::BTreeMap;
use std::hash::Hash;

/// Fields that are tried in twos at most.
const JOINED: usize = 6;
/// Sorts of items in one list.
const SORTS: usize = 8;
/// Items that a group holds at least, on average.
pub(super) const GROUPED: usize = 4;

/// One of several sorts of items at one path.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Sort {
    /// The field that tells it.
    field: String,
    /// What stands there; `None`: no other sort has it.
    word: Option<String>,
}

impl Sort {
    /// As a filter of a path.
    pub(super) fn filter(&self) -> String {
        let word = self.word.as_ref().map_or_else(String::new, |word| format!(" == {}", quoted(word)));
        format!("@{}{word}", step(&self.field))
    }

    /// As a field that items must have: what stands there, or in a map there that all of these have.
    pub(super) fn condition(&self, of: &Collection) -> String {
        let path = format!("${}", step(&self.field));
        let is_below =
            |field: &str| field.strip_prefix(&path).is_some_and(|rest| rest.starts_with(['.', '[']));
        let of_all = of.fields.iter().filter(|(field, leaves)| {
            is_below(field) && !field.contains('*') && leaves.len() == of.items.len()
        });
        let below = of_all.map(|(field, _)| field).min_by_key(|field| field.len());
        let path = text(if of.fields.contains_key(&path) { &path } else { below.unwrap_or(&path) });
        match &self.word {
            Some(word) => {
                format!("{{ from = {path}, match = {} }}", text(&format!("^{}$", regex::escape(word))))
            }
            None => path,
        }
    }
}

/// The fields of maps: the key in the map, and that in a map below it.
struct FieldNames<'k> {
    /// Those that most have.
    usual: HashSet<(&'k str, &'k str)>,
    all: HashSet<(&'k str, &'k str)>,
}

/// The text of a value, or of the one element that it is.
pub(super) fn text_in<'t>(tree: &'t Tree<'_>, value: NodeId) -> Option<&'t str> {
    if matches!(tree.kind(value), NodeKind::Text | NodeKind::Integer) {
        return Some(tree.text(value));
    }
    let mut elements = (tree.kind(value) == NodeKind::List).then(|| tree.children(value))?;
    let only = elements.next().filter(|_| elements.next().is_none())?;
    (tree.kind(only) == NodeKind::Map).then(|| tree.field(only, "#text").map(|text| tree.text(text)))?
}

/// Whether hardly any of some values is there twice.
pub(super) fn are_unique<T: Eq + Hash>(values: &[T]) -> bool {
    values.iter().collect::<HashSet<_>>().len() * 100 >= values.len() * 95
}

impl Looking<'_, '_> {
    /// Whether maps hold many more maps with ids of their own: they are groups of items, and none themselves. These may stand in
    /// one more map each.
    pub(super) fn are_groups(&self, maps: &[Spot]) -> bool {
        let is_own = |items: &[Spot], id: &IdFrom| match id {
            IdFrom::Field(name) => {
                let texts = items.iter().filter_map(|&item| self.text_of(item, name));
                texts.collect::<HashSet<_>>().len() * 100 >= items.len() * 95
            }
            _ => false,
        };
        let are_items = |items: &[Spot]| {
            items.len() >= maps.len() * GROUPED
                && items.len() > GROUPED
                && self.id_fields(items).iter().any(|id| is_own(items, id))
        };
        self.maps_inside(maps).values().any(|inside| {
            let is_wrapper = inside.len() <= maps.len() && inside.len() > 1;
            are_items(inside) || is_wrapper && self.maps_inside(inside).values().any(|items| are_items(items))
        })
    }

    /// By key the maps in the lists of some maps.
    fn maps_inside(&self, maps: &[Spot]) -> BTreeMap<&str, Vec<Spot>> {
        let mut inside: BTreeMap<&str, Vec<Spot>> = BTreeMap::new();
        for field in maps.iter().flat_map(|&map| self.fields(map)) {
            let elements = self.elements(field).filter(|&element| self.kind(element) == NodeKind::Map);
            inside.entry(self.key(field)).or_default().extend(elements);
        }
        inside
    }

    /// Sorts of elements, with what tells them apart: a field of few words that says it, or the field that they begin with.
    pub(super) fn sorts(&self, maps: &[Spot]) -> Option<Vec<(Sort, Vec<Spot>)>> {
        if let Some(sorts) = self.sorts_by_word(maps) {
            return Some(sorts);
        }
        let mut by_first: BTreeMap<&str, Vec<Spot>> = BTreeMap::new();
        for &map in maps {
            let first = self.fields(map).next().map_or("", |field| self.key(field));
            by_first.entry(first).or_default().push(map);
        }
        // No other sort has the field that one begins with.
        let is_alone = |first: &str| {
            !first.is_empty()
                && maps.iter().filter(|&&map| self.fields(map).any(|field| self.key(field) == first)).count()
                    == by_first[first].len()
        };
        let may_be =
            by_first.len() > 1 && by_first.len() <= SORTS && by_first.keys().all(|first| is_alone(first));
        let sort = |field: &str| Sort { field: field.to_owned(), word: None };
        if may_be {
            return Some(by_first.into_iter().map(|(first, maps)| (sort(first), maps)).collect());
        }
        let [typed, other] = self.instead_of_types(maps)?;
        let with = |field: &str| -> Vec<Spot> {
            maps.iter().copied().filter(|&map| self.tree(map).field(map.node, field).is_some()).collect()
        };
        Some([typed, other].map(|field| (sort(field), with(field))).into())
    }

    /// The field with types that some maps have, and the one that all others have in its place.
    fn instead_of_types(&self, maps: &[Spot]) -> Option<[&str; 2]> {
        let mut having: BTreeMap<&str, HashSet<usize>> = BTreeMap::new();
        for (number, &map) in maps.iter().enumerate() {
            let plain = self.fields(map).filter(|field| self.tree(*field).is_plain(field.node));
            plain.for_each(|field| _ = having.entry(self.key(field)).or_default().insert(number));
        }
        let has_types = |(key, having): &(&&str, &HashSet<usize>)| {
            having.len() < maps.len()
                && having.iter().all(|&map| self.text_of(maps[map], key).is_some_and(is_type))
        };
        let (typed, with) = having.iter().find(has_types)?;
        let fits = |(_, other): &(&&str, &HashSet<usize>)| {
            with.len() + other.len() == maps.len() && other.len() > 1 && with.is_disjoint(other)
        };
        having.iter().find(fits).map(|(other, _)| [*typed, *other])
    }

    fn sorts_by_word(&self, maps: &[Spot]) -> Option<Vec<(Sort, Vec<Spot>)>> {
        let by_key = self.by_key(maps);
        let of_all = by_key.iter().filter(|(_, values)| values.len() == maps.len());
        for (key, values) in of_all {
            let mut by_word: BTreeMap<&str, Vec<Spot>> = BTreeMap::new();
            for (&value, &map) in values.iter().zip(maps) {
                if self.kind(value) != NodeKind::Text || by_word.len() > SORTS {
                    break;
                }
                by_word.entry(self.text(value)).or_default().push(map);
            }
            let counted: usize = by_word.values().map(Vec::len).sum();
            if counted < maps.len()
                || by_word.len() < 2
                || by_word.len() > SORTS
                || by_word.len() * 2 > maps.len()
            {
                continue;
            }
            // Sorts have fields of their own; a mere attribute tells nothing apart.
            let all: Vec<FieldNames<'_>> = by_word.values().map(|maps| self.field_names(maps)).collect();
            let own = |(number, one): &(usize, &FieldNames<'_>)| {
                let mut others = all.iter().enumerate().filter(|(other, _)| other != number);
                others.all(|(_, other)| one.usual.difference(&other.all).next().is_some())
            };
            let distinct = all
                .iter()
                .enumerate()
                .all(|(at, one)| all[..at].iter().all(|other| other.usual != one.usual));
            if distinct && all.iter().enumerate().filter(own).count() + 1 >= all.len() {
                let sort = |word: &str| Sort { field: key.clone(), word: Some(word.to_owned()) };
                return Some(by_word.into_iter().map(|(word, maps)| (sort(word), maps)).collect());
            }
        }
        None
    }

    /// The fields of the first maps, and those of maps in them behind the field that these are.
    fn field_names(&self, maps: &[Spot]) -> FieldNames<'_> {
        let sample = &maps[..maps.len().min(SAMPLE)];
        let mut counts: HashMap<(&str, &str), usize> = HashMap::default();
        for field in sample.iter().flat_map(|&map| self.fields(map)) {
            *counts.entry((self.key(field), "")).or_default() += 1;
            for inner in self.fields(field) {
                *counts.entry((self.key(field), self.key(inner))).or_default() += 1;
            }
        }
        let usual = counts.iter().filter(|(_, count)| **count * 2 >= sample.len());
        FieldNames { usual: usual.map(|(names, _)| *names).collect(), all: counts.into_keys().collect() }
    }

    /// Plain fields that nearly all maps have, each with another text: those that are asked for most first. Then what two of
    /// them make together, and fields that are unique in each file.
    pub(super) fn id_fields(&self, maps: &[Spot]) -> Vec<IdFrom> {
        let mut order: Vec<&str> = Vec::new();
        // With the path of the file: several documents may stand in one.
        let mut texts: HashMap<&str, Vec<(&str, &str)>> = HashMap::default();
        for field in maps.iter().flat_map(|&map| self.fields(map)) {
            let Some(text) = text_in(self.tree(field), field.node) else { continue };
            let known = texts.entry(self.key(field)).or_insert_with(|| {
                order.push(self.key(field));
                Vec::new()
            });
            known.push((self.family.documents[field.file].path, text));
        }
        let may_be = |name: &&str| {
            let all = &texts[name];
            let is_name =
                |text: &str| !text.is_empty() && text.len() < 200 && !text.contains(char::is_whitespace);
            all.len() * 10 >= maps.len() * 9
                && all.iter().filter(|(_, text)| is_name(text)).count() * 10 >= all.len() * 9
        };
        order.retain(may_be);
        let texts_of = |name: &str| texts[name].iter().map(|(_, text)| *text).collect::<Vec<&str>>();
        let is_unique = |name: &&str| are_unique(&texts_of(name));
        let (mut unique, rest): (Vec<&str>, Vec<&str>) = order.iter().copied().partition(is_unique);
        unique.sort_by_cached_key(|name| Reverse(self.used_elsewhere(&texts_of(name))));
        let in_file = |name: &&str| are_unique(&texts[*name]);
        // Of few in each file it says nothing.
        let files = maps.iter().map(|map| map.file).collect::<HashSet<usize>>().len();
        let rest = if files > 1 && maps.len() >= files * 2 { rest } else { Vec::new() };
        let own = |name: &&str| Place { outer: None, name: (*name).to_owned() };
        let places: Vec<Place> = order.iter().map(own).collect();
        let joined = self.joined_fields(maps, &places[..places.len().min(JOINED)]);
        let fields = unique.into_iter().chain(rest.into_iter().filter(in_file));
        let ids: Vec<IdFrom> = fields.map(|name| IdFrom::Field(name.to_owned())).chain(joined).collect();
        if ids.is_empty() { self.fields_below(maps, &places) } else { ids }
    }

    /// Plain fields, each with another text, of a map that nearly all of some maps have under one key: those that are
    /// asked for most first, types last. Then what two of such fields, or of those in the maps themselves, make together.
    fn fields_below(&self, maps: &[Spot], own: &[Place]) -> Vec<IdFrom> {
        let mut texts: BTreeMap<(&str, &str), Vec<&str>> = BTreeMap::new();
        for field in maps.iter().flat_map(|&map| self.fields(map)) {
            for inner in self.fields(field).filter(|&inner| self.kind(inner) == NodeKind::Text) {
                texts.entry((self.key(field), self.key(inner))).or_default().push(self.text(inner));
            }
        }
        let is_name = |text: &&str| !text.is_empty() && !text.contains(char::is_whitespace);
        texts.retain(|_, texts| texts.len() * 10 >= maps.len() * 9 && texts.iter().all(is_name));
        let below =
            |(outer, name): (&str, &str)| Place { outer: Some(outer.to_owned()), name: name.to_owned() };
        let places: Vec<Place> = texts.keys().map(|keys| below(*keys)).chain(own.iter().cloned()).collect();
        let joined = self.joined_fields(maps, &places[..places.len().min(JOINED)]);
        texts.retain(|_, texts| are_unique(texts));
        let mut below: Vec<_> = texts.into_iter().collect();
        below.sort_by_cached_key(|(_, texts)| {
            (texts.iter().all(|text| is_type(text)), Reverse(self.used_elsewhere(texts)))
        });
        let ids =
            below.into_iter().map(|((outer, inner), _)| IdFrom::Below(outer.to_owned(), inner.to_owned()));
        ids.chain(joined).collect()
    }

    /// How many different texts stand elsewhere too.
    fn used_elsewhere(&self, texts: &[&str]) -> usize {
        let distinct: HashSet<&str> = texts.iter().copied().collect();
        distinct.into_iter().filter(|text| self.names.is_used_elsewhere(text)).count()
    }

    fn text_of(&self, map: Spot, name: &str) -> Option<&str> {
        text_in(self.tree(map), self.tree(map).field(map.node, name)?)
    }

    fn text_at(&self, map: Spot, place: &Place) -> Option<&str> {
        let Some(outer) = &place.outer else { return self.text_of(map, &place.name) };
        let tree = self.tree(map);
        text_in(tree, tree.field(tree.field(map.node, outer)?, &place.name)?)
    }

    /// Two fields that make names which are asked for.
    fn joined_fields(&self, maps: &[Spot], places: &[Place]) -> Option<IdFrom> {
        let sample = &maps[..maps.len().min(SAMPLE)];
        // What all say alike is their sort, and no part of a name.
        let differs = |place: &&Place| {
            let mut texts = sample.iter().map(|&map| self.text_at(map, place));
            let first = texts.next();
            first.is_some_and(|first| texts.any(|text| text != first))
        };
        let places: Vec<&Place> = places.iter().filter(differs).collect();
        let mut best: Option<(usize, IdFrom)> = None;
        for &first in &places {
            for &second in places.iter().filter(|second| **second != first) {
                for between in [".", "/", ":", "-", "_"] {
                    let joined = sample.iter().filter_map(|&map| {
                        Some(format!("{}{between}{}", self.text_at(map, first)?, self.text_at(map, second)?))
                    });
                    let asked = joined.filter(|name| self.names.is_used(name)).count();
                    if asked > best.as_ref().map_or(1, |(most, _)| *most) {
                        best = Some((asked, IdFrom::Joined(first.clone(), second.clone(), between)));
                    }
                }
            }
        }
        best.map(|(_, id)| id)
    }
}
