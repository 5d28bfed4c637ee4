//! Resolving: what every need of the wiring gets in one stage.
//!
//! The rules of resolving are those of the concepts: by id through aliases, replacements and wrappers; by
//! contract through choices, keys and defaults; by tag all that carry it; by setting the stage's value.

mod contracts;
mod ids;
mod needs;
mod order;
mod restage;
mod table;

pub(crate) use contracts::{Offer, Offers};
pub(crate) use contracts::{candidates_and_defaults, pattern};
pub(crate) use ids::{Ids, Lead, Standing};
pub(crate) use order::{order_attributes, place};
pub(crate) use restage::{StageChange, StageIndex};
pub(crate) use table::Table;

use crate::facts::SuppliedKind;
use crate::index::QuestionIndex;
use crate::layered::Layered;
use crate::name::Name;
use crate::wiring::{NeedIndex, ServiceIndex, Wiring};
use contracts::Contracts;
use foldhash::{HashMap, HashSet};
use std::sync::Arc;

/// What a need gets.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Met {
    /// One service.
    Service(ServiceIndex),
    /// All that carry a tag.
    Carriers(Name),
    /// All that offer a contract.
    All(Name),
    /// A value.
    Setting,
    /// Something that the host platform brings, known by name.
    Supplied,
    /// Nothing, and the need is optional.
    Absent,
    /// Nothing: it is not found.
    Missing,
    /// Nothing: the contract is offered, but not under this key.
    MissingKey,
    /// One of several, and nothing says which; the number is that of the question in
    /// [`Resolution::ambiguous`].
    Ambiguous(QuestionIndex),
    /// It cannot be said, and another finding says why.
    Unknown,
}

/// A contract, or one key of it, that several services claim and nothing settles.
///
/// A choice that leads nowhere leaves its contract unsettled too; that is the choice's fault.
#[derive(Clone, Debug)]
pub(crate) struct Ambiguity {
    /// The contract.
    pub(crate) contract: Name,
    /// The key.
    pub(crate) key: Option<Name>,
    /// All candidates, in the order of their definitions. Contracts for which only what their pattern offers answers
    /// share them.
    pub(crate) candidates: Arc<Vec<ServiceIndex>>,
    /// Whether a choice names a service that is not defined.
    pub(crate) misguided: bool,
}

/// The wiring as it is in one stage.
#[derive(Debug)]
pub(crate) struct Resolution {
    /// The stage; `None`: none is chosen.
    pub(crate) stage: Option<Name>,
    /// Which definition every id leads to.
    pub(crate) ids: Ids,
    /// Contracts and keys that several services claim.
    pub(crate) ambiguous: Vec<Ambiguity>,
    /// Carriers of every tag, whatever their stages.
    carriers: Arc<Table<ServiceIndex>>,
    contracts: Arc<Contracts>,
    met: Layered<Met>,
    winners: HashMap<Name, ServiceIndex>,
    choices: HashMap<(Name, Option<Name>), Name>,
    questions: HashMap<(Name, Option<Name>), QuestionIndex>,
    supplied: Arc<Vec<HashSet<Name>>>,
    settings: Arc<HashMap<Name, Value>>,
    /// Settings that are not as in `settings`.
    settings_here: HashMap<Name, Value>,
}

/// Whether a setting has a value in the stage.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Value {
    /// It has.
    Given,
    /// It is declared and has none here.
    Absent,
    /// It is declared and some stage must give it; no stage is chosen.
    LeftToStages,
}

impl Resolution {
    /// Resolves every need of the wiring in a stage.
    pub(crate) fn new(wiring: &Wiring, stage: Option<Name>) -> Self {
        let ((ids, settings), (carriers, contracts)) = rayon::join(
            || (Ids::new(wiring, stage), needs::settings(wiring, stage)),
            || (carriers(wiring), Contracts::new(wiring)),
        );
        let mut resolution = Self {
            stage,
            ids,
            carriers: Arc::new(carriers),
            contracts: Arc::new(contracts),
            ambiguous: Vec::new(),
            met: Layered::default(),
            winners: HashMap::default(),
            choices: HashMap::default(),
            questions: HashMap::default(),
            supplied: Arc::new(supplied(wiring)),
            settings: Arc::new(settings),
            settings_here: HashMap::default(),
        };
        resolution.meet_all(wiring);
        resolution
    }

    /// What a need on a contract, or on one key of it, gets or would get.
    pub(crate) fn ask(&self, wiring: &Wiring, contract: Name, key: Option<Name>) -> Met {
        self.answer(wiring, contract, key, &mut needs::Shared::default()).0
    }

    /// The service that a need on a contract without key gets, if any need asks for it.
    pub(crate) fn winner(&self, contract: Name) -> Option<ServiceIndex> {
        self.winners.get(&contract).copied()
    }

    /// The id that is chosen for a contract, or for one key of it.
    pub(crate) fn chosen(&self, contract: Name, key: Option<Name>) -> Option<Name> {
        self.choices.get(&(contract, key)).copied()
    }

    /// The number of a question that nothing settles, by contract and key.
    pub(crate) fn question(&self, question: (Name, Option<Name>)) -> Option<QuestionIndex> {
        self.questions.get(&question).copied()
    }

    /// What a need gets.
    pub(crate) fn met(&self, need: NeedIndex) -> Met {
        self.met.get(need.index())
    }

    /// Whether the host platform brings something.
    pub(crate) fn is_supplied(&self, kind: SuppliedKind, name: Name) -> bool {
        self.supplied[kind as usize].contains(&name)
    }

    /// The value of a setting, if it is declared.
    pub(crate) fn setting(&self, setting: Name) -> Option<Value> {
        self.settings_here.get(&setting).or_else(|| self.settings.get(&setting)).copied()
    }

    /// The definitions that carry a tag and are built, each once, in their order. What is collected is what
    /// stands in for them.
    pub(crate) fn carriers(&self, tag: Name) -> impl Iterator<Item = ServiceIndex> {
        self.carriers_anywhere(tag).iter().copied().filter(|&service| self.ids.is_built(service))
    }

    /// The definitions that carry a tag, each once, whatever their stages.
    pub(crate) fn carriers_anywhere(&self, tag: Name) -> &[ServiceIndex] {
        self.carriers.get(tag)
    }

    /// The definitions that offer a contract itself, whatever their stages.
    pub(crate) fn offering_anywhere(&self, contract: Name) -> &[ServiceIndex] {
        self.contracts.offering(contract)
    }

    /// All that answer for a contract, or for one key of it.
    pub(crate) fn offers(&self, wiring: &Wiring, contract: Name, key: Option<Name>) -> Offers {
        self.contracts.offers(wiring, &self.ids, contract, key)
    }

    /// What is handed out for a contract, under whatever key, exactly or as a case of its pattern; each once.
    pub(crate) fn candidates(&self, wiring: &Wiring, contract: Name) -> Vec<ServiceIndex> {
        self.offers(wiring, contract, None).services()
    }

    /// Some contracts and all that they extend, over however many others.
    pub(crate) fn with_bases(&self, contracts: impl IntoIterator<Item = Name>) -> Vec<Name> {
        self.contracts.with_bases(contracts)
    }

    /// Some contracts and all that extend one of them, over however many others.
    pub(crate) fn with_narrower(&self, contracts: impl IntoIterator<Item = Name>) -> Vec<Name> {
        self.contracts.with_narrower(contracts)
    }
}

fn carriers(wiring: &Wiring) -> Table<ServiceIndex> {
    Table::new(wiring.names.bound(), || {
        wiring.services().filter(|(_, service)| service.may_be_built()).flat_map(|(index, service)| {
            let taggings = service.taggings.of(&wiring.facts.parts);
            taggings.iter().map(move |tagging| (tagging.tag.name, index))
        })
    })
}

fn supplied(wiring: &Wiring) -> Vec<HashSet<Name>> {
    let kinds = [SuppliedKind::Service, SuppliedKind::Contract, SuppliedKind::Setting, SuppliedKind::Tag];
    kinds
        .iter()
        .map(|&kind| {
            let names = wiring.facts.supplied.iter().filter(|supplied| supplied.kind == kind);
            names.map(|supplied| supplied.name.name).collect()
        })
        .collect()
}
