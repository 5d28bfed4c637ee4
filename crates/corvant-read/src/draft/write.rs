//! Readers as they stand in a workspace file, each line with what speaks for it.

use super::files::COMMENT;
use super::lines::{Lines, counted, key_text, text};
use super::links::Links;
use super::module::{self, Modules, Own};
use super::own::{Taken, are_told_apart};
use super::parts::Part;
use super::pattern::Pattern;
use super::references::{beginnings, signs};
use super::roles::{Cast, Role, Roles, accepted, written_alike};
use super::shape::{Flat, IdFrom, Numbers};
use super::statements::Statements;
use super::study::{At, Field, Study};
use super::{Draft, FamilyDraft};
use crate::custom::ReaderSyntax;
use foldhash::HashSet;
use std::collections::{BTreeMap, BTreeSet};

/// `patterns` are those of each family's files.
pub(super) fn write(
    study: &Study<'_, '_>,
    links: &Links<'_>,
    roles: &Roles,
    (modules, own): (&Modules, &Own<'_, '_, '_>),
    patterns: &[Vec<String>],
    draft: &mut Draft,
) {
    let signs = signs(study, links, roles);
    let beginnings = beginnings(study, links, roles);
    let mut names: HashSet<String> = HashSet::default();
    for casts in roles.casts.chunk_by(|one, other| one.at.0 == other.at.0) {
        let family = casts[0].at.0;
        if casts.iter().all(|cast| cast.role == Role::Unknown || !cast.is_sure && casts.len() == 1) {
            continue;
        }
        let mut writer = Writer {
            study,
            links,
            roles,
            modules,
            own,
            signs: &signs,
            beginnings: &beginnings,
            family,
            known: (0, 0),
            lines: Lines::default(),
            is_flat: false,
        };
        let name = unused(&name_of(&study.families[family].glob), &mut names);
        let items = writer.reader(&name, &patterns[family], casts);
        let of = &study.families[family];
        draft.families.push(FamilyDraft {
            name,
            glob: of.glob.clone(),
            syntax: of.syntax.word(),
            files: of.files(),
            items,
            known: writer.known,
            unsure: writer.lines.unsure,
            text: writer.lines.text,
        });
    }
}

/// What a take is of.
#[derive(Clone, Copy)]
enum Of<'o> {
    /// Items.
    Item,
    /// Keys of a flat file that end in one word, with the number of their field.
    Key(&'o Flat, usize),
    /// Lines that begin with a word.
    Line(&'o Statements, &'o str),
}

pub(super) struct Writer<'w, 's, 't> {
    pub(super) study: &'w Study<'s, 't>,
    pub(super) links: &'w Links<'s>,
    pub(super) roles: &'w Roles,
    pub(super) modules: &'w Modules,
    pub(super) own: &'w Own<'w, 's, 't>,
    pub(super) signs: &'w BTreeMap<&'static str, String>,
    /// What names of services or of contracts begin with, where both look alike and others do not begin so.
    pub(super) beginnings: &'w BTreeMap<&'static str, String>,
    pub(super) family: usize,
    /// Of names that stand where references do, those that are defined, and all.
    pub(super) known: (usize, usize),
    pub(super) lines: Lines,
    /// Whether the take that is written is of a flat file.
    pub(super) is_flat: bool,
}

impl Writer<'_, '_, '_> {
    /// Writes the reader of a family, and gives how many items of each sort it takes.
    fn reader(&mut self, name: &str, patterns: &[String], casts: &[Cast]) -> Vec<(&'static str, usize)> {
        let family = &self.study.families[self.family];
        let files = family.files();
        self.lines.head("reader");
        self.lines.plain(&format!("name = {}", text(name)));
        let patterns: Vec<String> = patterns.iter().map(|pattern| text(pattern)).collect();
        self.lines.told(&format!("files = [{}]", patterns.join(", ")), &counted(files, "file"));
        self.lines.plain(&format!("syntax = {}", text(family.syntax.word())));
        if matches!(family.syntax, ReaderSyntax::Records | ReaderSyntax::Lines) {
            self.lines.plain(&format!("comment = {}", text(COMMENT)));
        }
        let tagged = family.documents.iter().filter(|document| document.manner.local_tags).count();
        if tagged > 0 {
            self.lines.told(
                "local-tags = true",
                &format!("{} with tags of their own", counted(tagged, "document")),
            );
        }
        if family.has_documents() {
            self.lines.told("documents = true", &counted(family.documents.len(), "document"));
        }
        let module = &self.modules.of_family[self.family];
        self.lines.told(&format!("module = {}", module.line), &module.evidence);
        if let Some((path, agree, all)) = self.uses() {
            self.lines.told(&format!("uses = {}", text(&path)), &format!("{agree} of {all} are modules"));
        }
        let mut items: BTreeMap<&'static str, usize> = BTreeMap::new();
        let mut needs_values = BTreeSet::new();
        for cast in casts {
            let count = self.study.collection(cast.at).items.len();
            if cast.role == Role::Unknown {
                let each = &self.study.collection(cast.at).each;
                self.lines.plain("");
                self.lines.unsure(&format!("items at {each}"), &cast.evidence);
                continue;
            }
            if cast.joins.is_none() {
                *items.entry(cast.role.word()).or_default() += count;
            }
            self.take(cast, &mut needs_values);
        }
        for &(field, _) in &self.roles.rosters {
            let field = &self.study.fields[field];
            if field.family == self.family {
                self.lines.head("reader.take");
                self.lines.told(
                    "what = \"roster\"",
                    &format!("{} of providers that are defined", counted(field.values.len(), "id")),
                );
                self.lines.plain(&format!("each = {}", text(field.path)));
                self.lines.plain("provider = \"$\"");
                *items.entry("roster").or_default() += 1;
            }
        }
        self.values(&needs_values);
        items.into_iter().collect()
    }

    /// Lists of names of modules.
    fn uses(&self) -> Option<(String, usize, usize)> {
        let fields = self.study.fields_of_family(self.family).map(|number| &self.study.fields[number]);
        let fields = fields.filter(|field| field.of.is_none());
        let measured =
            fields.filter(|field| field.path.ends_with("[*]") && !field.values.is_empty()).map(|field| {
                let agree =
                    field.values.iter().filter(|value| self.modules.names.contains(value.text)).count();
                (field.path.to_owned(), agree, field.values.len())
            });
        measured.filter(|(_, agree, all)| agree * 10 >= all * 6).max_by_key(|(_, agree, _)| *agree)
    }

    /// Of flat files each word behind the ids has a take of its own, of lines each that they begin with, and all of one id belong
    /// together.
    fn take(&mut self, cast: &Cast, needs_values: &mut BTreeSet<(Pattern, &'static str)>) {
        if let Some(statements) = &self.study.collection(cast.at).statements {
            for word in &statements.words {
                let of_word = |number: &usize| {
                    self.study.fields[*number].clause.is_some_and(|clause| clause.word == *word)
                };
                let fields = cast.fields.iter().copied().filter(of_word).collect();
                self.one_take(&cast.with_fields(fields), Of::Line(statements, word), needs_values);
            }
            return;
        }
        let IdFrom::Stem(flat) = &self.study.made[cast.at.0][cast.at.1].from else {
            return self.one_take(cast, Of::Item, needs_values);
        };
        // What stands in one value is said at once.
        let goes_on = |_: &usize, next: &usize| {
            matches!(self.study.fields[*next].part, Part::Arguments | Part::Behind(_))
        };
        for fields in cast.fields.chunk_by(goes_on) {
            let number = fields[0];
            self.one_take(&cast.with_fields(fields.to_vec()), Of::Key(flat, number), needs_values);
        }
    }

    fn one_take(&mut self, cast: &Cast, of: Of<'_>, needs_values: &mut BTreeSet<(Pattern, &'static str)>) {
        self.is_flat = !matches!(of, Of::Item);
        self.lines.head("reader.take");
        self.what(cast);
        self.which(cast, of);
        let key = self.id_field(cast.at, of);
        let value = match cast.value.map(|field| &self.study.fields[field]) {
            Some(field) if field.clause.is_some() => Self::field_of(field, "$"),
            field => text(field.map_or("$", |field| self.path(field))),
        };
        match cast.role {
            Role::Choice => {
                self.lines.plain(&format!("contract = {key}"));
                return self.lines.plain(&format!("service = {value}"));
            }
            Role::Roster => return self.lines.plain(&format!("provider = {key}")),
            _ => {}
        }
        if let Some(groups) = self.study.groups(cast.at) {
            let name = groups
                .from
                .as_ref()
                .map_or_else(|| "key = true".to_owned(), |path| format!("from = {}", text(path)));
            self.lines.plain(&format!("module = {{ {name}, above = {} }}", groups.above));
        }
        let (distinct, all) = self.ids(cast.at);
        let evidence = if self.study.collection(cast.at).is_edges {
            format!("they speak of {distinct}")
        } else {
            format!("{distinct} of {all} are unique")
        };
        self.lines.told(&format!("id = {key}"), &evidence);
        match cast.role {
            Role::Alias => return self.lines.plain(&format!("alias-of = {value}")),
            Role::Setting => return self.lines.plain(&format!("value = {value}")),
            Role::Tag => return,
            _ => {}
        }
        self.said(cast);
        self.needs(cast, needs_values);
    }

    /// What items are taken for, and where they stand.
    fn what(&mut self, cast: &Cast) {
        let collection = self.study.collection(cast.at);
        let (word, each, evidence) = (cast.role.word(), &collection.each, &cast.evidence);
        let told = if cast.is_sure { evidence.clone() } else { format!("unsure: {evidence}") };
        if !cast.is_sure {
            self.lines.unsure.push(format!("what = \"{word}\" at {each}: {evidence}"));
        }
        self.lines.told(&format!("what = {}", text(word)), &told);
        if !each.is_empty() {
            self.lines.told(&format!("each = {}", text(each)), &counted(collection.items.len(), "item"));
            return;
        }
        let has_documents = self.study.families[self.family].has_documents();
        let items = counted(collection.items.len(), if has_documents { "document" } else { "file" });
        match &collection.sort {
            Some(sort) => self.lines.told(&format!("only-where = {}", sort.condition(collection)), &items),
            None => self.lines.plain(&format!("# each of the {items} is an item")),
        }
    }

    /// Which of what stands there are items of the take, and whether several takes say something of one.
    fn which(&mut self, cast: &Cast, of: Of<'_>) {
        let collection = self.study.collection(cast.at);
        if collection.only_plain {
            self.lines.plain("only-where = \"$\"");
        }
        if !collection.skipped.is_empty() {
            let keys = collection.skipped.iter().map(|key| regex::escape(key)).collect::<Vec<_>>().join("|");
            self.lines.plain(&format!("skip-keys = {}", text(&format!("^(?:{keys})$"))));
        }
        let is_said_again = match of {
            // Of a list that says several things of one.
            Of::Item => {
                let (distinct, all) = self.ids(cast.at);
                let is_row = matches!(self.study.made[cast.at.0][cast.at.1].from, IdFrom::Column(_));
                is_row && !collection.is_edges && distinct < all
            }
            Of::Key(flat, number) => {
                self.keys_of(flat, number);
                if let Some(like) = collection.values_like.filter(|_| self.study.fields[number].path == "$") {
                    self.lines.plain(&format!("only-where = {{ from = \"$\", match = {} }}", text(like)));
                }
                let values = self.study.fields[number].values.len();
                self.study.fields_of(cast.at).len() > 1 || values > collection.items.len()
            }
            Of::Line(said, word) => {
                if let Some(condition) = said.condition(word) {
                    self.lines.plain(&format!("only-where = {condition}"));
                }
                said.words.len() > 1 || said.lines > collection.items.len()
            }
        };
        let amends = self.amends(cast);
        if cast.joins.is_some() && !amends || is_said_again {
            self.lines.plain("merge = true");
        }
        if amends {
            self.lines.plain("amends = true");
        }
    }

    /// Whether items say more of what other files define.
    fn amends(&self, cast: &Cast) -> bool {
        cast.joins.is_some_and(|main| main.0 != self.family)
    }

    /// How many different ids the items of a collection have, and how many all are.
    fn ids(&self, at: At) -> (usize, usize) {
        let ids = self.study.ids_of(at);
        (ids.iter().collect::<HashSet<_>>().len(), ids.len())
    }

    /// Which keys of a flat file are meant: those with one word behind the id, or with none.
    fn keys_of(&mut self, flat: &Flat, number: usize) {
        let field = &self.study.fields[number];
        let before = regex::escape(&flat.before);
        let word = field.values.first().and_then(|value| {
            let key = self.study.key(self.family, value.spot);
            flat.split(key).1
        });
        let keys = counted(field.values.len(), "key");
        if flat.has_slots {
            self.lines.told(&format!("only-keys = {}", text(&format!("^{before}"))), &keys);
        } else if let Some(word) = word {
            let only = format!(r"^{before}.+\.{}{}$", one_word(flat, word), index(flat));
            self.lines.told(&format!("only-keys = {}", text(&only)), &keys);
        } else {
            if !before.is_empty() {
                self.lines.told(&format!("only-keys = {}", text(&format!("^{before}"))), &keys);
            }
            if !flat.behind.is_empty() {
                let skipped = format!(r"\.(?:{}){}$", alternatives(flat), index(flat));
                self.lines.plain(&format!("skip-keys = {}", text(&skipped)));
            }
        }
    }

    /// The path of a field from its item; in a flat file the item is the value.
    fn path<'f>(&self, field: &Field<'f>) -> &'f str {
        if self.is_flat { "$" } else { field.path }
    }

    /// The field that ids are made of.
    fn id_field(&self, at: At, of: Of<'_>) -> String {
        let made = &self.study.made[at.0][at.1];
        if let Of::Line(said, word) = of {
            return self.id_made(at, vec![said.id(word)]);
        }
        let parts = match &made.from {
            IdFrom::Key => vec!["key = true".to_owned()],
            IdFrom::KeyBehind(word) => {
                let end = if word.ends_with('"') { "\"" } else { "" };
                let behind = format!("^{}(.+){end}$", regex::escape(word));
                vec!["key = true".to_owned(), format!("match = {}", text(&behind))]
            }
            IdFrom::Stem(flat) => {
                let behind = if flat.has_slots {
                    r"\.[^.]+".to_owned()
                } else if flat.behind.is_empty() {
                    String::new()
                } else {
                    format!(r"(?:\.(?:{}){})?", alternatives(flat), index(flat))
                };
                let expression = format!("^{}(.+?){behind}$", regex::escape(&flat.before));
                vec!["key = true".to_owned(), format!("match = {}", text(&expression))]
            }
            IdFrom::Field(_) | IdFrom::Column(_) | IdFrom::Below(..) => {
                let path = text(&self.study.id_paths(at).concat());
                if !made.last_part && made.case.is_none() && made.with_module.is_none() {
                    return path;
                }
                vec![format!("from = {path}")]
            }
            IdFrom::KeyPath(before, _) if before.is_empty() => vec!["key-path = true".to_owned()],
            IdFrom::KeyPath(before, _) => {
                let behind = format!("^{}(.+)$", regex::escape(before));
                vec!["key-path = true".to_owned(), format!("match = {}", text(&behind))]
            }
            IdFrom::InGroup(_, _, between) => {
                let own = self.study.id_paths(at).concat();
                let own =
                    if own.is_empty() { "key = true".to_owned() } else { format!("from = {}", text(&own)) };
                vec![own, format!("form = \"{{module}}{between}{{}}\"")]
            }
            IdFrom::File => vec![format!("in-path = {}", text(module::STEM))],
            IdFrom::Said(_) => Vec::new(),
            IdFrom::Joined(_, _, between) => {
                let paths: Vec<String> = self.study.id_paths(at).iter().map(|path| text(path)).collect();
                let joined = format!("joined = [{}]", paths.join(", "));
                let between = (*between != ".").then(|| format!("between = {}", text(between)));
                std::iter::once(joined).chain(between).collect()
            }
        };
        self.id_made(at, parts)
    }

    /// What ids are made of, with what is made of it.
    fn id_made(&self, at: At, mut parts: Vec<String>) -> String {
        let made = &self.study.made[at.0][at.1];
        parts.extend(made.last_part.then(|| "last-part = true".to_owned()));
        parts.extend(made.case.map(|(case, _)| format!("case = {}", text(case))));
        parts.extend(made.with_module.map(|between| format!("form = \"{{module}}{between}{{}}\"")));
        format!("{{ {} }}", parts.join(", "))
    }

    /// What items say of themselves.
    fn said(&mut self, cast: &Cast) {
        let count = self.study.collection(cast.at).items.len();
        if let Some(number) = cast.type_field {
            let field = &self.study.fields[number];
            let agree = field.values.iter().filter(|value| super::study::is_type(value.text)).count();
            let evidence = format!(
                "{agree} of {} look like types{}",
                field.values.len(),
                self.others(field, super::study::is_type)
            );
            self.lines.told(&format!("type = {}", Self::field_of(field, self.path(field))), &evidence);
        } else if cast.is_keyed_by_type {
            self.lines.told("type = { key = true }", "keys look like types");
        }
        if let Some(number) = cast.registers.filter(|_| cast.role == Role::Provider) {
            let field = &self.study.fields[number];
            self.lines.told(
                &format!("registers = {}", Self::field_of(field, self.path(field))),
                "ids of services, none of them twice",
            );
        }
        let mut has_offers = false;
        let mut tags = Vec::new();
        let offers = cast.fields.iter().filter_map(|field| Some((*field, self.links.offers.get(field)?)));
        let mut offers: Vec<_> = offers.collect();
        offers.sort_by_key(|(_, offer)| std::cmp::Reverse(offer.asked.0));
        for (number, offer) in offers {
            let field = &self.study.fields[number];
            let path = self.path(field).trim_end_matches("[*]");
            let (asked, all) = offer.asked;
            let evidence = format!("{asked} of {all} names are asked for");
            if cast.role != Role::Service || field.values.is_empty() {
                continue;
            }
            if offer.is_tag {
                tags.push((self.path(field), evidence));
            } else if has_offers {
                self.lines
                    .unsure(&format!("offers = {}", Self::field_of(field, path)), &format!("{evidence} too"));
            } else {
                has_offers = true;
                self.lines.told(&format!("offers = {}", Self::field_of(field, path)), &evidence);
            }
        }
        for &number in &cast.fields {
            self.words(cast, number, count);
        }
        for (path, evidence) in tags {
            self.lines.part("reader.take.tag");
            self.lines.told(&format!("each = {}", text(path)), &evidence);
        }
    }

    /// A field with few words that differ between items may be a lifetime: which word means what nobody can know.
    fn words(&mut self, cast: &Cast, number: usize, count: usize) {
        let field = &self.study.fields[number];
        let words: BTreeSet<&str> = field.values.iter().map(|value| value.text).take(400).collect();
        let is_plain = field.is_single() && field.path != "$" && Some(number) != cast.type_field;
        let is_few = words.len() > 1 && words.len() <= 4 && words.len() * 2 <= field.values.len().max(4);
        let are_words = words.iter().all(|word| {
            word.len() < 20
                && word.chars().all(|letter| letter.is_alphabetic() || matches!(letter, '-' | '_'))
        });
        let is_link =
            self.links.hits[number].count(|_, _| true) > 0 || self.links.offers.contains_key(&number);
        if cast.role == Role::Service
            && is_plain
            && is_few
            && are_words
            && !is_link
            && field.values.len() * 5 >= count
        {
            let words: Vec<String> = words.iter().map(|word| format!("{} = \"?\"", key_text(word))).collect();
            let more = format!(", map = {{ {} }}", words.join(", "));
            let line = format!("lifetime = {}", Self::field_with(field, self.path(field), &more));
            self.lines.unsure(&line, "few words that differ between items: which of them lives how long?");
        }
    }

    /// Values that do not agree, the first of them with its place.
    fn others(&self, field: &Field<'_>, agrees: fn(&str) -> bool) -> String {
        let mut others = field.values.iter().filter(|value| !agrees(value.text));
        let Some(first) = others.next() else { return String::new() };
        format!("; not {}", self.study.address(field.family, first.spot))
    }

    /// A field; where signs stand for nothing in it, as `-` does, what has letters counts.
    fn field_of(field: &Field<'_>, path: &str) -> String {
        let is_nothing = |text: &str| !text.is_empty() && !text.contains(char::is_alphanumeric);
        if field.part == Part::Whole && field.values.iter().any(|value| is_nothing(value.text)) {
            return Self::matching(field, path, r"^\W*\w.*$");
        }
        Self::field_with(field, path, "")
    }

    /// A field of which only what an expression matches counts.
    fn matching(field: &Field<'_>, path: &str, expression: &str) -> String {
        Self::field_with(field, path, &format!(", match = {}", text(expression)))
    }

    /// A field of which more is said.
    pub(super) fn field_with(field: &Field<'_>, path: &str, more: &str) -> String {
        let line = field.clause.map(|clause| format!(", within = {}", text(&clause.expression(None))));
        let line = line.unwrap_or_default();
        // A part of what stands in a line is told with what stands around that.
        let part_of =
            |alone: String, part: &str| field.clause.map_or(alone, |clause| clause.expression(Some(part)));
        let said = match field.part {
            Part::Pair(pair) => {
                let between = format!(", between = {}", text(pair.between));
                let between = if pair.between == "." { "" } else { between.as_str() };
                let paths = pair.steps().map(|path| text(&path)).join(", ");
                return format!("{{ joined = [{paths}]{between}{more} }}");
            }
            Part::Key if path == "$" => return format!("{{ key = true{more} }}"),
            Part::Key => format!(", key = true{more}"),
            Part::First(between) => format!(r"{line}, match = '^([^{between}\s]+)'"),
            Part::Behind(between) => {
                let behind = format!("[^{between}]+{}(.*)", regex::escape(between));
                format!(", within = {}{more}", text(&part_of(format!("^{behind}$"), &behind)))
            }
            Part::Whole => format!("{line}{more}"),
            // Nothing else stands before brackets.
            Part::Head => format!(r"{line}, match = '^([^(]+)\('"),
            Part::Arguments => {
                let within = part_of(r"\((.*)\)$".to_owned(), r"[^(]+\((.*)\)");
                format!(", within = {}{more}", text(&within))
            }
        };
        match field.split {
            Some(between) => format!("{{ from = {}{said}, split = {} }}", text(path), text(between)),
            None if said.is_empty() => text(path),
            None => format!("{{ from = {}{said} }}", text(path)),
        }
    }

    fn needs(&mut self, cast: &Cast, needs_values: &mut BTreeSet<(Pattern, &'static str)>) {
        let is_provider = cast.role == Role::Provider;
        for &number in cast.fields.iter().filter(|&&number| !is_provider || cast.registers != Some(number)) {
            let accepted = accepted(self.study, self.links, &self.roles.patterns, number);
            let taken: Vec<Taken<'_>> = accepted
                .iter()
                .filter_map(|&(pattern, target, count)| {
                    Some(Taken { pattern, target, group: self.group(target)?, count })
                })
                .collect();
            if taken.is_empty() {
                continue;
            }
            let field = &self.study.fields[number];
            let (each, rest) = cut(self.path(field));
            let groups: BTreeSet<&'static str> = taken.iter().map(|taken| taken.group).collect();
            if cast.role == Role::Service && groups.iter().all(|group| *group == "tag") {
                self.carries(field, taken[0].pattern, &each, &rest);
                continue;
            }
            let names: usize = taken.iter().map(|taken| taken.count).sum();
            self.known.0 += names;
            self.known.1 += written_alike(self.study, self.links, number, &accepted);
            let are_alone = taken.iter().all(|taken| taken.pattern.is_alone());
            if groups.len() > 1 && are_alone && !is_provider && self.by_words(cast, number, &taken) {
                continue;
            }
            let filtered =
                each.strip_suffix("[*]").or_else(|| each.strip_suffix(".*")).filter(|_| rest != "$");
            let each = filtered.map_or_else(|| each.clone(), |stem| format!("{stem}[?@{}]", &rest[1..]));
            let part = if is_provider { "reader.take.start" } else { "reader.take.need" };
            let leave_out = taken.iter().any(|taken| taken.pattern.own_module().is_some());
            if leave_out && are_told_apart(&taken) {
                let lines = self.own_lines(number, &rest, &taken);
                self.needs_of(part, &each, lines);
                continue;
            }
            self.lines.part(part);
            let evidence =
                format!("{names} of {} name what is defined{}", field.values.len(), self.missing(number));
            self.lines.told(&format!("each = {}", text(&each)), &evidence);
            if groups.len() == 1 && taken.iter().all(|taken| taken.pattern.is_bare()) {
                let group = groups.first().copied().unwrap_or("service");
                let said = self.names_beside_plain(number, group).map_or_else(
                    || Self::field_of(field, &rest),
                    |names| Self::matching(field, &rest, &format!("^{names}$")),
                );
                self.lines.plain(&format!("{group} = {said}"));
            } else {
                needs_values.extend(taken.iter().map(|taken| (taken.pattern.clone(), taken.group)));
                if rest != "$" || field.split.is_some() || field.part != Part::Whole || field.clause.is_some()
                {
                    self.lines.plain(&format!("value = {}", Self::field_of(field, &rest)));
                }
            }
            if let Some((slot, evidence)) = self.slot(number, cast) {
                self.lines.told(&format!("slot = {}", text(&slot)), &evidence);
            } else if self.amends(cast) && each.ends_with("[*]") {
                // What has the same number in the other files would be another's.
                let form = format!("{}-{{}}", name_of(&self.study.families[self.family].glob));
                self.lines.plain(&format!("slot = {{ number = true, form = {} }}", text(&form)));
            }
        }
    }

    /// Tags that items carry.
    fn carries(&mut self, field: &Field<'_>, pattern: &Pattern, each: &str, rest: &str) {
        self.lines.part("reader.take.tag");
        self.lines.told(
            &format!("each = {}", text(each)),
            &format!("{} of tags", counted(field.values.len(), "name")),
        );
        if !pattern.is_bare() {
            let expression = pattern.unnamed(r"[\w.\\-]+");
            self.lines.plain(&format!("name = {{ from = {}, match = {} }}", text(rest), text(&expression)));
        } else if rest != "$" || field.split.is_some() {
            self.lines.plain(&format!("name = {}", Self::field_of(field, rest)));
        }
    }

    /// Values of a field in which nothing known was found, the first of them with its place.
    fn missing(&self, number: usize) -> String {
        let (field, hits) = (&self.study.fields[number], &self.links.hits[number]);
        let Some(&first) = hits.missed.first() else { return String::new() };
        format!("; not {}", self.study.address(field.family, field.values[first].spot))
    }

    /// A field beside that calls what is needed: each item has it once.
    fn slot(&self, number: usize, cast: &Cast) -> Option<(String, String)> {
        let (each, rest) = cut(self.study.fields[number].path);
        if rest == "$" {
            return None;
        }
        let beside = cast.fields.iter().copied().filter(|&other| other != number).filter_map(|other| {
            let field = &self.study.fields[other];
            let (other_each, other_rest) = cut(field.path);
            let is_link = self.links.hits[other].count(|_, _| true) * 2 > field.values.len();
            (other_each == each
                && other_rest != "$"
                && other_rest.matches(['.', '[']).count() == 1
                && !is_link)
                .then_some((field, other_rest))
        });
        let unique = beside.filter(|(field, _)| {
            let mut seen: HashSet<(usize, &str)> = HashSet::default();
            let twice = field.values.iter().filter(|value| !seen.insert((value.item, value.text))).count();
            let is_name = |text: &str| {
                !text.is_empty()
                    && text.chars().all(|letter| letter.is_alphanumeric() || matches!(letter, '-' | '_'))
            };
            let distinct: HashSet<&str> = field.values.iter().map(|value| value.text).collect();
            twice == 0
                && distinct.len() > 1
                && field.values.len() * 2 >= self.study.fields[number].values.len()
                && field.values.iter().all(|value| is_name(value.text))
        });
        let (field, rest) = unique.max_by_key(|(field, _)| field.values.len())?;
        Some((rest, format!("{} are unique in their items", field.values.len())))
    }
}

/// The numbers behind words, as an expression has them.
fn index(flat: &Flat) -> &'static str {
    match flat.numbers {
        Numbers::None => "",
        Numbers::Dotted => r"(?:\.\d+)?",
        Numbers::InBrackets => r"(?:\[\d+\])?",
    }
}

/// The words behind ids, as an expression has them.
fn alternatives(flat: &Flat) -> String {
    flat.behind.iter().map(|word| one_word(flat, word)).collect::<Vec<_>>().join("|")
}

/// One of those, with what is behind it.
fn one_word(flat: &Flat, word: &str) -> String {
    let slot = if flat.with_slots.contains(word) { r"\.[^.]+" } else { "" };
    format!("{}{slot}", regex::escape(word))
}

/// A path up to its last wildcard, and the rest from there.
pub(super) fn cut(path: &str) -> (String, String) {
    let list = path.rfind("[*]").map(|at| at + 3);
    let map = path.rfind(".*").map(|at| at + 2);
    // The key that a map inside an item has is what it is about.
    match list.max(map) {
        Some(end) => (path[..end].to_owned(), format!("${}", &path[end..])),
        None => (path.to_owned(), "$".to_owned()),
    }
}

/// A name for a reader: what tells its files from others.
fn name_of(glob: &str) -> String {
    let file = glob.rsplit('/').next().unwrap_or(glob);
    let parts: Vec<&str> = file.split('.').filter(|part| !part.contains('*') && !part.is_empty()).collect();
    let folder = glob.rsplit('/').skip(1).find(|part| !part.contains('*'));
    let name = if parts.len() > 1 { parts[0] } else { folder.or(parts.first().copied()).unwrap_or("files") };
    let letters =
        name.chars().map(|letter| if letter.is_alphanumeric() { letter.to_ascii_lowercase() } else { '-' });
    letters.collect::<String>().trim_matches('-').to_owned()
}

fn unused(name: &str, names: &mut HashSet<String>) -> String {
    let name = if name.is_empty() { "files" } else { name };
    let numbered = (1..).map(|number| if number == 1 { name.to_owned() } else { format!("{name}-{number}") });
    let free = numbered.into_iter().find(|name| !names.contains(name)).unwrap_or_default();
    names.insert(free.clone());
    free
}
