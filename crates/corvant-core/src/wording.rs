//! How fixes name an edit: in a file of Corvant's own format by what is to be written, in a file of another reader in
//! that reader's words, and where it has none by what must change.

use crate::word::words;
use foldhash::HashMap;

words! {
    /// Sorts of edits that formats write in different ways.
    EditSort {
        /// A service is the one that its contract gets.
        Default "default"
        /// Which service a contract gets is recorded.
        Choice "choice"
        /// A service offers a contract.
        Offer "offer"
        /// A service answers to a key.
        Key "key"
        /// A need is met on first use.
        Lazy "lazy"
        /// A definition inherits from another.
        Like "like"
        /// A definition overrides others.
        Replace "replace"
        /// A service is for its own module alone no longer.
        Public "public"
        /// A service carries a tag.
        Tag "tag"
        /// An attribute of a tag is given.
        Attribute "attribute"
        /// A tag is collected.
        Collect "collect"
        /// A setting has a value.
        Setting "setting"
        /// What uses the wiring from outside is named.
        Entry "entry"
        /// The host platform brings something.
        Supplied "supplied"
    }
}

impl EditSort {
    /// What must change, where nobody says how that is written; `{}` is what it is about.
    const fn plain(self) -> &'static str {
        match self {
            Self::Default => "make {} the default",
            Self::Choice => "record that {} is meant",
            Self::Offer => "let the service that has it offer {}",
            Self::Key => "give the key {} to the service that should answer it",
            Self::Lazy => "let {} be met on first use",
            Self::Like => "define a service that inherits from {}",
            Self::Replace => "say that it overrides {}",
            Self::Public => "let other modules need {}",
            Self::Tag => "tag it with {}",
            Self::Attribute => "give {}",
            Self::Collect => "let something collect {}",
            Self::Setting => "give {} a value",
            Self::Entry => "name what uses {} from outside as an entry",
            Self::Supplied => "list it under `[supplied]` in corvant.toml",
        }
    }
}

/// The words of readers, by name.
#[derive(Clone, Debug, Default)]
pub struct Wording {
    readers: HashMap<String, HashMap<EditSort, String>>,
}

impl Wording {
    /// Takes note of how a reader's files have an edit; `{}` in the words is what it is about.
    pub fn add(&mut self, reader: &str, sort: EditSort, words: &str) {
        self.readers.entry(reader.to_owned()).or_default().insert(sort, words.to_owned());
    }

    /// What an edit is called in a file of a reader.
    pub(crate) fn say(&self, reader: &str, sort: EditSort, about: &str) -> String {
        let words = self.readers.get(reader).and_then(|words| words.get(&sort));
        words.map_or(sort.plain(), String::as_str).replace("{}", about)
    }
}
