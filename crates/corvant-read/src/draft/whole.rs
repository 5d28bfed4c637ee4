//! Files that are items themselves, each or each of a sort, and documents.

use super::elements::{Sort, text_in};
use super::shape::{IdFrom, Looking, SAMPLE, Shape, Spot, step};
use super::study::is_type;
use crate::custom::ReaderSyntax;
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};

/// Fewer files are no items because of their types alone.
const FILES: usize = 3;
/// Maps that a type is looked for in stand in at most so many others.
const TYPE_DEPTH: usize = 2;
/// Fields of a map in which a type is looked for.
const SECTIONS: usize = 20;

impl Looking<'_, '_> {
    /// Whether files have a type each, and an id, and what is in them has none.
    pub(super) fn are_typed_files(&self) -> bool {
        let roots = self.roots();
        self.are_typed_items(&roots)
            && !self.shape.collections.iter().any(|collection| self.are_typed(&collection.items))
    }

    /// Whether files have a type each, and an id.
    fn are_typed_items(&self, roots: &[Spot]) -> bool {
        roots.len() > FILES
            && self.are_typed(roots)
            && !self.id_fields(&roots[..roots.len().min(SAMPLE)]).is_empty()
    }

    /// Whether most of the first maps have a type under the same keys, another in each.
    fn are_typed(&self, maps: &[Spot]) -> bool {
        let sample = &maps[..maps.len().min(SAMPLE)];
        let mut types: HashMap<Vec<&str>, HashSet<&str>> = HashMap::default();
        for &map in sample {
            let mut waiting = vec![(Vec::new(), map)];
            while let Some((keys, map)) = waiting.pop() {
                for field in self.fields(map).take(SECTIONS) {
                    let below = || keys.iter().copied().chain([self.key(field)]).collect();
                    if self.kind(field) == NodeKind::Map && keys.len() < TYPE_DEPTH {
                        waiting.push((below(), field));
                    } else if let Some(text) =
                        text_in(self.tree(field), field.node).filter(|text| is_type(text))
                    {
                        types.entry(below()).or_default().insert(text);
                    }
                }
            }
        }
        types.values().any(|types| types.len() * 5 >= sample.len() * 4)
    }

    /// Files of sorts that are items, where those of other sorts hold some; and all others.
    pub(super) fn sorts_of_files(&self) -> (Vec<(Sort, Vec<Spot>)>, Vec<Spot>) {
        let roots = self.roots();
        let may_be = self.family.syntax != ReaderSyntax::Xml && !self.family.has_documents();
        // Some files from among all say whether they are of several sorts at all.
        let some: Vec<Spot> = roots.iter().copied().step_by(roots.len().div_ceil(SAMPLE).max(1)).collect();
        let of_some = may_be.then(|| self.sorts(&some)).flatten();
        let sorts = if some.len() < roots.len() { of_some.and_then(|_| self.sorts(&roots)) } else { of_some };
        let Some(sorts) = sorts else { return (Vec::new(), roots) };
        let (whole, others): (Vec<_>, Vec<_>) =
            sorts.into_iter().partition(|(_, items)| self.are_typed_items(items));
        if others.is_empty() {
            return (Vec::new(), roots);
        }
        (whole, others.into_iter().flat_map(|(_, items)| items).collect())
    }

    /// Of files of a sort with one key each, and a map below that, the maps: `service: { id: depot.gate }`.
    fn unwrapped(&self, sort: Sort, items: Vec<Spot>) -> (String, Option<Sort>, Vec<Spot>) {
        let only = |item: &Spot| {
            let mut fields = self.fields(*item);
            fields.next().filter(|field| fields.next().is_none() && self.kind(*field) == NodeKind::Map)
        };
        match items.iter().map(only).collect::<Option<Vec<Spot>>>() {
            Some(inner) => (format!("${}", step(self.key(inner[0]))), None, inner),
            None => (String::new(), Some(sort), items),
        }
    }

    /// Where a family holds no items inside of its files, but files of one shape, each file is an item; and so is each
    /// document, where that has an id.
    pub(super) fn files_as_items(&mut self, are_documents: bool) {
        let mut roots = self.roots();
        let mut each = String::new();
        if self.family.syntax == ReaderSyntax::Xml {
            let outermost: Vec<Spot> = roots.iter().flat_map(|&root| self.fields(root)).collect();
            let names: HashSet<&str> = outermost.iter().map(|&element| self.key(element)).collect();
            let [name] = names.iter().copied().collect::<Vec<_>>()[..] else { return };
            (each, roots) = (format!("${}", step(name)), outermost);
        }
        let maps = roots.iter().filter(|&&root| self.kind(root) == NodeKind::Map).count();
        if maps < 3 || maps < roots.len() {
            return;
        }
        let sorts = self.sorts(&roots).unwrap_or_default();
        let with_ids: Vec<_> = sorts
            .into_iter()
            .map(|(sort, items)| {
                let (each, sort, items) = self.unwrapped(sort, items);
                (each, sort, self.id_fields(&items), items)
            })
            .collect();
        if with_ids.len() > 1 && with_ids.iter().all(|(_, _, ids, _)| !ids.is_empty()) {
            self.shape = Shape { is_whole: true, ..Shape::default() };
            for (each, sort, ids, items) in with_ids {
                self.collect(each, sort, ids, items);
            }
            return;
        }
        let mut ids = self.id_fields(&roots);
        if !self.are_alike(roots.iter().copied()) || are_documents && ids.is_empty() {
            return;
        }
        if !are_documents {
            ids.push(IdFrom::File);
        }
        self.shape = Shape { is_whole: true, ..Shape::default() };
        self.collect(each, None, ids, roots);
    }
}
