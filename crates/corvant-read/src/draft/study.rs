//! What was seen in all families, in one place: items by their ids, and fields with their values.

use super::clauses::Clause;
use super::families::Family;
use super::grouped::Groups;
use super::ids::Made;
use super::names::{Names, SEPARATING, is_of_name};
use super::pairs::{Pair, Pairs};
use super::parts::{Part, behind_types, call, name_in, without_signs};
use super::shape::{Collection, IdFrom, Leaf, Shape, Spot, step};
use crate::syntax::NodeKind;
use corvant_core::near::meanings;
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
    /// What ids have behind their module, where their items do not say it.
    short: HashSet<&'s str>,
    /// Ids that several collections have.
    pub(super) shared: HashSet<&'s str>,
    /// Values of collections with few items that are no ids, and a few letters away from one.
    pub(super) misspelt: HashSet<&'s str>,
    pub(super) fields: Vec<Field<'s>>,
    /// The numbers of the fields of each family, and of each collection.
    of_family: Vec<Range<usize>>,
    of_collection: HashMap<At, Range<usize>>,
}

/// A collection, by the number of its family and its own.
pub(super) type At = (usize, usize);

/// Values at one path.
pub(super) struct Field<'s> {
    pub(super) family: usize,
    /// The collection of the items that have it; `None`: it stands outside of all.
    pub(super) of: Option<usize>,
    pub(super) path: &'s str,
    /// Which part of what stands there it is.
    pub(super) part: Part<'s>,
    /// Where in a line it stands, if lines are the items.
    pub(super) clause: Option<&'s Clause>,
    /// What stands between several names in one value.
    pub(super) split: Option<&'static str>,
    /// Whether no item has several of the element that it is in.
    is_in_one: bool,
    pub(super) values: Vec<Value<'s>>,
}

/// How a path ends that leads to the text of elements.
const ELEMENT_TEXT: &str = "[*]['#text']";

impl<'s> Field<'s> {
    /// A field without values.
    fn new(family: usize, of: Option<usize>, path: &'s str, part: Part<'s>) -> Self {
        let values = Vec::new();
        Self { family, of, path, part, clause: None, split: None, is_in_one: true, values }
    }

    /// The names that two fields of the items of a collection make.
    fn of_pair((family, of): At, pair: &'s Pair) -> Self {
        let names = pair.names.iter().map(|(item, text, spot)| Value { item: *item, text, spot: *spot });
        Self { values: names.collect(), ..Self::new(family, Some(of), &pair.path, Part::Pair(pair)) }
    }

    /// Whether it stands in the item itself, once; of XML it may be the text or an attribute of an element that does.
    pub(super) fn is_single(&self) -> bool {
        let path = self.element().filter(|_| self.is_in_one).unwrap_or(self.path);
        !path.contains('*') && self.has_one_each()
    }

    /// Whether no element or list stands between the item and it.
    pub(super) fn is_in_item(&self) -> bool {
        !self.path.contains('*') || self.path.ends_with(ELEMENT_TEXT)
    }

    /// The path of the element that it is the text or an attribute of.
    fn element(&self) -> Option<&'s str> {
        let (element, last) = self.path.rsplit_once("[*]['")?;
        (last.starts_with('@') || last == "#text']").then_some(element)
    }

    fn has_one_each(&self) -> bool {
        self.values.windows(2).all(|two| two[0].item != two[1].item)
    }
}

/// A plain value.
#[derive(Clone, Copy)]
pub(super) struct Value<'s> {
    pub(super) item: usize,
    pub(super) text: &'s str,
    pub(super) spot: Spot,
}

/// Says of the fields of a collection whether they are in elements of which no item has several.
fn tell_elements(fields: &mut [Field<'_>]) {
    let several = fields.iter().filter(|field| !field.has_one_each()).filter_map(Field::element);
    let several: HashSet<&str> = several.collect();
    for field in fields {
        field.is_in_one = field.element().is_none_or(|element| !several.contains(element));
    }
}

/// Signs that several names have between them, the likeliest first.
const BETWEEN: [&str; 7] = [",", "\n", ";", "|", "+", "&", " "];
/// Words before brackets, for them to be no names.
const WORDS: usize = 8;
/// Items that say little by themselves; values of such that are held against ids, and those ids, at most.
const FEW_ITEMS: usize = 3;
const WANTED: usize = 200;
const KNOWN: usize = 20_000;
/// Parts of values that are looked at for whether they are names.
const SPLIT: usize = 10_000;

impl<'s, 't> Study<'s, 't> {
    pub(super) fn new(
        families: &'s [Family<'t>],
        shapes: &'s [Shape],
        (made, pairs): (&'s [Vec<Made>], &'s Pairs),
        names: &Names<'_>,
    ) -> Self {
        let mut study = Self {
            families,
            shapes,
            made,
            ids: HashMap::default(),
            short: HashSet::default(),
            shared: HashSet::default(),
            misspelt: HashSet::default(),
            fields: Vec::new(),
            of_family: Vec::new(),
            of_collection: HashMap::default(),
        };
        for (family, shape) in shapes.iter().enumerate() {
            for (number, collection) in shape.collections.iter().enumerate() {
                let at = (family, number);
                if let Some(between) = made[family][number].between() {
                    let behind = |id: &'s String| id.split_once(between).map(|(_, name)| name);
                    study.short.extend(made[family][number].ids.iter().filter_map(behind));
                }
                // Who is spoken of has its id elsewhere.
                let own = made[family][number].ids.iter().filter(|id| !id.is_empty() && !collection.is_edges);
                for id in own {
                    if *study.ids.entry(id).or_insert(at) != at {
                        study.shared.insert(id);
                    }
                }
            }
        }
        for (family, shape) in shapes.iter().enumerate() {
            let start = study.fields.len();
            for (number, collection) in shape.collections.iter().enumerate() {
                let at = (family, number);
                let start = study.fields.len();
                let pairs = &pairs[family][number];
                for (path, leaves) in &collection.fields {
                    if !pairs.iter().any(|pair| pair.fields.contains(path)) {
                        study.add(family, Some(number), path, leaves.iter().copied());
                    }
                }
                study.fields.extend(pairs.iter().map(|pair| Field::of_pair(at, pair)));
                for (path, leaves) in &collection.keyed {
                    study.add_keys(at, path, leaves);
                }
                tell_elements(&mut study.fields[start..]);
                study.of_collection.insert(at, start..study.fields.len());
            }
            for (path, spots) in shape.loose.iter().filter(|_| !shape.is_whole) {
                let leaves = spots.iter().map(|&spot| Leaf { item: spot.file, spot });
                study.add(family, None, path, leaves);
            }
            study.of_family.push(start..study.fields.len());
        }
        let mut fields = std::mem::take(&mut study.fields);
        fields.par_iter_mut().for_each(|field| study.split(field, names));
        study.fields = fields;
        study.misspelt = study.misspelt();
        study
    }

    /// Where an item or two are all that says what stands in a place, what is misspelt there would say nothing.
    fn misspelt(&self) -> HashSet<&'s str> {
        let has_few = |field: &&Field<'_>| {
            field.of.is_some_and(|of| self.ids_of((field.family, of)).len() <= FEW_ITEMS)
        };
        let values = self.fields.iter().filter(has_few).flat_map(|field| &field.values);
        let wanted = values.map(|value| value.text).filter(|text| !self.ids.contains_key(text)).take(WANTED);
        let wanted: Vec<&'s str> = wanted.collect();
        if wanted.is_empty() || self.ids.len() > KNOWN {
            return HashSet::default();
        }
        let known: Vec<&str> = self.ids.keys().copied().collect();
        let meant = meanings(&wanted, &known).into_iter().zip(wanted);
        meant
            .filter(|(meant, _)| meant.is_some_and(|meant| meant.likeness.is_misspelt()))
            .map(|(_, text)| text)
            .collect()
    }

    /// The same with collections whose keys are no ids of their own.
    pub(super) fn without_ids_of(mut self, apart: &HashSet<At>) -> Self {
        self.ids.clear();
        let own = |at: &At| !apart.contains(at) && !self.collection(*at).is_edges;
        for at in self.all().filter(own).collect::<Vec<At>>() {
            for id in self.ids_of(at).iter().filter(|id| !id.is_empty()) {
                self.ids.entry(id).or_insert(at);
            }
        }
        self
    }

    /// Adds the values at a path; where most of them end in brackets, what stands before those and between them.
    fn add(&mut self, family: usize, of: Option<usize>, path: &'s str, leaves: impl Iterator<Item = Leaf>) {
        let values: Vec<Value<'_>> = leaves.map(|leaf| self.value(family, leaf)).collect();
        let clause = of.and_then(|of| self.shapes[family].collections[of].clause(path));
        let field = |part, values| Field { clause, values, ..Field::new(family, of, path, part) };
        if clause.is_some_and(|clause| clause.are_several) {
            self.fields.push(Field { split: Some(" "), ..field(Part::Whole, values) });
            return;
        }
        if let Some((between, types, rest)) = of.and_then(|_| behind_types(&values)) {
            self.fields.push(field(Part::First(between), types));
            self.fields.push(Field { split: Some(between), ..field(Part::Behind(between), rest) });
            return;
        }
        let calls: Vec<_> = values.iter().filter_map(|value| Some((value, call(value.text)?))).collect();
        // Of few words each says what the name between the brackets is.
        let heads: HashSet<&str> = calls.iter().map(|(_, (head, _))| *head).collect();
        let are_words = heads.len() <= WORDS && !heads.iter().any(|head| is_type(head));
        if of.is_none() || calls.is_empty() || calls.len() * 10 < values.len() * 8 || are_words {
            self.fields.push(field(Part::Whole, values));
            return;
        }
        let heads = calls.iter().map(|(value, (head, _))| Value { text: head, ..**value }).collect();
        let arguments =
            calls.iter().map(|(value, (_, arguments))| Value { text: arguments, ..**value }).collect();
        self.fields.extend([field(Part::Head, heads), field(Part::Arguments, arguments)]);
    }

    /// Adds the keys that values stand under, where most are ids or look like names of contracts.
    fn add_keys(&mut self, (family, of): At, path: &'s str, leaves: &[Leaf]) {
        let families: &'s [Family<'t>] = self.families;
        let key = |leaf: &Leaf| {
            let text = families[family].documents[leaf.spot.file].tree.text(leaf.spot.key?);
            Some(Value { item: leaf.item, text, spot: leaf.spot })
        };
        let values: Vec<Value<'_>> = leaves.iter().filter_map(key).collect();
        let is_name = |value: &&Value<'_>| self.ids.contains_key(value.text) || ends_in_capital(value.text);
        if values.iter().filter(is_name).count() * 10 >= values.len() * 6 {
            self.fields.push(Field { values, ..Field::new(family, Some(of), path, Part::Key) });
        }
    }

    /// Takes values apart that are several names with one sign between: the one that parts most names.
    fn split(&self, field: &mut Field<'_>, names: &Names<'_>) {
        if field.split.is_some() || field.part == Part::Key {
            return;
        }
        let mut best: Option<(usize, &'static str)> = None;
        for between in BETWEEN {
            let known = self.names_between(field, between, names);
            // Arguments have commas between.
            let is_better =
                |known| best.is_none_or(|(most, _)| known > most && field.part != Part::Arguments);
            if known.is_some_and(is_better) {
                best = known.zip(Some(between));
            }
        }
        let Some((_, between)) = best else { return };
        let values = std::mem::take(&mut field.values).into_iter();
        let parts = values.flat_map(|value| {
            value.text.split(between).map(move |part| Value { text: part.trim(), ..value })
        });
        field.values = parts.filter(|value| !value.text.is_empty()).collect();
        field.split = Some(between);
    }

    /// How many names a sign parts in the values of a field, if what it parts are names.
    fn names_between(&self, field: &Field<'_>, between: &str, names: &Names<'_>) -> Option<usize> {
        // A sign before a name separates nothing.
        let has_several =
            |text: &str| text.split(between).filter(|part| !part.trim().is_empty()).nth(1).is_some();
        let several =
            field.values.iter().filter(|value| value.text.contains(between) && has_several(value.text));
        let parts = several.flat_map(|value| value.text.split(between)).map(str::trim);
        // Signs may stand around names; words before them too, unless it is a sign that stands before names as well.
        let is_sign = matches!(between, "|" | "+" | "&" | " ");
        let bare = |part| if is_sign { without_signs(part) } else { name_in(part) };
        let parts: Vec<&str> = parts.filter(|part| !part.is_empty()).take(SPLIT).map(bare).collect();
        // What stands in the field itself is used elsewhere only if it is used more often.
        let mut own: HashMap<&str, u32> = HashMap::default();
        for part in &parts {
            *own.entry(part).or_default() += 1;
        }
        let is_known = |part: &&&str| {
            let may_be = between != " " || ends_in_capital(part);
            let is_used = || may_be && names.is_used_beyond(part, own[**part]);
            // A word may say what the name behind it is.
            let behind = part.split_once(SEPARATING).map(|(_, name)| name);
            let mut ids = [Some(**part), behind].into_iter().flatten();
            let is_id = ids.any(|name| self.ids.contains_key(name) || self.short.contains(name));
            !part.is_empty() && part.chars().all(is_of_name) && (is_id || is_used())
        };
        let (all, known) = (parts.len(), parts.iter().filter(is_known).count());
        let are_names = if between == " " { known * 10 >= all * 7 } else { known * 2 >= all };
        (all > 1 && (are_names || field.part == Part::Arguments && between == ",")).then_some(known)
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

    /// The groups that items of a collection are in, where ids of the family begin with what those are called.
    pub(super) fn groups(&self, (family, of): At) -> Option<&'s Groups> {
        let in_group = |made: &Made| matches!(made.from, IdFrom::InGroup(..));
        let groups = self.shapes[family].collections[of].groups.as_deref()?;
        self.made[family].iter().any(in_group).then_some(groups)
    }

    /// What the group of an item of a collection is called.
    pub(super) fn group(&self, at: At, item: usize) -> Option<&'s str> {
        let groups = self.groups(at)?;
        let item = self.collection(at).items[item];
        let families: &'s [Family<'t>] = self.families;
        Some(groups.of(&families[at.0].documents[item.file].tree, item))
    }

    /// The ids of a collection, item by item.
    pub(super) fn ids_of(&self, at: At) -> &'s [String] {
        &self.made[at.0][at.1].ids
    }

    /// The paths of the fields that ids of a collection are made of.
    pub(super) fn id_paths(&self, at: At) -> Vec<String> {
        let path = |name: &String| self.path_of(at, name);
        let below = |outer: &str, inner: &str| format!("${}{}", step(outer), step(inner));
        match self.made[at.0][at.1].from.own() {
            IdFrom::Field(name) => vec![path(name)],
            IdFrom::Column(column) => vec![format!("$[{column}]")],
            IdFrom::Below(outer, inner) => vec![below(outer, inner)],
            IdFrom::Joined(one, other, _) => [one, other]
                .map(|place| match &place.outer {
                    Some(outer) => below(outer, &place.name),
                    None => path(&place.name),
                })
                .to_vec(),
            IdFrom::Key
            | IdFrom::KeyBehind(_)
            | IdFrom::Stem(_)
            | IdFrom::Said(_)
            | IdFrom::KeyPath(..)
            | IdFrom::InGroup(..)
            | IdFrom::File => Vec::new(),
        }
    }

    /// The path of the contracts that types of a collection are bound to.
    pub(super) fn contracts_path(&self, at: At) -> Option<String> {
        self.made[at.0][at.1].contracts.as_ref().map(|name| self.path_of(at, name))
    }

    /// The path of a field in the items of a collection: that of its text, where it is an element.
    pub(super) fn path_of(&self, at: At, name: &str) -> String {
        let path = format!("${}", step(name));
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

    /// Whether all items of a file say the same, and those of another something else.
    pub(super) fn is_of_files(&self, field: &Field<'_>) -> bool {
        let mut said: HashMap<&str, &str> = HashMap::default();
        let path = |value: &Value<'_>| self.families[field.family].documents[value.spot.file].path;
        let are_same =
            field.values.iter().all(|value| *said.entry(path(value)).or_insert(value.text) == value.text);
        are_same && said.len() > 1 && field.values.len() > said.len()
    }

    /// Where a value stands: file and line.
    pub(super) fn address(&self, family: usize, spot: Spot) -> String {
        let document = &self.families[family].documents[spot.file];
        let start = document.tree.span(spot.node).start as usize;
        let line = document.tree.source()[..start].matches('\n').count() + 1;
        format!("{}:{line}", document.path)
    }
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

/// Whether a text is the name of a type, or one with something behind it.
pub(super) fn begins_with_type(text: &str) -> bool {
    text.split([',', ' ', ';', '|', '(']).next().is_some_and(is_type)
}

/// Whether the last part of a name begins with a capital.
pub(super) fn ends_in_capital(name: &str) -> bool {
    begins_with_capital(last_part(name))
}

/// What stands between the parts of a name.
pub(super) const SEPARATORS: [char; 4] = ['.', '\\', ':', '/'];

/// The last part of a name.
pub(super) fn last_part(name: &str) -> &str {
    name.rsplit(SEPARATORS).next().unwrap_or(name)
}

fn begins_with_capital(text: &str) -> bool {
    text.chars().next().is_some_and(char::is_uppercase)
}
