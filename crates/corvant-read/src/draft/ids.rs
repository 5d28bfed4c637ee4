//! What ids are made of: what stands in a place as it is written, or what those who ask for it make of it.

use super::elements::{are_unique, text_in};
use super::families::Family;
use super::files::Document;
use super::module;
use super::names::Names;
use super::pattern;
use super::shape::{Collection, IdFrom, SAMPLE, Shape, Spot};
use super::study::{At, SEPARATORS, ends_in_capital, is_type, last_part};
use crate::custom::field::Case;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;

/// The ids of a collection, and what is made of what stands there.
#[derive(Debug)]
pub(super) struct Made {
    pub(super) from: IdFrom,
    /// Only what stands behind the last separator counts.
    pub(super) last_part: bool,
    pub(super) case: Option<(&'static str, Case)>,
    /// The module stands before it, with this between.
    pub(super) with_module: Option<&'static str>,
    /// By item.
    pub(super) ids: Vec<String>,
    /// Whether all that they can be is what others are called, and not each once, or one in each file: these are no items, they ask
    /// for some.
    pub(super) are_asking: bool,
    /// The field with the contracts that the types of items fulfil, where the ids are those types.
    pub(super) contracts: Option<String>,
}

/// Files that say little.
const FILES: usize = 3;
/// Items that say little.
const FEW: usize = 10;
/// Collections that have one id, at most, for it to say anything.
const PLACES: usize = 8;
/// What stands between a module and a name.
const BETWEEN: [&str; 4] = [".", "/", ":", "-"];
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
            shape.collections.iter().enumerate().filter(|(_, collection)| !collection.ids.is_empty());
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
    let of_family = |(number, (family, shape)): (usize, (&Family<'_>, &Shape))| -> Vec<Made> {
        let modules = module::names_by_file(family, shape);
        let making = Making { family, modules: &modules, names, taken: &taken, sizes: &sizes };
        let collections = shape.collections.iter().enumerate();
        collections.map(|(collection, of)| making.made_of((number, collection), of)).collect()
    };
    families.par_iter().zip(shapes).enumerate().map(|(number, of)| of_family((number, of))).collect()
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
}

impl Making<'_, '_> {
    /// The ids of a collection: as they are written in the likeliest place, if those are asked for; else what can be made of what
    /// stands in any place that is.
    fn made_of(&self, at: At, collection: &Collection) -> Made {
        let mut best: Option<(usize, Made)> = None;
        let (mut asking, mut contracts) = (None, None);
        let types = self.types_of(collection);
        for from in &collection.ids {
            let written = self.family.written_ids(collection, from);
            if let IdFrom::Field(name) = from
                && types.as_ref().is_some_and(|types| are_contracts(&written, types))
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
            if best.as_ref().is_none_or(|(most, known)| asked * 2 > *most * 3 && known.ids != made.ids) {
                best = Some((asked, made));
            }
            if is_enough {
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
            || Made {
                from: IdFrom::Key,
                last_part: false,
                case: None,
                with_module: None,
                ids: vec![String::new(); collection.items.len()],
                are_asking: false,
                contracts: None,
            },
            |(_, made)| Made { contracts, ..made },
        )
    }

    /// The types of the first items, where one of the places that may have their ids has those.
    fn types_of(&self, collection: &Collection) -> Option<Vec<String>> {
        let written = collection.ids.iter().map(|from| {
            let items = collection.items.iter().take(SAMPLE);
            items.map(|&item| written_id(&self.family.documents[item.file], from, item)).collect::<Vec<_>>()
        });
        written.into_iter().find(|ids| ids.iter().all(|id| is_type(id)))
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
        let Self { modules, names, taken, .. } = *self;
        let sample = written.len().min(SAMPLE);
        // What stands in a field is itself a value, as often as it stands there.
        let is_value = matches!(from, IdFrom::Field(_) | IdFrom::Below(..));
        let mut own: HashMap<&str, u32> = HashMap::default();
        for id in written.iter().filter(|_| is_value) {
            *own.entry(id).or_default() += 1;
        }
        let is_asked = |id: &str, is_written: bool| {
            let times = if is_written { own.get(id).copied().unwrap_or_default() } else { 0 };
            names.is_used_beyond(id, times)
        };
        // Names that several items have are no ids as they are.
        let plain = if are_unique(&written[..sample]) {
            written[..sample].iter().filter(|id| is_asked(id, true)).count()
        } else {
            0
        };
        let make = |id: &str,
                    file: usize,
                    is_last: bool,
                    case: Option<Case>,
                    module: Option<(&'static str, &Vec<String>)>| {
            let part = if is_last { last_part(id) } else { id };
            let part = case.map_or_else(|| part.to_owned(), |case| case.of(part));
            module
                .map_or_else(|| part.clone(), |(between, module)| format!("{}{between}{part}", module[file]))
        };
        let mut best = (plain, (false, None, None));
        let types = written[..sample].iter().filter(|id| is_type(id)).count();
        if plain * 10 < sample * 8 {
            let last_parts: &[bool] = if types * 10 >= sample * 9 { &[false, true] } else { &[false] };
            for &last_part in last_parts {
                for case in CASES.into_iter().filter(|case| last_part || case.is_none()) {
                    let before =
                        modules.iter().flat_map(|module| BETWEEN.map(|between| Some((between, module))));
                    for module in std::iter::once(None).chain(before) {
                        let made = written[..sample].iter().zip(&collection.items);
                        let made: Vec<String> = made
                            .map(|(id, item)| {
                                make(id, item.file, last_part, case.map(|(_, case)| case), module)
                            })
                            .collect();
                        let is_written = !last_part && case.is_none() && module.is_none();
                        let is_asked =
                            |id: &String| is_asked(id, is_written) && (is_written || !taken.contains_key(id));
                        let asked =
                            if are_unique(&made) { made.iter().filter(|id| is_asked(id)).count() } else { 0 };
                        // Of a few items one is enough that is asked for by a name which nobody else could mean.
                        let is_telling = module.is_some() && (last_part || case.is_some()) && sample <= FEW;
                        let is_enough = asked > 1 && asked * 3 >= sample || is_telling && asked > 0;
                        if asked > best.0 && is_enough {
                            best = (asked, (last_part, case, module));
                        }
                    }
                }
            }
        }
        let (asked, (last_part, case, module)) = best;
        let ids = written.iter().zip(&collection.items);
        let ids = ids
            .map(|(id, item)| make(id, item.file, last_part, case.map(|(_, case)| case), module))
            .collect();
        (
            asked,
            Made {
                from: from.clone(),
                last_part,
                case,
                with_module: module.map(|(between, _)| between),
                ids,
                are_asking: false,
                contracts: None,
            },
        )
    }
}

/// Whether names are those of contracts that types fulfil: they are written as the last part of a type is, and differ from that of
/// their own.
fn are_contracts(names: &[String], types: &[String]) -> bool {
    let is_one = |(name, of): (&String, &String)| {
        ends_in_capital(name) && !name.contains(SEPARATORS) && last_part(of) != name
    };
    names.iter().zip(types).filter(|both| is_one(*both)).count() * 10 >= types.len() * 9
}

/// Whether hardly more than one of a collection stands in each of several files.
fn are_few_a_file(collection: &Collection) -> bool {
    let files: HashSet<usize> = collection.items.iter().map(|item| item.file).collect();
    matches!(collection.ids.first(), Some(IdFrom::Field(_)))
        && files.len() > FILES
        && collection.items.len() < 2 * files.len()
}

/// The id of an item as it is written; empty: it has none.
fn written_id(document: &Document<'_>, from: &IdFrom, item: Spot) -> String {
    let tree = &document.tree;
    let key = || item.key.map_or("", |key| tree.text(key));
    let field = |wanted: &str| {
        tree.field(item.node, wanted).and_then(|value| text_in(tree, value)).unwrap_or_default()
    };
    match from {
        IdFrom::Key => key().to_owned(),
        IdFrom::KeyBehind(word) => key().strip_prefix(word.as_str()).unwrap_or_default().trim().to_owned(),
        IdFrom::Stem(flat) => flat.split(key()).0.to_owned(),
        IdFrom::KeyPath(_, names) => names.get(&(item.file, item.node.index())).cloned().unwrap_or_default(),
        IdFrom::Field(name) => field(name).to_owned(),
        IdFrom::Below(outer, inner) => {
            let inner = tree.field(item.node, outer).and_then(|map| tree.field(map, inner));
            inner.and_then(|value| text_in(tree, value)).unwrap_or_default().to_owned()
        }
        IdFrom::Joined(one, other, between) => format!("{}{between}{}", field(one), field(other)),
        IdFrom::File => module::stem(document.path),
    }
}
