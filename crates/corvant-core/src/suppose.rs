//! Changes that nobody has made, made to what was read: what would be if they were.

use crate::facts::{Choice, Facts, Header, Many, Named, Need, Roster, Service, SourceKind};
use crate::finding::{Action, Change, Fix, Value};
use crate::name::Name;
use crate::source::{Source, SourceIndex, Span};
use crate::wiring::{Manifest, Wiring};

/// Where what is supposed is written, as findings tell it.
pub const SUPPOSED: &str = "(supposed)";

/// A change that is supposed.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Supposed {
    /// A service, an entry or a provider is not there.
    Remove(Name),
    /// A contract, or a key of it, gets a service.
    Choose {
        /// The contract.
        contract: Name,
        /// The key.
        key: Option<Name>,
        /// The service.
        service: Name,
    },
    /// A service stands in the place of another.
    Replace {
        /// The other.
        replaced: Name,
        /// The one that stands in its place.
        by: Name,
    },
    /// A service lives otherwise.
    Lifetime {
        /// The service.
        service: Name,
        /// How long.
        lifetime: Name,
    },
    /// A need is met on first use.
    Lazy {
        /// Who has it.
        holder: Name,
        /// Its slot.
        slot: Name,
    },
    /// A module is disabled.
    Disable(Name),
    /// A module is enabled.
    Enable(Name),
    /// The roster is this.
    Load(Vec<Name>),
}

/// Makes changes to what was read; gives the number of the first that there is nothing for. `written` is how each was asked
/// for, on a line of its own: findings about them show it.
pub fn apply(manifests: &mut Vec<Manifest>, changes: &[Supposed], written: &[String]) -> Result<(), usize> {
    let mut facts = Facts::default();
    let mut text = String::new();
    for (number, (change, line)) in changes.iter().zip(written).enumerate() {
        let span = Span::new(text.len(), text.len() + line.len());
        text.push_str(line);
        text.push('\n');
        if !make(manifests, &mut facts, change, span) {
            return Err(number);
        }
    }
    let header = Header { kind: SourceKind::WorkspaceFile, ..Header::default() };
    manifests.push(Manifest { source: Source::new(SUPPOSED.to_owned(), text), header, facts });
    Ok(())
}

/// Makes one change; whether there was anything for it.
fn make(manifests: &mut [Manifest], own: &mut Facts, change: &Supposed, span: Span) -> bool {
    let named = |name: Name| Named { name, span };
    let mut count = 0;
    match change {
        Supposed::Remove(name) => {
            for facts in manifests.iter_mut().map(|manifest| &mut manifest.facts) {
                let before = facts.services.len() + facts.entries.len() + facts.providers.len();
                facts.services.retain(|service| service.id.name != *name);
                facts.entries.retain(|entry| entry.id.name != *name);
                facts.providers.retain(|provider| provider.id.name != *name);
                let gone = before - facts.services.len() - facts.entries.len() - facts.providers.len();
                if gone > 0 {
                    facts.drop_what_nobody_has();
                }
                count += gone;
            }
        }
        &Supposed::Choose { contract, key, service } => {
            for manifest in manifests.iter_mut() {
                manifest.facts.choices.retain(|choice| !choice.is_of(contract, key));
            }
            own.choices.retain(|choice| !choice.is_of(contract, key));
            own.choices.push(Choice {
                source: SourceIndex::OWN,
                contract: named(contract),
                key: key.map(named),
                service: named(service),
                holder: None,
                stage: None,
            });
            count += 1;
        }
        &Supposed::Replace { replaced, by } => {
            for service in services(manifests).filter(|service| service.id.name == by) {
                service.replaces = Some(Named { name: replaced, span: service.id.span });
                count += 1;
            }
        }
        &Supposed::Lifetime { service: id, lifetime } => {
            for service in services(manifests).filter(|service| service.id.name == id) {
                service.lifetime = Some(Named { name: lifetime, span: service.id.span });
                count += 1;
            }
        }
        &Supposed::Lazy { holder, slot } => count += make_lazy(manifests, holder, slot),
        &Supposed::Disable(module) => {
            own.disabled.push((SourceIndex::OWN, named(module)));
            count += 1;
        }
        &Supposed::Enable(module) => {
            for manifest in manifests.iter_mut() {
                let before = manifest.facts.disabled.len();
                manifest.facts.disabled.retain(|(_, disabled)| disabled.name != module);
                count += before - manifest.facts.disabled.len();
            }
        }
        Supposed::Load(providers) => {
            for manifest in manifests.iter_mut() {
                manifest.facts.rosters.clear();
            }
            let start = own.parts.named.len();
            own.parts.named.extend(providers.iter().map(|&provider| named(provider)));
            let providers = Many::since(start, &own.parts);
            own.rosters.clear();
            own.rosters.push(Roster { source: SourceIndex::OWN, stage: None, is_whole: true, providers });
            count += 1;
        }
    }
    count > 0
}

impl Choice {
    /// Whether it says which service all get for a contract, or for a key of it.
    fn is_of(&self, contract: Name, key: Option<Name>) -> bool {
        self.contract.name == contract && self.key.map(|key| key.name) == key && self.holder.is_none()
    }
}

fn services(manifests: &mut [Manifest]) -> impl Iterator<Item = &mut Service> {
    manifests.iter_mut().flat_map(|manifest| &mut manifest.facts.services)
}

/// Makes the needs of a slot lazy; gives how many there are.
fn make_lazy(manifests: &mut [Manifest], holder: Name, slot: Name) -> usize {
    let mut count = 0;
    for facts in manifests.iter_mut().map(|manifest| &mut manifest.facts) {
        let services = facts.services.iter().filter(|service| service.id.name == holder);
        let entries = facts.entries.iter().filter(|entry| entry.id.name == holder);
        let providers = facts.providers.iter().filter(|provider| provider.id.name == holder);
        let needs = services.map(|service| service.needs).chain(entries.map(|entry| entry.needs));
        let needs = needs.chain(providers.flat_map(|provider| [provider.register, provider.start]));
        let numbers: Vec<usize> = needs.flat_map(Many::range).collect();
        for number in numbers {
            let need = &mut facts.parts.needs[number];
            if need.slot.name == slot {
                need.lazy = true;
                count += 1;
            }
        }
    }
    count
}

/// How each change would be made in the files, where that is certain; `None`: it is not, since nothing there says the like yet, or
/// several places do.
pub fn fixes(wiring: &Wiring, changes: &[Supposed]) -> Vec<Option<Fix>> {
    changes.iter().map(|change| fix(wiring, change)).collect()
}

fn fix(wiring: &Wiring, change: &Supposed) -> Option<Fix> {
    let facts = &wiring.facts;
    let text = |name: Name| wiring.text(name).to_owned();
    let defined = |name: Name| wiring.definitions(name).map(|index| wiring.service(index));
    let give = |service: &Service, field: &'static str, name: Name| {
        Change::new(service.source, service.id.span, Action::Give(field, Value::Text(text(name))))
    };
    match *change {
        Supposed::Remove(name) => {
            let services = defined(name).map(|service| (service.source, service.id.span));
            let entries = facts.entries.iter().filter(|entry| entry.id.name == name);
            let providers = facts.providers.iter().filter(|provider| provider.id.name == name);
            let places = services
                .chain(entries.map(|entry| (entry.source, entry.id.span)))
                .chain(providers.map(|provider| (provider.source, provider.id.span)));
            let changes = places.map(|(source, span)| Change::take_out(source, span));
            Some(Fix::certain(format!("remove {}", text(name)), changes))
        }
        Supposed::Lifetime { service, lifetime } => {
            let changes = defined(service).map(|service| match service.lifetime {
                Some(own) if !service.takes_over_at(own.span) => {
                    Change::new(service.source, own.span, Action::Set(Value::Text(text(lifetime))))
                }
                _ => give(service, "lifetime", lifetime),
            });
            let title = format!("let {} live for the {}", text(service), text(lifetime));
            Some(Fix::certain(title, changes))
        }
        Supposed::Replace { replaced, by } => {
            let changes = defined(by).map(|service| give(service, "replaces", replaced));
            Some(Fix::certain(format!("let {} replace {}", text(by), text(replaced)), changes))
        }
        Supposed::Lazy { holder, slot } => {
            // What is inherited is written in another definition, which others may inherit too.
            let needs = wiring.definitions(holder).flat_map(|index| wiring.own_needs(index).of(&facts.parts));
            let entries = facts.entries.iter().filter(|entry| entry.id.name == holder);
            let needs = needs.chain(entries.flat_map(|entry| entry.needs.of(&facts.parts)));
            let changes = needs.filter(|need| need.slot.name == slot).map(Need::made_lazy);
            Some(Fix::certain(format!("make {} of {} lazy", text(slot), text(holder)), changes))
        }
        Supposed::Choose { contract, key, service } => {
            let title = format!("choose {} for {}", text(service), text(contract));
            choice(wiring, contract, key).map(|choice| {
                let from = wiring.text(choice.service.name);
                let change = Change::rename(choice.source, choice.service.span, from, wiring.text(service));
                Fix::certain(title, Some(change).filter(|_| choice.service.name != service))
            })
        }
        Supposed::Disable(module) => {
            // Behind the last that is.
            let &(source, last) = facts.disabled.iter().max_by_key(|(source, last)| (*source, last.span))?;
            let change = Change::new(source, last.span, Action::AppendBeside(vec![text(module)]));
            Some(Fix::certain(format!("disable {}", text(module)), [change]))
        }
        Supposed::Enable(module) => {
            let found = facts.disabled.iter().filter(|(_, disabled)| disabled.name == module);
            let changes = found.map(|&(source, disabled)| Change::take_out(source, disabled.span));
            Some(Fix::certain(format!("enable {}", text(module)), changes))
        }
        Supposed::Load(ref providers) => {
            let changes = loaded(wiring, providers)?;
            Some(Fix::certain("load these providers in this order", changes))
        }
    }
}

/// The one choice of a contract, or of a key of it, if it is the same in every stage.
fn choice(wiring: &Wiring, contract: Name, key: Option<Name>) -> Option<&Choice> {
    let mut same = wiring.facts.choices.iter().filter(|choice| choice.is_of(contract, key));
    let only = same.next().filter(|choice| choice.stage.is_none())?;
    same.next().is_none().then_some(only)
}

/// The one roster with other names in the places of its own, and what is more or less at its end.
fn loaded(wiring: &Wiring, providers: &[Name]) -> Option<Vec<Change>> {
    let facts = &wiring.facts;
    let [roster] = facts.rosters.as_slice() else { return None };
    let own = roster.providers.of(&facts.parts);
    let last = own.last().filter(|_| roster.stage.is_none() && roster.is_whole && !providers.is_empty())?;
    let other = own.iter().zip(providers).filter(|(own, provider)| own.name != **provider);
    let renamed = other.map(|(own, &provider)| {
        Change::rename(roster.source, own.span, wiring.text(own.name), wiring.text(provider))
    });
    let kept =
        providers.len().checked_sub(1).and_then(|kept| own.get(kept)).filter(|_| providers.len() < own.len());
    let gone = kept.map(|kept| Change::new(roster.source, kept.span, Action::TakeOutBehind));
    let more: Vec<String> =
        providers.iter().skip(own.len()).map(|&name| wiring.text(name).to_owned()).collect();
    let more = (!more.is_empty()).then(|| Change::new(roster.source, last.span, Action::AppendBeside(more)));
    Some(renamed.chain(gone).chain(more).collect())
}
