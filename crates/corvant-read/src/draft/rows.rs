//! Lists in which the place says what something is: `["depot.gate", "velmora.depot.Gate", ["depot.lamp"]]`.

use super::elements::are_unique;
use super::names::is_of_name;
use super::shape::{Leaf, Looking, SAMPLE, Spot};
use super::study::is_type;
use crate::syntax::NodeKind;
use foldhash::HashMap;

/// Lists with more places are lists of many of one sort.
const COLUMNS: usize = 8;
/// Fewer lists say nothing.
const FEW: usize = 4;
/// Names that are asked for, for them to be ids.
const ASKED: usize = 2;

impl Looking<'_, '_> {
    /// The place in which lists have their ids, and whether they say more of items of others; `None`: they are no items.
    pub(super) fn id_of_rows(&self, lists: &[Spot]) -> Option<(usize, bool)> {
        let leaves: Vec<Leaf> = lists.iter().enumerate().map(|(item, &spot)| Leaf { item, spot }).collect();
        let columns = self.columns(&leaves);
        let of_items = self.id_column(&columns, lists.len()).map(|column| (column, false));
        let pairs = || if self.are_rows(&leaves) { self.are_pairs(&columns) } else { None };
        of_items.or_else(|| pairs().map(|are_edges| (0, are_edges)))
    }

    /// The place in which so many lists have their ids: each another name, and some of them are asked for. None, if no place has
    /// types.
    fn id_column(&self, columns: &[Vec<Leaf>], lists: usize) -> Option<usize> {
        let texts = |column: &Vec<Leaf>| -> Option<Vec<&str>> {
            let are_texts = column.iter().all(|leaf| self.kind(leaf.spot) == NodeKind::Text);
            let texts = || column.iter().map(|leaf| self.text(leaf.spot)).collect();
            (are_texts && column.len() == lists).then(texts)
        };
        let columns: Vec<Option<Vec<&str>>> = columns.iter().map(texts).collect();
        let has_types =
            |texts: &Vec<&str>| texts.iter().filter(|text| is_type(text)).count() * 10 >= texts.len() * 9;
        let are_ids = |texts: &Vec<&str>| {
            texts.iter().all(|text| !text.is_empty() && text.chars().all(is_of_name))
                && are_unique(texts)
                && texts.iter().filter(|text| self.names.is_used_elsewhere(text)).count() >= ASKED
        };
        let is_typed = lists >= FEW && columns.iter().flatten().any(has_types);
        columns.iter().position(|texts| texts.as_ref().is_some_and(are_ids)).filter(|_| is_typed)
    }

    /// Whether lists begin with the name of what the rest is about, and whether what they say belongs to items of others: it is
    /// said of one again and again then. `None`: they do not.
    fn are_pairs(&self, columns: &[Vec<Leaf>]) -> Option<bool> {
        let is_name = |text: &str| text.starts_with(char::is_alphabetic) && text.chars().all(is_of_name);
        let is_plain = |leaf: &Leaf| self.tree(leaf.spot).is_plain(leaf.spot.node);
        let firsts: Vec<&str> = columns[0].iter().map(|leaf| self.text(leaf.spot)).collect();
        if !columns.iter().flatten().all(is_plain) || !firsts.iter().all(|text| is_name(text)) {
            return None;
        }
        let mut own: HashMap<&str, u32> = HashMap::default();
        for text in &firsts {
            *own.entry(text).or_default() += 1;
        }
        let used = own.iter().filter(|(text, times)| self.names.is_used_beyond(text, **times)).count();
        let rest = columns[1..].iter().flatten().map(|leaf| self.text(leaf.spot));
        let named = rest.filter(|text| self.names.is_used_elsewhere(text)).count();
        let (are_unique, are_known) = (own.len() == firsts.len(), used * 10 >= own.len() * 6);
        let name_others = named * 2 > (columns.len() - 1) * firsts.len();
        (are_unique && used >= ASKED || are_known || name_others).then_some(!are_unique && are_known)
    }

    /// Whether lists are of one length, and short: each place in them is something of its own.
    pub(super) fn are_rows(&self, lists: &[Leaf]) -> bool {
        let mut lengths = lists.iter().map(|leaf| self.elements(leaf.spot).count());
        let first = lengths.next().unwrap_or_default();
        (2..=COLUMNS).contains(&first) && lists.len() >= FEW && lengths.all(|length| length == first)
    }

    /// Whether lists begin with a type, and most of what comes behind it is none: `["velmora.depot.Gate", "depot.lamp"]`.
    pub(super) fn begin_with_types(&self, lists: &[Leaf]) -> bool {
        let sample = &lists[..lists.len().min(SAMPLE)];
        let is_typed = |leaf: &Leaf| self.kind(leaf.spot) == NodeKind::Text && is_type(self.text(leaf.spot));
        let (types, rest) = self.first_and_rest(sample);
        types.len() >= FEW
            && types.len() == sample.len()
            && types.iter().filter(|leaf| is_typed(leaf)).count() * 10 >= types.len() * 9
            && rest.iter().filter(|leaf| is_typed(leaf)).count() * 2 < rest.len()
    }

    /// What lists begin with, and what comes behind that.
    pub(super) fn first_and_rest(&self, lists: &[Leaf]) -> (Vec<Leaf>, Vec<Leaf>) {
        let leaves = |list: &Leaf| {
            let item = list.item;
            self.elements(list.spot).map(move |spot| Leaf { item, spot }).enumerate().collect::<Vec<_>>()
        };
        let (first, rest): (Vec<_>, Vec<_>) =
            lists.iter().flat_map(leaves).partition(|(place, _)| *place == 0);
        let leaves = |all: Vec<(usize, Leaf)>| all.into_iter().map(|(_, leaf)| leaf).collect();
        (leaves(first), leaves(rest))
    }

    /// What stands in lists, by place.
    pub(super) fn columns(&self, lists: &[Leaf]) -> Vec<Vec<Leaf>> {
        let mut columns: Vec<Vec<Leaf>> = Vec::new();
        for list in lists {
            for (column, spot) in self.elements(list.spot).take(COLUMNS).enumerate() {
                if columns.len() <= column {
                    columns.push(Vec::new());
                }
                columns[column].push(Leaf { item: list.item, spot });
            }
        }
        columns
    }
}
