//! What each need gets.

use super::ids::Lead;
use super::{Ambiguity, Met, Resolution, Value};
use crate::facts::{Need, SuppliedKind, Target};
use crate::name::Name;
use crate::wiring::{ServiceIndex, Wiring};
use foldhash::{HashMap, HashMapExt};

/// Answers that were found before: a contract that many need is looked up once.
#[derive(Default)]
struct Known {
    contracts: HashMap<(Name, Option<Name>), Met>,
    choices: HashMap<(Name, Option<Name>), Name>,
}

impl Resolution {
    /// Fills in what every need gets.
    pub(super) fn meet_all(&mut self, wiring: &Wiring) {
        let mut known = Known::default();
        for choice in &wiring.facts.choices {
            let key = choice.key.map(|key| key.name);
            known.choices.entry((choice.contract.name, key)).or_insert(choice.service.name);
        }
        self.met = wiring.facts.needs.iter().map(|need| self.meet(wiring, need, &mut known)).collect();
        self.meet_wrapped(wiring);
        self.winners = known
            .contracts
            .iter()
            .filter_map(|(&(contract, key), &met)| match met {
                Met::Service(service) if key.is_none() => Some((contract, service)),
                _ => None,
            })
            .collect();
    }

    fn meet(&mut self, wiring: &Wiring, need: &Need, known: &mut Known) -> Met {
        let met = match need.target {
            Target::Service(id) => self.meet_id(wiring, id),
            Target::Contract(contract) => {
                let question = (contract, need.key.map(|key| key.name));
                if let Some(&met) = known.contracts.get(&question) {
                    met
                } else {
                    let met = self.meet_contract(wiring, question, &known.choices);
                    known.contracts.insert(question, met);
                    met
                }
            }
            Target::Tag(tag) => Met::Carriers(tag),
            Target::Setting(setting) => match self.setting(setting) {
                Some(Value::Given) => Met::Setting,
                _ if self.is_supplied(SuppliedKind::Setting, setting) => Met::Supplied,
                Some(Value::LeftToStages) => Met::Unknown,
                Some(Value::Absent) | None => Met::Missing,
            },
            Target::Wrapped => Met::Unknown,
        };
        if need.optional && matches!(met, Met::Missing | Met::MissingKey) { Met::Absent } else { met }
    }

    fn meet_id(&self, wiring: &Wiring, id: Name) -> Met {
        match self.ids.lead(wiring, id) {
            Lead::Service(service) => Met::Service(service),
            _ if self.is_supplied(SuppliedKind::Service, id) => Met::Supplied,
            Lead::Nowhere => Met::Unknown,
            Lead::Template(_) | Lead::Undefined => Met::Missing,
        }
    }

    fn meet_contract(
        &mut self,
        wiring: &Wiring,
        (contract, key): (Name, Option<Name>),
        choices: &HashMap<(Name, Option<Name>), Name>,
    ) -> Met {
        let chosen = choices.get(&(contract, key)).map(|&chosen| self.meet_id(wiring, chosen));
        if let Some(met) = chosen.filter(|&met| met != Met::Missing) {
            return met;
        }
        let candidates = self.contracts.candidates(wiring, &self.ids, contract, key);
        if chosen.is_some() {
            return self.unsettled(Ambiguity { contract, key, candidates, misguided: true });
        }
        match candidates.as_slice() {
            [] if self.is_supplied(SuppliedKind::Contract, contract) => Met::Supplied,
            [] if key.is_some() && !self.candidates(wiring, contract).is_empty() => Met::MissingKey,
            [] => Met::Missing,
            [only] => Met::Service(*only),
            several => match self.the_default(wiring, several) {
                Some(winner) => Met::Service(winner),
                None => self.unsettled(Ambiguity { contract, key, candidates, misguided: false }),
            },
        }
    }

    fn unsettled(&mut self, ambiguity: Ambiguity) -> Met {
        let number = self.ambiguous.len() as u32;
        self.questions.insert((ambiguity.contract, ambiguity.key), number);
        self.ambiguous.push(ambiguity);
        Met::Ambiguous(number)
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
        for (index, service) in wiring.services().filter(|(_, service)| service.wraps.is_some()) {
            let met = self.ids.wrapped(index).map_or(Met::Unknown, Met::Service);
            for need in service.needs.range() {
                if wiring.facts.needs[need].target == Target::Wrapped {
                    self.met[need] = met;
                }
            }
        }
    }
}

/// Whether each declared setting has a value in a stage; a value anywhere counts.
pub(super) fn settings(wiring: &Wiring, stage: Option<Name>) -> HashMap<Name, Value> {
    let mut settings = HashMap::with_capacity(wiring.facts.settings.len());
    for setting in &wiring.facts.settings {
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
    settings
}
