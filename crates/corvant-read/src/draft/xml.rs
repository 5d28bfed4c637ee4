//! Elements of XML: those of one name are one collection, however deep they stand.

use super::shape::{IdFrom, Looking, Spot};
use std::collections::BTreeMap;

impl Looking<'_, '_> {
    /// Elements of one name at several depths are one collection, however deep they stand.
    pub(super) fn join_nested(&mut self) {
        let mut by_name: BTreeMap<String, Vec<usize>> = BTreeMap::new();
        for (number, collection) in self.shape.collections.iter().enumerate() {
            let name = collection.each.trim_end_matches("[*]").rsplit('.').next().unwrap_or_default();
            if !collection.ids.is_empty() && !name.contains(['[', ']']) {
                by_name.entry(name.to_owned()).or_default().push(number);
            }
        }
        let mut gone: Vec<usize> = Vec::new();
        let mut new = Vec::new();
        for (name, numbers) in by_name {
            let of = |number: &usize| self.shape.collections[*number].items.iter().copied();
            let mut items: Vec<Spot> = numbers.iter().flat_map(of).collect();
            let IdFrom::Field(id) = &self.shape.collections[numbers[0]].ids[0] else { continue };
            let inside = self.inside(&name, id, &items);
            if inside.is_empty() && numbers.len() < 2 {
                continue;
            }
            items.extend(inside);
            items.sort_by_key(Spot::place);
            items.dedup_by_key(|spot| spot.place());
            let ids = self.id_fields(&items);
            if !ids.is_empty() {
                gone.extend(numbers);
                new.push((format!("$..{name}[*]"), ids, items));
            }
        }
        gone.sort_unstable();
        for number in gone.into_iter().rev() {
            self.shape.collections.remove(number);
        }
        for (each, ids, items) in new {
            self.collect(each, None, ids, items);
        }
    }

    /// Elements of a name inside others, that have the field which is the id of those outside.
    fn inside(&self, name: &str, id: &str, items: &[Spot]) -> Vec<Spot> {
        let mut found = Vec::new();
        let mut waiting: Vec<Spot> = items.to_vec();
        let mut steps = 0;
        while let Some(spot) = waiting.pop() {
            steps += 1;
            if steps > 4_000_000 {
                break;
            }
            for field in self.fields(spot) {
                for element in self.elements(field) {
                    if self.key(field) == name && self.fields(element).any(|field| self.key(field) == id) {
                        found.push(element);
                    }
                    waiting.push(element);
                }
            }
        }
        found
    }
}
