//! What one manifest says, and — appended together — what all of them say.
//!
//! A reader turns one file into [`Facts`]; [`crate::wiring::link`] appends the facts of all files into one.
//! Everything lives in flat arrays: an item that has several of something holds a [`Many`], a range in the
//! array of those things.

mod append;
mod fields;
mod installed;
mod items;
mod many;
mod rename;
mod service_fields;
mod types;

pub use installed::{Installed, InstalledKind, ListedType, OfStandard, Requirement, TypeReach};
pub use items::{
    Allowance, Attribute, AttributeRule, Choice, Contract, Entry, Expectation, Import, MeantFor, Need,
    Provider, Removed, Roster, Scalar, Service, Setting, StageValue, Supplied, SuppliedBy, SuppliedKind, Tag,
    Tagging, Target, Via,
};
pub use many::{Many, Part};
pub(crate) use rename::Rename;
pub use service_fields::{FieldOf, ServiceField, WIRES};
pub use types::{Callable, Computed, DeclaredType, Parameter, ScannedMark, TypeKind};

use crate::finding::{Fix, Severity};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use fields::fields;

fields! {
    /// A name and where it is written.
    #[derive(Clone, Copy, PartialEq, Eq, Debug)]
    pub struct Named {
        /// The name.
        pub name: Name,
        /// Where it is written, quotes included.
        pub span: Span,
    }
}

/// What a file says of itself before it says anything else.
#[derive(Clone, Default, Debug)]
pub struct Header {
    /// The module the file belongs to.
    pub module: Option<Named>,
    /// Whether the file says which modules it `uses`; without that, uses are not checked.
    pub uses_given: bool,
    /// What the file is.
    pub kind: SourceKind,
    /// Who read the file; `None`: it is in Corvant's own format, or none could read it.
    pub reader: Option<Name>,
    /// How many values in the file the reader passed over.
    pub left_over: u32,
    /// Whether what is in the file counts and is not judged: it is that of the host.
    pub trusted: bool,
    /// Where the file stands in the order of files: what is later in it is later than all with a lower number.
    pub rank: u32,
    /// How many of the facts do not stand in the file: they were worked out from many.
    pub worked_out: u32,
}

/// What a source is.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum SourceKind {
    /// A file in which wiring stands, no matter which reader is for it.
    #[default]
    Manifest,
    /// What of a file that is there already belongs to another module.
    Part,
    /// Code that declares types.
    Code,
    /// The workspace file.
    WorkspaceFile,
    /// What holds other files, or tells of them: a folder, a link, an archive, the list of an installation.
    Container,
}

/// Facts in flat arrays; every [`Many`] in an item is a range in one of the arrays at the end.
#[derive(Clone, Default, Debug)]
pub struct Facts {
    /// Modules that the file's module may depend on.
    pub uses: Vec<(SourceIndex, Named)>,
    /// Modules that the workspace disables.
    pub disabled: Vec<(SourceIndex, Named)>,
    /// Stages that the workspace file names, whether or not anything differs in them.
    pub stages: Vec<Named>,
    /// Settings.
    pub settings: Vec<Setting>,
    /// Contract declarations.
    pub contracts: Vec<Contract>,
    /// Tag declarations.
    pub tags: Vec<Tag>,
    /// Service definitions.
    pub services: Vec<Service>,
    /// Definitions that are not in some stages, as others say.
    pub removed: Vec<Removed>,
    /// Choices, one for each contract or key.
    pub choices: Vec<Choice>,
    /// Choices for one service alone that is known not to have such a need; worked out while files are linked.
    pub idle_choices: Vec<Choice>,
    /// Providers.
    pub providers: Vec<Provider>,
    /// Rosters.
    pub rosters: Vec<Roster>,
    /// Entries.
    pub entries: Vec<Entry>,
    /// Names that the host platform brings.
    pub supplied: Vec<Supplied>,
    /// Expectations.
    pub expectations: Vec<Expectation>,
    /// Allowances.
    pub allowances: Vec<Allowance>,
    /// What was wrong with the files themselves.
    pub troubles: Vec<Trouble>,
    /// Files that must be there.
    pub imports: Vec<Import>,
    /// Types that are there, where all types of a place were listed.
    pub types: Vec<ListedType>,
    /// Types that code declares.
    pub declared_types: Vec<DeclaredType>,
    /// Scopes of types of which not all are known; `None`: of whatever scope.
    pub doubtful_scopes: Vec<Option<Name>>,
    /// Marks that types are taken by, for each file in which they were looked for.
    pub scanned_marks: Vec<ScannedMark>,
    /// Places in code whose names are known only once it runs.
    pub computed: Vec<Computed>,
    /// What is installed.
    pub installed: Vec<Installed>,
    /// What must be installed beside it.
    pub requirements: Vec<Requirement>,
    /// Names that do not stand in the file as they are, with the text that each was made from.
    pub derived: Vec<Derived>,

    /// What these items hold several of.
    pub parts: Parts,
}

fields! {
    /// A name that a reader made from a text.
    #[derive(Clone, Copy, Debug)]
    pub struct Derived {
        /// The file.
        pub source: SourceIndex,
        /// The text it was made from.
        pub span: Span,
        /// The name.
        pub name: Name,
    }
}

/// The flat arrays that items hold ranges of.
#[derive(Clone, Default, Debug)]
pub struct Parts {
    /// Lists of names.
    pub named: Vec<Named>,
    /// Needs of services, entries and providers.
    pub needs: Vec<Need>,
    /// Tags on services.
    pub taggings: Vec<Tagging>,
    /// Attributes of tags on services.
    pub attributes: Vec<Attribute>,
    /// Attributes that tag declarations speak of.
    pub attribute_rules: Vec<AttributeRule>,
    /// Settings' values in single stages.
    pub stage_values: Vec<StageValue>,
    /// Constructors and methods of types.
    pub callables: Vec<Callable>,
    /// Parameters of those.
    pub parameters: Vec<Parameter>,
}

impl Facts {
    /// Takes note of what is wrong with the file that these are the facts of. Of each kind the first are kept as they
    /// are, and the others as one that says how many they are; what they hide is kept of all.
    pub fn report(&mut self, trouble: Trouble) {
        let same = |known: &&mut Trouble| known.kind == trouble.kind;
        match self.troubles.iter_mut().rev().find(same) {
            Some(last) if last.and_more > 0 => {
                last.and_more += 1;
                last.unread.add(trouble.unread);
            }
            Some(_) => {
                let count = self.troubles.iter().filter(|known| known.kind == trouble.kind).count();
                let and_more = u32::from(count >= Trouble::TOLD);
                self.troubles.push(Trouble { and_more, ..trouble });
            }
            None => self.troubles.push(trouble),
        }
    }

    /// Keeps what is wrong with the file as one of each kind, which says how many there are.
    pub fn tell_together(&mut self) {
        for trouble in std::mem::take(&mut self.troubles) {
            let count = trouble.and_more.max(1);
            match self.troubles.iter_mut().find(|known| known.kind == trouble.kind) {
                Some(known) => {
                    known.and_more += count;
                    known.unread.add(trouble.unread);
                }
                // What cannot be read at all is one anyway.
                None if trouble.kind == TroubleKind::Unreadable => self.troubles.push(trouble),
                None => self.troubles.push(Trouble { and_more: count, ..trouble }),
            }
        }
    }

    /// How many things are said.
    pub fn len(&self) -> usize {
        self.settings.len()
            + self.contracts.len()
            + self.tags.len()
            + self.services.len()
            + self.removed.len()
            + self.choices.len()
            + self.providers.len()
            + self.rosters.len()
            + self.entries.len()
            + self.supplied.len()
            + self.declared_types.len()
            + self.expectations.len()
            + self.allowances.len()
    }

    /// Modules that are used, or required where others are installed, and the files that say so.
    pub fn used_modules(&self) -> impl Iterator<Item = (SourceIndex, Named)> {
        let required = self.requirements.iter().map(|requirement| (requirement.source, requirement.name));
        self.uses.iter().copied().chain(required)
    }

    /// Whether anything is said of what uses the wiring from outside, other than look-ups.
    pub fn names_entries(&self) -> bool {
        self.entries.iter().any(|entry| !entry.is_look_up)
    }

    /// Whether nothing is said.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}

/// Which reading rule a trouble belongs to.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum TroubleKind {
    /// The file could not be read at all.
    Unreadable,
    /// A link leads nowhere.
    DeadLink,
    /// A link leads back to a folder that is audited anyway; nothing is lost.
    LinkCycle,
    /// A field that the format does not have.
    UnknownField,
    /// A value of the wrong shape.
    WrongShape,
    /// A path of a custom reader, which is the subject, that selects nothing in any file.
    IdlePath,
    /// One key twice in one map.
    RepeatedField,
    /// A file that another names and that is not there.
    MissingImport,
    /// A manifest that defines nothing.
    Empty,
}

fields! {
    /// Something wrong with a file itself, found by the reader.
    #[derive(Clone, Debug)]
    pub struct Trouble {
        /// The rule it belongs to.
        pub kind: TroubleKind,
        /// The file.
        pub source: SourceIndex,
        /// The subject of the finding: a path of fields, or the file.
        pub subject: String,
        /// What is wrong, as a sentence.
        pub message: String,
        /// Where, with the role of the place.
        pub at: (Span, &'static str),
        /// A second place that explains the first (the earlier of two equal keys).
        pub other: Option<(Span, &'static str)>,
        /// What can be done about it; its changes are in the trouble's own file.
        pub fixes: Vec<Fix>,
        /// What is not known because of it.
        pub unread: Unread,
        /// How many of its kind in its file it stands for, itself included, which are told together; 0: it is told alone.
        pub and_more: u32,
        /// How bad it is, where that is not what its rule says.
        pub severity: Option<Severity>,
    }
}

impl Trouble {
    /// How many troubles of a kind one file has that are told with all that can be said of them. Whoever has more of
    /// them has one fault that comes up again and again, or a file that is no such file.
    pub const TOLD: usize = 100;

    /// A trouble at a place with its role.
    pub fn new(
        kind: TroubleKind,
        subject: impl Into<String>,
        message: impl Into<String>,
        at: (Span, &'static str),
    ) -> Self {
        let (source, other, fixes, unread) = (SourceIndex::default(), None, Vec::new(), Unread::default());
        Self {
            kind,
            source,
            subject: subject.into(),
            message: message.into(),
            at,
            other,
            fixes,
            unread,
            and_more: 0,
            severity: None,
        }
    }

    /// With an edit that may fix it.
    #[must_use]
    pub fn advice(mut self, title: impl Into<String>) -> Self {
        self.fixes.push(Fix::advice(title));
        self
    }

    /// With a second place that explains the first.
    #[must_use]
    pub fn beside(mut self, place: (Span, &'static str)) -> Self {
        self.other = Some(place);
        self
    }

    /// With what is not known because of it.
    #[must_use]
    pub fn hiding(mut self, unread: Unread) -> Self {
        self.unread = unread;
        self
    }
}

fields! {
    /// What a file, or a part of one, may hold that could not be read.
    #[derive(Clone, Default, Debug)]
    pub struct Unread {
        /// Words that stand where a field name would stand: ids that may be defined there.
        pub defines: Vec<Name>,
        /// All words: names that may be used there.
        pub mentions: Vec<Name>,
        /// Set if not even the words are known: no text, or a folder.
        pub opaque: bool,
    }
}

impl Unread {
    fn add(&mut self, other: Self) {
        self.defines.extend(other.defines);
        self.mentions.extend(other.mentions);
        self.opaque |= other.opaque;
    }
}
