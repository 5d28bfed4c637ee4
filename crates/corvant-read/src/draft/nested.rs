//! Maps in maps whose keys make one name together: `limits: { depot: { tracks: 3 } }` is `depot.tracks`.

use super::shape::{Collection, IdFrom, Leaf, Looking, SAMPLE, Spot};
use super::study::is_type;
use crate::syntax::NodeKind;
use foldhash::HashSet;
use std::collections::BTreeMap;
use std::sync::Arc;

/// How deep values may stand.
const DEPTH: usize = 6;

/// Plain values by depth, with their names.
type Leaves = BTreeMap<usize, Vec<(String, Spot)>>;

/// Fewer keys make a name that groups say too.
const KEYS: usize = 3;

impl Looking<'_, '_> {
    /// Takes maps with types whose names are made of the keys that lead to them, at least three, if those are asked for.
    pub(super) fn map_paths(&mut self, path: &str, maps: &[Spot]) -> bool {
        if path != "$" {
            return false;
        }
        let mut by_depth: BTreeMap<usize, Vec<(String, Spot)>> = BTreeMap::new();
        let mut waiting: Vec<(String, Spot, usize)> =
            maps.iter().rev().map(|&map| (String::new(), map, 0)).collect();
        while let Some((name, map, depth)) = waiting.pop() {
            for value in self.fields(map).filter(|&value| self.kind(value) == NodeKind::Map) {
                let key = self.key(value);
                let name = if name.is_empty() { key.to_owned() } else { format!("{name}.{key}") };
                let is_typed = self.fields(value).any(|field| is_type(self.text(field)));
                if is_typed && depth + 1 < KEYS {
                    return false;
                }
                if is_typed {
                    by_depth.entry(depth + 1).or_default().push((name, value));
                } else if depth < DEPTH {
                    waiting.push((name, value, depth + 1));
                }
            }
        }
        let mut by_depth = by_depth.into_iter();
        let (Some((depth, mut found)), None) = (by_depth.next(), by_depth.next()) else { return false };
        let used = found.iter().take(SAMPLE).filter(|(name, _)| self.names.is_used(name)).count();
        if used < 2 || used * 4 < found.len().min(SAMPLE) {
            return false;
        }
        found.sort_by_key(|(_, spot)| spot.place());
        let items = found.iter().map(|(_, spot)| *spot).collect();
        let names = found.into_iter().map(|(name, spot)| (spot.place(), name)).collect();
        let ids = vec![IdFrom::KeyPath(String::new(), Arc::new(names))];
        self.collect(format!("{path}{}", ".*".repeat(depth)), None, ids, items);
        true
    }

    /// Takes plain values whose names are made of the keys that lead to them, if those are asked for. `path` leads to the maps
    /// by keys alone.
    pub(super) fn key_paths(&mut self, path: &str, maps: &[Spot]) -> bool {
        let steps: Vec<&str> = path.split('.').skip(1).collect();
        let is_by_keys = steps.iter().all(|step| !step.contains(['*', '[', ']']));
        if !is_by_keys
            || maps.iter().all(|&map| self.fields(map).all(|value| self.kind(value) != NodeKind::Map))
        {
            return false;
        }
        let sample = self.leaves(maps, SAMPLE).0;
        let names = || sample.values().flatten().map(|(name, _)| name);
        // With their module before them, maybe.
        let is_used = |name: &str| self.names.is_used(name) || self.names.is_used_behind(name);
        let used = names().filter(|name| name.contains('.') && is_used(name)).count();
        if used < 2 || used * 4 < names().count() {
            return false;
        }
        let (leaves, not_plain) = self.leaves(maps, usize::MAX);
        let before: String = steps.iter().map(|step| format!("{step}.")).collect();
        for (depth, mut found) in leaves {
            found.sort_by_key(|(_, spot)| spot.place());
            let items: Vec<Spot> = found.iter().map(|(_, spot)| *spot).collect();
            let names = found.into_iter().map(|(name, spot)| (spot.place(), name)).collect();
            let leaf = |(item, &spot): (usize, &Spot)| Leaf { item, spot };
            let fields = [("$".to_owned(), items.iter().enumerate().map(leaf).collect())];
            self.shape.collections.push(Collection {
                each: format!("{path}{}", ".*".repeat(depth)),
                only_plain: not_plain.contains(&depth),
                ids: vec![IdFrom::KeyPath(before.clone(), Arc::new(names))],
                items,
                fields: fields.into_iter().collect(),
                ..Collection::default()
            });
        }
        true
    }

    /// Plain values in maps, until so many values were seen, by depth with their names; and depths at which there is something else too.
    fn leaves(&self, maps: &[Spot], most: usize) -> (Leaves, HashSet<usize>) {
        let mut leaves = Leaves::new();
        let mut not_plain: HashSet<usize> = HashSet::default();
        let mut waiting: Vec<(String, Spot, usize)> =
            maps.iter().rev().map(|&map| (String::new(), map, 0)).collect();
        let mut seen = 0;
        while let Some((name, map, depth)) = waiting.pop().filter(|_| seen < most) {
            for value in self.fields(map) {
                let key = self.key(value);
                let name = if name.is_empty() { key.to_owned() } else { format!("{name}.{key}") };
                seen += 1;
                if self.tree(value).is_plain(value.node) {
                    leaves.entry(depth + 1).or_default().push((name, value));
                } else {
                    not_plain.insert(depth + 1);
                    if self.kind(value) == NodeKind::Map && depth < DEPTH {
                        waiting.push((name, value, depth + 1));
                    }
                }
            }
        }
        (leaves, not_plain)
    }
}
