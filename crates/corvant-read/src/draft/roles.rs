//! What collections are: services, settings, entries, choices, aliases, providers; and which of their fields say what.

use super::lines::counted;
use super::links::{Links, Target, parent};
use super::pattern::Pattern;
use super::shape::{IdFrom, SAMPLE};
use super::study::{At, Field, Study, Value, is_type};
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};
use std::collections::{BTreeMap, BTreeSet};

/// What the items of a collection are taken for.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub(super) enum Role {
    Service,
    Alias,
    Setting,
    Entry,
    Choice,
    Tag,
    Provider,
    Roster,
    /// Nothing says what they are.
    Unknown,
}

impl Role {
    pub(super) fn word(self) -> &'static str {
        match self {
            Self::Service | Self::Alias => "service",
            Self::Setting => "setting",
            Self::Entry => "entry",
            Self::Choice => "choice",
            Self::Tag => "tag",
            Self::Provider => "provider",
            Self::Roster => "roster",
            Self::Unknown => "",
        }
    }
}

/// A collection with what it is taken for, and why.
#[derive(Debug)]
pub(super) struct Cast {
    pub(super) at: At,
    pub(super) role: Role,
    /// What speaks for that.
    pub(super) evidence: String,
    /// The collection whose items it says more of.
    pub(super) joins: Option<At>,
    /// Whether something else speaks against it.
    pub(super) is_sure: bool,
    /// The numbers of its fields.
    pub(super) fields: Vec<usize>,
    pub(super) type_field: Option<usize>,
    /// Whether the keys that items stand under are types.
    pub(super) is_keyed_by_type: bool,
    /// Of a provider the field with what it registers.
    pub(super) registers: Option<usize>,
    /// Of a setting, and of a choice, the field beside the id.
    pub(super) value: Option<usize>,
}

impl Cast {
    /// The same of some of its fields alone.
    pub(super) fn with_fields(&self, fields: Vec<usize>) -> Self {
        let is_there = |field: &usize| fields.contains(field);
        Self {
            type_field: self.type_field.filter(is_there),
            registers: self.registers.filter(is_there),
            evidence: self.evidence.clone(),
            fields,
            ..*self
        }
    }
}

/// All that was decided.
pub(super) struct Roles {
    pub(super) casts: Vec<Cast>,
    pub(super) by_collection: HashMap<At, Role>,
    /// By family the ways in which names are written.
    pub(super) patterns: Vec<BTreeSet<Pattern>>,
    /// Fields outside of items that list providers in the order in which they are loaded, with the collection of those.
    pub(super) rosters: Vec<(usize, At)>,
}

/// Whether most of the first values of a field look like names of types, and each item has one.
pub(super) fn is_type_field(field: &Field<'_>) -> bool {
    let sample = &field.values[..field.values.len().min(SAMPLE)];
    let types = sample.iter().filter(|value| is_type(value.text)).count();
    types * 10 >= sample.len() * 9
        && types > 0
        && field.is_single()
        && (field.is_in_item() || are_mostly_distinct(sample))
}

/// Whether hardly any value is there several times: an element may say the same of all.
fn are_mostly_distinct(values: &[Value<'_>]) -> bool {
    values.iter().map(|value| value.text).collect::<HashSet<_>>().len() * 2 > values.len()
}

/// Of collections that say which of some names another is those whose names are offered.
pub(super) fn choices(study: &Study<'_, '_>, links: &Links<'_>, mappings: &HashSet<At>) -> HashSet<At> {
    let offering = links.offers.keys().flat_map(|&field| &study.fields[field].values);
    let offered: HashSet<&str> = offering.map(|value| value.text).collect();
    let is_choice = |at: &At| {
        let ids = study.ids_of(*at);
        ids.iter().filter(|id| offered.contains(id.as_str())).count() * 2 > ids.len()
    };
    mappings.iter().copied().filter(is_choice).collect()
}

pub(super) fn roles(
    study: &Study<'_, '_>,
    links: &Links<'_>,
    choices: &HashSet<At>,
    parallel: &BTreeMap<At, At>,
) -> Roles {
    let patterns = patterns(study, links);
    let incoming = incoming(study, links, &patterns);
    let has_types = |at: &At| type_field(study, *at).is_some() || is_keyed_by_type(study, *at);
    let typed: HashSet<At> = study.all().filter(has_types).collect();
    let casting = Casting { study, links, patterns: &patterns, incoming: &incoming, typed: &typed, choices };
    let mut casts: Vec<Cast> = study.all().map(|at| casting.cast(at)).collect();
    join(&casting, &mut casts, parallel);
    let rosters = rosters(study, links, &casts);
    let mut providers: BTreeSet<At> = rosters.iter().map(|(_, of)| *of).collect();
    let listed: HashSet<&str> = casts
        .iter()
        .filter(|cast| cast.role == Role::Roster)
        .flat_map(|cast| study.ids_of(cast.at).iter().map(String::as_str))
        .collect();
    let is_listed = |at: At| {
        let ids = study.ids_of(at);
        ids.iter().filter(|id| listed.contains(id.as_str())).count() * 2 > ids.len()
    };
    providers.extend(
        casts.iter().filter(|cast| cast.registers.is_some() && is_listed(cast.at)).map(|cast| cast.at),
    );
    for cast in &mut casts {
        if providers.contains(&cast.at) && cast.registers.is_some() && cast.role != Role::Roster {
            (cast.role, cast.is_sure) = (Role::Provider, true);
            "a list has their ids, and they list ids of services".clone_into(&mut cast.evidence);
        } else {
            cast.registers = None;
        }
    }
    // Who loads nothing that is defined loads nothing.
    if providers.is_empty() {
        for cast in casts.iter_mut().filter(|cast| cast.role == Role::Roster) {
            cast.role = Role::Unknown;
        }
    }
    let by_collection = casts.iter().map(|cast| (cast.at, cast.role)).collect();
    Roles { casts, by_collection, patterns, rosters }
}

/// What says more of the items of another is what those are. In other files only services can have more said of them, and what
/// says nothing that counts is left out.
fn join(casting: &Casting<'_, '_, '_>, casts: &mut [Cast], parallel: &BTreeMap<At, At>) {
    let study = casting.study;
    let roles: HashMap<At, (Role, bool)> =
        casts.iter().map(|cast| (cast.at, (cast.role, cast.is_sure))).collect();
    for cast in casts {
        let Some(main) = parallel.get(&cast.at).copied().filter(|main| may_be_joined(roles[main].0)) else {
            if study.collection(cast.at).is_edges {
                cast.role = Role::Unknown;
            }
            continue;
        };
        let says_something =
            |field: &usize| casting.links.offers.contains_key(field) || casting.names_in(*field) > 0;
        if main.0 != cast.at.0 && !(roles[&main].0 == Role::Service && cast.fields.iter().any(says_something))
        {
            (cast.role, cast.is_sure) = (Role::Unknown, false);
            cast.evidence = format!("they have the ids of those at {}", study.collection(main).each);
            continue;
        }
        (cast.role, cast.is_sure) = roles[&main];
        cast.joins = Some(main);
        let files =
            if main.0 == cast.at.0 { String::new() } else { format!(" of {}", study.families[main.0].glob) };
        cast.evidence = format!("it says more of those at {}{files}", study.collection(main).each);
    }
}

fn may_be_joined(role: Role) -> bool {
    matches!(role, Role::Service | Role::Entry)
}

/// By family how names are written: in most places where something stands so, it is a name that is known.
fn patterns(study: &Study<'_, '_>, links: &Links<'_>) -> Vec<BTreeSet<Pattern>> {
    let of_family = |family: usize| {
        // By pattern how many names are written so, and in how many values something is.
        let mut counts: BTreeMap<&Pattern, (usize, usize)> = BTreeMap::new();
        for number in study.fields_of_family(family) {
            let (field, hits) = (&study.fields[number], &links.hits[number]);
            let mut here: BTreeMap<&Pattern, usize> = BTreeMap::new();
            for ((pattern, _), count) in &hits.found {
                *here.entry(pattern).or_default() += count;
            }
            // In fields that have some such name.
            for (pattern, count) in here {
                let fits = |value: &&usize| pattern.fits(field.values[**value].text);
                let more = if pattern.is_alone() { 0 } else { hits.missed.iter().filter(fits).count() };
                let known = counts.entry(pattern).or_default();
                (known.0, known.1) = (known.0 + count, known.1 + count + more);
            }
        }
        let known = counts.into_iter().filter(|(_, (count, fits))| count * 2 >= *fits);
        known.map(|(pattern, _)| pattern.clone()).collect()
    };
    (0..study.families.len()).map(of_family).collect()
}

/// How many names of each collection stand in values, of those that are taken for references.
fn incoming(study: &Study<'_, '_>, links: &Links<'_>, patterns: &[BTreeSet<Pattern>]) -> HashMap<At, usize> {
    let mut incoming: HashMap<At, usize> = HashMap::default();
    for number in 0..study.fields.len() {
        for (_, target, count) in accepted(study, links, patterns, number) {
            if let Target::Id(at) = target {
                *incoming.entry(at).or_default() += count;
            }
        }
    }
    incoming
}

/// The names in a field that are taken for references: written in a known way; and bare ones where most bare values are names.
pub(super) fn accepted<'l>(
    study: &Study<'_, '_>,
    links: &'l Links<'_>,
    patterns: &[BTreeSet<Pattern>],
    number: usize,
) -> Vec<(&'l Pattern, Target, usize)> {
    let (field, hits) = (&study.fields[number], &links.hits[number]);
    if links.offers.contains_key(&number) {
        return Vec::new();
    }
    let alone = hits.count(|pattern, _| pattern.is_alone());
    // Slots are called as what they hold, in some places: what leaves its module out is known in nearly all.
    let short = hits.count(|pattern, _| pattern.is_alone() && !pattern.is_bare());
    let is_told = short == 0
        || alone * 10 >= (alone + hits.missed_bare) * 8
            && (field.values.len() > FEW || !has_ids_beside(study, links, number));
    let has_alone = alone >= hits.missed_bare && alone > 0 && is_told;
    let known = &patterns[field.family];
    let is_taken = |pattern: &Pattern| if pattern.is_alone() { has_alone } else { known.contains(pattern) };
    let taken = hits.found.iter().filter(|((pattern, _), _)| is_taken(pattern));
    taken.map(|((pattern, target), count)| (pattern, *target, *count)).collect()
}

/// Fewer values may be names of their own module by chance.
const FEW: usize = 2;

/// Whether a field in the same place has ids as they are.
fn has_ids_beside(study: &Study<'_, '_>, links: &Links<'_>, number: usize) -> bool {
    let field = &study.fields[number];
    let is_beside = |other: &usize| {
        let beside = &study.fields[*other];
        *other != number && beside.of == field.of && parent(beside.path) == parent(field.path)
    };
    let mut beside = study.fields_of_family(field.family).filter(is_beside);
    parent(field.path).is_some_and(|path| path != "$")
        && beside.any(|other| links.hits[other].count(|pattern, _| pattern.is_bare()) > 0)
}

/// How many values of a field are written as the names in it that are taken for references: those, and what is defined nowhere.
pub(super) fn written_alike(
    study: &Study<'_, '_>,
    links: &Links<'_>,
    number: usize,
    taken: &[(&Pattern, Target, usize)],
) -> usize {
    let (field, hits) = (&study.fields[number], &links.hits[number]);
    let alone = if taken.iter().any(|(pattern, ..)| pattern.is_alone()) { hits.missed_bare } else { 0 };
    let patterns: BTreeSet<&Pattern> =
        taken.iter().map(|(pattern, ..)| *pattern).filter(|pattern| !pattern.is_alone()).collect();
    let fits = |value: &&usize| patterns.iter().any(|pattern| pattern.fits(field.values[**value].text));
    let others = if patterns.is_empty() { 0 } else { hits.missed.iter().filter(fits).count() };
    taken.iter().map(|(.., count)| count).sum::<usize>() + alone + others
}

/// Lists outside of items, or maps of nothing, whose texts are ids of items that list services.
fn rosters(study: &Study<'_, '_>, links: &Links<'_>, casts: &[Cast]) -> Vec<(usize, At)> {
    let lists: HashSet<At> =
        casts.iter().filter(|cast| cast.registers.is_some()).map(|cast| cast.at).collect();
    let mut found = Vec::new();
    for (number, field) in study.fields.iter().enumerate().filter(|(_, field)| field.of.is_none()) {
        let hits = &links.hits[number];
        for ((pattern, target), count) in &hits.found {
            if let Target::Id(at) = target
                && pattern.is_bare()
                && count * 2 > field.values.len()
                && field.path.ends_with("[*]")
                && lists.contains(at)
            {
                found.push((number, *at));
            }
        }
    }
    found
}

/// Whether the keys that items stand under are types.
fn is_keyed_by_type(study: &Study<'_, '_>, at: At) -> bool {
    let collection = study.collection(at);
    let keys = collection.items.iter().map(|&item| study.key(at.0, item));
    !collection.items.is_empty()
        && collection.ids.first() == Some(&IdFrom::Key)
        && keys.filter(|key| is_type(key)).count() * 10 >= collection.items.len() * 9
}

/// The field with the types of a collection's items.
pub(super) fn type_field(study: &Study<'_, '_>, at: At) -> Option<usize> {
    let items = study.collection(at).items.len();
    // What types are bound to are no types of items.
    let contracts = study.contracts_path(at);
    let fields = study.fields_of(at).filter(|&number| {
        let field = &study.fields[number];
        is_type_field(field)
            && field.values.len() * 10 >= items * 3
            && contracts.as_deref() != Some(field.path)
    });
    fields.max_by_key(|&number| {
        let field = &study.fields[number];
        (field.values.len(), std::cmp::Reverse(field.path.len()))
    })
}

struct Casting<'c, 's, 't> {
    study: &'c Study<'s, 't>,
    links: &'c Links<'s>,
    patterns: &'c [BTreeSet<Pattern>],
    incoming: &'c HashMap<At, usize>,
    /// Collections whose items have types.
    typed: &'c HashSet<At>,
    choices: &'c HashSet<At>,
}

impl Casting<'_, '_, '_> {
    fn cast(&self, at: At) -> Cast {
        let collection = self.study.collection(at);
        let fields: Vec<usize> = self.study.fields_of(at).collect();
        let count = collection.items.len();
        let asked = self.incoming.get(&at).copied().unwrap_or_default();
        let asking: usize = fields.iter().map(|&field| self.names_in(field)).sum();
        let of_kind =
            |kind| collection.items.iter().filter(|&&item| self.study.kind(at.0, item) == kind).count();
        let (maps, nothing) = (of_kind(NodeKind::Map), of_kind(NodeKind::Null));
        let mut cast = Cast {
            at,
            role: Role::Unknown,
            evidence: String::new(),
            joins: None,
            is_sure: true,
            is_keyed_by_type: is_keyed_by_type(self.study, at),
            type_field: type_field(self.study, at),
            registers: self.registers(&fields),
            value: self.beside(at, &fields).or_else(|| self.value_of(at, &fields)),
            fields,
        };
        let (role, evidence, is_sure) = if self.choices.contains(&at) {
            (Role::Choice, format!("{count} names that are offered, each with an id"), true)
        } else if nothing == count && self.are_ids(at) {
            (Role::Roster, format!("{count} keys without values, which are ids elsewhere"), true)
        } else if maps * 2 < count && cast.type_field.is_none() && !cast.is_keyed_by_type {
            self.plain(at, asked, asking, &cast.fields)
        } else {
            self.maps(&cast, count, asked, asking)
        };
        (cast.role, cast.evidence, cast.is_sure) = (role, evidence, is_sure);
        cast
    }

    /// How many names there are in a field.
    fn names_in(&self, field: usize) -> usize {
        accepted(self.study, self.links, self.patterns, field).iter().map(|(_, _, count)| count).sum()
    }

    /// Items that are maps.
    fn maps(&self, cast: &Cast, count: usize, asked: usize, asking: usize) -> (Role, String, bool) {
        let by_key = if cast.is_keyed_by_type { count } else { 0 };
        let typed = cast.type_field.map_or(by_key, |field| self.study.fields[field].values.len());
        let others_have_types = self.typed.iter().any(|&at| at != cast.at);
        let is_measure = || self.beside(cast.at, &cast.fields).is_some_and(|field| self.are_numbers(field));
        if asked > 0 && typed == 0 && asking == 0 && (others_have_types || is_measure()) {
            return match cast.value {
                Some(_) if self.beside(cast.at, &cast.fields).is_none() => {
                    let evidence =
                        format!("one of several fields may be a value, asked for {}", times(asked));
                    (Role::Setting, evidence, true)
                }
                Some(_) => (Role::Setting, format!("one value each, asked for {}", times(asked)), true),
                None => (
                    Role::Tag,
                    format!("asked for {}, and they have and ask for nothing", times(asked)),
                    true,
                ),
            };
        }
        if asked > 0 {
            return (
                Role::Service,
                format!("asked for {}; {typed} of {count} have a type", times(asked)),
                true,
            );
        }
        if asking > 0 && typed == 0 {
            return (
                Role::Entry,
                format!("nothing asks for one of the {count}, and they ask {}", times(asking)),
                true,
            );
        }
        if typed * 2 <= count {
            return (Role::Unknown, format!("nothing says what these {count} are"), false);
        }
        let offers = cast.fields.iter().any(|field| self.links.offers.contains_key(field));
        let is_entry = asking > 0 && !offers && !self.incoming.is_empty();
        let evidence = format!("{typed} of {count} have a type, and nothing asks for one by its id");
        (if is_entry { Role::Entry } else { Role::Service }, evidence, offers || !is_entry)
    }

    /// Items that are plain values or lists.
    fn plain(&self, at: At, asked: usize, asking: usize, fields: &[usize]) -> (Role, String, bool) {
        let count = self.study.collection(at).items.len();
        let to_ids = |is_bare: bool| -> usize {
            // What is several names is none of them.
            let single = fields.iter().filter(|&&number| self.study.fields[number].split.is_none());
            let hits = single.map(|&number| &self.links.hits[number]);
            hits.map(|hits| {
                hits.count(|pattern, target| pattern.is_bare() == is_bare && matches!(target, Target::Id(_)))
            })
            .sum()
        };
        let single =
            fields.iter().map(|&number| &self.study.fields[number]).filter(|field| field.split.is_none());
        let values = single.flat_map(|field| &field.values);
        let misspelt = values.filter(|value| self.study.misspelt.contains(value.text)).count();
        let ids = to_ids(true);
        if asked > 0 && (ids + misspelt) * 2 > count {
            let nearly = if misspelt > 0 { format!(", {misspelt} nearly") } else { String::new() };
            let evidence = format!("{ids} of {count} values are ids{nearly}, asked for {}", times(asked));
            return (Role::Alias, evidence, true);
        }
        if (asking * 2 > count || asked == 0 && asking * 2 >= count)
            && asking > 0
            && !self.asks_itself(at, fields)
        {
            return if asked == 0 {
                (
                    Role::Entry,
                    format!("nothing asks for one of the {count}, and they ask {}", times(asking)),
                    true,
                )
            } else {
                (Role::Service, format!("asked for {}, and they ask {}", times(asked), times(asking)), true)
            };
        }
        if asked > 0 {
            return (Role::Setting, format!("{}, asked for {}", counted(count, "value"), times(asked)), true);
        }
        let dotted = self.study.ids_of(at).iter().filter(|id| id.contains(['.', '_', '-'])).count();
        let role = if dotted * 2 > count && count > 1 { Role::Setting } else { Role::Unknown };
        (role, format!("{} that nothing asks for", counted(count, "plain value")), false)
    }

    /// Whether all that its values name is in the collection itself.
    fn asks_itself(&self, at: At, fields: &[usize]) -> bool {
        fields.iter().all(|&number| {
            let taken = accepted(self.study, self.links, self.patterns, number);
            taken.iter().all(|(_, target, _)| *target == Target::Id(at))
        })
    }

    fn are_ids(&self, at: At) -> bool {
        let all: HashSet<&str> = self.study.ids_of(at).iter().map(String::as_str).collect();
        let known = all.iter().filter(|id| self.study.shared.contains(**id)).count();
        self.study.made[at.0][at.1].from == IdFrom::Key && known * 2 > all.len()
    }

    /// The one plain field that items have beside their id, and beside words that all of them have, or all of a file.
    fn beside(&self, at: At, fields: &[usize]) -> Option<usize> {
        let ids = self.study.id_paths(at);
        let says_something = |number: &usize| {
            let field = &self.study.fields[*number];
            let first = field.values.first().map(|value| value.text);
            let is_word =
                field.values.len() > 1 && field.values.iter().all(|value| Some(value.text) == first);
            !is_word && !self.study.is_of_files(field) && !ids.iter().any(|id| id == field.path)
        };
        let mut beside = fields.iter().copied().filter(says_something);
        let only = beside.next()?;
        (beside.next().is_none() && self.study.fields[only].is_single()).then_some(only)
    }

    /// Whether all values of a field are numbers or yes and no.
    fn are_numbers(&self, field: usize) -> bool {
        let is_one =
            |value: &Value<'_>| matches!(value.text, "true" | "false") || value.text.parse::<f64>().is_ok();
        self.study.fields[field].values.iter().all(is_one)
    }

    /// Of several plain fields that nearly all items have beside their id the one that may be a value: it has numbers, or
    /// another word in most items.
    fn value_of(&self, at: At, fields: &[usize]) -> Option<usize> {
        let ids = self.study.id_paths(at);
        let items = self.study.collection(at).items.len();
        let candidates = fields.iter().copied().filter(|&number| {
            let field = &self.study.fields[number];
            let has_space = |value: &Value<'_>| value.text.contains(char::is_whitespace);
            field.is_single()
                && field.path != "$"
                && field.values.len() * 10 >= items * 9
                && !ids.iter().any(|id| id == field.path)
                && !field.values.iter().any(has_space)
        });
        let measured = candidates.filter_map(|number| {
            let values = &self.study.fields[number].values;
            let is_text = |value: &&Value<'_>| self.study.kind(at.0, value.spot) == NodeKind::Text;
            let are_numbers = values.iter().filter(is_text).count() * 2 < values.len();
            let distinct = values.iter().map(|value| value.text).collect::<HashSet<_>>().len();
            (are_numbers || distinct * 2 > items).then_some(((are_numbers, distinct), number))
        });
        measured.max_by_key(|(how, number)| (*how, std::cmp::Reverse(*number))).map(|(_, number)| number)
    }

    /// A field that lists ids of services, none of them twice.
    fn registers(&self, fields: &[usize]) -> Option<usize> {
        fields.iter().copied().find(|&number| {
            let field = &self.study.fields[number];
            let hits = &self.links.hits[number];
            let bare = hits.count(|pattern, target| pattern.is_bare() && matches!(target, Target::Id(_)));
            let is_list = || !field.is_single() || field.split.is_some();
            let are_distinct = || {
                let distinct: HashSet<&str> = field.values.iter().map(|value| value.text).collect();
                distinct.len() == field.values.len()
            };
            bare > 1 && bare * 10 >= field.values.len() * 6 && is_list() && are_distinct()
        })
    }
}

fn times(count: usize) -> String {
    if count == 1 { "once".to_owned() } else { format!("{count} times") }
}
