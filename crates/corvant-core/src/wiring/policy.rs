//! What a workspace decides for all of its modules.

use crate::finding::Severity;
use crate::wording::Wording;
use foldhash::HashMap;

/// Decisions of a workspace; the default is what holds without a workspace file.
#[derive(Clone, Debug, Default)]
#[allow(clippy::struct_excessive_bools, reason = "each is a decision of its own")]
pub struct Policy {
    /// What a second definition of an id means.
    pub same_id: SameId,
    /// What a second offer of a contract, or of a key of it, means.
    pub same_contract: SameId,
    /// Whether what is marked as default offers its contracts only where nothing else does.
    pub default_unless_offered: bool,
    /// Whether what a file imports comes before it, in the order in which it is named there.
    pub imports_first: bool,
    /// Whether the constructors of all services are filled by types where no need does.
    pub wires_constructors: bool,
    /// Whether every service offers the super types of its type.
    pub offers_super_types: bool,
    /// Whether the workspace always runs in some stage: then nothing is audited with none chosen.
    pub stage_required: bool,
    /// Lifetimes and their order.
    pub lifetimes: Lifetimes,
    /// By rule name the severity of its findings; `None`: it does not run.
    pub severities: HashMap<&'static str, Option<Severity>>,
    /// What edits are called in files that are not in Corvant's own format.
    pub wording: Wording,
}

/// What a second definition of an id means, where neither says that it overrides the other; and what a second offer
/// of a contract does, where nothing else settles between them.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum SameId {
    /// It is an error; the audit goes on with the first.
    #[default]
    Forbid,
    /// The first in the order of the files counts.
    First,
    /// The last counts.
    Last,
}

impl SameId {
    /// All of them, with the word that a workspace file uses for each.
    pub const ALL: [(&'static str, Self); 3] =
        [("forbid", Self::Forbid), ("first", Self::First), ("last", Self::Last)];
}

/// The lifetime of what is made for every use; it has no place in the order.
pub const USE: &str = "use";

/// The shared lifetimes of a workspace.
#[derive(Clone, Debug)]
pub struct Lifetimes {
    /// Shared lifetimes, longest first.
    pub order: Vec<String>,
    /// The lifetime of a service that does not name one; `None`: it is not known.
    pub default: Option<String>,
}

impl Default for Lifetimes {
    fn default() -> Self {
        Self { order: ["process", "request"].map(str::to_owned).into(), default: None }
    }
}
