//! Doubts: names that stand in text that could not be read.
//!
//! One cause, one finding: what follows from a broken file is the file's finding, not one of its own.

use crate::facts::TroubleKind;
use crate::index::TroubleIndex;
use crate::name::Name;
use crate::wiring::Wiring;
use foldhash::HashMap;

/// What may be defined or used where the reader could not look.
#[derive(Debug, Default)]
pub(crate) struct Doubts {
    /// Names that may be defined, with the trouble that hides them.
    defines: HashMap<Name, TroubleIndex>,
    mentions: HashMap<Name, TroubleIndex>,
    opaque: bool,
}

impl Doubts {
    pub(crate) fn new(wiring: &Wiring) -> Self {
        let mut doubts = Self::default();
        for (number, trouble) in wiring.facts.troubles.iter().enumerate() {
            let number = TroubleIndex::new(number);
            let hides = matches!(trouble.kind, TroubleKind::Unreadable | TroubleKind::DeadLink);
            doubts.opaque |= trouble.unread.opaque && hides;
            for &name in &trouble.unread.mentions {
                doubts.mentions.entry(name).or_insert(number);
            }
            for &name in &trouble.unread.defines {
                doubts.defines.entry(name).or_insert(number);
            }
        }
        doubts
    }

    /// The trouble behind which a name may be defined, by its number in the facts.
    pub(crate) fn hides(&self, name: Name) -> Option<TroubleIndex> {
        self.defines.get(&name).copied()
    }

    /// The trouble in whose text a name stands, by its number in the facts.
    pub(crate) fn mentions(&self, name: Name) -> Option<TroubleIndex> {
        self.mentions.get(&name).copied()
    }

    /// All names that stand in what was not read.
    pub(crate) fn mentioned(&self) -> impl Iterator<Item = Name> + '_ {
        self.mentions.keys().copied()
    }

    /// Whether something could not be read of which not even the words are known.
    pub(crate) fn is_opaque(&self) -> bool {
        self.opaque
    }
}
