//! Lists of who needs what, apart from who that is: elements that have no ids of their own, and say more of items of the same files.

use super::ids::Made;
use super::shape::{IdFrom, Looking, Shape, Spot};
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};

/// Fewer say nothing.
const FEW: usize = 3;
/// What a field is called that says what is needed, where another might as well.
const AIMS: [&str; 12] =
    ["to", "target", "needs", "uses", "gets", "wants", "asks", "reads", "on", "of", "for", "what"];

impl Looking<'_, '_> {
    /// The field that says who needs something, where maps say that: all have it, and it and another field have names which
    /// stand elsewhere too. Of several the first, unless it is called as what is needed is.
    pub(super) fn edges(&self, maps: &[Spot]) -> Option<IdFrom> {
        if maps.len() < FEW {
            return None;
        }
        let by_key = self.by_key(maps);
        let are_names = |key: &str, tenths: usize| self.are_names_beyond(&by_key[key], tenths);
        let of_all = self.fields(maps[0]).map(|field| self.key(field));
        let holders = of_all.filter(|key| by_key[*key].len() == maps.len() && are_names(key, 8));
        let holders: Vec<&str> = holders.collect();
        let is_holder = |key: &&&str| !AIMS.contains(&key.to_lowercase().as_str());
        let holder = holders.iter().find(is_holder).or(holders.first())?;
        let has_more = by_key.keys().any(|key| key != holder && are_names(key, 5));
        has_more.then(|| IdFrom::Field((*holder).to_owned()))
    }

    /// Whether so many tenths of some values are names that stand elsewhere too.
    fn are_names_beyond(&self, values: &[Spot], tenths: usize) -> bool {
        let mut own: HashMap<&str, u32> = HashMap::default();
        for &value in values {
            if self.kind(value) != NodeKind::Text {
                return false;
            }
            *own.entry(self.text(value)).or_default() += 1;
        }
        let is_name = |(text, times): &(&&str, &u32)| {
            !text.contains(char::is_whitespace) && self.names.is_used_beyond(text, **times)
        };
        own.iter().filter(is_name).count() * 10 >= own.len() * tenths
    }
}

/// The paths of such lists that speak of what stands in none of the same files: those are none.
pub(super) fn of_nothing<'s>(shape: &'s Shape, made: &'s [Made]) -> impl Iterator<Item = &'s str> {
    let ids = |number: usize| {
        let items = &shape.collections[number].items;
        items.iter().zip(&made[number].ids).map(|(item, id)| (item.file, id.as_str()))
    };
    let all = || shape.collections.iter().enumerate();
    let known: HashSet<(usize, &str)> =
        all().filter(|(_, one)| !one.is_edges).flat_map(|(number, _)| ids(number)).collect();
    let is_of_nothing = move |number: usize| {
        let named: HashSet<(usize, &str)> = ids(number).collect();
        named.intersection(&known).count() * 10 < named.len() * 8
    };
    all()
        .filter(move |(number, one)| one.is_edges && is_of_nothing(*number))
        .map(|(_, one)| one.each.as_str())
}
