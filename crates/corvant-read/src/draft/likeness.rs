//! What all names of one sort have in common, and plain values beside them may not have.

use super::study::SEPARATORS;

/// Signs that parts of names have between them, those that say most first.
const SIGNS: [char; 6] = [SEPARATORS[0], SEPARATORS[1], SEPARATORS[2], SEPARATORS[3], '-', '_'];

/// How all of some names are written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Likeness {
    /// By sign how often it stands inside of one, at least and at most.
    signs: [(usize, usize); SIGNS.len()],
    /// Whether all begin with a letter from `A` to `z`.
    has_letter_first: bool,
}

impl Likeness {
    /// What names have in common; of none: everything.
    pub(super) fn of<'n>(names: impl Iterator<Item = &'n str>) -> Self {
        let all = Self { signs: [(usize::MAX, 0); SIGNS.len()], has_letter_first: true };
        let one = |name: &str| Self {
            signs: SIGNS.map(|sign| {
                let times = if name.contains(sign) { inside(name, sign) } else { 0 };
                (times, times)
            }),
            has_letter_first: name.starts_with(|first: char| first.is_ascii_alphabetic()),
        };
        names.fold(all, |like, name| like.and(one(name)))
    }

    /// What names of both have in common.
    pub(super) fn and(mut self, other: Self) -> Self {
        for (one, other) in self.signs.iter_mut().zip(other.signs) {
            *one = (one.0.min(other.0), one.1.max(other.1));
        }
        self.has_letter_first &= other.has_letter_first;
        self
    }

    fn sign(self) -> Option<char> {
        SIGNS.into_iter().zip(self.signs).find(|(_, (least, _))| *least > 0).map(|(sign, _)| sign)
    }

    /// A sign that stands in each of these names more often than in any of others, or less often.
    pub(super) fn parting(self, other: Self) -> Option<char> {
        let mut signs = SIGNS.into_iter().zip(self.signs.into_iter().zip(other.signs));
        signs.find(|(_, (own, others))| own.1 < others.0 || others.1 < own.0).map(|(sign, _)| sign)
    }

    /// An expression for names of these letters in which a sign stands as often as in these.
    pub(super) fn parted(self, sign: char, letters: &str) -> String {
        let at = SIGNS.iter().position(|one| *one == sign).unwrap_or_default();
        let (least, most) = self.signs[at];
        let letters = without(letters, sign);
        if most == 0 {
            return self.expression(None, &letters);
        }
        let times = if least == most { format!("{{{least}}}") } else { format!("{{{least},{most}}}") };
        // Two colons separate as one does.
        let several = if sign == ':' { "+" } else { "" };
        let sign = regex::escape(&sign.to_string());
        format!("{}(?:{sign}{several}[{letters}]+){times}", self.start(None, &letters))
    }

    /// Whether a text is written as they are.
    pub(super) fn fits(self, text: &str) -> bool {
        (!self.has_letter_first || text.starts_with(|first: char| first.is_ascii_alphabetic()))
            && self.sign().is_none_or(|sign| inside(text, sign) > 0)
    }

    /// An expression for names of these letters that are written so. `letters` stand between brackets in an expression; `first`
    /// says what names begin with, in place of what they have in common.
    pub(super) fn expression(self, first: Option<&str>, letters: &str) -> String {
        let behind = self.sign().map(|sign| format!("{}[{letters}]+", regex::escape(&sign.to_string())));
        format!("{}{}", self.start(first, letters), behind.unwrap_or_default())
    }

    fn start(self, first: Option<&str>, letters: &str) -> String {
        match first.or(self.has_letter_first.then_some("[A-Za-z]")) {
            Some(first) => format!("{first}[{letters}]*"),
            None => format!("[{letters}]+"),
        }
    }
}

/// How often a sign separates parts of a text, once or several times; at its ends it separates nothing.
fn inside(text: &str, sign: char) -> usize {
    let parts = text.split(sign).filter(|part| !part.is_empty()).count();
    if text.starts_with(sign) || text.ends_with(sign) { 0 } else { parts.saturating_sub(1) }
}

/// Letters, as they stand between brackets in an expression, without one.
pub(super) fn without(letters: &str, sign: char) -> String {
    let escaped = regex::escape(&sign.to_string());
    match sign {
        // It is a letter of words, for expressions.
        '_' => letters.replace(r"\w", r"\pL\d"),
        _ => letters.replace(&escaped, "").replace(sign, ""),
    }
}
