//! Resolving: what every need of the wiring gets in one stage.
//!
//! The rules of resolving are those of the concepts: by id through aliases, replacements and wrappers; by
//! contract through choices, keys and defaults; by tag all that carry it; by setting the stage's value.

mod contracts;
mod ids;
mod needs;
mod table;

pub use ids::{Ids, Lead};
pub use table::Table;

use crate::facts::SuppliedKind;
use crate::name::Name;
use crate::wiring::{NeedIndex, ServiceIndex, Wiring};
use contracts::Contracts;
use foldhash::{HashMap, HashSet};

/// What a need gets.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Met {
    /// One service.
    Service(ServiceIndex),
    /// All that carry a tag.
    Carriers(Name),
    /// A value.
    Setting,
    /// Something that the host platform brings, known by name.
    Supplied,
    /// Nothing, and the need is optional.
    Absent,
    /// Nothing: nobody has it.
    Missing,
    /// Nothing: the contract is offered, but not under this key.
    MissingKey,
    /// One of several, and nothing says which; the number is that of the question in
    /// [`Resolution::ambiguous`].
    Ambiguous(u32),
    /// It cannot be said, and another finding says why.
    Unknown,
}

/// A contract, or one key of it, that several services claim and nothing settles.
///
/// A choice that leads nowhere leaves its contract unsettled too; that is the choice's fault.
#[derive(Debug)]
pub struct Ambiguity {
    /// The contract.
    pub contract: Name,
    /// The key.
    pub key: Option<Name>,
    /// All candidates, in the order of their definitions.
    pub candidates: Vec<ServiceIndex>,
    /// Whether a choice names a service that nobody defines.
    pub misguided: bool,
}

/// The wiring as it is in one stage.
#[derive(Debug)]
pub struct Resolution {
    /// The stage; `None`: none is chosen.
    pub stage: Option<Name>,
    /// Which definition every id leads to.
    pub ids: Ids,
    /// Carriers of every tag, in the order of their definitions.
    pub carriers: Table,
    /// Contracts and keys that several services claim.
    pub ambiguous: Vec<Ambiguity>,
    contracts: Contracts,
    met: Vec<Met>,
    winners: HashMap<Name, ServiceIndex>,
    choices: HashMap<(Name, Option<Name>), Name>,
    questions: HashMap<(Name, Option<Name>), u32>,
    supplied: Vec<HashSet<Name>>,
    settings: HashMap<Name, Value>,
}

/// Whether a setting has a value in the stage.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Value {
    /// It has.
    Given,
    /// It is declared and has none here.
    Absent,
    /// It is declared and some stage must give it; no stage is chosen.
    LeftToStages,
}

impl Resolution {
    /// Resolves every need of the wiring in a stage.
    pub fn new(wiring: &Wiring, stage: Option<Name>) -> Self {
        let ids = Ids::new(wiring, stage);
        let contracts = Contracts::new(wiring, &ids);
        let carriers = carriers(wiring, &ids);
        let mut resolution = Self {
            stage,
            ids,
            carriers,
            contracts,
            ambiguous: Vec::new(),
            met: Vec::new(),
            winners: HashMap::default(),
            choices: HashMap::default(),
            questions: HashMap::default(),
            supplied: supplied(wiring),
            settings: needs::settings(wiring, stage),
        };
        resolution.meet_all(wiring);
        resolution
    }

    /// What a need on a contract, or on one key of it, gets or would get.
    pub fn ask(&self, wiring: &Wiring, contract: Name, key: Option<Name>) -> Met {
        self.answer(wiring, (contract, key)).0
    }

    /// The service that a need on a contract without key gets, if any need asks for it.
    pub fn winner(&self, contract: Name) -> Option<ServiceIndex> {
        self.winners.get(&contract).copied()
    }

    /// The number of a question that nothing settles, by contract and key.
    pub fn question(&self, question: (Name, Option<Name>)) -> Option<u32> {
        self.questions.get(&question).copied()
    }

    /// What a need gets.
    pub fn met(&self, need: NeedIndex) -> Met {
        self.met[need.index()]
    }

    /// Whether the host platform brings something.
    pub fn is_supplied(&self, kind: SuppliedKind, name: Name) -> bool {
        self.supplied[kind as usize].contains(&name)
    }

    /// The value of a setting, if it is declared.
    pub fn setting(&self, setting: Name) -> Option<Value> {
        self.settings.get(&setting).copied()
    }

    /// The services that offer a contract itself, under whatever key, in the order of their definitions.
    pub fn offering(&self, contract: Name) -> &[ServiceIndex] {
        self.contracts.offering(contract)
    }

    /// All candidates for a contract: those that offer it or one that extends it.
    pub fn candidates(&self, wiring: &Wiring, contract: Name) -> Vec<ServiceIndex> {
        self.contracts.candidates(wiring, &self.ids, contract, None)
    }
}

fn carriers(wiring: &Wiring, ids: &Ids) -> Table {
    let pairs = || {
        wiring.services().filter(|&(index, _)| ids.is_built(index)).flat_map(|(index, service)| {
            let taggings = service.taggings.of(&wiring.facts.taggings);
            taggings.iter().map(move |tagging| (tagging.tag.name, index))
        })
    };
    Table::new(wiring.names.bound(), pairs)
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
