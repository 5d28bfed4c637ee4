//! What answers are made of: things, what needs aim at, what they get and why. Names, enums and places; the words are
//! the renderers'.

use crate::facts::{Need, Via};
use crate::source::Place;
use crate::word::words;

/// A node of the graph, as answers speak of it.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct Thing {
    /// What it is.
    pub kind: ThingKind,
    /// The id; of all that carry a tag the tag, of all that offer a contract the contract.
    pub name: String,
    /// Of a contract that several claim, the key under which it is needed.
    pub key: Option<String>,
}

words! {
    /// Kinds of nodes.
    ThingKind {
        Service "service"
        Entry "entry"
        Provider "provider"
        /// All that carry a tag.
        Carriers "carriers"
        /// All that offer a contract.
        Offerers "offerers"
        /// A contract that several claim and nothing settles.
        Claimed "claimed"
    }
}

/// What a need is aimed at.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Aim {
    /// A service, by id.
    Service(String),
    /// A service that offers a contract, perhaps under a key.
    Contract(String, Option<String>),
    /// All services that offer a contract.
    All(String),
    /// All services that carry a tag.
    Tag(String),
    /// A setting.
    Setting(String),
    /// What the service wraps.
    Wrapped,
}

/// How a need is met, beside the plain way.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub struct NeedManner {
    /// On first use.
    pub lazy: bool,
    /// It may be absent.
    pub optional: bool,
    /// By what means.
    pub via: Via,
}

impl NeedManner {
    /// How a need is met.
    pub fn of(need: &Need) -> Self {
        Self { lazy: need.lazy, optional: need.optional, via: need.via }
    }
}

/// What a need gets.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Gets {
    /// The service, if it is one.
    pub service: Option<String>,
    /// Why it gets that, or gets none.
    pub reason: Reason,
}

/// Why a need gets what it gets, or gets nothing.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Reason {
    /// It names the service by its id.
    Id,
    /// It names an alias.
    Alias(String),
    /// It names a service that another wraps.
    Wraps(String),
    /// It names a service that another replaces.
    Replaces(String),
    /// It is what the holder wraps.
    Wrapped,
    /// A choice says so.
    Chosen(Place),
    /// It is the one that offers the contract under the key.
    Key(String),
    /// It is the only one that offers the contract.
    Only,
    /// It is the default of so many that offer the contract.
    Default(usize),
    /// It is the first of so many that offer the contract, and the workspace says that the first counts.
    First(usize),
    /// It is the last of so many that offer the contract, and the workspace says that the last counts.
    Last(usize),
    /// So many services carry the tag.
    Carried(usize),
    /// So many services offer the contract.
    Offered(usize),
    /// The setting has a value.
    Value,
    /// The host platform brings it.
    Supplied,
    /// Nothing is said to bring it, and what was not read may.
    Assumed,
    /// Not found, and optional.
    Absent,
    /// Not found.
    Missing,
    /// Offered, but not under the key.
    MissingKey,
    /// So many services offer it, and nothing says which is meant.
    Ambiguous(usize),
    /// It depends on the stage, or on another finding.
    Unknown,
}

impl Reason {
    /// What kind of reason it is.
    pub fn kind(&self) -> ReasonKind {
        match self {
            Self::Id => ReasonKind::Id,
            Self::Alias(_) => ReasonKind::Alias,
            Self::Wraps(_) => ReasonKind::Wraps,
            Self::Replaces(_) => ReasonKind::Replaces,
            Self::Wrapped => ReasonKind::Wrapped,
            Self::Chosen(_) => ReasonKind::Chosen,
            Self::Key(_) => ReasonKind::Key,
            Self::Only => ReasonKind::Only,
            Self::Default(_) => ReasonKind::Default,
            Self::First(_) => ReasonKind::First,
            Self::Last(_) => ReasonKind::Last,
            Self::Carried(_) => ReasonKind::Carried,
            Self::Offered(_) => ReasonKind::Offered,
            Self::Value => ReasonKind::Value,
            Self::Supplied => ReasonKind::Supplied,
            Self::Assumed => ReasonKind::Assumed,
            Self::Absent => ReasonKind::Absent,
            Self::Missing => ReasonKind::Missing,
            Self::MissingKey => ReasonKind::MissingKey,
            Self::Ambiguous(_) => ReasonKind::Ambiguous,
            Self::Unknown => ReasonKind::Unknown,
        }
    }
}

words! {
    /// Kinds of reasons.
    ReasonKind {
        /// It names the service by its id.
        Id "id"
        /// It names an alias.
        Alias "alias"
        /// It names what another wraps.
        Wraps "wraps"
        /// It names what another replaces.
        Replaces "replaces"
        /// It is what the holder wraps.
        Wrapped "wrapped"
        /// A choice says so.
        Chosen "chosen"
        /// It is offered under the key.
        Key "key"
        /// It is the only one that offers the contract.
        Only "only"
        Default "default"
        /// It is the first that offers the contract.
        First "first"
        /// It is the last that offers the contract.
        Last "last"
        /// All that carry the tag.
        Carried "carried"
        /// All that offer the contract.
        Offered "offered"
        /// The setting has a value.
        Value "value"
        /// The host platform brings it.
        Supplied "supplied"
        /// What was not read may bring it.
        Assumed "assumed"
        /// Not found, and optional.
        Absent "absent"
        /// Not found.
        Missing "missing"
        /// Offered, but not under the key.
        MissingKey "missing-key"
        /// Nothing says which is meant.
        Ambiguous "ambiguous"
        /// It depends on the stage, or on another finding.
        Unknown "unknown"
    }
}

/// How an edge comes to be.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Link {
    /// A need is met by its far end.
    Need {
        /// The slot it fills.
        slot: String,
        /// What it is aimed at.
        aim: Aim,
        /// Why it gets the far end.
        reason: Reason,
        /// How it is met.
        manner: NeedManner,
    },
    /// The far end carries the tag.
    Carries,
    /// The far end offers the contract.
    Offers,
    /// The far end may be meant by the contract: nothing says which.
    MayBeMeant,
    /// The declaration of the tag says who collects it.
    Collects,
    /// The far end is what the near one wraps.
    Wraps,
}
