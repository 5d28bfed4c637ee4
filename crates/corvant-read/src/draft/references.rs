//! How a house writes references: the expressions for them, where names of several sorts may stand in one place.

use super::likeness::Likeness;
use super::lines::text;
use super::links::{Links, Offer, Target};
use super::own::Taken;
use super::pattern::Pattern;
use super::roles::{Cast, Role, Roles};
use super::shape::{SAMPLE, quoted};
use super::study::{At, Field, Study, Value, ends_in_capital};
use super::write::{Writer, cut};
use std::collections::{BTreeMap, BTreeSet};

/// Words that say what the names beside them are, at most.
const WORDS: usize = 8;

/// An expression for names of contracts, where a capital tells them.
pub(super) const CONTRACT: &str = r"(?:\w+[.\\])*[A-Z]\w*";

/// What items of a collection are needed as.
fn group_of(roles: &Roles, at: At) -> Option<&'static str> {
    match roles.by_collection.get(&at)? {
        Role::Service | Role::Alias => Some("service"),
        Role::Setting => Some("setting"),
        Role::Tag => Some("tag"),
        _ => None,
    }
}

/// By what names are needed as the signs in them beside those that most names have, as they stand in an expression.
pub(super) fn signs(
    study: &Study<'_, '_>,
    links: &Links<'_>,
    roles: &Roles,
) -> BTreeMap<&'static str, String> {
    let is_sign =
        |letter: &char| !letter.is_alphanumeric() && !letter.is_whitespace() && !"_.-\\".contains(*letter);
    let mut signs: BTreeMap<&'static str, BTreeSet<char>> = BTreeMap::new();
    for (field, offer) in &links.offers {
        let names = study.fields[*field].values.iter().take(SAMPLE);
        let letters = names.flat_map(|value| value.text.chars()).filter(is_sign);
        signs.entry(offer.group()).or_default().extend(letters);
    }
    for (at, group) in study.all().filter_map(|at| Some((at, group_of(roles, at)?))) {
        let letters = study.ids_of(at).iter().take(SAMPLE).flat_map(|id| id.chars());
        signs.entry(group).or_default().extend(letters.filter(is_sign));
    }
    let written =
        |signs: BTreeSet<char>| signs.into_iter().map(|sign| regex::escape(&sign.to_string())).collect();
    signs.into_iter().map(|(group, signs)| (group, written(signs))).collect()
}

/// What all names of one sort begin with, and none of another. A capital tells contracts from services whose names have none.
pub(super) fn beginnings(
    study: &Study<'_, '_>,
    links: &Links<'_>,
    roles: &Roles,
) -> BTreeMap<&'static str, String> {
    let mut names: BTreeMap<&'static str, Vec<&str>> = BTreeMap::new();
    for (at, group) in study.all().filter_map(|at| Some((at, group_of(roles, at)?))) {
        names.entry(group).or_default().extend(study.ids_of(at).iter().map(String::as_str));
    }
    for (field, offer) in &links.offers {
        names
            .entry(offer.group())
            .or_default()
            .extend(study.fields[*field].values.iter().map(|value| value.text));
    }
    let capitals = |group: &str| {
        let names = names.get(group).map_or(&[][..], Vec::as_slice);
        names.iter().filter(|name| ends_in_capital(name)).count() * 10 > names.len()
    };
    let are_told_by_capitals = !capitals("service") && capitals("contract");
    let mut found = BTreeMap::new();
    for (group, own) in names.iter().filter(|(group, _)| !are_told_by_capitals || **group != "contract") {
        let beginning = common_beginning(own);
        let others = names.iter().filter(|(other, _)| *other != group).flat_map(|(_, names)| names);
        if !beginning.is_empty()
            && others.clone().next().is_some()
            && !others.clone().any(|name| name.starts_with(beginning))
        {
            found.insert(*group, beginning.to_owned());
        }
    }
    found
}

/// Ways to write names, without the words before brackets where those are too many to say what the names are.
fn few_words(needed: &BTreeSet<(Pattern, &'static str)>) -> BTreeSet<(Pattern, &'static str)> {
    let words = needed.iter().filter(|(pattern, _)| pattern.without_word().is_some()).count();
    if words <= WORDS {
        return needed.clone();
    }
    needed
        .iter()
        .map(|(pattern, group)| (pattern.without_word().unwrap_or_else(|| pattern.clone()), *group))
        .collect()
}

/// What all of some names begin with, up to a sign that separates.
fn common_beginning<'n>(names: &[&'n str]) -> &'n str {
    let Some((first, rest)) = names.split_first() else { return "" };
    let shared = rest.iter().fold(*first, |shared, name| {
        let same = shared.char_indices().zip(name.chars()).find(|((_, one), other)| one != other);
        &shared[..same.map_or(shared.len().min(name.len()), |((at, _), _)| at)]
    });
    shared.rfind(['.', '\\', ':', '/']).map_or("", |at| &shared[..=at])
}

impl Writer<'_, '_, '_> {
    /// What a name is needed as.
    pub(super) fn group(&self, target: Target) -> Option<&'static str> {
        match target {
            Target::Id(at) => group_of(self.roles, at),
            Target::Offered(field) => self.links.offers.get(&field).map(Offer::group),
        }
    }

    /// How the house writes references.
    pub(super) fn values(&mut self, needed: &BTreeSet<(Pattern, &'static str)>) {
        let needed = &few_words(needed);
        let mut counts: Vec<(&Pattern, &str, usize)> =
            needed.iter().map(|(pattern, group)| (pattern, *group, self.count(pattern, group))).collect();
        counts.sort_by_key(|(pattern, group, count)| {
            let is_told = self.beginnings.contains_key(group);
            (std::cmp::Reverse(pattern.weight()), !is_told, std::cmp::Reverse(*count))
        });
        let variants: Vec<bool> = counts
            .iter()
            .map(|(pattern, group, count)| {
                counts.iter().any(|(other, known, more)| {
                    known == group
                        && count <= more
                        && pattern.is_variant_of(other)
                        && !self.targets(pattern, group).is_disjoint(&self.targets(other, group))
                })
            })
            .collect();
        // Of two sorts of names that are written in one way, a capital tells contracts.
        for (number, (pattern, group, count)) in counts.iter().enumerate() {
            if variants[number] {
                continue;
            }
            let optional = counts.iter().zip(&variants).find(|((other, known, _), is_variant)| {
                **is_variant && known == group && other.is_variant_of(pattern)
            });
            let rivals: Vec<&str> = counts
                .iter()
                .filter(|(other, known, _)| other == pattern && known != group)
                .map(|(_, known, _)| *known)
                .collect();
            let any = format!("[{}]+", self.letters(group));
            let beginning = self.beginnings.get(group);
            let is_begun =
                beginning.is_some() || rivals.iter().any(|rival| self.beginnings.contains_key(rival));
            let parting = self.parting(pattern, group, &rivals);
            let first = (!rivals.is_empty()).then_some("[a-z]");
            let told = pattern.is_bare().then(|| self.names_alike(group, first)).flatten();
            let letters = match (*group, beginning) {
                _ if parting.is_some() => parting.clone().unwrap_or_default(),
                _ if rivals.is_empty() => told.unwrap_or(any),
                (_, Some(beginning)) => format!("{}{any}", regex::escape(beginning)),
                _ if is_begun => any,
                ("contract", None) => CONTRACT.to_owned(),
                (_, None) => told.unwrap_or_else(|| format!("[a-z][{}]*", self.letters(group))),
            };
            let line = format!(
                "match = {}",
                text(&pattern.expression(group, &letters, optional.map(|((other, _, _), _)| *other)))
            );
            let is_clear = parting.is_some()
                || is_begun
                || rivals.iter().all(|rival| (*rival == "contract") != (*group == "contract"));
            if !is_clear
                && counts.iter().any(|(other, known, more)| {
                    other == pattern && known != group && (*more, *known) > (*count, *group)
                })
            {
                self.lines.plain("");
                self.lines.unsure(
                    &line,
                    &format!(
                        "{count} are {group}s, and others written in the same way are {}",
                        rivals.join(" and ")
                    ),
                );
                continue;
            }
            self.lines.head("reader.value");
            self.lines.told(&line, &format!("{count} are {group}s"));
        }
    }

    /// An expression for names of a sort, where those of each other sort that are written in the same way have more or less parts.
    fn parting(&self, pattern: &Pattern, group: &str, rivals: &[&str]) -> Option<String> {
        let others: Vec<&&str> = rivals.iter().filter(|rival| **rival != "contract").collect();
        if others.is_empty() || group == "contract" {
            return None;
        }
        let own = self.written_so(pattern, group)?;
        let signs = others.iter().map(|other| own.parting(self.written_so(pattern, other)?));
        let signs: BTreeSet<char> = signs.collect::<Option<_>>()?;
        let sign = signs.first().filter(|_| signs.len() == 1)?;
        Some(own.parted(*sign, &self.letters(group)))
    }

    /// Where names of a sort are defined that are written in one way.
    fn targets(&self, pattern: &Pattern, group: &str) -> BTreeSet<Target> {
        let fields = self.study.fields_of_family(self.family);
        let found = fields.flat_map(|number| self.links.hits[number].found.keys());
        let targets = found.filter(|(other, _)| other == pattern).map(|(_, target)| *target);
        targets.filter(|target| self.group(*target) == Some(group)).collect()
    }

    /// What names of a sort have in common that are written in one way.
    fn written_so(&self, pattern: &Pattern, group: &str) -> Option<Likeness> {
        let targets = self.targets(pattern, group);
        targets.into_iter().filter_map(|target| self.links.alike(target)).reduce(Likeness::and)
    }

    /// An expression for bare names of a sort, where plain values stand beside them in some field that are written in another way.
    fn names_alike(&self, group: &'static str, first: Option<&str>) -> Option<String> {
        let fields = self.study.fields_of_family(self.family);
        let found = fields.filter_map(|number| self.likeness_beside_plain(number, group));
        Some(found.reduce(Likeness::and)?.expression(first, &self.letters(group)))
    }

    /// The same for those of one field.
    pub(super) fn names_beside_plain(&self, number: usize, group: &'static str) -> Option<String> {
        Some(self.likeness_beside_plain(number, group)?.expression(None, &self.letters(group)))
    }

    fn likeness_beside_plain(&self, number: usize, group: &'static str) -> Option<Likeness> {
        let likeness = self.links.likeness(number, |target| self.group(target) == Some(group))?;
        let field = &self.study.fields[number];
        self.links.has_plain_beside(field, number, likeness).then_some(likeness)
    }

    /// The letters of names of a sort, as they stand between brackets in an expression.
    pub(super) fn letters(&self, group: &str) -> String {
        format!(r"\w.\\{}-", self.signs.get(group).map_or("", String::as_str))
    }

    fn count(&self, pattern: &Pattern, group: &str) -> usize {
        let hits = self.study.fields_of_family(self.family).map(|number| &self.links.hits[number]);
        let is_so = |other: &Pattern, target| {
            (other == pattern || other.without_word().is_some_and(|bare| bare == *pattern))
                && self.group(target) == Some(group)
        };
        hits.map(|hits| hits.count(is_so)).sum()
    }

    /// Names of several sorts in one field, where another field of the same things says which sort each is: a need for each of its
    /// words. Whether there is such a field.
    pub(super) fn by_words(&mut self, cast: &Cast, number: usize, taken: &[Taken<'_>]) -> bool {
        let field = &self.study.fields[number];
        let (each, rest) = cut(field.path);
        let stem = each.strip_suffix("[*]").or_else(|| each.strip_suffix(".*"));
        let Some(stem) = stem.filter(|_| rest != "$") else { return false };
        let beside = cast.fields.iter().map(|&other| &self.study.fields[other]).filter(|other| {
            let is_there = other.path != field.path && cut(other.path).0 == each;
            is_there && other.values.len() == field.values.len() && other.split.is_none()
        });
        let told = beside.filter_map(|other| Some((cut(other.path).1, self.groups_by_word(field, other)?)));
        let Some((path, words)) = told.max_by_key(|(_, words)| std::cmp::Reverse(words.len())) else {
            return false;
        };
        for (word, (group, count)) in words {
            let filter = format!("{stem}[?@{} == {}]", &path[1..], quoted(word));
            let own: Vec<_> = taken.iter().filter(|taken| taken.group == group).copied().collect();
            let lines = if own.iter().any(|taken| taken.pattern.own_module().is_some()) {
                self.own_lines(number, &rest, &own)
            } else {
                vec![(format!("{group} = {}", text(&rest)), format!("{count} are {group}s"))]
            };
            self.needs_of("reader.take.need", &filter, lines);
        }
        true
    }

    /// By word of a field what the names beside it are, and how many; `None`: that is not the same for each word.
    fn groups_by_word<'s>(
        &self,
        field: &Field<'s>,
        words: &Field<'s>,
    ) -> Option<BTreeMap<&'s str, (&'static str, usize)>> {
        let mut found: BTreeMap<&str, (&'static str, usize)> = BTreeMap::new();
        for (name, word) in field.values.iter().zip(&words.values) {
            if name.item != word.item || found.len() > WORDS {
                return None;
            }
            let Some(group) = self.group_of_name(field, name) else { continue };
            let known = found.entry(word.text).or_insert((group, 0));
            if known.0 != group {
                return None;
            }
            known.1 += 1;
        }
        (found.len() > 1).then_some(found)
    }

    /// What a name as it stands is needed as.
    fn group_of_name(&self, field: &Field<'_>, name: &Value<'_>) -> Option<&'static str> {
        let of_module = || self.own.find((field, name), name.text).map(|(_, at, _)| at);
        if let Some(at) = self.study.ids.get(name.text).copied().or_else(of_module) {
            return group_of(self.roles, at);
        }
        self.links.offered.get(name.text).and_then(|&field| self.group(Target::Offered(field)))
    }
}
