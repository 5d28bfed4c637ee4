//! What each need gets.

use super::contracts::{Offer, candidates_and_defaults, pattern, preferred};
use super::ids::Lead;
use super::{Ambiguity, Met, Resolution, Value};
use crate::facts::{Need, Setting, SuppliedKind, Target};
use crate::index::QuestionIndex;
use crate::name::Name;
use crate::wiring::{NeedIndex, ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt};
use rayon::prelude::*;
use std::sync::Arc;

/// Answers that were found before: a contract that many need is looked up once.
#[derive(Default)]
pub(super) struct Known {
    met: HashMap<(Name, Option<Name>), Met>,
    shared: Shared,
}

/// What many questions ask for alike.
#[derive(Default)]
pub(super) struct Shared {
    /// By pattern and key who answers for what nothing offers exactly.
    candidates: HashMap<(Name, Option<Name>), Candidates>,
    /// By contract whether anybody offers it, under whatever key.
    offered: HashMap<Name, bool>,
}

/// Who may be meant, and which of them are marked as default.
#[derive(Clone)]
struct Candidates {
    all: Arc<Vec<ServiceIndex>>,
    defaults: Arc<Vec<ServiceIndex>>,
    /// Which of several the workspace's policy prefers.
    preferred: Option<ServiceIndex>,
}

impl Candidates {
    fn new(wiring: &Wiring, offers: &[Offer]) -> Self {
        let (all, defaults) = candidates_and_defaults(wiring, offers);
        Self { all: Arc::new(all), defaults: Arc::new(defaults), preferred: preferred(wiring, offers) }
    }
}

impl Resolution {
    /// Fills in what every need gets.
    pub(super) fn meet_all(&mut self, wiring: &Wiring) {
        self.choose(wiring);
        let mut known = Known::default();
        // Contracts are met one after another, since questions are numbered as they come up.
        let needs = &wiring.facts.parts.needs;
        let meet = |need: &Need| self.meet_otherwise(wiring, need);
        let mut met: Vec<Met> = needs.par_iter().with_min_len(1024).map(meet).collect();
        for (need, met) in needs.iter().zip(&mut met) {
            if let Target::Contract(_) | Target::All(_) = need.target {
                *met = self.meet(wiring, need, &mut known);
            }
        }
        self.met = met.into();
        self.meet_wrapped(wiring);
        self.winners = known
            .met
            .iter()
            .filter_map(|(&(contract, key), &met)| match met {
                Met::Service(service) if key.is_none() => Some((contract, service)),
                _ => None,
            })
            .collect();
    }

    /// Notes the choices that hold in the stage.
    pub(super) fn choose(&mut self, wiring: &Wiring) {
        for choice in wiring.choices(self.stage) {
            let key = choice.key.map(|key| key.name);
            self.choices.entry((choice.contract.name, key)).or_insert(choice.service.name);
        }
    }

    pub(super) fn meet(&mut self, wiring: &Wiring, need: &Need, known: &mut Known) -> Met {
        let contract = match need.target {
            Target::Contract(contract) => contract,
            Target::All(contract) => {
                return self.meet_every(wiring, contract, &mut known.shared).or_absent(need);
            }
            _ => return self.meet_otherwise(wiring, need),
        };
        let question = (contract, need.key.map(|key| key.name));
        if let Some(met) = known.met.get(&question) {
            return met.or_absent(need);
        }
        let met = self.meet_contract(wiring, question, &mut known.shared);
        known.met.insert(question, met);
        met.or_absent(need)
    }

    /// What a need gets that is not on a contract.
    fn meet_otherwise(&self, wiring: &Wiring, need: &Need) -> Met {
        let met = match need.target {
            Target::Service(id) => self.meet_id(wiring, id),
            Target::Tag(tag) => Met::Carriers(tag),
            Target::Setting(setting) => match self.setting(setting) {
                Some(Value::Given) => Met::Setting,
                _ if self.is_supplied(SuppliedKind::Setting, setting) => Met::Supplied,
                Some(Value::LeftToStages) => Met::Unknown,
                Some(Value::Absent) | None => Met::Missing,
            },
            Target::Contract(_) | Target::All(_) | Target::Wrapped => Met::Unknown,
        };
        met.or_absent(need)
    }

    /// What a need for all of a contract gets.
    fn meet_every(&self, wiring: &Wiring, contract: Name, shared: &mut Shared) -> Met {
        if self.is_offered(wiring, contract, shared) {
            Met::All(contract)
        } else if self.is_contract_supplied(wiring, contract) {
            Met::Supplied
        } else {
            Met::Missing
        }
    }

    fn meet_id(&self, wiring: &Wiring, id: Name) -> Met {
        match self.ids.lead(wiring, id) {
            Lead::Service(service) => Met::Service(service),
            _ if self.is_supplied(SuppliedKind::Service, id) => Met::Supplied,
            Lead::Nowhere => match self.ids.dead_end(id) {
                Some(end) if self.is_supplied(SuppliedKind::Service, end) => Met::Supplied,
                Some(_) => Met::Missing,
                None => Met::Unknown,
            },
            Lead::Template(_) | Lead::Undefined => Met::Missing,
        }
    }

    fn meet_contract(&mut self, wiring: &Wiring, question: (Name, Option<Name>), shared: &mut Shared) -> Met {
        let (met, ambiguity) = self.answer(wiring, question.0, question.1, shared);
        let Some(ambiguity) = ambiguity else { return met };
        let number = QuestionIndex::new(self.ambiguous.len());
        self.questions.insert(question, number);
        self.ambiguous.push(ambiguity);
        Met::Ambiguous(number)
    }

    /// What a contract, or a key of it, gives; with the candidates where nothing settles between them. The
    /// number in [`Met::Ambiguous`] is then yet to be given.
    pub(super) fn answer(
        &self,
        wiring: &Wiring,
        contract: Name,
        key: Option<Name>,
        shared: &mut Shared,
    ) -> (Met, Option<Ambiguity>) {
        let chosen = self.choices.get(&(contract, key)).map(|&chosen| self.meet_id(wiring, chosen));
        if let Some(met) = chosen.filter(|&met| met != Met::Missing) {
            return (met, None);
        }
        let exact = self.contracts.exact_offers(wiring, &self.ids, contract, key);
        let open = if exact.is_empty() { pattern(wiring, contract) } else { None };
        let found = match open {
            Some(open) => shared
                .candidates
                .entry((open, key))
                .or_insert_with(|| {
                    Candidates::new(wiring, &self.contracts.exact_offers(wiring, &self.ids, open, key))
                })
                .clone(),
            None => Candidates::new(wiring, &exact),
        };
        let ambiguity = |misguided| {
            let candidates = found.all.clone();
            (
                Met::Ambiguous(QuestionIndex(u32::MAX)),
                Some(Ambiguity { contract, key, candidates, misguided }),
            )
        };
        if chosen.is_some() {
            return ambiguity(true);
        }
        let met = match (found.all.as_slice(), found.defaults.as_slice()) {
            ([], _) if self.is_contract_supplied(wiring, contract) => Met::Supplied,
            ([], _) if key.is_some() && self.is_offered(wiring, contract, shared) => Met::MissingKey,
            ([], _) => Met::Missing,
            ([only], _) | (_, [only]) => Met::Service(*only),
            _ => match found.preferred {
                Some(preferred) => Met::Service(preferred),
                None => return ambiguity(false),
            },
        };
        (met, None)
    }

    /// Whether any service offers a contract, under whatever key.
    fn is_offered(&self, wiring: &Wiring, contract: Name, shared: &mut Shared) -> bool {
        let mut is_built = |contract: Name| {
            let offered = shared.offered.entry(contract);
            *offered.or_insert_with(|| self.contracts.is_offered(&self.ids, contract))
        };
        is_built(contract) || pattern(wiring, contract).is_some_and(is_built)
    }

    /// Whether the host platform brings a contract: itself, one that extends it, or its pattern.
    fn is_contract_supplied(&self, wiring: &Wiring, contract: Name) -> bool {
        let supplied = &self.supplied[SuppliedKind::Contract as usize];
        let is_supplied = |name: Name| {
            supplied.contains(&name)
                || self.contracts.with_narrower([name]).iter().any(|name| supplied.contains(name))
        };
        !supplied.is_empty() && (is_supplied(contract) || pattern(wiring, contract).is_some_and(is_supplied))
    }

    /// Needs on what is wrapped, which depend on who has the need: they are not shared.
    fn meet_wrapped(&mut self, wiring: &Wiring) {
        for need in &wiring.wrapped_needs {
            self.meet_wrapped_of(wiring, need.0, need.1);
        }
    }

    pub(super) fn meet_wrapped_of(&mut self, wiring: &Wiring, holder: ServiceIndex, need: NeedIndex) {
        let met = match (self.ids.inside(holder), wiring.service(holder).wraps) {
            (Some(inside), _) => Met::Service(inside),
            (None, None) => Met::Missing.or_absent(&wiring.facts.parts.needs[need.index()]),
            (None, Some(wrapped))
                if !self.ids.is_defined(wrapped.name)
                    && self.is_supplied(SuppliedKind::Service, wrapped.name) =>
            {
                Met::Supplied
            }
            (None, Some(_)) => Met::Unknown,
        };
        self.met.set(need.index(), met);
    }
}

impl Met {
    /// Nothing is no fault where the need is optional.
    fn or_absent(self, need: &Need) -> Self {
        if need.optional && matches!(self, Self::Missing | Self::MissingKey) { Self::Absent } else { self }
    }
}

/// Whether each declared setting has a value in a stage; a value anywhere counts.
pub(super) fn settings(wiring: &Wiring, stage: Option<Name>) -> HashMap<Name, Value> {
    let mut settings = HashMap::with_capacity(wiring.facts.settings.len());
    add_settings(wiring, stage, wiring.facts.settings.iter(), &mut settings);
    settings
}

pub(super) fn add_settings<'a>(
    wiring: &Wiring,
    stage: Option<Name>,
    declarations: impl Iterator<Item = &'a Setting>,
    settings: &mut HashMap<Name, Value>,
) {
    for setting in declarations {
        let stages = setting.stages.of(&wiring.facts.parts);
        let in_stage = stages.iter().any(|value| Some(value.stage.name) == stage);
        let value = if setting.value.is_some() || in_stage {
            Value::Given
        } else if stage.is_none() && (setting.required || !stages.is_empty()) && !wiring.stages.is_empty() {
            Value::LeftToStages
        } else {
            Value::Absent
        };
        let known = settings.entry(setting.setting.name).or_insert(value);
        if value == Value::Given || *known == Value::Absent {
            *known = value;
        }
    }
}
