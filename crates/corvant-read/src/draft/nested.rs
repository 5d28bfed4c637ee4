//! Maps in maps whose keys make one name together: `limits: { depot: { tracks: 3 } }` is `depot.tracks`.

use super::shape::{Collection, IdFrom, Leaf, Looking, SAMPLE, Spot};
use crate::syntax::NodeKind;
use foldhash::HashSet;
use std::collections::BTreeMap;
use std::sync::Arc;

/// How deep values may stand.
const DEPTH: usize = 6;

/// Plain values by depth, with their names.
type Leaves = BTreeMap<usize, Vec<(String, Spot)>>;

impl Looking<'_, '_> {
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
            found.sort_by_key(|(_, spot)| (spot.file, spot.node.index()));
            let items: Vec<Spot> = found.iter().map(|(_, spot)| *spot).collect();
            let names =
                found.into_iter().map(|(name, spot)| ((spot.file, spot.node.index()), name)).collect();
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
