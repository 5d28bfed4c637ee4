//! Which values name which items, and which names that are no ids are offered here and asked for there.

use super::likeness::Likeness;
use super::module::{Modules, Own};
use super::pattern::{Pattern, find};
use super::roles::type_field;
use super::shape::without_number;
use super::study::{At, Field, SEPARATORS, Study, Value, ends_in_capital};
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::cmp::Ordering;
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
    /// How many of those are written as the names are that stand in others with nothing around them.
    pub(super) missed_bare: usize,
}

impl Hits {
    /// What names stand there with nothing around them.
    fn bare(&self) -> impl Iterator<Item = Target> + '_ {
        self.found.keys().filter(|(pattern, _)| pattern.is_bare()).map(|(_, target)| *target)
    }

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

impl Offer {
    /// What its names are needed as.
    pub(super) fn group(&self) -> &'static str {
        if self.is_tag { "tag" } else { "contract" }
    }
}

pub(super) struct Links<'s> {
    /// By field.
    pub(super) hits: Vec<Hits>,
    /// By the number of the field that offers.
    pub(super) offers: BTreeMap<usize, Offer>,
    /// By name that is offered the number of the first field that does.
    pub(super) offered: HashMap<&'s str, usize>,
    /// By what names stand somewhere what all such names have in common.
    alike: HashMap<Target, Likeness>,
}

impl Links<'_> {
    /// What names have in common that stand in a field with nothing around them, of those that count; `None`: there are none.
    pub(super) fn likeness(&self, number: usize, of: impl Fn(Target) -> bool) -> Option<Likeness> {
        let found = self.hits[number].bare().filter(|target| of(*target));
        found.filter_map(|target| self.alike(target)).reduce(Likeness::and)
    }

    /// What all names of a sort have in common, if some of them stand somewhere.
    pub(super) fn alike(&self, target: Target) -> Option<Likeness> {
        self.alike.get(&target).copied()
    }

    /// Whether some values of a field might be names, with nothing around them, but for how these names are written.
    pub(super) fn has_plain_beside(&self, field: &Field<'_>, number: usize, likeness: Likeness) -> bool {
        let bare = Pattern::bare();
        let mut missed = self.hits[number].missed.iter().map(|&value| field.values[value].text);
        missed.any(|text| bare.fits(text) && !likeness.fits(text))
    }
}

/// Most fields that offer one name, for it to say anything.
const FIELDS: usize = 12;

pub(super) fn links<'s>(study: &Study<'s, '_>, modules: &Modules) -> Links<'s> {
    let own = Own::new(study, modules);
    let mut hits: Vec<Hits> =
        (0..study.fields.len()).into_par_iter().map(|field| ids_in(&own, field)).collect();
    let offers = offers(study, &hits);
    let mut known: HashMap<&'s str, usize> = HashMap::default();
    for &field in offers.keys() {
        for value in &study.fields[field].values {
            known.entry(value.text).or_insert(field);
        }
    }
    if !known.is_empty() {
        let asking = hits.par_iter_mut().enumerate().filter(|(number, _)| !offers.contains_key(number));
        asking.for_each(|(number, hits)| {
            let field = &study.fields[number];
            if !may_name(field, &hits.missed, |name| known.contains_key(name)) {
                return;
            }
            let missed = std::mem::take(&mut hits.missed);
            for value in missed {
                match find(field.values[value].text, |name| known.get(name).copied()) {
                    Some((pattern, _, of)) => {
                        *hits.found.entry((pattern, Target::Offered(of))).or_default() += 1;
                    }
                    None => hits.missed.push(value),
                }
            }
        });
    }
    let targets: HashSet<Target> =
        hits.iter().flat_map(|hits| hits.found.keys().map(|(_, target)| *target)).collect();
    let alike = targets.into_par_iter().map(|target| (target, names_alike(study, target))).collect();
    let mut links = Links { hits, offers, offered: known, alike };
    let bare = Pattern::bare();
    let missed = (0..links.hits.len()).into_par_iter().map(|number| {
        let (values, missed) = (&study.fields[number].values, &links.hits[number].missed);
        let likeness = links.likeness(number, |_| true);
        let may_be = |text: &str| bare.fits(text) && likeness.is_none_or(|likeness| likeness.fits(text));
        missed.iter().filter(|&&value| may_be(values[value].text)).count()
    });
    let missed: Vec<usize> = missed.collect();
    links.hits.iter_mut().zip(missed).for_each(|(hits, missed)| hits.missed_bare = missed);
    links
}

/// What the names of a sort have in common.
fn names_alike(study: &Study<'_, '_>, target: Target) -> Likeness {
    match target {
        Target::Id(at) => {
            let ids = study.ids_of(at).iter().map(String::as_str);
            Likeness::of(ids.filter(|id| !id.is_empty()))
        }
        Target::Offered(field) => Likeness::of(study.fields[field].values.iter().map(|value| value.text)),
    }
}

/// Values of a field that are looked at for whether there are names in any.
const LOOKED_AT: usize = 2_000;

/// Whether any of so many values, from all over the field, has a name that is known: prose of many items has none.
fn may_name(field: &Field<'_>, values: &[usize], known: impl Fn(&str) -> bool) -> bool {
    may_name_in(field, values, |_, name| known(name))
}

/// The same, where it matters which value a name stands in.
fn may_name_in(field: &Field<'_>, values: &[usize], known: impl Fn(&Value<'_>, &str) -> bool) -> bool {
    let step = values.len() / LOOKED_AT + 1;
    let mut sample = values.iter().step_by(step).map(|&value| &field.values[value]);
    sample.any(|value| find(value.text, |name| known(value, name).then_some(())).is_some())
}

/// Ids in the values of a field; an item's own id is none.
fn ids_in(own_module: &Own<'_, '_, '_>, number: usize) -> Hits {
    let study = own_module.study;
    let field = &study.fields[number];
    let ids = field.of.map(|of| study.ids_of((field.family, of)));
    let mut hits = Hits { missed: (0..field.values.len()).collect(), ..Hits::default() };
    let is_short = |value: &Value<'_>, name: &str| own_module.find((field, value), name).is_some();
    let has_ids = may_name(field, &hits.missed, |name| study.ids.contains_key(name));
    let has_short = may_name_in(field, &hits.missed, is_short);
    if !has_ids && !has_short {
        return hits;
    }
    hits.missed.clear();
    let mut shorts: BTreeMap<(Pattern, Target), Vec<(usize, &str)>> = BTreeMap::new();
    for (at, value) in field.values.iter().enumerate() {
        let own = ids.map(|ids| ids[value.item].as_str());
        let known = |name: &str| study.ids.get(name).copied().filter(|_| own != Some(name));
        let short = |name: &str| {
            let (_, at, between) =
                own_module.find((field, value), name).filter(|(id, ..)| own != Some(id))?;
            Some((at, between))
        };
        if let Some((pattern, _, of)) = find(value.text, known) {
            *hits.found.entry((pattern, Target::Id(of))).or_default() += 1;
        } else if own == Some(value.text) {
        } else if let Some((pattern, name, of)) = has_short.then(|| find_short(value.text, short)).flatten() {
            shorts.entry((pattern, Target::Id(of))).or_default().push((at, name));
        } else {
            hits.missed.push(at);
        }
    }
    for (written, found) in shorts {
        // One name again and again is a word.
        if found.len() > 2 && found.iter().all(|(_, name)| *name == found[0].1) {
            hits.missed.extend(found.iter().map(|(at, _)| *at));
        } else {
            hits.found.insert(written, found.len());
        }
    }
    hits.missed.sort_unstable();
    hits
}

/// A name that leaves its module out, with what stands around it: nothing, or what is no part of a longer name.
fn find_short(text: &str, short: impl Fn(&str) -> Option<(At, &'static str)>) -> Option<(Pattern, &str, At)> {
    let (pattern, name, (of, between)) = find(text, short)?;
    pattern.is_around_all().then(|| (pattern.of_own_module(between), name, of))
}

/// The last name in a path.
pub(super) fn last_name(path: &str) -> &str {
    path.trim_end_matches("[*]")
        .trim_end_matches(".*")
        .rsplit(['.', '['])
        .next()
        .unwrap_or(path)
        .trim_matches(['\'', ']'])
}

/// The path of what a field stands in; `None`: it is what stands there itself.
pub(super) fn parent(path: &str) -> Option<&str> {
    let at = if path.ends_with("']") { path.rfind("['")? } else { path.rfind('.')? };
    (!path.ends_with(['*', ']']) || path.ends_with("']")).then_some(&path[..at])
}

/// Whether a field says of which module its items are: all of a file say the same, or most say what their ids begin with.
fn is_module(study: &Study<'_, '_>, field: &Field<'_>) -> bool {
    let has_each = field
        .of
        .is_some_and(|of| field.values.len() * 10 >= study.collection((field.family, of)).items.len() * 9);
    if has_each && study.is_of_files(field) {
        return true;
    }
    let Some(ids) = field.of.map(|of| study.ids_of((field.family, of))) else { return false };
    let begins = |value: &&Value<'_>| {
        let rest = ids[value.item].strip_prefix(value.text);
        rest.is_some_and(|rest| rest.starts_with(SEPARATORS) || rest.starts_with(['-', '_']))
    };
    field.values.iter().filter(begins).count() * 2 > field.values.len()
}

/// Whether no item has both of two fields.
fn are_apart(one: &Field<'_>, other: &Field<'_>) -> bool {
    let items: HashSet<usize> = one.values.iter().map(|value| value.item).collect();
    !other.values.iter().any(|value| items.contains(&value.item))
}

/// Fields whose names, which are no ids, are asked for by other fields.
fn offers<'s>(study: &Study<'s, '_>, hits: &[Hits]) -> BTreeMap<usize, Offer> {
    let may_offer = |number: usize| {
        let field = &study.fields[number];
        let is_id = field
            .of
            .is_some_and(|of| study.id_paths((field.family, of)).iter().any(|path| path == field.path));
        // What asks for ids offers nothing, nor does what stands in the place of what does in most places.
        let asks_in = |number: usize, part: usize| {
            hits[number].count(|_, _| true) * part > study.fields[number].values.len()
        };
        let asks = |number: usize| asks_in(number, 2);
        let beside = parent(field.path).filter(|parent| *parent != "$").is_some_and(|above| {
            let others = field.of.map(|of| study.fields_of((field.family, of))).unwrap_or_default();
            others.into_iter().any(|other| {
                let other_field = &study.fields[other];
                let is_instead = above.contains('*') || are_apart(field, other_field);
                parent(other_field.path) == Some(above) && asks(other) && is_instead
            })
        });
        // Of fields with numbers all say the same sort of thing.
        let stem = without_number(last_name(field.path));
        let is_numbered = stem.len() < last_name(field.path).len();
        let one_asks = |of: usize| {
            let mut others = study.fields_of((field.family, of));
            others.any(|other| without_number(last_name(study.fields[other].path)) == stem && asks(other))
        };
        let beside = beside || is_numbered && field.of.is_some_and(one_asks);
        let is_type = field.of.is_some_and(|of| type_field(study, (field.family, of)) == Some(number));
        let has_names = !hits[number].missed.is_empty() && !is_type && !is_module(study, field);
        field.of.is_some() && !is_id && !asks_in(number, 5) && !beside && has_names
    };
    let mut holders: HashMap<&'s str, Vec<usize>> = HashMap::default();
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
    let mut shared: BTreeMap<(usize, usize), BTreeSet<&'s str>> = BTreeMap::new();
    for (number, field) in study.fields.iter().enumerate() {
        if !may_name(field, &hits[number].missed, |name| holders.contains_key(name)) {
            continue;
        }
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
    let mut offers: BTreeMap<usize, BTreeSet<&'s str>> = BTreeMap::new();
    for (&(asking, of), names) in &shared {
        let (one, other) = (&study.fields[asking], &study.fields[of]);
        let capitals = names.iter().filter(|name| ends_in_capital(name)).count();
        // The same words under the same name are words; names of types are no words.
        if last_name(one.path) == last_name(other.path) && capitals * 2 < names.len() {
            continue;
        }
        let asks_ids = hits[asking].count(|_, _| true);
        let is_much = names.len() > 1 || asks_ids > 0 || capitals > 0;
        // What is asked for by many is offered by few.
        let back = shared.contains_key(&(of, asking));
        let is_type = capitals * 2 >= names.len();
        let is_right_way = !back || offers_rather(study, hits, (asking, of), is_type);
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
    // Words of which hardly any stands elsewhere are no tags.
    let is_told = |(_, offer): &(usize, Offer)| !offer.is_tag || offer.asked.0 * 3 >= offer.asked.1;
    first_offers(study, offers).into_iter().map(offer).filter(is_told).collect()
}

/// Whether of two fields with names in common, the first of which may ask and the second offer, it is so and not the other way
/// round. Whether the names are those of types is said.
fn offers_rather(study: &Study<'_, '_>, hits: &[Hits], (asking, of): (usize, usize), is_type: bool) -> bool {
    let per_value = |number: usize| {
        let field = &study.fields[number];
        let distinct: HashSet<&str> = field.values.iter().map(|value| value.text).collect();
        field.values.len() as f64 / distinct.len().max(1) as f64
    };
    // What types are bound to.
    let are_bound = |number: usize| {
        let field = &study.fields[number];
        let path = field.of.and_then(|of| study.contracts_path((field.family, of)));
        path.is_some_and(|path| path == field.path)
    };
    let asked = |number: usize| hits[number].count(|_, _| true);
    match (are_bound(of), are_bound(asking)) {
        (true, false) => true,
        (false, true) => false,
        _ if asked(asking) != asked(of) => asked(asking) > asked(of),
        _ => {
            let (there, here) = (per_value(of), per_value(asking));
            let are_alike = is_type && there.max(here) < 1.5 * there.min(here);
            // What several are in one item is asked for rather than offered.
            let several = |number: usize| {
                let values = &study.fields[number].values;
                values.windows(2).filter(|two| two[0].item == two[1].item).count()
            };
            match several(asking).cmp(&several(of)) {
                Ordering::Greater if are_alike => true,
                Ordering::Less if are_alike => false,
                _ if are_alike => rank(study, of) <= rank(study, asking),
                _ => there <= here,
            }
        }
    }
}

/// Of fields with the same names the one that offers them comes first: it stands less deep, has each less often, and has
/// more of them.
fn rank(study: &Study<'_, '_>, number: usize) -> (usize, usize, std::cmp::Reverse<usize>) {
    let field = &study.fields[number];
    let distinct: HashSet<&str> = field.values.iter().map(|value| value.text).collect();
    let depth = field.path.matches(['.', '\'']).count();
    (depth, 2 * field.values.len() / distinct.len().max(1), std::cmp::Reverse(distinct.len()))
}

/// Without fields that offer hardly anything but what another does of which more is asked for: those ask.
fn first_offers<'s>(
    study: &Study<'s, '_>,
    offers: BTreeMap<usize, BTreeSet<&'s str>>,
) -> BTreeMap<usize, BTreeSet<&'s str>> {
    let mut ordered: Vec<(usize, BTreeSet<&str>)> = offers.into_iter().collect();
    ordered.sort_by_key(|(field, _)| rank(study, *field));
    let mut known: HashSet<&str> = HashSet::default();
    let mut first = BTreeMap::new();
    for (field, names) in ordered {
        let new = names.iter().filter(|name| !known.contains(**name)).count();
        if new * 2 >= names.len() {
            known.extend(&names);
            first.insert(field, names);
        }
    }
    first
}
