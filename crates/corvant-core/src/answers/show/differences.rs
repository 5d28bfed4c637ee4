//! What is another in each stage, worked out for everything at once: each stage is gone through once.

use super::{Leads, Said};
use crate::answers::terms::Gets;
use crate::answers::{Kind, View, known_names};
use crate::name::Name;
use crate::resolve::{Lead, Met};
use crate::source::Place;
use crate::wiring::{NeedIndex, ServiceIndex};
use foldhash::{HashMap, HashSet};

/// By service and by contract what it is in other stages.
pub(super) type Differences = HashMap<(Kind, Name), Vec<Said>>;

/// Goes through all stages, if none is chosen.
pub(super) fn differences(view: &View<'_>) -> Differences {
    let contracts = contracts(view);
    let found = view.by_stage(|staged| {
        let services = services(view, staged);
        let gives = contracts.iter().filter_map(|&contract| {
            let (here, there) = (winner(view, contract), winner(staged, contract));
            let service = there.map(|id| view.owned(id));
            (here != there).then_some((contract, service))
        });
        (services, gives.collect::<Vec<_>>())
    });
    let mut all = Differences::default();
    for (stage, (services, gives)) in found {
        let stage = view.owned(stage);
        for (id, leads, slots) in services {
            let said = Said::Differs { stage: stage.clone(), leads, slots };
            all.entry((Kind::Service, id)).or_default().push(said);
        }
        for (contract, service) in gives {
            let said = Said::Gives { stage: stage.clone(), service };
            all.entry((Kind::Contract, contract)).or_default().push(said);
        }
    }
    all
}

/// Everything that is a contract.
fn contracts(view: &View<'_>) -> HashSet<Name> {
    let known = known_names(view.wiring).filter(|(kind, _)| *kind == Kind::Contract);
    known.map(|(_, name)| name).collect()
}

/// The id that is given for a contract: another definition of it is no other service.
fn winner(view: &View<'_>, contract: Name) -> Option<Name> {
    match view.resolution.ask(view.wiring, contract, None) {
        Met::Service(service) => Some(view.wiring.service(service).id.name),
        _ => None,
    }
}

/// A service: what its id leads to instead, or slots that get something else.
type Differing = (Name, Option<Leads>, Vec<(String, Gets)>);

/// Ids that lead elsewhere in a stage, or to a service whose needs get something else there.
fn services(view: &View<'_>, staged: &View<'_>) -> Vec<Differing> {
    let wiring = view.wiring;
    let lead = |view: &View<'_>, id: Name| match view.resolution.ids.lead(wiring, id) {
        Lead::Service(service) => Some(service),
        _ => None,
    };
    let mut found = Vec::new();
    for (index, service) in wiring.services() {
        let id = service.id.name;
        if wiring.first_definition(id) != Some(index) {
            continue;
        }
        let (here, there) = (lead(view, id), lead(staged, id));
        if here != there {
            found.push((id, Some(leads(view, there)), Vec::new()));
        } else if let Some(same) = here {
            let slots = other_slots(view, staged, same);
            if !slots.is_empty() {
                found.push((id, None, slots));
            }
        }
    }
    found
}

fn leads(view: &View<'_>, to: Option<ServiceIndex>) -> Leads {
    to.map_or(Leads::Nowhere, |service| {
        let own = view.wiring.service(service);
        let at = Place::new(own.source, own.id.span, "defined here");
        Leads::Service { id: view.owned(own.id.name), at }
    })
}

/// The slots of a service that get something else in a stage.
fn other_slots(view: &View<'_>, staged: &View<'_>, service: ServiceIndex) -> Vec<(String, Gets)> {
    let wiring = view.wiring;
    let other = |number: usize| {
        let need = NeedIndex(number as u32);
        let (here, there) = (view.resolution.met(need), staged.resolution.met(need));
        // What is the same and no number of several needs no words.
        let is_plain = !matches!(here, Met::Carriers(_) | Met::All(_) | Met::Ambiguous(_));
        if here == there && is_plain {
            return None;
        }
        let gets = staged.gets(need);
        let slot = wiring.facts.parts.needs[number].slot.name;
        (!is_alike(&view.gets(need), &gets)).then(|| (view.owned(slot), gets))
    };
    wiring.service(service).needs.range().filter_map(other).collect()
}

/// Whether two needs get the same: for another reason it is the same all the same.
pub(super) fn is_alike(one: &Gets, other: &Gets) -> bool {
    one.service == other.service && (one.service.is_some() || one.reason == other.reason)
}
