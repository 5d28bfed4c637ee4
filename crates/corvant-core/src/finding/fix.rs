//! Fixes: what can be done about a finding, as words and as changes to the files.
//!
//! Rules know names and places, not syntaxes: they say *what* changes. What that is in bytes is worked out by
//! the reader, which knows how the file is written, and is an [`Edit`].

use crate::near::Likeness;
use crate::source::{SourceIndex, Span};
use crate::word::words;

/// One way to take a finding away.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Fix {
    /// What to do, for people.
    pub title: String,
    /// How sure it is that this is meant.
    pub certainty: Certainty,
    /// What changes, all of it together; empty: this is advice.
    pub changes: Vec<Change>,
    /// The changes as text. Empty until they were spelt out, and where the files cannot be edited.
    pub edits: Vec<Edit>,
}

words! {
    /// How sure a fix is.
    Certainty {
        /// The finding is gone after it, no other comes, and the meaning is what was evidently meant.
        Certain "certain"
        /// There is more than one way, or the meaning changes.
        Likely "likely"
        /// Words only.
        Advice "advice"
    }
}

/// A change at one place of a file.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Change {
    /// The file.
    pub source: SourceIndex,
    /// The text it is about: a name, a value, an item of a list.
    pub span: Span,
    /// What becomes of it.
    pub action: Action,
}

/// What a change does with the text at its place.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Action {
    /// The name there becomes another.
    Rename {
        /// The name that is written now.
        from: String,
        /// The name that is to be written.
        to: String,
    },
    /// The plain value there becomes another.
    Set(Value),
    /// The item of a list, or the field with this key, goes.
    TakeOut,
    /// The item of a list that holds this value as one of its fields goes.
    TakeOutItem,
    /// The map of this key, or the map in which the value is, gains a field.
    Give(&'static str, Value),
    /// The map of this key loses a field.
    Withdraw(&'static str),
    /// The list under a field of that map gains a name; if there is no such field, it comes to be. An empty place at
    /// the start of a file means the map that the file is.
    Append(&'static str, String),
    /// The list that this item stands in gains names behind its last.
    AppendBeside(Vec<String>),
    /// What stands behind this item in its list goes.
    TakeOutBehind,
    /// The item of a list moves before another of the same list.
    MoveBefore(Span),
}

/// A plain value as it is to be written.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Value {
    /// True or false.
    Flag(bool),
    /// A text, in quotes where it would else be something other than text.
    Text(String),
    /// A list of texts.
    List(Vec<String>),
}

/// A change as text: what stands at a place gives way to another text.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Edit {
    /// The file.
    pub source: SourceIndex,
    /// The bytes that go; empty: nothing goes, the text is put in.
    pub span: Span,
    /// The text that comes.
    pub text: String,
}

impl Fix {
    /// Words only.
    pub fn advice(title: impl Into<String>) -> Self {
        Self { title: title.into(), certainty: Certainty::Advice, changes: Vec::new(), edits: Vec::new() }
    }

    /// A fix that is certain.
    pub fn certain(title: impl Into<String>, changes: impl IntoIterator<Item = Change>) -> Self {
        Self::new(title, Certainty::Certain, changes)
    }

    /// A fix that is likely.
    pub fn likely(title: impl Into<String>, changes: impl IntoIterator<Item = Change>) -> Self {
        Self::new(title, Certainty::Likely, changes)
    }

    /// A fix of some certainty; without any change it is advice.
    pub fn new(
        title: impl Into<String>,
        certainty: Certainty,
        changes: impl IntoIterator<Item = Change>,
    ) -> Self {
        let changes: Vec<Change> = changes.into_iter().collect();
        let certainty = if changes.is_empty() { Certainty::Advice } else { certainty };
        Self { title: title.into(), certainty, changes, edits: Vec::new() }
    }

    /// Another name in place of one that is not known, wherever that is written: certain where no other comes near
    /// it, and words only where the two but end alike.
    pub fn rename(
        title: impl Into<String>,
        places: impl IntoIterator<Item = (SourceIndex, Span)>,
        from: &str,
        to: &str,
        likeness: Likeness,
    ) -> Self {
        let certainty = match likeness {
            Likeness::Sure => Certainty::Certain,
            Likeness::Misspelt => Certainty::Likely,
            Likeness::EndsAlike => return Self::advice(title),
        };
        let changes = places.into_iter().map(|(source, span)| Change::rename(source, span, from, to));
        Self::new(title, certainty, changes)
    }

    /// The same, but not certain: it is not all that there is to do about the finding.
    #[must_use]
    pub fn at_most_likely(self) -> Self {
        Self { certainty: self.certainty.max(Certainty::Likely), ..self }
    }

    /// Takes its edits; without any it is words only.
    pub fn spell_out(&mut self, edits: Option<Vec<Edit>>) {
        self.edits = edits.unwrap_or_default();
        if self.edits.is_empty() {
            self.certainty = Certainty::Advice;
        }
    }
}

impl Change {
    /// A change at a place of a file.
    pub fn new(source: SourceIndex, span: Span, action: Action) -> Self {
        Self { source, span, action }
    }

    /// Another name in place of one.
    pub fn rename(source: SourceIndex, span: Span, from: &str, to: &str) -> Self {
        Self::new(source, span, Action::Rename { from: from.to_owned(), to: to.to_owned() })
    }

    /// One more name in a list, under a field of the map that a place belongs to.
    pub fn append(source: SourceIndex, span: Span, field: &'static str, name: &str) -> Self {
        Self::new(source, span, Action::Append(field, name.to_owned()))
    }

    /// An item or a field less.
    pub fn take_out(source: SourceIndex, span: Span) -> Self {
        Self::new(source, span, Action::TakeOut)
    }
}
