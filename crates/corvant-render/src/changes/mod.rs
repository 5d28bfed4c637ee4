//! What is another than before, as text for people and as Markdown for who reviews a change.

mod markdown;
mod text;
pub(crate) mod words;

pub use markdown::write as write_markdown;
pub use text::write as write_text;

use corvant_core::audit::Report;
use corvant_core::compare::Comparison;
use corvant_core::finding::Fix;
use corvant_core::wiring::Wiring;

/// One of two states that were compared.
#[derive(Clone, Copy, Debug)]
pub struct Side<'a> {
    /// What it is called: a folder, a revision.
    pub name: &'a str,
    /// Its wiring.
    pub wiring: &'a Wiring,
    /// What an audit finds in it.
    pub report: &'a Report,
}

/// Two states and what is another in the second.
#[derive(Clone, Copy, Debug)]
pub struct Compared<'a> {
    /// The state before.
    pub old: Side<'a>,
    /// The state now.
    pub new: Side<'a>,
    /// What is another.
    pub comparison: &'a Comparison,
    /// Whether values of settings are shown: they may be secret.
    pub with_values: bool,
    /// Changes that nobody has made, which the state now is supposed to come of.
    pub supposed: Supposing<'a>,
}

/// Changes that are supposed, and what files would have to say for them.
#[derive(Clone, Copy, Debug, Default)]
pub struct Supposing<'a> {
    /// The changes.
    pub changes: &'a [SupposedChange],
    /// All certain edits as a unified diff.
    pub patch: &'a str,
}

impl<'a> Supposing<'a> {
    /// How those were asked for of which no certain edit is known.
    pub(crate) fn without_edits(self) -> impl Iterator<Item = &'a str> {
        let is_without =
            |change: &&SupposedChange| change.fix.as_ref().is_none_or(|fix| fix.edits.is_empty());
        self.changes.iter().filter(is_without).map(|change| change.asked.as_str())
    }
}

/// What those edits are called.
const EDITS: &str = "The edits that would make it so";
/// What is said where there is none.
pub(crate) const NO_EDIT: &str = "no certain edit is known; corvant.toml or the definition has to say it";

/// A change that is supposed.
#[derive(Debug)]
pub struct SupposedChange {
    /// How it was asked for.
    pub asked: String,
    /// How it would be made in the files of the state before, where that is certain.
    pub fix: Option<Fix>,
}
