//! What a workspace file teaches: `[[reader]]` to [`CustomReader`] readers.
//!
//! Every mistake in it is noted at its own line. Readers with mistakes are not used: what they would miss would
//! come out as findings about the wiring.

use super::field::{Absent, Case, Field, Origin};
use super::need::NeedTake;
use super::over_code::around_code;
use super::path::Path;
use super::reference::{Expression, GROUPS, PLAIN, TARGETS, WRAPPED};
use super::tagging::{AttributeTake, Attributes, TagTake};
use super::take::{SORTS, Take};
use super::{CustomReader, Manners, ModuleFrom, ReaderSyntax};
use crate::code::{CodeNeeds, CodePlace, When};
use crate::native::format;
use crate::native::reader::Reader;
use crate::syntax::{NodeId, NodeKind};
use corvant_core::wording::EditSort;
use regex::{Regex, RegexBuilder};

/// Readers in a workspace file: each file is held against the patterns of all.
const READER_LIMIT: usize = 250;
/// How large a compiled expression may be, in bytes.
const EXPRESSION_LIMIT: usize = 1 << 20;

/// The fields of a need that are no paths of their own.
const NEED_FIELDS: [&str; 14] = [
    "value", "service", "contract", "type", "tag", "setting", "all", "wrapped", "key", "slot", "via",
    "method", "optional", "lazy",
];
/// What a form may hold.
const PLACEHOLDERS: [&str; 4] = ["{}", "{module}", "{file}", "{id}"];

impl Reader<'_> {
    /// All readers of a workspace file.
    pub(crate) fn readers(&mut self, value: NodeId) -> Vec<CustomReader> {
        let mut readers: Vec<CustomReader> = Vec::new();
        if self.tree.kind(value) == NodeKind::List && self.tree.children(value).nth(READER_LIMIT).is_some() {
            let message = format!("there are more than {READER_LIMIT} readers");
            let help = "let one reader read all files of a format: `files` may have several patterns";
            self.wrong_shape(value, message, Some(help.to_owned()));
            return readers;
        }
        self.items(value, |reader, item| {
            let Some(mut custom) = reader.custom(item) else { return };
            if readers.iter().any(|known| known.name == custom.name) {
                let message = format!("there is a reader {} already", custom.name);
                return reader.wrong_shape(
                    item,
                    message,
                    Some("give one of the two another name".to_owned()),
                );
            }
            if let Some(like) = &custom.like {
                let Some(model) = readers.iter().find(|known| known.name == *like) else {
                    let message = format!("no reader {like} stands above this one");
                    return reader.wrong_shape(item, message, None);
                };
                custom.take_over(model);
            }
            readers.push(custom);
        });
        readers
    }

    /// What the readers of a workspace file are called, in their order.
    pub(crate) fn reader_names(&self, value: NodeId) -> Vec<String> {
        let tree = self.tree;
        let readers = (tree.kind(value) == NodeKind::List).then(|| tree.children(value));
        let name = |reader| tree.field(reader, "name").map_or("", |name| tree.text(name)).to_owned();
        readers.into_iter().flatten().map(name).collect()
    }

    fn custom(&mut self, item: NodeId) -> Option<CustomReader> {
        let (mut name, mut globs, mut syntax, mut comment) = (None, Vec::new(), None, None);
        let (mut module, mut uses, mut takes, mut expressions) = (None, None, Vec::new(), Vec::new());
        let (mut words, mut how, mut like) = (Vec::new(), Manners::default(), None);
        let (mut blind, language) = (Vec::new(), self.language_of(item));
        // What is read of takes and blind spots is in the language of the reader.
        let around = std::mem::replace(&mut self.language, language);
        self.fields(item, &format::READER, |reader, field, value| {
            match field {
                "name" => {
                    name = reader.name(value).map(|name| (reader.tree.text(value).to_owned(), name.span));
                }
                "about" => reader.about(value),
                "files" => globs = reader.globs(value),
                "syntax" => syntax = reader.syntax(value),
                "language" => drop(reader.word(value, format::LANGUAGES)),
                "blind" => reader.items(value, |reader, item| blind.extend(reader.blind(item))),
                "comment" => comment = reader.name(value).map(|_| reader.tree.text(value).to_owned()),
                "module" => module = reader.module_from(value),
                "uses" => uses = reader.field_of(value),
                "take" => reader.items(value, |reader, item| takes.extend(reader.a_take(item))),
                "value" => reader.items(value, |reader, item| expressions.extend(reader.expression(item))),
                "say" => words = reader.words_of_house(value),
                "closed" => how.closed = reader.flag(value),
                "ignore" => reader.items(value, |reader, item| how.ignore.extend(reader.path_of(item))),
                "strict" => how.strict = reader.flag(value),
                "trusted" => how.trusted = reader.flag(value),
                "may-be-empty" => how.may_be_empty = reader.flag(value),
                "plain-names" => how.plain_names = reader.flag(value),
                "local-tags" => how.yaml.local_tags = reader.flag(value),
                "repeats" => how.repeats = reader.word(value, &["list"]).is_some(),
                "documents" => how.yaml.documents = reader.flag(value),
                "like" => like = reader.name(value).map(|_| reader.tree.text(value).to_owned()),
                _ => return false,
            }
            true
        });
        self.language = around;
        self.required(item, &format::READER, "a reader");
        if syntax == Some(ReaderSyntax::Code) && self.written(item, &["language"]) == 0 {
            self.lacking(item, "a reader of code", "language");
        }
        let (name, at) = name?;
        let (syntax, module) = (syntax?, module?);
        Some(CustomReader {
            name,
            at,
            globs,
            syntax,
            comment,
            module,
            uses,
            takes,
            expressions,
            blind,
            language,
            words,
            how,
            like,
            lifetimes: Vec::new(),
        })
    }

    /// What edits are called in the house.
    fn words_of_house(&mut self, value: NodeId) -> Vec<(EditSort, String)> {
        let mut words = Vec::new();
        self.fields(value, &format::SAY, |reader, field, value| {
            let Some(sort) = EditSort::of(field) else { return false };
            words.extend(reader.name(value).map(|_| (sort, reader.tree.text(value).to_owned())));
            true
        });
        words
    }

    /// Notes fields that must be there and are not.
    pub(crate) fn required(&mut self, map: NodeId, known: &format::Map, what: &str) {
        if self.tree.kind(map) == NodeKind::Null {
            self.expected(map, "a map");
        }
        for &field in known.required {
            if self.tree.kind(map) == NodeKind::Map && self.written(map, &[field]) == 0 {
                self.lacking(map, what, field);
            }
        }
    }

    fn lacking(&mut self, map: NodeId, what: &str, field: &str) {
        self.wrong_shape(map, format!("{what} has a field `{field}`, and here is none"), None);
    }

    fn syntax(&mut self, value: NodeId) -> Option<ReaderSyntax> {
        self.word(value, format::SYNTAXES)?;
        let text = self.tree.text(value);
        ReaderSyntax::ALL.iter().find(|(word, _)| *word == text).map(|(_, syntax)| *syntax)
    }

    fn module_from(&mut self, value: NodeId) -> Option<ModuleFrom> {
        if self.tree.kind(value) == NodeKind::Boolean {
            self.expected(value, "text or a map");
            return None;
        }
        if self.tree.kind(value) != NodeKind::Map || self.written(value, &["path"]) == 0 {
            return self.field_of(value).map(|field| ModuleFrom::Field(Box::new(field)));
        }
        self.module_in_path(value).map(ModuleFrom::Path)
    }

    /// The module as a part of a file's path.
    pub(crate) fn module_in_path(&mut self, value: NodeId) -> Option<Regex> {
        let mut module = None;
        self.fields(value, &format::MODULE_PATH, |reader, field, value| {
            if field == "path" {
                module = reader.module_path(value);
            }
            field == "path"
        });
        self.required(value, &format::MODULE_PATH, "a module");
        module
    }

    /// An expression over paths of files, with the group that the module is.
    fn module_path(&mut self, value: NodeId) -> Option<Regex> {
        let regex = self.regex(value)?;
        if regex.capture_names().flatten().any(|group| group == "module") {
            return Some(regex);
        }
        let message = "no group of the expression says which part of the path is the module".to_owned();
        self.wrong_shape(value, message, Some("write (?<module>…) around that part".to_owned()));
        None
    }

    /// A path; noted if it is none.
    pub(super) fn path_of(&mut self, value: NodeId) -> Option<Path> {
        self.name(value)?;
        let text = self.tree.text(value);
        match Path::new(text) {
            Ok(mut path) => {
                path.at = self.tree.span(value);
                Some(path)
            }
            Err((reason, at)) => {
                let at = at.min(text.len());
                let (before, after) = if text.is_char_boundary(at) { text.split_at(at) } else { (text, "") };
                let help = match (text.starts_with('$'), before.rfind('.')) {
                    (false, _) => Some(format!("write $.{text}")),
                    (true, Some(dot)) if after.starts_with('-') => {
                        let end = after.find(['.', '[']).unwrap_or(after.len());
                        let name = format!("{}{}", &before[dot + 1..], &after[..end]);
                        Some(format!("write {}['{name}']{}", &before[..dot], &after[end..]))
                    }
                    (true, _) => None,
                };
                let message =
                    format!("{text} is no JSONPath: {reason}, after `{before}` where `{after}` stands");
                self.wrong_shape(value, message, help);
                None
            }
        }
    }

    /// A regular expression; noted if it is none, or too large.
    fn regex(&mut self, value: NodeId) -> Option<Regex> {
        self.name(value)?;
        match RegexBuilder::new(self.tree.text(value)).size_limit(EXPRESSION_LIMIT).build() {
            Ok(regex) => Some(regex),
            Err(error) => {
                let reason = error.to_string();
                let reason = reason.lines().last().unwrap_or_default().trim_start_matches("error: ");
                let message = format!("{} is no usable expression: {reason}", self.tree.text(value));
                self.wrong_shape(value, message, None);
                None
            }
        }
    }

    fn expression(&mut self, item: NodeId) -> Option<Expression> {
        let mut regex = None;
        let mut at = item;
        self.fields(item, &format::VALUE, |reader, field, value| {
            match field {
                "match" => (regex, at) = (reader.regex(value), value),
                "about" => reader.about(value),
                _ => return false,
            }
            true
        });
        self.required(item, &format::VALUE, "a value");
        Some(self.grouped(at, regex?))
    }

    /// A way of writing references; noted if the groups of the expression do not say what is meant.
    fn grouped(&mut self, at: NodeId, regex: Regex) -> Expression {
        let groups: Vec<&str> = regex.capture_names().flatten().collect();
        let says = |group: &&str| TARGETS.contains(group) || [WRAPPED, PLAIN].contains(group);
        if let Some(unknown) = groups.iter().find(|group| !GROUPS.contains(group)) {
            let message = format!("the group `{unknown}` means nothing; groups are {}", GROUPS.join(", "));
            self.wrong_shape(at, message, None);
        } else if !groups.iter().any(says) {
            let message = format!("no group says what is meant: one of {}", TARGETS.join(", "));
            self.wrong_shape(
                at,
                message,
                Some("write (?<service>…) around the part that is the name".to_owned()),
            );
        }
        Expression::new(regex)
    }

    /// A text of an item: short or long form.
    fn field_of(&mut self, value: NodeId) -> Option<Field> {
        match self.tree.kind(value) {
            NodeKind::Map => self.long_field(value, &format::FIELD_MAP),
            NodeKind::Boolean => Some(Field::plain(Origin::Constant(self.tree.text(value).to_owned()))),
            _ if self.tree.text(value).starts_with('$') => {
                self.path_of(value).map(|path| Field::plain(Origin::Path(path)))
            }
            _ => {
                self.name(value)?;
                let text = self.tree.text(value);
                if text.starts_with(['.', '@', '[']) {
                    let message = format!("{text} is taken for a constant, and looks like a path");
                    let dot = if text.starts_with('@') { "['@…']" } else { text };
                    let path = if text.starts_with('@') { format!("$['{text}']") } else { format!("${dot}") };
                    self.wrong_shape(value, message, Some(format!("write {path}")));
                    return None;
                }
                Some(Field::plain(Origin::Constant(text.to_owned())))
            }
        }
    }

    /// A text of which the first that there is counts: a path, or a field that looks in one place.
    fn one_of_several(&mut self, value: NodeId) -> Option<Field> {
        if self.tree.kind(value) == NodeKind::Map {
            return self.long_field(value, &format::FIELD_PART);
        }
        self.path_of(value).map(|path| Field::plain(Origin::Path(path)))
    }

    /// A text that differs from item to item: a constant is a path that lacks its beginning.
    fn own_field(&mut self, value: NodeId, field: &str) -> Option<Field> {
        let read = self.field_of(value)?;
        if self.tree.kind(value) != NodeKind::Map && matches!(read.origin, Origin::Constant(_)) {
            let text = self.tree.text(value);
            let message = format!("`{field}` would be the constant {text} for every item");
            self.wrong_shape(value, message, Some(format!("write $.{text}, or {{ constant = \"{text}\" }}")));
            return None;
        }
        Some(read)
    }

    fn long_field(&mut self, map: NodeId, format: &'static format::Map) -> Option<Field> {
        let (mut from, mut key, mut constant) = (None, false, None);
        let (mut any, mut joined, mut in_path) = (Vec::new(), Vec::new(), None);
        let (mut key_path, mut number) = (false, false);
        let mut read = Field::plain(Origin::Key(None));
        self.fields(map, format, |reader, field, value| {
            let text = reader.tree.text(value).to_owned();
            match field {
                "from" => from = reader.path_of(value),
                "key" => key = reader.flag(value),
                "constant" => constant = reader.name(value).map(|_| text),
                "above" => read.above = reader.count(value).unwrap_or(0),
                "any" => reader.items(value, |reader, item| any.extend(reader.one_of_several(item))),
                "joined" => reader.items(value, |reader, item| joined.extend(reader.path_of(item))),
                "key-path" => key_path = reader.flag(value),
                "number" => number = reader.flag(value),
                "in-path" => in_path = reader.regex(value),
                "between" if !reader.tree.is_plain(value) || reader.tree.kind(value) == NodeKind::Null => {
                    reader.expected(value, "a plain value");
                }
                "between" => read.between = text,
                "within" => read.within = reader.regex(value),
                "split" => read.split = reader.name(value).map(|_| text),
                "match" => read.pick = reader.regex(value),
                "last-part" => read.last_part = reader.flag(value),
                "case" => {
                    let known = reader.word(value, format::CASES);
                    let case = Case::ALL.iter().find(|(word, _)| *word == text);
                    read.case = known.and(case).map(|(_, case)| *case);
                }
                "form" => read.form = reader.form(value),
                "full" => read.full = reader.flag(value),
                "map" => reader.entries(value, |reader, word, value| {
                    if reader.name(value).is_some() {
                        let word = reader.interner.text(word.name);
                        read.map.entry(word).or_insert_with(|| reader.tree.text(value).to_owned());
                    }
                }),
                "absent" if reader.tree.kind(value) == NodeKind::Map => read.absent = reader.in_folder(value),
                "absent" if text.starts_with('$') => {
                    read.absent = reader.path_of(value).map(Absent::Path);
                }
                "absent" => read.absent = reader.name(value).map(|_| Absent::Text(text)),
                _ => return false,
            }
            true
        });
        let origins = self.written(map, &["from", "constant", "any", "joined", "in-path"])
            + usize::from(key_path)
            + usize::from(number);
        if origins > 1 || origins + usize::from(key) == 0 || (key && constant.is_some()) {
            let message = "a field says where its text comes from: one of `from`, `key`, `constant`, `any`, `joined`, `in-path`, `key-path` and `number`";
            self.wrong_shape(map, message.to_owned(), None);
            return None;
        }
        read.origin = match (key, from, constant) {
            _ if key_path => Origin::KeyPath,
            _ if number => Origin::Number,
            _ if in_path.is_some() => in_path.map(Origin::InPath)?,
            _ if !any.is_empty() => Origin::Any(any),
            _ if !joined.is_empty() => Origin::Joined(joined),
            (true, from, _) => Origin::Key(from),
            (false, Some(path), _) => Origin::Path(path),
            (false, None, Some(text)) => Origin::Constant(text),
            (false, None, None) => return None,
        };
        Some(read)
    }

    /// What counts where there is no text: what a file says for its folder.
    fn in_folder(&mut self, map: NodeId) -> Option<Absent> {
        let (mut file, mut from) = (None, None);
        self.fields(map, &format::IN_FOLDER, |reader, field, value| {
            match field {
                "file" => file = reader.name(value).map(|_| reader.tree.text(value).to_owned()),
                "from" => from = reader.path_of(value),
                _ => return false,
            }
            true
        });
        self.required(map, &format::IN_FOLDER, "a default of a folder");
        let (file, from) = (file?, from?);
        if ReaderSyntax::of_ending(&file).is_none() || file.contains('/') {
            let message =
                format!("{file} is not the name of a file in yaml, json, toml, xml, ini or properties");
            self.wrong_shape(map, message, None);
            return None;
        }
        Some(Absent::InFolder(file, from))
    }

    /// What stands around a text; noted if it holds what stands for nothing.
    fn form(&mut self, value: NodeId) -> Option<String> {
        self.name(value)?;
        let text = self.tree.text(value).to_owned();
        let rest = PLACEHOLDERS.iter().fold(text.clone(), |rest, known| rest.replace(known, ""));
        let unknown = rest.find('{').map(|start| {
            let end = rest[start..].find('}').map_or(rest.len(), |end| start + end + 1);
            rest[start..end].to_owned()
        });
        if let Some(unknown) = unknown {
            let message = format!("{unknown} stands for nothing; what does is {}", PLACEHOLDERS.join(", "));
            self.wrong_shape(value, message, None);
            return None;
        }
        Some(text)
    }

    fn a_take(&mut self, item: NodeId) -> Option<Take> {
        let tree = self.tree;
        let what = tree.field(item, "what").map(|what| tree.text(what));
        let sort = what.and_then(|what| SORTS.iter().find(|sort| sort.word == what));
        let mut each = whole();
        let (mut skip, mut only, mut only_where, mut marked) = (None, None, None, None);
        let has_items = self.written(item, &["each"]) > 0;
        let mut fields = Vec::new();
        let (mut needs, mut register, mut start, mut tags) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
        let (mut attributes, mut merge) = (Vec::new(), false);
        let (mut code, mut within, mut when, mut yields) =
            (None, CodePlace::default(), When::default(), false);
        self.fields(item, &format::TAKE, |reader, field, value| {
            match field {
                "what" => drop(reader.word(value, format::WHATS)),
                "about" => reader.about(value),
                "each" => (each, code) = reader.each(value).unwrap_or_else(|| (whole(), None)),
                "within" => within = reader.code_place(value),
                "when" => when = reader.when(value),
                "skip-keys" => skip = reader.regex(value),
                "only-keys" => only = reader.regex(value),
                "only-where" => only_where = reader.field_of(value),
                "marked" => marked = reader.name(value).map(|_| reader.tree.text(value).to_owned()),
                // A field of another sort of items; one that no sort has is not known at all.
                _ if sort.is_some_and(|sort| !sort.takes(field)) && format::TAKE.names().contains(&field) => {
                    let message = sort.map(|sort| sort.refusal(field)).unwrap_or_default();
                    reader.wrong_shape(value, message, None);
                }
                "merge" => merge = reader.flag(value),
                "default-unless-offered" => yields = reader.flag(value),
                "need" => reader.items(value, |reader, item| needs.extend(reader.need_take(item))),
                "register" => reader.items(value, |reader, item| register.extend(reader.need_take(item))),
                "start" => reader.items(value, |reader, item| start.extend(reader.need_take(item))),
                "tag" => reader.items(value, |reader, item| tags.extend(reader.tag_take(item))),
                "attribute" => {
                    reader.items(value, |reader, item| attributes.extend(reader.attribute_take(item)));
                }
                _ => {
                    let known = format::TAKE.fields.iter().find(|known| known.name == field);
                    let Some(known) = known else { return false };
                    let is_own = has_items && ["id", "provider"].contains(&known.name);
                    let read = if is_own { reader.own_field(value, field) } else { reader.field_of(value) };
                    fields.extend(read.map(|field| (known.name, field)));
                }
            }
            true
        });
        self.required(item, &format::TAKE, "a take");
        let sort = sort?;
        for field in sort.required {
            if self.written(item, &[field]) == 0 {
                self.lacking(item, &format!("a take of {}", sort.word), field);
            }
        }
        if code.is_some() {
            fields.extend(around_code(sort.what, &fields));
        }
        self.held_against(item, code.as_ref(), [&needs, &register, &start].into_iter().flatten());
        Some(Take {
            what: sort.what,
            each,
            code,
            within,
            when,
            yields,
            skip,
            only,
            only_where,
            marked,
            fields,
            needs,
            register,
            start,
            tags,
            attributes,
            merge,
        })
    }

    fn need_take(&mut self, item: NodeId) -> Option<NeedTake> {
        let mut each = Some(whole());
        let (mut fields, mut expressions, mut nested) = (Vec::new(), Vec::new(), None);
        let (mut code, mut inside, mut same, mut within) = (None, None, Vec::new(), CodePlace::default());
        self.fields(item, &format::NEED_TAKE, |reader, field, value| {
            match field {
                "each" => each = reader.path_of(value),
                "about" => reader.about(value),
                "nested" => nested = reader.path_of(value),
                "code" => {
                    let items = reader.code_items(value);
                    each = Some(reader.path_of_code(&items, value));
                    code = Some(items);
                }
                "inside" => inside = reader.hole(value),
                "same" => reader.entries(value, |reader, hole, value| {
                    let hole = reader.interner.text(hole.name);
                    same.extend(reader.hole(value).map(|other| (hole, other)));
                }),
                "within" => within = reader.code_place(value),
                "via" => fields.extend(reader.via_field(value).map(|field| ("via", field))),
                "value" => fields.extend(reader.own_field(value, field).map(|field| ("value", field))),
                "match" => reader.items(value, |reader, item| {
                    let regex = reader.regex(item);
                    expressions.extend(regex.map(|regex| reader.grouped(item, regex)));
                }),
                _ => {
                    let Some(known) = NEED_FIELDS.iter().find(|known| **known == field) else { return false };
                    fields.extend(reader.field_of(value).map(|field| (*known, field)));
                }
            }
            true
        });
        let is_of_code = inside.is_some() || !same.is_empty() || !within.is_anywhere();
        if code.is_none() && is_of_code {
            let message = "`inside`, `same` and `within` are about `code`, and here is none".to_owned();
            self.wrong_shape(item, message, None);
        }
        let code = code.map(|items| CodeNeeds { items, inside, same, within });
        each.map(|each| NeedTake { each, expressions, fields, nested, code })
    }

    fn via_field(&mut self, value: NodeId) -> Option<Field> {
        let is_constant = self.tree.kind(value) == NodeKind::Text && !self.tree.text(value).starts_with('$');
        if is_constant {
            self.word(value, format::VIA)?;
        }
        self.field_of(value)
    }

    fn attribute_take(&mut self, item: NodeId) -> Option<AttributeTake> {
        let mut each = Some(whole());
        let mut fields = Vec::new();
        self.fields(item, &format::ATTRIBUTE_TAKE, |reader, field, value| {
            match field {
                "each" => each = reader.path_of(value),
                "about" => reader.about(value),
                _ => {
                    let known = format::ATTRIBUTE_TAKE.fields.iter().find(|known| known.name == field);
                    let Some(known) = known else { return false };
                    fields.extend(reader.field_of(value).map(|field| (known.name, field)));
                }
            }
            true
        });
        self.required(item, &format::ATTRIBUTE_TAKE, "an attribute");
        each.map(|each| AttributeTake { each, fields })
    }

    fn tag_take(&mut self, item: NodeId) -> Option<TagTake> {
        let mut each = Some(whole());
        let mut name = None;
        let mut attributes = Attributes::Named(Vec::new());
        let mut when_offers = None;
        self.fields(item, &format::TAG_TAKE, |reader, field, value| {
            match field {
                "each" => each = reader.path_of(value),
                "about" => reader.about(value),
                "name" => name = reader.field_of(value),
                "when-offers" => {
                    when_offers = reader.name(value).map(|_| reader.tree.text(value).to_owned());
                }
                "attributes" if reader.tree.kind(value) == NodeKind::Map => {
                    let mut named = Vec::new();
                    reader.entries(value, |reader, name, value| {
                        let name = reader.interner.text(name.name);
                        named.extend(reader.field_of(value).map(|field| (name, field)));
                    });
                    attributes = Attributes::Named(named);
                }
                "attributes" => {
                    if let Some(path) = reader.path_of(value) {
                        attributes = Attributes::Of(path);
                    }
                }
                _ => return false,
            }
            true
        });
        Some(TagTake { each: each?, name, when_offers, attributes })
    }
}

/// The path that selects what it starts from.
fn whole() -> Path {
    Path::new("$").expect("the shortest path there is")
}

/// Where readers are custom: the beginning of the paths of all mistakes in them.
pub(crate) const SECTION: &str = "reader";

/// The subject of a mistake in a reader, with the reader's name in place of its number.
pub(crate) fn by_name(subject: &str, names: &[String]) -> String {
    let rest = subject.strip_prefix(SECTION).and_then(|rest| rest.strip_prefix('.'));
    let (number, rest) = rest.map_or((subject, ""), |rest| rest.split_once('.').unwrap_or((rest, "")));
    let number = number.parse::<usize>().ok().and_then(|number| number.checked_sub(1));
    match number.and_then(|number| names.get(number)).filter(|name| !name.is_empty()) {
        Some(name) if rest.is_empty() => format!("{SECTION} {name}"),
        Some(name) => format!("{SECTION} {name}: {rest}"),
        None => subject.to_owned(),
    }
}

/// Whether a finding on the workspace file is about a reader.
pub(crate) fn is_about_readers(subject: &str) -> bool {
    subject == SECTION || subject.strip_prefix(SECTION).is_some_and(|rest| rest.starts_with('.'))
}
