//! What ids are made of: what stands in a place as it is written, or what those who ask for it make of it.

use super::elements::{are_unique, text_in};
use super::families::Family;
use super::files::Document;
use super::module::{self, BETWEEN};
use super::names::{Names, words};
use super::pattern;
use super::shape::{Collection, IdFrom, Place, SAMPLE, Shape, Spot};
use super::study::{At, SEPARATORS, ends_in_capital, is_type, last_part};
use crate::custom::field::Case;
use crate::syntax::{NodeKind, Tree};
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::collections::BTreeMap;

/// The ids of a collection, and what is made of what stands there.
#[derive(Debug)]
pub(super) struct Made {
    pub(super) from: IdFrom,
    /// Only what stands behind the last separator counts.
    pub(super) last_part: bool,
    pub(super) case: Option<(&'static str, Case)>,
    /// The module stands before it, with this between.
    pub(super) with_module: Option<&'static str>,
    /// Nobody writes the module, and what stands between them could be anything.
    is_between_free: bool,
    /// By item.
    pub(super) ids: Vec<String>,
    /// Whether all that they can be is what others are called, and not each once, or one in each file: these are no items, they ask
    /// for some.
    pub(super) are_asking: bool,
    /// The field with the contracts that the types of items fulfil, where the ids are those types.
    pub(super) contracts: Option<String>,
}

impl Made {
    /// What stands in ids between the module, or the group, and what items are called in it; `None`: they are not called after any.
    pub(super) fn between(&self) -> Option<&'static str> {
        match self.from {
            IdFrom::InGroup(_, _, between) => Some(between),
            _ => self.with_module,
        }
    }

    /// Ids as they are written.
    fn as_written(from: IdFrom, ids: Vec<String>) -> Self {
        Self {
            from,
            last_part: false,
            case: None,
            with_module: None,
            is_between_free: false,
            ids,
            are_asking: false,
            contracts: None,
        }
    }
}

/// Files that say little.
const FILES: usize = 3;
/// Items that say little.
const FEW: usize = 10;
/// Collections that have one id, at most, for it to say anything.
const PLACES: usize = 8;
const CASES: [Option<(&str, Case)>; 5] = [
    None,
    Some(("kebab", Case::Kebab)),
    Some(("snake", Case::Snake)),
    Some(("first-lower", Case::FirstLower)),
    Some(("lower", Case::Lower)),
];

/// Makes the ids of all collections.
pub(super) fn made(families: &[Family<'_>], shapes: &[Shape], names: &Names<'_>) -> Vec<Vec<Made>> {
    // What is an id as it is written is none that another is made into.
    let written = families.par_iter().enumerate().zip(shapes).map(|((number, family), shape)| {
        let collections =
            shape.collections.iter().enumerate().filter(|(_, one)| !one.ids.is_empty() && !one.is_edges);
        let ids =
            collections.map(|(collection, of)| ((number, collection), family.written_ids(of, &of.ids[0])));
        ids.collect::<Vec<(At, Vec<String>)>>()
    });
    let mut taken: HashMap<String, Vec<At>> = HashMap::default();
    for (at, ids) in written.flatten().collect::<Vec<_>>() {
        for id in ids {
            let known = taken.entry(id).or_default();
            if known.last() != Some(&at) && known.len() < PLACES {
                known.push(at);
            }
        }
    }
    let sizes: Vec<Vec<usize>> =
        shapes.iter().map(|shape| shape.collections.iter().map(|one| one.items.len()).collect()).collect();
    let of_family = |(number, (family, shape)): (usize, (&Family<'_>, &Shape)), between| -> Vec<Made> {
        let modules = module::names_by_file(family, shape);
        let making = Making {
            family,
            modules: &modules,
            names,
            taken: &taken,
            sizes: &sizes,
            between_of_none: between,
        };
        let collections = shape.collections.iter().enumerate();
        let made = collections.map(|(collection, of)| making.made_of((number, collection), of)).collect();
        making.called_alike(shape, made)
    };
    let all = |between: &'static str| -> Vec<Vec<Made>> {
        families.par_iter().zip(shapes).enumerate().map(|of| of_family(of, between)).collect()
    };
    let made = all(BETWEEN_OF_NONE);
    match between_of_others(&made) {
        Some(between) if between != BETWEEN_OF_NONE => all(between),
        _ => made,
    }
}

/// What stands between modules and names where nobody says anything else.
const BETWEEN_OF_NONE: &str = ".";

/// Where some names are never written with their module, what stands between the two in most others.
fn between_of_others(made: &[Vec<Made>]) -> Option<&'static str> {
    let all = || made.iter().flatten();
    let mut counts: BTreeMap<&'static str, usize> = BTreeMap::new();
    for between in all().filter(|made| !made.is_between_free).filter_map(|made| made.with_module) {
        *counts.entry(between).or_default() += 1;
    }
    let most = counts.into_iter().max_by_key(|(_, count)| *count).map(|(between, _)| between);
    most.filter(|_| all().any(|made| made.is_between_free))
}

impl Family<'_> {
    /// What stands in a place in the items of a collection.
    fn written_ids(&self, collection: &Collection, from: &IdFrom) -> Vec<String> {
        collection.items.iter().map(|&item| written_id(&self.documents[item.file], from, item)).collect()
    }
}

/// What ids of a family are made with.
struct Making<'m, 't> {
    family: &'m Family<'t>,
    /// By way to say it the module of each file.
    modules: &'m [Vec<String>],
    names: &'m Names<'m>,
    /// Ids as they are written, with the collections that have them.
    taken: &'m HashMap<String, Vec<At>>,
    /// By family and collection how many items it has.
    sizes: &'m [Vec<usize>],
    /// What stands between a module and a name where nobody writes the two.
    between_of_none: &'static str,
}

impl Making<'_, '_> {
    /// The ids of a collection: as they are written in the likeliest place, if those are asked for; else what can be made of what
    /// stands in any place that is.
    fn made_of(&self, at: At, collection: &Collection) -> Made {
        if let (true, Some(from)) = (collection.is_edges, collection.ids.first()) {
            return Made::as_written(from.clone(), self.family.written_ids(collection, from));
        }
        let mut best: Option<(usize, Made)> = None;
        let (mut asking, mut contracts) = (None, None);
        let types = self.types_of(collection);
        for from in &collection.ids {
            let written = self.family.written_ids(collection, from);
            if let IdFrom::Field(name) = from
                && types.as_ref().is_some_and(|types| self.are_contracts(&written, types))
            {
                contracts.get_or_insert_with(|| name.clone());
                continue;
            }
            if self.are_references(at, &written) {
                asking.get_or_insert((from, written));
                continue;
            }
            let (asked, made) = self.made_from(collection, from, &written);
            let is_enough = asked * 10 >= made.ids.len().min(SAMPLE) * 8;
            // The likeliest stays, unless another is asked for much more and is another: a file may be called as what is in it.
            let is_better = |(most, known): &(usize, Made)| {
                // Who asks by both names asks by each; and what is written is likelier than what could be made of a type.
                let is_likelier = match from {
                    IdFrom::File => false,
                    IdFrom::Joined(one, other, _) if one.is(&known.from) || other.is(&known.from) => true,
                    _ => known.last_part && !made.last_part,
                };
                asked * 2 > *most * 3 && known.ids != made.ids || is_likelier && asked * 10 >= *most * 9
            };
            // What two fields make together may be meant all the same.
            let is_followed = made.last_part || matches!(collection.ids.last(), Some(IdFrom::Joined(..)));
            if best.as_ref().is_none_or(is_better) {
                best = Some((asked, made));
            }
            if is_enough && !is_followed {
                break;
            }
        }
        // Better such a name than none.
        let best = best.or_else(|| {
            let (from, written) = asking?;
            let (asked, made) = self.made_from(collection, from, &written);
            Some((asked, Made { are_asking: !are_unique(&written) || are_few_a_file(collection), ..made }))
        });
        best.map_or_else(
            || Made::as_written(IdFrom::Key, vec![String::new(); collection.items.len()]),
            |(_, made)| Made { contracts, ..made },
        )
    }

    /// Items that nobody asks for are called as others of the family are: by two fields, if they have both.
    fn called_alike(&self, shape: &Shape, mut made: Vec<Made>) -> Vec<Made> {
        let joined = made.iter().find_map(|made| match &made.from {
            IdFrom::Joined(_, _, between) => Some((made.from.clone(), *between)),
            _ => None,
        });
        let Some((from, between)) = joined else { return made };
        for (collection, made) in shape.collections.iter().zip(&mut made) {
            if matches!(made.from, IdFrom::Field(_)) && self.used(&made.ids) == 0 {
                let ids = self.family.written_ids(collection, &from);
                let are_whole = ids.iter().all(|id| !id.starts_with(between) && !id.ends_with(between));
                if are_whole && are_unique(&ids) {
                    *made = Made::as_written(from.clone(), ids);
                }
            }
        }
        made
    }

    /// The types of the first items, where one of the places that may have their ids has those; of several those that hardly
    /// anything asks for.
    fn types_of(&self, collection: &Collection) -> Option<Vec<String>> {
        let written = collection.ids.iter().map(|from| {
            let items = collection.items.iter().take(SAMPLE);
            items.map(|&item| written_id(&self.family.documents[item.file], from, item)).collect::<Vec<_>>()
        });
        let types = written.filter(|ids| ids.iter().all(|id| is_type(id)));
        types.min_by_key(|types| self.used(types))
    }

    /// How many of some names stand elsewhere too.
    fn used(&self, names: &[String]) -> usize {
        names.iter().filter(|name| self.names.is_used_elsewhere(name)).count()
    }

    /// Whether names are those of contracts that types fulfil: they are written as the last part of a type is and differ from
    /// that of their own, or they are other types that are asked for, as their own are not.
    fn are_contracts(&self, names: &[String], types: &[String]) -> bool {
        let sample = &names[..names.len().min(types.len())];
        let most = |is_so: &dyn Fn(&(&String, &String)) -> bool| {
            sample.iter().zip(types).filter(is_so).count() * 10 >= types.len() * 9
        };
        let is_word = |(name, of): &(&String, &String)| {
            ends_in_capital(name) && !name.contains(SEPARATORS) && last_part(of) != name.as_str()
        };
        let is_other = |(name, of): &(&String, &String)| is_type(name) && name != of;
        most(&is_word) || most(&is_other) && self.used(sample) > 2 * self.used(types)
    }

    /// Whether most of some texts name items of a larger collection: they ask for those, and are no ids.
    fn are_references(&self, at: At, written: &[String]) -> bool {
        let sample = &written[..written.len().min(SAMPLE)];
        let mut counts: HashMap<At, usize> = HashMap::default();
        for text in sample {
            let is_other = |other: &&At| **other != at;
            let others = |name: &str| self.taken.get(name).filter(|all| all.iter().any(|other| *other != at));
            let found = pattern::find(text, others).into_iter().flat_map(|(_, _, others)| others);
            found.filter(is_other).for_each(|other| *counts.entry(*other).or_default() += 1);
        }
        let is_larger = |other: &At| self.sizes[other.0][other.1] > written.len();
        counts.iter().any(|(other, count)| count * 2 > sample.len() && is_larger(other))
    }

    /// The ids that can be made of what stands in a place, with how many of a sample of them are asked for.
    fn made_from(&self, collection: &Collection, from: &IdFrom, written: &[String]) -> (usize, Made) {
        let sample = written.len().min(SAMPLE);
        let trial = Trial::new(self, collection, &written[..sample]);
        let (asked, way) = trial.best();
        let ids = written.iter().zip(&collection.items).map(|(id, item)| way.make(id, item.file)).collect();
        let made = Made {
            from: from.clone(),
            last_part: way.last_part,
            case: way.case,
            with_module: way.module.map(|(between, _)| between),
            is_between_free: way.is_between_free,
            ids,
            are_asking: false,
            contracts: None,
        };
        (asked, made)
    }
}

/// A way to make ids of what is written.
#[derive(Clone, Copy, Default)]
struct Way<'m> {
    last_part: bool,
    case: Option<(&'static str, Case)>,
    /// What stands behind the module, and the module of each file.
    module: Option<(&'static str, &'m Vec<String>)>,
    is_between_free: bool,
}

impl Way<'_> {
    fn make(&self, id: &str, file: usize) -> String {
        let part = if self.last_part { last_part(id) } else { id };
        let part = self.case.map_or_else(|| part.to_owned(), |(_, case)| case.of(part));
        self.module
            .map_or_else(|| part.clone(), |(between, module)| format!("{}{between}{part}", module[file]))
    }

    /// Whether nothing but a module is added.
    fn is_as_written(&self) -> bool {
        !self.last_part && self.case.is_none()
    }
}

/// The first items of a collection, on which ways to make ids are tried.
struct Trial<'m> {
    making: &'m Making<'m, 'm>,
    /// What is written, and in which file.
    written: Vec<(&'m str, usize)>,
    /// By item how often words stand in it.
    own: Vec<HashMap<&'m str, u32>>,
    /// How many of them stand as they are as values elsewhere.
    asked_as_written: usize,
}

impl<'m> Trial<'m> {
    fn new(making: &'m Making<'_, 'm>, collection: &Collection, sample: &'m [String]) -> Self {
        let files = collection.items.iter().map(|item| item.file);
        let written = sample.iter().map(String::as_str).zip(files).collect();
        let mut own: Vec<HashMap<&str, u32>> = vec![HashMap::default(); sample.len()];
        for leaf in collection.fields.values().flatten().filter(|leaf| leaf.item < sample.len()) {
            let tree: &'m Tree<'_> = &making.family.documents[leaf.spot.file].tree;
            if tree.kind(leaf.spot.node) == NodeKind::Text {
                let words = words(tree.text(leaf.spot.node));
                words.for_each(|word| *own[leaf.item].entry(word).or_default() += 1);
            }
        }
        let mut trial = Self { making, written, own, asked_as_written: 0 };
        trial.asked_as_written = trial.asked(sample).count();
        trial
    }

    /// Of one id for each item those that stand as a value elsewhere than in the items that have them.
    fn asked<'i>(&self, ids: &'i [String]) -> impl Iterator<Item = &'i String> + use<'i, '_, 'm> {
        let mut own: HashMap<&str, u32> = HashMap::default();
        for (id, words) in ids.iter().zip(&self.own) {
            *own.entry(id).or_default() += words.get(id.as_str()).copied().unwrap_or_default();
        }
        ids.iter().filter(move |id| self.making.names.is_used_beyond(id, own[id.as_str()]))
    }

    /// The way that makes most ids which are asked for, and how many those are.
    fn best(&self) -> (usize, Way<'m>) {
        let sample = self.written.len();
        let ids: Vec<&str> = self.written.iter().map(|(id, _)| *id).collect();
        // Names that several items have are no ids as they are.
        let plain = if are_unique(&ids) { self.asked_as_written } else { 0 };
        let mut best = (plain, 0, Way::default());
        let types = ids.iter().filter(|id| is_type(id)).count();
        let last_parts: &[bool] = if types * 10 >= sample * 9 { &[false, true] } else { &[false] };
        for &last_part in last_parts {
            for case in CASES.into_iter().filter(|case| last_part || case.is_none()) {
                let modules = &self.making.modules;
                let before = modules.iter().flat_map(|module| BETWEEN.map(|between| Some((between, module))));
                for module in std::iter::once(None).chain(before) {
                    // As they are nearly all are asked for.
                    let way = Way { last_part, case, module, is_between_free: false };
                    if plain * 10 >= sample * 8 && !way.is_as_written() {
                        continue;
                    }
                    let (score, asked) = self.score(&way);
                    if (score, asked) > (best.0, best.1) {
                        best = (score, asked, way);
                    }
                }
            }
        }
        if best.0 == 0 { self.never_with_module().unwrap_or_default() } else { (best.0, best.2) }
    }

    /// How many of the ids that a way makes are asked for, with their module or without, and how many with it; nothing, if that is
    /// too little.
    fn score(&self, way: &Way<'_>) -> (usize, usize) {
        let sample = self.written.len();
        let made: Vec<String> = self.written.iter().map(|(id, file)| way.make(id, *file)).collect();
        let is_written = way.is_as_written() && way.module.is_none();
        if is_written || !are_unique(&made) {
            return (0, 0);
        }
        let asked = self.asked(&made).filter(|id| !self.making.taken.contains_key(*id)).count();
        // Those who ask in the same module may leave it out.
        if way.is_as_written() && asked > 1 && asked * 8 >= sample {
            let score = asked.max(self.asked_as_written);
            return if score * 3 >= sample { (score, asked) } else { (0, 0) };
        }
        // Of a few items one is enough that is asked for by a name which nobody else could mean.
        let is_telling = way.module.is_some() && !way.is_as_written() && sample <= FEW && asked > 0;
        let is_enough = asked > 1 && asked * 3 >= sample || is_telling;
        if is_enough { (asked, asked) } else { (0, 0) }
    }

    /// Where names are asked for as they are, and are unique in their modules alone, those who ask mean their own.
    fn never_with_module(&self) -> Option<(usize, Way<'m>)> {
        let asked = self.asked_as_written;
        let is_enough = asked > 1 && asked * 3 >= self.written.len();
        let are_apart = |module: &&Vec<String>| {
            let names = self.written.iter().map(|(id, file)| (*id, module[*file].as_str()));
            are_unique(&names.collect::<Vec<_>>())
        };
        let module = self.making.modules.iter().filter(|_| is_enough).find(are_apart)?;
        let module = Some((self.making.between_of_none, module));
        Some((asked, Way { module, is_between_free: true, ..Way::default() }))
    }
}

/// Whether hardly more than one of a collection stands in each of several files.
fn are_few_a_file(collection: &Collection) -> bool {
    let files: HashSet<usize> = collection.items.iter().map(|item| item.file).collect();
    matches!(collection.ids.first(), Some(IdFrom::Field(_)))
        && files.len() > FILES
        && collection.items.len() < 2 * files.len()
}

/// The id of an item as it is written; empty: it has none.
pub(super) fn written_id(document: &Document<'_>, from: &IdFrom, item: Spot) -> String {
    let tree = &document.tree;
    let key = || item.key.map_or("", |key| tree.text(key));
    let field = |wanted: &str| {
        tree.field(item.node, wanted).and_then(|value| text_in(tree, value)).unwrap_or_default()
    };
    let below = |outer: &str, inner: &str| {
        let inner = tree.field(item.node, outer).and_then(|map| tree.field(map, inner));
        inner.and_then(|value| text_in(tree, value)).unwrap_or_default()
    };
    let at = |place: &Place| match &place.outer {
        Some(outer) => below(outer, &place.name),
        None => field(&place.name),
    };
    match from {
        IdFrom::Key => key().to_owned(),
        IdFrom::KeyBehind(word) => {
            let name = key().strip_prefix(word.as_str()).unwrap_or_default();
            let quoted = name.strip_suffix('"').filter(|_| word.ends_with('"'));
            quoted.unwrap_or(name).trim().to_owned()
        }
        IdFrom::Stem(flat) => flat.split(key()).0.to_owned(),
        IdFrom::Said(is_behind) => {
            let token = tree.children(item.node).nth(usize::from(*is_behind));
            token.map_or_else(String::new, |token| tree.text(token).to_owned())
        }
        IdFrom::KeyPath(_, names) => names.get(&item.place()).cloned().unwrap_or_default(),
        IdFrom::Field(name) => field(name).to_owned(),
        IdFrom::Column(column) => {
            tree.children(item.node).nth(*column).map_or_else(String::new, |node| tree.text(node).to_owned())
        }
        IdFrom::Below(outer, inner) => below(outer, inner).to_owned(),
        IdFrom::InGroup(own, groups, between) => {
            format!("{}{between}{}", groups.of(tree, item), written_id(document, own, item))
        }
        IdFrom::Joined(one, other, between) => format!("{}{between}{}", at(one), at(other)),
        IdFrom::File => module::stem(document.path),
    }
}
