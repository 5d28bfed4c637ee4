//! Blind spots: what an audit cannot see, and what follows.

use crate::facts::{SuppliedBy, TroubleKind, Via};
use crate::finding::{BlindSpot, BlindSpotKind};
use crate::name::Name;
use crate::near::nearest;
use crate::source::Place;
use crate::views::counted;
use crate::wiring::{USE, Wiring};
use crate::word::some_of;
use foldhash::HashMap;
use std::collections::BTreeMap;

/// How many names a message lists.
const LISTED: usize = 6;

/// The blind spots of a wiring, in a fixed order of their kinds and then of the files.
pub(super) fn blind_spots(wiring: &Wiring) -> Vec<BlindSpot> {
    let mut spots: Vec<BlindSpot> = unreadable_files(wiring).collect();
    let spot = |kind, subject: &str, message: &str| BlindSpot {
        kind,
        subject: subject.to_owned(),
        message: message.to_owned(),
        places: Vec::new(),
    };
    for &(source, module) in &wiring.facts.disabled {
        let message = "the workspace disables this module: nothing of it was looked at";
        let mut spot = spot(BlindSpotKind::DisabledModule, wiring.text(module.name), message);
        spot.places.push(Place::new(source, module.span, "disabled here"));
        spots.push(spot);
    }
    let is_open = |service: &crate::facts::Service| service.of_standard.installed.is_none();
    if !wiring.facts.names_entries() && wiring.facts.services.iter().any(is_open) {
        let message = "no entry is defined, so used and unused cannot be told apart: the rule did not run";
        spots.push(spot(BlindSpotKind::NoEntries, "unused-service", message));
    }
    if wiring.facts.rosters.is_empty() && !wiring.facts.providers.is_empty() {
        let message = "providers are defined and no roster lists them: which of them are loaded, and in \
                       which order, is not known, so the rules on that did not run";
        spots.push(spot(BlindSpotKind::NoRoster, "roster", message));
    }
    spots.extend(dead_links(wiring));
    spots.extend(factories(wiring));
    spots.extend(unknown_needs(wiring));
    spots.extend(lifetimes(wiring));
    spots.extend(supplied(wiring));
    spots.extend(outside_index(wiring));
    spots.extend(trusted(wiring));
    spots.extend(registered_by_code(wiring));
    spots.extend(maybe_registered(wiring));
    spots.extend(computed_names(wiring));
    spots
}

fn unreadable_files(wiring: &Wiring) -> impl Iterator<Item = BlindSpot> {
    let unreadable = wiring.facts.troubles.iter().filter(|trouble| trouble.kind == TroubleKind::Unreadable);
    unreadable.map(|trouble| BlindSpot {
        kind: BlindSpotKind::UnreadableFile,
        subject: trouble.subject.clone(),
        message: if trouble.unread.opaque {
            "nothing of it could be read: what it defines may be reported as missing, and nothing is \
             reported as unused"
                .to_owned()
        } else {
            "it could not be read: names that stand in it are reported neither as missing nor as unused"
                .to_owned()
        },
        places: vec![Place::new(trouble.source, trouble.at.0, trouble.at.1)],
    })
}

/// Links that lead nowhere, all together.
fn dead_links(wiring: &Wiring) -> Option<BlindSpot> {
    let dead = wiring.facts.troubles.iter().filter(|trouble| trouble.kind == TroubleKind::DeadLink);
    let places: Vec<Place> =
        dead.map(|trouble| Place::new(trouble.source, trouble.at.0, trouble.message.clone())).collect();
    let count = counted(places.len(), "link leads", "links lead")?;
    Some(BlindSpot {
        kind: BlindSpotKind::UnreadableFile,
        subject: "dead links".to_owned(),
        message: format!(
            "{count} nowhere: what is missing there may be reported as missing, and nothing is reported as unused"
        ),
        places,
    })
}

/// Places by name, in the order in which the names come up.
fn by_name(places: impl Iterator<Item = (Name, Place)>) -> Vec<(Name, Vec<Place>)> {
    let mut number: HashMap<Name, usize> = HashMap::default();
    let mut groups: Vec<(Name, Vec<Place>)> = Vec::new();
    for (name, place) in places {
        let number = *number.entry(name).or_insert_with(|| {
            groups.push((name, Vec::new()));
            groups.len() - 1
        });
        groups[number].1.push(place);
    }
    groups
}

/// Factories that build services without a word on what they need for it.
fn factories(wiring: &Wiring) -> impl Iterator<Item = BlindSpot> {
    let silent = wiring.facts.services.iter().filter(|service| !service.needs_given);
    let builders = silent.flat_map(|service| {
        let needs = service.needs.of(&wiring.facts.parts).iter().filter(|need| need.via == Via::Factory);
        needs.filter_map(|need| match need.target {
            crate::facts::Target::Service(id) => Some((
                id,
                Place::new(need.source, need.span, format!("builds {}", wiring.text(service.id.name))),
            )),
            _ => None,
        })
    });
    by_name(builders).into_iter().map(|(factory, places)| BlindSpot {
        kind: BlindSpotKind::UndeclaredFactoryNeeds,
        subject: wiring.text(factory).to_owned(),
        message: format!(
            "it builds {} without a word on what it needs for that: such needs are not checked; say them under \
             `needs`, or `needs: {{}}` if there are none",
            counted(places.len(), "service", "services").unwrap_or_default()
        ),
        places,
    })
}

/// Services whose needs nobody can know, all together.
fn unknown_needs(wiring: &Wiring) -> Option<BlindSpot> {
    let unknown = || wiring.facts.services.iter().filter(|service| service.needs_unknown);
    let names: Vec<&str> = unknown().map(|service| wiring.text(service.id.name)).collect();
    let count = counted(names.len(), "service needs", "services need")?;
    let places = unknown().map(|service| Place::new(service.source, service.id.span, "defined here"));
    Some(BlindSpot {
        kind: BlindSpotKind::UnknownNeeds,
        subject: "needs".to_owned(),
        message: format!(
            "what {count} cannot be known: nothing is reported as unused that {} may need ({})",
            if names.len() == 1 { "it" } else { "they" },
            some_of(&names, LISTED)
        ),
        places: places.collect(),
    })
}

/// Lifetimes without a place in the order.
fn lifetimes(wiring: &Wiring) -> impl Iterator<Item = BlindSpot> {
    let order: Vec<&str> = wiring.policy.lifetimes.order.iter().map(String::as_str).collect();
    let is_known = |text: &str| text == USE || order.contains(&text);
    let services = wiring.facts.services.iter().map(|service| (service.source, service.lifetime));
    let entries = wiring.facts.entries.iter().map(|entry| (entry.source, entry.lifetime));
    let named = services.chain(entries).filter_map(|(source, lifetime)| Some((source, lifetime?)));
    let unknown = named
        .filter(|(_, lifetime)| !is_known(wiring.text(lifetime.name)))
        .map(|(source, lifetime)| (lifetime.name, Place::new(source, lifetime.span, "named here")));
    let unknown = by_name(unknown);
    let wanted: Vec<&str> = unknown.iter().map(|(lifetime, _)| wiring.text(*lifetime)).collect();
    let meant = nearest(&wanted, &order).into_iter().map(|meant| meant.map(|at| order[at].to_owned()));
    let known = order.join(", ");
    unknown.into_iter().zip(meant.collect::<Vec<_>>()).map(move |((lifetime, places), meant)| {
        let meant = meant.map_or_else(
            || "give the order under `[lifetimes]` in corvant.toml".to_owned(),
            |meant| format!("perhaps {meant} is meant"),
        );
        BlindSpot {
            kind: BlindSpotKind::UnorderedLifetime,
            subject: wiring.text(lifetime).to_owned(),
            message: format!(
                "this lifetime has no place in the order ({known}): who holds whom too long is not checked for \
                 it; {meant}"
            ),
            places,
        }
    })
}

/// Names that the host platform is said to bring.
fn supplied(wiring: &Wiring) -> Option<BlindSpot> {
    let supplied = || wiring.facts.supplied.iter().filter(|supplied| supplied.by == SuppliedBy::Platform);
    let mut names: Vec<&str> = supplied().map(|supplied| wiring.text(supplied.name.name)).collect();
    names.sort_unstable();
    names.dedup();
    let count = counted(names.len(), "name is", "names are")?;
    let listed = some_of(&names, LISTED);
    let places =
        supplied().map(|supplied| Place::new(supplied.source, supplied.name.span, "supplied, it says here"));
    Some(BlindSpot {
        kind: BlindSpotKind::Supplied,
        subject: "supplied".to_owned(),
        message: format!("{count} assumed to be supplied by the host platform: {listed}"),
        places: places.collect(),
    })
}

/// Types that constructors need, that nobody offers and no code that was read declares.
fn outside_index(wiring: &Wiring) -> Option<BlindSpot> {
    let outside = || wiring.facts.supplied.iter().filter(|supplied| supplied.by == SuppliedBy::OutsideIndex);
    let mut names: Vec<&str> = outside().map(|supplied| wiring.text(supplied.name.name)).collect();
    names.sort_unstable();
    let count = counted(names.len(), "type", "types")?;
    let listed = some_of(&names, LISTED);
    let places = outside()
        .map(|supplied| Place::new(supplied.source, supplied.name.span, "needed by this constructor"));
    Some(BlindSpot {
        kind: BlindSpotKind::TypesOutside,
        subject: "types".to_owned(),
        message: format!(
            "constructors need {count} that nothing offers and no code that was read declares, so the platform may \
             bring them: {listed}; say which it does under `supplied`"
        ),
        places: places.collect(),
    })
}

/// Files of the host, by the reader that trusts them.
fn trusted(wiring: &Wiring) -> impl Iterator<Item = BlindSpot> {
    let trusted = wiring.headers.iter().filter(|header| header.trusted).filter_map(|header| header.reader);
    let mut readers: BTreeMap<&str, usize> = BTreeMap::new();
    for reader in trusted {
        *readers.entry(wiring.text(reader)).or_default() += 1;
    }
    readers.into_iter().map(|(reader, files)| BlindSpot {
        kind: BlindSpotKind::Trusted,
        subject: reader.to_owned(),
        message: format!(
            "{} of the host: what is defined there counts, and nothing in it is judged",
            counted(files, "file is", "files are").unwrap_or_default()
        ),
        places: Vec::new(),
    })
}

/// Contracts that nothing offers and that code may register.
fn registered_by_code(wiring: &Wiring) -> impl Iterator<Item = BlindSpot> {
    let supplied = wiring.facts.supplied.iter();
    let by_code = supplied.filter_map(|supplied| {
        let role = match supplied.by {
            SuppliedBy::Platform | SuppliedBy::Pattern | SuppliedBy::OutsideIndex => return None,
            SuppliedBy::UnseenCode => "this code sees the contract".to_owned(),
            SuppliedBy::RegisteringClass(class) => {
                format!("{} registers services and names the contract", wiring.text(class))
            }
        };
        Some((supplied.name.name, Place::new(supplied.source, supplied.name.span, role)))
    });
    by_name(by_code).into_iter().map(|(contract, places)| BlindSpot {
        kind: BlindSpotKind::RegisteredByCode,
        subject: wiring.text(contract).to_owned(),
        message: format!(
            "no definition offers it, and {} may register it while it runs: needs on it are taken as met",
            counted(places.len(), "bundle's code", "classes or bundles").unwrap_or_default()
        ),
        places,
    })
}

/// What is registered under conditions that nobody can say.
fn maybe_registered(wiring: &Wiring) -> Option<BlindSpot> {
    let maybe = || wiring.facts.services.iter().filter(|service| service.maybe);
    let names: Vec<&str> = maybe().map(|service| wiring.text(service.id.name)).collect();
    let count = counted(names.len(), "registration stands", "registrations stand")?;
    let places =
        maybe().map(|service| Place::new(service.source, service.id.span, "registered here, perhaps"));
    Some(BlindSpot {
        kind: BlindSpotKind::MaybeRegistered,
        subject: "conditions".to_owned(),
        message: format!(
            "{count} under a condition that no line of the reader's `when` knows: what needs {} is taken as met ({})",
            if names.len() == 1 { "it" } else { "them" },
            some_of(&names, LISTED)
        ),
        places: places.collect(),
    })
}

/// What code registers or looks up under names that are known only once it runs, by reader.
fn computed_names(wiring: &Wiring) -> impl Iterator<Item = BlindSpot> {
    let places = wiring.facts.computed.iter().map(|computed| {
        (computed.reader, Place::new(computed.source, computed.at, "known only when it runs"))
    });
    by_name(places).into_iter().map(|(reader, places)| BlindSpot {
        kind: BlindSpotKind::ComputedNames,
        subject: wiring.text(reader).to_owned(),
        message: format!(
            "{} under a name that is known only when the code runs: names that stand beside it are reported neither as \
             missing nor as unused",
            counted(places.len(), "place registers or looks up something", "places register or look up something")
                .unwrap_or_default()
        ),
        places,
    })
}
