//! What clashes are: several services that claim one contract, or one key of it, and nothing that decides.

use crate::index::QuestionIndex;
use crate::name::Name;
use crate::resolve::Offer;

/// Several services under one key of a contract, or several defaults for one.
#[derive(Debug)]
pub(crate) struct Clash {
    pub(crate) contract: Name,
    /// The key; `None`: they are defaults.
    pub(crate) key: Option<Name>,
    /// Each service that is handed out, with the definition by which it clashes.
    pub(crate) offers: Vec<Offer>,
    /// The questions that nothing settles because of it, by number.
    pub(crate) questions: Vec<QuestionIndex>,
}

/// All clashes of a stage, or of the part of it that is looked at.
#[derive(Debug, Default)]
pub(crate) struct Clashes {
    /// Several services under one key of one contract.
    pub(crate) keys: Vec<Clash>,
    /// Several defaults for one contract.
    pub(crate) defaults: Vec<Clash>,
    /// Questions behind which there is no clash, by number.
    pub(crate) open: Vec<QuestionIndex>,
}
