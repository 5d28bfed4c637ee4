//! Which values name which items, and which names that are no ids are offered here and asked for there.

use super::pattern::{Pattern, find};
use super::study::{At, Study, ends_in_capital};
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

/// What a name in a value is.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub(super) enum Target {
    /// An id of a collection.
    Id(At),
    /// A name that items of a field, by its number, offer or carry.
    Offered(usize),
}

/// What was found in the values of a field.
#[derive(Default, Debug)]
pub(super) struct Hits {
    /// By what stands around a name and what it is how many values have it.
    pub(super) found: BTreeMap<(Pattern, Target), usize>,
    /// The numbers of values in which nothing was found.
    pub(super) missed: Vec<usize>,
}

impl Hits {
    /// How many values have a name of some sort, written in some way.
    pub(super) fn count(&self, mut of: impl FnMut(&Pattern, Target) -> bool) -> usize {
        self.found.iter().filter(|((pattern, target), _)| of(pattern, *target)).map(|(_, count)| count).sum()
    }
}

/// What a field offers that others ask for.
#[derive(Clone, Debug)]
pub(super) struct Offer {
    /// Whether all that carry a name are asked for, and not one of them.
    pub(super) is_tag: bool,
    /// How many of its names are asked for, of how many.
    pub(super) asked: (usize, usize),
}

pub(super) struct Links {
    /// By field.
    pub(super) hits: Vec<Hits>,
    /// By the number of the field that offers.
    pub(super) offers: BTreeMap<usize, Offer>,
}

/// Most fields that offer one name, for it to say anything.
const FIELDS: usize = 12;

pub(super) fn links(study: &Study<'_, '_>) -> Links {
    let mut hits: Vec<Hits> =
        (0..study.fields.len()).into_par_iter().map(|field| ids_in(study, field)).collect();
    let offers = offers(study, &hits);
    let mut known: HashMap<&str, usize> = HashMap::default();
    for &field in offers.keys() {
        for value in &study.fields[field].values {
            known.entry(value.text).or_insert(field);
        }
    }
    if !known.is_empty() {
        for (number, hits) in hits.iter_mut().enumerate().filter(|(number, _)| !offers.contains_key(number)) {
            let field = &study.fields[number];
            let missed = std::mem::take(&mut hits.missed);
            for value in missed {
                match find(field.values[value].text, |name| known.get(name).copied()) {
                    Some((pattern, _, of)) => {
                        *hits.found.entry((pattern, Target::Offered(of))).or_default() += 1;
                    }
                    None => hits.missed.push(value),
                }
            }
        }
    }
    Links { hits, offers }
}

/// Ids in the values of a field; an item's own id is none.
fn ids_in(study: &Study<'_, '_>, number: usize) -> Hits {
    let field = &study.fields[number];
    let ids = field.of.map(|of| study.ids_of((field.family, of)));
    let mut hits = Hits::default();
    for (at, value) in field.values.iter().enumerate() {
        let own = ids.map(|ids| ids[value.item].as_str());
        let known = |name: &str| study.ids.get(name).copied().filter(|_| own != Some(name));
        match find(value.text, known) {
            Some((pattern, _, of)) => *hits.found.entry((pattern, Target::Id(of))).or_default() += 1,
            None if own == Some(value.text) => {}
            None => hits.missed.push(at),
        }
    }
    hits
}

/// The last name in a path.
fn last_name(path: &str) -> &str {
    path.trim_end_matches("[*]").trim_end_matches(".*").rsplit(['.', '[']).next().unwrap_or(path)
}

/// Fields whose names, which are no ids, are asked for by other fields.
fn offers(study: &Study<'_, '_>, hits: &[Hits]) -> BTreeMap<usize, Offer> {
    let may_offer = |number: usize| {
        let field = &study.fields[number];
        let is_id = field
            .of
            .is_some_and(|of| study.id_paths((field.family, of)).iter().any(|path| path == field.path));
        field.of.is_some() && !is_id && !hits[number].missed.is_empty() && !super::roles::is_type_field(field)
    };
    let mut holders: HashMap<&str, Vec<usize>> = HashMap::default();
    for number in (0..study.fields.len()).filter(|&number| may_offer(number)) {
        let field = &study.fields[number];
        for &value in &hits[number].missed {
            let text = field.values[value].text;
            if text.len() > 120
                || text.contains(char::is_whitespace)
                || !text.contains(char::is_alphabetic)
                || matches!(text, "true" | "false")
            {
                continue;
            }
            let known = holders.entry(text).or_default();
            if known.last() != Some(&number) && known.len() <= FIELDS {
                known.push(number);
            }
        }
    }
    holders.retain(|_, fields| fields.len() <= FIELDS);
    // By field that asks and field that offers the names that they share, written how.
    let mut shared: BTreeMap<(usize, usize), BTreeSet<&str>> = BTreeMap::new();
    for (number, field) in study.fields.iter().enumerate() {
        for &value in &hits[number].missed {
            let text = field.values[value].text;
            let other = |name: &str| {
                let fields = holders.get_key_value(name)?;
                fields.1.iter().any(|&of| of != number).then_some(fields)
            };
            if let Some((_, _, (name, fields))) = find(text, other) {
                for &of in fields.iter().filter(|&&of| of != number) {
                    shared.entry((number, of)).or_default().insert(name);
                }
            }
        }
    }
    let per_value = |number: usize| {
        let field = &study.fields[number];
        let distinct: HashSet<&str> = field.values.iter().map(|value| value.text).collect();
        field.values.len() as f64 / distinct.len().max(1) as f64
    };
    let mut offers: BTreeMap<usize, BTreeSet<&str>> = BTreeMap::new();
    for (&(asking, of), names) in &shared {
        let (one, other) = (&study.fields[asking], &study.fields[of]);
        let capitals = names.iter().filter(|name| ends_in_capital(name)).count();
        // The same words under the same name are words; names of types are no words.
        if last_name(one.path) == last_name(other.path) && capitals * 2 < names.len() {
            continue;
        }
        let asks_ids = hits[asking].count(|_, _| true);
        let asks_ids_there = hits[of].count(|_, _| true);
        let is_much = names.len() > 1 || asks_ids > 0 || capitals > 0;
        // What is asked for by many is offered by few.
        let back = shared.contains_key(&(of, asking));
        let is_right_way = !back
            || asks_ids > asks_ids_there
            || asks_ids == asks_ids_there && per_value(of) <= per_value(asking);
        if is_much && is_right_way && (capitals * 2 >= names.len() || asks_ids > 0 || names.len() > 2) {
            offers.entry(of).or_default().extend(names);
        }
    }
    let offer = |(field, names): (usize, BTreeSet<&str>)| {
        let all: HashSet<&str> = study.fields[field].values.iter().map(|value| value.text).collect();
        let capitals = names.iter().filter(|name| ends_in_capital(name)).count();
        let is_tag = capitals * 2 < names.len();
        (field, Offer { is_tag, asked: (names.len(), all.len()) })
    };
    offers.into_iter().map(offer).collect()
}
