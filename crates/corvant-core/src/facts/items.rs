//! The things a manifest can say, one struct each.

use super::fields::fields;
use super::{Many, Named, OfStandard, Parts};
use crate::finding::{Action, Change, Value};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::word::words;

fields! {
    /// A service definition.
    #[derive(Clone, Copy, Debug)]
    #[allow(clippy::struct_excessive_bools, reason = "each is a field of the format")]
    pub struct Service {
        /// Where it is defined.
        pub source: SourceIndex,
        /// Its id.
        pub id: Named,
        /// The class, struct or object it is built from.
        pub type_name: Option<Named>,
        /// The contracts it offers.
        pub offers: Many<Named>,
        /// The key it offers them under.
        pub key: Option<Named>,
        /// Whether it wins over other candidates of its contracts.
        pub is_default: bool,
        /// How long an instance lives.
        pub lifetime: Option<Named>,
        /// Whether only its own module may need it.
        pub internal: bool,
        /// What it needs; a factory it is built by is one of the needs.
        pub needs: Many<Need>,
        /// Whether anything is said of its needs, be it that it has none.
        pub needs_given: bool,
        /// The tags it carries.
        pub taggings: Many<Tagging>,
        /// The stages it is limited to; empty: every stage.
        pub stages: Many<Named>,
        /// The stages it is not in.
        pub except: Many<Named>,
        /// The stages that others keep it from; they are written there.
        pub kept_from: Many<Named>,
        /// Never built, only inherited.
        pub template: bool,
        /// Takes over from what is defined under its id elsewhere what it does not say itself, and stands in its place.
        pub amends: bool,
        /// Nobody can know what it needs beside what is said.
        pub needs_unknown: bool,
        /// Registered under a condition that nobody can say: it meets needs, and is no fault where it may not be there.
        pub maybe: bool,
        /// Offers its contracts, and stands for its id, only where nothing else does.
        pub yields: bool,
        /// What is filled by types, beside what needs say: [`super::WIRES`].
        pub wire: Option<Named>,
        /// The definition it inherits what it does not say itself.
        pub like: Option<Named>,
        /// Another name for this service.
        pub alias_of: Option<Named>,
        /// The id in whose place it stands, with the old one inside.
        pub wraps: Option<Named>,
        /// The id whose definition it overrides.
        pub replaces: Option<Named>,
        /// What open standards alone say.
        pub of_standard: OfStandard,
    }
}

impl Service {
    /// Whether it is a definition of something that can be built: no alias, no template.
    pub fn may_be_built(&self) -> bool {
        self.alias_of.is_none() && !self.template
    }

    /// Whether it gives way to any other definition that does not.
    pub fn gives_way(&self) -> bool {
        self.maybe || self.yields
    }

    /// Whether it overrides other definitions of its own id.
    pub fn overrides_itself(&self) -> bool {
        self.replaces.is_some_and(|replaced| replaced.name == self.id.name)
    }

    /// Whether it is in a stage; `None`: with none chosen.
    pub fn is_in(&self, stage: Option<Name>, parts: &Parts) -> bool {
        if !self.is_limited() {
            return true;
        }
        let names_it = |stages: Many<Named>| stages.of(parts).iter().any(|limit| Some(limit.name) == stage);
        !names_it(self.except)
            && !names_it(self.kept_from)
            && (self.stages.is_empty() || names_it(self.stages))
    }

    /// Whether what stands at a place of its file is taken over from a definition elsewhere.
    pub fn takes_over_at(&self, span: Span) -> bool {
        self.amends && span == self.id.span || self.like.is_some_and(|like| like.span == span)
    }

    /// Whether it is in some stages and not in others.
    pub fn is_limited(&self) -> bool {
        !self.stages.is_empty() || !self.except.is_empty() || !self.kept_from.is_empty()
    }

    /// Whether it says what another id stands for, or stands for another itself.
    pub fn is_linked(&self) -> bool {
        self.alias_of.is_some() || self.wraps.is_some() || self.replaces.is_some()
    }

    /// A definition that says nothing but its id.
    pub fn new(id: Named) -> Self {
        Self {
            source: SourceIndex::default(),
            id,
            type_name: None,
            offers: Many::default(),
            key: None,
            is_default: false,
            lifetime: None,
            internal: false,
            needs: Many::default(),
            needs_given: false,
            taggings: Many::default(),
            stages: Many::default(),
            except: Many::default(),
            kept_from: Many::default(),
            template: false,
            amends: false,
            needs_unknown: false,
            maybe: false,
            yields: false,
            wire: None,
            like: None,
            alias_of: None,
            wraps: None,
            replaces: None,
            of_standard: OfStandard::default(),
        }
    }
}

words! {
    /// How a need is met by the code that has it.
    #[derive(Default)]
    Via {
        /// An argument of the constructor.
        #[default]
        Constructor "constructor"
        /// A call after construction.
        Setter "setter"
        /// An assignment after construction.
        Property "property"
        /// An argument of the factory, or the factory itself.
        Factory "factory"
        /// A look-up by name at run time.
        LookUp "look-up"
    }
}

/// What a need is aimed at.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Target {
    /// A service by id.
    Service(Name),
    /// A contract; the need may have a key.
    Contract(Name),
    /// All services that offer a contract.
    All(Name),
    /// All services that carry a tag.
    Tag(Name),
    /// A setting.
    Setting(Name),
    /// The service that a wrapper wraps.
    Wrapped,
}

fields! {
    /// One dependency.
    #[derive(Clone, Copy, Debug)]
    pub struct Need {
        /// Where it is written (a template's needs stay the template's).
        pub source: SourceIndex,
        /// The slot it fills.
        pub slot: Named,
        /// What it is aimed at.
        pub target: Target,
        /// Where the target is written.
        pub span: Span,
        /// The key, for a contract.
        pub key: Option<Named>,
        /// How it is met.
        pub via: Via,
        /// The setter or factory method.
        pub method: Option<Named>,
        /// Whether it may be absent.
        pub optional: bool,
        /// Whether it is resolved on first use, not while building.
        pub lazy: bool,
        /// Whether it follows from the type of a parameter.
        pub by_type: bool,
        /// Whether it is looked up again and again, in a loop.
        pub is_repeated: bool,
        /// Of a provider that registers while it runs: how many of what it registers come before; else [`Need::UNORDERED`].
        pub registered_before: u32,
    }
}

impl Need {
    /// Nobody knows what is registered before it.
    pub const UNORDERED: u32 = u32::MAX;

    /// The change after which it is no longer met while its holder is built.
    pub(crate) fn made_lazy(&self) -> Change {
        Change::new(self.source, self.slot.span, Action::Give("lazy", Value::Flag(true)))
    }

    /// What it fills: two needs fill one slot if they are called the same and filled in the same way. A setter is
    /// another way for each method; a definition has one factory, whatever its method.
    pub(crate) fn filled(&self) -> (Name, Via, Option<Name>) {
        let method = self.method.filter(|_| self.via != Via::Factory);
        (self.slot.name, self.via, method.map(|method| method.name))
    }

    /// Whether the target must be there before the holder is built: neither lazy nor set afterwards.
    pub fn is_for_building(&self) -> bool {
        !self.lazy && matches!(self.via, Via::Constructor | Via::Factory)
    }
}

fields! {
    /// A tag on a service.
    #[derive(Clone, Copy, Debug)]
    pub struct Tagging {
        /// Where it is written.
        pub source: SourceIndex,
        /// The tag.
        pub tag: Named,
        /// Its attributes.
        pub attributes: Many<Attribute>,
    }
}

words! {
    /// Kinds of plain values.
    Scalar {
        Text "text"
        /// A whole number.
        Integer "integer"
        /// A number with a fraction or exponent.
        Number "number"
        /// True or false.
        Boolean "boolean"
    }
}

fields! {
    /// An attribute of a tag on a service.
    #[derive(Clone, Copy, Debug)]
    pub struct Attribute {
        /// The attribute.
        pub attribute: Named,
        /// The value as text.
        pub value: Named,
        /// The kind of value it is.
        pub kind: Scalar,
    }
}

fields! {
    /// A tag declaration.
    #[derive(Clone, Copy, Debug)]
    pub struct Tag {
        /// Where it is declared.
        pub source: SourceIndex,
        /// The tag.
        pub tag: Named,
        /// What every carrier must offer.
        pub contract: Option<Named>,
        /// Whether every service that offers the contract must carry the tag.
        pub carried_by_all: bool,
        /// The service that collects it without a need on the tag.
        pub collected_by: Option<Named>,
        /// How many must carry it.
        pub at_least: u32,
        /// What is said of its attributes; `None`: nothing, so nothing is checked.
        pub attributes: Option<Many<AttributeRule>>,
    }
}

fields! {
    /// What a tag declaration says of one attribute.
    #[derive(Clone, Copy, Debug)]
    pub struct AttributeRule {
        /// The attribute.
        pub attribute: Named,
        /// The kind its value must have.
        pub kind: Option<Scalar>,
        /// Whether every carrier must give it.
        pub required: bool,
        /// Whether no two carriers may give the same value.
        pub unique: bool,
        /// The values allowed; empty: any.
        pub one_of: Many<Named>,
    }
}

fields! {
    /// A contract declaration.
    #[derive(Clone, Copy, Debug)]
    pub struct Contract {
        /// Where it is declared.
        pub source: SourceIndex,
        /// The contract.
        pub contract: Named,
        /// Contracts that are offered with this one.
        pub extends: Many<Named>,
        /// How it is meant to be consumed: one, key or all.
        pub meant_for: Option<(MeantFor, Span)>,
        /// The closed list of keys, where there is one.
        pub keys: Many<Named>,
    }
}

fields! {
    /// A configuration value.
    #[derive(Clone, Copy, Debug)]
    pub struct Setting {
        /// Where it is written.
        pub source: SourceIndex,
        /// The setting.
        pub setting: Named,
        /// Its value for every stage, if it has one, as a plain text.
        pub value: Option<Named>,
        /// Settings that the value refers to.
        pub references: Many<Named>,
        /// Values in single stages.
        pub stages: Many<StageValue>,
        /// Whether some stage must give it.
        pub required: bool,
    }
}

fields! {
    /// A setting's value in one stage.
    #[derive(Clone, Copy, Debug)]
    pub struct StageValue {
        /// The stage.
        pub stage: Named,
        /// The value, as a plain text.
        pub value: Named,
        /// Settings that the value refers to.
        pub references: Many<Named>,
    }
}

fields! {
    /// Which service a contract, or one key of it, gets.
    #[derive(Clone, Copy, Debug)]
    pub struct Choice {
        /// Where it is recorded.
        pub source: SourceIndex,
        /// The contract.
        pub contract: Named,
        /// The key, or `None` for needs without one.
        pub key: Option<Named>,
        /// The service.
        pub service: Named,
        /// The only service that it holds for, by its id or its type; `None`: for all.
        pub holder: Option<Named>,
        /// The stage it holds in; `None`: every stage that has no choice of its own.
        pub stage: Option<Name>,
    }
}

fields! {
    /// Start-up code that registers services, and may use some.
    #[derive(Clone, Copy, Debug)]
    pub struct Provider {
        /// Where it is defined.
        pub source: SourceIndex,
        /// Its id.
        pub id: Named,
        /// Its type.
        pub type_name: Option<Named>,
        /// What it registers; `None`: all services of its module.
        pub registers: Option<Many<Named>>,
        /// What it uses while registering.
        pub register: Many<Need>,
        /// What it uses after all have registered.
        pub start: Many<Need>,
        /// Providers that must have run before.
        pub after: Many<Named>,
    }
}

fields! {
    /// The ordered list of the providers that the application really loads.
    #[derive(Clone, Copy, Debug)]
    pub struct Roster {
        /// Where it is written.
        pub source: SourceIndex,
        /// The stage it holds in; `None`: every stage that has no roster of its own.
        pub stage: Option<Name>,
        /// Whether all that it lists could be read.
        pub is_whole: bool,
        /// The providers.
        pub providers: Many<Named>,
    }
}

fields! {
    /// Something outside the wiring that uses it.
    #[derive(Clone, Copy, Debug)]
    pub struct Entry {
        /// Where it is defined.
        pub source: SourceIndex,
        /// Its id.
        pub id: Named,
        /// Its type.
        pub type_name: Option<Named>,
        /// How it is reached, in words of the team's own.
        pub at: Option<Name>,
        /// How long it lives.
        pub lifetime: Option<Named>,
        /// What it needs.
        pub needs: Many<Need>,
        /// Whether it is but a place where something is looked up: then it does not say that all entries are named.
        pub is_look_up: bool,
    }
}

words! {
    /// How a contract is meant to be consumed.
    MeantFor {
        /// One service that offers it.
        One "one"
        /// One under each key.
        Key "key"
        /// All services that offer it, whatever their keys.
        All "all"
    }
}

/// Kinds of names that the host platform brings.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum SuppliedKind {
    /// A service.
    Service,
    /// A contract.
    Contract,
    /// A setting.
    Setting,
    /// A tag; the platform collects it.
    Tag,
}

/// What brings a name that no definition has.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum SuppliedBy {
    /// The host platform: a definition, or the standard that is read, says so.
    Platform,
    /// The host platform, by a pattern that the name is like.
    Pattern,
    /// Nothing is said to; code of an open standard that was not looked into may register it.
    UnseenCode,
    /// Nothing is said to; a constructor needs a type that none of the code that was read declares.
    OutsideIndex,
    /// Nothing is said to; a class that registers services names it.
    RegisteringClass(Name),
}

fields! {
    /// A name that the host platform brings, or that unseen code may bring.
    #[derive(Clone, Copy, Debug)]
    pub struct Supplied {
        /// Where that is said.
        pub source: SourceIndex,
        /// What it is.
        pub kind: SuppliedKind,
        /// Its name.
        pub name: Named,
        /// What brings it.
        pub by: SuppliedBy,
    }
}

fields! {
    /// Says that the definitions of an id are not in some stages.
    #[derive(Clone, Copy, Debug)]
    pub struct Removed {
        /// Where it is said.
        pub source: SourceIndex,
        /// The id.
        pub id: Named,
        /// The stages.
        pub stages: Many<Named>,
    }
}

impl Removed {
    /// Whether it holds in a stage; `None`: with none chosen.
    pub fn is_in(&self, stage: Option<Name>, parts: &Parts) -> bool {
        self.stages.of(parts).iter().any(|limit| Some(limit.name) == stage)
    }
}

fields! {
    /// A file that another names, and that must be there.
    #[derive(Clone, Copy, Debug)]
    pub struct Import {
        /// The file that names it.
        pub source: SourceIndex,
        /// The path as it is written.
        pub written: Named,
        /// The path from the root of the workspace.
        pub path: Name,
    }
}

fields! {
    /// A line that states which wiring must hold.
    #[derive(Clone, Copy, Debug)]
    pub struct Expectation {
        /// Where it is written.
        pub source: SourceIndex,
        /// The service it speaks of, if not a contract.
        pub service: Option<Named>,
        /// The contract it speaks of.
        pub contract: Option<Named>,
        /// The key of the contract.
        pub key: Option<Named>,
        /// The service that must meet the contract.
        pub met_by: Option<Named>,
        /// The type it must be built from.
        pub type_name: Option<Named>,
        /// How long it must live.
        pub lifetime: Option<Named>,
    }
}

fields! {
    /// A recorded decision to accept a finding.
    #[derive(Clone, Copy, Debug)]
    pub struct Allowance {
        /// Where it is written.
        pub source: SourceIndex,
        /// The rule.
        pub rule: Named,
        /// The subject.
        pub subject: Named,
        /// Why.
        pub reason: Option<Name>,
        /// The last day it holds, as it is written.
        pub until: Option<Named>,
    }
}
