//! Names of items in groups of one file, a group for each module: what the group is called stands before what they are called.

use super::elements::{GROUPED, are_unique};
use super::ids::written_id;
use super::module::BETWEEN;
use super::names::is_of_name;
use super::shape::{Collection, IdFrom, Looking, SAMPLE, Spot, Waiting, step};
use crate::custom::ReaderSyntax;
use crate::custom::path::{Path, Selected};
use crate::syntax::{NodeId, NodeKind, Tree};
use foldhash::{HashMap, HashSet};
use std::collections::BTreeMap;
use std::sync::Arc;

/// Fewer names that are asked for so say nothing.
const FEW: usize = 3;
/// Texts that may be names, of groups and of items.
const NAMES: usize = 3;
/// What has more keys is no record of sections.
const SECTIONS: usize = 60;

/// The groups that items are in.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Groups {
    /// By file and node of an item what its group is called: the key of that, or a text in it.
    names: HashMap<(usize, usize), NodeId>,
    /// The path of that text from the group; `None`: it is the key.
    pub(super) from: Option<String>,
    /// How many maps the group is above an item.
    pub(super) above: usize,
    /// Where groups stand.
    path: String,
}

/// By file and node of each item the group that it is in, and how many maps that is above it.
#[derive(Default)]
struct Within {
    groups: Vec<((usize, usize), Spot)>,
    above: usize,
    /// Where groups stand.
    path: String,
}

impl Groups {
    /// What the group of an item is called.
    pub(super) fn of<'t>(&self, tree: &'t Tree<'_>, item: Spot) -> &'t str {
        self.names.get(&item.place()).map_or("", |name| tree.text(*name))
    }
}

impl Looking<'_, '_> {
    /// Goes into maps of groups: what stands under their keys is asked for by both keys together. Beside one, others with the same
    /// keys are such maps too, unless their keys make one name whatever stands there.
    pub(super) fn go_into_groups(
        &mut self,
        path: &str,
        by_key: &BTreeMap<String, Vec<Spot>>,
        (depth, waiting): (usize, &mut Waiting),
    ) -> bool {
        if self.are_asked_for_together(by_key.values().flatten().copied()) {
            let groups = by_key.values().flatten().copied().collect();
            waiting.push((format!("{path}.*"), groups, depth + 1));
            return true;
        }
        if by_key.len() > SECTIONS {
            return false;
        }
        let inside = |sections: &[Spot]| -> Vec<Spot> {
            sections.iter().flat_map(|&section| self.fields(section)).collect()
        };
        let sections: Vec<Vec<Spot>> = by_key.values().map(|sections| inside(sections)).collect();
        let of_groups = sections.iter().filter(|groups| self.are_asked_for_together(groups.iter().copied()));
        let keys: HashSet<String> = of_groups.flatten().map(|&group| self.key(group).to_owned()).collect();
        if keys.is_empty() {
            return false;
        }
        for ((key, sections), groups) in by_key.iter().zip(sections) {
            let path = format!("{path}{}", step(key));
            let are_groups = groups.len() > 1 && groups.iter().all(|&group| keys.contains(self.key(group)));
            if !are_groups {
                waiting.push((path, sections.clone(), depth + 1));
            } else if !self.key_paths(&path, sections) {
                waiting.push((format!("{path}.*"), groups, depth + 2));
            }
        }
        true
    }

    /// Whether the keys of several maps, with keys of those behind them, are names that are asked for.
    fn are_asked_for_together(&self, groups: impl Iterator<Item = Spot> + Clone) -> bool {
        if self.family.syntax == ReaderSyntax::Xml {
            return false;
        }
        let fields = groups.clone().flat_map(|group| self.fields(group).map(move |field| (group, field)));
        let (mut all, mut asked, mut keys) = (0, 0, HashSet::default());
        for (group, field) in fields.take(SAMPLE) {
            all += 1;
            // What is plain has its name from all keys that lead to it.
            if self.kind(field) == NodeKind::Map {
                let (key, own) = (self.key(group), self.key(field));
                let is_asked = |between: &str| self.names.is_used(&format!("{key}{between}{own}"));
                if BETWEEN.into_iter().any(is_asked) {
                    asked += 1;
                    keys.insert(key);
                }
            }
        }
        keys.len() > 1 && asked >= FEW && asked * 4 >= all && !self.are_sorts(groups)
    }

    /// Whether maps under one key have other fields in them than those under another: keys are sorts then, and no modules.
    fn are_sorts(&self, groups: impl Iterator<Item = Spot>) -> bool {
        let mut fields: BTreeMap<&str, HashSet<&str>> = BTreeMap::new();
        for group in groups {
            let inside = self.fields(group).take(GROUPED).flat_map(|item| self.fields(item));
            fields.entry(self.key(group)).or_default().extend(inside.map(|field| self.key(field)));
        }
        let mut fields = fields.into_values().filter(|fields| !fields.is_empty());
        let Some(first) = fields.next() else { return false };
        fields.any(|other| first.is_disjoint(&other))
    }

    /// Whether keys lead to sorts of items that are parted in the same way each, by module mostly: the items of each are alike, and
    /// some are unlike those of another.
    pub(super) fn are_sections_of_groups(&self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        if self.family.syntax == ReaderSyntax::Xml || by_key.len() < 2 || !self.are_maps(by_key) {
            return false;
        }
        // Most sections have nothing in common.
        let sections: Vec<Spot> = by_key.values().flatten().copied().collect();
        let is_shared = |group: Spot| {
            let has = |&&other: &&Spot| self.tree(other).field(other.node, self.key(group)).is_some();
            sections.iter().filter(has).take(2).count() > 1
        };
        if !self.fields(sections[0]).take(GROUPED).any(is_shared) {
            return false;
        }
        let groups = self.by_key(&sections);
        let shared = groups.values().filter(|groups| groups.len() > 1).count();
        if groups.len() < 2 || shared * 10 < groups.len() * 6 || !self.are_maps(&groups) {
            return false;
        }
        let items = |section: &Vec<Spot>| -> Vec<Spot> {
            let groups = section.iter().flat_map(|&map| self.fields(map));
            groups.flat_map(|group| self.fields(group)).collect()
        };
        let sections: Vec<Vec<Spot>> = by_key.values().map(items).collect();
        let all: Vec<Spot> = sections.iter().flatten().copied().collect();
        let keys: HashSet<&str> = all.iter().map(|&item| self.key(item)).collect();
        let fields: Vec<HashSet<&str>> = sections
            .iter()
            .map(|items| {
                items.iter().flat_map(|&item| self.fields(item)).map(|field| self.key(field)).collect()
            })
            .collect();
        let are_alike = |items: &Vec<Spot>| {
            let maps = items.iter().filter(|&&item| self.kind(item) == NodeKind::Map).count();
            maps == 0 || maps == items.len() && self.are_alike(items.iter().copied())
        };
        let differ = |one: &HashSet<&str>| fields.iter().any(|other| one.is_disjoint(other));
        all.len() >= groups.len() * GROUPED
            && keys.len() * 10 >= all.len() * 9
            && sections.iter().all(are_alike)
            && fields.iter().any(differ)
    }

    /// Adds to what ids may be names behind those of groups, where they are asked for so; what else is in such groups is in
    /// them too.
    pub(super) fn names_in_groups(&mut self) {
        let found: Vec<Option<IdFrom>> =
            self.shape.collections.iter().map(|collection| self.id_in_group(collection)).collect();
        for (collection, id) in self.shape.collections.iter_mut().zip(found) {
            collection.ids.extend(id);
        }
        let named = |id: &IdFrom| match id {
            IdFrom::InGroup(_, groups, between) => Some((groups.clone(), *between)),
            _ => None,
        };
        let mut ids = self.shape.collections.iter().flat_map(|collection| &collection.ids);
        let Some((groups, between)) = ids.find_map(named) else { return };
        let way = |collection: &Collection| {
            let own = collection.ids.iter().find_map(named).map(|(groups, _)| groups);
            let groups = own.or_else(|| self.same_groups(collection, &groups).map(Arc::new))?;
            Some((self.id_local_to(collection, &groups, between), groups))
        };
        let ways: Vec<_> = self.shape.collections.iter().map(way).collect();
        for (collection, (id, groups)) in self
            .shape
            .collections
            .iter_mut()
            .zip(ways)
            .filter_map(|(collection, way)| Some((collection, way?)))
        {
            collection.groups = Some(groups);
            if let Some(id) = id {
                collection.ids = vec![id];
            }
        }
    }

    /// The groups of others, where all items of a collection are in them.
    fn same_groups(&self, collection: &Collection, of: &Groups) -> Option<Groups> {
        collection.each.strip_prefix(of.path.as_str()).filter(|rest| rest.starts_with(['.', '[']))?;
        let within = self.within(collection, of.path.clone());
        let groups = self.called(&within, of.from.as_deref())?;
        (groups.names.len() == collection.items.len()).then_some(groups)
    }

    /// What ids are where names are unique in their groups alone.
    fn id_local_to(
        &self,
        collection: &Collection,
        groups: &Arc<Groups>,
        between: &'static str,
    ) -> Option<IdFrom> {
        let own = collection.ids.first().filter(|own| matches!(own, IdFrom::Key | IdFrom::Field(_)))?;
        let sample = &collection.items[..collection.items.len().min(SAMPLE)];
        let names = sample.iter().map(|&item| {
            let tree = self.tree(item);
            (groups.of(tree, item), written_id(&self.family.documents[item.file], own, item))
        });
        let names: Vec<(&str, String)> = names.collect();
        let alone: Vec<&str> = names.iter().map(|(_, name)| name.as_str()).collect();
        (!are_unique(&alone) && are_unique(&names))
            .then(|| IdFrom::InGroup(Box::new(own.clone()), groups.clone(), between))
    }

    /// What ids may be in the groups that items are in, if they are asked for so.
    pub(super) fn id_in_group(&self, collection: &Collection) -> Option<IdFrom> {
        if matches!(collection.ids.first(), Some(IdFrom::InGroup(..))) {
            return None;
        }
        let own = collection.ids.first().filter(|own| matches!(own, IdFrom::Key | IdFrom::Field(_)));
        let by_key = own.and_then(|own| Some((own.clone(), self.groups_by_key(collection)?)));
        let sample = &collection.items[..collection.items.len().min(SAMPLE)];
        let is_asked = |item: &&Spot| {
            let id =
                collection.ids.first().map(|id| written_id(&self.family.documents[item.file], id, **item));
            id.is_some_and(|id| self.names.is_used_elsewhere(&id))
        };
        // Where names are asked for as they are, nothing stands before them.
        let in_lists = || {
            let are_asked = sample.iter().filter(is_asked).count() * 2 >= sample.len();
            if are_asked { Vec::new() } else { self.groups_in_lists(collection) }
        };
        let ways = by_key.map_or_else(in_lists, |way| vec![way]);
        let mut best: Option<(usize, IdFrom)> = None;
        for (own, groups) in ways {
            for between in BETWEEN.into_iter().rev() {
                let names = sample.iter().map(|&item| {
                    let own = written_id(&self.family.documents[item.file], &own, item);
                    format!("{}{between}{own}", groups.of(self.tree(item), item))
                });
                let asked = names.filter(|name| self.names.is_used(name)).count();
                let is_enough = asked >= FEW && asked * 4 >= sample.len();
                if is_enough && best.as_ref().is_none_or(|(most, _)| asked >= *most) {
                    best = Some((asked, IdFrom::InGroup(Box::new(own.clone()), groups.clone(), between)));
                }
            }
        }
        best.map(|(_, id)| id)
    }

    /// The groups that items are in: what the first step to any key leads to on their path, where others follow.
    fn groups_by_key(&self, collection: &Collection) -> Option<Arc<Groups>> {
        let (before, _) = collection.each.split_once(".*").filter(|(_, rest)| !rest.is_empty())?;
        let within = self.within(collection, format!("{before}.*"));
        Some(Arc::new(self.called(&within, None)?))
    }

    /// The groups that items are in: elements of the list nearest to them, and one of the texts that each of those has another of;
    /// with each text of items that may be a name in such a group.
    fn groups_in_lists(&self, collection: &Collection) -> Vec<(IdFrom, Arc<Groups>)> {
        let each = collection.each.as_str();
        let inner = each.strip_suffix("[*]").and_then(|outer| Some(&outer[..outer.rfind("[*]")? + 3]));
        let Some(path) = inner.filter(|path| !path.contains('?')) else { return Vec::new() };
        let names = |maps: &[Spot], are_own: &dyn Fn(&[&str]) -> bool| -> Vec<String> {
            let by_key = self.by_key(&maps[..maps.len().min(SAMPLE)]);
            let names = by_key.into_iter().filter(|(_, values)| {
                let are_texts = values.iter().all(|&value| self.kind(value) == NodeKind::Text);
                let texts: Vec<&str> = values.iter().map(|&value| self.text(value)).collect();
                are_texts && values.len() == maps.len().min(SAMPLE) && are_own(&texts)
            });
            names.map(|(key, _)| key).take(NAMES).collect()
        };
        let are_names =
            |texts: &[&str]| texts.iter().all(|text| !text.is_empty() && text.chars().all(is_of_name));
        let groups = self.all_at(path);
        let outer = names(&groups, &|texts| texts.len() > 1 && are_names(texts) && are_unique(texts));
        let own = names(&collection.items, &are_names);
        if outer.is_empty() || own.is_empty() {
            return Vec::new();
        }
        let within = self.within(collection, path.to_owned());
        let field = |name: &String| format!("${}", step(name));
        let groups = outer.iter().filter_map(|outer| self.called(&within, Some(&field(outer))).map(Arc::new));
        groups
            .flat_map(|groups| own.iter().map(move |own| (IdFrom::Field(own.clone()), groups.clone())))
            .collect()
    }

    /// What stands at a path in all files.
    fn all_at(&self, path: &str) -> Vec<Spot> {
        let Ok(path) = Path::new(path) else { return Vec::new() };
        let documents = self.family.documents.iter().enumerate();
        let found = documents.flat_map(|(file, document)| {
            let found = path.select(&document.tree, Selected::root(document.root));
            found.into_iter().map(move |found| Spot { file, node: found.node, key: found.key })
        });
        found.collect()
    }

    /// Which of the groups at a path each item is in.
    fn within(&self, collection: &Collection, path: String) -> Within {
        let items: HashSet<(usize, usize)> = collection.items.iter().map(Spot::place).collect();
        let groups = self.all_at(&path);
        let mut within = Within { path, ..Within::default() };
        for group in groups {
            let mut waiting = vec![(group, 0)];
            while let Some((spot, above)) = waiting.pop() {
                // Lists are not counted.
                let inside = self.fields(spot).map(|field| (field, above + 1));
                for (spot, above) in inside.chain(self.elements(spot).map(|element| (element, above))) {
                    if items.contains(&spot.place()) {
                        within.groups.push((spot.place(), group));
                        within.above = above;
                    } else {
                        waiting.push((spot, above));
                    }
                }
            }
        }
        within
    }

    /// Groups that are called by their key or by what stands at a path in them; `None`: one is not.
    fn called(&self, within: &Within, from: Option<&str>) -> Option<Groups> {
        let path = from.map(|from| Path::new(from).ok());
        let name = |group: &Spot| match &path {
            Some(path) => {
                let found = path.as_ref()?.select(self.tree(*group), Selected::root(group.node));
                found.first().map(|found| found.node)
            }
            None => group.key,
        };
        // Many items are in one group.
        let mut known: HashMap<(usize, usize), Option<NodeId>> = HashMap::default();
        let mut name_of = |group: &Spot| *known.entry(group.place()).or_insert_with(|| name(group));
        let names = within.groups.iter().map(|(item, group)| Some((*item, name_of(group)?)));
        let (from, path) = (from.map(str::to_owned), within.path.clone());
        Some(Groups { names: names.collect::<Option<_>>()?, from, above: within.above, path })
    }
}
