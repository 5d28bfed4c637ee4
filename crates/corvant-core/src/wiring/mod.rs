//! The wiring: the facts of all modules in one immutable, indexed model.
//!
//! [`link`] appends the facts of all manifests in the order of their paths, lets definitions inherit from
//! those they are `like`, and notes which modules and stages there are. Everything later reads it and
//! changes nothing.

mod inherit;
mod link;

pub use link::link;

use crate::facts::{Facts, Header, Named};
use crate::name::{Name, Names};
use crate::source::{Source, SourceIndex};
use foldhash::HashSet;

/// One manifest as a reader hands it over.
#[derive(Debug)]
pub struct Manifest {
    /// The file.
    pub source: Source,
    /// What it says of itself.
    pub header: Header,
    /// What it says of the wiring.
    pub facts: Facts,
}

/// Declares the number of one kind of thing in its flat array.
macro_rules! index {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        pub struct $name(pub u32);

        impl $name {
            /// The position in the array.
            pub fn index(self) -> usize {
                self.0 as usize
            }
        }
    };
}

index!(
    /// The number of a module in [`Wiring::modules`].
    ModuleIndex
);
index!(
    /// The number of a service in [`Facts::services`].
    ServiceIndex
);
index!(
    /// The number of a need in [`Facts::needs`].
    NeedIndex
);

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
    pub names: Names,
    /// All files and folders that were looked at, by path.
    pub sources: Vec<Source>,
    /// What each of them says of itself.
    pub headers: Vec<Header>,
    /// Modules, in the order of their first files.
    pub modules: Vec<Module>,
    /// The facts of all files.
    pub facts: Facts,
    /// The stages that some definition or value is limited to, by name.
    pub stages: Vec<Name>,
    /// How many needs are written down; inherited ones are not counted again.
    pub written_needs: usize,
    module_of: Vec<Option<ModuleIndex>>,
    /// By name: the first definition of the id; `u32::MAX`: none.
    defined: Vec<u32>,
    defined_again: HashSet<Name>,
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

    /// The path of a file.
    pub fn path(&self, source: SourceIndex) -> &str {
        &self.sources[source.index()].path
    }

    /// Whether any definition, active or not, has an id.
    pub fn is_defined_anywhere(&self, id: Name) -> bool {
        self.first_definition(id).is_some()
    }

    /// The first definition of an id, active or not, that is no override of it.
    pub fn first_definition(&self, id: Name) -> Option<ServiceIndex> {
        Some(self.defined[id.index()]).filter(|&first| first != u32::MAX).map(ServiceIndex)
    }

    /// Whether an id has more than one definition, in whatever stages.
    pub fn is_defined_again(&self, id: Name) -> bool {
        !self.defined_again.is_empty() && self.defined_again.contains(&id)
    }

    /// The definition of a service.
    pub fn service(&self, service: ServiceIndex) -> &crate::facts::Service {
        &self.facts.services[service.index()]
    }

    /// The id of a service.
    pub fn id(&self, service: ServiceIndex) -> &str {
        self.text(self.service(service).id.name)
    }

    /// All services, by number.
    pub fn services(&self) -> impl Iterator<Item = (ServiceIndex, &crate::facts::Service)> {
        self.facts.services.iter().enumerate().map(|(index, service)| (ServiceIndex(index as u32), service))
    }
}
