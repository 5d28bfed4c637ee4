//! How a house writes names into values: bare, behind a sign or a word, or between brackets.

use super::names::{SEPARATING, is_of_name, words_of_run};
use regex::escape;

/// What stands around a name.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Default)]
pub(super) struct Pattern {
    left: String,
    right: String,
    /// Whether a value begins with the left, and ends with the right.
    is_whole: (bool, bool),
    /// Of names that leave their module out what stands between them in ids.
    own: Option<&'static str>,
}

impl Pattern {
    /// The name alone.
    pub(super) fn bare() -> Self {
        Self { is_whole: (true, true), ..Self::default() }
    }

    /// Whether the value is an id as it stands.
    pub(super) fn is_bare(&self) -> bool {
        *self == Self::bare()
    }

    /// Whether nothing stands around the name, with its module or without.
    pub(super) fn is_alone(&self) -> bool {
        self.left.is_empty() && self.right.is_empty() && self.is_whole == (true, true)
    }

    /// Whether it says how a value begins and ends, and the value is no path.
    pub(super) fn is_around_all(&self) -> bool {
        self.is_whole == (true, true) && !self.left.starts_with('/')
    }

    /// The same around a name that leaves its module out.
    pub(super) fn of_own_module(self, between: &'static str) -> Self {
        Self { own: Some(between), ..self }
    }

    /// Of names that leave their module out what stands between them in ids.
    pub(super) fn own_module(&self) -> Option<&'static str> {
        self.own
    }

    /// What stands around a part of a value; `None`: too much for a sign.
    fn around(before: &str, after: &str) -> Option<Self> {
        let is_word = |letter: char| letter.is_alphanumeric();
        // Between brackets a name stands wherever it is.
        let open = before.chars().next_back().and_then(|open| "{[(<".find(open));
        let close = after.chars().next().and_then(|close| "}])>".find(close));
        if open.is_some() && open == close {
            let signs = before.trim_end_matches(['{', '[', '(', '<']);
            let sign =
                signs.chars().next_back().filter(|sign| matches!(sign, '$' | '#' | '%' | '@' | '&' | '!'));
            let left = &before[signs.len() - sign.map_or(0, char::len_utf8)..];
            let right = &after[..after.len() - after.trim_start_matches(['}', ']', ')', '>']).len()];
            // A word before them says what the name is, where there is nothing else.
            if sign.is_none() && is_one_word(signs) && right == after {
                return Some(Self {
                    left: before.to_owned(),
                    right: after.to_owned(),
                    is_whole: (true, true),
                    own: None,
                });
            }
            let (left, right) = (left.to_owned(), right.to_owned());
            return Some(Self { left, right, is_whole: (false, false), own: None });
        }
        // `depot.gate as gate`: a word says what the next is, where there is nothing else.
        if before.is_empty()
            && let Some(word) = word_behind(after)
        {
            return Some(Self { right: format!(" {word} "), is_whole: (true, false), ..Self::default() });
        }
        let signs = |text: &str| !text.contains(is_word);
        let words = before.split(|letter: char| !is_word(letter)).filter(|word| !word.is_empty()).count();
        let is_opening = |letter: char| !is_word(letter) && !letter.is_whitespace();
        let begins_with_word = before.trim_start_matches(is_opening).starts_with(char::is_alphabetic)
            && !before.ends_with(is_word)
            && before.len() <= WORD;
        let (left, whole_left) = if signs(before) || words == 1 && begins_with_word {
            (before, true)
        } else {
            (&before[before.rfind(is_word).map_or(0, |at| at + char_length(before, at))..], false)
        };
        let (right, whole_right) = if signs(after) {
            (after, true)
        } else {
            (&after[..after.find(is_word).unwrap_or(after.len())], false)
        };
        let is_whole = (whole_left, whole_right);
        let pattern = Self { left: left.to_owned(), right: right.to_owned(), is_whole, own: None };
        // In prose names stand between spaces: that is no sign.
        let is_sign = |text: &str| {
            text.trim_matches([' ', ',', '\'', '"', '\n', ';']).len() == text.trim().len()
                && !text.trim().is_empty()
        };
        let is_told = (whole_left || is_sign(left))
            && (whole_right || is_sign(right) && right != "." || is_sign(left) && !whole_left);
        let is_told = is_told && (whole_left && whole_right || is_sign(left) || is_sign(right));
        (is_told && before.len() + after.len() < 200).then_some(pattern)
    }

    /// Whether a value is written so, whatever the name.
    pub(super) fn fits(&self, text: &str) -> bool {
        let found = if self.is_whole.0 {
            text.strip_prefix(self.left.as_str())
        } else {
            text.find(self.left.as_str()).map(|at| &text[at + self.left.len()..])
        };
        let Some(rest) = found else { return false };
        let is_inside =
            |letter| is_of_name(letter) && !(SEPARATING.contains(&letter) && self.right.contains(letter));
        let end = rest.find(|letter| !is_inside(letter)).unwrap_or(rest.len());
        let (name, after) = rest.split_at(end);
        !name.is_empty()
            && if self.is_whole.1 { after == self.right } else { after.starts_with(self.right.as_str()) }
    }

    /// The expression for it, with a group for the name inside. `optional` is a variant of it with one sign more, which says
    /// that the name need not be there.
    pub(super) fn expression(&self, group: &str, letters: &str, optional: Option<&Self>) -> String {
        let start = if self.is_whole.0 { "^" } else { "" };
        let end = if self.is_whole.1 { "$" } else { "" };
        let sign = |more: Option<&str>| {
            more.map_or_else(String::new, |sign| format!("(?<optional>{})?", escape(sign)))
        };
        let left = sign(
            optional
                .and_then(|other| other.left.strip_prefix(self.left.as_str()))
                .filter(|more| !more.is_empty()),
        );
        let right = sign(
            optional
                .and_then(|other| other.right.strip_suffix(self.right.as_str()))
                .filter(|more| !more.is_empty()),
        );
        format!("{start}{}{left}(?<{group}>{letters}){right}{}{end}", escape(&self.left), escape(&self.right))
    }

    /// The same, with a group that has no name.
    pub(super) fn unnamed(&self, letters: &str) -> String {
        self.expression("name", letters, None).replace("(?<name>", "(")
    }

    /// Whether this is another with one sign more, before or behind the name.
    pub(super) fn is_variant_of(&self, other: &Self) -> bool {
        let one = |more: Option<&str>| more.is_some_and(|more| more.chars().count() == 1);
        let behind = self.left == other.left && one(self.right.strip_suffix(other.right.as_str()));
        let before = self.right == other.right && one(self.left.strip_prefix(other.left.as_str()));
        (self.is_whole, self.own) == (other.is_whole, other.own) && (behind || before)
    }

    /// With brackets alone, where a word stands before them.
    pub(super) fn without_word(&self) -> Option<Self> {
        let bracket = self.left.strip_suffix(['{', '[', '(', '<']).filter(|word| is_one_word(word))?;
        let left = self.left[bracket.len()..].to_owned();
        Some(Self { left, right: self.right.clone(), is_whole: (false, false), own: self.own })
    }

    /// Expressions are tried in order: those that ask for more come first.
    pub(super) fn weight(&self) -> usize {
        self.left.len() + self.right.len()
    }
}

/// The word right behind a name, where one more word comes behind it, and no more than a remark in brackets behind that.
fn word_behind(after: &str) -> Option<&str> {
    let mut words = after.strip_prefix(' ')?.split(' ');
    let word = words.next().filter(|word| is_one_word(word) && !word.contains(char::is_uppercase))?;
    words.next().filter(|name| !name.is_empty())?;
    let rest: Vec<&str> = words.collect();
    let is_remark = |text: &str| text.starts_with('(') && text.ends_with(')');
    (rest.len() < 2 && rest.iter().all(|text| is_remark(text))).then_some(word)
}

/// Whether a text is one short word.
fn is_one_word(text: &str) -> bool {
    text.starts_with(char::is_alphabetic)
        && text.len() <= WORD
        && text.chars().all(|letter| letter.is_alphanumeric() || matches!(letter, '-' | '_'))
}

/// Bytes of a word that says what a name is, at most.
const WORD: usize = 16;

fn char_length(text: &str, at: usize) -> usize {
    text[at..].chars().next().map_or(1, char::len_utf8)
}

/// The first part of a value that is a known name, with what stands around it: the value as a whole, before its parts.
pub(super) fn find<T>(text: &str, known: impl Fn(&str) -> Option<T>) -> Option<(Pattern, &str, T)> {
    if let Some(found) = known(text) {
        return Some((Pattern::bare(), text, found));
    }
    if text.len() > 400 || text.contains('\n') {
        return None;
    }
    let runs = text.split(|letter: char| !is_of_name(letter)).filter(|run| !run.is_empty());
    runs.flat_map(words_of_run).find_map(|name| {
        let found = known(name)?;
        let from = name.as_ptr() as usize - text.as_ptr() as usize;
        let pattern = Pattern::around(&text[..from], &text[from + name.len()..])?;
        Some((pattern, name, found))
    })
}
