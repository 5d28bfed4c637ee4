//! Comparing: what is another in one wiring than in an older one, what follows from it, and which findings are new.
//!
//! Names of both are compared by number, definitions by what their files say first, so that what is the same in both costs
//! next to nothing.

mod definitions;
mod described;
mod effects;
mod findings;
mod numbers;
mod pairs;
mod unseen;

pub use definitions::{DefinitionChange, PartChange, Turn};
pub use described::{Aspect, Value};
pub use effects::{Effect, EffectKind, Outcome};
pub use findings::{Baseline, FindingChange, FindingChanges, Known, Seen, keep_new};
pub use unseen::{Unseen, Which};

use crate::answers::View;
use crate::audit::Report;
use foldhash::HashMap;

/// One of two states that are compared.
#[derive(Clone, Copy, Debug)]
pub struct State<'s, 'a> {
    /// The wiring, in a stage or with none chosen.
    pub view: &'s View<'a>,
    /// What an audit finds in it.
    pub report: &'s Report,
}

/// What is another in one state than in the one before.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Comparison {
    /// Findings that are new, gone or changed.
    pub findings: FindingChanges,
    /// Definitions that are new, gone or changed: by kind, then by name.
    pub definitions: Vec<DefinitionChange>,
    /// What follows: by kind, then by name.
    pub effects: Vec<Effect>,
    /// What could not be seen.
    pub unseen: Vec<Unseen>,
}

impl Comparison {
    /// Whether nothing is another.
    pub fn is_empty(&self) -> bool {
        self.definitions.is_empty() && self.effects.is_empty() && self.findings.is_empty()
    }
}

/// Compares a state with the one before.
pub fn compare(old: State<'_, '_>, new: State<'_, '_>) -> Comparison {
    let (definitions, mut effects) = rayon::join(
        || definitions::changes(old.view.wiring, new.view.wiring),
        || effects::effects(old.view, new.view),
    );
    // That something is called otherwise is told once.
    let renamed = definitions.iter().filter_map(|change| match &change.turn {
        Turn::Renamed { from } => Some((from.as_str(), change.name.as_str())),
        _ => None,
    });
    let renamed: HashMap<&str, &str> = renamed.collect();
    if !renamed.is_empty() {
        effects.retain(|effect| !effect.follows_from_names(&renamed));
    }
    let findings = findings::changes(Known::new(old.report, old.view.wiring), new.report, new.view.wiring);
    let unseen = unseen::unseen(&old.report.blind_spots, &new.report.blind_spots);
    Comparison { findings, definitions, effects, unseen }
}
