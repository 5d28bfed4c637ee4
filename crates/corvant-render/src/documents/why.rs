//! How one thing comes to depend on another, version 1.

use super::terms::{Aim, Gets, Manner, Reason, Thing};
use super::{PROGRAM, Place, Version};
use crate::out::Out;
use corvant_core::answers::terms;
use corvant_core::answers::why::{self, BrokenNeed, ChainLink, Why};
use corvant_core::wiring::Wiring;
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes chains for programs.
pub fn write(why: &Why, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let document = WhyDocument {
        corvant: PROGRAM,
        why: Version,
        from: &why.from,
        to: &why.to,
        count: why.count,
        at_least: why.at_least,
        chains: why.chains.iter().map(|chain| steps(wiring, chain)).collect(),
        nearest: why.nearest.as_ref().map(|nearest| Nearest::new(wiring, nearest)),
    };
    super::write(&document, out)
}

/// Why one thing depends on another, or what comes nearest to that.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "why", deny_unknown_fields)]
pub struct WhyDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    why: Version<1>,
    from: &'a str,
    to: &'a str,
    /// How many chains there are in all.
    count: u64,
    /// Whether there may be more.
    at_least: bool,
    /// The shortest first.
    chains: Vec<Vec<Step<'a>>>,
    /// If there is none: what comes nearest.
    nearest: Option<Nearest<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "step", deny_unknown_fields)]
struct Step<'a> {
    from: Thing<'a>,
    to: Thing<'a>,
    how: Link<'a>,
    /// Whether it is met while building, so that the one cannot be without the other.
    for_building: bool,
    #[serde(flatten)]
    place: Option<Place<'a>>,
}

fn steps<'a>(wiring: &'a Wiring, chain: &'a [ChainLink]) -> Vec<Step<'a>> {
    let steps = chain.iter().map(|link| Step {
        from: (&link.from).into(),
        to: (&link.to).into(),
        how: Link::new(wiring, &link.how),
        for_building: link.is_for_building,
        place: link.place.as_ref().map(|place| Place::new(wiring, place)),
    });
    steps.collect()
}

/// How an edge comes to be.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "link", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Link<'a> {
    Need {
        slot: &'a str,
        aim: Aim<'a>,
        reason: Reason<'a>,
        manner: Manner,
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

impl<'a> Link<'a> {
    fn new(wiring: &'a Wiring, link: &'a terms::Link) -> Self {
        match link {
            terms::Link::Need { slot, aim, reason, manner } => {
                let reason = Reason::new(wiring, reason);
                Self::Need { slot, aim: aim.into(), reason, manner: (*manner).into() }
            }
            terms::Link::Carries => Self::Carries,
            terms::Link::Offers => Self::Offers,
            terms::Link::MayBeMeant => Self::MayBeMeant,
            terms::Link::Collects => Self::Collects,
            terms::Link::Wraps => Self::Wraps,
        }
    }
}

/// What comes nearest to a chain that is not there.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "nearest", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Nearest<'a> {
    /// It is the other way round.
    Reversed(Vec<Step<'a>>),
    /// The way ends at a need that could lead on, and does not.
    BreaksOff { chain: Vec<Step<'a>>, need: Box<BrokenNeedDocument<'a>> },
    /// Nothing leads near: how many things the one reaches, and how many come to the other.
    Apart { reached: usize, users: usize },
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "broken_need", deny_unknown_fields)]
struct BrokenNeedDocument<'a> {
    holder: Thing<'a>,
    slot: &'a str,
    aim: Aim<'a>,
    gets: Gets<'a>,
    #[serde(flatten)]
    place: Place<'a>,
}

impl<'a> BrokenNeedDocument<'a> {
    fn new(wiring: &'a Wiring, need: &'a BrokenNeed) -> Self {
        Self {
            holder: (&need.holder).into(),
            slot: &need.slot,
            aim: (&need.aim).into(),
            gets: Gets::new(wiring, &need.gets),
            place: Place::new(wiring, &need.place),
        }
    }
}

impl<'a> Nearest<'a> {
    fn new(wiring: &'a Wiring, nearest: &'a why::Nearest) -> Self {
        match nearest {
            why::Nearest::Reversed(chain) => Self::Reversed(steps(wiring, chain)),
            why::Nearest::BreaksOff { chain, need } => Self::BreaksOff {
                chain: steps(wiring, chain),
                need: Box::new(BrokenNeedDocument::new(wiring, need)),
            },
            why::Nearest::Apart { reached, users } => Self::Apart { reached: *reached, users: *users },
        }
    }
}
