//! What the references of all components get, once all bundles are read.

use super::description::ComponentReference;
use super::filter::{Answer, Filter, passes};
use super::registering::{RegisteringClass, registering};
use super::{Bundle, Extra};
use crate::standards::Files;
use corvant_core::facts::{Choice, Many, Named, Supplied, SuppliedBy, SuppliedKind, Target};
use corvant_core::name::{Interner, Name};
use corvant_core::source::{SourceIndex, Span};
use corvant_core::wiring::Manifest;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;

/// Packages of services that every framework brings (OSGi Core).
const OF_THE_FRAMEWORK: [&str; 8] = [
    "org.osgi.framework.",
    "org.osgi.service.log.",
    "org.osgi.service.condition.",
    "org.osgi.service.packageadmin.",
    "org.osgi.service.startlevel.",
    "org.osgi.service.permissionadmin.",
    "org.osgi.service.condpermadmin.",
    "org.osgi.service.url.",
];

/// A service that may meet references.
struct Candidate<'a> {
    manifest: usize,
    service: usize,
    id: Named,
    ranking: i64,
    ranked_at: Option<Span>,
    name: Option<&'a str>,
    interfaces: &'a [String],
    properties: &'a [(String, Vec<String>)],
    is_configurable: bool,
}

/// What is to be changed in the manifests, worked out before any is touched.
#[derive(Default)]
struct Changes {
    /// By manifest and service: further contracts that it offers.
    offers: HashMap<(usize, usize), Vec<Name>>,
    /// By manifest and need: its target.
    targets: Vec<(usize, usize, Target)>,
    choices: Vec<(usize, Choice)>,
    supplied: Vec<(usize, Supplied)>,
    /// Interfaces that nothing is known to offer.
    unmet: Vec<(Name, String)>,
}

/// Writes down, as facts, what target filters let through, which of several services wins by its ranking, and which
/// unmet interfaces may be registered by code that was not looked into.
///
/// `files` opens a bundle's archive once more, where something is needed that nothing offers.
pub(crate) fn settle(
    manifests: &mut [Manifest],
    extras: &[(usize, Extra)],
    interner: &Interner,
    files: &dyn Files,
) {
    let candidates = candidates(manifests, extras);
    let mut by_interface: HashMap<&str, Vec<usize>> = HashMap::default();
    for (number, candidate) in candidates.iter().enumerate() {
        for interface in candidate.interfaces {
            by_interface.entry(interface).or_default().push(number);
        }
    }
    let settling =
        Settling { candidates: &candidates, by_interface, interner, known: known(manifests), extras };
    let mut changes = Changes::default();
    let mut settled = HashSet::default();
    for (manifest, extra) in extras {
        let Extra::Components(components) = extra else { continue };
        for reference in components.iter().flat_map(|component| &component.references) {
            settling.reference(*manifest, reference, &mut changes, &mut settled);
        }
    }
    settling.registered_by_code(manifests, files, &mut changes);
    apply(manifests, changes);
}

/// What anything offers, or is known to be brought, and contracts for which somebody chooses.
struct KnownOffers {
    offered: HashMap<Name, usize>,
    supplied: HashSet<Name>,
    chosen: HashSet<Name>,
}

fn known(manifests: &[Manifest]) -> KnownOffers {
    let mut known =
        KnownOffers { offered: HashMap::default(), supplied: HashSet::default(), chosen: HashSet::default() };
    for facts in manifests.iter().map(|manifest| &manifest.facts) {
        for offer in facts.services.iter().flat_map(|service| service.offers.of(&facts.parts)) {
            *known.offered.entry(offer.name).or_default() += 1;
        }
        known.supplied.extend(facts.supplied.iter().map(|supplied| supplied.name.name));
        known.chosen.extend(facts.choices.iter().map(|choice| choice.contract.name));
    }
    known
}

fn candidates<'a>(manifests: &[Manifest], extras: &'a [(usize, Extra)]) -> Vec<Candidate<'a>> {
    let mut candidates = Vec::new();
    for (manifest, extra) in extras {
        let manifest = *manifest;
        let id = |service: usize| manifests[manifest].facts.services[service].id;
        match extra {
            Extra::Components(components) => {
                candidates.extend(components.iter().map(|component| Candidate {
                    manifest,
                    service: component.service,
                    id: id(component.service),
                    ranking: component.ranking.map_or(0, |(ranking, _)| ranking),
                    ranked_at: component.ranking.map(|(_, span)| span),
                    name: Some(&component.name),
                    interfaces: &component.interfaces,
                    properties: &component.properties,
                    is_configurable: component.is_configurable,
                }));
            }
            Extra::Bundle(bundle) => {
                candidates.extend(bundle.registered.iter().map(|registered| Candidate {
                    manifest,
                    service: registered.service,
                    id: id(registered.service),
                    ranking: 0,
                    ranked_at: None,
                    name: None,
                    interfaces: &registered.interfaces,
                    properties: &registered.properties,
                    is_configurable: true,
                }));
            }
        }
    }
    candidates
}

impl Candidate<'_> {
    /// Whether a filter lets the service through. A configuration may change what a property says, but not the
    /// name of the component.
    fn answer(&self, filter: &Filter) -> Answer {
        filter.answer(&|attribute, operator, value| {
            let attribute = attribute.to_lowercase();
            let own = |text: &str| if passes(text, operator, value) { Answer::Yes } else { Answer::No };
            match attribute.as_str() {
                "component.name" => return self.name.map_or(Answer::No, own),
                "objectclass" => {
                    return self
                        .interfaces
                        .iter()
                        .map(|interface| own(interface))
                        .max()
                        .unwrap_or(Answer::No);
                }
                "component.id" | "service.id" | "service.bundleid" | "service.pid" => return Answer::Unknown,
                _ => {}
            }
            let values = self.properties.iter().find(|(name, _)| *name == attribute);
            let passes =
                values.is_some_and(|(_, values)| values.iter().any(|known| own(known) == Answer::Yes));
            match (passes, self.is_configurable) {
                (true, _) => Answer::Yes,
                (false, true) => Answer::Unknown,
                (false, false) => Answer::No,
            }
        })
    }
}

struct Settling<'a> {
    candidates: &'a [Candidate<'a>],
    by_interface: HashMap<&'a str, Vec<usize>>,
    interner: &'a Interner,
    known: KnownOffers,
    extras: &'a [(usize, Extra)],
}

impl Settling<'_> {
    fn reference(
        &self,
        manifest: usize,
        reference: &ComponentReference,
        changes: &mut Changes,
        settled: &mut HashSet<Name>,
    ) {
        let interface = self.interner.intern(&reference.interface);
        let all = self.by_interface.get(reference.interface.as_str()).map_or(&[][..], Vec::as_slice);
        let mut passing: Vec<usize> = all.to_vec();
        let mut contract = interface;
        if let Some((filter, text)) = reference.filter.as_ref().filter(|_| !all.is_empty()) {
            contract = self.interner.intern(&format!("{} {text}", reference.interface));
            let answers = all.iter().map(|&number| (number, self.candidates[number].answer(filter)));
            let answers: Vec<_> = answers.collect();
            passing = answers
                .iter()
                .filter(|(_, answer)| *answer == Answer::Yes)
                .map(|(number, _)| *number)
                .collect();
            let target = if reference.takes_one { Target::Contract(contract) } else { Target::All(contract) };
            changes.targets.push((manifest, reference.need, target));
            if settled.insert(contract) {
                for &number in &passing {
                    let candidate = &self.candidates[number];
                    changes.offers.entry((candidate.manifest, candidate.service)).or_default().push(contract);
                }
                let undecided = answers.iter().find(|(_, answer)| *answer == Answer::Unknown);
                if let Some((number, _)) = undecided.filter(|_| passing.is_empty() && !reference.is_optional)
                {
                    let candidate = &self.candidates[*number];
                    changes.supplied.push((
                        candidate.manifest,
                        brought(contract, candidate.id.span, SuppliedBy::UnseenCode),
                    ));
                }
            }
        } else if all.is_empty() {
            if !reference.is_optional
                && settled.insert(contract)
                && !self.known.offered.contains_key(&contract)
            {
                self.unmet(manifest, reference, contract, changes);
            }
            return;
        }
        if reference.takes_one {
            self.choose(contract, &passing, contract == interface, changes, settled);
        }
    }

    /// Notes the service that wins by its ranking, where that settles what nothing else does.
    fn choose(
        &self,
        contract: Name,
        passing: &[usize],
        is_whole: bool,
        changes: &mut Changes,
        settled: &mut HashSet<Name>,
    ) {
        let is_first = if is_whole {
            settled.insert(contract)
        } else {
            changes.choices.iter().all(|(_, choice)| choice.contract.name != contract)
        };
        let others = self.known.offered.get(&contract).copied().unwrap_or(0).max(passing.len());
        if !is_first || others < 2 || self.known.chosen.contains(&contract) {
            return;
        }
        let best = passing.iter().map(|&number| self.candidates[number].ranking).max();
        let mut winners = passing.iter().filter(|&&number| Some(self.candidates[number].ranking) == best);
        if let (Some(&winner), None) = (winners.next(), winners.next()) {
            let winner = &self.candidates[winner];
            let span = winner.ranked_at.unwrap_or(winner.id.span);
            let contract = Named { name: contract, span };
            let (key, stage) = (None, None);
            let choice = Choice {
                holder: None,
                source: SourceIndex::OWN,
                contract,
                key,
                service: Named { span, ..winner.id },
                stage,
            };
            changes.choices.push((winner.manifest, choice));
        }
    }

    /// An interface that nothing offers: the framework may bring it, or code that sees it.
    fn unmet(&self, manifest: usize, reference: &ComponentReference, contract: Name, changes: &mut Changes) {
        if self.known.supplied.contains(&contract) {
            return;
        }
        if OF_THE_FRAMEWORK.iter().any(|package| reference.interface.starts_with(package)) {
            changes.supplied.push((manifest, brought(contract, Span::at(0), SuppliedBy::Platform)));
            return;
        }
        changes.unmet.push((contract, reference.interface.clone()));
    }

    /// Notes who may register what nothing is known to offer: code that sees the interface and, where the classes of
    /// the bundle can be looked into, names it beside the call that registers.
    fn registered_by_code(&self, manifests: &[Manifest], files: &dyn Files, changes: &mut Changes) {
        let unmet = std::mem::take(&mut changes.unmet);
        if unmet.is_empty() {
            return;
        }
        let sees = |packages: &Option<HashSet<String>>, interface: &str| {
            let package = interface.rsplit_once('.').map_or("", |(package, _)| package);
            packages.as_ref().is_none_or(|packages| packages.contains(package))
        };
        let found = self.extras.par_iter().map(|(bundle, extra)| {
            let Extra::Bundle(Bundle { activator: Some(activator), packages, .. }) = extra else {
                return Vec::new();
            };
            let seen: Vec<_> = unmet.iter().filter(|(_, interface)| sees(packages, interface)).collect();
            if seen.is_empty() {
                return Vec::new();
            }
            let jar = manifests[*bundle].source.path.split_once("!/").and_then(|(jar, _)| files.on_disk(jar));
            let classes = jar.and_then(|jar| registering(&jar));
            let found = seen_by(classes.as_deref(), &seen, self.interner);
            found.into_iter().map(|(contract, by)| (*bundle, brought(contract, *activator, by))).collect()
        });
        let found: Vec<Vec<(usize, Supplied)>> = found.collect();
        changes.supplied.extend(found.into_iter().flatten());
    }
}

/// Which of the interfaces that a bundle sees its code may register, and which class of it that is.
fn seen_by(
    classes: Option<&[RegisteringClass]>,
    seen: &[&(Name, String)],
    interner: &Interner,
) -> Vec<(Name, SuppliedBy)> {
    let Some(classes) = classes else {
        return seen.iter().map(|(contract, _)| (*contract, SuppliedBy::UnseenCode)).collect();
    };
    let by = |class: &RegisteringClass| SuppliedBy::RegisteringClass(interner.intern(&class.name));
    let of = |(contract, interface): &&(Name, String)| {
        let naming = classes.iter().filter(|class| class.named.contains(interface));
        naming.map(|class| (*contract, by(class))).collect::<Vec<_>>()
    };
    seen.iter().flat_map(of).collect()
}

fn brought(contract: Name, span: Span, by: SuppliedBy) -> Supplied {
    let name = Named { name: contract, span };
    Supplied { source: SourceIndex::OWN, kind: SuppliedKind::Contract, name, by }
}

fn apply(manifests: &mut [Manifest], changes: Changes) {
    for (manifest, need, target) in changes.targets {
        manifests[manifest].facts.parts.needs[need].target = target;
    }
    let mut offers: Vec<_> = changes.offers.into_iter().collect();
    offers.sort_unstable_by_key(|(at, _)| *at);
    for ((manifest, service), further) in offers {
        let facts = &mut manifests[manifest].facts;
        let id = facts.services[service].id;
        let start = facts.parts.named.len();
        let old: Vec<Named> = facts.services[service].offers.of(&facts.parts).to_vec();
        facts.parts.named.extend(old);
        facts.parts.named.extend(further.into_iter().map(|name| Named { name, ..id }));
        facts.services[service].offers = Many::since(start, &facts.parts);
    }
    for (manifest, choice) in changes.choices {
        manifests[manifest].facts.choices.push(choice);
        manifests[manifest].header.worked_out += 1;
    }
    for (manifest, supplied) in changes.supplied {
        manifests[manifest].facts.supplied.push(supplied);
        manifests[manifest].header.worked_out += 1;
    }
}
