//! Which families hold definitions. Lists of packages, schemas, steps of builds and words of translations have ids and
//! references too: what sets definitions apart is that they name types, or ask for each other across files by names that say
//! where they belong. What such a family asks for, or is asked for by, belongs to it.

use super::links::{Links, last_name};
use super::module::Own;
use super::pattern;
use super::roles::{Cast, Role, Roles, accepted, written_alike};
use super::shape::IdFrom;
use super::study::{Study, is_type};
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;

/// Items with types, and names that are asked for, for them to mean anything.
const FEW: usize = 3;
/// Names that may be words, for them to mean anything.
const MANY: usize = 10;

/// What speaks for a family.
#[derive(Default)]
struct Evidence<'s> {
    /// Types of its items.
    types: Vec<&'s str>,
    /// Values that stand where references do: those that name what is defined, and all.
    references: (usize, usize),
    /// Of all those the ones that are written as names are.
    alike: usize,
    /// The numbers of the fields in which they stand.
    asking: Vec<usize>,
    /// By family that it asks the names, and how often.
    asks: HashMap<usize, (HashSet<&'s str>, usize)>,
    /// How many names lead out of their files.
    across: usize,
}

/// Where names are defined or offered.
type Places<'s> = HashMap<&'s str, Defined<'s>>;

/// Where a name is defined or offered: the family, and of ids the file and the field that they are.
#[derive(Clone, Copy)]
struct Defined<'s> {
    family: usize,
    file: Option<usize>,
    field: Option<&'s str>,
}

/// By family whether it holds definitions. `stems` are the names of all files, without what is behind the first dot.
pub(super) fn definitions(
    study: &Study<'_, '_>,
    links: &Links<'_>,
    roles: &Roles,
    (own, stems): (&Own<'_, '_, '_>, &HashSet<&str>),
) -> Vec<bool> {
    let mut casts: Vec<Vec<&Cast>> = vec![Vec::new(); study.families.len()];
    roles.casts.iter().for_each(|cast| casts[cast.at.0].push(cast));
    let mut all: Vec<Evidence<'_>> = casts.iter().map(|casts| evidence(study, links, roles, casts)).collect();
    if all.iter().all(|evidence| evidence.has_types(stems)) {
        return vec![true; all.len()];
    }
    let places = places(study, links);
    all.par_iter_mut().for_each(|evidence| evidence.ask(own, &places));
    let across = |family: usize, evidence: &Evidence<'_>| {
        study.families[family].files() >= FEW && evidence.leads_across()
    };
    let core: Vec<bool> = all
        .iter()
        .enumerate()
        .map(|(family, evidence)| evidence.has_types(stems) || across(family, evidence))
        .collect();
    // No further than one step: chance leads from word to word.
    let is_asked = |family: usize| {
        let by = all.iter().zip(&core).filter(|(_, is_core)| **is_core);
        let names = by.filter_map(|(evidence, _)| evidence.asks.get(&family)).flat_map(|(names, _)| names);
        let (known, references) = all[family].references;
        known * 2 >= references && are_telling(names.copied())
    };
    // What says more of what it defines belongs to it.
    let says_more =
        |family: usize| casts[family].iter().any(|cast| cast.joins.is_some_and(|main| core[main.0]));
    let belongs = |family: usize| {
        core[family] || all[family].asks_those(&core) || is_asked(family) || says_more(family)
    };
    (0..core.len()).map(belongs).collect()
}

fn places<'s>(study: &Study<'s, '_>, links: &Links<'_>) -> Places<'s> {
    let mut places = Places::default();
    for &field in links.offers.keys() {
        let field = &study.fields[field];
        field.values.iter().for_each(|value| {
            _ = places.insert(value.text, Defined { family: field.family, file: None, field: None });
        });
    }
    for at in study.all() {
        let items = study.ids_of(at).iter().zip(&study.collection(at).items);
        let own = items.filter(|(id, _)| study.ids.get(id.as_str()) == Some(&at));
        let field = match &study.made[at.0][at.1].from {
            IdFrom::Field(name) | IdFrom::Below(_, name) => Some(name.as_str()),
            _ => None,
        };
        own.for_each(|(id, item)| {
            _ = places.insert(id, Defined { family: at.0, file: Some(item.file), field });
        });
    }
    places
}

/// What can be told without looking at each value.
fn evidence<'s>(study: &Study<'s, '_>, links: &Links<'_>, roles: &Roles, casts: &[&Cast]) -> Evidence<'s> {
    let mut evidence = Evidence::default();
    for cast in casts {
        if matches!(cast.role, Role::Service | Role::Entry | Role::Provider) {
            evidence.types.extend(types(study, cast));
        }
        for &number in &cast.fields {
            let taken = accepted(study, links, &roles.patterns, number);
            if !taken.is_empty() {
                evidence.references.0 += taken.iter().map(|(_, _, count)| count).sum::<usize>();
                evidence.references.1 += study.fields[number].values.len();
                evidence.alike += written_alike(study, links, number, &taken);
                evidence.asking.push(number);
            }
        }
    }
    evidence
}

fn types<'s>(study: &Study<'s, '_>, cast: &Cast) -> Vec<&'s str> {
    match cast.type_field {
        Some(field) => {
            study.fields[field].values.iter().map(|value| value.text).filter(|text| is_type(text)).collect()
        }
        None if cast.is_keyed_by_type => {
            let items = &study.collection(cast.at).items;
            items.iter().map(|&item| study.key(cast.at.0, item)).collect()
        }
        None => Vec::new(),
    }
}

impl<'s> Evidence<'s> {
    /// Looks at what its references name, and where that is.
    fn ask(&mut self, own: &Own<'_, 's, '_>, places: &Places<'s>) {
        for field in self.asking.iter().map(|&number| &own.study.fields[number]) {
            for value in &field.values {
                let in_full = |name: &str| Some((*places.get_key_value(name)?.0, places[name]));
                let of_module = |name: &str| in_full(own.find((field, value), name)?.0);
                let found = pattern::find(value.text, in_full);
                let found = found.or_else(|| pattern::find(value.text, of_module));
                let Some((.., (name, of))) = found else { continue };
                let asks = self.asks.entry(of.family).or_default();
                asks.0.insert(name);
                asks.1 += 1;
                // What is called as those that ask call it is no definition.
                let is_own = of.field.is_none_or(|own| own != last_name(field.path));
                let leads_out =
                    of.file.is_some_and(|file| (of.family, file) != (field.family, value.spot.file));
                self.across += usize::from(leads_out && is_own && is_specific(name));
            }
        }
    }

    /// Whether its items have types, and ask for each other or are of types that lie beside them.
    fn has_types(&self, stems: &HashSet<&str>) -> bool {
        let (known, all) = self.references;
        let is_there =
            |name: &&&str| stems.contains(name.rsplit(['.', '\\', ':', '/', '$']).next().unwrap_or(name));
        let there = self.types.iter().filter(is_there).count();
        // Some plain values beside references count for nothing, where many items have types.
        let are_many = self.types.len() >= MANY && known * 4 >= all && known * 2 >= self.alike;
        let ask = known >= FEW && known * 2 >= all || are_many;
        self.types.len() >= FEW && (ask || there * 2 >= self.types.len())
    }

    /// Whether it asks across files, by names that say where they belong.
    fn leads_across(&self) -> bool {
        let (known, all) = self.references;
        let names = self.asks.values().flat_map(|(names, _)| names).filter(|name| is_specific(name)).count();
        self.across >= MANY && self.across * 5 >= known && known * 10 >= all * 7 && names >= MANY
    }

    /// Whether most of what it asks for is in some families.
    fn asks_those(&self, those: &[bool]) -> bool {
        let (known, all) = self.references;
        let asks = || self.asks.iter().filter(|(family, _)| those[**family]).map(|(_, asks)| asks);
        let count: usize = asks().map(|(_, count)| count).sum();
        count * 2 >= known
            && known * 2 >= all
            && are_telling(asks().flat_map(|(names, _)| names.iter().copied()))
    }
}

/// Whether some names are more than words that stand in two places by chance.
fn are_telling<'n>(names: impl Iterator<Item = &'n str>) -> bool {
    let names: HashSet<&str> = names.collect();
    names.len() >= MANY || names.iter().filter(|name| is_specific(name)).count() >= FEW
}

/// Whether a name has parts.
fn is_specific(name: &str) -> bool {
    name.trim_start_matches(['.', '/']).contains(['.', '/', ':', '\\'])
}
