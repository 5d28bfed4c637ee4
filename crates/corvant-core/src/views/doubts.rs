//! Doubts: names that stand in text that could not be read.
//!
//! One cause, one finding: what follows from a broken file is the file's finding, not one of its own.

use crate::facts::TroubleKind;
use crate::index::{ModuleIndex, TroubleIndex};
use crate::name::Name;
use crate::source::SourceIndex;
use crate::wiring::Wiring;
use foldhash::{HashMap, HashSet};

/// What may be defined or used where the reader could not look.
#[derive(Debug, Default)]
pub(crate) struct Doubts {
    /// Names that may be defined, with the trouble that hides them.
    defines: HashMap<Name, TroubleIndex>,
    mentions: HashMap<Name, TroubleIndex>,
    opaque: bool,
    unknown_needs: UnknownNeeds,
}

impl Doubts {
    pub(crate) fn new(wiring: &Wiring) -> Self {
        let mut doubts = Self { unknown_needs: unknown_needs(wiring), ..Self::default() };
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
        // What code says by names that are not known is no trouble of the file's.
        let nowhere = TroubleIndex::new(wiring.facts.troubles.len());
        for computed in &wiring.facts.computed {
            for word in computed.words.of(&wiring.facts.parts) {
                doubts.mentions.entry(word.name).or_insert(nowhere);
                doubts.defines.entry(word.name).or_insert(nowhere);
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

    /// Whether a service whose needs nobody can know may need something that a file defines: what its module says it
    /// uses, if that is said, and its own.
    pub(crate) fn may_be_needed(&self, wiring: &Wiring, source: SourceIndex) -> bool {
        match (&self.unknown_needs, wiring.module_of(source)) {
            (UnknownNeeds::OfModules(by_module), Some(module)) => {
                let name = wiring.modules[module.index()].module.name;
                by_module.contains_key(&module) || by_module.values().any(|uses| uses.contains(&name))
            }
            (UnknownNeeds::OfModules(by_module), None) => !by_module.is_empty(),
            (UnknownNeeds::Any, _) => true,
        }
    }

    /// Whether a module has a service whose needs nobody can know.
    pub(crate) fn may_need_anything(&self, module: ModuleIndex) -> bool {
        match &self.unknown_needs {
            UnknownNeeds::OfModules(by_module) => by_module.contains_key(&module),
            UnknownNeeds::Any => true,
        }
    }

    /// Whether something could not be read of which not even the words are known.
    pub(crate) fn is_opaque(&self) -> bool {
        self.opaque
    }
}

/// What services of unknown needs may need.
#[derive(Debug)]
enum UnknownNeeds {
    /// By module that has such a service, the modules that it says it uses; there may be none.
    OfModules(HashMap<ModuleIndex, HashSet<Name>>),
    /// Anything: the module of one of them says nothing of uses.
    Any,
}

impl Default for UnknownNeeds {
    fn default() -> Self {
        Self::OfModules(HashMap::default())
    }
}

fn unknown_needs(wiring: &Wiring) -> UnknownNeeds {
    let mut by_module: HashMap<ModuleIndex, HashSet<Name>> = HashMap::default();
    for service in wiring.facts.services.iter().filter(|service| service.needs_unknown) {
        match wiring.module_of(service.source) {
            Some(module) if wiring.headers[service.source.index()].uses_given => {
                by_module.entry(module).or_default();
            }
            _ => return UnknownNeeds::Any,
        }
    }
    if !by_module.is_empty() {
        for (source, used) in &wiring.facts.uses {
            if let Some(uses) = wiring.module_of(*source).and_then(|module| by_module.get_mut(&module)) {
                uses.insert(used.name);
            }
        }
    }
    UnknownNeeds::OfModules(by_module)
}
