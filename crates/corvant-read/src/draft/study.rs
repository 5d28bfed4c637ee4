//! What was seen in all families, in one place: items by their ids, and fields with their values.

use super::elements::text_in;
use super::families::Family;
use super::files::Document;
use super::module;
use super::names::{Names, is_of_name};
use super::shape::{Collection, IdFrom, Leaf, SAMPLE, Shape, Spot};
use crate::custom::field::Case;
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::collections::BTreeMap;
use std::ops::Range;

/// All families with their shapes.
pub(super) struct Study<'s, 't> {
    pub(super) families: &'s [Family<'t>],
    pub(super) shapes: &'s [Shape],
    /// By family and collection how ids are made, and the id of each item.
    pub(super) made: &'s [Vec<Made>],
    /// By id the collection that has it: its family and its number there.
    pub(super) ids: HashMap<&'s str, At>,
    /// Ids that several collections have.
    pub(super) shared: HashSet<&'s str>,
    pub(super) fields: Vec<Field<'s>>,
    /// The numbers of the fields of each family, and of each collection.
    of_family: Vec<Range<usize>>,
    of_collection: HashMap<At, Range<usize>>,
}

/// A collection, by the number of its family and its own.
pub(super) type At = (usize, usize);

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
}

/// Values at one path.
pub(super) struct Field<'s> {
    pub(super) family: usize,
    /// The collection of the items that have it; `None`: it stands outside of all.
    pub(super) of: Option<usize>,
    pub(super) path: &'s str,
    /// Which part of what stands there it is.
    pub(super) part: Part,
    /// What stands between several names in one value.
    pub(super) split: Option<&'static str>,
    pub(super) values: Vec<Value<'s>>,
}

/// A part of a text.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Part {
    Whole,
    /// What stands before the brackets: `velmora.depot.Gate(depot.lock, depot.lamp)`.
    Head,
    /// What stands between them.
    Arguments,
}

/// A text that ends in brackets as what stands before and between them.
fn call(text: &str) -> Option<(&str, &str)> {
    let (head, rest) = text.split_once('(')?;
    let is_name = !head.is_empty() && head.chars().all(|letter| is_of_name(letter) || letter == '$');
    rest.strip_suffix(')').filter(|_| is_name).map(|arguments| (head, arguments))
}

/// How a path ends that leads to the text of elements.
const ELEMENT_TEXT: &str = "[*]['#text']";

impl Field<'_> {
    /// Whether it stands in the item itself, once.
    pub(super) fn is_single(&self) -> bool {
        let path = self.path.strip_suffix(ELEMENT_TEXT).unwrap_or(self.path);
        !path.contains('*') && self.values.windows(2).all(|two| two[0].item != two[1].item)
    }
}

/// A plain value.
#[derive(Clone, Copy)]
pub(super) struct Value<'s> {
    pub(super) item: usize,
    pub(super) text: &'s str,
    pub(super) spot: Spot,
}

/// Makes the ids of all collections.
pub(super) fn made(families: &[Family<'_>], shapes: &[Shape], names: &Names<'_>) -> Vec<Vec<Made>> {
    // What is an id as it is written is none that another is made into.
    let written = families.par_iter().zip(shapes).map(|(family, shape)| {
        let ids = shape.collections.iter().filter_map(|collection| {
            let from = collection.ids.first()?;
            Some(
                collection
                    .items
                    .iter()
                    .map(move |&item| written_id(&family.documents[item.file], from, item)),
            )
        });
        ids.flatten().collect::<Vec<String>>()
    });
    let taken: HashSet<String> = written.flatten().collect();
    let of_family = |(family, shape): (&Family<'_>, &Shape)| -> Vec<Made> {
        let modules = module::names_by_file(family, shape);
        let making = Making { family, modules: &modules, names, taken: &taken };
        shape.collections.iter().map(|collection| making.made_of(collection)).collect()
    };
    families.par_iter().zip(shapes).map(of_family).collect()
}

/// What ids of a family are made with.
struct Making<'m, 't> {
    family: &'m Family<'t>,
    /// By way to say it the module of each file.
    modules: &'m [Vec<String>],
    names: &'m Names<'m>,
    /// Ids as they are written.
    taken: &'m HashSet<String>,
}

impl Making<'_, '_> {
    /// The ids of a collection: as they are written in the likeliest place, if those are asked for; else what can be made of what
    /// stands in any place that is.
    fn made_of(&self, collection: &Collection) -> Made {
        let mut best: Option<(usize, Made)> = None;
        for from in &collection.ids {
            let (asked, made) = self.made_from(collection, from);
            let is_enough = asked * 10 >= made.ids.len().min(SAMPLE) * 8;
            // The likeliest stays, unless another is asked for much more.
            if best.as_ref().is_none_or(|(most, _)| asked * 2 > *most * 3) {
                best = Some((asked, made));
            }
            if is_enough {
                break;
            }
        }
        best.map_or_else(
            || Made {
                from: IdFrom::Key,
                last_part: false,
                case: None,
                with_module: None,
                ids: vec![String::new(); collection.items.len()],
            },
            |(_, made)| made,
        )
    }

    /// The ids that can be made of what stands in a place, with how many of a sample of them are asked for.
    fn made_from(&self, collection: &Collection, from: &IdFrom) -> (usize, Made) {
        let Self { family, modules, names, taken } = *self;
        let written: Vec<String> = collection
            .items
            .iter()
            .map(|&item| written_id(&family.documents[item.file], from, item))
            .collect();
        let sample = written.len().min(SAMPLE);
        // What stands in a field is itself a value, as often as it stands there.
        let is_value = matches!(from, IdFrom::Field(_));
        let mut own: HashMap<&str, u32> = HashMap::default();
        for id in written.iter().filter(|_| is_value) {
            *own.entry(id).or_default() += 1;
        }
        let is_asked = |id: &str, is_written: bool| {
            let times = if is_written { own.get(id).copied().unwrap_or_default() } else { 0 };
            names.is_used_beyond(id, times)
        };
        // Names that several items have are no ids as they are.
        let are_unique = |ids: &[String]| ids.iter().collect::<HashSet<_>>().len() * 100 >= ids.len() * 95;
        let plain = if are_unique(&written[..sample]) {
            written[..sample].iter().filter(|id| is_asked(id, true)).count()
        } else {
            0
        };
        let make = |id: &str,
                    file: usize,
                    last_part: bool,
                    case: Option<Case>,
                    module: Option<(&'static str, &Vec<String>)>| {
            let part = if last_part { id.rsplit(['.', '\\', ':', '/']).next().unwrap_or(id) } else { id };
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
                            |id: &String| is_asked(id, is_written) && (is_written || !taken.contains(id));
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
            },
        )
    }
}

/// Collections that have one id in common, at most.
const PARALLEL: usize = 8;
/// Parts of values that are looked at for whether they are names.
const SPLIT: usize = 10_000;
/// Items that say little.
const FEW: usize = 10;
/// What stands between a module and a name.
const BETWEEN: [&str; 4] = [".", "/", ":", "-"];
const CASES: [Option<(&str, Case)>; 5] = [
    None,
    Some(("kebab", Case::Kebab)),
    Some(("snake", Case::Snake)),
    Some(("first-lower", Case::FirstLower)),
    Some(("lower", Case::Lower)),
];

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
        IdFrom::Joined(one, other, between) => format!("{}{between}{}", field(one), field(other)),
        IdFrom::File => module::stem(document.path),
    }
}

impl<'s, 't> Study<'s, 't> {
    pub(super) fn new(
        families: &'s [Family<'t>],
        shapes: &'s [Shape],
        made: &'s [Vec<Made>],
        names: &Names<'_>,
    ) -> Self {
        let mut study = Self {
            families,
            shapes,
            made,
            ids: HashMap::default(),
            shared: HashSet::default(),
            fields: Vec::new(),
            of_family: Vec::new(),
            of_collection: HashMap::default(),
        };
        let mut first: HashMap<&str, At> = HashMap::default();
        for (family, shape) in shapes.iter().enumerate() {
            let start = study.fields.len();
            for (number, collection) in shape.collections.iter().enumerate() {
                let at = (family, number);
                for id in made[family][number].ids.iter().filter(|id| !id.is_empty()) {
                    if *first.entry(id).or_insert(at) != at {
                        study.shared.insert(id);
                    }
                }
                let start = study.fields.len();
                for (path, leaves) in &collection.fields {
                    study.add(family, Some(number), path, leaves.iter().copied());
                }
                study.of_collection.insert(at, start..study.fields.len());
            }
            for (path, spots) in shape.loose.iter().filter(|_| !shape.is_whole) {
                let leaves = spots.iter().map(|&spot| Leaf { item: spot.file, spot });
                study.add(family, None, path, leaves);
            }
            study.of_family.push(start..study.fields.len());
        }
        study.ids = first;
        let mut fields = std::mem::take(&mut study.fields);
        fields.par_iter_mut().for_each(|field| study.split(field, names));
        study.fields = fields;
        study
    }

    /// The same with collections whose keys are no ids of their own.
    pub(super) fn without_ids_of(mut self, apart: &HashSet<At>) -> Self {
        self.ids.clear();
        for at in self.all().filter(|at| !apart.contains(at)) {
            for id in self.ids_of(at).iter().filter(|id| !id.is_empty()) {
                self.ids.entry(id).or_insert(at);
            }
        }
        self
    }

    /// Adds the values at a path; where most of them end in brackets, what stands before those and between them.
    fn add(&mut self, family: usize, of: Option<usize>, path: &'s str, leaves: impl Iterator<Item = Leaf>) {
        let values: Vec<Value<'_>> = leaves.map(|leaf| self.value(family, leaf)).collect();
        let field = |part, values| Field { family, of, path, part, split: None, values };
        let calls: Vec<_> = values.iter().filter_map(|value| Some((value, call(value.text)?))).collect();
        if of.is_none() || calls.is_empty() || calls.len() * 10 < values.len() * 8 {
            self.fields.push(field(Part::Whole, values));
            return;
        }
        let heads = calls.iter().map(|(value, (head, _))| Value { text: head, ..**value }).collect();
        let arguments =
            calls.iter().map(|(value, (_, arguments))| Value { text: arguments, ..**value }).collect();
        self.fields.extend([field(Part::Head, heads), field(Part::Arguments, arguments)]);
    }

    /// Takes values apart that are several names with one sign between.
    fn split(&self, field: &mut Field<'_>, names: &Names<'_>) {
        let is_name = |part: &str| !part.is_empty() && part.chars().all(is_of_name);
        for between in [",", "\n", ";", " "] {
            let parts = field.values.iter().filter(|value| value.text.contains(between));
            let parts = parts
                .flat_map(|value| value.text.split(between))
                .map(str::trim)
                .filter(|part| !part.is_empty())
                .take(SPLIT);
            let (mut all, mut known) = (0, 0);
            for part in parts {
                all += 1;
                // Between words there are spaces too.
                let may_be = between != " " || ends_in_capital(part);
                let is_used = may_be && names.is_used_elsewhere(part);
                known += usize::from(is_name(part) && (self.ids.contains_key(part) || is_used));
            }
            let are_names = if between == " " { known * 10 >= all * 7 } else { known * 2 >= all };
            if all > 1 && (are_names || field.part == Part::Arguments && between == ",") {
                let values = std::mem::take(&mut field.values).into_iter();
                let parts = values.flat_map(|value| {
                    value.text.split(between).map(move |part| Value { text: part.trim(), ..value })
                });
                field.values = parts.filter(|value| !value.text.is_empty()).collect();
                field.split = Some(between);
                return;
            }
        }
    }

    pub(super) fn collection(&self, at: At) -> &'s Collection {
        &self.shapes[at.0].collections[at.1]
    }

    fn value(&self, family: usize, Leaf { item, spot }: Leaf) -> Value<'s> {
        let families: &'s [Family<'t>] = self.families;
        Value { item, text: families[family].documents[spot.file].tree.text(spot.node), spot }
    }

    pub(super) fn kind(&self, family: usize, spot: Spot) -> NodeKind {
        self.families[family].documents[spot.file].tree.kind(spot.node)
    }

    /// The key that an item stands under.
    pub(super) fn key(&self, family: usize, item: Spot) -> &'s str {
        let families: &'s [Family<'t>] = self.families;
        item.key.map_or("", |key| families[family].documents[item.file].tree.text(key))
    }

    /// The ids of a collection, item by item.
    pub(super) fn ids_of(&self, at: At) -> &'s [String] {
        &self.made[at.0][at.1].ids
    }

    /// The paths of the fields that ids of a collection are made of.
    pub(super) fn id_paths(&self, at: At) -> Vec<String> {
        let path = |name: &String| self.path_of(at, name);
        match &self.made[at.0][at.1].from {
            IdFrom::Field(name) => vec![path(name)],
            IdFrom::Joined(one, other, _) => vec![path(one), path(other)],
            IdFrom::Key | IdFrom::KeyBehind(_) | IdFrom::Stem(_) | IdFrom::KeyPath(..) | IdFrom::File => {
                Vec::new()
            }
        }
    }

    /// The path of a field in the items of a collection: that of its text, where it is an element.
    pub(super) fn path_of(&self, at: At, name: &str) -> String {
        let path = format!("${}", super::shape::step(name));
        let of_element = format!("{path}{ELEMENT_TEXT}");
        let fields = &self.collection(at).fields;
        if !fields.contains_key(&path) && fields.contains_key(&of_element) { of_element } else { path }
    }

    /// The fields of a collection, by their numbers.
    pub(super) fn fields_of(&self, at: At) -> Range<usize> {
        self.of_collection.get(&at).cloned().unwrap_or_default()
    }

    /// The fields of a family, by their numbers.
    pub(super) fn fields_of_family(&self, family: usize) -> Range<usize> {
        self.of_family[family].clone()
    }

    /// All collections.
    pub(super) fn all(&self) -> impl Iterator<Item = At> + use<'s> {
        let shapes = self.shapes.iter().enumerate();
        shapes.flat_map(|(family, shape)| (0..shape.collections.len()).map(move |number| (family, number)))
    }

    /// Where a value stands: file and line.
    pub(super) fn address(&self, family: usize, spot: Spot) -> String {
        let document = &self.families[family].documents[spot.file];
        let start = document.tree.span(spot.node).start as usize;
        let line = document.tree.source()[..start].matches('\n').count() + 1;
        format!("{}:{line}", document.path)
    }
}

/// Collections that say which of some names another is: they have, beside their id, ids of others and nothing else.
pub(super) fn mappings(study: &Study<'_, '_>) -> HashSet<At> {
    let is_mapping = |at: &At| {
        let collection = study.collection(*at);
        let own: HashSet<&str> = study.ids_of(*at).iter().map(String::as_str).collect();
        if collection.each.is_empty() {
            return false;
        }
        let id_paths = match &study.made[at.0][at.1].from {
            IdFrom::Field(_) => study.id_paths(*at),
            _ => Vec::new(),
        };
        let fields = study.fields_of(*at).map(|number| &study.fields[number]);
        let beside: Vec<_> = fields.filter(|field| !id_paths.iter().any(|path| path == field.path)).collect();
        let [only] = beside.as_slice() else { return false };
        let is_other = |text: &str| {
            study.ids.get(text).is_some_and(|of| of != at)
                || own.contains(text) && study.ids.get(text) != Some(at)
        };
        let named = only.values.iter().filter(|value| is_other(value.text)).count();
        only.is_single() && only.split.is_none() && named * 2 >= only.values.len() && named > 0
    };
    study.all().filter(is_mapping).collect()
}

/// Collections that say more of the items of another in the same files, with that one: they have hardly any ids but its, and
/// it has types, or more of them.
pub(super) fn parallel(study: &Study<'_, '_>) -> BTreeMap<At, At> {
    let mut holders: HashMap<(usize, &str), Vec<At>> = HashMap::default();
    for at in study.all() {
        let ids: HashSet<&String> = study.ids_of(at).iter().filter(|id| !id.is_empty()).collect();
        for id in ids {
            holders.entry((at.0, id)).or_default().push(at);
        }
    }
    let mut shared: BTreeMap<(At, At), usize> = BTreeMap::new();
    for holders in holders.values().filter(|holders| holders.len() > 1 && holders.len() <= PARALLEL) {
        for &one in holders {
            let others = holders.iter().filter(|other| **other != one);
            others.for_each(|other| *shared.entry((one, *other)).or_default() += 1);
        }
    }
    let weight = |at: At| {
        let is_typed = study.fields_of(at).any(|number| super::roles::is_type_field(&study.fields[number]));
        (is_typed, study.ids_of(at).len(), std::cmp::Reverse(at.1))
    };
    let mut found = BTreeMap::new();
    for ((one, of), count) in shared {
        let has_values = study
            .fields_of(one)
            .any(|number| !study.fields[number].values.iter().all(|value| value.text.is_empty()));
        if count > 1 && count * 10 >= study.ids_of(one).len() * 8 && weight(of) > weight(one) && has_values {
            let main = found.get(&one).copied().filter(|&known| weight(known) >= weight(of)).unwrap_or(of);
            found.insert(one, main);
        }
    }
    let mains = found.clone();
    found.retain(|_, main| !mains.contains_key(main));
    found
}

/// Whether a text looks like the name of a type: parts with dots, backslashes or colons between, each beginning with a letter,
/// the last with a capital.
pub(super) fn is_type(text: &str) -> bool {
    let mut parts = text
        .strip_prefix("./")
        .unwrap_or(text)
        .trim_start_matches(['\\', ':'])
        .split(['.', '\\', ':', '/', '$']);
    let begins = |part: &str| part.starts_with(|letter: char| letter.is_alphabetic() || letter == '_');
    let is_name = |part: &str| part.chars().all(|letter| letter.is_alphanumeric() || letter == '_');
    let last = parts.next_back().unwrap_or_default();
    last.len() < text.len()
        && begins_with_capital(last)
        && is_name(last)
        && parts.all(|part| is_name(part) && (begins(part) || part.is_empty() && text.contains("::")))
}

/// Whether the last part of a name begins with a capital.
pub(super) fn ends_in_capital(name: &str) -> bool {
    begins_with_capital(name.rsplit(['.', '\\', ':', '/']).next().unwrap_or(name))
}

fn begins_with_capital(text: &str) -> bool {
    text.chars().next().is_some_and(char::is_uppercase)
}
