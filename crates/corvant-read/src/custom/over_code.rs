//! Readers over code: how they are described, what they ask of a file, and what is said of it as a whole.

use super::CustomReader;
use super::field::{Field, Origin};
use super::need::NeedTake;
use super::path::Path;
use super::session::{Registered, Session};
use super::take::{Take, What};
use crate::code::{self, Asked, CodeItems, CodePattern, CodePlace, Grammar, Nested, When, plain_condition};
use crate::native::format;
use crate::native::reader::Reader;
use crate::syntax::{NodeId, NodeKind};
use crate::types::Language;
use corvant_core::facts::{Computed, Many, Named};
use corvant_core::name::{Interner, Name};
use corvant_core::source::{SourceIndex, Span};
use foldhash::{HashMap, HashSet};

impl Reader<'_> {
    /// The language of a reader of code.
    pub(super) fn language_of(&self, reader: NodeId) -> Option<Language> {
        let syntax = self.tree.field(reader, "syntax").map(|syntax| self.tree.text(syntax));
        let language = self.tree.field(reader, "language").filter(|_| syntax == Some("code"))?;
        Language::of_word(self.tree.text(language))
    }

    /// Pieces of code with holes; noted if one is none.
    pub(super) fn code(&mut self, value: NodeId) -> Vec<CodePattern> {
        let mut patterns = Vec::new();
        let Some(language) = self.language else {
            let message = "pieces of code belong to a reader of `syntax = \"code\"` that says its `language`"
                .to_owned();
            self.wrong_shape(value, message, None);
            return patterns;
        };
        if Grammar::of(language).is_none_or(|grammar| !grammar.is_built_in()) {
            let message = "this build of the program has no grammar for the language".to_owned();
            self.wrong_shape(value, message, None);
            return patterns;
        }
        let one = |reader: &mut Self, item: NodeId| {
            reader.name(item)?;
            let text = reader.tree.text(item);
            match CodePattern::new(text, language) {
                Ok(pattern) => Some(pattern),
                Err(why) => {
                    reader.wrong_shape(item, format!("{text} is no pattern: {why}"), None);
                    None
                }
            }
        };
        if self.tree.kind(value) == NodeKind::List {
            self.items(value, |reader, item| patterns.extend(one(reader, item)));
        } else {
            patterns.extend(one(self, value));
        }
        patterns
    }

    /// Pieces of code, with where they stand.
    pub(super) fn code_items(&mut self, value: NodeId) -> CodeItems {
        CodeItems { at: self.tree.span(value).start, patterns: self.code(value) }
    }

    /// The path of what pieces of code match.
    pub(super) fn path_of_code(&self, items: &CodeItems, value: NodeId) -> Path {
        let mut path = Path::new(&format!("$['{}'][*]", items.key())).expect("a key without quotes");
        path.text = items.text();
        path.at = self.tree.span(value);
        path
    }

    pub(super) fn code_place(&mut self, map: NodeId) -> CodePlace {
        let mut place = CodePlace::default();
        self.fields(map, &format::CODE_PLACE, |reader, field, value| {
            let text = reader.name(value).map(|_| reader.tree.text(value).to_owned());
            match field {
                "method" => place.method = text,
                "class-extends" => place.class_extends = text,
                _ => return false,
            }
            true
        });
        place
    }

    /// Which conditions around code are stages.
    pub(super) fn when(&mut self, map: NodeId) -> When {
        let mut when = When::default();
        self.fields(map, &format::WHEN, |reader, field, value| {
            match field {
                "code" => {
                    when.patterns = reader.code(value);
                    if when.patterns.iter().any(|pattern| !pattern.has_hole("COND")) {
                        let message = "each form of a condition has a hole $COND".to_owned();
                        reader.wrong_shape(value, message, None);
                    }
                }
                "map" => reader.entries(value, |reader, condition, value| {
                    let condition = reader.interner.text(condition.name);
                    let (mut then, mut other) = (None, None);
                    if reader.tree.kind(value) == NodeKind::Map {
                        reader.fields(value, &format::WHEN_STAGES, |reader, field, value| {
                            let text = reader.name(value).map(|_| reader.tree.text(value).to_owned());
                            match field {
                                "then" => then = text,
                                "else" => other = text,
                                _ => return false,
                            }
                            true
                        });
                        reader.required(value, &format::WHEN_STAGES, "a condition");
                    } else {
                        then = reader.name(value).map(|_| reader.tree.text(value).to_owned());
                    }
                    let Some(then) = then else { return };
                    match plain_condition(&condition) {
                        (text, false) => when.stages.push((text, then, other)),
                        (text, true) => {
                            let message = format!("write {text}, and say which stage it is where that does not hold: {{ then = …, else = … }}");
                            reader.wrong_shape(value, message, None);
                        }
                    }
                }),
                _ => return false,
            }
            true
        });
        self.required(map, &format::WHEN, "conditions");
        when
    }

    /// Code that is a blind spot.
    pub(super) fn blind(&mut self, map: NodeId) -> Vec<CodePattern> {
        let mut patterns = Vec::new();
        self.fields(map, &format::BLIND, |reader, field, value| {
            match field {
                "code" => patterns = reader.code(value),
                "about" => reader.about(value),
                _ => return false,
            }
            true
        });
        self.required(map, &format::BLIND, "a blind spot");
        patterns
    }

    /// The items of a take: a path, or code.
    pub(super) fn each(&mut self, value: NodeId) -> Option<(Path, Option<CodeItems>)> {
        if self.tree.kind(value) != NodeKind::Map {
            return self.path_of(value).map(|path| (path, None));
        }
        let (mut code, mut inside) = (None, None);
        self.fields(value, &format::CODE_EACH, |reader, field, value| {
            match field {
                "code" => code = Some((reader.code_items(value), value)),
                "items" => inside = reader.path_of(value),
                _ => return false,
            }
            true
        });
        self.required(value, &format::CODE_EACH, "the code of items");
        let (items, value) = code?;
        let mut path = self.path_of_code(&items, value);
        if let Some(inside) = inside {
            let whole = format!("$['{}'][*]{}", items.key(), inside.text.trim_start_matches('$'));
            let (text, at) = (format!("{} of {}", inside.text, path.text), path.at);
            path = Path::new(&whole).ok()?;
            (path.text, path.at) = (text, at);
        }
        Some((path, Some(items)))
    }

    /// The hole that a path names: `$.MAKER`.
    pub(super) fn hole(&mut self, value: NodeId) -> Option<String> {
        self.name(value)?;
        let text = self.tree.text(value);
        let hole = text
            .strip_prefix("$.")
            .filter(|hole| hole.chars().all(|one| one.is_ascii_alphanumeric() || one == '_'));
        if hole.is_none() {
            let message = format!("{text} is not the path of a hole, as $.MAKER is");
            self.wrong_shape(value, message, None);
        }
        hole.map(str::to_owned)
    }

    /// Notes holes that needs name and the code of their items, or their own, does not have.
    pub(super) fn held_against<'n>(
        &mut self,
        take: NodeId,
        code: Option<&CodeItems>,
        needs: impl Iterator<Item = &'n NeedTake>,
    ) {
        let lacks = |items: Option<&CodeItems>, hole: &str| {
            items.is_none_or(|items| !items.patterns.iter().any(|pattern| pattern.has_hole(hole)))
        };
        for need in needs.filter_map(|need| need.code.as_ref()) {
            let of_item = need.inside.iter().chain(need.same.iter().map(|(_, other)| other));
            let missing = of_item.filter(|hole| lacks(code, hole)).map(|hole| (hole, "the code of the item"));
            let own = need.same.iter().map(|(own, _)| own).filter(|hole| lacks(Some(&need.items), hole));
            let missing: Vec<_> = missing.chain(own.map(|hole| (hole, "the code of the need"))).collect();
            for (hole, what) in missing {
                self.wrong_shape(take, format!("{what} has no hole ${hole}"), None);
            }
        }
    }
}

impl CustomReader {
    /// The patterns by the key under which what they match stands in a tree.
    pub(crate) fn patterns_by_key(&self) -> HashMap<String, String> {
        let asked = self.asked();
        let needs = asked.takes.iter().flat_map(|take| take.needs.iter().map(|need| &need.items));
        let all = asked.takes.iter().filter_map(|take| take.items).chain(needs);
        all.map(|items| (items.key(), items.text())).collect()
    }

    /// What it asks of code.
    pub(super) fn asked(&self) -> Asked<'_> {
        Asked { takes: self.takes.iter().map(Take::asked).collect(), blind: &self.blind }
    }

    /// Gives each provider of the file what takes say that it registers, in the order in which its code does.
    pub(super) fn attach_registered(&self, session: &mut Session<'_>) {
        if !self.takes.iter().any(|take| take.what == What::Service && take.has("provider")) {
            return;
        }
        let mut registered = std::mem::take(&mut session.registered);
        registered.sort_by_key(|one| one.order);
        let mut by_provider: HashMap<Name, Vec<Registered>> = HashMap::default();
        for one in registered {
            by_provider.entry(one.provider).or_default().push(one);
        }
        for number in 0..session.facts.providers.len() {
            let provider = session.facts.providers[number];
            if provider.registers.is_some() {
                continue;
            }
            let own = by_provider.get(&provider.id.name).map(Vec::as_slice).unwrap_or_default();
            for need in provider.register.range() {
                let order = session.order(session.facts.parts.needs[need].span.start);
                let before = own.partition_point(|one| one.order < order);
                session.facts.parts.needs[need].registered_before = before as u32;
            }
            let start = session.facts.parts.named.len();
            session.facts.parts.named.extend(own.iter().map(|one| one.id));
            let registers = Many::since(start, &session.facts.parts);
            session.facts.providers[number].registers = Some(registers);
        }
    }

    /// Notes the places whose names are known only once the code runs, with what is said in the function around them.
    pub(super) fn note_computed(&self, session: &mut Session<'_>, interner: &Interner) {
        let Some(code) = &session.code else { return };
        let blind = code.blind.iter().copied().chain(session.computed.iter().copied());
        let mut places: Vec<Span> = blind.collect();
        places.sort_unstable_by_key(|at| (at.start, at.end));
        places.dedup();
        let reader = interner.intern(&self.name);
        // What something else is taken from is meant there.
        let tree = session.tree;
        let taken = (0..tree.len())
            .map(NodeId::new)
            .filter(|node| session.taken[node.index()] && tree.is_plain(*node));
        let taken: HashSet<u32> = taken.map(|node| tree.span(node).start).collect();
        let range = |at: &Span| at.start as usize..at.end as usize;
        let functions = Nested::new(code.functions.iter().map(range));
        // Of many places in one function the words are told once.
        let mut told: HashSet<usize> = HashSet::default();
        for at in places {
            let around = functions.around(&range(&at)).last();
            let within = around.map_or(at, |around| code.functions[around]);
            let is_told = around.is_some_and(|around| !told.insert(around));
            let words = if is_told {
                Vec::new()
            } else {
                code::words(tree.source(), within, &taken, code.file.language)
            };
            let words = words.into_iter().map(|word| Named { name: interner.intern(&word), span: at });
            let start = session.facts.parts.named.len();
            session.facts.parts.named.extend(words);
            let words = Many::since(start, &session.facts.parts);
            session.facts.computed.push(Computed { source: SourceIndex::OWN, reader, at, words });
        }
    }
}

/// What stands around code says of the items that it is, where the take does not say it itself.
pub(super) fn around_code(what: What, said: &[(&'static str, Field)]) -> Vec<(&'static str, Field)> {
    let names: &[(&'static str, &str)] = match what {
        What::Service => &[("stages", "@stages"), ("except", "@except"), ("maybe", "@maybe")],
        What::Choice | What::Setting | What::Roster => &[("stage", "@stages")],
        _ => &[],
    };
    let open = names.iter().filter(|(field, _)| !said.iter().any(|(known, _)| known == field));
    let field = |&(field, key): &(&'static str, &str)| {
        let path = Path::new(&format!("$['{key}']")).expect("a key without quotes");
        (field, Field::plain(Origin::Path(path)))
    };
    open.map(field).collect()
}
