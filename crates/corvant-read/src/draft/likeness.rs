//! What all names of one sort have in common, and plain values beside them may not have.

use super::study::SEPARATORS;

/// Signs that parts of names have between them, those that say most first.
const SIGNS: [char; 6] = [SEPARATORS[0], SEPARATORS[1], SEPARATORS[2], SEPARATORS[3], '-', '_'];

/// How all of some names are written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Likeness {
    /// By sign whether all have it inside.
    signs: [bool; SIGNS.len()],
    /// Whether all begin with a letter from `A` to `z`.
    has_letter_first: bool,
}

impl Likeness {
    /// What names have in common; of none: everything.
    pub(super) fn of<'n>(names: impl Iterator<Item = &'n str>) -> Self {
        let all = Self { signs: [true; SIGNS.len()], has_letter_first: true };
        let one = |name: &str| Self {
            signs: SIGNS.map(|sign| has_inside(name, sign)),
            has_letter_first: name.starts_with(|first: char| first.is_ascii_alphabetic()),
        };
        names.fold(all, |like, name| like.and(one(name)))
    }

    /// What names of both have in common.
    pub(super) fn and(mut self, other: Self) -> Self {
        self.signs.iter_mut().zip(other.signs).for_each(|(one, other)| *one &= other);
        self.has_letter_first &= other.has_letter_first;
        self
    }

    fn sign(self) -> Option<char> {
        SIGNS.into_iter().zip(self.signs).find(|(_, is_in_all)| *is_in_all).map(|(sign, _)| sign)
    }

    /// Whether a text is written as they are.
    pub(super) fn fits(self, text: &str) -> bool {
        (!self.has_letter_first || text.starts_with(|first: char| first.is_ascii_alphabetic()))
            && self.sign().is_none_or(|sign| has_inside(text, sign))
    }

    /// An expression for names of these letters that are written so. `letters` stand between brackets in an expression; `first`
    /// says what names begin with, in place of what they have in common.
    pub(super) fn expression(self, first: Option<&str>, letters: &str) -> String {
        let first = first.or(self.has_letter_first.then_some("[A-Za-z]")).unwrap_or_default();
        let (first, more) = if first.is_empty() { ("", "+") } else { (first, "*") };
        let behind = self.sign().map(|sign| format!("{}[{letters}]+", regex::escape(&sign.to_string())));
        format!("{first}[{letters}]{more}{}", behind.unwrap_or_default())
    }
}

/// Whether a sign stands in a text, and not at its ends.
fn has_inside(text: &str, sign: char) -> bool {
    let inside = text.trim_matches(sign);
    inside.contains(sign) && inside.len() == text.len()
}
