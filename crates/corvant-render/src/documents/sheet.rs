//! One thing, with all that is known of it, version 1.

use super::terms::{Aim, Gets, Manner, Reason, Thing};
use super::{PROGRAM, Place, Version, Worded};
use crate::out::Out;
use corvant_core::answers::Kind;
use corvant_core::answers::show::{self, Fact, Section, Sheet};
use corvant_core::facts::{MeantFor, Scalar, TypeKind};
use corvant_core::finding::Severity;
use corvant_core::wiring::Wiring;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::ser::SerializeMap;
use serde::{Serialize, Serializer};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::io;

/// Writes a sheet for programs: for each section a list of facts.
pub fn write(sheet: &Sheet, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let document = SheetDocument {
        corvant: PROGRAM,
        show: Version,
        kind: Worded(sheet.kind),
        name: &sheet.name,
        sections: Sections { sheet, wiring },
    };
    super::write(&document, out)
}

/// One thing, with all that is known of it.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "show", deny_unknown_fields)]
pub struct SheetDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    show: Version<1>,
    kind: Worded<Kind>,
    name: &'a str,
    sections: Sections<'a>,
}

/// The facts of a sheet by section; sections without facts are absent.
struct Sections<'a> {
    sheet: &'a Sheet,
    wiring: &'a Wiring,
}

fn field(section: Section) -> String {
    section.word().replace(' ', "_")
}

impl Serialize for Sections<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let sections = self.sheet.sections();
        let mut map = serializer.serialize_map(Some(sections.len()))?;
        for (section, facts) in sections {
            let facts: Vec<_> = facts.into_iter().map(|fact| FactDocument::new(self.wiring, fact)).collect();
            map.serialize_entry(&field(section), &facts)?;
        }
        map.end()
    }
}

impl JsonSchema for Sections<'_> {
    fn schema_name() -> Cow<'static, str> {
        "sections".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        let facts = generator.subschema_for::<Vec<FactDocument<'_>>>();
        let fields: serde_json::Map<_, _> =
            Section::ALL.into_iter().map(|section| (field(section), facts.clone().to_value())).collect();
        json_schema!({ "type": "object", "additionalProperties": false, "properties": fields })
    }
}

/// One fact: what is said, and where it is written.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "fact", deny_unknown_fields)]
struct FactDocument<'a> {
    #[serde(flatten)]
    said: Said<'a>,
    #[serde(flatten)]
    place: Option<Place<'a>>,
}

impl<'a> FactDocument<'a> {
    fn new(wiring: &'a Wiring, fact: &'a Fact) -> Self {
        let place = fact.place.as_ref().map(|place| Place::new(wiring, place));
        Self { said: Said::new(wiring, &fact.said), place }
    }
}

/// What a fact says, by `said`.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "said")]
#[serde(tag = "said", rename_all = "snake_case")]
enum Said<'a> {
    /// It is so.
    Yes,
    /// Nothing is said about it.
    Nothing,
    /// The host platform brings it, or collects it.
    Supplied,
    /// A definition.
    Definition {
        module: &'a str,
        standing: Standing<'a>,
        /// The stages it is limited to.
        stages: &'a [String],
        /// The stages it is not in.
        #[serde(skip_serializing_if = "<[_]>::is_empty")]
        except: &'a [String],
    },
    /// A declaration, or a definition that is the only one of its name.
    Declaration { module: &'a str, required: bool },
    /// A name.
    Name {
        name: &'a str,
        #[serde(skip_serializing_if = "Option::is_none")]
        key: Option<&'a str>,
        /// The model it comes from.
        #[serde(skip_serializing_if = "Option::is_none")]
        from: Option<&'a str>,
        #[serde(skip_serializing_if = "Option::is_none")]
        stage: Option<&'a str>,
    },
    /// What the workspace says of all that say nothing.
    WorkspaceDefault { name: &'a str },
    /// What sort of type something is.
    Sort {
        of: Worded<TypeKind>,
        /// Whether none can be made of it itself.
        is_abstract: bool,
    },
    /// A constructor or method.
    Callable {
        name: &'a str,
        parameters: Vec<Parameter<'a>>,
        /// Null: not known.
        returns: Option<&'a str>,
    },
    /// Names, of which each alone says little.
    Names { names: &'a [String] },
    /// How a contract is meant to be needed.
    MeantFor { by: Worded<MeantFor> },
    /// A contract with one that offers it: the other of the two.
    Offer {
        name: &'a str,
        #[serde(skip_serializing_if = "Option::is_none")]
        key: Option<&'a str>,
        /// Whether it is given to who needs the contract; absent: there is no other, or it has a key.
        #[serde(skip_serializing_if = "Option::is_none")]
        given: Option<Given<'a>>,
    },
    /// A need.
    Need { slot: &'a str, aim: Aim<'a>, gets: Gets<'a>, manner: Manner },
    /// Somebody that needs it.
    User {
        user: Thing<'a>,
        /// Null: not through a need.
        slot: Option<&'a str>,
        /// What it is needed as, if not by its own name.
        #[serde(skip_serializing_if = "Option::is_none")]
        through: Option<Aim<'a>>,
        manner: Manner,
    },
    /// Somebody that needs a name which leads to no single service.
    Asker {
        user: Thing<'a>,
        slot: &'a str,
        #[serde(skip_serializing_if = "Option::is_none")]
        key: Option<&'a str>,
        gets: Gets<'a>,
    },
    /// A contract that may mean it.
    Claim { contract: Thing<'a> },
    /// Something that comes to use it.
    Serves {
        user: Thing<'a>,
        /// Where an entry is reached.
        #[serde(skip_serializing_if = "Option::is_none")]
        at: Option<&'a str>,
    },
    /// More entries come to use it than are named.
    MoreEntries { count: usize, at_least: bool },
    /// A tag that is carried.
    Tag {
        /// The tag, or the carrier where the document is about the tag.
        name: &'a str,
        attributes: BTreeMap<&'a str, &'a str>,
        /// Who collects the tag.
        #[serde(skip_serializing_if = "Option::is_none")]
        collectors: Option<Vec<Thing<'a>>>,
    },
    /// What an attribute of a tag must be.
    Attribute {
        name: &'a str,
        /// Null: any kind.
        kind: Option<Worded<Scalar>>,
        required: bool,
        unique: bool,
    },
    /// The value of a setting as it is written.
    Value {
        text: &'a str,
        #[serde(skip_serializing_if = "Option::is_none")]
        stage: Option<&'a str>,
    },
    /// A service's id leads elsewhere in a stage, or its needs get something else there.
    Differs {
        stage: &'a str,
        #[serde(skip_serializing_if = "Option::is_none")]
        leads: Option<Leads<'a>>,
        slots: Vec<SlotGets<'a>>,
    },
    /// A contract gives another service in a stage; null: nothing that is settled.
    Gives { stage: &'a str, service: Option<&'a str> },
    /// A provider registers all services of a module.
    WholeModule { module: &'a str },
    /// A place on the roster, from 1.
    Number { number: usize },
    /// A finding about it.
    Finding { rule: &'static str, severity: Worded<Severity>, subject: &'a str, message: &'a str },
}

/// A parameter of a constructor or method.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "parameter", deny_unknown_fields)]
struct Parameter<'a> {
    /// Empty: not known.
    name: &'a str,
    /// Null: not known.
    r#type: Option<&'a str>,
    optional: bool,
}

/// What a definition of an id is in a stage.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "standing", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Standing<'a> {
    Counts,
    Template,
    /// The definition that counts.
    Shadowed(Place<'a>),
    Replaced {
        by: &'a str,
        at: Place<'a>,
    },
    Idle,
    /// It is not in this stage.
    Elsewhere,
}

/// Whether one of several that offer a contract is given to who needs it.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "given", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Given<'a> {
    This(Reason<'a>),
    Other {
        service: &'a str,
        reason: Reason<'a>,
    },
    /// Nothing says which of so many is meant.
    Unsettled(usize),
    /// All of so many are handed out to who asks.
    All(usize),
}

/// What an id leads to.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "leads", deny_unknown_fields)]
#[serde(rename_all = "snake_case")]
enum Leads<'a> {
    Nowhere,
    Service { id: &'a str, at: Place<'a> },
}

/// A slot and what it gets.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "slot_gets", deny_unknown_fields)]
struct SlotGets<'a> {
    slot: &'a str,
    gets: Gets<'a>,
}

impl<'a> Said<'a> {
    fn new(wiring: &'a Wiring, said: &'a show::Said) -> Self {
        use show::Said as S;
        match said {
            S::Yes => Self::Yes,
            S::NotSaid => Self::Nothing,
            S::Supplied => Self::Supplied,
            S::Definition { module, standing, stages, except } => {
                Self::Definition { module, standing: Standing::new(wiring, standing), stages, except }
            }
            S::Declaration { module, required } => Self::Declaration { module, required: *required },
            S::Name { name, key, from, stage } => {
                Self::Name { name, key: key.as_deref(), from: from.as_deref(), stage: stage.as_deref() }
            }
            S::Sort { kind, is_abstract } => Self::Sort { of: Worded(*kind), is_abstract: *is_abstract },
            S::Callable { name, parameters, returns } => Self::Callable {
                name,
                parameters: parameters
                    .iter()
                    .map(|one| Parameter {
                        name: &one.name,
                        r#type: one.type_name.as_deref(),
                        optional: one.optional,
                    })
                    .collect(),
                returns: returns.as_deref(),
            },
            S::Names(names) => Self::Names { names },
            S::WorkspaceDefault(name) => Self::WorkspaceDefault { name },
            S::MeantFor(meant) => Self::MeantFor { by: Worded(*meant) },
            S::Offer { name, key, given } => {
                let given = given.as_ref().map(|given| Given::new(wiring, given));
                Self::Offer { name, key: key.as_deref(), given }
            }
            S::Need { slot, aim, gets, manner } => {
                let gets = Gets::new(wiring, gets);
                Self::Need { slot, aim: aim.into(), gets, manner: (*manner).into() }
            }
            S::User { user, slot, through, manner } => Self::User {
                user: user.into(),
                slot: slot.as_deref(),
                through: through.as_ref().map(Into::into),
                manner: (*manner).into(),
            },
            S::Asker { user, slot, key, gets } => {
                let gets = Gets::new(wiring, gets);
                Self::Asker { user: user.into(), slot, key: key.as_deref(), gets }
            }
            S::Claim(contract) => Self::Claim { contract: contract.into() },
            S::Serves { user, at } => Self::Serves { user: user.into(), at: at.as_deref() },
            S::MoreEntries { count, at_least } => Self::MoreEntries { count: *count, at_least: *at_least },
            S::Tag { name, attributes, collectors } => Self::Tag {
                name,
                attributes: attributes.iter().map(|(name, value)| (name.as_str(), value.as_str())).collect(),
                collectors: collectors.as_ref().map(|all| all.iter().map(Into::into).collect()),
            },
            S::Attribute { name, kind, required, unique } => {
                Self::Attribute { name, kind: kind.map(Worded), required: *required, unique: *unique }
            }
            S::Value { text, stage } => Self::Value { text, stage: stage.as_deref() },
            S::Differs { stage, leads, slots } => Self::Differs {
                stage,
                leads: leads.as_ref().map(|leads| Leads::new(wiring, leads)),
                slots: slots
                    .iter()
                    .map(|(slot, gets)| SlotGets { slot, gets: Gets::new(wiring, gets) })
                    .collect(),
            },
            S::Gives { stage, service } => Self::Gives { stage, service: service.as_deref() },
            S::WholeModule(module) => Self::WholeModule { module },
            S::Number(number) => Self::Number { number: *number },
            S::Finding { rule, severity, subject, message } => {
                Self::Finding { rule, severity: Worded(*severity), subject, message }
            }
        }
    }
}

impl<'a> Standing<'a> {
    fn new(wiring: &'a Wiring, standing: &'a show::Standing) -> Self {
        match standing {
            show::Standing::Counts => Self::Counts,
            show::Standing::Template => Self::Template,
            show::Standing::Shadowed { by } => Self::Shadowed(Place::new(wiring, by)),
            show::Standing::Replaced { by, at } => Self::Replaced { by, at: Place::new(wiring, at) },
            show::Standing::Idle => Self::Idle,
            show::Standing::Elsewhere => Self::Elsewhere,
        }
    }
}

impl<'a> Given<'a> {
    fn new(wiring: &'a Wiring, given: &'a show::Given) -> Self {
        match given {
            show::Given::This(reason) => Self::This(Reason::new(wiring, reason)),
            show::Given::Other { service, reason } => {
                Self::Other { service, reason: Reason::new(wiring, reason) }
            }
            show::Given::Unsettled(others) => Self::Unsettled(*others),
            show::Given::All(others) => Self::All(*others),
        }
    }
}

impl<'a> Leads<'a> {
    fn new(wiring: &'a Wiring, leads: &'a show::Leads) -> Self {
        match leads {
            show::Leads::Nowhere => Self::Nowhere,
            show::Leads::Service { id, at } => Self::Service { id, at: Place::new(wiring, at) },
        }
    }
}
