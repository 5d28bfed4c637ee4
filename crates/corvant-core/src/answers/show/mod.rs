//! One thing, with all that is known of it: where it is defined, what counts, what it gets, who needs it.

mod definitions;
mod differences;

use super::terms::{Aim, Gets, NeedManner, Reason, Thing};
use super::{Kind, Subject, View};
use crate::audit::Report;
use crate::facts::{
    Attribute, Callable, Many, MeantFor, Named, Need, Scalar, Service, Setting, SuppliedKind, Tagging,
    Target, TypeKind,
};
use crate::finding::Origin;
use crate::finding::{Finding, Severity};
use crate::graph::reach::{ReachSearch, most_work};
use crate::graph::{Edge, Graph, Node, What};
use crate::index::ProviderIndex;
use crate::name::Name;
use crate::resolve::{Lead, Met};
use crate::source::{Place, SourceIndex, Span};
use crate::wiring::{NeedIndex, ServiceIndex, needs_of};
use crate::word::words;
use definitions::{Definitions, listed};
use differences::{Differences, differences};
use foldhash::{HashSet, HashSetExt};
use std::sync::{Arc, PoisonError};

/// What there is to say of one thing.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Sheet {
    /// What it is.
    pub kind: Kind,
    /// What it is called.
    pub name: String,
    /// In the order of their sections' first.
    pub facts: Vec<Fact>,
}

impl Sheet {
    /// The facts by section, each where its first stands; none is empty.
    pub fn sections(&self) -> Vec<(Section, Vec<&Fact>)> {
        let mut sections: Vec<(Section, Vec<&Fact>)> = Vec::new();
        for fact in &self.facts {
            match sections.iter_mut().find(|(section, _)| *section == fact.section) {
                Some((_, facts)) => facts.push(fact),
                None => sections.push((fact.section, vec![fact])),
            }
        }
        sections
    }
}

/// One fact.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Fact {
    /// What it is about.
    pub section: Section,
    /// What is said.
    pub said: Said,
    /// Where it is written.
    pub place: Option<Place>,
}

words! {
    /// What a fact is about, with the word as people read it.
    Section {
        /// Where it is defined.
        Defined "defined"
        /// Where it is declared.
        Declared "declared"
        /// What it is another name of.
        AliasOf "alias of"
        /// What it wraps.
        Wraps "wraps"
        /// What it replaces.
        Replaces "replaces"
        /// Its model.
        Like "like"
        /// What it leads to.
        HandedOutAs "handed out as"
        /// Its other names.
        AlsoCalled "also called"
        Type "type"
        /// What sort of type it is.
        Sort "sort"
        /// The constructors of its type.
        BuiltWith "built with"
        /// The methods of its type.
        Methods "methods"
        /// The marks that a type carries.
        Marks "marks"
        /// Types that say they are of it.
        Below "below"
        /// How long it lives.
        Lifetime "lifetime"
        /// Contracts it offers.
        Offers "offers"
        /// It wins over others.
        Default "default"
        /// It is for its own module.
        Internal "internal"
        /// What it needs.
        Needs "needs"
        /// What it needs in the register phase.
        UsesWhileRegistering "uses while registering"
        /// What it needs in the start phase.
        UsesAtStart "uses at start"
        /// Who needs it.
        NeededBy "needed by"
        /// Contracts that may mean it.
        Claims "claims"
        /// Entries and providers that come to use it.
        Serves "serves"
        /// Tags it carries.
        Tags "tags"
        /// What it is in other stages.
        Differs "differs"
        /// Contracts it is narrower than.
        Extends "extends"
        /// How it is meant to be needed.
        MeantFor "meant for"
        /// Keys it may be needed under.
        Keys "keys"
        /// What is chosen for it.
        Choices "choices"
        /// Who offers it.
        OfferedBy "offered by"
        /// The contract that every carrier offers.
        Offered "offered"
        /// Attributes of a tag.
        Attributes "attributes"
        /// Who carries it, in the order in which they are collected.
        CarriedBy "carried by"
        Value "value"
        /// Settings inside its values.
        RefersTo "refers to"
        /// What a provider registers.
        Registers "registers"
        /// Providers that run before it.
        After "after"
        /// Where on the roster it stands.
        Loaded "loaded"
        /// Files of a module.
        Files "files"
        /// Modules it uses.
        Uses "uses"
        /// Modules that use it.
        UsedBy "used by"
        /// Services of a module.
        Services "services"
        /// Providers of a module.
        Providers "providers"
        /// Entries of a module.
        Entries "entries"
        /// Where an entry is reached.
        At "at"
        /// What is wrong with it.
        Findings "findings"
    }
}

/// What a fact says.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Said {
    /// It is so.
    Yes,
    /// Nothing is said about it.
    NotSaid,
    /// The host platform brings it, or collects it.
    Supplied,
    /// A definition.
    Definition {
        /// The module it is in.
        module: String,
        /// What it is in this stage.
        standing: Standing,
        /// The stages it is limited to.
        stages: Vec<String>,
        /// The stages it is not in.
        except: Vec<String>,
    },
    /// A declaration, or a definition that is the only one of its name.
    Declaration {
        /// The module it is in.
        module: String,
        /// Whether what is declared must have a value.
        required: bool,
    },
    /// A name.
    Name {
        /// The name.
        name: String,
        /// The key with it.
        key: Option<String>,
        /// The model it comes from.
        from: Option<String>,
        /// The stage it holds in.
        stage: Option<String>,
    },
    /// What the workspace says of all that say nothing.
    WorkspaceDefault(String),
    /// What sort of type something is.
    Sort {
        /// The sort.
        kind: TypeKind,
        /// Whether none can be made of it itself.
        is_abstract: bool,
    },
    /// A constructor or method.
    Callable {
        /// Its name.
        name: String,
        /// Its parameters.
        parameters: Vec<Parameter>,
        /// The type that it returns, where that is known.
        returns: Option<String>,
    },
    /// Names, of which each alone says little.
    Names(Vec<String>),
    /// How a contract is meant to be needed.
    MeantFor(MeantFor),
    /// A contract with one that offers it, one of the two being what the sheet is about.
    Offer {
        /// The other of the two.
        name: String,
        /// The key it is offered under.
        key: Option<String>,
        /// Whether it is given to who needs the contract; `None`: there is no other, or it has a key.
        given: Option<Given>,
    },
    /// A need.
    Need {
        /// The slot.
        slot: String,
        /// What it is aimed at.
        aim: Aim,
        /// What it gets, and why.
        gets: Gets,
        /// How it is met.
        manner: NeedManner,
    },
    /// Somebody that needs it.
    User {
        /// Who.
        user: Thing,
        /// Through a need, its slot.
        slot: Option<String>,
        /// What it is needed as, if not by its own name.
        through: Option<Aim>,
        /// How the need is met.
        manner: NeedManner,
    },
    /// Somebody that needs a name which leads to no single service.
    Asker {
        /// Who.
        user: Thing,
        /// The slot of the need.
        slot: String,
        /// The key it asks for.
        key: Option<String>,
        /// What it gets, and why.
        gets: Gets,
    },
    /// A contract that may mean it.
    Claim(Thing),
    /// Something that comes to use it.
    Serves {
        /// What.
        user: Thing,
        /// Where an entry is reached.
        at: Option<String>,
    },
    /// More entries come to use it than are named.
    MoreEntries {
        /// How many.
        count: usize,
        /// Whether there may be more still.
        at_least: bool,
    },
    /// A tag that is carried.
    Tag {
        /// The tag, or the carrier where the sheet is the tag's.
        name: String,
        /// Attributes with their values.
        attributes: Vec<(String, String)>,
        /// Who collects the tag; `None` where the sheet is the tag's.
        collectors: Option<Vec<Thing>>,
    },
    /// What an attribute of a tag must be.
    Attribute {
        /// The attribute.
        name: String,
        /// What kind its values are of; `None`: any.
        kind: Option<Scalar>,
        /// Whether every carrier must have it.
        required: bool,
        /// Whether no two may have the same value.
        unique: bool,
    },
    /// The value of a setting as it is written.
    Value {
        /// The text.
        text: String,
        /// The stage it holds in.
        stage: Option<String>,
    },
    /// A service's id leads elsewhere in a stage, or its needs do.
    Differs {
        /// The stage.
        stage: String,
        /// What the id leads to there, if that is something else.
        leads: Option<Leads>,
        /// Slots that get something else there.
        slots: Vec<(String, Gets)>,
    },
    /// A contract gives another service in a stage.
    Gives {
        /// The stage.
        stage: String,
        /// The service; `None`: nothing that is settled.
        service: Option<String>,
    },
    /// A provider registers all services of a module.
    WholeModule(String),
    /// A place on the roster, from 1.
    Number(usize),
    /// A finding about it.
    Finding {
        /// Its rule.
        rule: &'static str,
        /// How bad it is.
        severity: Severity,
        /// What it is about.
        subject: String,
        /// What is wrong.
        message: String,
    },
}

/// A parameter of a constructor or method.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Parameter {
    /// Its name; empty: it is not known.
    pub name: String,
    /// Its type, where that is known.
    pub type_name: Option<String>,
    /// Whether it may be left out.
    pub optional: bool,
}

/// What a definition of an id is in a stage.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Standing {
    /// The one that counts.
    Counts,
    /// A template, never built.
    Template,
    /// Another definition of the id counts.
    Shadowed {
        /// That one.
        by: Place,
    },
    /// Another definition replaces it.
    Replaced {
        /// The id of that one.
        by: String,
        /// Where it is.
        at: Place,
    },
    /// It does not count.
    Idle,
    /// It is not in this stage.
    Elsewhere,
}

/// Whether one of several that offer a contract is given to who needs it.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Given {
    /// It is.
    This(Reason),
    /// Another is.
    Other {
        /// That one.
        service: String,
        /// Why.
        reason: Reason,
    },
    /// Nothing says which of so many is meant.
    Unsettled(usize),
    /// All of so many are handed out to who asks.
    All(usize),
}

/// What an id leads to.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Leads {
    /// To nothing.
    Nowhere,
    /// To a service.
    Service {
        /// Its id.
        id: String,
        /// Where it is defined.
        at: Place,
    },
}

/// All that is known of a subject in one stage. `report` is the audit's, for findings about it.
pub fn show(view: &View<'_>, subject: Subject, report: &Report) -> Sheet {
    let definitions = Definitions::new(view);
    let mut writer = Writer::new(view, &definitions, true);
    writer.write(subject);
    writer.findings(subject, report);
    writer.sheet(subject)
}

/// Sheets of many subjects, each for no more than it is long itself: what is said of them where they are defined. Who
/// needs what and what is wrong is told by needs, edges and the report for all at once.
#[derive(Debug)]
pub struct Sheets<'v, 'a> {
    view: &'v View<'a>,
    definitions: Definitions,
    differences: Differences,
}

impl<'v, 'a> Sheets<'v, 'a> {
    /// Sheets of what is in a view.
    pub fn new(view: &'v View<'a>) -> Self {
        Self { view, definitions: Definitions::new(view), differences: differences(view) }
    }

    /// What is said of one subject where it is defined.
    pub fn of(&self, subject: Subject) -> Sheet {
        let mut writer = Writer::new(self.view, &self.definitions, false);
        writer.write(subject);
        for said in self.differences.get(&(subject.kind, subject.name)).into_iter().flatten() {
            writer.add(Section::Differs, said.clone(), None);
        }
        writer.sheet(subject)
    }
}

/// Those that offer a contract, and which of them is given.
#[derive(Debug)]
struct Contest {
    candidates: Vec<ServiceIndex>,
    /// Who wins, and by what.
    winner: Option<(ServiceIndex, Reason)>,
    /// Whether who asks at run time gets all of them.
    is_for_all: bool,
}

struct Writer<'v, 'a> {
    view: &'v View<'a>,
    definitions: &'v Definitions,
    /// Whether what follows from others is told too.
    with_relations: bool,
    facts: Vec<Fact>,
    /// What was shown of the thing's own definitions: findings there are about it.
    spans: Vec<(SourceIndex, Span)>,
}

impl<'v, 'a> Writer<'v, 'a> {
    fn new(view: &'v View<'a>, definitions: &'v Definitions, with_relations: bool) -> Self {
        Self { view, definitions, with_relations, facts: Vec::new(), spans: Vec::new() }
    }

    fn write(&mut self, subject: Subject) {
        match subject.kind {
            Kind::Service => self.service(subject.name),
            Kind::Contract => self.contract(subject.name),
            Kind::Tag => self.tag(subject.name),
            Kind::Setting => self.setting(subject.name),
            Kind::Provider => self.provider(subject.name),
            Kind::Module => self.module(subject.name),
            Kind::Entry => self.entry(subject.name),
            Kind::Type => self.declared_type(subject.name),
        }
    }

    fn sheet(self, subject: Subject) -> Sheet {
        Sheet { kind: subject.kind, name: self.view.owned(subject.name), facts: self.facts }
    }

    fn add(&mut self, section: Section, said: Said, place: Option<Place>) {
        self.facts.push(Fact { section, said, place });
    }

    /// Adds a fact that stands in the thing's own definition.
    fn own(&mut self, section: Section, said: Said, source: SourceIndex, span: Span) {
        self.spans.push((source, span));
        self.add(section, said, Some(Place::new(source, span, section.word())));
    }

    /// Adds a name that stands there.
    fn own_name(&mut self, section: Section, source: SourceIndex, named: Named) {
        self.own(section, self.named(named.name), source, named.span);
    }

    fn named(&self, name: Name) -> Said {
        Said::Name { name: self.view.owned(name), key: None, from: None, stage: None }
    }

    fn key(&self, key: Option<Named>) -> Option<String> {
        key.map(|key| self.view.owned(key.name))
    }

    fn module_of(&self, source: SourceIndex) -> String {
        self.view.module_name(source).to_owned()
    }

    fn declared(&mut self, section: Section, source: SourceIndex, span: Span, required: bool) {
        let said = Said::Declaration { module: self.module_of(source), required };
        self.own(section, said, source, span);
    }

    fn service(&mut self, id: Name) {
        let view = self.view;
        let definitions: Vec<(ServiceIndex, &Service)> =
            view.wiring.definitions(id).map(|index| (index, view.wiring.service(index))).collect();
        for &(index, service) in &definitions {
            let texts = |stages: Many<Named>| -> Vec<String> {
                stages.of(&view.wiring.facts.parts).iter().map(|stage| view.owned(stage.name)).collect()
            };
            let said = Said::Definition {
                module: self.module_of(service.source),
                standing: self.standing(index, service),
                stages: texts(service.stages),
                except: [texts(service.except), texts(service.kept_from)].concat(),
            };
            self.own(Section::Defined, said, service.source, service.id.span);
        }
        self.supplied(SuppliedKind::Service, id, Section::Defined);
        let counts = definitions.iter().find(|(index, _)| view.resolution.ids.is_active(*index));
        let Some(&(index, service)) = counts.or(definitions.first()) else {
            self.needed_as(Target::Service(id));
            return;
        };
        self.leads(id, index);
        self.essence(service);
        self.needs(service.needs, Section::Needs);
        self.users(Graph::service(index));
        self.serves(Graph::service(index));
        self.tags(service);
        if self.with_relations {
            self.stages(id);
        }
    }

    /// What a definition of an id is in this stage: the one that counts, or why it does not.
    fn standing(&self, index: ServiceIndex, service: &Service) -> Standing {
        let view = self.view;
        let ids = &view.resolution.ids;
        if service.template {
            Standing::Template
        } else if ids.is_active(index) {
            Standing::Counts
        } else if let Some(&counting) = self.definitions.shadowed.get(&index) {
            Standing::Shadowed { by: self.definition(counting) }
        } else if service.is_in(view.resolution.stage, &view.wiring.facts.parts) {
            match ids.first(service.id.name) {
                Some(first) if first != index => {
                    let by = view.wiring.id(first).to_owned();
                    Standing::Replaced { by, at: self.definition(first) }
                }
                _ => Standing::Idle,
            }
        } else {
            Standing::Elsewhere
        }
    }

    fn definition(&self, service: ServiceIndex) -> Place {
        let service = self.view.wiring.service(service);
        Place::new(service.source, service.id.span, "defined here")
    }

    /// Where the host platform is said to bring something.
    fn supplied(&mut self, kind: SuppliedKind, name: Name, section: Section) {
        for &number in listed(&self.definitions.supplied, &(kind, name)) {
            let supplied = &self.view.wiring.facts.supplied[number];
            self.own(section, Said::Supplied, supplied.source, supplied.name.span);
        }
    }

    /// Where the id leads, if that is not the definition itself.
    fn leads(&mut self, id: Name, index: ServiceIndex) {
        let view = self.view;
        let service = view.wiring.service(index);
        let links = [
            (service.alias_of, Section::AliasOf),
            (service.wraps, Section::Wraps),
            (service.replaces, Section::Replaces),
            (service.like, Section::Like),
        ];
        for (target, section) in links {
            if let Some(target) = target {
                self.own_name(section, service.source, target);
            }
        }
        let end = view.resolution.ids.first(id).map(|first| view.resolution.ids.stand_in(first));
        if let Some(end) = end.filter(|&end| end != index) {
            let said = self.named(view.wiring.service(end).id.name);
            self.add(Section::HandedOutAs, said, view.place(Graph::service(end)));
        }
        for &other in listed(&self.definitions.aliases, &id) {
            let other = view.wiring.service(other);
            let place = Place::new(other.source, other.id.span, "alias");
            self.add(Section::AlsoCalled, self.named(other.id.name), Some(place));
        }
    }

    /// Type, lifetime, contracts, key: with what a template or a default adds.
    fn essence(&mut self, service: &Service) {
        let view = self.view;
        if let Some(type_name) = service.type_name {
            let said = self.given(service, type_name, |service| service.type_name);
            self.own(Section::Type, said, service.source, type_name.span);
            self.type_of_service(type_name);
        }
        match (service.lifetime, &view.wiring.policy.lifetimes.default) {
            (Some(lifetime), _) => {
                let said = self.given(service, lifetime, |service| service.lifetime);
                self.own(Section::Lifetime, said, service.source, lifetime.span);
            }
            (None, Some(default)) => {
                self.add(Section::Lifetime, Said::WorkspaceDefault(default.clone()), None);
            }
            (None, None) => self.add(Section::Lifetime, Said::NotSaid, None),
        }
        for offer in service.offers.of(&view.wiring.facts.parts) {
            let contest = self.contest(offer.name);
            let said = self.offer(offer.name, service, &contest);
            self.own(Section::Offers, said, service.source, offer.span);
        }
        if service.is_default {
            self.add(Section::Default, Said::Yes, None);
        }
        if service.internal {
            self.add(Section::Internal, Said::Yes, None);
        }
    }

    /// A name that a field of a service holds, with the model it comes from.
    fn given(&self, service: &Service, named: Named, field: fn(&Service) -> Option<Named>) -> Said {
        let view = self.view;
        let model = service.like.and_then(|model| view.wiring.first_definition(model.name));
        let model = model.map(|model| view.wiring.service(model));
        let is_taken_over =
            |of: Named| of == named || of.name == named.name && service.takes_over_at(named.span);
        let model = model.filter(|&model| field(model).is_some_and(is_taken_over));
        let from = model.map(|model| view.owned(model.id.name));
        Said::Name { name: view.owned(named.name), key: None, from, stage: None }
    }

    /// Who wins among those that offer a contract; worked out once.
    fn contest(&self, contract: Name) -> Arc<Contest> {
        let known = || self.definitions.contests.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(contest) = known().get(&contract) {
            return Arc::clone(contest);
        }
        let contest = Arc::new(self.work_out(contract));
        known().insert(contract, Arc::clone(&contest));
        contest
    }

    fn work_out(&self, contract: Name) -> Contest {
        let view = self.view;
        let winner = match view.resolution.ask(view.wiring, contract, None) {
            Met::Service(winner) => Some((winner, view.settled(contract, None))),
            _ => None,
        };
        let candidates = view.resolution.candidates(view.wiring, contract);
        Contest { winner, is_for_all: self.is_for_all(contract, &candidates), candidates }
    }

    /// Whether all that offer a contract are handed out at run time, to whoever asks for them, and nothing that was read
    /// asks for one.
    fn is_for_all(&self, contract: Name, candidates: &[ServiceIndex]) -> bool {
        let wiring = self.view.wiring;
        let is_installed = |&service: &ServiceIndex| wiring.service(service).of_standard.installed.is_some();
        candidates.len() > 1
            && candidates.iter().all(is_installed)
            && !self.definitions.asked_for.contains(&contract)
    }

    /// That a service offers a contract; `name` is the one that the sheet is not about.
    fn offer(&self, name: Name, service: &Service, contest: &Contest) -> Said {
        let wiring = self.view.wiring;
        let others = contest.candidates.len();
        let has_rivals = others > 1 && (service.key.is_none() || contest.is_for_all);
        let given = has_rivals.then(|| match &contest.winner {
            _ if contest.is_for_all => Given::All(others),
            Some((winner, reason)) if wiring.service(*winner).id == service.id => Given::This(reason.clone()),
            Some((winner, reason)) => {
                Given::Other { service: wiring.id(*winner).to_owned(), reason: reason.clone() }
            }
            None => Given::Unsettled(others),
        });
        Said::Offer { name: self.view.owned(name), key: self.key(service.key), given }
    }

    fn needs(&mut self, needs: Many<Need>, section: Section) {
        if !self.with_relations {
            return;
        }
        for number in needs.range() {
            let need = self.view.wiring.facts.parts.needs[number];
            let said = Said::Need {
                slot: self.view.owned(need.slot.name),
                aim: self.view.aim(&need),
                gets: self.view.gets(NeedIndex(number as u32)),
                manner: NeedManner::of(&need),
            };
            self.own(section, said, need.source, need.span);
        }
    }

    /// Who needs a node; what collects a tag or all that offer a contract is named with it.
    fn users(&mut self, node: Node) {
        if !self.with_relations {
            return;
        }
        for &edge in self.view.graph.needed_by(node) {
            match self.view.graph.what(edge.node) {
                What::Tag(name) | What::All(name) => {
                    let is_tag = matches!(self.view.graph.what(edge.node), What::Tag(_));
                    let name = self.view.owned(name);
                    let through = if is_tag { Aim::Tag(name) } else { Aim::All(name) };
                    for &collector in self.view.graph.needed_by(edge.node) {
                        self.user(collector, Some(through.clone()));
                    }
                }
                What::Question(_) => {
                    self.add(Section::Claims, Said::Claim(self.view.thing(edge.node)), None);
                }
                _ => self.user(edge, None),
            }
        }
    }

    /// Providers and entries that come to use a node, over however many others; the first few of each.
    fn serves(&mut self, node: Node) {
        if !self.with_relations {
            return;
        }
        let (view, facts) = (self.view, &self.view.wiring.facts);
        let origin = Origin { node, while_building: true };
        let (reach, _) = ReachSearch::new(view.wiring, &view.graph).reach(&[origin], most_work(&view.graph));
        for &provider in &reach.start_up {
            let node = view.graph.provider(provider);
            self.add(Section::Serves, Said::Serves { user: view.thing(node), at: None }, view.place(node));
        }
        for &entry in &reach.first_entries {
            let at = facts.entries[entry.index()].at.map(|at| view.owned(at));
            let node = view.graph.entry(entry);
            self.add(Section::Serves, Said::Serves { user: view.thing(node), at }, view.place(node));
        }
        let count = (reach.entries as usize).saturating_sub(reach.first_entries.len());
        if count > 0 {
            self.add(Section::Serves, Said::MoreEntries { count, at_least: reach.at_least }, None);
        }
    }

    fn user(&mut self, edge: Edge, through: Option<Aim>) {
        let view = self.view;
        let need = edge.need_in(view.wiring);
        let through = through.or_else(|| match need.map(|need| need.target) {
            Some(Target::Contract(contract)) => Some(Aim::Contract(view.owned(contract), None)),
            _ => None,
        });
        let said = Said::User {
            user: view.thing(edge.node),
            slot: need.map(|need| view.owned(need.slot.name)),
            through,
            manner: need.map(NeedManner::of).unwrap_or_default(),
        };
        let place = need.map(|need| Place::new(need.source, need.span, "needed here"));
        self.add(Section::NeededBy, said, place.or_else(|| view.place(edge.node)));
    }

    /// Who needs a name that leads to no service.
    fn needed_as(&mut self, wanted: Target) {
        if !self.with_relations {
            return;
        }
        let view = self.view;
        let is_built = |node: &Node| match view.graph.what(*node) {
            What::Service(service) => view.resolution.ids.is_built(service),
            _ => true,
        };
        for node in view.graph.nodes().filter(is_built) {
            for number in needs_of(view.wiring, node).into_iter().flatten() {
                let need = &view.wiring.facts.parts.needs[number];
                if need.target != wanted {
                    continue;
                }
                let said = Said::Asker {
                    user: view.thing(node),
                    slot: view.owned(need.slot.name),
                    key: self.key(need.key),
                    gets: view.gets(NeedIndex(number as u32)),
                };
                let place = Place::new(need.source, need.span, "needed here");
                self.add(Section::NeededBy, said, Some(place));
            }
        }
    }

    fn tags(&mut self, service: &Service) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for tagging in service.taggings.of(&facts.parts) {
            let collectors = self.with_relations.then(|| collectors(view, tagging.tag.name));
            let name = view.owned(tagging.tag.name);
            let attributes = attributes(view, tagging);
            let said = Said::Tag { name, attributes, collectors };
            self.own(Section::Tags, said, tagging.source, tagging.tag.span);
        }
    }

    /// The stages in which the id leads to something else, or its needs do.
    fn stages(&mut self, id: Name) {
        let line = |view: &View<'_>| {
            let Lead::Service(service) = view.resolution.ids.lead(view.wiring, id) else {
                return (Leads::Nowhere, Vec::new());
            };
            let own = view.wiring.service(service);
            let needs = own.needs.range().map(|need| {
                let slot = view.owned(view.wiring.facts.parts.needs[need].slot.name);
                (slot, view.gets(NeedIndex(need as u32)))
            });
            let at = Place::new(own.source, own.id.span, "defined here");
            (Leads::Service { id: view.wiring.id(service).to_owned(), at }, needs.collect())
        };
        let (here, needs) = line(self.view);
        let is_same = |one: &(String, Gets), other: &(String, Gets)| {
            one.0 == other.0 && differences::is_alike(&one.1, &other.1)
        };
        for (stage, (there, others)) in self.view.by_stage(line) {
            let (leads, slots) = if here == there {
                let is_other = |other: &(String, Gets)| !needs.iter().any(|need| is_same(need, other));
                (None, others.into_iter().filter(is_other).collect())
            } else {
                (Some(there), Vec::new())
            };
            if leads.is_some() || !slots.is_empty() {
                let stage = self.view.owned(stage);
                self.add(Section::Differs, Said::Differs { stage, leads, slots }, None);
            }
        }
    }

    /// Where the type of a service is declared, and what it takes and can do.
    fn type_of_service(&mut self, type_name: Named) {
        let wiring = self.view.wiring;
        let Some(number) = wiring.types().find(wiring.text(type_name.name)) else { return };
        let declared = &wiring.facts.declared_types[number];
        let said = Said::Sort { kind: declared.kind, is_abstract: declared.is_abstract };
        self.add(Section::Sort, said, Some(Place::new(declared.source, declared.name.span, "declared here")));
        self.constructors(number);
        let methods = wiring.types().methods(number);
        let mut names: Vec<String> =
            methods.iter().map(|(_, method)| self.view.owned(method.name.name)).collect();
        let mut seen = HashSet::new();
        names.retain(|name| seen.insert(name.clone()));
        if !names.is_empty() {
            self.add(Section::Methods, Said::Names(names), None);
        }
    }

    fn constructors(&mut self, number: usize) {
        let wiring = self.view.wiring;
        let Some(constructors) = wiring.types().constructors(number) else {
            return;
        };
        let source = wiring.facts.declared_types[constructors.of].source;
        for constructor in constructors.all.of(&wiring.facts.parts) {
            let place = Place::new(source, constructor.name.span, "the constructor");
            self.add(Section::BuiltWith, self.callable(constructor), Some(place));
        }
    }

    fn callable(&self, callable: &Callable) -> Said {
        let view = self.view;
        let parameters = callable.parameters.of(&view.wiring.facts.parts).iter().map(|parameter| Parameter {
            name: view.owned(parameter.name.name),
            type_name: parameter.type_name.map(|named| view.owned(named.name)),
            optional: parameter.is_optional,
        });
        Said::Callable {
            name: view.owned(callable.name.name),
            parameters: parameters.collect(),
            returns: callable.returns.map(|named| view.owned(named.name)),
        }
    }

    /// A type that code declares: in however many parts, what it is of, takes and can do, and what is built from it.
    fn declared_type(&mut self, name: Name) {
        let wiring = self.view.wiring;
        let Some(number) = wiring.types().find(wiring.text(name)) else { return };
        let facts = &wiring.facts;
        let ancestry = wiring.types().ancestry(number);
        let types = self.definitions.types(wiring);
        let parts = listed(&types.parts, &name).iter().map(|&number| &facts.declared_types[number]);
        for declared in parts {
            self.declared(Section::Declared, declared.source, declared.name.span, false);
            let said = Said::Sort { kind: declared.kind, is_abstract: declared.is_abstract };
            self.own(Section::Sort, said, declared.source, declared.name.span);
            for &mark in declared.marks.of(&facts.parts) {
                self.own_name(Section::Marks, declared.source, mark);
            }
        }
        for above in ancestry.names {
            let declared =
                wiring.types().find(wiring.text(above)).map(|number| &facts.declared_types[number]);
            let place = declared.map(|one| Place::new(one.source, one.name.span, "declared here"));
            self.add(Section::Extends, self.named(above), place);
        }
        for &below in wiring.types().directly_below(number) {
            let declared = &facts.declared_types[below];
            let place = Place::new(declared.source, declared.name.span, "declared here");
            self.add(Section::Below, self.named(declared.name.name), Some(place));
        }
        self.constructors(number);
        for (source, method) in wiring.types().methods(number) {
            let place = Place::new(source, method.name.span, "the method");
            self.add(Section::Methods, self.callable(method), Some(place));
        }
        for &service in listed(&types.built_from, &number) {
            let service = wiring.service(service);
            let place = Place::new(service.source, service.id.span, "defined here");
            self.add(Section::Services, self.named(service.id.name), Some(place));
        }
    }

    fn contract(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        if let Some(number) = view.wiring.types().find(view.text(name)) {
            let declared = &facts.declared_types[number];
            let said = Said::Sort { kind: declared.kind, is_abstract: declared.is_abstract };
            let place = Place::new(declared.source, declared.name.span, "declared here");
            self.add(Section::Type, said, Some(place));
        }
        for &number in listed(&self.definitions.contracts, &name) {
            let contract = &facts.contracts[number];
            let source = contract.source;
            self.declared(Section::Declared, source, contract.contract.span, false);
            for &base in contract.extends.of(&facts.parts) {
                self.own_name(Section::Extends, source, base);
            }
            if let Some((meant, span)) = contract.meant_for {
                self.own(Section::MeantFor, Said::MeantFor(meant), source, span);
            }
            for &key in contract.keys.of(&facts.parts) {
                self.own_name(Section::Keys, source, key);
            }
        }
        self.supplied(SuppliedKind::Contract, name, Section::Declared);
        for &number in listed(&self.definitions.choices, &name) {
            let choice = &facts.choices[number];
            let said = Said::Name {
                name: view.owned(choice.service.name),
                key: self.key(choice.key),
                from: None,
                stage: choice.stage.map(|stage| view.owned(stage)),
            };
            self.own(Section::Choices, said, choice.source, choice.service.span);
        }
        let contest = self.contest(name);
        // What gives way to others is no candidate, and may be what somebody looks for.
        let giving_way = listed(&self.definitions.giving_way, &name).iter().copied();
        let giving_way = giving_way.filter(|service| !contest.candidates.contains(service));
        for service in contest.candidates.iter().copied().chain(giving_way) {
            let definition = view.wiring.service(service);
            let said = self.offer(definition.id.name, definition, &contest);
            self.add(Section::OfferedBy, said, view.place(Graph::service(service)));
        }
        self.needed_as(Target::Contract(name));
        self.needed_as(Target::All(name));
        let gets = |view: &View<'_>| match view.resolution.ask(view.wiring, name, None) {
            Met::Service(service) => Some(view.wiring.id(service).to_owned()),
            _ => None,
        };
        let here = gets(view);
        let stages = if self.with_relations { view.by_stage(gets) } else { Vec::new() };
        for (stage, service) in stages.into_iter().filter(|(_, there)| *there != here) {
            self.add(Section::Differs, Said::Gives { stage: view.owned(stage), service }, None);
        }
    }

    fn tag(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for &number in listed(&self.definitions.tags, &name) {
            let tag = &facts.tags[number];
            self.declared(Section::Declared, tag.source, tag.tag.span, false);
            if let Some(contract) = tag.contract {
                self.own_name(Section::Offered, tag.source, contract);
            }
            let rules = tag.attributes.map_or(&[][..], |rules| rules.of(&facts.parts));
            for rule in rules {
                let said = Said::Attribute {
                    name: view.owned(rule.attribute.name),
                    kind: rule.kind,
                    required: rule.required,
                    unique: rule.unique,
                };
                self.own(Section::Attributes, said, tag.source, rule.attribute.span);
            }
        }
        self.supplied(SuppliedKind::Tag, name, Section::Declared);
        for (service, tagging) in view.resolution.collected(view.wiring, name) {
            let name = view.wiring.id(service).to_owned();
            let said = Said::Tag { name, attributes: attributes(view, tagging), collectors: None };
            let place = Place::new(tagging.source, tagging.tag.span, "tagged here");
            self.add(Section::CarriedBy, said, Some(place));
        }
        if let Some(node) = view.graph.tag(name).filter(|_| self.with_relations) {
            for &edge in view.graph.needed_by(node) {
                self.user(edge, None);
            }
        }
    }

    fn setting(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        let numbers = listed(&self.definitions.settings, &name);
        let settings: Vec<&Setting> = numbers.iter().map(|&number| &facts.settings[number]).collect();
        for setting in &settings {
            let source = setting.source;
            self.declared(Section::Declared, source, setting.setting.span, setting.required);
            let staged = setting.stages.of(&facts.parts).iter();
            let staged = staged.map(|value| (value.value, Some(value.stage.name)));
            for (value, stage) in setting.value.map(|value| (value, None)).into_iter().chain(staged) {
                let text = crate::source::cut(&view.wiring.sources[source.index()].text, value.span);
                let stage = stage.map(|stage| view.owned(stage));
                let said = Said::Value { text: text.trim().to_owned(), stage };
                self.own(Section::Value, said, source, value.span);
            }
        }
        let values = settings.iter().flat_map(|setting| {
            let staged = setting.stages.of(&facts.parts).iter().map(|value| value.references);
            staged.chain([setting.references]).map(|references| (setting.source, references))
        });
        for (source, references) in values.collect::<Vec<_>>() {
            for &reference in references.of(&facts.parts) {
                self.own_name(Section::RefersTo, source, reference);
            }
        }
        self.needed_as(Target::Setting(name));
    }

    fn provider(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for &number in listed(&self.definitions.providers, &name) {
            let provider = &facts.providers[number];
            let source = provider.source;
            self.declared(Section::Defined, source, provider.id.span, false);
            if let Some(type_name) = provider.type_name {
                self.own_name(Section::Type, source, type_name);
            }
            match provider.registers {
                Some(registers) => {
                    for &service in registers.of(&facts.parts) {
                        self.own_name(Section::Registers, source, service);
                    }
                }
                None => self.add(Section::Registers, Said::WholeModule(self.module_of(source)), None),
            }
            self.needs(provider.register, Section::UsesWhileRegistering);
            self.needs(provider.start, Section::UsesAtStart);
            for &before in provider.after.of(&facts.parts) {
                self.own_name(Section::After, source, before);
            }
            self.users(view.graph.provider(ProviderIndex::new(number)));
        }
        for &(source, number, span) in listed(&self.definitions.loaded, &name) {
            self.own(Section::Loaded, Said::Number(number), source, span);
        }
    }

    fn entry(&mut self, name: Name) {
        let facts = &self.view.wiring.facts;
        for &number in listed(&self.definitions.entries, &name) {
            let entry = &facts.entries[number];
            self.declared(Section::Defined, entry.source, entry.id.span, false);
            if let Some(at) = entry.at {
                self.add(Section::At, self.named(at), None);
            }
            if let Some(type_name) = entry.type_name {
                self.own_name(Section::Type, entry.source, type_name);
            }
            if let Some(lifetime) = entry.lifetime {
                self.own_name(Section::Lifetime, entry.source, lifetime);
            }
            self.needs(entry.needs, Section::Needs);
        }
    }

    fn module(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        let Some(of) = self.definitions.modules.get(&name) else { return };
        for &(source, span) in &of.files {
            let name = view.wiring.path(source).to_owned();
            self.own(Section::Files, Said::Name { name, key: None, from: None, stage: None }, source, span);
        }
        for &(source, used) in &of.uses {
            self.own_name(Section::Uses, source, used);
        }
        for &(source, span) in &of.used_by {
            let said = Said::Name { name: self.module_of(source), key: None, from: None, stage: None };
            self.add(Section::UsedBy, said, Some(Place::new(source, span, "used here")));
        }
        for &service in &of.services {
            let service = view.wiring.service(service);
            self.own_name(Section::Services, service.source, service.id);
        }
        for &number in &of.providers {
            self.own_name(Section::Providers, facts.providers[number].source, facts.providers[number].id);
        }
        for &number in &of.entries {
            self.own_name(Section::Entries, facts.entries[number].source, facts.entries[number].id);
        }
    }

    /// Findings about the subject, and those that blame its definition.
    fn findings(&mut self, subject: Subject, report: &Report) {
        let name = self.view.text(subject.name);
        let is_about = |finding: &&Finding| {
            finding.subject.split(" > ").any(|part| part == name)
                || finding.places.iter().any(|place| self.spans.contains(&(place.source, place.span)))
        };
        // A module's sheet lists its services; what is wrong with each is on theirs.
        let is_shown = |finding: &&Finding| subject.kind != Kind::Module || finding.subject == name;
        let about: Vec<&Finding> = report.findings.iter().filter(is_about).filter(is_shown).collect();
        for finding in about {
            let said = Said::Finding {
                rule: finding.rule.name,
                severity: finding.severity,
                subject: finding.subject.clone(),
                message: finding.message.clone(),
            };
            self.add(Section::Findings, said, finding.places.first().cloned());
        }
    }
}

/// Who collects a tag.
fn collectors(view: &View<'_>, tag: Name) -> Vec<Thing> {
    let collectors = view.graph.tag(tag).map_or(&[][..], |tag| view.graph.needed_by(tag));
    let mut collectors: Vec<Thing> = collectors.iter().map(|edge| view.thing(edge.node)).collect();
    collectors.dedup();
    collectors
}

/// The attributes of a tag on a service.
fn attributes(view: &View<'_>, tagging: &Tagging) -> Vec<(String, String)> {
    let given = tagging.attributes.of(&view.wiring.facts.parts).iter();
    let owned = |given: &Attribute| (view.owned(given.attribute.name), view.owned(given.value.name));
    given.map(owned).collect()
}
