//! Keys that are no ids beside keys that are: sections of a file whose other keys are items.

use super::shape::{Looking, Spot};
use foldhash::HashMap;
use std::collections::{BTreeMap, BTreeSet};

impl Looking<'_, '_> {
    /// Keys that nearly all of many maps have, or whose fields no other has, where the others are alike.
    pub(super) fn sections(&self, maps: usize, by_key: &BTreeMap<String, Vec<Spot>>) -> Vec<String> {
        // By field the key whose maps have it; `None`: several.
        let mut holders: HashMap<&str, Option<&str>> = HashMap::default();
        for (key, values) in by_key {
            for field in values.iter().flat_map(|&value| self.fields(value)) {
                let holder = holders.entry(self.key(field)).or_insert(Some(key));
                *holder = holder.filter(|known| *known == key);
            }
        }
        let is_section = |values: &[Spot]| {
            let fields = || values.iter().flat_map(|&value| self.fields(value));
            let is_its_own =
                || fields().count() > 1 && fields().all(|field| holders[self.key(field)].is_some());
            maps > 2 && values.len() * 10 >= maps * 8 || is_its_own()
        };
        let found = by_key.iter().filter(|(_, values)| is_section(values)).map(|(key, _)| key.clone());
        let found: BTreeSet<String> = found.collect();
        if found.is_empty() || found.len() * 3 > by_key.len() {
            return Vec::new();
        }
        let others = by_key.iter().filter(|(key, _)| !found.contains(*key));
        let others: Vec<Spot> = others.flat_map(|(_, values)| values.iter().copied()).collect();
        let are_items = others.len() >= 3 * found.len() && self.are_alike(others.iter().copied());
        if are_items { found.into_iter().collect() } else { Vec::new() }
    }
}
