//! Names of items in groups of one file, a group for each module: what the group is called stands before what they are called.

use super::ids::written_id;
use super::module::BETWEEN;
use super::shape::{Collection, IdFrom, Looking, SAMPLE, Spot, Waiting, step};
use crate::custom::ReaderSyntax;
use crate::custom::path::{Path, Selected};
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};
use std::collections::BTreeMap;
use std::sync::Arc;

/// Fewer names that are asked for so say nothing.
const FEW: usize = 3;
/// What has more keys is no record of sections.
const SECTIONS: usize = 60;

/// The groups that items are in.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Groups {
    /// By file and node of an item the key of its group.
    keys: HashMap<(usize, usize), String>,
    /// How many maps the group is above an item.
    pub(super) above: usize,
}

impl Groups {
    /// What the group of an item is called.
    pub(super) fn of(&self, file: usize, node: usize) -> &str {
        self.keys.get(&(file, node)).map_or("", String::as_str)
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
    fn are_asked_for_together(&self, groups: impl Iterator<Item = Spot>) -> bool {
        if self.family.syntax == ReaderSyntax::Xml {
            return false;
        }
        let fields = groups.flat_map(|group| self.fields(group).map(move |field| (group, field)));
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
        keys.len() > 1 && asked >= FEW && asked * 4 >= all
    }

    /// Adds to what ids may be names behind those of groups, where they are asked for so.
    pub(super) fn names_in_groups(&mut self) {
        let found: Vec<Option<IdFrom>> =
            self.shape.collections.iter().map(|collection| self.id_in_group(collection)).collect();
        for (collection, id) in self.shape.collections.iter_mut().zip(found) {
            collection.ids.extend(id);
        }
    }

    fn id_in_group(&self, collection: &Collection) -> Option<IdFrom> {
        let own = collection.ids.first().filter(|own| matches!(own, IdFrom::Key | IdFrom::Field(_)))?;
        let groups = Arc::new(self.groups(&collection.each)?);
        let sample = &collection.items[..collection.items.len().min(SAMPLE)];
        let asked = |between: &'static str| {
            let is_asked = |name: &String| self.names.is_used(name);
            let names = sample.iter().map(|&item| {
                let own = written_id(&self.family.documents[item.file], own, item);
                format!("{}{between}{own}", groups.of(item.file, item.node.index()))
            });
            names.filter(is_asked).count()
        };
        let (count, between) =
            BETWEEN.iter().rev().map(|&between| (asked(between), between)).max_by_key(|(count, _)| *count)?;
        let is_enough = count >= FEW && count * 4 >= sample.len();
        is_enough.then(|| IdFrom::InGroup(Box::new(own.clone()), groups, between))
    }

    /// The groups that items at a path are in: what its first step to any key leads to, where others follow.
    fn groups(&self, each: &str) -> Option<Groups> {
        let at = each.find(".*")? + ".*".len();
        let (to_groups, rest) = each.split_at(at);
        let rest = Some(rest).filter(|rest| !rest.is_empty())?;
        let (to_groups, to_items) = (Path::new(to_groups).ok()?, Path::new(&format!("${rest}")).ok()?);
        let mut keys = HashMap::default();
        for (file, document) in self.family.documents.iter().enumerate() {
            for group in to_groups.select(&document.tree, Selected::root(document.root)) {
                let key = document.tree.text(group.key?);
                for item in to_items.select(&document.tree, Selected::root(group.node)) {
                    keys.insert((file, item.node.index()), key.to_owned());
                }
            }
        }
        // Lists are not counted, nor is what holds of elements.
        let above =
            rest.split(['.', '[']).filter(|step| !step.is_empty() && !step.starts_with(['*', '?', '@']));
        let is_under_keys = rest.ends_with(".*");
        Some(Groups { keys, above: above.count() + usize::from(is_under_keys) })
    }
}
