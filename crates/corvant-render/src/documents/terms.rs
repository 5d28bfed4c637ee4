//! What answers are made of, as JSON.

use super::{Place, Worded};
use corvant_core::answers::terms::{self, ReasonKind, ThingKind};
use corvant_core::facts::Via;
use corvant_core::wiring::Wiring;
use schemars::JsonSchema;
use serde::Serialize;

/// A node of the graph.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "thing", deny_unknown_fields)]
pub(crate) struct Thing<'a> {
    kind: Worded<ThingKind>,
    /// The id; of all that carry a tag the tag, of all that offer a contract the contract.
    name: &'a str,
    /// Of a contract that several claim, the key under which it is needed.
    #[serde(skip_serializing_if = "Option::is_none")]
    key: Option<&'a str>,
}

impl<'a> From<&'a terms::Thing> for Thing<'a> {
    fn from(thing: &'a terms::Thing) -> Self {
        Self { kind: Worded(thing.kind), name: &thing.name, key: thing.key.as_deref() }
    }
}

/// What a need is aimed at.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "aim", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Aim<'a> {
    /// A service, by id.
    Service(&'a str),
    /// A service that offers a contract, perhaps under a key.
    Contract {
        name: &'a str,
        #[serde(skip_serializing_if = "Option::is_none")]
        key: Option<&'a str>,
    },
    /// All services that offer a contract.
    All(&'a str),
    /// All services that carry a tag.
    Tag(&'a str),
    /// A setting.
    Setting(&'a str),
    /// What the service wraps.
    Wrapped,
}

impl<'a> From<&'a terms::Aim> for Aim<'a> {
    fn from(aim: &'a terms::Aim) -> Self {
        match aim {
            terms::Aim::Service(name) => Self::Service(name),
            terms::Aim::Contract(name, key) => Self::Contract { name, key: key.as_deref() },
            terms::Aim::All(name) => Self::All(name),
            terms::Aim::Tag(name) => Self::Tag(name),
            terms::Aim::Setting(name) => Self::Setting(name),
            terms::Aim::Wrapped => Self::Wrapped,
        }
    }
}

/// How a need is met, beside the plain way.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "manner", deny_unknown_fields)]
pub(crate) struct Manner {
    lazy: bool,
    optional: bool,
    via: Worded<Via>,
}

impl From<terms::NeedManner> for Manner {
    fn from(manner: terms::NeedManner) -> Self {
        Self { lazy: manner.lazy, optional: manner.optional, via: Worded(manner.via) }
    }
}

/// What a need gets.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "gets", deny_unknown_fields)]
pub(crate) struct Gets<'a> {
    /// The service; null: it is not one service.
    service: Option<&'a str>,
    reason: Reason<'a>,
}

impl<'a> Gets<'a> {
    pub(crate) fn new(wiring: &'a Wiring, gets: &'a terms::Gets) -> Self {
        Self { service: gets.service.as_deref(), reason: Reason::new(wiring, &gets.reason) }
    }
}

/// Why a need gets what it gets, or gets nothing.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "reason", deny_unknown_fields)]
pub(crate) struct Reason<'a> {
    kind: Worded<ReasonKind>,
    /// The alias, the key, or what is wrapped or replaced.
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<&'a str>,
    /// How many there are.
    #[serde(skip_serializing_if = "Option::is_none")]
    count: Option<usize>,
    /// Where that is said.
    #[serde(skip_serializing_if = "Option::is_none")]
    at: Option<Place<'a>>,
}

impl<'a> Reason<'a> {
    pub(crate) fn new(wiring: &'a Wiring, reason: &'a terms::Reason) -> Self {
        use terms::Reason as R;
        let (name, count, at) = match reason {
            R::Alias(name) | R::Wraps(name) | R::Replaces(name) | R::Key(name) => {
                (Some(name.as_str()), None, None)
            }
            R::Default(count) | R::Carried(count) | R::Offered(count) | R::Ambiguous(count) => {
                (None, Some(*count), None)
            }
            R::Chosen(place) => (None, None, Some(Place::new(wiring, place))),
            _ => (None, None, None),
        };
        Self { kind: Worded(reason.kind()), name, count, at }
    }
}
