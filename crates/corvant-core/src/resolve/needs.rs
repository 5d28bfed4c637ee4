//! What each need gets.

use super::contracts::open_form;
use super::ids::Lead;
use super::{Ambiguity, Met, Resolution, Value};
use crate::facts::{Need, Setting, SuppliedKind, Target};
use crate::name::Name;
use crate::wiring::{ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt};
use rayon::prelude::*;

/// Answers that were found before: a contract that many need is looked up once.
pub(super) type Known = HashMap<(Name, Option<Name>), Met>;

impl Resolution {
    /// Fills in what every need gets.
    pub(super) fn meet_all(&mut self, wiring: &Wiring) {
        self.choose(wiring);
        let mut known = Known::default();
        // Contracts are met one after another, since questions are numbered as they come up.
        let needs = &wiring.facts.needs;
        let meet = |need: &Need| self.meet_otherwise(wiring, need);
        let mut met: Vec<Met> = needs.par_iter().with_min_len(1024).map(meet).collect();
        for (need, met) in needs.iter().zip(&mut met) {
            if let Target::Contract(_) = need.target {
                *met = self.meet(wiring, need, &mut known);
            }
        }
        self.met = met.into();
        self.meet_wrapped(wiring);
        self.winners = known
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
        let Target::Contract(contract) = need.target else { return self.meet_otherwise(wiring, need) };
        let question = (contract, need.key.map(|key| key.name));
        if let Some(met) = known.get(&question) {
            return met.or_absent(need);
        }
        let met = self.meet_contract(wiring, question);
        known.insert(question, met);
        met.or_absent(need)
    }

    /// What a need gets that is not on a contract.
    fn meet_otherwise(&self, wiring: &Wiring, need: &Need) -> Met {
        let met = match need.target {
            Target::Service(id) => self.meet_id(wiring, id),
            Target::All(contract) if !self.candidates(wiring, contract).is_empty() => Met::All(contract),
            Target::All(contract) if self.is_contract_supplied(wiring, contract) => Met::Supplied,
            Target::All(_) => Met::Missing,
            Target::Tag(tag) => Met::Carriers(tag),
            Target::Setting(setting) => match self.setting(setting) {
                Some(Value::Given) => Met::Setting,
                _ if self.is_supplied(SuppliedKind::Setting, setting) => Met::Supplied,
                Some(Value::LeftToStages) => Met::Unknown,
                Some(Value::Absent) | None => Met::Missing,
            },
            Target::Contract(_) | Target::Wrapped => Met::Unknown,
        };
        met.or_absent(need)
    }

    fn meet_id(&self, wiring: &Wiring, id: Name) -> Met {
        match self.ids.lead(wiring, id) {
            Lead::Service(service) => Met::Service(service),
            _ if self.is_supplied(SuppliedKind::Service, id) => Met::Supplied,
            Lead::Nowhere => Met::Unknown,
            Lead::Template(_) | Lead::Undefined => Met::Missing,
        }
    }

    fn meet_contract(&mut self, wiring: &Wiring, question: (Name, Option<Name>)) -> Met {
        let (met, ambiguity) = self.answer(wiring, question);
        let Some(ambiguity) = ambiguity else { return met };
        let number = self.ambiguous.len() as u32;
        self.questions.insert(question, number);
        self.ambiguous.push(ambiguity);
        Met::Ambiguous(number)
    }

    /// What a contract, or a key of it, gives; with the candidates where nothing settles between them. The
    /// number in [`Met::Ambiguous`] is then yet to be given.
    pub(super) fn answer(
        &self,
        wiring: &Wiring,
        (contract, key): (Name, Option<Name>),
    ) -> (Met, Option<Ambiguity>) {
        let chosen = self.choices.get(&(contract, key)).map(|&chosen| self.meet_id(wiring, chosen));
        if let Some(met) = chosen.filter(|&met| met != Met::Missing) {
            return (met, None);
        }
        let candidates = self.contracts.candidates(wiring, &self.ids, contract, key);
        let unsettled = |candidates: Vec<ServiceIndex>| {
            let misguided = chosen.is_some();
            (Met::Ambiguous(u32::MAX), Some(Ambiguity { contract, key, candidates, misguided }))
        };
        if chosen.is_some() {
            return unsettled(candidates);
        }
        let met = match candidates.as_slice() {
            [] if self.is_contract_supplied(wiring, contract) => Met::Supplied,
            [] if key.is_some() && !self.candidates(wiring, contract).is_empty() => Met::MissingKey,
            [] => Met::Missing,
            [only] => Met::Service(*only),
            several => match self.the_default(wiring, several) {
                Some(winner) => Met::Service(winner),
                None => return unsettled(candidates),
            },
        };
        (met, None)
    }

    /// Whether the host platform brings a contract, itself or in its open form.
    fn is_contract_supplied(&self, wiring: &Wiring, contract: Name) -> bool {
        let supplied = |name: Name| self.is_supplied(SuppliedKind::Contract, name);
        supplied(contract) || open_form(wiring, contract).is_some_and(supplied)
    }

    /// The only candidate marked as default; a wrapper stands for what it wraps here too.
    fn the_default(&self, wiring: &Wiring, candidates: &[ServiceIndex]) -> Option<ServiceIndex> {
        let is_default = |&candidate: &ServiceIndex| {
            let inner = std::iter::successors(Some(candidate), |&wrapper| self.ids.wrapped(wrapper));
            inner.into_iter().any(|service| wiring.service(service).is_default)
        };
        let mut defaults = candidates.iter().copied().filter(|candidate| is_default(candidate));
        defaults.next().filter(|_| defaults.next().is_none())
    }

    /// Wrappers' needs on what they wrap, which depend on who has the need.
    fn meet_wrapped(&mut self, wiring: &Wiring) {
        for (index, _) in wiring.services().filter(|(_, service)| service.wraps.is_some()) {
            self.meet_wrapped_of(wiring, index);
        }
    }

    pub(super) fn meet_wrapped_of(&mut self, wiring: &Wiring, wrapper: ServiceIndex) {
        let met = self.ids.wrapped(wrapper).map_or(Met::Unknown, Met::Service);
        for need in wiring.service(wrapper).needs.range() {
            if wiring.facts.needs[need].target == Target::Wrapped {
                self.met.set(need, met);
            }
        }
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
        let stages = setting.stages.of(&wiring.facts.stage_values);
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
