//! Names of two wirings as numbers: equal texts have equal ones, so that hardly any text is looked at.

use crate::name::{Name, Names};
use crate::wiring::Wiring;

/// Numbers of the names of an old wiring and of a new one.
#[derive(Debug)]
pub(super) struct Numbers<'a> {
    /// Names that are their own numbers: of the new wiring, or of one that has all names of the other.
    own: &'a Names,
    others: Option<Others<'a>>,
}

/// Names of the old wiring that are not their own numbers.
#[derive(Debug)]
struct Others<'a> {
    /// By name its number.
    numbers: Vec<u32>,
    /// Those that the new wiring has not: their numbers come after all of its own.
    more: Vec<&'a str>,
}

/// One of the two wirings.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Side {
    Old,
    New,
}

impl<'a> Numbers<'a> {
    /// Gives all names of two wirings their numbers.
    pub(super) fn new(old: &'a Wiring, new: &'a Wiring) -> Self {
        Self::of_names(&old.names, &new.names)
    }

    fn of_names(old: &'a Names, new: &'a Names) -> Self {
        if old.begins_with(new) {
            return Self { own: old, others: None };
        }
        if new.begins_with(old) {
            return Self { own: new, others: None };
        }
        let (mut numbers, mut more) = (vec![0; old.bound()], Vec::new());
        for name in old.all() {
            let text = old.text(name);
            let number = new.find(text).map_or_else(
                || {
                    more.push(text);
                    new.bound() + more.len() - 1
                },
                Name::index,
            );
            numbers[name.index()] = number as u32;
        }
        Self { own: new, others: Some(Others { numbers, more }) }
    }

    /// The number of a name.
    pub(super) fn of(&self, side: Side, name: Name) -> u32 {
        match (side, &self.others) {
            (Side::Old, Some(others)) => others.numbers[name.index()],
            _ => name.index() as u32,
        }
    }

    /// The text of a number that was given.
    pub(super) fn text(&self, number: u32) -> &'a str {
        let number = number as usize;
        let more = self.others.as_ref().zip(number.checked_sub(self.own.bound()));
        more.map_or_else(|| self.own.text(Name::at(number)), |(others, more)| others.more[more])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::name::Interner;
    use rstest::rstest;

    fn names(texts: &[&str], begun: Interner) -> Names {
        for text in texts {
            begun.intern(text);
        }
        begun.freeze()
    }

    /// Whether one state goes on where the other ended, or they have nothing to do with one another.
    #[rstest]
    #[case::apart(None)]
    #[case::the_old_goes_on(Some(Side::Old))]
    #[case::the_new_goes_on(Some(Side::New))]
    fn equal_texts_have_equal_numbers(#[case] goes_on: Option<Side>) {
        let (one, other) = (["depot.gate", "clock", "signals"], ["clock", "track", "depot.gate"]);
        let mut first = names(&one, Interner::default());
        let mut second = names(&other, goes_on.map_or_else(Interner::default, |_| first.thaw()));
        if goes_on == Some(Side::Old) {
            std::mem::swap(&mut first, &mut second);
        }
        let numbers = Numbers::of_names(&first, &second);
        assert_eq!(numbers.others.is_none(), goes_on.is_some());
        let mut known = std::collections::BTreeMap::new();
        for (side, names) in [(Side::Old, &first), (Side::New, &second)] {
            for name in names.all() {
                let number = numbers.of(side, name);
                assert_eq!(numbers.text(number), names.text(name));
                assert_eq!(*known.entry(names.text(name)).or_insert(number), number);
            }
        }
        let distinct: std::collections::BTreeSet<&u32> = known.values().collect();
        assert_eq!(distinct.len(), 5, "{known:?}");
    }
}
