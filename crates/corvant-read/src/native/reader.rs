//! Walking a tree while keeping account of where one is and of what is wrong with its shape.

use crate::native::format::Map;
use crate::syntax::{NodeId, NodeKind, Tree};
use crate::types::Language;
use crate::words;
use corvant_core::facts::{Facts, Many, Named, Trouble, TroubleKind};
use corvant_core::finding::{Action, Change, Fix, Value};
use corvant_core::name::{Interner, Recent};
use corvant_core::near::meanings;
use corvant_core::source::{SourceIndex, Span};
use foldhash::{HashMap, HashMapExt};
use std::fmt::Write;

/// Reads values out of one tree into facts. A wrong shape is noted and the value passed over; nothing stops.
pub(crate) struct Reader<'tree> {
    pub(crate) tree: &'tree Tree<'tree>,
    pub(crate) interner: &'tree Interner,
    recent: Recent<'tree>,
    pub(crate) facts: Facts,
    /// How many troubles were reported so far.
    pub(super) reported: usize,
    pub(super) path: Vec<Step<'tree>>,
    /// What the file is called in messages.
    file: &'static str,
    /// The language of pieces of code in the part that is read.
    pub(crate) language: Option<Language>,
}

/// One step from the root of the file to a value.
#[derive(Clone, Copy)]
pub(super) enum Step<'tree> {
    Field(&'tree str),
    Item(usize),
}

/// Longer lists of fields are no help.
const LISTED: usize = 20;

impl<'tree> Reader<'tree> {
    /// `file` is what the file is called in messages.
    pub(crate) fn new(tree: &'tree Tree<'tree>, interner: &'tree Interner, file: &'static str) -> Self {
        let recent = Recent::new(interner);
        Self {
            tree,
            interner,
            recent,
            facts: Facts::default(),
            reported: 0,
            path: Vec::new(),
            file,
            language: None,
        }
    }

    /// The fields of a map that has a fixed set of them. `each` says of every field whether it knows it.
    pub(crate) fn fields(
        &mut self,
        map: NodeId,
        known: &Map,
        mut each: impl FnMut(&mut Self, &'tree str, NodeId) -> bool,
    ) {
        self.each_field(map, |reader, key, value| {
            let tree = reader.tree;
            if !each(reader, tree.text(key), value) {
                reader.unknown_field(key, value, &known.names());
            }
        });
    }

    /// The entries of a map whose keys are names: ids, contracts, slots.
    pub(crate) fn entries(&mut self, map: NodeId, mut each: impl FnMut(&mut Self, Named, NodeId)) {
        self.each_field(map, |reader, key, value| {
            if reader.has_name(key) {
                let named = reader.named(key);
                each(reader, named, value);
            }
        });
    }

    /// How many of some fields are written in a map, whatever they hold.
    pub(crate) fn written(&self, map: NodeId, fields: &[&str]) -> usize {
        if self.tree.kind(map) != NodeKind::Map {
            return 0;
        }
        self.tree.fields(map).filter(|(key, _)| fields.contains(&self.tree.text(*key))).count()
    }

    /// Whether a key is not empty; notes it if it is.
    pub(crate) fn has_name(&mut self, key: NodeId) -> bool {
        let is_empty = self.tree.text(key).is_empty();
        if is_empty {
            let help = "give it a name, or take the line out";
            self.wrong_shape(key, "a name is empty".to_owned(), Some(help.to_owned()));
        }
        !is_empty
    }

    /// The items of a list, each with its number (from 1) on the path.
    pub(crate) fn items(&mut self, list: NodeId, mut each: impl FnMut(&mut Self, NodeId)) {
        if !self.is(list, NodeKind::List) {
            return;
        }
        let tree = self.tree;
        for (index, item) in tree.children(list).enumerate() {
            self.path.push(Step::Item(index + 1));
            each(self, item);
            self.path.pop();
        }
    }

    /// The fields of a map, whatever they are called.
    pub(crate) fn each_field(&mut self, map: NodeId, mut each: impl FnMut(&mut Self, NodeId, NodeId)) {
        if !self.is(map, NodeKind::Map) {
            return;
        }
        let tree = self.tree;
        let mut seen = Seen::default();
        for (key, value) in tree.fields(map) {
            if matches!(tree.kind(key), NodeKind::List | NodeKind::Map) {
                let message = format!("a field's name is {}, not text", tree.kind(key).words());
                self.wrong_shape(key, message, None);
                continue;
            }
            let text = tree.text(key);
            self.path.push(Step::Field(text));
            match seen.first(tree, key) {
                Some(first) => self.repeated_field(key, value, first),
                None => each(self, key, value),
            }
            self.path.pop();
        }
    }

    /// Whether a value is of a kind; notes it if not. Nothing at all stands for an empty list or map.
    fn is(&mut self, value: NodeId, kind: NodeKind) -> bool {
        let found = self.tree.kind(value);
        if found != kind && found != NodeKind::Null {
            self.expected(value, kind.words());
        }
        found == kind
    }

    /// The name in a text value.
    pub(crate) fn name(&mut self, value: NodeId) -> Option<Named> {
        match self.tree.kind(value) {
            NodeKind::Text if !self.tree.text(value).is_empty() => Some(self.named(value)),
            NodeKind::Integer | NodeKind::Number | NodeKind::Boolean => {
                let text = self.tree.source_of(value);
                let message = self.expectation(value, "text");
                let quoted = self.set(value, Value::Text(text.to_owned()));
                let fix = Fix::certain(format!("put it in quotes: \"{text}\""), [quoted]);
                self.wrong_value(value, message, Some(fix));
                None
            }
            NodeKind::Text => {
                let message = format!("{} is empty", self.field());
                self.wrong_shape(value, message, None);
                None
            }
            _ => {
                self.expected(value, "text");
                None
            }
        }
    }

    /// The names in a list of texts. A single text is taken as a list of one, and noted.
    pub(crate) fn names(&mut self, value: NodeId) -> Many<Named> {
        let start = self.facts.parts.named.len();
        if self.tree.kind(value) == NodeKind::Text {
            let message = self.expectation(value, "a list");
            let text = self.tree.text(value);
            let listed = self.set(value, Value::List(vec![text.to_owned()]));
            self.wrong_value(value, message, Some(Fix::certain(format!("write [{text}]"), [listed])));
            let named = self.named(value);
            self.facts.parts.named.push(named);
        } else {
            self.items(value, |reader, item| {
                let name = reader.name(item);
                reader.facts.parts.named.extend(name);
            });
        }
        Many::since(start, &self.facts.parts)
    }

    /// A name out of a closed set of words.
    pub(crate) fn word(&mut self, value: NodeId, words: &[&str]) -> Option<Named> {
        let named = self.name(value)?;
        let text = self.tree.text(value);
        if words.contains(&text) {
            return Some(named);
        }
        let message = format!("{} takes one of {}, not {text}", self.field(), words.join(", "));
        let fix = self.meant(value, words, |word| format!("write {word}"));
        self.wrong_value(value, message, fix);
        None
    }

    /// True or false; false where it is neither, and noted.
    pub(crate) fn flag(&mut self, value: NodeId) -> bool {
        if self.tree.kind(value) == NodeKind::Boolean {
            return self.tree.text(value).eq_ignore_ascii_case("true");
        }
        let meant = match self.tree.text(value).to_ascii_lowercase().as_str() {
            "yes" | "on" | "y" | "true" => Some(true),
            "no" | "off" | "n" | "false" => Some(false),
            _ => None,
        };
        let message = self.expectation(value, "true or false");
        let fix =
            meant.map(|flag| Fix::certain(format!("write {flag}"), [self.set(value, Value::Flag(flag))]));
        self.wrong_value(value, message, fix);
        false
    }

    /// A number of things.
    pub(crate) fn count(&mut self, value: NodeId) -> Option<u32> {
        let count = self.tree.text(value).parse().ok().filter(|_| self.tree.kind(value) == NodeKind::Integer);
        if count.is_none() && self.tree.kind(value) == NodeKind::Integer {
            let message = format!("{} counts from 0; it cannot be {}", self.field(), self.tree.text(value));
            self.wrong_shape(value, message, None);
        } else if count.is_none() {
            self.expected(value, "a whole number");
        }
        count
    }

    /// The text of a plain value, of whatever kind, as a name.
    pub(crate) fn named(&mut self, value: NodeId) -> Named {
        Named { name: self.recent.intern(self.tree.text(value)), span: self.tree.span(value) }
    }

    /// Notes that a value is not of the shape its field takes.
    pub(crate) fn expected(&mut self, value: NodeId, shape: &str) {
        let message = self.expectation(value, shape);
        self.wrong_shape(value, message, None);
    }

    fn expectation(&self, value: NodeId, shape: &str) -> String {
        let found = match self.tree.kind(value) {
            NodeKind::List | NodeKind::Map | NodeKind::Null => self.tree.kind(value).words().to_owned(),
            kind => format!("{} ({})", kind.words(), shortened(self.tree.text(value))),
        };
        format!("{} takes {shape}, not {found}", self.field())
    }

    /// What the value being read is called in messages.
    fn field(&self) -> String {
        match self.path.last() {
            None => self.file.to_owned(),
            Some(Step::Field(field)) => format!("`{field}`"),
            Some(Step::Item(number)) => format!("item {number} of {}", self.parent()),
        }
    }

    fn parent(&self) -> String {
        let fields = self.path.iter().rev().find_map(|step| match step {
            Step::Field(field) => Some(format!("`{field}`")),
            Step::Item(_) => None,
        });
        fields.unwrap_or_else(|| "the file".to_owned())
    }

    /// Notes that a value has the wrong shape.
    pub(crate) fn wrong_shape(&mut self, value: NodeId, message: String, advice: Option<String>) {
        self.wrong_value(value, message, advice.map(Fix::advice));
    }

    /// The same, with a fix.
    fn wrong_value(&mut self, value: NodeId, message: String, fix: Option<Fix>) {
        let at = (self.tree.span(value), "this value");
        self.trouble(TroubleKind::WrongShape, message, at, Some(value), fix);
    }

    /// The change that gives a plain value another.
    fn set(&self, value: NodeId, to: Value) -> Change {
        Change::new(SourceIndex::OWN, self.tree.span(value), Action::Set(to))
    }

    /// The fix of a text, if one of a few words was probably meant.
    fn meant(&self, text: NodeId, words: &[&str], title: impl Fn(&str) -> String) -> Option<Fix> {
        let written = self.tree.text(text);
        let meant = meanings(&[written], words)[0]?;
        let place = (SourceIndex::OWN, self.tree.span(text));
        let word = words[meant.known];
        Some(Fix::rename(title(word), [place], written, word, meant.likeness))
    }

    /// Notes that a field every manifest must have is missing; the place is the start of the file.
    pub(crate) fn missing_field(&mut self, field: &'tree str, message: &str, help: &str) {
        self.path.push(Step::Field(field));
        let at = (Span::at(0), "in this file");
        self.trouble(TroubleKind::WrongShape, message.to_owned(), at, None, Some(Fix::advice(help)));
        self.path.pop();
    }

    pub(crate) fn unknown_field(&mut self, key: NodeId, value: NodeId, known: &[&str]) {
        let text = self.tree.text(key);
        let owner = match self.path.len() {
            1 => self.file.to_owned(),
            length => match self.path[length - 2] {
                Step::Field(field) => format!("`{field}`"),
                Step::Item(number) => format!("item {number}"),
            },
        };
        let message = format!("{owner} has no field `{}`; what it holds is not read", shortened(text));
        let fix = match self.meant(key, known, |field| format!("write `{field}`")) {
            Some(fix) => fix,
            None if known.len() > LISTED => Fix::advice("take it out"),
            None => Fix::advice(format!("take it out, or use one of {}", known.join(", "))),
        };
        let fix = match self.path.len().checked_sub(2).map(|owner| self.path[owner]) {
            Some(Step::Field(owner)) if self.tree.is_behind_a_dot(key) => {
                let title = fix.title;
                Fix::advice(format!(
                    "if the dot belongs to a name, write it in quotes: \"{owner}.{text}\"; or {title}"
                ))
            }
            _ => fix,
        };
        let at = (self.tree.span(key), "no such field");
        self.trouble(TroubleKind::UnknownField, message, at, Some(value), Some(fix));
    }

    fn repeated_field(&mut self, key: NodeId, value: NodeId, first: NodeId) {
        let message = format!("{} stands twice in one map; the second is not read", self.field());
        let second = Change::take_out(SourceIndex::OWN, self.tree.span(key));
        let fix = Fix::likely("keep one of the two, or give one another name", [second]);
        let at = (self.tree.span(key), "again here");
        let unread = words::of_value(self.tree, value, self.interner);
        let trouble = Trouble::new(TroubleKind::RepeatedField, self.path(), message, at).hiding(unread);
        self.report(Trouble { fixes: vec![fix], ..trouble }.beside((self.tree.span(first), "first here")));
    }

    /// Notes a trouble; `unread` is the value that is passed over because of it.
    fn trouble(
        &mut self,
        kind: TroubleKind,
        message: String,
        at: (Span, &'static str),
        unread: Option<NodeId>,
        fix: Option<Fix>,
    ) {
        let unread = unread.map(|value| words::of_value(self.tree, value, self.interner));
        let trouble = Trouble::new(kind, self.path(), message, at).hiding(unread.unwrap_or_default());
        self.report(Trouble { fixes: fix.into_iter().collect(), ..trouble });
    }

    fn report(&mut self, trouble: Trouble) {
        self.reported += 1;
        self.facts.report(trouble);
    }

    /// The path of the value being read, dots between; a dot alone is the whole file.
    fn path(&self) -> String {
        if self.path.is_empty() {
            return ".".to_owned();
        }
        let mut path = String::new();
        for step in &self.path {
            if !path.is_empty() {
                path.push('.');
            }
            match step {
                Step::Field(field) => path.push_str(field),
                Step::Item(number) => write!(path, "{number}").expect("writing to a String"),
            }
        }
        path
    }
}

/// The keys of one map so far: compared one by one while they are few, by hash when they are many.
#[derive(Default)]
struct Seen<'tree> {
    few: [Option<NodeId>; FEW],
    many: HashMap<&'tree str, NodeId>,
}

const FEW: usize = 12;

impl<'tree> Seen<'tree> {
    /// The earlier key of the same text, if there is one; otherwise remembers this one.
    fn first(&mut self, tree: &'tree Tree<'tree>, key: NodeId) -> Option<NodeId> {
        let text = tree.text(key);
        for place in &mut self.few {
            match *place {
                Some(other) if tree.text(other) == text => return Some(other),
                Some(_) => {}
                None => {
                    *place = Some(key);
                    return None;
                }
            }
        }
        if self.many.is_empty() {
            self.many = HashMap::with_capacity(64);
            self.many.extend(self.few.iter().flatten().map(|&other| (tree.text(other), other)));
        }
        let known = self.many.get(text).copied();
        if known.is_none() {
            self.many.insert(text, key);
        }
        known
    }
}

/// A text that fits into a message.
fn shortened(text: &str) -> String {
    const LONGEST: usize = 60;
    match text.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{}…", &text[..end]),
        None => text.to_owned(),
    }
}
