//! What ids are made of: what stands in a place as it is written, or what those who ask for it make of it.

use super::elements::text_in;
use super::families::Family;
use super::files::Document;
use super::module;
use super::names::Names;
use super::pattern;
use super::shape::{Collection, IdFrom, SAMPLE, Shape, Spot};
use super::study::is_type;
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
}

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
        for (number, from) in collection.ids.iter().enumerate() {
            let written: Vec<String> = collection
                .items
                .iter()
                .map(|&item| written_id(&self.family.documents[item.file], from, item))
                .collect();
            if number > 0 && self.are_references(&written) {
                continue;
            }
            let (asked, made) = self.made_from(collection, from, written);
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

    /// Whether most of some texts name what has its id elsewhere: they ask, and are asked for no more than that is.
    fn are_references(&self, written: &[String]) -> bool {
        let sample = &written[..written.len().min(SAMPLE)];
        let is_one = |text: &&String| pattern::find(text, |name| self.taken.get(name)).is_some();
        sample.iter().filter(is_one).count() * 2 > sample.len()
    }

    /// The ids that can be made of what stands in a place, with how many of a sample of them are asked for.
    fn made_from(&self, collection: &Collection, from: &IdFrom, written: Vec<String>) -> (usize, Made) {
        let Self { modules, names, taken, .. } = *self;
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
