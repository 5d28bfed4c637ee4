//! Collections that have no ids of their own: what says which of some names another is, and what says more of the items of another.

use super::shape::IdFrom;
use super::study::{At, Study};
use foldhash::{HashMap, HashSet};
use std::collections::BTreeMap;

/// Collections that have one id in common, at most.
const PARALLEL: usize = 8;

/// Collections that say which of some names another is: they have, beside their id, ids of others and nothing else.
pub(super) fn mappings(study: &Study<'_, '_>) -> HashSet<At> {
    let is_mapping = |at: &At| {
        let collection = study.collection(*at);
        let own: HashSet<&str> = study.ids_of(*at).iter().map(String::as_str).collect();
        if collection.each.is_empty() || collection.is_edges {
            return false;
        }
        let id_paths = match &study.made[at.0][at.1].from {
            IdFrom::Field(_) | IdFrom::Column(_) | IdFrom::Below(..) | IdFrom::InGroup(..) => {
                study.id_paths(*at)
            }
            _ => Vec::new(),
        };
        let fields = study.fields_of(*at).map(|number| &study.fields[number]);
        let beside: Vec<_> = fields.filter(|field| !id_paths.iter().any(|path| path == field.path)).collect();
        let [only] = beside.as_slice() else { return false };
        let is_other = |text: &str| {
            study.ids.get(text).is_some_and(|of| of != at)
                || own.contains(text) && study.ids.get(text) != Some(at)
                || study.misspelt.contains(text)
        };
        let named = only.values.iter().filter(|value| is_other(value.text)).count();
        only.is_single() && only.split.is_none() && named * 2 >= only.values.len() && named > 0
    };
    study.all().filter(is_mapping).collect()
}

/// Collections that say more of the items of another, with that one: they have hardly any ids but its, and it has types, or more
/// of them. What lies in other files says more of what has types alone.
pub(super) fn parallel(study: &Study<'_, '_>) -> BTreeMap<At, At> {
    let mut holders: HashMap<&str, Vec<At>> = HashMap::default();
    for at in study.all() {
        let ids: HashSet<&String> = study.ids_of(at).iter().filter(|id| !id.is_empty()).collect();
        for id in ids {
            holders.entry(id).or_default().push(at);
        }
    }
    let mut shared: BTreeMap<(At, At), usize> = BTreeMap::new();
    for holders in holders.values().filter(|holders| holders.len() > 1 && holders.len() <= PARALLEL) {
        for &one in holders {
            let others = holders.iter().filter(|other| **other != one);
            others.for_each(|other| *shared.entry((one, *other)).or_default() += 1);
        }
    }
    let is_typed =
        |at: At| study.fields_of(at).any(|number| super::roles::is_type_field(&study.fields[number]));
    let weight = |at: At| (is_typed(at), study.ids_of(at).len(), std::cmp::Reverse(at.1));
    let mut found = BTreeMap::new();
    for ((one, of), count) in shared {
        let has_values = study
            .fields_of(one)
            .any(|number| !study.fields[number].values.iter().all(|value| value.text.is_empty()));
        let is_own = one.0 == of.0;
        let is_main = match (study.collection(one).is_edges, study.collection(of).is_edges) {
            // Of all whom they speak of those that are most.
            (true, is_edges) => !is_edges && is_own,
            (false, true) => false,
            (false, false) => {
                let says_more =
                    if is_own { weight(of) > weight(one) } else { is_typed(of) && !is_typed(one) };
                count * 10 >= study.ids_of(one).len() * 8 && says_more
            }
        };
        if count > 1 && is_main && has_values {
            let main = found.get(&one).copied().filter(|&known| weight(known) >= weight(of)).unwrap_or(of);
            found.insert(one, main);
        }
    }
    let mains = found.clone();
    found.retain(|_, main| !mains.contains_key(main));
    found
}
