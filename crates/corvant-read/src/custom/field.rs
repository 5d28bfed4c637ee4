//! Fields: where a reader finds one thing about an item, and what it makes of the text there.

use super::path::{Path, Selected};
use super::session::{Session, TEXT_LIMIT};
use crate::syntax::{NodeId, NodeKind};
use corvant_core::facts::{Derived, Named};
use corvant_core::source::{SourceIndex, Span};
use foldhash::HashMap;
use regex::Regex;
use std::borrow::Cow;

/// Where the text comes from.
#[derive(Debug, Clone)]
pub(crate) enum Origin {
    /// What a path selects, starting from the item.
    Path(Path),
    /// The key that the item, or what a path selects, stands under.
    Key(Option<Path>),
    /// The first of several fields that finds anything.
    Any(Vec<Field>),
    /// What several paths select, together.
    Joined(Vec<Path>),
    /// What an expression picks in the path of the file.
    InPath(Regex),
    /// All keys on the way from the root to the item.
    KeyPath,
    /// Which of its list or map the item is, from 1.
    Number,
    /// The text itself.
    Constant(String),
}

/// What counts where there is no text.
#[derive(Debug, Clone)]
pub(crate) enum Absent {
    /// A text.
    Text(String),
    /// What stands elsewhere in the file.
    Path(Path),
    /// What stands in the nearest file of a name, in the folder of the file or above.
    InFolder(String, Path),
}

/// How a house writes names in one word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Case {
    Lower,
    Upper,
    Camel,
    Pascal,
    Kebab,
    Snake,
    Dot,
    FirstLower,
}

impl Case {
    /// All of them, with the word for each.
    pub(crate) const ALL: [(&'static str, Self); 8] = [
        ("lower", Self::Lower),
        ("upper", Self::Upper),
        ("camel", Self::Camel),
        ("pascal", Self::Pascal),
        ("kebab", Self::Kebab),
        ("snake", Self::Snake),
        ("dot", Self::Dot),
        ("first-lower", Self::FirstLower),
    ];

    /// A text in this case. Words begin at letters of upper case, and at what is neither letter nor digit.
    pub(crate) fn of(self, text: &str) -> String {
        let capital = |word: &String| {
            let mut letters = word.chars();
            letters
                .next()
                .map(|first| first.to_uppercase().chain(letters).collect::<String>())
                .unwrap_or_default()
        };
        match self {
            Self::Lower => text.to_lowercase(),
            Self::Upper => text.to_uppercase(),
            Self::Pascal => words(text).iter().map(capital).collect(),
            Self::Camel => {
                let words = words(text);
                let (first, rest) =
                    words.split_first().map_or(("", &[][..]), |(first, rest)| (first.as_str(), rest));
                rest.iter().map(capital).fold(first.to_owned(), |all, word| all + &word)
            }
            Self::Kebab => words(text).join("-"),
            Self::Snake => words(text).join("_"),
            Self::Dot => words(text).join("."),
            Self::FirstLower => {
                let mut letters = text.chars();
                let first = letters.next().map(|first| first.to_lowercase().collect::<String>());
                first.unwrap_or_default() + letters.as_str()
            }
        }
    }
}

/// The words that a name is made of, in lower case: `HTTPClientPool` is http, client, pool.
fn words(text: &str) -> Vec<String> {
    let letters: Vec<char> = text.chars().collect();
    let mut words: Vec<String> = Vec::new();
    let mut begins = true;
    for (at, &letter) in letters.iter().enumerate() {
        if !letter.is_alphanumeric() {
            begins = true;
            continue;
        }
        let after_lower = at > 0 && (letters[at - 1].is_lowercase() || letters[at - 1].is_numeric());
        let before_lower = letters.get(at + 1).is_some_and(|next| next.is_lowercase());
        if begins || letter.is_uppercase() && (after_lower || before_lower) {
            words.push(String::new());
        }
        begins = false;
        if let Some(word) = words.last_mut() {
            word.extend(letter.to_lowercase());
        }
    }
    words
}

/// What a reader makes of one or several texts of an item.
#[derive(Debug, Clone)]
pub(crate) struct Field {
    pub(crate) origin: Origin,
    /// How many maps above the item the origin starts from.
    pub(crate) above: u32,
    /// What stands between the parts of a name that is made of several.
    pub(crate) between: String,
    /// The part of the text that the rest is about; without a match there is none.
    pub(crate) within: Option<Regex>,
    /// What stands between several texts in one.
    pub(crate) split: Option<String>,
    /// Which part of the text counts; without a match there is none.
    pub(crate) pick: Option<Regex>,
    /// Whether only the part behind the last separator of a type counts.
    pub(crate) last_part: bool,
    pub(crate) case: Option<Case>,
    /// The text around it: `{}` stands for it, `{module}` for the module, `{file}` for the
    /// file's name, `{id}` for the id of what is taken.
    pub(crate) form: Option<String>,
    /// Whether it is a type in code, to be named in full.
    pub(crate) full: bool,
    /// Other words for it.
    pub(crate) map: HashMap<String, String>,
    /// What counts where there is none.
    pub(crate) absent: Option<Absent>,
}

/// A text and where it stands.
#[derive(Debug, Clone)]
pub(crate) struct FoundText<'tree> {
    pub(crate) text: Cow<'tree, str>,
    pub(crate) span: Span,
    /// The node, if it stands there as it is.
    pub(crate) node: Option<NodeId>,
    /// Whether the text was made, and does not stand there.
    pub(crate) is_made: bool,
}

impl Field {
    /// A field that is nothing but its origin.
    pub(crate) fn plain(origin: Origin) -> Self {
        let (split, pick, case, form, absent) = (None, None, None, None, None);
        let (between, within) = (".".to_owned(), None);
        Self {
            origin,
            above: 0,
            between,
            within,
            split,
            pick,
            last_part: false,
            case,
            form,
            full: false,
            map: HashMap::default(),
            absent,
        }
    }

    /// The paths in it.
    pub(crate) fn paths(&self) -> Vec<&Path> {
        let mut paths: Vec<&Path> = match &self.origin {
            Origin::Path(path) | Origin::Key(Some(path)) => vec![path],
            Origin::Any(fields) => fields.iter().flat_map(Self::paths).collect(),
            Origin::Joined(paths) => paths.iter().collect(),
            Origin::Key(None)
            | Origin::KeyPath
            | Origin::Number
            | Origin::InPath(_)
            | Origin::Constant(_) => Vec::new(),
        };
        if let Some(Absent::Path(path)) = &self.absent {
            paths.push(path);
        }
        paths
    }

    /// All texts of an item, in the order they are written.
    pub(crate) fn all<'tree>(&self, session: &mut Session<'tree>, item: Selected) -> Vec<FoundText<'tree>> {
        let mut found = self.written(session, item);
        if let Some(within) = &self.within {
            found = found.into_iter().filter_map(|found| picked(session, &found, within)).collect();
        }
        if let Some(split) = &self.split {
            found = found.into_iter().flat_map(|found| parts(session, &found, split)).collect();
        }
        let made = found.into_iter().filter_map(|found| self.made(session, found));
        let mut found: Vec<_> = made.collect();
        match self.absent.as_ref().filter(|_| found.is_empty()) {
            Some(Absent::Text(text)) => found.push(session.nowhere(item, text.clone())),
            Some(Absent::Path(path)) => {
                let root = session.root;
                let selected = session.selected_above(path, root);
                let texts = texts(session, selected, &path.text);
                found.extend(texts.into_iter().filter_map(|found| self.made(session, found)));
            }
            Some(Absent::InFolder(name, path)) => {
                let text = session.selected_in_folder(name, path);
                let text = text.map(|text| session.nowhere(item, text));
                found.extend(text.and_then(|found| self.made(session, found)));
            }
            None => {}
        }
        found
    }

    /// Whether it finds a text. A map or a list in its place is none, and no mistake.
    pub(crate) fn finds(&self, session: &mut Session<'_>, item: Selected) -> bool {
        if let (Origin::Path(path), 0) = (&self.origin, self.above) {
            let tree = session.tree;
            let has_text = |selected: &Selected| {
                let node = selected.node;
                tree.is_plain(node)
                    || tree.kind(node) == NodeKind::List
                        && tree.children(node).any(|item| tree.is_plain(item))
            };
            if !session.select(path, item).iter().any(has_text) {
                return false;
            }
        }
        self.one(session, item).is_some()
    }

    /// The only text of an item, or the first.
    pub(crate) fn one<'tree>(
        &self,
        session: &mut Session<'tree>,
        item: Selected,
    ) -> Option<FoundText<'tree>> {
        self.all(session, item).into_iter().next()
    }

    fn written<'tree>(&self, session: &mut Session<'tree>, item: Selected) -> Vec<FoundText<'tree>> {
        let item = match self.above {
            0 => item,
            above => match session.above(item, above) {
                Some(holder) => holder,
                None => return Vec::new(),
            },
        };
        let selected = match &self.origin {
            Origin::Constant(text) => return vec![session.nowhere(item, text.clone())],
            Origin::Key(None) => return item.key.map(|key| session.plain(key)).into_iter().collect(),
            Origin::InPath(regex) => {
                let path = session.nowhere(item, session.path.to_owned());
                return picked(session, &path, regex).into_iter().collect();
            }
            Origin::Number => {
                return vec![session.nowhere(item, item.number.to_string())];
            }
            Origin::KeyPath => return self.key_path(session, item).into_iter().collect(),
            Origin::Joined(paths) => return self.joined(session, item, paths).into_iter().collect(),
            Origin::Any(fields) => {
                // All are looked for, so that what the others would have found is not left over.
                let all: Vec<_> = fields.iter().map(|field| field.all(session, item)).collect();
                return all.into_iter().find(|found| !found.is_empty()).unwrap_or_default();
            }
            // What stands above several items is looked for once.
            Origin::Path(path) | Origin::Key(Some(path)) if self.above > 0 => {
                session.selected_above(path, item)
            }
            Origin::Path(path) | Origin::Key(Some(path)) => session.select(path, item),
        };
        if matches!(self.origin, Origin::Key(_)) {
            return selected
                .into_iter()
                .filter_map(|found| found.key)
                .map(|key| session.plain(key))
                .collect();
        }
        let mut found = texts(session, selected, &self.place());
        // What an expression picks, or a word of the house stands for, may be a piece of code as it is written.
        if session.code.is_some() && self.pick.is_none() && self.map.is_empty() && self.within.is_none() {
            found.retain(|one| {
                let is_computed = one.node.is_some_and(|node| session.is_computed(node));
                session.computed.extend(is_computed.then_some(one.span));
                !is_computed
            });
        }
        found
    }

    /// The texts of several paths as one; none if one of them has none.
    fn joined<'tree>(
        &self,
        session: &mut Session<'tree>,
        item: Selected,
        paths: &[Path],
    ) -> Option<FoundText<'tree>> {
        let mut parts = Vec::new();
        for path in paths {
            let selected = session.select(path, item);
            parts.push(texts(session, selected, &path.text).into_iter().next()?);
        }
        let text = parts.iter().map(|part| part.text.trim()).collect::<Vec<_>>().join(&self.between);
        let span = parts.last()?.span;
        Some(FoundText { text: Cow::Owned(text), span, node: None, is_made: true })
    }

    /// The keys that lead to an item as one text.
    fn key_path<'tree>(&self, session: &mut Session<'tree>, item: Selected) -> Option<FoundText<'tree>> {
        let mut keys = Vec::new();
        let mut at = Some(item);
        while let Some(selected) = at {
            keys.extend(selected.key);
            at = session.holder(selected);
        }
        let span = session.tree.span(*keys.first()?);
        for &key in &keys {
            session.take(key);
        }
        let tree = session.tree;
        let text = keys.iter().rev().map(|&key| tree.text(key)).collect::<Vec<_>>().join(&self.between);
        Some(FoundText { text: Cow::Owned(text), span, node: None, is_made: keys.len() > 1 })
    }

    /// What the field is called in messages.
    fn place(&self) -> String {
        match &self.origin {
            Origin::Path(path) | Origin::Key(Some(path)) => path.text.clone(),
            Origin::Key(None) | Origin::KeyPath => "the key".to_owned(),
            Origin::Number => "the number".to_owned(),
            Origin::InPath(_) => "the path of the file".to_owned(),
            Origin::Any(fields) => fields.iter().map(Self::place).collect::<Vec<_>>().join(" or "),
            Origin::Joined(paths) => {
                paths.iter().map(|path| path.text.as_str()).collect::<Vec<_>>().join(" or ")
            }
            Origin::Constant(text) => text.clone(),
        }
    }

    fn made<'tree>(
        &self,
        session: &mut Session<'tree>,
        mut found: FoundText<'tree>,
    ) -> Option<FoundText<'tree>> {
        if let Some(pick) = &self.pick {
            found = picked(session, &found, pick)?;
        }
        // Spaces around a name are none of it.
        let trimmed = found.text.trim();
        if trimmed.len() < found.text.len() {
            let start = found.text.len() - found.text.trim_start().len();
            let (range, text) = (start..start + trimmed.len(), trimmed.to_owned());
            found =
                FoundText { span: session.part(&found, range), text: Cow::Owned(text), node: None, ..found };
        }
        if self.full
            && let Some(full) = session.full(&found.text, found.span)
        {
            found.text = Cow::Owned(full);
        }
        let before = found.text.clone();
        if self.last_part {
            let last =
                found.text.rsplit(['.', '\\', '/', ':', '#', '$']).next().unwrap_or_default().to_owned();
            found.text = Cow::Owned(last);
        }
        if let Some(case) = self.case {
            found.text = Cow::Owned(case.of(&found.text));
        }
        if let Some(form) = &self.form {
            let file =
                self.case.map_or_else(|| session.file_stem().to_owned(), |case| case.of(session.file_stem()));
            let text = form.replace("{module}", &session.module_text).replace("{file}", &file);
            let text =
                if text.contains("{id}") { text.replace("{id}", &session.holder_text()) } else { text };
            found.text = Cow::Owned(text.replace("{}", &found.text));
        }
        if let Some(word) = self.map.get(found.text.as_ref()).or_else(|| self.map.get(ANY_OTHER)) {
            found.text = Cow::Owned(word.clone());
        } else if !self.map.is_empty() && !self.map.values().any(|word| *word == found.text) {
            let mut words: Vec<&str> = self.map.keys().map(String::as_str).collect();
            words.sort_unstable();
            let message = format!("here is {}, and the reader knows {}", found.text, words.join(", "));
            session.misshapen.extend(found.node.map(|node| (node, message)));
            return None;
        } else {
            // Another word for something is no name that was made.
            found.is_made |= found.text != before;
        }
        if found.text != before {
            found.node = None;
        }
        (!found.text.is_empty()).then_some(found)
    }
}

/// The word in a `map` that stands for all others.
const ANY_OTHER: &str = "*";

/// The part of a text that an expression picks.
fn picked<'tree>(
    session: &mut Session<'tree>,
    found: &FoundText<'tree>,
    pick: &Regex,
) -> Option<FoundText<'tree>> {
    if found.text.len() > TEXT_LIMIT {
        session.too_long(found);
        return None;
    }
    let groups = pick.captures(&found.text)?;
    let part = groups.iter().skip(1).flatten().next().or_else(|| groups.get(0))?;
    let (range, text) = (part.range(), part.as_str().to_owned());
    Some(FoundText {
        span: session.part(found, range),
        text: Cow::Owned(text),
        node: None,
        is_made: found.is_made,
    })
}

/// The texts of what a path selects; of a list, those that stand in it.
fn texts<'tree>(session: &mut Session<'tree>, selected: Vec<Selected>, place: &str) -> Vec<FoundText<'tree>> {
    let mut found = Vec::new();
    for Selected { node, .. } in selected {
        match session.tree.kind(node) {
            NodeKind::Null => session.take(node),
            NodeKind::List => {
                session.take(node);
                let tree = session.tree;
                for item in tree.children(node) {
                    if matches!(tree.kind(item), NodeKind::List | NodeKind::Map) {
                        session.misshapen(item, place);
                    } else {
                        found.push(session.plain(item));
                    }
                }
            }
            NodeKind::Map => session.misshapen(node, place),
            _ => found.push(session.plain(node)),
        }
    }
    found
}

fn parts<'tree>(session: &Session<'tree>, found: &FoundText<'tree>, split: &str) -> Vec<FoundText<'tree>> {
    let mut parts = Vec::new();
    // Where several lines make one text, the parts of it still stand there as they are, one after another.
    let mut written = session.tree.written(found.span);
    let mut at = found.span.start as usize;
    for text in found.text.split(split).map(str::trim) {
        if !text.is_empty() {
            let span = match written.find(text) {
                Some(start) => {
                    let span = Span::new(at + start, at + start + text.len());
                    written = &written[start + text.len()..];
                    at = span.end as usize;
                    span
                }
                None => found.span,
            };
            parts.push(FoundText { text: Cow::Owned(text.to_owned()), span, node: None, is_made: false });
        }
    }
    parts
}

impl FoundText<'_> {
    /// The text as a name. One that was made is noted, with what it was made from.
    pub(crate) fn named(&self, session: &mut Session<'_>) -> Named {
        let name = session.interner.intern(&self.text);
        if self.is_made {
            let source = SourceIndex::default();
            session.facts.derived.push(Derived { source, span: self.span, name });
        }
        Named { name, span: self.span }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("HTTPClientPool", "httpClientPool", "HttpClientPool", "http-client-pool", "http_client_pool")]
    #[case("depot.night-wash", "depotNightWash", "DepotNightWash", "depot-night-wash", "depot_night_wash")]
    #[case("Line2Board", "line2Board", "Line2Board", "line2-board", "line2_board")]
    #[case("žlutáTrať", "žlutáTrať", "ŽlutáTrať", "žlutá-trať", "žlutá_trať")]
    #[case("", "", "", "", "")]
    fn names_change_their_case(
        #[case] text: &str,
        #[case] camel: &str,
        #[case] pascal: &str,
        #[case] kebab: &str,
        #[case] snake: &str,
    ) {
        let cases = [Case::Camel, Case::Pascal, Case::Kebab, Case::Snake].map(|case| case.of(text));
        assert_eq!(cases, [camel, pascal, kebab, snake]);
    }
}
