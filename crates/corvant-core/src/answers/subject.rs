//! What a name that somebody asks about stands for.

use crate::facts::{Service, SuppliedKind, Target};
use crate::name::Name;
use crate::near::nearest;
use crate::wiring::{ServiceIndex, Wiring};
use crate::word::words;
use foldhash::{HashMap, HashSet};

words! {
    /// Kinds of things that people ask about by name.
    Kind {
        /// A service, by id.
        Service "service"
        Contract "contract"
        Tag "tag"
        Setting "setting"
        Provider "provider"
        Module "module"
        Entry "entry"
        /// One that code declares, by its full name.
        Type "type"
    }
}

impl From<SuppliedKind> for Kind {
    fn from(kind: SuppliedKind) -> Self {
        match kind {
            SuppliedKind::Service => Self::Service,
            SuppliedKind::Contract => Self::Contract,
            SuppliedKind::Setting => Self::Setting,
            SuppliedKind::Tag => Self::Tag,
        }
    }
}

/// One thing that somebody asks about.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Subject {
    /// What it is.
    pub kind: Kind,
    /// What it is called.
    pub name: Name,
}

/// Why a name does not say what is meant.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Unknown {
    /// Nothing has it.
    Nothing {
        /// What was probably meant, or else names that have it in them: kind and name.
        near: Vec<(Kind, String)>,
        /// How many needs and references name it all the same.
        sought: usize,
        /// Services that are built from a type of this name, the first few.
        type_of: Vec<String>,
    },
    /// Things of several kinds have it.
    Several(Vec<Kind>),
}

/// Services that are listed for a type.
const LISTED: usize = 5;

/// What a name stands for. With a kind given, only things of that kind count.
pub fn look_up(wiring: &Wiring, text: &str, kind: Option<Kind>) -> Result<Subject, Unknown> {
    let wanted = |of: Kind| kind.is_none_or(|kind| kind == of);
    let name = wiring.names.find(text);
    let mut kinds: Vec<Kind> = known_names(wiring)
        .filter(|&(of, known)| Some(known) == name && wanted(of))
        .map(|(of, _)| of)
        .collect();
    kinds.sort_unstable();
    kinds.dedup();
    match (kinds.as_slice(), name) {
        (&[kind], Some(name)) => Ok(Subject { kind, name }),
        // A type that is a contract too is shown as that, unless the type is asked for.
        ([], _) | (_, None) => {
            let declared = Some(()).filter(|()| wanted(Kind::Type)).and_then(|()| wiring.types().find(text));
            let type_name = declared.map(|number| wiring.facts.declared_types[number].name.name);
            let subject = type_name.map(|name| Subject { kind: Kind::Type, name });
            subject.ok_or_else(|| nothing(wiring, text, name, kind))
        }
        _ => Err(Unknown::Several(kinds)),
    }
}

/// Kind and name of everything that can be asked about; some come more than once.
pub fn known_names(wiring: &Wiring) -> impl Iterator<Item = (Kind, Name)> {
    let facts = &wiring.facts;
    let services = facts.services.iter().map(|service| (Kind::Service, service.id.name));
    let offered = facts.services.iter().flat_map(|service| service.offers.of(&facts.parts));
    let contracts = facts.contracts.iter().map(|contract| contract.contract).chain(offered.copied());
    let needed = facts.parts.needs.iter().filter_map(|need| match need.target {
        Target::Contract(contract) | Target::All(contract) => Some((Kind::Contract, contract)),
        Target::Tag(tag) => Some((Kind::Tag, tag)),
        _ => None,
    });
    let tags =
        facts.tags.iter().map(|tag| tag.tag).chain(facts.parts.taggings.iter().map(|tagging| tagging.tag));
    let supplied = facts.supplied.iter().map(|supplied| (supplied.kind.into(), supplied.name.name));
    services
        .chain(contracts.map(|contract| (Kind::Contract, contract.name)))
        .chain(tags.map(|tag| (Kind::Tag, tag.name)))
        .chain(needed)
        .chain(supplied)
        .chain(facts.settings.iter().map(|setting| (Kind::Setting, setting.setting.name)))
        .chain(facts.providers.iter().map(|provider| (Kind::Provider, provider.id.name)))
        .chain(wiring.modules.iter().map(|module| (Kind::Module, module.module.name)))
        .chain(facts.entries.iter().map(|entry| (Kind::Entry, entry.id.name)))
}

/// Services that are built from a type, by the number of its declaration.
pub(super) fn built_from(wiring: &Wiring, name: Name) -> impl Iterator<Item = ServiceIndex> {
    let wanted = wiring.types().find(wiring.text(name));
    let is_built = move |service: &Service| {
        let of = service.type_name.and_then(|named| wiring.types().find(wiring.text(named.name)));
        of.is_some() && of == wanted
    };
    wiring.services().filter(move |(_, service)| is_built(service)).map(|(index, _)| index)
}

fn nothing(wiring: &Wiring, text: &str, name: Option<Name>, kind: Option<Kind>) -> Unknown {
    let facts = &wiring.facts;
    let mut by_kind: HashMap<Kind, HashSet<Name>> = HashMap::default();
    let types = facts.declared_types.iter().map(|declared| (Kind::Type, declared.name.name));
    let known = known_names(wiring).chain(types);
    for (of, known) in known.filter(|(of, _)| kind.is_none_or(|kind| kind == *of)) {
        by_kind.entry(of).or_default().insert(known);
    }
    let near = Kind::ALL.into_iter().filter_map(|kind| {
        let known: Vec<&str> = by_kind.get(&kind)?.iter().map(|&name| wiring.text(name)).collect();
        nearest(&[text], &known)[0].map(|at| (kind, known[at].to_owned()))
    });
    let mut near: Vec<(Kind, String)> = near.collect();
    if near.is_empty() {
        let all = by_kind
            .iter()
            .flat_map(|(&kind, names)| names.iter().map(move |&name| (kind, wiring.text(name))));
        let mut holding: Vec<(Kind, &str)> = all.filter(|(_, name)| name.contains(text)).collect();
        holding.sort_unstable();
        near.extend(holding.into_iter().take(LISTED).map(|(kind, name)| (kind, name.to_owned())));
    }
    let is_sought = |target: Target| match target {
        Target::Service(id) | Target::Setting(id) => Some(id) == name,
        _ => false,
    };
    let written = &facts.parts.needs[..wiring.written_needs];
    let sought = written.iter().filter(|need| is_sought(need.target)).count();
    let is_built =
        |service: &&Service| name.is_some() && service.type_name.map(|type_name| type_name.name) == name;
    let type_of = facts.services.iter().filter(is_built).take(LISTED);
    let type_of = type_of.map(|service| wiring.text(service.id.name).to_owned()).collect();
    Unknown::Nothing { near, sought, type_of }
}
