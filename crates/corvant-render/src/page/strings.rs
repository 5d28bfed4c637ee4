//! Texts of a page, each once.

use crate::out::safe;
use foldhash::HashMap;

/// Texts by number.
#[derive(Default)]
pub(super) struct Strings {
    numbers: HashMap<String, u32>,
    all: Vec<String>,
}

impl Strings {
    /// Texts of which number 0 is the empty one.
    pub(super) fn new() -> Self {
        let mut strings = Self::default();
        strings.number("");
        strings
    }

    /// The number of a text, with what a browser would act on written as escapes.
    pub(super) fn number(&mut self, text: &str) -> u32 {
        if let Some(&number) = self.numbers.get(text) {
            return number;
        }
        let number = self.all.len() as u32;
        self.all.push(safe(text).into_owned());
        self.numbers.insert(text.to_owned(), number);
        number
    }

    /// All texts, in the order of their numbers.
    pub(super) fn into_all(self) -> Vec<String> {
        self.all
    }
}
