//! Every place where a name is written.

use crate::facts::{Many, Named, Need, Removed, Service, SuppliedKind, Tagging, Target};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::wiring::Wiring;
use crate::word::words;

/// One place where a name is written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Mention {
    /// The file.
    pub source: SourceIndex,
    /// The name in it.
    pub span: Span,
    /// The name.
    pub name: Name,
    /// What is done with it there.
    pub act: Act,
    /// What it is the name of there.
    pub kind: NamedThing,
    /// Whose definition it stands in, if that is something else.
    pub by: Option<Name>,
}

words! {
    /// What is done with a name where it is written.
    Act {
        Defined "defined"
        Declared "declared"
        /// The host platform is said to bring it.
        Supplied "supplied"
        /// A service, an entry or a provider is of this type.
        BuiltFrom "built from"
        /// A service offers it.
        Offered "offered"
        /// A service offers its contracts under it.
        OfferedUnder "offered under"
        /// A service lives for it.
        LivedFor "lived for"
        /// An alias leads to it.
        Aliased "aliased"
        /// A service wraps it.
        Wrapped "wrapped"
        /// A service replaces it.
        Replaced "replaced"
        /// A service is like it.
        TakenAsModel "taken as model"
        /// A definition is limited to it.
        LimitedTo "limited to"
        /// A definition is not in a stage.
        KeptFrom "not in"
        /// A definition of its id is taken away in some stages.
        TakenAway "taken away"
        /// A service carries it.
        Tagged "tagged"
        /// Something needs it.
        Needed "needed"
        /// Something needs a contract under it.
        NeededUnder "needed under"
        /// Something needs all that carry it.
        Collected "collected"
        /// A contract is narrower than it.
        Extended "extended"
        /// A type carries it as a mark.
        Marked "carried as a mark"
        /// Every carrier of a tag must offer it.
        AskedOfCarriers "asked of carriers"
        /// A tag says that it collects.
        NamedAsCollector "named as collector"
        /// A setting has a value for it.
        GivenAValueIn "given a value in"
        /// The value of a setting holds it.
        ReferredTo "referred to"
        /// A choice gives it.
        Chosen "chosen"
        /// A choice is for it.
        ChosenFor "chosen for"
        /// A provider registers it.
        Registered "registered"
        /// A provider must come after it.
        RunBefore "run before"
        /// A roster lists it.
        Listed "listed"
        /// An expectation names it.
        Expected "expected"
        /// An allowance names it.
        Allowed "allowed"
        /// The file belongs to it.
        BelongedTo "belonged to"
        /// A module says that it uses it.
        Used "used"
        /// The workspace disables it.
        Disabled "disabled"
    }
}

words! {
    /// What a name is the name of.
    NamedThing {
        Service "service"
        Contract "contract"
        Key "key"
        Tag "tag"
        Setting "setting"
        Provider "provider"
        Entry "entry"
        Module "module"
        Type "type"
        Lifetime "lifetime"
        Stage "stage"
        /// The subject of a finding.
        Subject "subject"
    }
}

/// All places where a name that `is_wanted` accepts is written, in the order of the files. `is_wanted` is asked
/// once for each name. With a stage, what is said of other stages alone is left out.
pub fn find(wiring: &Wiring, stage: Option<Name>, is_wanted: impl Fn(&str) -> bool) -> Vec<Mention> {
    let known = vec![None; wiring.names.bound()];
    let mut finder = Finder { wiring, stage, is_wanted, known, found: Vec::new() };
    finder.definitions();
    finder.references();
    finder.rest();
    // What several read of one file is in the order of the file.
    let sources = &wiring.sources;
    let files = sources.chunk_by(|one, other| one.path == other.path).enumerate();
    let files: Vec<usize> = files.flat_map(|(number, same)| same.iter().map(move |_| number)).collect();
    finder.found.sort_by_key(|mention| (files[mention.source.index()], mention.span));
    finder.found
}

struct Finder<'a, F> {
    wiring: &'a Wiring,
    stage: Option<Name>,
    is_wanted: F,
    /// By name whether it is wanted, once that was asked.
    known: Vec<Option<bool>>,
    found: Vec<Mention>,
}

impl<F: Fn(&str) -> bool> Finder<'_, F> {
    fn add(
        &mut self,
        source: SourceIndex,
        Named { name, span }: Named,
        act: Act,
        kind: NamedThing,
        by: Option<Name>,
    ) {
        let known = &mut self.known[name.index()];
        let is_wanted = *known.get_or_insert_with(|| (self.is_wanted)(self.wiring.text(name)));
        if is_wanted {
            self.found.push(Mention { source, span, name, act, kind, by });
        }
    }

    /// Whether what is said of a stage, or of all, is asked for.
    fn is_asked(&self) -> impl Fn(Option<Name>) -> bool + use<F> {
        let stage = self.stage;
        move |said| stage.is_none() || said.is_none() || said == stage
    }

    fn definitions(&mut self) {
        let facts = &self.wiring.facts;
        let asked = self.stage;
        let is_there = |service: &&Service| asked.is_none() || service.is_in(asked, &facts.parts);
        let is_removed_there = |removed: &&Removed| asked.is_none() || removed.is_in(asked, &facts.parts);
        for removed in facts.removed.iter().filter(is_removed_there) {
            self.add(removed.source, removed.id, Act::TakenAway, NamedThing::Service, None);
            for stage in removed.stages.of(&facts.parts) {
                self.add(removed.source, *stage, Act::KeptFrom, NamedThing::Stage, Some(removed.id.name));
            }
        }
        for service in facts.services.iter().filter(is_there) {
            let (source, id) = (service.source, service.id.name);
            self.add(source, service.id, Act::Defined, NamedThing::Service, None);
            // What a model gave is mentioned where the model says it.
            let model = service.like.and_then(|model| self.wiring.first_definition(model.name));
            let model = model.map(|model| *self.wiring.service(model));
            let is_own = |named: &Named| !service.takes_over_at(named.span);
            let of = |field: fn(&Service) -> Option<Named>| {
                let own = field(service).filter(is_own);
                own.filter(|&named| model.is_none_or(|model| field(&model) != Some(named)))
            };
            let own = [
                (of(|service| service.type_name), Act::BuiltFrom, NamedThing::Type),
                (of(|service| service.key), Act::OfferedUnder, NamedThing::Key),
                (of(|service| service.lifetime), Act::LivedFor, NamedThing::Lifetime),
                (service.alias_of.filter(is_own), Act::Aliased, NamedThing::Service),
                (service.wraps.filter(is_own), Act::Wrapped, NamedThing::Service),
                (service.replaces.filter(is_own), Act::Replaced, NamedThing::Service),
                (service.like, Act::TakenAsModel, NamedThing::Service),
            ];
            for (named, act, kind) in own {
                if let Some(named) = named {
                    self.add(source, named, act, kind, Some(id));
                }
            }
            let lists = |field: fn(&Service) -> Many<Named>| {
                let given = model.filter(|model| field(model).range() == field(service).range());
                if given.is_some() { &[][..] } else { field(service).of(&facts.parts) }
            };
            for offer in lists(|service| service.offers).iter().filter(|offer| is_own(offer)) {
                self.add(source, *offer, Act::Offered, NamedThing::Contract, Some(id));
            }
            for stage in lists(|service| service.stages) {
                self.add(source, *stage, Act::LimitedTo, NamedThing::Stage, Some(id));
            }
            for stage in lists(|service| service.except) {
                self.add(source, *stage, Act::KeptFrom, NamedThing::Stage, Some(id));
            }
            let given = model.map_or(&[][..], |model| model.taggings.of(&facts.parts));
            for tagging in service.taggings.of(&facts.parts) {
                let is_same =
                    |other: &Tagging| (other.source, other.tag.span) == (tagging.source, tagging.tag.span);
                if !given.iter().any(is_same) {
                    self.add(tagging.source, tagging.tag, Act::Tagged, NamedThing::Tag, Some(id));
                }
            }
            let given = model.map_or(&[][..], |model| model.needs.of(&facts.parts));
            let is_given =
                |need: &&Need| given.iter().any(|one| (one.source, one.span) == (need.source, need.span));
            self.needs(service.needs.of(&facts.parts).iter().filter(|need| !is_given(need)), id);
        }
        for declared in &facts.declared_types {
            let (source, name) = (declared.source, declared.name);
            self.add(source, name, Act::Declared, NamedThing::Type, None);
            for above in declared.supers.of(&facts.parts) {
                self.add(source, *above, Act::Extended, NamedThing::Type, Some(name.name));
            }
            for mark in declared.marks.of(&facts.parts) {
                self.add(source, *mark, Act::Marked, NamedThing::Type, Some(name.name));
            }
        }
        for entry in &facts.entries {
            self.add(entry.source, entry.id, Act::Defined, NamedThing::Entry, None);
            if let Some(type_name) = entry.type_name {
                self.add(entry.source, type_name, Act::BuiltFrom, NamedThing::Type, Some(entry.id.name));
            }
            self.needs(entry.needs.of(&facts.parts), entry.id.name);
        }
        for provider in &facts.providers {
            let (source, id) = (provider.source, provider.id.name);
            self.add(source, provider.id, Act::Defined, NamedThing::Provider, None);
            if let Some(type_name) = provider.type_name {
                self.add(source, type_name, Act::BuiltFrom, NamedThing::Type, Some(id));
            }
            for service in provider.registers.map_or(&[][..], |services| services.of(&facts.parts)) {
                self.add(source, *service, Act::Registered, NamedThing::Service, Some(id));
            }
            for other in provider.after.of(&facts.parts) {
                self.add(source, *other, Act::RunBefore, NamedThing::Provider, Some(id));
            }
            for needs in [provider.register, provider.start] {
                self.needs(needs.of(&facts.parts), id);
            }
        }
    }

    fn needs<'n>(&mut self, needs: impl IntoIterator<Item = &'n Need>, by: Name) {
        for need in needs {
            let source = need.source;
            let (name, kind) = match need.target {
                Target::Service(name) => (name, NamedThing::Service),
                Target::Contract(name) | Target::All(name) => (name, NamedThing::Contract),
                Target::Tag(name) => (name, NamedThing::Tag),
                Target::Setting(name) => (name, NamedThing::Setting),
                Target::Wrapped => continue,
            };
            let act = if kind == NamedThing::Tag { Act::Collected } else { Act::Needed };
            self.add(source, Named { name, span: need.span }, act, kind, Some(by));
            if let Some(key) = need.key {
                self.add(source, key, Act::NeededUnder, NamedThing::Key, Some(by));
            }
        }
    }

    fn references(&mut self) {
        let facts = &self.wiring.facts;
        let is_asked = self.is_asked();
        for contract in &facts.contracts {
            let (source, id) = (contract.source, contract.contract.name);
            self.add(source, contract.contract, Act::Declared, NamedThing::Contract, None);
            for base in contract.extends.of(&facts.parts) {
                self.add(source, *base, Act::Extended, NamedThing::Contract, Some(id));
            }
            for key in contract.keys.of(&facts.parts) {
                self.add(source, *key, Act::Declared, NamedThing::Key, Some(id));
            }
        }
        for tag in &facts.tags {
            let (source, id) = (tag.source, tag.tag.name);
            self.add(source, tag.tag, Act::Declared, NamedThing::Tag, None);
            if let Some(contract) = tag.contract {
                self.add(source, contract, Act::AskedOfCarriers, NamedThing::Contract, Some(id));
            }
            if let Some(by) = tag.collected_by {
                self.add(source, by, Act::NamedAsCollector, NamedThing::Service, Some(id));
            }
        }
        for setting in &facts.settings {
            let (source, id) = (setting.source, setting.setting.name);
            self.add(source, setting.setting, Act::Defined, NamedThing::Setting, None);
            let values = setting.stages.of(&facts.parts).iter();
            let values = values.filter(|value| is_asked(Some(value.stage.name)));
            for value in values.clone() {
                self.add(source, value.stage, Act::GivenAValueIn, NamedThing::Stage, Some(id));
            }
            for references in values.map(|value| value.references).chain([setting.references]) {
                for reference in references.of(&facts.parts) {
                    self.add(source, *reference, Act::ReferredTo, NamedThing::Setting, Some(id));
                }
            }
        }
    }

    fn rest(&mut self) {
        let facts = &self.wiring.facts;
        let is_asked = self.is_asked();
        for choice in facts.choices.iter().filter(|choice| is_asked(choice.stage)) {
            let (source, contract) = (choice.source, choice.contract.name);
            self.add(source, choice.contract, Act::ChosenFor, NamedThing::Contract, None);
            self.add(source, choice.service, Act::Chosen, NamedThing::Service, Some(contract));
            if let Some(key) = choice.key {
                self.add(source, key, Act::ChosenFor, NamedThing::Key, Some(contract));
            }
        }
        for roster in facts.rosters.iter().filter(|roster| is_asked(roster.stage)) {
            for provider in roster.providers.of(&facts.parts) {
                self.add(roster.source, *provider, Act::Listed, NamedThing::Provider, None);
            }
        }
        for supplied in &facts.supplied {
            let kind = match supplied.kind {
                SuppliedKind::Service => NamedThing::Service,
                SuppliedKind::Contract => NamedThing::Contract,
                SuppliedKind::Setting => NamedThing::Setting,
                SuppliedKind::Tag => NamedThing::Tag,
            };
            self.add(supplied.source, supplied.name, Act::Supplied, kind, None);
        }
        for expected in &facts.expectations {
            let named = [
                (expected.service, NamedThing::Service),
                (expected.contract, NamedThing::Contract),
                (expected.key, NamedThing::Key),
                (expected.met_by, NamedThing::Service),
                (expected.type_name, NamedThing::Type),
            ];
            for (named, kind) in named {
                if let Some(named) = named {
                    self.add(expected.source, named, Act::Expected, kind, None);
                }
            }
        }
        for allowance in &facts.allowances {
            let subject = allowance.subject;
            self.add(allowance.source, subject, Act::Allowed, NamedThing::Subject, Some(allowance.rule.name));
        }
        for (number, header) in self.wiring.headers.iter().enumerate() {
            if let Some(module) = header.module {
                let source = SourceIndex(number as u32);
                self.add(source, module, Act::BelongedTo, NamedThing::Module, None);
            }
        }
        for (source, module) in facts.used_modules() {
            self.add(source, module, Act::Used, NamedThing::Module, None);
        }
        for &(source, module) in &facts.disabled {
            self.add(source, module, Act::Disabled, NamedThing::Module, None);
        }
    }
}
