//! What was seen in all families, in one place: items by their ids, and fields with their values.

use super::files::{Document, Family};
use super::module;
use super::names::{Names, is_of_name};
use super::shape::{Collection, IdFrom, Leaf, SAMPLE, Shape, Spot};
use crate::custom::field::Case;
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
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
    /// The module stands before it, with a dot.
    pub(super) with_module: bool,
    /// By item.
    pub(super) ids: Vec<String>,
}

/// Values at one path.
pub(super) struct Field<'s> {
    pub(super) family: usize,
    /// The collection of the items that have it; `None`: it stands outside of all.
    pub(super) of: Option<usize>,
    pub(super) path: &'s str,
    /// What stands between several names in one value.
    pub(super) split: Option<&'static str>,
    pub(super) values: Vec<Value<'s>>,
}

/// A plain value.
#[derive(Clone, Copy)]
pub(super) struct Value<'s> {
    pub(super) item: usize,
    pub(super) text: &'s str,
    pub(super) spot: Spot,
}

/// Makes the ids of all collections.
pub(super) fn made(families: &[Family<'_>], shapes: &[Shape], names: &Names) -> Vec<Vec<Made>> {
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
    names: &'m Names,
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
                with_module: false,
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
        let make =
            |id: &str, file: usize, last_part: bool, case: Option<Case>, module: Option<&Vec<String>>| {
                let part = if last_part { id.rsplit(['.', '\\', ':', '/']).next().unwrap_or(id) } else { id };
                let part = case.map_or_else(|| part.to_owned(), |case| case.of(part));
                module.map_or_else(|| part.clone(), |module| format!("{}.{part}", module[file]))
            };
        let mut best = (plain, (false, None, None));
        let types = written[..sample].iter().filter(|id| is_type(id)).count();
        if plain * 10 < sample * 8 {
            let last_parts: &[bool] = if types * 10 >= sample * 9 { &[false, true] } else { &[false] };
            for &last_part in last_parts {
                for case in CASES.into_iter().filter(|case| last_part || case.is_none()) {
                    for module in std::iter::once(None).chain(modules.iter().map(Some)) {
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
                        if asked > best.0.max(1) && asked * 3 >= sample {
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
        (asked, Made { from: from.clone(), last_part, case, with_module: module.is_some(), ids })
    }
}

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
    let field = |wanted: &str| tree.field(item.node, wanted).map_or("", |value| tree.text(value));
    match from {
        IdFrom::Key => key().to_owned(),
        IdFrom::KeyBehind(word) => key().strip_prefix(word.as_str()).unwrap_or_default().trim().to_owned(),
        IdFrom::Field(name) => field(name).to_owned(),
        IdFrom::Joined(one, other, between) => format!("{}{between}{}", field(one), field(other)),
        IdFrom::File => module::stem(document.path),
    }
}

impl<'s, 't> Study<'s, 't> {
    /// `apart` are collections whose keys are no ids of their own.
    pub(super) fn new(
        families: &'s [Family<'t>],
        shapes: &'s [Shape],
        made: &'s [Vec<Made>],
        apart: &HashSet<At>,
        names: &Names,
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
                    if !apart.contains(&at) {
                        study.ids.entry(id).or_insert(at);
                    }
                }
                let start = study.fields.len();
                for (path, leaves) in &collection.fields {
                    let values = leaves.iter().map(|leaf| study.value(family, *leaf)).collect();
                    study.fields.push(Field { family, of: Some(number), path, split: None, values });
                }
                study.of_collection.insert(at, start..study.fields.len());
            }
            for (path, spots) in shape.loose.iter().filter(|_| !shape.is_whole) {
                let leaves = spots.iter().map(|&spot| Leaf { item: spot.file, spot });
                let values = leaves.map(|leaf| study.value(family, leaf)).collect();
                study.fields.push(Field { family, of: None, path, split: None, values });
            }
            study.of_family.push(start..study.fields.len());
        }
        let mut fields = std::mem::take(&mut study.fields);
        fields.par_iter_mut().for_each(|field| study.split(field, names));
        study.fields = fields;
        study
    }

    /// Takes values apart that are several names with one sign between.
    fn split(&self, field: &mut Field<'_>, names: &Names) {
        let is_name = |part: &str| !part.is_empty() && part.chars().all(is_of_name);
        for between in [",", "\n", ";"] {
            let parts = field.values.iter().filter(|value| value.text.contains(between));
            let parts = parts
                .flat_map(|value| value.text.split(between))
                .map(str::trim)
                .filter(|part| !part.is_empty());
            let (mut all, mut known) = (0, 0);
            for part in parts {
                all += 1;
                known += usize::from(
                    is_name(part) && (self.ids.contains_key(part) || names.is_used_elsewhere(part)),
                );
            }
            if all > 1 && known * 2 >= all {
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

    /// The ids of a collection, item by item.
    pub(super) fn ids_of(&self, at: At) -> &'s [String] {
        &self.made[at.0][at.1].ids
    }

    /// The paths of the fields that ids of a collection are made of.
    pub(super) fn id_paths(&self, at: At) -> Vec<String> {
        let path = |name: &String| format!("${}", super::shape::step(name));
        match &self.made[at.0][at.1].from {
            IdFrom::Field(name) => vec![path(name)],
            IdFrom::Joined(one, other, _) => vec![path(one), path(other)],
            IdFrom::Key | IdFrom::KeyBehind(_) | IdFrom::File => Vec::new(),
        }
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
        !only.path.contains('*') && only.split.is_none() && named * 2 >= only.values.len() && named > 0
    };
    study.all().filter(is_mapping).collect()
}

/// Whether a text looks like the name of a type: parts with dots, backslashes or colons between, the last with a capital.
pub(super) fn is_type(text: &str) -> bool {
    let last = text.rsplit(['.', '\\', ':', '/', '$']).next().unwrap_or_default();
    let is_name =
        |letter: char| letter.is_alphanumeric() || matches!(letter, '.' | '\\' | ':' | '_' | '$' | '/');
    last.len() < text.len() && begins_with_capital(last) && text.chars().all(is_name)
}

/// Whether the last part of a name begins with a capital.
pub(super) fn ends_in_capital(name: &str) -> bool {
    begins_with_capital(name.rsplit(['.', '\\', ':', '/']).next().unwrap_or(name))
}

fn begins_with_capital(text: &str) -> bool {
    text.chars().next().is_some_and(char::is_uppercase)
}
