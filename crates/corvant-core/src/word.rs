//! Words: enumerations whose values have one each, so that one list says both; and lists of words in a sentence.

/// A closed set of values with the word for each, as it stands in reports and on command lines.
pub trait Word: Copy + 'static {
    /// The words of all values, in their order.
    const WORDS: &'static [&'static str];

    /// The word for this one.
    fn word(self) -> &'static str;
}

/// An enumeration with the word of each value beside it: `Value "word"`. A value whose word says all has no other text.
macro_rules! words {
    ($(#[$of:meta])* $name:ident { $($(#[$one:meta])* $value:ident $word:literal)* }) => {
        $(#[$of])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[allow(missing_docs)]
        pub enum $name {
            $($(#[$one])* $value,)*
        }

        impl $name {
            /// All of them, in order.
            pub const ALL: [Self; { [$($word),*].len() }] = [$(Self::$value),*];

            /// The word for it.
            pub const fn word(self) -> &'static str {
                match self {
                    $(Self::$value => $word,)*
                }
            }

            /// The one that a word stands for; `None`: none of them.
            pub fn of(word: &str) -> Option<Self> {
                Self::ALL.into_iter().find(|one| one.word() == word)
            }
        }

        impl $crate::word::Word for $name {
            const WORDS: &'static [&'static str] = &[$($word),*];

            fn word(self) -> &'static str {
                Self::word(self)
            }
        }
    };
}

pub(crate) use words;

/// `a, b and c`.
pub fn join_words(words: &[impl AsRef<str>]) -> String {
    let words: Vec<&str> = words.iter().map(AsRef::as_ref).collect();
    match words.split_last() {
        None => String::new(),
        Some((last, [])) => (*last).to_owned(),
        Some((last, before)) => format!("{} and {last}", before.join(", ")),
    }
}

/// The first few of some words, and how many more there are.
pub fn some_of(words: &[&str], told: usize) -> String {
    match words.len().saturating_sub(told) {
        0 => join_words(words),
        more => format!("{} and {more} more", words[..told].join(", ")),
    }
}
