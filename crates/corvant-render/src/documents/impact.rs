//! What stops working if something goes, version 1.

use super::terms::{Aim, Manner, Thing};
use super::{Each, PROGRAM, Place, Version};
use crate::out::Out;
use corvant_core::answers::impact::{self, Affected, HandedOut, Impact, StageImpact};
use corvant_core::wiring::Wiring;
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes an impact for programs.
pub fn write(impact: &Impact, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let list = |list| Each::new(list, |affected| AffectedDocument::new(wiring, affected));
    let modules = impact.modules.iter().map(|(module, failing)| ModuleCount { module, failing: *failing });
    let document = ImpactDocument {
        corvant: PROGRAM,
        impact: Version,
        gone: &impact.gone,
        fails_at_start_up: list(&impact.start_up),
        fails_at_first_use: list(&impact.entries),
        cannot_be_built: list(&impact.services),
        gets_another: list(&impact.replaced),
        goes_on_without: list(&impact.loses),
        fails_already: list(&impact.failing_already),
        handed_out: impact.handed_out.iter().map(HandedOutDocument::new).collect(),
        modules: modules.collect(),
        stages: impact.stages.iter().map(StageDocument::new).collect(),
    };
    super::write(&document, out)
}

type List<'a> = Each<'a, Affected, AffectedDocument<'a>>;

/// What stops working, and what only changes, if some things were not there.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "impact", deny_unknown_fields)]
pub struct ImpactDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    impact: Version<1>,
    gone: &'a [String],
    fails_at_start_up: List<'a>,
    fails_at_first_use: List<'a>,
    cannot_be_built: List<'a>,
    gets_another: List<'a>,
    goes_on_without: List<'a>,
    /// What needs what is gone and fails as it is, for another reason.
    fails_already: List<'a>,
    /// What a standard hands out at run time to whoever asks, and what is left of it.
    handed_out: Vec<HandedOutDocument<'a>>,
    /// Modules with the number of things in them that fail.
    modules: Vec<ModuleCount<'a>>,
    /// Stages in which it is otherwise than with none chosen.
    stages: Vec<StageDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "handed_out", deny_unknown_fields)]
struct HandedOutDocument<'a> {
    contract: &'a str,
    /// Null: whoever asks gets all of them, whatever their keys.
    key: Option<&'a str>,
    /// How many others are left.
    left: usize,
}

impl<'a> HandedOutDocument<'a> {
    fn new(handed_out: &'a HandedOut) -> Self {
        let HandedOut { contract, key, left } = handed_out;
        Self { contract, key: key.as_deref(), left: *left }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "module", deny_unknown_fields)]
struct ModuleCount<'a> {
    module: &'a str,
    failing: usize,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "stage", deny_unknown_fields)]
struct StageDocument<'a> {
    stage: &'a str,
    fails_too: Vec<Thing<'a>>,
    does_not_fail: Vec<Thing<'a>>,
}

impl<'a> StageDocument<'a> {
    fn new(stage: &'a StageImpact) -> Self {
        Self {
            stage: &stage.stage,
            fails_too: stage.fails_too.iter().map(Into::into).collect(),
            does_not_fail: stage.does_not_fail.iter().map(Into::into).collect(),
        }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "affected", deny_unknown_fields)]
struct AffectedDocument<'a> {
    name: &'a str,
    module: &'a str,
    how: Effect<'a>,
    #[serde(flatten)]
    place: Option<Place<'a>>,
}

impl<'a> AffectedDocument<'a> {
    fn new(wiring: &'a Wiring, affected: &'a Affected) -> Self {
        Self {
            name: &affected.name,
            module: &affected.module,
            how: (&affected.how).into(),
            place: affected.place.as_ref().map(|place| Place::new(wiring, place)),
        }
    }
}

/// How something comes to be affected.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "effect", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Effect<'a> {
    /// It needs something that is gone or fails; `later`: it is built all the same, and fails at first use.
    Needs { what: Lost<'a>, manner: Manner, later: bool },
    /// It names something that is not there any more.
    NamesWhatIsGone,
    /// It needs what is gone, and fails as it is.
    FailsAlready,
    /// It would get another service.
    GetsService(&'a str),
    /// It would get what the host platform brings.
    GetsSupplied,
    /// It goes on without something that is optional.
    GoesWithout(Lost<'a>),
    /// It collects fewer: without these.
    CollectsFewer(Vec<Thing<'a>>),
}

impl<'a> From<&'a impact::Effect> for Effect<'a> {
    fn from(effect: &'a impact::Effect) -> Self {
        use impact::Effect as E;
        match effect {
            E::Needs { what, manner, later } => {
                Self::Needs { what: what.into(), manner: (*manner).into(), later: *later }
            }
            E::NamesWhatIsGone => Self::NamesWhatIsGone,
            E::FailsAlready => Self::FailsAlready,
            E::GetsService(service) => Self::GetsService(service),
            E::GetsSupplied => Self::GetsSupplied,
            E::GoesWithout(what) => Self::GoesWithout(what.into()),
            E::CollectsFewer(gone) => Self::CollectsFewer(gone.iter().map(Into::into).collect()),
        }
    }
}

/// What is needed and gone: a thing, or what the need is aimed at where that was no single thing.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "lost", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Lost<'a> {
    Thing(Thing<'a>),
    Aim(Aim<'a>),
}

impl<'a> From<&'a impact::Lost> for Lost<'a> {
    fn from(lost: &'a impact::Lost) -> Self {
        match lost {
            impact::Lost::Thing(thing) => Self::Thing(thing.into()),
            impact::Lost::Aim(aim) => Self::Aim(aim.into()),
        }
    }
}
