//! The wiring: the facts of all modules in one immutable, indexed model.
//!
//! [`link`] appends the facts of all manifests in the order of their paths, lets definitions inherit from
//! those they are `like`, and notes which modules and stages there are. Everything later reads it and
//! changes nothing.

mod amend;
mod declared;
mod holder;
mod inherit;
mod link;
mod policy;
pub(crate) mod types;
mod wire;
mod without;

pub use crate::index::{EntryIndex, ModuleIndex, NeedIndex, ServiceIndex};
pub use declared::Declared;
pub(crate) use holder::needs_of;
pub use link::link;
pub use policy::{Lifetimes, Policy, SameId, USE};
pub use wire::SUPER_TYPES;
pub use without::Removal;

use crate::facts::{Choice, Facts, Header, Many, Named, Need, Rename, Roster, Tagging};
use crate::name::{Name, Names, Renaming};
use crate::source::{Source, SourceIndex, Span};
use crate::work;
use foldhash::{HashMap, HashSet};
use std::sync::{Arc, OnceLock};
use types::{TypeIndex, Types};

/// One manifest as a reader hands it over.
#[derive(Clone, Debug)]
pub struct Manifest {
    /// The file.
    pub source: Source,
    /// What it says of itself.
    pub header: Header,
    /// What it says of the wiring.
    pub facts: Facts,
}

impl Manifest {
    /// Gives all names in it what they are called in the interner that its own was merged into.
    pub fn rename(&mut self, names: &Renaming) {
        if !names.changes_nothing() {
            self.header.rename(names);
            self.facts.rename(names);
        }
    }
}

/// A module: its name, and the first file that speaks for it.
#[derive(Clone, Copy, Debug)]
pub struct Module {
    /// The module.
    pub module: Named,
    /// The first file, in path order, that speaks for it.
    pub source: SourceIndex,
}

/// All facts of a workspace, linked.
#[derive(Debug)]
pub struct Wiring {
    /// The texts of all names.
    pub names: Arc<Names>,
    /// All files and folders that were looked at, by path.
    pub sources: Arc<Vec<Source>>,
    /// What each of them says of itself.
    pub headers: Vec<Header>,
    /// Modules, in the order of their first files.
    pub modules: Vec<Module>,
    /// The facts of all files.
    pub facts: Facts,
    /// The facts of modules that the workspace disables: they count for nothing, and explain what is missing.
    pub dormant: Facts,
    /// What the workspace decides for all modules.
    pub policy: Policy,
    /// The stages that the workspace names or that something is limited to, by name.
    pub stages: Vec<Name>,
    /// Whether any definition is for its own module's use only.
    pub has_internal: bool,
    /// Definitions that alias, wrap or replace another id.
    pub linked: Vec<ServiceIndex>,
    /// Needs of services on what they wrap.
    pub wrapped_needs: Vec<(ServiceIndex, NeedIndex)>,
    /// By what looks something up at run time its look-ups, as entries.
    pub look_ups: HashMap<Name, Vec<EntryIndex>>,
    /// Settings, tags and contracts by name, where several declarations speak of one.
    pub declared: Declared,
    own: inherit::Own,
    /// How many needs are written down, or follow from a constructor; inherited ones are not counted again.
    pub written_needs: usize,
    /// How many needs stand in the facts twice, for those of a definition stand in a row.
    copied_needs: usize,
    /// The types that code declares, once they are asked for.
    types: Arc<OnceLock<TypeIndex>>,
    /// By source: how many things the file says.
    pub said: Vec<u32>,
    module_of: Vec<Option<ModuleIndex>>,
    /// By source: the disabled module it speaks for.
    dormant_modules: Vec<Option<Name>>,
    /// By name: the first definition of the id; `u32::MAX`: none.
    defined: Vec<u32>,
    /// By id that has several definitions all of them, in order.
    definitions: HashMap<Name, Vec<ServiceIndex>>,
}

impl Wiring {
    /// The text of a name.
    pub fn text(&self, name: Name) -> &str {
        self.names.text(name)
    }

    /// The module that a file speaks for.
    pub fn module_of(&self, source: SourceIndex) -> Option<ModuleIndex> {
        self.module_of[source.index()]
    }

    /// The name of the module that a file speaks for.
    pub fn module_name(&self, source: SourceIndex) -> Option<&str> {
        let module = self.module_of(source)?;
        Some(self.text(self.modules[module.index()].module.name))
    }

    /// The disabled module that a file speaks for.
    pub fn dormant_module(&self, source: SourceIndex) -> Option<Name> {
        self.dormant_modules[source.index()]
    }

    /// The rosters that hold in a stage: its own, or those that name none.
    pub fn rosters(&self, stage: Option<Name>) -> impl Iterator<Item = &Roster> {
        work::count(self.facts.rosters.len());
        let has_own = stage.is_some() && self.facts.rosters.iter().any(|roster| roster.stage == stage);
        let holds = if has_own { stage } else { None };
        self.facts.rosters.iter().filter(move |roster| roster.stage == holds)
    }

    /// The providers that are loaded in a stage; `None`: nothing says which.
    pub fn listed(&self, stage: Option<Name>) -> Option<HashSet<Name>> {
        let mut rosters = self.rosters(stage).peekable();
        let is_known = rosters.peek().is_some() && rosters.all(|roster| roster.is_whole);
        let listed = self.rosters(stage).flat_map(|roster| roster.providers.of(&self.facts.parts));
        is_known.then(|| listed.map(|provider| provider.name).collect())
    }

    /// The choices that may hold in a stage: its own, then those that name none. For one contract and key the
    /// first of them counts.
    pub fn choices(&self, stage: Option<Name>) -> impl Iterator<Item = &Choice> {
        work::count(self.facts.choices.len());
        let of = |wanted: Option<Name>| move |choice: &&Choice| choice.stage == wanted;
        let own = self.facts.choices.iter().filter(of(stage)).filter(move |_| stage.is_some());
        own.chain(self.facts.choices.iter().filter(of(None)))
    }

    /// The path of a file.
    pub fn path(&self, source: SourceIndex) -> &str {
        &self.sources[source.index()].path
    }

    /// The paths of all files.
    pub fn paths(&self) -> impl Iterator<Item = &str> {
        self.sources.iter().map(|source| source.path.as_str())
    }

    /// A place as `file:line`, for sentences.
    pub fn address(&self, source: SourceIndex, span: Span) -> String {
        let source = &self.sources[source.index()];
        format!("{}:{}", source.path, source.position(span.start).line)
    }

    /// Whether any definition, active or not, has an id.
    pub fn is_defined_anywhere(&self, id: Name) -> bool {
        self.first_definition(id).is_some()
    }

    /// The first definition of an id, active or not.
    pub fn first_definition(&self, id: Name) -> Option<ServiceIndex> {
        Some(self.defined[id.index()]).filter(|&first| first != u32::MAX).map(ServiceIndex)
    }

    /// Whether an id has more than one definition, in whatever stages.
    pub fn is_defined_again(&self, id: Name) -> bool {
        !self.definitions.is_empty() && self.definitions.contains_key(&id)
    }

    /// All definitions of an id, active or not, in their order.
    pub fn definitions(&self, id: Name) -> impl Iterator<Item = ServiceIndex> + '_ {
        let several = if self.definitions.is_empty() { None } else { self.definitions.get(&id) };
        let only = self.first_definition(id).filter(|_| several.is_none());
        several.into_iter().flatten().copied().chain(only)
    }

    /// The definition of a service.
    pub fn service(&self, service: ServiceIndex) -> &crate::facts::Service {
        &self.facts.services[service.index()]
    }

    /// What a definition needs by its own words, without what it inherits.
    pub fn own_needs(&self, service: ServiceIndex) -> Many<Need> {
        self.own.of(service).map_or_else(|| self.service(service).needs, |(needs, _)| needs)
    }

    /// The tags that a definition carries by its own words, without those it inherits.
    pub fn own_taggings(&self, service: ServiceIndex) -> Many<Tagging> {
        self.own.of(service).map_or_else(|| self.service(service).taggings, |(_, taggings)| taggings)
    }

    /// The types that code declares.
    pub(crate) fn types(&self) -> Types<'_> {
        let (facts, names) = (&self.facts, &*self.names);
        Types { index: self.types.get_or_init(|| TypeIndex::new(facts, names)), facts, names }
    }

    /// How many needs there are, each counted once.
    pub fn needs(&self) -> usize {
        self.written_needs - self.copied_needs
    }

    /// Definitions whose models lead into a cycle, in order.
    pub fn in_model_cycles(&self) -> &[ServiceIndex] {
        &self.own.in_cycles
    }

    /// Whether a definition is the one of its id that others take as their model.
    pub fn is_model(&self, service: ServiceIndex) -> bool {
        let mut others = self.definitions(self.service(service).id.name).filter(|&other| other != service);
        !others.any(|other| self.goes_before(other, service))
    }

    /// Whether of two definitions of one id the first is the one that others take as their model.
    fn goes_before(&self, one: ServiceIndex, other: ServiceIndex) -> bool {
        match (self.service(one).overrides_itself(), self.service(other).overrides_itself()) {
            (true, false) => true,
            (false, true) => false,
            _ if self.policy.same_id == SameId::Last => one > other,
            _ => one < other,
        }
    }

    /// The id of a service.
    pub fn id(&self, service: ServiceIndex) -> &str {
        self.text(self.service(service).id.name)
    }

    /// All services, by number.
    pub fn services(&self) -> impl Iterator<Item = (ServiceIndex, &crate::facts::Service)> {
        work::count(self.facts.services.len());
        self.facts.services.iter().enumerate().map(|(index, service)| (ServiceIndex(index as u32), service))
    }
}
