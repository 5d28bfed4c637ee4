//! Where modules say that they use others.

use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::wiring::{ModuleIndex, Wiring};
use foldhash::HashMap;

/// By the module that says it and the one that is named: where. What files of no known module say stands together.
#[derive(Debug)]
pub(crate) struct SaidUses(HashMap<(Option<ModuleIndex>, Name), Places>);

type Places = Vec<(SourceIndex, Span)>;

impl SaidUses {
    pub(super) fn new(wiring: &Wiring) -> Self {
        let mut said: HashMap<_, Places> = HashMap::default();
        for (source, used) in &wiring.facts.uses {
            said.entry((wiring.module_of(*source), used.name)).or_default().push((*source, used.span));
        }
        Self(said)
    }

    /// All places where a module says that it uses another, in the order of the files.
    pub(crate) fn of(&self, from: Option<ModuleIndex>, to: Name) -> &[(SourceIndex, Span)] {
        self.0.get(&(from, to)).map_or(&[], Vec::as_slice)
    }
}
