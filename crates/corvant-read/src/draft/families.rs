//! Files in families: of one syntax, one ending and one depth, and of one shape.

use super::files::{Document, Text};
use super::statements;
use super::study::{begins_with_type, is_type};
use crate::custom::ReaderSyntax;
use crate::syntax::{NodeId, NodeKind};
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

/// Files that belong together.
#[derive(Debug, Clone)]
pub(super) struct Family<'t> {
    pub(super) syntax: ReaderSyntax,
    /// The pattern of their paths; others may fit it too.
    pub(super) glob: String,
    /// In the order of their paths.
    pub(super) documents: Vec<Document<'t>>,
}

impl Family<'_> {
    /// How many files there are: several documents may stand in one.
    pub(super) fn files(&self) -> usize {
        self.documents.chunk_by(|one, other| one.path == other.path).count()
    }

    /// Whether any of its files may hold several documents.
    pub(super) fn has_documents(&self) -> bool {
        self.documents.iter().any(|document| document.manner.documents)
    }
}

/// Dots in the ending of a name: beyond that they are in the name itself.
const DOTS: usize = 2;
/// Keys that are looked at in one map, and documents of one file.
const KEYS: usize = 200;
/// Shapes that files of one ending and depth are told apart by; those of further shapes are one family.
const SHAPES: usize = 64;

/// Files in one folder, for them to say what sort is in it.
const TELLING: usize = 3;
/// Names of folders that say what sort of files is in them, at most.
const SORTS: usize = 8;
/// What files share at least that are alike.
const ALIKE: f64 = 0.5;

/// A file with its documents; several may stand in one.
type Parsed<'t> = (ReaderSyntax, Vec<Document<'t>>);

/// Parsed files by families, in the order of what tells those apart.
pub(super) fn families<'t>(texts: &'t [Text], parsed: Vec<Vec<Document<'t>>>) -> Vec<Family<'t>> {
    let mut groups: BTreeMap<(&'static str, usize, &'t str), Vec<Parsed<'t>>> = BTreeMap::new();
    let endings = Endings::of(texts);
    for (text, documents) in texts.iter().zip(parsed).filter(|(_, documents)| !documents.is_empty()) {
        let group = (text.syntax.word(), text.path.matches('/').count(), endings.of_path(&text.path));
        groups.entry(group).or_default().push((text.syntax, documents));
    }
    let mut families = Vec::new();
    for group in groups.into_values().flat_map(by_folders) {
        let mut by_shape: BTreeMap<usize, Vec<Parsed<'t>>> = BTreeMap::new();
        let places = by_shapes(&group);
        places.into_iter().zip(group).for_each(|(place, one)| by_shape.entry(place).or_default().push(one));
        // Folders may tell apart the files of one shape where they do not tell apart all of a group.
        let groups = by_shape.into_values().flat_map(by_names).flat_map(by_folders);
        families.extend(groups.filter_map(|files| {
            let syntax = files.first()?.0;
            let documents: Vec<Document<'_>> =
                files.into_iter().flat_map(|(_, documents)| documents).collect();
            let glob = in_common(documents.iter().map(|document| document.path));
            Some(Family { syntax, glob, documents })
        }));
    }
    families.sort_by(|one, other| (one.syntax.word(), &one.glob).cmp(&(other.syntax.word(), &other.glob)));
    families
}

/// Families, some of which are one; by the number of the first of those.
pub(super) fn joined<'t>(families: Vec<Family<'t>>, first: &[usize]) -> Vec<Family<'t>> {
    let mut joined: BTreeMap<usize, Family<'t>> = BTreeMap::new();
    for (family, &first) in families.into_iter().zip(first) {
        match joined.get_mut(&first) {
            None => _ = joined.insert(first, family),
            Some(known) => {
                known.documents.extend(family.documents);
                known.documents.sort_by_key(|document| document.path);
                known.glob = in_common(known.documents.iter().map(|document| document.path));
            }
        }
    }
    joined.into_values().collect()
}

/// Endings of files. Where nearly every file has another behind the first dot, that is a part of its name: `depot.gate.yaml`.
struct Endings<'t> {
    /// By depth and what is behind the last dot: only that counts.
    short: HashSet<(usize, &'t str)>,
}

impl<'t> Endings<'t> {
    fn of(texts: &'t [Text]) -> Self {
        let mut all: HashMap<(usize, &str), (usize, HashSet<&str>)> = HashMap::default();
        for path in texts.iter().map(|text| text.path.as_str()) {
            let (files, endings) = all.entry(sort_by_name(path)).or_default();
            *files += 1;
            endings.insert(ending(name(path)));
        }
        let are_names = |files: usize, endings: usize| endings > SORTS && endings * 10 > files;
        let short = all.into_iter().filter(|(_, (files, endings))| are_names(*files, endings.len()));
        Self { short: short.map(|(key, _)| key).collect() }
    }

    fn of_path(&self, path: &'t str) -> &'t str {
        let key = sort_by_name(path);
        if self.short.contains(&key) { key.1 } else { ending(name(path)) }
    }
}

/// What a path says of the sort of its file: how deep it lies, and what stands behind the last dot.
fn sort_by_name(path: &str) -> (usize, &str) {
    (path.matches('/').count(), last_ending(path))
}

/// What stands behind the last dot of a path, with that.
pub(super) fn last_ending(path: &str) -> &str {
    path.rfind('.').map_or("", |dot| &path[dot..])
}

/// What a file looks like from above: the keys at its root, those of the maps right below, and those of the maps below these, by
/// how often they stand there.
#[derive(Default)]
struct Look<'d> {
    at_root: BTreeMap<&'d str, usize>,
    below: BTreeMap<&'d str, usize>,
    deeper: BTreeMap<&'d str, usize>,
    /// Whether there is no map below its root; and whether lists are.
    is_flat: bool,
    has_lists: bool,
}

fn look<'d>((syntax, documents): &'d Parsed<'_>) -> Look<'d> {
    let mut look = Look::default();
    if *syntax == ReaderSyntax::Lines {
        for document in documents {
            for word in statements::beginnings(document) {
                *look.below.entry(word).or_default() += 1;
            }
        }
        return look;
    }
    for Document { tree, root, .. } in documents.iter().take(KEYS) {
        let mut below: Vec<NodeId> = Vec::new();
        match tree.kind(*root) {
            NodeKind::Map => {
                for (key, value) in tree.fields(*root).take(KEYS) {
                    *look.at_root.entry(tree.text(key)).or_default() += 1;
                    below.push(value);
                }
            }
            NodeKind::List => below.push(*root),
            _ => {}
        }
        for value in below {
            let elements = (tree.kind(value) == NodeKind::List).then(|| tree.children(value));
            let maps =
                elements.into_iter().flatten().chain([value]).filter(|&map| tree.kind(map) == NodeKind::Map);
            for (key, inner) in maps.take(KEYS).flat_map(|map| tree.fields(map).take(KEYS)) {
                *look.below.entry(tree.text(key)).or_default() += 1;
                let is_map = tree.kind(inner) == NodeKind::Map && look.deeper.len() < KEYS;
                let keys = is_map.then(|| tree.fields(inner).take(KEYS)).into_iter().flatten();
                keys.for_each(|(key, _)| *look.deeper.entry(tree.text(key)).or_default() += 1);
            }
            look.has_lists |= tree.kind(value) == NodeKind::List;
        }
    }
    look.is_flat = look.below.is_empty();
    look
}

/// Files of one shape, by how many there are.
#[derive(Default)]
struct Cluster<'d> {
    files: usize,
    at_root: Known<'d>,
    below: Known<'d>,
    deeper: Known<'d>,
}

/// By key how many files have it, and how often it stands in all of them.
type Known<'d> = HashMap<&'d str, (usize, usize)>;

impl<'d> Cluster<'d> {
    fn add(&mut self, look: &Look<'d>) {
        self.files += 1;
        let levels = [
            (&mut self.at_root, &look.at_root),
            (&mut self.below, &look.below),
            (&mut self.deeper, &look.deeper),
        ];
        for (known, keys) in levels {
            for (key, times) in keys {
                let (files, all) = known.entry(key).or_default();
                (*files, *all) = (*files + 1, *all + times);
            }
            // Names that nearly every file has others of say nothing of the shape.
            if self.files > 8 && known.len() > 4 * KEYS {
                known.retain(|_, (files, _)| *files * 8 > self.files);
            }
        }
    }

    /// How much a file is like these, if it is more like them than not.
    fn likeness(&self, look: &Look<'_>) -> Option<f64> {
        let upper = self.shared(&self.at_root, &look.at_root).max(self.shared(&self.below, &look.below));
        let most = if upper > ALIKE { upper } else { self.shared(&self.deeper, &look.deeper) };
        (most > ALIKE).then_some(most)
    }

    /// How usual the keys of a file are among these, and how much of what is usual it has, from 0 to 1: the less of the two.
    fn shared(&self, known: &Known<'_>, keys: &BTreeMap<&str, usize>) -> f64 {
        let all: usize = keys.values().sum();
        let share: usize =
            keys.iter().map(|(key, times)| known.get(key).map_or(0, |(files, _)| files * times)).sum();
        let of_its_own = share as f64 / (self.files * all).max(1) as f64;
        // Most shapes have nothing in common: there is nothing more to count then.
        if of_its_own <= ALIKE {
            return of_its_own;
        }
        let is_usual = |(files, _): &&(usize, usize)| files * 2 > self.files;
        let usual: usize = known.values().filter(is_usual).map(|(_, times)| times).sum();
        let found = keys.keys().filter_map(|key| known.get(key)).filter(is_usual);
        let has: usize = found.map(|(_, times)| times).sum();
        of_its_own.min(2.0 * has as f64 / usual.max(1) as f64)
    }
}

/// By file the number of its shape. Files of one name are of one shape, unless they are like others; flat files that are like no
/// others are so too, those with lists and those without: their keys are names.
fn by_shapes(files: &[Parsed<'_>]) -> Vec<usize> {
    let looks: Vec<Look<'_>> = files.par_iter().map(look).collect();
    let mut usual: HashMap<&str, usize> = HashMap::default();
    looks.iter().flat_map(|look| look.at_root.keys()).for_each(|key| *usual.entry(key).or_default() += 1);
    usual.retain(|_, count| *count > 1 && *count * 10 > files.len());
    let has_names = |look: &Look<'_>| {
        look.is_flat
            && look.at_root.keys().filter(|key| usual.contains_key(**key)).count() * 2 < look.at_root.len()
    };
    let mut clusters: Vec<Cluster<'_>> = Vec::new();
    let mut by_name: HashMap<&str, usize> = HashMap::default();
    let nearest = |clusters: &[Cluster<'_>], look: &Look<'_>| {
        let likeness =
            clusters.iter().enumerate().filter_map(|(number, known)| Some((known.likeness(look)?, number)));
        let nearest = likeness.max_by(|one, other| one.0.total_cmp(&other.0).then(other.1.cmp(&one.1)));
        nearest.map(|(_, number)| number)
    };
    let mut places = Vec::new();
    for (look, (_, documents)) in looks.iter().zip(files) {
        let name = name(documents[0].path);
        let place = match nearest(&clusters, look).or_else(|| by_name.get(name).copied()) {
            None if has_names(look) => None,
            None => {
                if clusters.len() <= SHAPES {
                    clusters.push(Cluster::default());
                }
                Some(clusters.len() - 1)
            }
            known => known,
        };
        if let Some(number) = place {
            clusters[number].add(look);
            by_name.entry(name).or_insert(number);
        }
        places.push(place);
    }
    let place = |(place, look): (Option<usize>, &Look<'_>)| {
        place.or_else(|| nearest(&clusters, look)).unwrap_or(clusters.len() + usize::from(look.has_lists))
    };
    let places: Vec<usize> = places.into_iter().zip(&looks).map(place).collect();
    in_one_section(files, places)
}

/// Files that have the name of a type in the same section are of one shape, whatever other sections they have.
fn in_one_section(files: &[Parsed<'_>], mut places: Vec<usize>) -> Vec<usize> {
    let mut sections: BTreeMap<usize, BTreeSet<Option<(&str, &str)>>> = BTreeMap::new();
    for (place, (_, documents)) in places.iter().zip(files) {
        sections.entry(*place).or_default().insert(section_of_type(&documents[0]));
    }
    let mut first: BTreeMap<(&str, &str), usize> = BTreeMap::new();
    let of_one = sections.iter().filter(|(_, found)| found.len() == 1);
    let same: BTreeMap<usize, usize> = of_one
        .filter_map(|(place, found)| Some((*place, *first.entry((*found.first()?)?).or_insert(*place))))
        .collect();
    for place in &mut places {
        *place = same.get(place).copied().unwrap_or(*place);
    }
    places
}

/// The keys of the first section at the root of a document that has the name of a type, and of that.
fn section_of_type<'d>(document: &'d Document<'_>) -> Option<(&'d str, &'d str)> {
    let tree = &document.tree;
    let map = |node: NodeId| (tree.kind(node) == NodeKind::Map).then(|| tree.fields(node).take(KEYS));
    map(document.root)?.find_map(|(section, inner)| {
        let is_one = |value: NodeId| tree.kind(value) == NodeKind::Text && is_type(tree.text(value));
        let (key, _) = map(inner)?.find(|(_, value)| is_one(*value))?;
        Some((tree.text(section), tree.text(key)))
    })
}

/// Nothing but their names tells flat files apart whose keys are names, where files in many folders share them.
fn by_names<'t>(group: Vec<Parsed<'t>>) -> Vec<Vec<Parsed<'t>>> {
    let (mut keys, mut distinct) = (0, BTreeSet::new());
    let are_flat = group.iter().map(look).all(|look| {
        keys += look.at_root.len();
        distinct.extend(look.at_root.into_keys());
        look.is_flat
    });
    if !are_flat || distinct.len() * 2 < keys {
        return vec![group];
    }
    let path = |(_, documents): &Parsed<'t>| documents[0].path;
    let mut folders: HashMap<&str, usize> = HashMap::default();
    for one in &group {
        *folders.entry(name(path(one))).or_default() += 1;
    }
    let mut by_name: BTreeMap<&str, Vec<Parsed<'t>>> = BTreeMap::new();
    for one in group {
        let own = name(path(&one));
        by_name.entry(if folders[own] > 1 { own } else { "" }).or_default().push(one);
    }
    by_name.into_values().collect()
}

/// Where files of one sort lie in folders of one name, and those of another in folders of another, they are apart:
/// `depot/services`, `depot/entries`; and so where they are called alike themselves. A sort are those that name types at one depth, or those that hold maps, lists or texts.
fn by_folders<'t>(group: Vec<Parsed<'t>>) -> Vec<Vec<Parsed<'t>>> {
    let first = |(_, documents): &Parsed<'t>| (depth_of_type(&documents[0]), inside(&documents[0]));
    let (typed, inside): (Vec<Option<usize>>, Vec<Option<Inside>>) = group.iter().map(first).unzip();
    let Some(place) = place_of_sorts(&group, &typed).or_else(|| place_of_sorts(&group, &inside)) else {
        return vec![group];
    };
    let mut by_word: BTreeMap<&str, Vec<Parsed<'t>>> = BTreeMap::new();
    for one in group {
        by_word.entry(folder(&one, place)).or_default().push(one);
    }
    by_word.into_values().collect()
}

/// The name of a folder on the way to a file; behind the last that of the file.
fn folder<'t>((_, documents): &Parsed<'t>, place: usize) -> &'t str {
    documents[0].path.split('/').nth(place).unwrap_or_default()
}

/// Where on the way to files a folder says of which sort they are.
fn place_of_sorts<Sort: Ord + Copy>(group: &[Parsed<'_>], sorts: &[Sort]) -> Option<usize> {
    if sorts.iter().all(|sort| *sort == sorts[0]) {
        return None;
    }
    let are_apart = |place: &usize| {
        let mut words: BTreeMap<&str, BTreeMap<Sort, usize>> = BTreeMap::new();
        for (one, sort) in group.iter().zip(sorts) {
            *words.entry(folder(one, *place)).or_default().entry(*sort).or_default() += 1;
        }
        let of_one_sort = |counts: &BTreeMap<Sort, usize>| {
            let all: usize = counts.values().sum();
            let (sort, count) = counts.iter().max_by_key(|(_, count)| **count)?;
            (count * 10 >= all * 9).then_some(*sort)
        };
        // A few files are of one sort by chance.
        let many = words.values().filter(|counts| counts.values().sum::<usize>() >= TELLING);
        let found: Option<Vec<Sort>> = many.map(of_one_sort).collect();
        words.len() <= SORTS && found.is_some_and(|found| found.iter().any(|sort| *sort != found[0]))
    };
    (0..=group[0].1[0].path.matches('/').count()).find(are_apart)
}

/// What stands under the keys at a root.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Inside {
    Maps,
    Lists,
    Plain,
}

/// How many maps are gone into where types are looked for.
const TYPES: usize = 3;

/// How deep in a document the name of a type stands; `None`: nowhere near its root.
fn depth_of_type(document: &Document<'_>) -> Option<usize> {
    let tree = &document.tree;
    let mut values = vec![document.root];
    (0..=TYPES).find(|_| {
        let mut texts = values.iter().filter(|&&value| tree.kind(value) == NodeKind::Text);
        if texts.any(|&value| begins_with_type(tree.text(value))) {
            return true;
        }
        let inside = |value: NodeId| {
            let fields = (tree.kind(value) == NodeKind::Map).then(|| tree.fields(value));
            let elements = (tree.kind(value) == NodeKind::List).then(|| tree.children(value));
            let fields = fields.into_iter().flatten().map(|(_, value)| value);
            fields.chain(elements.into_iter().flatten())
        };
        values = values.iter().flat_map(|&value| inside(value)).take(KEYS).collect();
        false
    })
}

/// What stands under all keys at the root of a document; `None`: several sorts do.
fn inside(document: &Document<'_>) -> Option<Inside> {
    let sort = |value: NodeId| match document.tree.kind(value) {
        NodeKind::Map => Inside::Maps,
        NodeKind::List => Inside::Lists,
        _ => Inside::Plain,
    };
    let mut sorts = fields(document).map(sort);
    let first = sorts.next()?;
    sorts.all(|sort| sort == first).then_some(first)
}

fn fields<'d>(Document { tree, root, .. }: &'d Document<'_>) -> impl Iterator<Item = NodeId> + 'd {
    let fields = (tree.kind(*root) == NodeKind::Map).then(|| tree.fields(*root));
    fields.into_iter().flatten().take(KEYS).map(|(_, value)| value)
}

fn name(path: &str) -> &str {
    path.rsplit('/').next().unwrap_or_default()
}

/// All behind the first dot of a name, with that dot; of a name with many dots what is behind the last.
fn ending(name: &str) -> &str {
    let dot = if name.matches('.').count() > DOTS { name.rfind('.') } else { name.find('.') };
    dot.map_or("", |dot| &name[dot..])
}

/// The pattern of paths of one depth and ending, with a star for each part that differs.
fn in_common<'p>(paths: impl Iterator<Item = &'p str>) -> String {
    let mut common: Vec<String> = Vec::new();
    for path in paths {
        let parts = path.split('/');
        if common.is_empty() {
            common = parts.map(str::to_owned).collect();
            continue;
        }
        let last = common.len() - 1;
        for (number, (known, part)) in common.iter_mut().zip(parts).enumerate() {
            if known != part {
                *known = if number == last { in_common_at_end(known, part) } else { "*".to_owned() };
            }
        }
    }
    common.join("/")
}

/// A star for names, or a pattern and a name, with the ending that they share.
fn in_common_at_end(known: &str, name: &str) -> String {
    let shared = known.strip_prefix('*').unwrap_or_else(|| ending(known));
    format!("*{}", if name.ends_with(shared) { shared } else { last_ending(name) })
}

/// All files of a folder, by their depth and ending.
pub(super) struct Paths<'p> {
    by_ending: HashMap<(usize, &'p str), Vec<&'p str>>,
}

/// More patterns than these are a list of files.
const FEW_PATTERNS: usize = 8;
/// Patterns that stand in one reader.
const PATTERNS: usize = 40;

impl<'p> Paths<'p> {
    pub(super) fn new(paths: impl Iterator<Item = &'p str>) -> Self {
        let mut by_ending: HashMap<(usize, &str), Vec<&str>> = HashMap::default();
        for path in paths {
            by_ending.entry(sort_by_name(path)).or_default().push(path);
        }
        Self { by_ending }
    }

    /// Which families are one for a reader, by the number of the first: of one with many patterns and of those whose files lie
    /// among its own nothing but what stands in them tells files apart. `None`: all are their own.
    pub(super) fn together(
        &self,
        families: &[Family<'_>],
        patterns: &[Option<Vec<String>>],
        holds: &[bool],
    ) -> Option<Vec<usize>> {
        let documents = families.iter().enumerate();
        let places = documents.flat_map(|(number, family)| {
            family.documents.iter().map(move |document| (document.path, number))
        });
        let places: HashMap<&str, usize> = places.collect();
        let mut first: Vec<usize> = (0..families.len()).collect();
        for (number, family) in families.iter().enumerate() {
            let are_many = patterns[number].as_ref().is_none_or(|patterns| patterns.len() > FEW_PATTERNS);
            if !holds[number] || !are_many {
                continue;
            }
            let of = |path| {
                let may_be = |&other: &usize| holds[other] && families[other].syntax == family.syntax;
                places.get(path).copied().filter(may_be)
            };
            let others: Option<BTreeSet<usize>> = self.among(family).map(of).collect();
            for other in others.unwrap_or_default() {
                let (one, other) = (first[number].min(first[other]), first[number].max(first[other]));
                first.iter_mut().filter(|first| **first == other).for_each(|first| *first = one);
            }
        }
        first.iter().enumerate().any(|(number, first)| number != *first).then_some(first)
    }

    /// Files of no other sort by their names that are not of a family.
    fn among<'f>(&'f self, family: &'f Family<'_>) -> impl Iterator<Item = &'p str> + 'f {
        let own: BTreeSet<&str> = family.documents.iter().map(|document| document.path).collect();
        let others =
            family.documents.first().and_then(|document| self.by_ending.get(&sort_by_name(document.path)));
        let others = others.map_or(&[][..], Vec::as_slice).iter().copied();
        others.filter(move |path| !own.contains(path) && fits(&family.glob, path))
    }

    /// Patterns that only files of a family fit: one for all, else one for each name, else for each folder those that are
    /// alone of their ending there and all others by themselves. `None`: that would be too many.
    pub(super) fn patterns(&self, family: &Family<'_>) -> Option<Vec<String>> {
        let own: BTreeSet<&str> = family.documents.iter().map(|document| document.path).collect();
        let first = own.first().copied()?;
        let others = self.by_ending.get(&sort_by_name(first)).map_or(&[][..], Vec::as_slice);
        let is_clear = |pattern: &str| !others.iter().any(|path| !own.contains(path) && fits(pattern, path));
        if is_clear(&family.glob) {
            return Some(vec![escaped(&family.glob, own.len())]);
        }
        let by = |part: fn(&str) -> &str| -> Option<Vec<String>> {
            let mut groups: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
            for path in &own {
                groups.entry(part(path)).or_default().push(path);
            }
            // Each has one pattern at least, and would be held against all other files.
            if groups.len() > PATTERNS {
                return None;
            }
            let patterns = groups.into_values().flat_map(|paths| {
                let pattern = in_common(paths.iter().copied());
                let alone = || paths.iter().map(|path| escaped(path, 1)).collect();
                if is_clear(&pattern) { vec![escaped(&pattern, paths.len())] } else { alone() }
            });
            Some(patterns.collect::<Vec<String>>()).filter(|patterns| patterns.len() <= PATTERNS)
        };
        let folder: fn(&str) -> &str = |path| path.rsplit_once('/').map_or("", |(folder, _)| folder);
        [by(name), by(folder)].into_iter().flatten().min_by_key(Vec::len)
    }
}

/// Whether a path of the same depth and ending fits a pattern.
fn fits(pattern: &str, path: &str) -> bool {
    let fits = |(pattern, part): (&str, &str)| {
        pattern == part || pattern.strip_prefix('*').is_some_and(|rest| part.ends_with(rest))
    };
    pattern.split('/').zip(path.split('/')).all(fits)
}

/// A pattern as it stands in a workspace file: of several files stars count, all other signs stand for themselves.
fn escaped(pattern: &str, files: usize) -> String {
    let part = |part: &str| match part.strip_prefix('*') {
        Some(rest) if files > 1 => format!("*{}", globset::escape(rest)),
        _ => globset::escape(part),
    };
    pattern.split('/').map(part).collect::<Vec<_>>().join("/")
}
