//! What is another than before, version 1.

use super::report::{FindingDocument, FixDocument};
use super::terms::{Aim, Thing};
use super::{Each, PROGRAM, Place, Version, Worded};
use crate::changes::{Compared, Side, SupposedChange};
use crate::out::Out;
use corvant_core::answers::Kind;
use corvant_core::compare::{
    self, Aspect, DefinitionChange, Effect, EffectKind, FindingChange, Turn, Unseen, Which,
};
use corvant_core::finding::{BlindSpotKind, Severity};
use corvant_core::source;
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes changes for programs.
pub fn write(compared: Compared<'_>, out: &mut Out<'_>) -> io::Result<()> {
    super::write(&ComparisonDocument::new(&compared), out)
}

/// What is another in one state of a workspace than in the one before.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "compare", deny_unknown_fields)]
pub struct ComparisonDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    compare: Version<1>,
    /// The state before: a folder or a revision, as it was given.
    old: &'a str,
    /// The state now.
    new: &'a str,
    summary: SummaryNumbers,
    findings: FindingsDocument<'a>,
    /// Definitions that are new, gone or another, by kind and name.
    definitions: Each<'a, DefinitionChange, DefinitionDocument<'a>>,
    /// What follows from that.
    effects: Each<'a, Effect, EffectDocument<'a>>,
    /// Changes that nobody has made, of which the state now comes; absent: both states are there.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    supposed: Vec<SupposedDocument<'a>>,
    /// What could not be seen: what is new or gone because of it cannot be told.
    blind_spots: Each<'a, Unseen, UnseenDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "supposed", deny_unknown_fields)]
struct SupposedDocument<'a> {
    /// How it was asked for.
    change: &'a str,
    /// The edits that would make it so; null: none are certain.
    fix: Option<FixDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "summary", deny_unknown_fields)]
struct SummaryNumbers {
    new_findings: usize,
    /// More severe than before, or in more stages.
    worse_findings: usize,
    better_findings: usize,
    gone_findings: usize,
    same_findings: usize,
    definitions: usize,
    effects: usize,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "findings", deny_unknown_fields)]
struct FindingsDocument<'a> {
    new: Each<'a, FindingChange, ChangedFinding<'a>>,
    worse: Each<'a, FindingChange, ChangedFinding<'a>>,
    better: Each<'a, FindingChange, ChangedFinding<'a>>,
    /// As they were: with places in the state before.
    gone: Each<'a, FindingChange, ChangedFinding<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "changed_finding", deny_unknown_fields)]
struct ChangedFinding<'a> {
    /// How severe it was, if it was there.
    #[serde(skip_serializing_if = "Option::is_none")]
    was: Option<Worded<Severity>>,
    finding: FindingDocument<'a>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "definition_change", deny_unknown_fields)]
struct DefinitionDocument<'a> {
    kind: Worded<Kind>,
    name: &'a str,
    change: TurnWord,
    /// What it was called.
    #[serde(skip_serializing_if = "Option::is_none")]
    formerly: Option<&'a str>,
    /// The module that defines it, or did.
    module: &'a str,
    /// Where it was defined.
    #[serde(skip_serializing_if = "Option::is_none")]
    before: Option<Place<'a>>,
    /// Where it is defined.
    #[serde(skip_serializing_if = "Option::is_none")]
    after: Option<Place<'a>>,
    /// What it says otherwise; of what is new or gone all that it says.
    parts: Vec<PartDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "turn")]
#[serde(rename_all = "snake_case")]
enum TurnWord {
    New,
    Gone,
    Renamed,
    Changed,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "part", deny_unknown_fields)]
struct PartDocument<'a> {
    aspect: Worded<Aspect>,
    /// Which of several: a slot, a tag, a contract, a stage; empty: there is one.
    item: &'a str,
    /// Null: nothing was said.
    before: Option<Value<'a>>,
    /// Null: nothing is said.
    after: Option<Value<'a>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    before_place: Option<Place<'a>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    after_place: Option<Place<'a>>,
}

/// What a part says.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "value", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Value<'a> {
    Yes,
    Name(&'a str),
    Need {
        aim: Aim<'a>,
        lazy: bool,
        optional: bool,
        via: &'a str,
    },
    /// The value of a setting; null: values are not shown.
    Setting(Option<&'a str>),
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "unseen", deny_unknown_fields)]
struct UnseenDocument<'a> {
    /// In which of the two states.
    state: Worded<Which>,
    kind: Worded<BlindSpotKind>,
    subject: &'a str,
    message: &'a str,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "effect", deny_unknown_fields)]
struct EffectDocument<'a> {
    kind: Worded<EffectKind>,
    /// The contract, setting, tag, service or entry; of providers empty.
    subject: &'a str,
    /// The key of a contract.
    #[serde(skip_serializing_if = "Option::is_none")]
    key: Option<&'a str>,
    /// Whether it is so in every stage, and with none chosen.
    everywhere: bool,
    /// The stages in which it is so.
    stages: &'a [String],
    /// Whether it is so where no stage is chosen, or in the one that was asked for.
    none_chosen: bool,
    before: Outcome<'a>,
    after: Outcome<'a>,
    /// Who asks for it, the first few.
    asked_for_by: Vec<Thing<'a>>,
    /// How many more ask for it.
    more: usize,
}

/// What something comes to.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "outcome", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Outcome<'a> {
    Nothing,
    Name(&'a str),
    /// So many, of which nothing says which is meant.
    Unsettled(usize),
    /// In this order; of what an entry uses those that the other side has not.
    Names(&'a [String]),
    /// The value of a setting; null: values are not shown.
    Setting(Option<&'a str>),
}

impl<'a> ComparisonDocument<'a> {
    fn new(compared: &Compared<'a>) -> Self {
        let Compared { old, new, comparison, with_values, supposed } = *compared;
        let findings = &comparison.findings;
        Self {
            corvant: PROGRAM,
            compare: Version,
            old: old.name,
            new: new.name,
            summary: SummaryNumbers {
                new_findings: findings.new.len(),
                worse_findings: findings.worse.len(),
                better_findings: findings.better.len(),
                gone_findings: findings.gone.len(),
                same_findings: findings.same,
                definitions: comparison.definitions.len(),
                effects: comparison.effects.len(),
            },
            findings: FindingsDocument {
                new: changed(&findings.new, new),
                worse: changed(&findings.worse, new),
                better: changed(&findings.better, new),
                gone: changed(&findings.gone, old),
            },
            definitions: Each::new(&comparison.definitions, move |change| {
                DefinitionDocument::new(change, old, new, with_values)
            }),
            effects: Each::new(&comparison.effects, move |effect| EffectDocument::new(effect, with_values)),
            supposed: supposed.changes.iter().map(|change| SupposedDocument::new(change, old)).collect(),
            blind_spots: Each::new(&comparison.unseen, |Unseen { state, spot }| UnseenDocument {
                state: Worded(*state),
                kind: Worded(spot.kind),
                subject: &spot.subject,
                message: &spot.message,
            }),
        }
    }
}

fn changed<'a>(changes: &'a [FindingChange], side: Side<'a>) -> Each<'a, FindingChange, ChangedFinding<'a>> {
    Each::new(changes, move |change| ChangedFinding {
        was: change.was.map(Worded),
        finding: FindingDocument::new(side.wiring, &side.report.findings[change.number]),
    })
}

impl<'a> SupposedDocument<'a> {
    fn new(change: &'a SupposedChange, old: Side<'a>) -> Self {
        let fix = change.fix.as_ref().filter(|fix| !fix.edits.is_empty());
        Self { change: &change.asked, fix: fix.map(|fix| FixDocument::new(old.wiring, fix)) }
    }
}

impl<'a> DefinitionDocument<'a> {
    fn new(change: &'a DefinitionChange, old: Side<'a>, new: Side<'a>, with_values: bool) -> Self {
        let (turn, formerly) = match &change.turn {
            Turn::New => (TurnWord::New, None),
            Turn::Gone => (TurnWord::Gone, None),
            Turn::Renamed { from } => (TurnWord::Renamed, Some(from.as_str())),
            Turn::Changed => (TurnWord::Changed, None),
        };
        let was = |place: Option<&source::Place>| place.map(|place| Place::new(old.wiring, place));
        let is = |place: Option<&source::Place>| place.map(|place| Place::new(new.wiring, place));
        let part = |part: &'a compare::PartChange| PartDocument {
            aspect: Worded(part.aspect),
            item: &part.item,
            before: part.before.as_ref().map(|value| Value::new(value, with_values)),
            after: part.after.as_ref().map(|value| Value::new(value, with_values)),
            before_place: was(part.places.0.as_ref()),
            after_place: is(part.places.1.as_ref()),
        };
        Self {
            kind: Worded(change.kind),
            name: &change.name,
            change: turn,
            formerly,
            module: &change.module,
            before: was(change.before.as_ref()),
            after: is(change.after.as_ref()),
            parts: change.parts.iter().map(part).collect(),
        }
    }
}

impl<'a> Value<'a> {
    fn new(value: &'a compare::Value, with_values: bool) -> Self {
        match value {
            compare::Value::Yes => Self::Yes,
            compare::Value::Name(name) => Self::Name(name),
            compare::Value::Need { aim, lazy, optional, via } => {
                Self::Need { aim: aim.into(), lazy: *lazy, optional: *optional, via }
            }
            compare::Value::Text(text) => Self::Setting(with_values.then_some(text)),
        }
    }
}

impl<'a> EffectDocument<'a> {
    fn new(effect: &'a Effect, with_values: bool) -> Self {
        let outcome = |outcome: &'a compare::Outcome| match outcome {
            compare::Outcome::Nothing => Outcome::Nothing,
            compare::Outcome::Name(name) => Outcome::Name(name),
            compare::Outcome::Unsettled(count) => Outcome::Unsettled(*count),
            compare::Outcome::Names(names) => Outcome::Names(names),
            compare::Outcome::Text(text) => Outcome::Setting(with_values.then_some(text)),
        };
        Self {
            kind: Worded(effect.kind),
            subject: &effect.subject,
            key: effect.key.as_deref(),
            everywhere: effect.everywhere,
            stages: &effect.stages,
            none_chosen: effect.none_chosen,
            before: outcome(&effect.before),
            after: outcome(&effect.after),
            asked_for_by: effect.whom.iter().map(Into::into).collect(),
            more: effect.more,
        }
    }
}
