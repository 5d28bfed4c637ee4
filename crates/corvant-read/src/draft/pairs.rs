//! References that are two fields of one map: `{ module: depot, name: gate }` is `depot.gate`.

use super::families::Family;
use super::ids::Made;
use super::links::parent;
use super::shape::{Collection, Leaf, SAMPLE, Shape, Spot};
use foldhash::HashSet;
use rayon::prelude::*;
use std::collections::BTreeMap;

/// Signs that names have between their parts.
const BETWEEN: [&str; 6] = [".", "/", ":", "-", "_", "\\"];
/// Fields of a map that are tried with one another, at most.
const FIELDS: usize = 8;

/// Two fields of the same maps that make one name together.
#[derive(PartialEq, Eq, Debug)]
pub(super) struct Pair {
    /// The path of the maps from their item.
    pub(super) path: String,
    /// The paths of both fields from the item.
    pub(super) fields: [String; 2],
    pub(super) between: &'static str,
    /// Map by map the number of its item, the name, and where the first field stands.
    pub(super) names: Vec<(usize, String, Spot)>,
}

impl Pair {
    /// The paths of both fields from their map.
    pub(super) fn steps(&self) -> [String; 2] {
        self.fields.each_ref().map(|path| format!("${}", &path[self.path.len()..]))
    }
}

/// By family and collection the pairs of fields that make names of what is defined.
pub(super) type Pairs = Vec<Vec<Vec<Pair>>>;

/// Looks for pairs in all items: most of what they make is an id.
pub(super) fn pairs(families: &[Family<'_>], shapes: &[Shape], made: &[Vec<Made>]) -> Pairs {
    let ids: HashSet<&str> = made.iter().flatten().flat_map(|made| &made.ids).map(String::as_str).collect();
    let of_shape = |((family, shape), made): ((&Family<'_>, &Shape), &Vec<Made>)| {
        let all = shape.collections.iter().zip(made);
        all.map(|(of, made)| Pairing { family, ids: &ids, own: &made.ids }.of_collection(of)).collect()
    };
    families.par_iter().zip(shapes).zip(made).map(of_shape).collect()
}

struct Pairing<'p, 't> {
    family: &'p Family<'t>,
    ids: &'p HashSet<&'p str>,
    /// The ids of the items that the fields are in.
    own: &'p [String],
}

/// A field of maps: its path, and what stands there.
type Of<'c> = (&'c str, &'c [Leaf]);

impl Pairing<'_, '_> {
    fn of_collection(&self, collection: &Collection) -> Vec<Pair> {
        let mut by_map: BTreeMap<&str, Vec<Of<'_>>> = BTreeMap::new();
        for (path, leaves) in &collection.fields {
            // The fields of the item itself are its own.
            if let Some(map) = parent(path).filter(|map| *map != "$") {
                by_map.entry(map).or_default().push((path, leaves));
            }
        }
        let pair = |(map, mut fields): (&str, Vec<Of<'_>>)| {
            fields.truncate(FIELDS);
            let both = fields.iter().flat_map(|one| fields.iter().map(move |other| [*one, *other]));
            both.filter(|[one, other]| one.0 != other.0).find_map(|both| self.pair(map, both))
        };
        by_map.into_iter().filter_map(pair).collect()
    }

    /// The pair that two fields are, if most of what they make of the first maps is an id.
    fn pair(&self, map: &str, [one, other]: [Of<'_>; 2]) -> Option<Pair> {
        let are_together = one.1.len() == other.1.len()
            && one.1.iter().zip(other.1).all(|(one, other)| one.item == other.item);
        if !are_together {
            return None;
        }
        let joined = |between: &'static str| {
            let both = one.1.iter().zip(other.1);
            both.map(move |(one, other)| format!("{}{between}{}", self.text(one), self.text(other)))
        };
        let are_ids = |between: &&'static str| {
            // What an item is called itself is no reference.
            let is_other = |(leaf, name): &(&Leaf, String)| {
                self.ids.contains(name.as_str()) && self.own.get(leaf.item) != Some(name)
            };
            let known = one.1.iter().zip(joined(between)).take(SAMPLE).filter(is_other).count();
            known > 1 && known * 10 >= one.1.len().min(SAMPLE) * 6
        };
        let between = BETWEEN.into_iter().find(are_ids)?;
        let names = one.1.iter().zip(joined(between)).map(|(leaf, name)| (leaf.item, name, leaf.spot));
        Some(Pair {
            path: map.to_owned(),
            fields: [one.0, other.0].map(str::to_owned),
            between,
            names: names.collect(),
        })
    }

    fn text(&self, leaf: &Leaf) -> &str {
        self.family.documents[leaf.spot.file].tree.text(leaf.spot.node)
    }
}
